"""Whole numbers that come as text: what is one, and what only looks like one."""

from __future__ import annotations

import unittest

from jolly_clerk.core.numbers import MOST_WHOLE, whole_number


class WholeNumbers(unittest.TestCase):
    def test_what_is_one(self) -> None:
        for given, number in (("17", 17), ("0", 0), ("007", 7), (5, 5), (str(MOST_WHOLE), MOST_WHOLE), (MOST_WHOLE, MOST_WHOLE)):
            self.assertEqual(whole_number(given), number)

    def test_what_is_none(self) -> None:
        for given in ("", " 1", "+1", "-1", "1.0", "²", "٣", "9" * 5000, str(MOST_WHOLE + 1), 2**70, -1, 1.0, True, None, ["1"]):
            with self.subTest(str(given)[:20]):
                self.assertIsNone(whole_number(given))
