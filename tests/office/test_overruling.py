"""What is met against the machine: with a reason, seen afterwards, and told before it is accepted."""

from __future__ import annotations

from jolly_clerk.office.cases.lists import tray
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.preparing import answering, drafts
from jolly_clerk.office.views.case import look_at
from tests.office.test_journey import SMALL_PLAN, Cases

WHY = "The sheet is A3; its frame was cut."


class Overruling(Cases):
    def test_met_over_a_fault_needs_a_reason_and_stays_seen(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        found = self.said(reference).requirement("documents.site_plan")
        assert found
        self.assertEqual((found.proposed, found.met_needs_reason), ("wanting", True))
        with self.assertRaises(Invalid) as refused:
            checking.judge(self.office, self.imre, reference, found.id, "met", " ")
        self.assertIn(found.because, str(refused.exception))
        self.assertFalse(self.said(reference).requirement(found.id).judged)  # type: ignore[union-attr]
        checking.judge(self.office, self.imre, reference, found.id, "met", WHY)
        given = self.said(reference).requirement(found.id)
        assert given and given.given
        self.assertEqual((given.standing, given.overruled, given.given.reason), ("met", True, WHY))
        self.assertEqual(given.given.overrules, found.because)
        story = look_at(self.office, self.imre, reference).story
        told = [m.text for m in story if "against the machine" in m.text]
        self.assertEqual(told, [f"Imre Holt judged “{found.title}” met, against the machine ({WHY}). {found.because}"])
        row = next(r for r in tray(self.office, self.imre, "mine").rows if r.reference == reference)
        self.assertIn(("overruled", True), row.squares)
        self.assertEqual(list(verify(self.office)), [])
        # the applicant sees nothing of it
        theirs = look_at(self.office, self.odalys, reference).assessment.requirement(found.id)
        assert theirs
        self.assertEqual((theirs.given, theirs.overruled, theirs.met_needs_reason), (None, False, False))
        # wanting and doubt overrule nothing, nor does taking it back
        for standing in ("wanting", "in doubt", None):
            checking.judge(self.office, self.imre, reference, found.id, standing)  # type: ignore[arg-type]
            now = self.said(reference).requirement(found.id)
            assert now
            self.assertFalse(now.overruled)

    def test_what_the_machine_finds_met_needs_no_reason(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        met = next(r for r in self.said(reference).requirements if r.asked and r.proposed == "met")
        checking.judge(self.office, self.imre, reference, met.id, "met")
        now = self.said(reference).requirement(met.id)
        assert now
        self.assertEqual((now.judged, now.overruled), (True, False))

    def test_a_point_that_is_still_wanting_is_closed_with_a_reason(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        # answered in words alone: the plan is still what it was
        answer = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(self.office, self.odalys, answer, None, words={1: "It is A3, only cut."})
        answering.send_answers(self.office, self.odalys, answer)
        with self.assertRaises(Invalid) as refused:
            checking.close_point(self.office, self.imre, reference, 1)
        self.assertIn("The machine says: ", str(refused.exception))
        checking.close_point(self.office, self.imre, reference, 1, reason=WHY)
        now = self.said(reference).requirement("documents.site_plan")
        assert now and now.given
        self.assertEqual((now.overruled, now.given.reason), (True, WHY))
