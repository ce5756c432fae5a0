"""The tide log of one day."""

from collections import defaultdict


class TideLog:
    """Keeps the lowest and the highest reading of every gauge."""

    def __init__(self, readings):
        self._by_gauge = defaultdict(list)
        for reading in readings:
            self._by_gauge[reading.gauge].append(reading)

    def lines(self):
        """Yield one line a gauge: its name, lowest and highest reading."""
        for gauge in sorted(self._by_gauge):
            heights = sorted(reading.height for reading in self._by_gauge[gauge])
            yield f"{gauge}: low {heights[0]:.2f} m, high {heights[-1]:.2f} m"
