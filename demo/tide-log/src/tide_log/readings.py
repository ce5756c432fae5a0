"""Readings of a tide gauge, from a CSV file."""

import csv
from dataclasses import dataclass
from datetime import datetime

from tide_log_units import to_metres


@dataclass(frozen=True)
class Reading:
    """One reading: when, at which gauge, and the height in metres."""

    taken: datetime
    gauge: str
    height: float


def read_readings(path):
    """Return the readings in a file with the columns taken, gauge, height, unit."""
    with open(path, newline="", encoding="utf-8-sig") as file:
        return [
            Reading(
                datetime.fromisoformat(row["taken"]),
                row["gauge"],
                to_metres(float(row["height"]), row["unit"]),
            )
            for row in csv.DictReader(file)
        ]
