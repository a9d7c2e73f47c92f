"""What is usual by other answers: offered for all who have none, never put there by itself, gone where it is not known."""

from __future__ import annotations

import unittest
from datetime import date
from typing import Any

from jolly_clerk.core.assessment import assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.known import Known
from jolly_clerk.core.usual import Usual
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook, read_rulebook_file
from tests.helpers import QUILLHAVEN, at

VISA = next(SHIPPED.glob("QV/*.yaml"))
STOPS = [
    {"venue": "Old Hall", "first": "2027-03-04", "last": "2027-03-06"},
    {"venue": "Far Hall", "first": "2027-03-02", "last": "2027-03-03"},
]


def usual(**answers: Any) -> tuple[Usual, ...]:
    """What is usual in the part of the persons."""
    found = assess(
        read_rulebook_file(VISA).rulebook, Dossier(answers=answers), known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5)
    )
    return next(part.usual for part in found.parts if part.id == "persons")


class OfTheTour(unittest.TestCase):
    def test_for_all_who_have_none(self) -> None:
        persons = [{"id": 1, "name": "Ada Marek"}, {"id": 2, "arrival": "2027-03-01"}, {"id": 4, "departure": "2027-03-09"}]
        arrives, leaves = usual(tour={"stops": STOPS}, persons=persons)
        self.assertEqual(
            (arrives.question, arrives.raw, arrives.places),
            ("persons.arrival", "2027-03-02", ("persons.1.arrival", "persons.4.arrival")),
        )
        self.assertEqual(
            (leaves.ask, leaves.raw, leaves.places), ("Leaves on", "2027-03-06", ("persons.1.departure", "persons.2.departure"))
        )
        self.assertIn("2 Mar 2027", arrives.said)

    def test_nothing_is_usual_that_is_not_known(self) -> None:
        persons = [{"id": 1}]
        for tour in ({}, {"stops": []}, {"stops": [{"venue": "Old Hall", "first": "soon", "last": ""}]}):
            with self.subTest(tour=tour):
                self.assertEqual(usual(tour=tour, persons=persons), ())
        self.assertEqual(usual(tour={"stops": STOPS}, persons=[]), ())
        self.assertEqual(usual(tour={"stops": STOPS}, persons=[{"id": 1, "arrival": "2027-03-02", "departure": "tomorrow"}]), ())

    def test_it_answers_nothing_by_itself(self) -> None:
        rules = read_rulebook_file(VISA).rulebook
        answers = {"tour": {"stops": STOPS}, "persons": [{"id": 1}]}
        found = assess(rules, Dossier(answers=answers), known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))
        self.assertIn("persons.1.arrival", [gap.place.ref for gap in found.left if gap.place])
        plain = read_rulebook(
            VISA.read_text("utf-8").replace("usual: min(s.first for s in tour.stops), ", ""), str(VISA)
        ).rulebook
        other = assess(plain, Dossier(answers=answers), known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))
        self.assertEqual([(f.id, f.amount) for f in found.fees.lines], [(f.id, f.amount) for f in other.fees.lines])
        self.assertEqual(found.left, other.left)

    def test_the_day_is_a_day(self) -> None:
        (arrives, _) = usual(tour={"stops": STOPS[:1]}, persons=[{"id": 1}])
        self.assertEqual(date.fromisoformat(arrives.raw), date(2027, 3, 4))
