"""Tariffs written in prose before the engine's fee and time parts, said in YAML: every worked amount and date comes out."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

from jolly_clerk.core.trying import try_examples
from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook, read_rulebook_file
from tests.helpers import QUILLHAVEN, ROOT

UNSEEN = Path(__file__).parents[1] / "unseen"
TARIFFS = ("harbour-dues", "dog-licence", "market-tolls", "appeal", "connection-charge")


class Unseen(unittest.TestCase):
    def test_all_fifty_come_out(self) -> None:
        for name in TARIFFS:
            file = UNSEEN / f"{name}.yaml"
            rulebook = read_rulebook_file(file).rulebook
            misses = [str(miss) for miss in try_examples(rulebook, calendar_beside(file, "borough"))]
            self.assertEqual(misses, [], name)

    def test_every_worked_amount_of_the_prose_stands_in_an_example(self) -> None:
        for name in TARIFFS:
            prose, said = ((UNSEEN / f"{name}.{kind}").read_text("utf-8") for kind in ("md", "yaml"))
            worked = prose.partition("## Worked")[2]
            self.assertEqual(len(re.findall(r"^\| \d+ \|", worked, re.M)), 10, name)
            for amount in re.findall(r"\*\*−?(\d+\.\d\d)\*\*", worked):
                self.assertRegex(said, rf'\b{re.escape(amount)}[" ]', f"{name}: {amount}")

    def test_a_wrong_amount_would_be_seen(self) -> None:
        file = UNSEEN / "harbour-dues.yaml"
        text = file.read_text("utf-8")
        for old, new in (("beyond_adds: 0.15", "beyond_adds: 0.65"), ("within: 3 working days", "within: 2 working days"),
                         ("{at: 500, is: 172.00}", "{at: 500, is: 173.00}"), ("{up_to: 9, is: 10}", "{up_to: 8, is: 10}")):  # fmt: skip
            rulebook = read_rulebook(text.replace(old, new, 1), "x.yaml").rulebook
            self.assertTrue(list(try_examples(rulebook, calendar_beside(file, "borough"))), old)


class Odd(unittest.TestCase):
    def test_odd_shapes_come_out_as_worked_by_hand(self) -> None:
        """Ladders, nights over midnight, curves held by other lines, interest, refunds by days before; tables and scales over rows of repeats."""
        for name in ("trips", "berths", "stands"):
            rulebook = read_rulebook_file(ROOT / "tests" / "editions" / "odd" / f"{name}.yaml").rulebook
            with self.subTest(edition=name):
                self.assertEqual([str(m) for m in try_examples(rulebook, QUILLHAVEN)], [])
                self.assertTrue(rulebook.edition.examples)
