"""What makes two cases alike: the same plot, place, title, person; a form that names somebody else."""

from __future__ import annotations

import unittest
from typing import Any

from jolly_clerk.core import alike
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file

BW = read_rulebook_file(SHIPPED / "BW" / "2026-07-01.yaml").rulebook
PLACE = {"address": "4 Saltern Slip, Quill", "plot": "Q-114/2"}


def dossier(place: dict[str, str] | None = None, **parts: Any) -> Dossier:
    return Dossier(answers={"place": {**PLACE, **(place or {})}, **parts})


def known(
    title: str = "New workshop roof, 4 Saltern Slip", person: str = "odalys", name: str = "Odalys Renn", **place: str
) -> alike.Identity:
    return alike.identity_of(BW, dossier(place), title, person, name)


class Likeness(unittest.TestCase):
    def how(self, other: alike.Identity) -> str:
        found = alike.likeness(known(), other)
        return found.how if found else ""

    def test_by_what_a_case_is_known(self) -> None:
        mine = known()
        self.assertEqual(list(mine.keys.values()), ["Q-114/2"])
        self.assertIn("New workshop roof, 4 Saltern Slip", alike.searched_by(mine))

    def test_how_it_is_alike(self) -> None:
        elsewhere = {"plot": "Q-88", "address": "30 Bell Rope Lane, Quill"}
        for other, how in (
            (known(), "duplicate"),
            (known(person="tamsin", name="Tamsin Oake"), "duplicate"),
            (known("A shed for nets", "tamsin", "Tamsin Oake"), "thing"),
            (known("A shed for nets", "tamsin", "Tamsin Oake", plot="q-114/2", address="1 Widgeon Walk"), "thing"),
            (known("Glass house", "odalys", "Odalys Renn", **elsewhere), "person"),
            (known("Glass house", "other", "Renn, Odalys", **elsewhere), "person"),
            (known("Glass house", "tamsin", "Tamsin Oake", **elsewhere), ""),
        ):
            with self.subTest(other=other):
                self.assertEqual(self.how(other), how)

    def test_the_reason_is_said(self) -> None:
        found = alike.likeness(known(), known("A shed for nets", "tamsin", "Tamsin Oake"))
        assert found
        self.assertTrue(any(why.endswith(": Q-114/2") for why in found.because), found.because)

    def test_side_by_side(self) -> None:
        one, two = dossier(works={"area": "95.8"}), dossier({"plot": "Q-115"}, works={"area": "95.8"})
        rows = alike.side_by_side(BW, one, two)
        self.assertEqual([(row.mine, row.other) for row in rows if not row.same], [("Q-114/2", "Q-115")])
        self.assertGreater(len(rows), 2)

    def test_another_name_than_that_of_the_account(self) -> None:
        place = next(p for p, n in BW.questions.items() if n.question.profile in ("name", "called"))
        part, _, question = place.partition(".")
        other = dossier(**{part: {question: "Tamsin Oake"}})
        self.assertIn(
            "The form names Tamsin Oake, the account is that of Odalys Renn.", alike.in_another_name(BW, other, "Odalys Renn")
        )
        self.assertEqual(alike.in_another_name(BW, other, "Oake, Tamsin"), "")
        self.assertEqual(alike.in_another_name(BW, dossier(), "Odalys Renn"), "")
