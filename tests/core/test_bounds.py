"""What answers may hold: depth, rows, characters; and that looking at them costs in proportion to what they hold."""

from __future__ import annotations

import json
import time
import unittest
from typing import Any

from jolly_clerk.core.dossier.bounds import MOST_ROWS, MOST_VALUES, beyond
from jolly_clerk.core.form import read_answers
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import BW, answers, at

GROUP = read_rulebook_file(sorted((SHIPPED / "QV").glob("*.yaml"))[-1]).rulebook
PEOPLE = next(part for part in GROUP.parts.values() if part.each)


def nested(depth: int) -> Any:
    value: Any = "x"
    for _ in range(depth):
        value = [value]
    return value


class Bounds(unittest.TestCase):
    def test_what_is_kept(self) -> None:
        for good in (
            answers(),
            {"works": {"area": "minus five", "unknown": {"a": [1, 2.5, None, True, {"b": "c"}]}}},
            {"works": {"what": "Emoji 🏗️, ß, \u202e and a combining e\u0301"}},
            {PEOPLE.id: [{"id": str(n)} for n in range(2 * PEOPLE.at_most)]},
            {"table": {"rows": [{"a": "1"}] * MOST_ROWS}},
        ):
            self.assertIsNone(beyond(good, GROUP), good)

    def test_what_is_not_and_where(self) -> None:
        for bad, place in (
            ({"works": {"extra": "\ud800"}}, "works.extra"),
            ({"works": {"extra": "a\x00b"}}, "works.extra"),
            ({"works": {"\udfff": "x"}}, "works"),
            ({"works": {"x" * 81: "x"}}, "works"),
            ({"works": {"area": float("nan")}}, "works.area"),
            ({"works": {"area": json.loads("-Infinity")}}, "works.area"),
            ({PEOPLE.id: [{}] * (2 * PEOPLE.at_most + 1)}, PEOPLE.id),
            ({"other": [{}] * (MOST_ROWS + 1)}, "other"),
            ({"works": {"area": [[["\ud83d"]]]}}, "works.area.1.1.1"),
        ):
            with self.subTest(place=place):
                found = beyond(bad, GROUP)
                assert found is not None
                self.assertEqual(found.place, place)
                self.assertTrue(found.why.endswith("."))

    def test_however_deep_and_however_many(self) -> None:
        for bad in (nested(900), nested(20), {"a": nested(5_000)}, {"a": {str(n): n for n in range(MOST_VALUES + 1)}}):
            began = time.process_time()
            self.assertIsNotNone(beyond({"works": {"area": bad}}, BW))
            self.assertLess(time.process_time() - began, 1)

    def test_reading_many_items_takes_time_in_proportion(self) -> None:
        def took(count: int) -> float:
            given = {PEOPLE.id: [{"id": str(n), "name": f"Person {n}"} for n in range(1, count + 1)]}
            best = 9.0
            for _ in range(3):
                began = time.process_time()
                sheet = read_answers(GROUP, given, at(2026, 11, 5).date(), at(2026, 11, 5).date())
                for number in sheet.numbers(PEOPLE.id):
                    self.assertEqual(sheet.own(f"{PEOPLE.id}.{number}")[f"{PEOPLE.id}.id"], number)
                best = min(best, time.process_time() - began)
            return best

        self.assertLess(took(3200), took(400) * 24)  # eight times as many, with room for noise; by squares it would be 64
