"""The clock's shapes run through the office: letters, answers, reminders, lapses and consent by the clock job."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.core import history as h
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, handwork, reviewing
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.preparing import answering, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.helpers import EDITION, answers, at
from tests.office.test_endings import Endings
from tests.office.test_journey import text_of

#: a question that the day of a hearing answers
HEARING = '      - {id: hearing, ask: When is the hearing?, type: date, article: "31(1)"}\n      - id: begun_yet\n'


class Shapes(Endings):
    last = date(2026, 7, 1)

    def published(self, after_grant: str = "", **periods: str) -> None:
        """An edition of the next day whose clock says this, and this of the days after the grant."""
        plain = {
            "check": 'within: 10 working days, article: "34"', "answers": 'within: 30 days, once_more: 15 days, remind: [7, 2], article: "35"',
            "pay": 'within: 14 days, article: "36"', "decision": 'within: 40 working days, article: "37"',
        }  # fmt: skip
        said = "".join(f"  {name}: {{{text}}}\n" for name, text in (plain | periods).items())
        self.last += timedelta(days=1)
        day_ = self.last
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", f"in_force: {day_}", 1)
        text = text.replace("      - id: begun_yet\n", HEARING, 1)
        head, _, tail = text.partition("\nclock:\n")
        rest = tail.split("\n")
        after = next(n for n, line in enumerate(rest) if line and not line.startswith(" "))
        file = self.folder / "BW" / f"{day_}.yaml"
        file.parent.mkdir(exist_ok=True)
        file.write_text(f"{head}\n{after_grant}\nclock:\n{said}\n" + "\n".join(rest[after:]), "utf-8")
        publish(self.office, file)

    def letter(self, reference: str) -> None:
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        checking.send_letter(self.office, self.imre, reference)

    def clock(self, reference: str):  # type: ignore[no-untyped-def]
        found = load_case(self.office, self.imre, reference)
        assert found.assessment.clock
        gone = [d for d in found.assessment.clock.ribbon if not d.to_come]
        first = found.known.calendar.local_day(found.so_far.filed.at)  # type: ignore[union-attr]
        self.assertEqual(len(gone), (found.known.calendar.local_day(found.now) - first).days + 1)
        return found.assessment.clock

    def state_at(self, reference: str, *when: int) -> str:
        """The state after the clock job ran at an instant."""
        self.move_to(*when)
        run_clock(self.office)
        return load_case(self.office, self.imre, reference).assessment.state


class Running(Shapes):
    def test_answers_in_hours_lapse_at_the_hour(self) -> None:
        self.published(answers='within: 36 hours, once_more: 12 hours, article: "35"')
        reference = self.paid()
        self.move_to(2026, 11, 6, 9)
        self.letter(reference)
        self.assertEqual(self.clock(reference).short, "36 hours left")
        self.move_to(2026, 11, 7, 20)
        handwork.more_time(self.office, self.odalys, reference)
        self.assertEqual(self.clock(reference).said, "until Sun 8 Nov 09:00")
        self.move_to(2026, 11, 8, 8, 59)
        run_clock(self.office)
        self.assertEqual(load_case(self.office, self.imre, reference).assessment.state, "Answers wanted")
        self.move_to(2026, 11, 8, 9)
        run_clock(self.office)
        self.assertEqual(load_case(self.office, self.imre, reference).assessment.state, "Lapsed")

    def test_begins_anew_and_received_later(self) -> None:
        self.published(
            check='within: 10 working days, after_answers: begins anew, article: "34"',
            answers='within: 30 days, received: 3 working days, remind: [7, 2], article: "35"',
        )
        reference = self.paid()
        self.move_to(2026, 11, 12, 15)
        self.letter(reference)
        clock = self.clock(reference)
        self.assertEqual((clock.limit_day, clock.since), (date(2026, 12, 18), date(2026, 11, 17)))
        self.move_to(2026, 12, 11, 9)
        run_clock(self.office)
        told = [e for e in load_case(self.office, self.imre, reference).history.entries if e.what == "reminded"]
        self.assertEqual([e.due for e in told], [date(2026, 12, 18)])
        draft = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(self.office, self.odalys, draft, None, answers(works_area="82.1"), words={1: "It is large enough."})
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        answering.send_answers(self.office, self.odalys, draft)
        clock = self.clock(reference)
        self.assertEqual((clock.used, clock.of, clock.limit_day), (0, 10, date(2026, 12, 29)))

    def test_silence_grants_with_the_instant_of_the_limit(self) -> None:
        self.published(decision='within: 10 days, if_closed: stays, silence: granted, article: "37"')
        reference = self.paid()
        self.complete(reference)
        self.assertIn("If nobody decides by the end of the last day, it is granted by silence.", self.clock(reference).why)
        limit = self.clock(reference).limit_day
        self.assertEqual(limit, date(2026, 11, 16))
        self.move_to(2026, 11, 16, 23, 59)
        run_clock(self.office)
        self.assertEqual(load_case(self.office, self.imre, reference).assessment.state, "Complete")
        self.move_to(2026, 11, 17, 7)
        run_clock(self.office)
        loaded = load_case(self.office, self.imre, reference)
        granted = loaded.so_far.granted
        assert granted is not None
        self.assertEqual((loaded.assessment.state, granted.at), ("Granted", loaded.known.calendar.day_end(limit)))
        self.assertIn("granted by silence", granted.grounds)
        self.assertIsNone(loaded.so_far.issued)  # what is due at issue is not paid
        self.assertGreater(loaded.assessment.account.open, Decimal(0))
        self.pay(reference)
        self.assertIsNotNone(load_case(self.office, self.imre, reference).so_far.issued)
        with self.assertRaises(Exception):  # noqa: B017 - whatever stops it
            reviewing.grant(self.office, self.silas, reference)

    def test_what_was_granted_has_its_days_and_its_holder_is_reminded(self) -> None:
        self.published(
            'after_grant: {begin: {within: 6 months, article: "43(1)"}, ends: {on: "case.filed + days(455)", article: "43(2)"}, remind: [60, 14]}\n'
        )
        reference = self.paid()
        self.complete(reference)
        reviewing.hand_over(self.office, self.imre, reference, "silas")
        reviewing.grant(self.office, self.silas, reference)
        self.assertIsNone(load_case(self.office, self.imre, reference).assessment.permit)  # not issued yet
        self.pay(reference)
        loaded = load_case(self.office, self.imre, reference)
        permit, issued = loaded.assessment.permit, loaded.so_far.issued
        assert permit is not None
        assert issued is not None
        begin, ends = date(2027, 5, 6), date(2028, 2, 3)
        self.assertEqual([(d.what, d.day, d.article) for d in permit.days], [("begin", begin, "43(1)"), ("ends", ends, "43(2)")])
        paper = text_of(self.office.vault.get(issued.permit_sha256))
        self.assertIn("To be begun by", paper)
        self.assertIn("6 May 2027 (art. 43(1))", paper)

        def reminded() -> int:
            run_clock(self.office)
            run_clock(self.office)  # nothing goes out twice
            entries = load_case(self.office, self.imre, reference).history.entries
            return sum(isinstance(e, h.Reminded) for e in entries)

        said = []
        for on in (date(2027, 3, 6), date(2027, 3, 7), date(2027, 4, 21), date(2027, 4, 22), date(2027, 5, 7), date(2027, 12, 5)):
            self.move_to(on.year, on.month, on.day, 8)
            said.append(reminded())
        self.assertEqual(said, [0, 1, 1, 2, 2, 3])
        with read_session(self.office.engine) as session:
            mail = session.scalars(select(Outgoing).where(Outgoing.key == f"{reference}-reminder-1")).one()
        self.assertIn("has to be begun", text_of(self.office.vault.get(mail.pdf_sha256)))
        for on, stands in ((ends, "in force"), (date(2028, 2, 4), "expired")):
            self.move_to(on.year, on.month, on.day, 23, 59)
            public = reviewing.check_permit(self.office, issued.code)
            self.assertEqual(public.stands, stands)
            self.assertIn(("In force until", "Thu 3 Feb 2028"), [(t.label, t.value) for t in public.says])

    def test_an_urgent_case_has_periods_of_its_own(self) -> None:
        self.published(
            check='within: 10 working days, instead: [{when: works.area > 90, within: 24 office hours, article: "34(2)"}], article: "34"'
        )
        plain, urgent = (
            filing.file(self.office, self.odalys, self.draft(works_area=n), take_gaps=True) for n in ("82.1", "95.8")
        )
        for reference in (plain, urgent):
            self.pay(reference)
        self.assertEqual([self.clock(r).unit for r in (plain, urgent)], ["working days", "office hours"])
        self.assertIn("art. 34(2)", self.clock(urgent).why[0])

    def test_silence_sends_one_letter(self) -> None:
        self.published(decision='within: 10 days, silence: granted, article: "37"')
        reference = self.paid()
        self.complete(reference)
        self.move_to(2026, 11, 18, 7)
        run_clock(self.office)
        with read_session(self.office.engine) as session:
            keys = session.scalars(select(Outgoing.key).where(Outgoing.key.like("%granted%"))).all()
        self.assertEqual(len(keys), 1)


class Limits(Shapes):
    """Where each shape of a period ends, and that the clock job does at that instant what it has to do."""

    def test_a_payment_in_office_hours(self) -> None:
        self.published(pay='within: 20 office hours, article: "36"')
        reference = self.unpaid()  # Thu 10:00: 7.5 hours that day, 8.5 on Friday, 4 on Monday
        self.assertEqual(self.state_at(reference, 2026, 11, 9, 12, 59), "Waiting for payment")
        self.assertEqual(self.clock(reference).limit_at, at(2026, 11, 9, 13))
        self.assertEqual(self.state_at(reference, 2026, 11, 9, 13), "Lapsed")

    def test_a_last_day_that_is_closed_stays(self) -> None:
        self.published(answers='within: 15 days, if_closed: stays, remind: [2], article: "35"')
        reference = self.paid()
        self.move_to(2026, 11, 6, 9)
        self.letter(reference)
        self.assertEqual(self.state_at(reference, 2026, 11, 21, 23, 59), "Answers wanted")  # a Saturday
        self.assertEqual(self.clock(reference).limit_day, date(2026, 11, 21))
        self.assertEqual(self.state_at(reference, 2026, 11, 22, 0), "Lapsed")

    def test_a_last_day_that_is_closed_moves(self) -> None:
        self.published(answers='within: 15 days, remind: [2], article: "35"')
        reference = self.paid()
        self.move_to(2026, 11, 6, 9)
        self.letter(reference)
        self.assertEqual(self.state_at(reference, 2026, 11, 23, 23, 59), "Answers wanted")
        self.assertEqual(self.state_at(reference, 2026, 11, 24, 0), "Lapsed")

    def test_more_time_in_months(self) -> None:
        self.published(answers='within: 2 weeks, once_more: 1 month, article: "35"')
        reference = self.paid()
        self.move_to(2026, 11, 6, 9)
        self.letter(reference)
        self.assertEqual(self.clock(reference).limit_day, date(2026, 11, 20))
        handwork.more_time(self.office, self.odalys, reference)
        self.assertEqual(self.clock(reference).limit_day, date(2026, 12, 21))  # the 20th is a Sunday
        self.assertEqual(self.state_at(reference, 2026, 12, 21, 23), "Answers wanted")
        self.assertEqual(self.state_at(reference, 2026, 12, 22, 0), "Lapsed")

    def test_the_check_from_filing_or_from_payment(self) -> None:
        for said, limit in (("filing", date(2026, 11, 19)), ("payment", date(2026, 11, 24))):
            with self.subTest(said=said):
                self.published(check=f'within: 10 working days, from: {said}, article: "34"')
                self.move_to(2026, 11, 5, 10)
                reference = self.unpaid()
                self.move_to(2026, 11, 10, 12)
                self.pay(reference)
                self.assertEqual(self.clock(reference).limit_day, limit)

    def test_answers_at_the_latest_before_the_hearing(self) -> None:
        self.published(
            answers='within: 30 days, at_latest: {before: works.hearing, within: 5 working days}, remind: [3], article: "35"'
        )
        reference = self.paid(works_hearing="2026-11-27")
        self.move_to(2026, 11, 6, 9)
        self.letter(reference)
        self.assertEqual(self.state_at(reference, 2026, 11, 17, 9), "Answers wanted")
        reminded = [e for e in load_case(self.office, self.imre, reference).history.entries if isinstance(e, h.Reminded)]
        self.assertEqual([e.due for e in reminded], [date(2026, 11, 20)])
        self.assertEqual(self.state_at(reference, 2026, 11, 20, 23), "Answers wanted")
        self.assertEqual(self.state_at(reference, 2026, 11, 21, 0), "Lapsed")

    def test_weeks_and_a_year(self) -> None:
        self.published(check='within: 6 weeks, article: "34"', decision='within: 1 year, silence: granted, article: "37"')
        reference = self.paid()
        self.assertEqual(
            (self.clock(reference).limit_day, self.clock(reference).unit), (date(2026, 12, 18), "days")
        )  # the 17th is Founders' Day
        self.complete(reference)
        self.assertEqual(self.clock(reference).limit_day, date(2027, 11, 8))  # the 6th is a Saturday
        self.assertEqual(self.state_at(reference, 2027, 11, 8, 23), "Complete")
        self.assertEqual(self.state_at(reference, 2027, 11, 9, 0), "Granted")

    def test_a_printed_letter_counts_from_the_third_working_day(self) -> None:
        self.published(
            answers='within: 30 days, once_more: 15 days, printed: {when: works.area > 90, received: 3 working days, article: "41(3)"}, article: "35"'
        )
        mailed, printed = (self.paid(works_area=area) for area in ("82.1", "95.8"))
        self.move_to(2026, 11, 12, 15)
        for reference in (mailed, printed):
            self.letter(reference)
        self.assertEqual([self.clock(r).limit_day for r in (mailed, printed)], [date(2026, 12, 14), date(2026, 12, 18)])
        self.assertIn("The letter of Thu 12 Nov counts as received on Tue 17 Nov.", self.clock(printed).why)
        handwork.more_time(self.office, self.odalys, printed)
        self.assertEqual(self.clock(printed).limit_day, date(2027, 1, 4))  # 45 days from 17 Nov are Fri 1 Jan
        self.assertEqual(self.state_at(mailed, 2026, 12, 15, 0), "Lapsed")
        self.assertEqual(self.state_at(printed, 2027, 1, 4, 23), "Answers wanted")
        self.assertEqual(self.state_at(printed, 2027, 1, 5, 0), "Lapsed")


class TwoCalendars(Shapes):
    """The board works on Tuesdays and Thursdays alone, and not in the week of 16 Nov."""

    BOARD = """
others:
  board:
    name: Sittings of the board
    office_ends: "12:00"
    working_days: [Tuesday, Thursday]
    closed: [{title: Recess of the board, how: period, month: 11, day: 16, to_month: 11, to_day: 20}]
"""

    def test_one_period_by_the_boards_calendar_the_others_by_the_offices(self) -> None:
        calendar = (SHIPPED / "calendars" / "quillhaven.yaml").read_text("utf-8")
        (self.folder / "calendars").mkdir()
        (self.folder / "calendars" / "quillhaven.yaml").write_text(calendar + self.BOARD, "utf-8")
        self.published(check='within: 4 working days, by: board, article: "34"')
        reference = self.paid()
        clock = self.clock(reference)  # paid on Thu 5 Nov at 10: 10, 12, 24 and 26 Nov, and not 17 or 19 Nov
        self.assertEqual((clock.limit_day, clock.short), (date(2026, 11, 26), "4 of 4 working days left"))
        self.assertIn("It is counted by the calendar “Sittings of the board”.", clock.why)
        self.move_to(2026, 11, 12, 9)
        self.assertEqual(self.clock(reference).left, 2)
        self.letter(reference)
        self.assertEqual(self.clock(reference).limit_day, date(2026, 12, 14))  # 30 days, by the office's own

    def test_a_calendar_that_is_not_there(self) -> None:
        with self.assertRaises(Invalid) as caught:
            self.published(check='within: 4 working days, by: board, article: "34"')
        self.assertEqual(str(caught.exception), "the calendar `quillhaven` has no `board` among its `others`")
