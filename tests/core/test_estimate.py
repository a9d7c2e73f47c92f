"""An estimate before filing: how many of what repeats, and which questions settle the price."""

from __future__ import annotations

import unittest
from decimal import Decimal
from typing import Any

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.estimate import counted_parts, price_asks, with_counts
from jolly_clerk.core.fees.lines import FeeSheet, Line
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_rulebook_file
from tests.helpers import QUILLHAVEN, at

RULEBOOKS = {path.parent.name: read_rulebook_file(path).rulebook for path in sorted(SHIPPED.glob("*/2026*.yaml"))}


def reckoned(rulebook: Rulebook, answers: dict[str, Any]) -> Assessment:
    dossier = Dossier(answers=with_counts(rulebook, answers))
    return assess(rulebook, dossier, known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))


def line(fees: FeeSheet, id_: str) -> Line:
    return next(one for one in fees.lines if one.id == id_)


class Estimates(unittest.TestCase):
    def test_what_is_counted(self) -> None:
        counted = {kind: [part.id for part in counted_parts(r)] for kind, r in RULEBOOKS.items() if not r.step}
        self.assertEqual(
            counted,
            {
                "BW": [],
                "CP": [],
                "CT": ["sites"],
                "IP": ["inventors"],
                "PL": ["qualifications"],
                "QV": ["persons"],
                "TL": ["stalls"],
            },
        )

    def test_a_visa_for_some_persons(self) -> None:
        rules = RULEBOOKS["QV"]
        one = reckoned(rules, {})
        entry = line(one.fees, "entry")
        self.assertEqual((entry.low, entry.high), (Decimal("0.00"), Decimal("95.00")))
        self.assertEqual(one.requirement("documents.passport.1").proposed, "wanting")  # type: ignore[union-attr]
        asks = ("persons.1.born", "persons.1.arrival", "persons.1.departure", "service.speed")
        self.assertEqual(price_asks(rules, one.fees, []), asks)
        many = reckoned(rules, {"persons": [{"id": n} for n in range(1, 13)]})
        self.assertEqual(line(many.fees, "bond").amount, Decimal("2400.00"))
        self.assertEqual(line(many.fees, "entry").high, Decimal("950.00"))
        self.assertEqual(price_asks(rules, many.fees, []), ("service.speed",))  # none of twelve is asked by itself

    def test_a_price_is_settled_by_what_is_asked(self) -> None:
        rules = RULEBOOKS["TL"]
        answers: dict[str, Any] = {}
        told = {
            "licence.sort": "new",
            "licence.held": "0",
            "licence.begins": "16 Nov 2026",
            "holder.charity": "no",
            "stalls.1.pitch": "upper_green",
        }
        for _ in range(len(told) + 1):
            fees = reckoned(rules, {"trade": {"island": "near_skerry"}, **answers}).fees
            asks = [place for place in price_asks(rules, fees, []) if place in told]
            if not asks:
                break
            part, _, question = asks[0].rpartition(".")
            if part.startswith("stalls"):
                answers["stalls"] = [{"id": 1, question: told[asks[0]]}]
            else:
                answers.setdefault(part, {})[question] = told[asks[0]]
        self.assertEqual(line(fees, "price").amount, Decimal("90.00"))
        self.assertEqual([total.amount for total in fees.totals], [Decimal("129.00")])

    def test_nothing_named_yet_is_no_amount(self) -> None:
        for kind, line_id in (("TL", "price"), ("TL", "levy"), ("QV", "entry"), ("QV", "bond")):
            rules = RULEBOOKS[kind]
            found = assess(rules, Dossier(), known=Known(calendar=QUILLHAVEN), now=at(2026, 11, 5))
            told = line(found.fees, line_id)
            part = rules.edition.fees[0].each
            self.assertEqual((told.state, told.amount, told.depends_on), ("open", None, (part,)))

    def test_what_was_answered_stays_in_its_place(self) -> None:
        rules = RULEBOOKS["BW"]
        fees = reckoned(rules, {"works": {"area": "95.8"}}).fees
        self.assertEqual(
            price_asks(rules, fees, ["works.area"]),
            ("works.use", "works.built_of", "works.area", "works.estimate", "works.distance"),
        )
