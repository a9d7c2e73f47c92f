"""What may stand at a place of an edition that is being typed, found in a text that is not whole."""

from __future__ import annotations

import unittest

from jolly_clerk.core.rulebook.completing import completions


def words(text: str) -> list[str]:
    lines = text.split("\n")
    return [c.word for c in completions(text, len(lines), len(lines[-1]))]


class Completing(unittest.TestCase):
    def test_keys_of_the_place(self) -> None:
        for text, first in (
            ("", "kind"),
            ("fees:\n  - ", "line"),
            ("fees:\n  - line: a\n    st", "line"),
            ("fees:\n  - line: a\n    then:\n      - {id: x, ", "id"),
            ("clock:\n  check: {within: 5 days, ", "within"),
            ("parts:\n  - id: a\n    questions:\n      - id: x\n        ", "id"),
            ("parts:\n  - id: a\n    title: b\n  - id: c\n    ", "id"),
            ("registers:\n  plots:\n    ", "title"),
            ("inspections:\n  visits:\n    - {", "id"),
        ):
            with self.subTest(text):
                self.assertEqual(words(text)[:1], [first])
        self.assertIn("questions", words("parts:\n  - id: a\n    title: b\n  - id: c\n    "))
        self.assertNotIn("stage", words("parts:\n  - id: a\n    "))

    def test_words_of_a_choice(self) -> None:
        for text, wanted in (
            ("fees:\n  - line: a\n    stage: ", ["at filing", "after the check", "at issue"]),
            ("clock:\n  check: {from: ", ["later", "earlier", "filing", "payment"]),
            ("incomplete_filing: ", ["warn", "refuse"]),
            ("parts:\n  - id: a\n    each: ", ["yes", "no"]),
            ("title: ", []),
        ):
            with self.subTest(text):
                self.assertEqual(words(text), wanted)

    def test_anywhere_in_anything(self) -> None:
        for text in ("}{", ": : :", "\t- -\n", "a:\n b:\n  c:\n   d: {", "\u0000"):
            for line in range(6):
                completions(text, line, 3)
