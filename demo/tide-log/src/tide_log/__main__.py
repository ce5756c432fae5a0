import sys

from tide_log.job import main

sys.exit(main())
