"""Who of the office has a case: taken over, handed on, given back, assigned, many at once; deputies; and a case reopened by a lead."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta

from jolly_clerk.office.cases import endings, lists, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, owning
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, OfficeError
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people import absences
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.post.mailing import outbox
from jolly_clerk.office.views.case import case_view
from tests.office.test_journey import SMALL_PLAN, Cases


class Owning(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.brisa = add_person(self.office, "brisa", "Brisa Quay", "officer", "brisa@office.example")
        add_person(self.office, "silas", "Silas Thorne", "reviewer")

    def owner(self, reference: str) -> str:
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual(loaded.case.officer_id or "", loaded.so_far.officer)
        return loaded.so_far.officer

    def mine(self, who: object) -> set[str]:
        tray = lists.tray(self.office, who, "mine")  # type: ignore[arg-type]
        return {row.reference for page in tray.groups for row in page.rows}

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail

    def test_taken_over_handed_on_given_back(self) -> None:
        reference = self.filed()
        self.assertEqual(self.owner(reference), "")
        owning.assign(self.office, self.brisa, reference, "brisa")
        self.assertEqual(self.owner(reference), "brisa")
        self.assertIn(reference, self.mine(self.brisa))
        told = self.refused(NotAllowed, lambda: owning.assign(self.office, self.imre, reference, "maud"))
        self.assertIn("take it over first", told)
        self.refused(Invalid, lambda: owning.assign(self.office, self.brisa, reference, "brisa"))
        owning.assign(self.office, self.brisa, reference, "imre", "  He knows   the quay ")
        self.assertEqual((self.owner(reference), self.mine(self.brisa)), ("imre", set()))
        owning.assign(self.office, self.imre, reference, "")
        self.assertEqual(self.owner(reference), "")
        owning.assign(self.office, self.maud, reference, "brisa")
        checking.begin_checking(self.office, self.imre, reference)
        self.assertEqual(self.owner(reference), "imre", "whoever begins checking has it")
        owning.assign(self.office, self.brisa, reference, "brisa")
        self.assertEqual(self.owner(reference), "brisa")
        inner = [m.text for m in case_view(self.office, self.imre, load_case(self.office, self.imre, reference)).story if m.inner]
        self.assertEqual(
            inner[:4],
            [
                "Brisa Quay took the case over",
                "Brisa Quay handed the case on to Imre Holt (He knows the quay)",
                "Imre Holt gave the case back: nobody has it",
                "Maud Ferrier handed the case on to Brisa Quay",
            ],
        )
        outer = case_view(self.office, self.odalys, load_case(self.office, self.odalys, reference))
        self.assertFalse([m for m in outer.story if "Brisa" in m.text], "who minds it inside is the office's own")
        self.assertEqual((outer.officer_id, outer.officers), ("", ()))
        self.assertEqual(list(verify(self.office)), [])

    def test_it_disturbs_nobody_who_judges(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        seen = load_case(self.office, self.imre, reference).entries
        owning.assign(self.office, self.maud, reference, "brisa")
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "met", "", seen)

    def test_who_cannot_have_it(self) -> None:
        reference = self.filed()
        for to in ("silas", "odalys", "nobody"):
            self.refused(NotFound, lambda to=to: owning.assign(self.office, self.maud, reference, to))  # type: ignore[misc]
        self.refused(NotAllowed, lambda: owning.assign(self.office, self.odalys, reference, "odalys"))
        endings.withdraw(self.office, self.odalys, reference)
        self.refused(NotReady, lambda: owning.assign(self.office, self.maud, reference, "brisa"))

    def test_many_at_once(self) -> None:
        first, second = self.filed(), self.filed()
        done = owning.assign_all(self.office, self.maud, [first, second, "BW-26-99999-X", first], "brisa")
        self.assertEqual(
            [(one.reference, bool(one.refused)) for one in done], [(first, False), (second, False), ("BW-26-99999-X", True)]
        )
        self.assertEqual(self.mine(self.brisa), {first, second})
        moved = owning.assign_from(self.office, self.maud, "brisa", "imre")
        self.assertEqual({one.reference for one in moved if not one.refused}, {first, second})
        self.refused(NotAllowed, lambda: owning.assign_from(self.office, self.imre, "imre", "brisa"))
        self.refused(Invalid, lambda: owning.assign_all(self.office, self.maud, [first] * 101, "brisa"))
        for reference in (first, second):
            checking.begin_checking(self.office, self.imre, reference)
            self.judge_all(reference)
        self.instant += timedelta(minutes=1)
        checking.accept(self.office, self.imre, first)
        over = owning.hand_over_all(self.office, self.imre, [first, second], "silas")
        self.assertEqual([bool(one.refused) for one in over], [False, True])
        self.instant += timedelta(minutes=2)
        run_clock(self.office)
        self.assertEqual(load_case(self.office, self.imre, first).assessment.state, "Under review")

    def test_a_deputy_has_the_cases_while_somebody_is_away(self) -> None:
        reference = self.filed()
        owning.assign(self.office, self.brisa, reference, "brisa")
        away = (date(2026, 11, 6), date(2026, 11, 10))
        absences.go_away(self.office, self.brisa, "brisa", "imre", *away)
        self.assertNotIn(reference, self.mine(self.imre))
        self.move_to(2026, 11, 6, 9)
        self.assertIn(reference, self.mine(self.imre))
        rows = {row.person: row for row in owning.load(self.office, self.maud)}
        self.assertEqual((rows["brisa"].open, rows["brisa"].away_until, rows["brisa"].deputy), (1, away[1], "Imre Holt"))
        self.assertEqual(rows["brisa"].nearest, reference)
        self.move_to(2026, 11, 11, 9)
        self.assertNotIn(reference, self.mine(self.imre))
        self.assertEqual(absences.absences(self.office, self.brisa), [])

    def test_absences_that_cannot_be(self) -> None:
        today, later = date(2026, 11, 5), date(2026, 11, 9)

        def note(who: object, *told: object) -> Callable[[], object]:
            return lambda: absences.go_away(self.office, who, *told)  # type: ignore[arg-type]

        self.refused(NotAllowed, note(self.imre, "brisa", "imre", today, later))
        self.refused(NotAllowed, note(self.odalys, "odalys", "imre", today, later))
        for told in (
            ("brisa", today, later),
            ("imre", later, today),
            ("imre", date(2026, 11, 1), date(2026, 11, 4)),
            ("silas", today, later),
        ):
            self.refused(Invalid, note(self.brisa, "brisa", *told))
        self.refused(NotFound, note(self.brisa, "brisa", "odalys", today, later))
        (made,) = absences.go_away(self.office, self.maud, "brisa", "imre", today, later)
        self.assertEqual([a.id for a in absences.absences(self.office, self.imre)], [made.id], "a deputy is told")
        self.refused(NotAllowed, lambda: absences.come_back(self.office, self.imre, made.id))
        self.assertEqual(absences.come_back(self.office, self.brisa, made.id), [])
        self.refused(NotFound, lambda: absences.come_back(self.office, self.brisa, made.id))

    def test_load_counts_what_is_open(self) -> None:
        first, second = self.filed(plan=SMALL_PLAN), self.filed()
        checking.begin_checking(self.office, self.imre, first)
        checking.judge(self.office, self.imre, first, "documents.site_plan", "wanting", "It is A4.")
        checking.send_letter(self.office, self.imre, first)
        rows = {row.person: (row.open, row.ours) for row in owning.load(self.office, self.imre)}
        self.assertEqual((rows["imre"], rows[""], rows["maud"]), ((1, 0), (1, 1), (0, 0)))
        self.assertEqual(owning.load(self.office, self.imre)[-1].nearest, second)
        self.refused(NotAllowed, lambda: owning.load(self.office, person(self.office, "silas")))


class Reopening(Cases):
    def test_what_was_not_accepted_goes_on(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        endings.do_not_accept(self.office, self.imre, reference, "It cannot be.")
        before = load_case(self.office, self.imre, reference)
        self.assertTrue(before.so_far.ended)
        with self.assertRaises(NotAllowed):
            owning.reopen(self.office, self.imre, reference, "The plan was there after all.")
        with self.assertRaises(Invalid):
            owning.reopen(self.office, self.maud, reference, " ")
        self.instant += timedelta(minutes=1)
        owning.reopen(self.office, self.maud, reference, "The plan was there after all.")
        now = load_case(self.office, self.imre, reference)
        self.assertEqual((now.assessment.state, now.so_far.refunds_due), ("Being checked", ()))
        self.assertEqual(refunding.ledger(self.office, self.maud).refunds, ())
        mail = [out.text for out, ref in outbox(self.office) if ref == reference and "reopened" in out.key]
        self.assertEqual(mail, ["Your case goes on: The plan was there after all."])
        self.judge_all(reference)
        self.instant += timedelta(minutes=1)
        self.assertEqual(checking.accept(self.office, self.imre, reference).assessment.state, "Complete")
        with self.assertRaises(NotReady):
            owning.reopen(self.office, self.maud, reference, "Once more.")
        self.assertEqual(list(verify(self.office)), [])

    def test_a_lapse_for_want_of_answers_gets_the_time_anew(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting", "It is A4.")
        checking.send_letter(self.office, self.imre, reference)
        self.move_to(2027, 3, 1)
        run_clock(self.office)
        self.assertEqual(self.said(reference).state, "Lapsed")
        owning.reopen(self.office, self.maud, reference, "The letter had gone to the wrong door.")
        self.assertEqual(self.said(reference).state, "Answers wanted")
        clock = self.said(reference).clock
        assert clock and clock.limit_day
        self.assertGreater(clock.limit_day, date(2027, 3, 20))
        self.instant += timedelta(hours=1)
        run_clock(self.office)
        self.assertEqual(self.said(reference).state, "Answers wanted")

    def test_what_the_applicant_ended_stays_ended(self) -> None:
        reference = self.filed()
        endings.withdraw(self.office, self.odalys, reference)
        with self.assertRaises(NotReady):
            owning.reopen(self.office, self.maud, reference, "We would like it back.")
