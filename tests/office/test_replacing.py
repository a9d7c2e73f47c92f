"""A letter that was wrong is replaced by another: reworded, left out, added; the clock stands still, the period begins anew."""

from __future__ import annotations

from jolly_clerk.office.desk import checking, handwork
from jolly_clerk.office.desk.replacing import NewWords, replace_letter
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import answering, attaching, drafts, signing
from jolly_clerk.office.views.case import look_at
from tests.office.test_journey import PLAN, ROOF, SMALL_PLAN, Cases, text_of


class Replacing(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed(plan=SMALL_PLAN)
        self.move_to(2026, 11, 6)
        checking.begin_checking(self.office, self.imre, self.reference)
        for id_ in ("documents.site_plan", "may-act"):
            checking.judge(self.office, self.imre, self.reference, id_, "wanting")
        checking.send_letter(self.office, self.imre, self.reference)
        self.before = self.said(self.reference)

    def replace(self, *points: NewWords) -> None:
        replace_letter(self.office, self.imre, self.reference, points)

    def test_reworded_left_out_and_added(self) -> None:
        site_plan = next(p.no for p in self.before.rounds[0].points if p.requirement == "documents.site_plan")
        answer = answering.begin_answering(self.office, self.odalys, self.reference)
        drafts.keep(self.office, self.odalys, answer, None, words={site_plan: "Here it is."})
        self.move_to(2026, 11, 10)
        self.replace(NewWords(site_plan, "Send the plan on A2."), NewWords(0, "A photograph, please.", "Photograph", file=True))
        now = self.said(self.reference)
        self.assertEqual(
            (now.state, [p.text for p in now.rounds[0].points]),
            ("Answers wanted", ["Send the plan on A2.", "A photograph, please."]),
        )
        self.assertEqual([str(r.due) for r in (self.before.rounds[0], now.rounds[0])], ["2026-12-07", "2026-12-10"])
        left_out = now.requirement("may-act")
        assert left_out
        self.assertFalse(left_out.judged)  # what was left out is wanting no more
        clock = now.clock
        assert clock
        self.assertEqual((clock.holder, clock.step), ("theirs", "answers"))  # it stood still all the while
        said = text_of(papers.paper(self.office, self.loaded(), len(self.loaded().history.entries))[1])
        self.assertIn("This letter takes the place of ours of Fri 6 Nov 2026", said)
        self.assertNotIn("Thank you for your answers", said)
        # the answers that were prepared are still there, and go to the new points
        attaching.attach(self.office, self.odalys, answer, "site_plan", "large.pdf", PLAN)
        attaching.attach(self.office, self.odalys, answer, "added-1", "photo.pdf", ROOF)
        signing.sign(self.office, self.odalys, answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, answer)
        points = self.said(self.reference).rounds[0].points
        self.assertEqual([(p.state, p.words) for p in points], [("answered", "Here it is."), ("answered", "")])
        self.assertEqual((list(verify(self.office)), rebuild(self.office)), ([], 0))

    def loaded(self):  # type: ignore[no-untyped-def]
        from jolly_clerk.office.cases.casework import load_case

        return load_case(self.office, self.imre, self.reference)

    def test_more_time_runs_from_the_new_letter(self) -> None:
        self.move_to(2026, 11, 10)
        self.replace(NewWords(1, "Send it on A3."))
        told = look_at(self.office, self.imre, self.reference).more_time[""]
        handwork.more_time(self.office, self.imre, self.reference)
        due = self.said(self.reference).rounds[0].due
        self.assertEqual((str(due), told.due), ("2026-12-28", due))

    def test_what_cannot_replace_it(self) -> None:
        for points in (
            (),
            (NewWords(1, "Once."), NewWords(1, "Twice.")),
            (NewWords(7, "None."),),
            (NewWords(1, " "),),
            (NewWords(0, "No title."),),
        ):
            with self.subTest(points), self.assertRaises(Invalid):
                self.replace(*points)
        handwork.letter_came_back(self.office, self.imre, self.reference)
        with self.assertRaises(NotReady):
            self.replace(NewWords(1, "Send it on A3."))
