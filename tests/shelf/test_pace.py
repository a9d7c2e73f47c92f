"""How fast the machine is: told from what was taken while something was measured, and no machine makes a figure worse than it is."""

from __future__ import annotations

import time
import unittest

from bench.pace import EVERY, FEWEST, Pace, at_pace, middle, slower

#: one sample a second: quiet at first, then three times as long, then quiet again
TAKEN = [(float(at), 3.0 if 20 <= at < 40 else 1.0) for at in range(60)]


class ThePace(unittest.TestCase):
    def test_it_is_that_of_the_time_between(self) -> None:
        for began, ended, times in ((0, 20, 1.0), (20, 40, 3.0), (0, 60, 1.0), (15, 40, 3.0), (42, 59, 1.0)):
            self.assertEqual(middle(TAKEN, began, ended), times, (began, ended))

    def test_a_moment_goes_by_the_samples_around_it(self) -> None:
        self.assertEqual(middle(TAKEN, 30.2, 30.3), 3.0)
        self.assertEqual(middle(TAKEN, 10.2, 10.3), 1.0)
        self.assertEqual(middle(TAKEN, 100.0, 101.0), 1.0, "after the last sample")
        self.assertEqual(middle(TAKEN, -5.0, -4.0), 1.0, "before the first one")

    def test_one_that_is_disturbed_once_counts_as_quiet(self) -> None:
        self.assertEqual(middle([(at, 90.0 if at == 30 else 1.2) for at in range(60)], 25, 35), 1.2)

    def test_a_fast_machine_makes_no_figure_worse(self) -> None:
        self.assertEqual(middle([(at, 0.7) for at in range(20)], 0, 20), 1.0)

    def test_it_is_taken_while_something_goes_on(self) -> None:
        with Pace() as pace:
            began = time.monotonic()
            done, times = pace.over(lambda: time.sleep(FEWEST * EVERY) or "done")
            (short,) = pace.quietened([(began + 1.0, 0.5)])
        self.assertEqual(done, "done")
        self.assertGreaterEqual(times, 1.0)
        self.assertLessEqual(short, 0.5)
        self.assertGreater(short, 0)
        self.assertGreater(slower(), 0)

    def test_a_rate_is_told_here_and_as_on_a_quiet_machine(self) -> None:
        self.assertEqual(at_pace(200.0, 2.5), "200 at 2.5, so 500")
