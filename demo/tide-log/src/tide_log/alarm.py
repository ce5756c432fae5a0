"""Rings the harbour office when a gauge reads too high."""

LIMIT = 4.75


def too_high(readings):
    """Return the gauges that read above the limit, sorted."""
    return sorted({reading.gauge for reading in readings if reading.height > LIMIT})
