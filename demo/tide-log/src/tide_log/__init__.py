"""Reads the tide gauges and writes the daily log."""

__all__ = ["TideLog", "Reading"]

from tide_log.readings import Reading
from tide_log.log import TideLog
