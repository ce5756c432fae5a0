"""Settings of the tide log, from the environment."""

import os

TIDE_LOG_INTERVAL = int(os.environ.get("TIDE_LOG_INTERVAL", "15"))
TIDE_LOG_READINGS = os.environ.get("TIDE_LOG_READINGS", "data/readings.csv")
