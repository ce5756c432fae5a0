import contextlib
import io
import unittest

from tests import TOP

from tide_log import TideLog
from tide_log.job import main
from tide_log.readings import read_readings


class TideLogTest(unittest.TestCase):
    def setUp(self):
        self.readings = read_readings(TOP / "data" / "readings.csv")

    def test_units_become_metres(self):
        self.assertAlmostEqual(self.readings[1].height, 1.8, places=2)

    def test_a_line_for_each_gauge(self):
        lines = list(TideLog(self.readings).lines())
        self.assertEqual(lines[0], "Gull Island: low 0.90 m, high 1.80 m")
        self.assertEqual(len(lines), 2)

    def test_the_job_prints_its_title(self):
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            self.assertEqual(main([str(TOP / "data" / "readings.csv")]), 0)
        self.assertTrue(out.getvalue().startswith("Tide Log\n"))


if __name__ == "__main__":
    unittest.main()
