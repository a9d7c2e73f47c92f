"""What holds of every kind whatever is answered: nothing breaks, sheets add up, the same gives the same, printed is read again."""

from __future__ import annotations

import unittest
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.assessment_view import ASSESSMENT, assessment_view
from jolly_clerk.core.dossier.lanes import take_lane
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.facts.claims import read_claims
from jolly_clerk.core.facts.mrz import Mrz, read_mrz
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.holders import holder_by_day
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import fold, in_lane, joined
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.time.periods import Period
from jolly_clerk.demo.papers import passport_lines
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in, read_rulebook_file
from tests.helpers import QUILLHAVEN, at

EDITIONS = [read_rulebook_file(file).rulebook for file in editions_in(SHIPPED)]
KNOWN = Known(QUILLHAVEN)
ODD = [
    "",
    None,
    "yes",
    "no",
    "0",
    "-1",
    "3",
    "1e9",
    "1000000000000",
    "0.005",
    "2026-02-30",
    "2026-11-05",
    "x" * 500,
    "‮abc",
    [],
    {},
    True,
    [{}],
    ["quill"],
]


@st.composite
def dossiers(draw: Any) -> tuple[Rulebook, Dossier]:
    """The dossier of an example with some answers made odd, left out, or given where nobody asks."""
    rulebook = draw(st.sampled_from(EDITIONS))
    answers = {part: _copied(given) for part, given in draw(st.sampled_from(rulebook.edition.examples)).dossier.items()}
    for _ in range(draw(st.integers(0, 6))):
        place = draw(st.sampled_from(sorted(rulebook.questions)))
        part, _, question = place.partition(".")
        value = draw(st.sampled_from([*ODD, *rulebook.questions[place].options]))
        items = answers.setdefault(part, [{}] if rulebook.parts[part].each else {})
        for item in items if isinstance(items, list) else [items]:
            item[question] = value
    if draw(st.booleans()):
        answers.pop(draw(st.sampled_from(sorted(answers))))
    return rulebook, Dossier(answers=answers)


def _copied(given: Any) -> Any:
    return [dict(item) for item in given] if isinstance(given, list) else dict(given)


def looked(rulebook: Rulebook, dossier: Dossier, history: History = NO_HISTORY) -> Assessment:
    return assess(rulebook, dossier, history, KNOWN, at(2026, 11, 5))


class EveryKind(unittest.TestCase):
    @settings(max_examples=120, suppress_health_check=[HealthCheck.too_slow])
    @given(dossiers())
    def test_whatever_is_answered_it_is_assessed_and_adds_up(self, made: tuple[Rulebook, Dossier]) -> None:
        rulebook, dossier = made
        a = assessment_view(looked(rulebook, dossier))
        for total in a.fees.totals:
            lines = [x for x in a.fees.lines if x.stage == total.stage and not x.told_only and x.state != "not asked"]
            self.assertEqual(sum((x.low for x in lines), Decimal(0)), total.low)
            if total.amount is not None:
                self.assertEqual(sum((x.amount or Decimal(0) for x in lines), Decimal(0)), total.amount)
        for r in a.requirements:
            self.assertTrue(r.places, r.id)
            self.assertTrue(r.because, r.id)
        for thing in a.left:
            self.assertTrue(thing.place and thing.place.label, thing)
        for move in a.moves:
            self.assertEqual(move.allowed, not move.why_not)

    @settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow])
    @given(dossiers())
    def test_the_same_gives_the_same(self, made: tuple[Rulebook, Dossier]) -> None:
        one, other = (ASSESSMENT.dump_json(assessment_view(looked(*made))) for _ in range(2))
        self.assertEqual(one, other)
        self.assertEqual(assessment_view(looked(*made)).requirements, assessment_view(looked(*made)).requirements)

    @settings(max_examples=60)
    @given(st.sampled_from([e for e in EDITIONS if e.edition.kind == "IP"]), st.integers(1, 60), st.integers(0, 20))
    def test_more_claims_never_cost_less(self, rulebook: Rulebook, claims: int, more: int) -> None:
        def due(count: int) -> Decimal:
            answers = {part: _copied(given) for part, given in rulebook.edition.examples[0].dossier.items()}
            answers["count"] |= {"claims": count}
            return looked(rulebook, Dossier(answers=answers)).fees.total("at filing").low

        self.assertLessEqual(due(claims), due(claims + more))


class Lanes(unittest.TestCase):
    CT = next(e for e in EDITIONS if e.edition.kind == "CT")

    def test_a_place_lies_in_the_lane_of_its_repeat_and_a_question_of_the_whole_in_none(self) -> None:
        for place, lane in (
            ("sites.2.investigator", "sites.2"),
            ("sites.2", "sites.2"),
            ("documents.training.2", "sites.2"),
            ("sites", ""),
            ("sites.persons", ""),
            ("documents.training", ""),
            ("documents.protocol", ""),
            ("declarations.data_kept", ""),
            ("signature", ""),
        ):
            with self.subTest(place):
                self.assertEqual(self.CT.lane_of(place), lane)

    @given(
        st.lists(st.tuples(st.sampled_from(["", "sites.1", "sites.2"]), st.integers(1, 9), st.integers(1, 12)), max_size=6),
        st.integers(0, 60),
    )
    def test_the_days_of_every_lane_are_the_days_elapsed(self, letters: list[tuple[str, int, int]], later: int) -> None:
        filed = datetime(2026, 11, 5, 12, tzinfo=UTC)
        who: Any = {"who": "x", "role": "officer"}
        entries: list[h.Entry] = [h.Filed(at=filed, who="x", role="applicant", edition="CT", due_at_filing=Decimal(0))]
        now, rounds = filed, {"": 0, "sites.1": 0, "sites.2": 0}
        for lane, wait, answer in letters:
            now += timedelta(days=wait)
            rounds[lane] += 1
            point = h.AskedPoint(no=1, requirement="signature", title="-", text="-", places=("signature",))
            entries.append(h.LetterSent(at=now, **who, lane=lane, round=rounds[lane], version=1, points=(point,), due=now.date()))
            now += timedelta(days=answer)
            entries.append(h.Answered(at=now, who="x", role="applicant", lane=lane, round=rounds[lane], version=2))
        until = (now + timedelta(days=later)).date()
        case = fold(entries)
        for lane in rounds:
            held = holder_by_day(in_lane(case, lane), QUILLHAVEN, until)
            self.assertEqual(len(held), (until - filed.date()).days + 1)
            self.assertEqual(len(in_lane(case, lane).rounds), rounds[lane])
        self.assertEqual(joined(case, ("sites.1", "sites.2")).state, in_lane(case, "").state)

    @given(st.sampled_from(["", "sites.1", "sites.2"]), st.text(max_size=8), st.text(max_size=8), st.text(max_size=8))
    def test_answers_in_one_lane_change_that_lane_alone(self, lane: str, code: str, one: str, two: str) -> None:
        filed = Dossier(answers={"trial": {"code": "A"}, "sites": [{"id": 1, "name": "B"}, {"id": 2, "name": "C"}]})
        draft = Dossier(answers={"trial": {"code": code}, "sites": [{"id": 1, "name": one}, {"id": 2, "name": two}]})
        taken = take_lane(self.CT, filed, draft, lane).answers
        self.assertEqual(taken["trial"]["code"], code if lane == "" else "A")
        self.assertEqual(taken["sites"][0]["name"], one if lane == "sites.1" else "B")
        self.assertEqual(taken["sites"][1]["name"], two if lane == "sites.2" else "C")


class PrintedIsReadAgain(unittest.TestCase):
    @given(st.integers(1, 400), st.sampled_from(["working days", "days", "weeks", "months", "years", "hours", "office hours"]))
    def test_a_period(self, count: int, unit: Any) -> None:
        self.assertEqual(Period.parse(str(Period(count, unit))), Period(count, unit))

    @given(st.from_regex(r"[A-Z]{2,12} [A-Z]{2,12}", fullmatch=True), st.from_regex(r"[A-Z0-9]{6,9}", fullmatch=True), st.dates(date(1930, 1, 1), date(2026, 1, 1)),
           st.dates(date(2027, 1, 1), date(2036, 1, 1)), st.booleans())  # fmt: skip
    def test_the_lines_of_a_passport(self, name: str, number: str, born: date, expires: date, broken: bool) -> None:
        found = read_mrz(list(passport_lines(name, number, born, expires, broken)), date(2026, 11, 5))
        assert isinstance(found, Mrz)
        self.assertEqual((found.given, found.surname, found.number), (*name.split(" "), number))
        self.assertEqual((found.born, found.expires), (born.isoformat(), expires.isoformat()))
        self.assertEqual(bool(found.faults), broken)

    @given(st.lists(st.integers(0, 6), min_size=1, max_size=12))
    def test_a_set_of_claims(self, refers: list[int]) -> None:
        lines, independent = [], 0
        for no, other in enumerate(refers, 1):
            on = other if 0 < other < no else 0
            independent += not on
            lines.append(f"{no}. A winch" + (f" as claimed in claim {on}." if on else " with a pawl."))
        found = read_claims("\n".join(lines))
        self.assertEqual((found.count, len(found.independent), found.gaps, found.forward), (len(refers), independent, (), ()))
