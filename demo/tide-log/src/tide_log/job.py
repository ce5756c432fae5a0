"""The batch job: tide-log."""

import sys

# ironcast: only when alarm
from tide_log.alarm import too_high
# ironcast: end
from tide_log.log import TideLog
from tide_log.readings import read_readings
from tide_log.settings import TIDE_LOG_READINGS


def main(argv=None):
    """Print the tide log of the readings named on the command line."""
    arguments = sys.argv[1:] if argv is None else argv
    path = arguments[0] if arguments else TIDE_LOG_READINGS
    print("Tide Log")
    readings = read_readings(path)
    for line in TideLog(readings).lines():
        print(line)
    # ironcast: only when alarm
    for gauge in too_high(readings):
        print(f"ALARM: {gauge}")
    # ironcast: otherwise
    #| print("No alarm is set.")
    # ironcast: end
    return 0


if __name__ == "__main__":
    sys.exit(main())
