"""What a form says of an answer before it is wrong: rows that are begun, lists of which nothing is offered."""

from __future__ import annotations

import random
import unittest
from typing import Any

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.form_views import QuestionView
from jolly_clerk.core.known import Known
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import QUILLHAVEN, at

QV = read_rulebook_file(SHIPPED / "QV" / "2026-06-01.yaml").rulebook
TL = read_rulebook_file(SHIPPED / "TL" / "2026-04-01.yaml").rulebook


def looked_at(rulebook: Any, answers: dict[str, Any]) -> Assessment:
    return assess(rulebook, Dossier(answers=answers), known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))


def question(found: Assessment, place: str) -> QuestionView:
    return next(q for part in found.parts for q in part.questions if q.place == place)


class Sentences(unittest.TestCase):
    """What is said of a filing that is only begun."""

    def pruned(self, answers: dict[str, Any], by: random.Random) -> dict[str, Any]:
        """Answers of which some are still open, and some items not named yet."""
        kept: dict[str, Any] = {}
        for part, given in answers.items():
            if isinstance(given, dict):
                told = {q: [] if isinstance(raw, list) and by.random() < 0.3 else raw for q, raw in given.items()}
                kept[part] = {q: raw for q, raw in told.items() if by.random() < 0.75}
            else:
                items = [{**item, "id": n} for n, item in enumerate(given, 1) if by.random() < 0.7]
                kept[part] = [{q: raw for q, raw in item.items() if q == "id" or by.random() < 0.75} for item in items]
        return kept

    def test_no_fault_is_told_of_what_is_not_answered_yet(self) -> None:
        by, told = random.Random(20261128), 0
        for file in sorted(SHIPPED.glob("*/2026-*.yaml")):
            rulebook = read_rulebook_file(file).rulebook
            for base in [{}, *(example.dossier for example in rulebook.edition.examples)]:
                for _ in range(6 if base else 1):
                    found = looked_at(rulebook, self.pruned(base, by))
                    for r in found.requirements:
                        if r.proposed in ("wanting", "in doubt") and r.kind != "answer":
                            told += 1
                            self.assertNotRegex(r.because, "not answered|not asked", f"{file.stem} {r.id}")
        self.assertGreater(told, 500)

    def test_somebody_without_a_name_yet_is_called_by_the_number(self) -> None:
        person = {"id": 1, "pages": "1"}
        found = looked_at(QV, {"need": {"home": "elsewhere", "paid_by": "tour"}, "persons": [person]})
        told = found.requirement("empty-pages.1")
        assert told
        self.assertEqual(told.because, "The passport of Person 1 has too few empty pages (1); two are needed.")


class Rows(unittest.TestCase):
    def stops(self, *rows: dict[str, str]) -> tuple[QuestionView, str]:
        found = looked_at(QV, {"tour": {"stops": [{"id": n, **row} for n, row in enumerate(rows, 1)]}})
        wanting = found.requirement("answer.tour.stops")
        return question(found, "tour.stops"), wanting.because if wanting else ""

    def test_a_row_that_is_begun_is_open_and_not_wrong(self) -> None:
        told, because = self.stops({})
        self.assertEqual((told.fault, told.because, told.left), ("", because, True))
        self.assertEqual(because, "Row 1: fill in “Venue”, “First day” and “Last day”.")
        told, because = self.stops({"venue": "Old Hall", "first": "2 Mar 2027", "last": "5 Mar 2027"}, {"venue": "Mole"})
        self.assertEqual((told.fault, told.because), ("", "Row 2: fill in “First day” and “Last day”."))

    def test_what_is_wrong_in_a_row_is_said_with_what_is_open(self) -> None:
        told, _ = self.stops({"venue": "Old Hall", "first": "31 Feb 2027"})
        self.assertEqual(told.fault, "Row 1, First day: There is no 31 Feb 2027. Row 1: fill in “Last day”.")
        self.assertEqual(told.because, "")

    def test_whole_rows(self) -> None:
        told, because = self.stops({"venue": "Old Hall", "first": "2 Mar 2027", "last": "5 Mar 2027"})
        self.assertEqual((told.fault, told.because, told.left, because), ("", "", False, ""))


class Choices(unittest.TestCase):
    def pitch(self, **trade: str) -> QuestionView:
        found = looked_at(TL, {"trade": trade, "stalls": [{"id": 1, "pitch": "fish_quay"}]})
        return question(found, "stalls.1.pitch")

    def test_a_list_of_which_nothing_is_offered_says_why(self) -> None:
        told = self.pitch(island="far_skerry", ground="street")
        self.assertEqual(told.offered, ())
        self.assertEqual(told.fault, "There is nothing to choose here.")
        self.assertEqual(
            told.because,
            "There is nothing to choose, since “What you sell, On which island?” is “Far Skerry”.",
        )

    def test_a_list_of_which_something_is_offered(self) -> None:
        told = self.pitch(island="quill", ground="street")
        self.assertEqual((told.offered[:1], told.because, told.fault), (("fish_quay",), "", ""))
        self.assertEqual(self.pitch(ground="street").because, "")  # the island is not known: everything is offered
