"""The batch job: tide-log."""

import sys

from tide_log.log import TideLog
from tide_log.readings import read_readings
from tide_log.settings import TIDE_LOG_READINGS


def main(argv=None):
    """Print the tide log of the readings named on the command line."""
    arguments = sys.argv[1:] if argv is None else argv
    path = arguments[0] if arguments else TIDE_LOG_READINGS
    print("Tide Log")
    for line in TideLog(read_readings(path)).lines():
        print(line)
    return 0


if __name__ == "__main__":
    sys.exit(main())
