"""The one door: what is left, standings, points, changes, moves, over whole dossiers and histories."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import assess
from jolly_clerk.core.assessment_view import ASSESSMENT, assessment_view
from jolly_clerk.core.dossier.model import Attachment, Dossier, Version
from jolly_clerk.core.history import History
from jolly_clerk.core.known import Known
from tests.helpers import A3, A4, BW, PLAN, QUILLHAVEN, READINGS, SECTIONS, assessed, at, dossier, reading

FILED = h.Filed(at=at(2026, 11, 5), who="o", role="applicant", edition="BW 2026-07-01", due_at_filing=Decimal("438.18"))
PAID = h.Paid(at=at(2026, 11, 5, 11), who="o", role="applicant", amount=Decimal("438.18"), means="card", key="k1")
BEGAN = h.CheckingBegan(at=at(2026, 11, 9), who="i", role="officer")


def judged(requirement: str, standing: str, version: int = 1, **more: str) -> h.Judged:
    return h.Judged(
        at=at(2026, 11, 10), who="i", role="officer", requirement=requirement, standing=standing, version=version, **more  # type: ignore[arg-type]
    )  # fmt: skip


def case(*entries: h.Entry, of: Dossier | None = None, second: Dossier | None = None) -> History:
    versions = [Version(no=1, at=at(2026, 11, 5), dossier=of or dossier())]
    if second:
        versions.append(Version(no=2, at=at(2026, 11, 25), dossier=second))
    return History(entries=(FILED, PAID, BEGAN, *entries), versions=tuple(versions))


def letter(*points: tuple[int, str, tuple[str, ...]]) -> h.LetterSent:
    asked = tuple(h.AskedPoint(no=n, requirement=r, title=r, text="?", places=p) for n, r, p in points)
    return h.LetterSent(at=at(2026, 11, 12), who="i", role="officer", round=1, version=1, points=asked, due=date(2026, 12, 14))


class WhatIsLeft(unittest.TestCase):
    def test_a_whole_dossier_has_nothing_left(self) -> None:
        found = assessed(dossier())
        self.assertEqual(found.left, ())
        self.assertTrue(found.move("applicant", "file").allowed)
        self.assertEqual(found.state, "Draft")
        self.assertEqual(found.title, "New workshop roof, 4 Saltern Slip")
        self.assertTrue(found.filing_day_assumed)

    def test_each_gap_names_its_very_place(self) -> None:
        found = assessed(dossier(signed=False, files=False, works_area=None, works_begun_yet="yes", place_role="tenant"))
        self.assertEqual(
            [gap.place.ref for gap in found.left if gap.place],
            ["works.area", "works.begun", "documents.site_plan", "documents.sections", "documents.consent", "signature"],
        )
        parts = {p.id: p.left for p in found.parts}
        self.assertEqual(parts, {"place": 0, "works": 2, "service": 0})

    def test_an_empty_draft_is_no_error(self) -> None:
        found = assessed(Dossier())
        self.assertEqual(found.title, "Building works permit")
        self.assertEqual(sum(p.left for p in found.parts), 12)
        self.assertIsNone(found.fees.total("at filing").amount)

    def test_wrong_answers_are_said_exactly_and_kept(self) -> None:
        for question, raw, says in (
            ("works_area", "-5", "−5 m² is below 0.1 m²"),
            ("works_area", "95,8,1", "Write the decimals after a point"),
            ("works_area", "9" * 30, "too long to be meant"),
            ("works_area", "100000.01", "is above 100\u00a0000 m²"),
            ("works_area", "1e5", "is not a number"),
            ("works_estimate", "12.345", "at most 2 decimals"),
            ("works_distance", "18.25", "at most 1 decimal"),
            ("works_begun", "31 Nov 2026", "There is no 31 Nov 2026"),
            ("works_begun", "2026-13-01", "there is no month 13"),
            ("works_begun", "yesterday", "is not a date"),
            ("works_begun", "2026-11-06", "lies after the filing day"),
            ("works_begun", "5 Nov 0026", "cannot be meant"),
            ("works_use", "castle", "Choose one of: Workshop, Dwelling"),
            ("place_listed", "perhaps", "Answer yes or no"),
            ("place_address", "x" * 121, "at most 120 fit here"),
            ("place_address", "a\x00b", "cannot be printed"),
        ):
            with self.subTest(question=question, raw=raw[:20]):
                found = assessed(dossier(**{"works_begun_yet": "yes", question: raw}))
                place = question.replace("_", ".", 1)
                view = next(q for p in found.parts for q in p.questions if q.place == place)
                self.assertIn(says, view.fault)
                self.assertEqual((view.raw, view.left), (raw, True))

    def test_an_answer_that_no_question_asks_for_is_said(self) -> None:
        given = dossier()
        strange = given.model_copy(
            update={"answers": {**given.answers, "harbour": {"berth": "7"}, "works": {**given.answers["works"], "colour": "red"}}}
        )
        self.assertEqual(assessed(strange).apart, ("works.colour", "harbour.berth"))

    def test_an_answer_to_a_question_that_is_no_longer_asked_does_not_count(self) -> None:
        found = assessed(dossier(works_begun_yet="no", works_begun="2026-01-01"))
        self.assertEqual(str(found.fees.lines[0].amount), "489.50")


class Documents(unittest.TestCase):
    def proposed(self, files: tuple[Attachment, ...], **readings: object) -> tuple[str, str]:
        found = assess(
            BW, dossier().model_copy(update={"attachments": files}), known=Known(QUILLHAVEN, readings), now=at(2026, 11, 5)
        )  # type: ignore[arg-type]
        requirement = found.requirement("documents.site_plan")
        assert requirement
        return requirement.proposed, " ".join(f"{f.weight}: {f.text}" for f in requirement.findings)

    def file(self, name: str = "plan.pdf", size: int = 1000, n: int = 1, sha: str = PLAN) -> Attachment:
        return Attachment(id=f"a{n}", slot="site_plan", name=name, sha256=sha, size=size)

    def test_standings_of_files(self) -> None:
        for name, read, size, proposed, says in (
            ("plan.pdf", reading(PLAN, A3), 1000, "to read", ""),
            ("plan.pdf", reading(PLAN, A4), 1000, "wanting", "fault: Sheet 1 is A4; A3 or larger is asked."),
            ("plan.pdf", reading(PLAN, A3, A4), 1000, "wanting", "fault: Sheet 2 is A4"),
            ("plan.pdf", reading(PLAN, (841.0, 594.0)), 1000, "to read", ""),
            ("plan.pdf", reading(PLAN, (420.0, 250.0)), 1000, "wanting", "420 × 250 mm"),
            ("plan.pdf", reading(PLAN, opens="damaged"), 1000, "wanting", "is damaged and cannot be opened"),
            ("plan.pdf", reading(PLAN, opens="password"), 1000, "wanting", "locked by a password"),
            ("plan.pdf", reading(PLAN, kind="empty file", opens="empty"), 0, "wanting", "is empty (0 bytes)"),
            ("plan.pdf", reading(PLAN, kind="png"), 1000, "wanting", "the file is a PNG picture"),
            ("plan.docx", reading(PLAN, A3), 1000, "in doubt", "says docx, but the file is a PDF"),
            ("plan.pdf", None, 1000, "in doubt", "could not be read by the machine"),
            ("plan.pdf", reading(PLAN, A3), 20_000_001, "wanting", "at most 20 MB is taken here"),
        ):  # fmt: skip
            with self.subTest(says or name):
                got, text = self.proposed((self.file(name, size),), **({PLAN: read} if read else {}))
                self.assertEqual(got, proposed)
                self.assertIn(says, text)

    def test_more_files_than_belong_there(self) -> None:
        files = tuple(self.file(n=n, sha=f"{n}" * 64) for n in range(1, 5))
        got, text = self.proposed(files, **{f.sha256: reading(f.sha256, A3) for f in files})
        self.assertEqual(got, "wanting")
        self.assertIn("4 files here; at most 3 belong in this slot", text)

    def test_consent_is_asked_of_those_who_do_not_own_the_plot(self) -> None:
        def consent(**changes: object) -> tuple[str, str]:
            found = assessed(dossier(**changes)).requirement("documents.consent")
            assert found
            return found.proposed, found.because

        self.assertEqual(consent()[0], "not asked")
        self.assertEqual(consent(place_role="tenant")[0], "wanting")
        standing, because = consent(place_role=None)
        self.assertEqual(standing, "not known yet")
        self.assertIn("What are you to the plot?", because)


class Judging(unittest.TestCase):
    def test_a_given_standing_wins_and_both_are_kept(self) -> None:
        found = assessed(dossier(), case(judged("documents.site_plan", "met"))).requirement("documents.site_plan")
        assert found
        self.assertEqual((found.proposed, found.standing), ("to read", "met"))

    def test_it_holds_only_while_its_evidence_stays(self) -> None:
        from jolly_clerk.core.checklist import Evidence
        from jolly_clerk.core.fees.sheet import fee_sheet
        from jolly_clerk.core.form import read_answers
        from jolly_clerk.core.lifecycle import fold

        first = dossier()
        sheet = fee_sheet(read_answers(BW, first.answers, date(2026, 11, 5), date(2026, 11, 5)))
        looked = Evidence(first, fold([FILED, PAID]), sheet).at(["works.distance", "documents.site_plan"])
        mark = judged("distance-stated", "met", evidence=looked)
        kept = assessed(first, case(mark)).requirement("distance-stated")
        moved = assessed(dossier(works_distance="11.2"), case(mark)).requirement("distance-stated")
        assert kept and moved and moved.given
        self.assertEqual((kept.standing, kept.judged), ("met", True))
        self.assertEqual((moved.standing, moved.judged, moved.given.holds), ("to read", False, False))

    def test_taken_back(self) -> None:
        history = case(judged("may-act", "wanting"), judged("may-act", None))  # type: ignore[arg-type]
        self.assertFalse(assessed(dossier(), history).requirement("may-act").judged)  # type: ignore[union-attr]

    def test_acceptance_needs_everything_met_or_waived_and_paid(self) -> None:
        every = [r.id for r in assessed(dossier(), case()).requirements if r.asked]
        self.assertEqual(len(every), 8)
        met = [judged(id_, "met") for id_ in every]
        self.assertTrue(assessed(dossier(), case(*met)).move("officer", "accept as complete").allowed)
        for standing in ("wanting", "in doubt"):
            stopped = assessed(dossier(), case(*met, judged("may-act", standing))).move("officer", "accept as complete")
            self.assertFalse(stopped.allowed)
            self.assertIn(f"is {standing}", stopped.why_not[0].text)
        waived = assessed(dossier(), case(*met, judged("may-act", "waived", reason="known to the office")))
        self.assertTrue(waived.move("officer", "accept as complete").allowed)
        self.assertFalse(assessed(dossier(), case(*met[1:])).move("officer", "accept as complete").allowed)

    def test_what_was_paid_too_little_stops_acceptance(self) -> None:
        bigger = dossier(works_area="150")
        every = [judged(r.id, "met") for r in assessed(bigger, case(of=bigger)).requirements if r.asked]
        found = assessed(bigger, case(*every, of=bigger))
        # 150 × 465 = 69 750: 530.75 + 20 × 5.75 = 645.75; 65 % = 419.74; + 120.00 − 438.18 paid
        self.assertEqual(str(found.account.open), "101.56")
        self.assertIn("101.56", " ".join(w.text for w in found.move("officer", "accept as complete").why_not))
        self.assertTrue(found.move("applicant", "pay").allowed)

    def test_in_doubt_makes_no_point(self) -> None:
        found = assessed(dossier(), case(judged("may-act", "in doubt"), judged("plot-number", "wanting")))
        self.assertEqual([p.requirement for p in found.points], ["plot-number"])
        self.assertIn("Q-114/2", found.points[0].text)


class Rounds(unittest.TestCase):
    ASKED = letter(
        (1, "documents.site_plan", ("documents.site_plan",)), (2, "distance-stated", ("works.distance", "documents.site_plan"))
    )

    def test_each_point_says_what_it_still_needs(self) -> None:
        history = case(judged("documents.site_plan", "wanting"), self.ASKED)
        first = assessed(dossier(), history).rounds[0]
        self.assertEqual(
            [p.needs for p in first.points], ["a new file or a few words", "a new file or a changed answer or a few words"]
        )
        changed = assessed(dossier(works_distance="11.2"), history, words={1: "It is being drawn."})
        self.assertEqual([p.needs for p in changed.rounds[0].points], ["", ""])
        self.assertTrue(changed.move("applicant", "send the answers").allowed)
        self.assertFalse(assessed(dossier(), history).move("applicant", "send the answers").allowed)

    def test_unasked_changes_are_told_apart(self) -> None:
        history = case(self.ASKED)
        found = assessed(dossier(works_distance="11.2", works_area="82.1"), history).rounds[0]
        self.assertEqual([c.place for c in found.points[1].changes], ["works.distance"])
        self.assertEqual(
            [(u.change.place, u.change.was, u.change.now) for u in found.unasked], [("works.area", "95.8 m²", "82.1 m²")]
        )

    def test_after_the_answers(self) -> None:
        second = dossier(works_distance="11.2", works_area="82.1")
        came = h.Answered(at=at(2026, 11, 25), who="o", role="applicant", round=1, version=2, words={1: "Here.", 2: "Measured."})
        history = case(judged("documents.site_plan", "wanting"), self.ASKED, came, second=second)
        found = assessed(second, history, at(2026, 11, 25, 12))
        self.assertEqual(found.state, "Answers came back")
        self.assertEqual([p.state for p in found.rounds[0].points], ["answered", "answered"])
        self.assertFalse(found.requirement("documents.site_plan").judged)  # type: ignore[union-attr]
        self.assertEqual(found.next_officer, "Read 2 answers")
        # 438.18 paid; 82.1 m²: examination 286.00 + 120.00
        self.assertEqual(str(found.account.over), "32.18")
        reasons = " ".join(w.text for w in found.move("officer", "accept as complete").why_not)
        self.assertIn("neither closed nor asked again", reasons)
        self.assertIn("changed without being asked", reasons)
        taken = h.ChangeTaken(at=at(2026, 11, 25, 13), who="i", role="officer", place="works.area", version=2)
        closed = [h.PointClosed(at=at(2026, 11, 25, 13), who="i", role="officer", round=1, no=n) for n in (1, 2)]
        every = [judged(r.id, "met", 2) for r in found.requirements if r.asked]
        done = case(judged("documents.site_plan", "wanting"), self.ASKED, came, taken, *closed, *every, second=second)
        self.assertTrue(assessed(second, done, at(2026, 11, 25, 14)).move("officer", "accept as complete").allowed)


class TheDoor(unittest.TestCase):
    def test_now_needs_a_zone(self) -> None:
        with self.assertRaises(ValueError):
            assess(BW, dossier(), known=Known(QUILLHAVEN), now=at(2026, 11, 5).replace(tzinfo=None))

    @settings(max_examples=40)
    @given(
        st.dictionaries(
            st.sampled_from(["works", "place", "service", "odd"]),
            st.dictionaries(
                st.text(max_size=8),
                st.one_of(st.text(max_size=9), st.integers(), st.booleans(), st.none(), st.lists(st.text(max_size=3))),
            ),
        )
    )
    def test_whatever_is_answered_it_is_assessed_and_always_the_same(self, given_: dict) -> None:
        strange = Dossier(answers=given_)
        one, two = (ASSESSMENT.dump_json(assessment_view(assessed(strange))) for _ in range(2))
        self.assertEqual(one, two)

    def test_payments_with_one_key_count_once(self) -> None:
        history = case(PAID.model_copy(update={"at": at(2026, 11, 6)}))
        self.assertEqual(str(assessed(dossier(), history).account.paid), "438.18")

    def test_states_follow_the_history(self) -> None:
        one = (Version(no=1, at=at(2026, 11, 5), dossier=dossier()),)
        accepted = h.Accepted(at=at(2026, 11, 26), who="i", role="officer", target=date(2027, 1, 26))
        for entries, state in (
            ((FILED,), "Waiting for payment"),
            ((FILED, PAID), "Filed"),
            ((FILED, PAID, BEGAN), "Being checked"),
            ((FILED, PAID, BEGAN, Rounds.ASKED), "Answers wanted"),
            ((FILED, PAID, BEGAN, accepted), "Complete"),
        ):
            found = assessed(dossier(), History(entries=entries, versions=one), at(2026, 11, 27))
            self.assertEqual(found.state, state)
        self.assertEqual(SECTIONS in READINGS, True)
