"""Confirm the rest: what the machine proposes as met, looked over, is given in one; nothing with a look or a fault is in it."""

from __future__ import annotations

from jolly_clerk.core.checklist.looking_over import confirmable, rests_on
from jolly_clerk.office.desk import checking, handwork
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.views.case import look_at
from tests.office.test_journey import SMALL_PLAN, Cases


class ConfirmRest(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, self.reference)

    def rest(self) -> list[str]:
        return [r.id for r in self.said(self.reference).requirements if confirmable(r)]

    def test_all_of_it_in_one_step_that_is_undone_in_one(self) -> None:
        rest = self.rest()
        self.assertGreater(len(rest), 2)
        self.assertNotIn("documents.site_plan", rest)  # a fault
        self.assertNotIn("documents.sections", rest)  # to read by a person
        done = checking.confirm_rest(self.office, self.imre, self.reference, rest)
        given = {r.id: r.standing for r in done.assessment.requirements if r.judged}
        self.assertEqual(given, dict.fromkeys(rest, "met"))
        self.assertEqual(self.rest(), [])
        told = look_at(self.office, self.imre, self.reference).story[-1].text
        self.assertTrue(told.endswith("” met, looked over with the rest"), told)
        self.assertEqual(list(verify(self.office)), [])
        handwork.undo(self.office, self.imre, self.reference)
        self.assertEqual(self.rest(), rest)

    def test_one_that_is_none_of_the_rest_gives_nothing(self) -> None:
        rest = self.rest()
        for wrong, error in (("documents.site_plan", Invalid), ("documents.sections", Invalid), ("nowhere", NotFound)):
            with self.assertRaises(error):
                checking.confirm_rest(self.office, self.imre, self.reference, [*rest, wrong])
            self.assertEqual(self.rest(), rest)
        checking.judge(self.office, self.imre, self.reference, rest[0], "met")
        with self.assertRaises(Invalid) as refused:
            checking.confirm_rest(self.office, self.imre, self.reference, rest)
        self.assertIn("has to be judged by itself", str(refused.exception))

    def test_the_evidence_that_has_to_have_been_on_the_screen(self) -> None:
        found = {r.id: rests_on(r) for r in self.said(self.reference).requirements if r.asked}
        plan = next(r for r in self.said(self.reference).requirements if r.id == "documents.site_plan").files[0].id
        self.assertEqual(found["documents.site_plan"], (f"{plan} 1",))
        self.assertEqual((found["signature"], found["fee.at_filing"]), ((), ()))
        self.assertTrue(all(found[id_] for id_ in found if id_ not in ("signature", "fee.at_filing")))
