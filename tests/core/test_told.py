"""What the core says in words: the moment of a signature, answers of every type, the parts that are asked."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime
from typing import Any

from jolly_clerk.core.assessment import assess
from jolly_clerk.core.dossier.answers import ANSWER_TYPES, answer_in_words
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.known import Known
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.core.test_answers import question
from tests.helpers import BW, QUILLHAVEN, at, dossier

PL = read_rulebook_file(SHIPPED / "PL" / "2026-01-01.yaml").rulebook


class Told(unittest.TestCase):
    def test_a_signature_is_told_by_the_clock_of_the_office(self) -> None:
        """F5: the checklist told the moment in UTC."""
        signed = dossier()
        assert signed.signature is not None
        signed = signed.model_copy(
            update={"signature": signed.signature.model_copy(update={"at": datetime(2026, 7, 6, 9, 30, tzinfo=UTC)})}
        )
        found = assess(BW, signed, known=Known(QUILLHAVEN), now=at(2026, 7, 6, 11)).requirement("signature")
        self.assertEqual(found and found.because, "Signed by Odalys Renn, Mon 6 Jul 2026 10:30.")

    def test_a_part_says_whether_it_is_asked(self) -> None:
        """F3: an additional field showed an empty page for qualifications."""
        for sort, asked in (("first", True), ("field", False)):
            made = assess(PL, Dossier(answers={"need": {"sort": sort}}), known=Known(QUILLHAVEN), now=at(2026, 11, 5))
            self.assertEqual({p.id: p.asked for p in made.parts}["qualifications"], asked)

    def test_every_type_of_answer_has_words(self) -> None:
        """F8: a period reached letters as a Python list."""
        given: dict[str, tuple[Any, str]] = {
            "text": ("reed", "reed"), "long text": ("reed\nroof", "reed\nroof"), "number": ("12.50", "12.50 m"),
            "count": (3, "3 m"), "money": ("1250", "EUR 1\u00a0250.00"), "date": ("2026-11-05", "Thu 5 Nov 2026"),
            "date and time": ("2026-11-05T14:30", "Thu 5 Nov 2026 14:30"),
            "hour": ("8:30", "08:30"),
            "period": (["2026-11-01", "2026-11-05"], "Sun 1 Nov 2026 to Thu 5 Nov 2026"), "yes or no": ("yes", "yes"), "person": ("Ada", "Ada"), "place": ("Here", "Here"), "mail address": ("Ada@Marsh.example", "Ada@Marsh.example"),
        }  # fmt: skip
        for kind in ANSWER_TYPES:
            if kind not in ("one of", "several of", "rows"):
                raw, words = given[kind]
                unit = {"unit": "m"} if words.endswith(" m") else {}
                self.assertEqual(answer_in_words(question(kind, **unit), raw, "EUR"), words, kind)


class TheSame(unittest.TestCase):
    def test_letters_and_screens_have_the_same_words(self) -> None:
        found = assess(BW, dossier(), known=Known(QUILLHAVEN), now=at(2026, 11, 5))
        for part in found.parts:
            for asked in part.questions:
                raw = dossier().answers[part.id].get(asked.place.partition(".")[2])
                self.assertEqual(asked.said, said_answer(BW, asked.place, raw), asked.place)
