"""The engine against the same tariff written by hand in plain Python, over many answers."""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bench import by_hand
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from tests.helpers import BW, answers, assessed, at, dossier

FILED = date(2026, 11, 5)
uses = st.sampled_from(["workshop", "dwelling", "store", "boathouse"])
builds = st.sampled_from(["timber", "masonry", "steel", "glass"])
areas = st.decimals(min_value=Decimal("0.1"), max_value=3000, places=1)
estimates = st.decimals(min_value=0, max_value=3_000_000, places=2)
distances = st.one_of(
    st.sampled_from([Decimal("29.9"), Decimal("30.0"), Decimal("30.1")]), st.decimals(min_value=0, max_value=500, places=1)
)


class AgainstPlainPython(unittest.TestCase):
    @given(uses, builds, areas, estimates, distances, st.booleans(), st.booleans(), st.sampled_from([None, -1, 0]), st.booleans())
    def test_the_same_cents(
        self,
        use: str,
        built_of: str,
        area: Decimal,
        estimate: Decimal,
        distance: Decimal,
        fast: bool,
        listed: bool,
        begun: int | None,
        repair: bool,
    ) -> None:
        changes = {
            "works_use": use,
            "works_built_of": built_of,
            "works_area": str(area),
            "works_estimate": str(estimate),
            "works_distance": str(distance),
            "service_speed": "fast" if fast else "normal",
            "place_listed": listed,
            "works_begun_yet": begun is not None,
        }
        if fast:
            changes["service_reason"] = "storm"
        if begun is not None:
            changes["works_begun"] = (FILED + timedelta(days=begun)).isoformat()
        if listed:
            changes["works_repair"] = repair
        given_ = answers(**changes)
        lines = {line.id: line.amount for line in fee_sheet(read_answers(BW, given_, FILED, FILED)).lines}
        self.assertEqual(lines, by_hand.fees(given_, FILED))

    def test_the_same_standings(self) -> None:
        for changes in ({}, {"place_role": "tenant"}, {"works_estimate": "100"}):
            found = assessed(dossier(**changes))
            plain = by_hand.standings(answers(**changes), {}, {}, Decimal("438.18"), FILED)
            for id_ in ("may-act", "plot-number", "distance-stated", "value-plausible"):
                requirement = found.requirement(id_)
                assert requirement
                self.assertEqual(requirement.proposed, plain[id_], (changes, id_))
            consent = found.requirement("documents.consent")
            assert consent
            self.assertEqual(consent.proposed, plain["consent"])

    def test_the_table_by_hand_too(self) -> None:
        for value, permit in (("2000.00", "60.00"), ("25000.01", "332.75"), ("1000000.01", "4610.85")):
            found = by_hand.fees(answers(works_estimate=value, works_area="0.1"), FILED)
            self.assertEqual(str(found["permit"]), permit)
        self.assertEqual(at(2026, 11, 5).date(), FILED)
