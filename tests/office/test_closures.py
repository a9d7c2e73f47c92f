"""A day on which the office was shut: foreseen, declared, told in every case; what would end on it ends later, and nothing earlier."""

from __future__ import annotations

from datetime import date, time
from unittest.mock import patch

from jolly_clerk.core.shut import Shut
from jolly_clerk.office.cases import closures
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.closures import Foreseen, declare, declared, foresee
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.preparing import answering, attaching, signing
from jolly_clerk.office.preparing.filing import file
from jolly_clerk.office.views.case import look_at
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases, text_of

STORM = {"reason": "A storm; nobody could come in", "article": "4(4)"}


def days(found: Foreseen) -> dict[str, tuple[str, ...]]:
    return {row.reference: row.moves for row in found.touched}


class Closures(Cases):
    def asked(self) -> str:
        """A case whose letter went out on Thu 12 Nov 2026: answers are due Mon 14 Dec."""
        reference = self.filed(plan=SMALL_PLAN)
        self.move_to(2026, 11, 9, 9)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        self.move_to(2026, 11, 12, 15)
        checking.send_letter(self.office, self.imre, reference)
        return reference

    def letters(self) -> list[str]:
        return sorted(item.reference for item in self.office.post_room.items() if "-shut-" in item.key)

    def sound(self) -> None:
        self.assertEqual((list(verify(self.office)), rebuild(self.office)), ([], 0))

    def test_a_told_due_date_moves_and_the_applicant_gets_a_letter(self) -> None:
        asked, unpaid = self.asked(), file(self.office, self.odalys, self.draft(), take_gaps=True)  # pay by Thu 26 Nov
        shut = Shut(day=date(2026, 12, 14), **STORM)
        found = foresee(self.office, self.maud, shut)
        self.assertEqual(days(found), {asked: ("Last day to answer: Tue 15 Dec 2026 (it was Mon 14 Dec 2026).",)})
        self.assertEqual((found.cases, found.limits, found.come_back), (2, 1, 0))
        self.assertEqual((str(self.said(asked).rounds[0].due), self.letters()), ("2026-12-14", []))  # nothing was done yet
        self.assertEqual(days(declare(self.office, self.maud, shut)), days(found))
        self.assertEqual(str(self.said(asked).rounds[0].due), "2026-12-15")
        self.assertEqual(str(self.said(unpaid).clock.limit_day), "2026-11-26")  # type: ignore[union-attr]
        self.assertEqual(self.letters(), sorted([asked, unpaid]))
        letter = text_of(next((self.office.post_room.folder).glob(f"{asked}-shut-*.pdf")).read_bytes())
        for words in (
            "On Mon 14 Dec 2026 the office was shut: A storm; nobody could come in.",
            "By art. 4(4)",
            "Tue 15 Dec 2026",
        ):
            self.assertIn(words, letter)
        self.assertEqual([d.said for d in declared(self.office, self.maud)], ["Mon 14 Dec 2026"])
        # declared once more, nothing is done twice
        declare(self.office, self.maud, shut)
        self.assertEqual(self.letters(), sorted([asked, unpaid]))
        self.move_to(2026, 12, 15, 20)
        run_clock(self.office)
        self.assertEqual(self.said(asked).state, "Answers wanted")  # until 24:00
        self.sound()

    def test_the_office_does_not_count_the_day(self) -> None:
        reference = self.filed()  # covered Thu 5 Nov: ten working days
        before = self.said(reference).clock
        assert before and before.limit_day
        self.assertEqual(str(before.limit_day), "2026-11-19")
        declare(self.office, self.maud, Shut(day=date(2026, 11, 11), **STORM))
        after = self.said(reference).clock
        assert after
        self.assertEqual((str(after.limit_day), after.of, after.left), ("2026-11-20", before.of, before.left))

    def test_hours_move_what_would_end_on_the_day_and_count_it(self) -> None:
        reference = self.filed()
        shut = Shut(day=date(2026, 11, 19), begins=time(10), ends=time(16, 30), **STORM)
        found = declare(self.office, self.maud, shut)
        self.assertEqual(days(found)[reference], ("The office checks by Fri 20 Nov 2026 (it was Thu 19 Nov 2026).",))
        other = Shut(day=date(2026, 11, 18), begins=time(10), ends=time(11), **STORM)
        self.assertEqual(days(foresee(self.office, self.maud, other)), {})

    def test_a_case_that_lapsed_on_the_day_comes_back(self) -> None:
        asked, unpaid = self.asked(), file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.move_to(2026, 12, 15, 9)
        run_clock(self.office)
        self.assertEqual([self.said(r).state for r in (asked, unpaid)], ["Lapsed", "Lapsed"])
        self.move_to(2026, 12, 16, 9)
        found = declare(self.office, self.maud, Shut(day=date(2026, 12, 14), **STORM))
        self.assertEqual((found.come_back, days(found)), (1, {asked: ("Last day to answer: Fri 18 Dec 2026.",)}))
        self.assertEqual([self.said(r).state for r in (asked, unpaid)], ["Answers wanted", "Lapsed"])
        declare(self.office, self.maud, Shut(day=date(2026, 11, 26), **STORM))
        now = self.said(unpaid)
        self.assertEqual((now.state, str(now.clock and now.clock.limit_day)), ("Waiting for payment", "2026-12-18"))
        run_clock(self.office)
        self.assertEqual([self.said(r).state for r in (asked, unpaid)], ["Answers wanted", "Waiting for payment"])
        self.sound()
        answer = answering.begin_answering(self.office, self.odalys, asked)
        attaching.attach(self.office, self.odalys, answer, "site_plan", "plan.pdf", PLAN)
        signing.sign(self.office, self.odalys, answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, answer)
        self.assertEqual(self.said(asked).state, "Answers came back")

    def test_the_clock_job_goes_on_where_telling_was_broken_off(self) -> None:
        cases = [self.filed() for _ in range(3)]
        shut = Shut(day=date(2026, 11, 11), **STORM)
        with patch.object(closures, "MOST_LOOKED", 2):
            few = foresee(self.office, self.maud, shut)
        self.assertEqual((few.living, few.looked, few.cases), (3, 2, 2))
        with patch.object(closures, "AT_ONCE", 1):
            self.assertEqual(declare(self.office, self.maud, shut).cases, 3)
        self.assertEqual(len(self.letters()), 1)
        with patch.object(
            closures, "plain_letter", side_effect=RuntimeError
        ):  # what fails stops neither the others nor the clock
            run_clock(self.office)
        self.assertEqual(len(self.letters()), 1)
        run_clock(self.office)
        self.assertEqual(self.letters(), cases)
        self.assertEqual({str(self.said(r).clock.limit_day) for r in cases}, {"2026-11-20"})  # type: ignore[union-attr]
        self.assertEqual(closures.tell_closures(self.office), 0)
        self.sound()

    def test_what_is_filed_before_a_day_that_was_declared_leaves_it_out(self) -> None:
        declare(self.office, self.maud, Shut(day=date(2026, 11, 12), **STORM))
        reference = self.filed()
        self.assertEqual(str(self.said(reference).clock.limit_day), "2026-11-20")  # type: ignore[union-attr]
        self.assertTrue(any("was shut on Thu 12 Nov" in m.text for m in look_at(self.office, self.odalys, reference).story))
        self.sound()

    def test_what_cannot_be_declared(self) -> None:
        with self.assertRaises(NotAllowed):
            foresee(self.office, self.imre, Shut(day=date(2026, 11, 12), **STORM))
        for shut, why in (
            (Shut(day=date(2026, 11, 14), **STORM), "is closed already: Saturday"),
            (Shut(day=date(2028, 11, 14), **STORM), "is more than a year away"),
            (Shut(day=date(2026, 11, 12), reason="  "), "Say why the office was shut"),
        ):
            with self.subTest(why), self.assertRaisesRegex(Invalid, why):
                declare(self.office, self.maud, shut)
        with self.assertRaises(ValueError):
            Shut(day=date(2026, 11, 12), begins=time(10), reason="Half.")
