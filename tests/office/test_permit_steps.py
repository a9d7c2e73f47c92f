"""Short filings on what was granted: begun from it, decided by themselves where everything is clear, written into its history."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from sqlalchemy import select

from jolly_clerk.core.in_words import day
from jolly_clerk.core.permit import PermitView
from jolly_clerk.core.say import speaking
from jolly_clerk.demo.drawings import statement
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import Loaded, load_case, moments_of
from jolly_clerk.office.desk import checking, reviewing
from jolly_clerk.office.desk.reviewing import check_permit
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import names, person
from jolly_clerk.office.permits import inspecting, stepping
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.views import public_register as register
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.permits import BookedHour
from jolly_clerk.store.tables import Case
from jolly_clerk.texts import catalogue
from tests.helpers import LISBON, DemoTest
from tests.photographs import photograph

PICTURE = photograph("north wall")


class OnPermits(DemoTest):
    """The demo's permits, on its day."""

    def setUp(self) -> None:
        super().setUp()
        self.odalys, self.imre, self.maud = (person(self.office, id_) for id_ in ("odalys", "imre", "maud"))

    def granted(self, kind: str) -> str:
        """The oldest permit of odalys of a kind."""
        with read_session(self.office.engine) as session:
            own = Case.kind == kind, Case.applicant_id == "odalys", Case.permit_code.is_not(None)
            return session.scalars(select(Case.reference).where(*own).order_by(Case.filed_at)).first() or ""

    def today(self) -> date:
        return self.loaded(self.granted("TL")).known.calendar.local_day(self.office.now())

    def loaded(self, reference: str) -> Loaded:
        return load_case(self.office, self.imre, reference)

    def permit(self, reference: str) -> PermitView:
        view = self.loaded(reference).assessment.permit
        assert view is not None
        return view

    def prepared(self, reference: str, kind: str, answers: dict[str, dict[str, Any]]) -> str:
        """A short filing begun on a permit, with these answers besides, signed; its draft."""
        draft = stepping.begin_step(self.office, self.odalys, reference, kind)
        now = drafts.open_draft(self.office, self.odalys, draft)
        given = {part: dict(had) if isinstance(had, dict) else had for part, had in now.dossier.answers.items()}
        for part, told in answers.items():
            given[part] = {**given.get(part, {}), **told}
        drafts.keep(self.office, self.odalys, draft, None, answers=given)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        return draft

    def filed(self, reference: str, kind: str, answers: dict[str, dict[str, Any]]) -> str:
        return filing.file(self.office, self.odalys, self.prepared(reference, kind, answers))

    def pay(self, reference: str) -> None:
        at = paying.ask_payment(self.office, self.odalys, reference)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")

    def decide(self, reference: str) -> None:
        """Checked, complete, handed over, granted."""
        checking.begin_checking(self.office, self.imre, reference)
        for r in self.loaded(reference).assessment.requirements:
            if r.asked:
                checking.judge(self.office, self.imre, reference, r.id, "met", "Looked at by hand.")
        checking.accept(self.office, self.imre, reference)
        ruth = next(p for p in reviewing.reviewers(self.office, self.loaded(reference).case.kind))
        reviewing.hand_over(self.office, self.imre, reference, ruth.id)
        reviewing.grant(self.office, ruth, reference)

    def story(self, reference: str) -> list[str]:
        loaded = self.loaded(reference)
        return [m.text for m in moments_of(loaded, names(self.office, loaded.people))]


class AnotherPitch(OnPermits):
    def asked(self, first: int, last: int) -> dict[str, dict[str, Any]]:
        today = self.today()
        days = (today + timedelta(days=first), today + timedelta(days=last))
        return {"change": {"stall": 1, "pitch": "market_cross", "first": days[0].isoformat(), "last": days[1].isoformat()}}

    def test_it_is_begun_with_what_is_known_and_holds_once_it_is_paid(self) -> None:
        licence = self.granted("TL")
        offer = next(o for o in stepping.offers(self.office, self.loaded(licence)) if o.kind == "TP")
        self.assertEqual((offer.cost, offer.why_not, offer.draft), ("EUR 12.00", (), ""))
        draft = stepping.begin_step(self.office, self.odalys, licence, "TP")
        self.assertEqual(stepping.begin_step(self.office, self.odalys, licence, "TP"), draft)
        held = drafts.open_draft(self.office, self.odalys, draft).dossier.answers["held"]
        ends = self.permit(licence).day("ends")
        self.assertEqual(held, {"number": licence, "holder": "Odalys Renn", "ends": str(ends), "used": "10"})
        step = self.filed(licence, "TP", self.asked(0, 14))
        self.assertEqual(self.loaded(step).assessment.state, "Waiting for payment")
        self.assertEqual(len(self.loaded(licence).so_far.permit.steps), 1)  # the one of the demo
        self.pay(step)
        self.assertEqual(self.loaded(step).assessment.state, "Granted")
        view = self.permit(licence)
        self.assertEqual((view.state, view.says), ("changed until", f"changed until {day(self.today() + timedelta(days=14))}"))
        told = self.story(licence)[-1]
        self.assertIn(f"Another pitch for a time ({step}): Another pitch: Market Cross in the place of stall 1", told)
        with speaking(catalogue("pt"), "pt"):
            self.assertIn("Outro lugar: Market Cross em vez do da banca 1", self.story(licence)[-1])
        code = self.loaded(licence).so_far.issued.code  # type: ignore[union-attr]
        self.assertTrue(check_permit(self.office, code).stands.startswith("changed until"))
        self.assertEqual(list(verify(self.office)), [])

    def test_at_most_28_days_in_all_also_when_two_are_filed_at_once(self) -> None:
        licence = self.granted("TL")
        first = self.filed(licence, "TP", self.asked(1, 10))
        draft = self.prepared(licence, "TP", self.asked(21, 35))
        self.pay(first)  # meanwhile the other one was prepared
        with self.assertRaises(NotReady) as told:
            filing.file(self.office, self.odalys, draft)
        self.assertIn("It is filled in anew", told.exception.detail)
        again = drafts.open_draft(self.office, self.odalys, draft)
        self.assertEqual(again.dossier.answers["held"]["used"], "20")  # type: ignore[call-overload, index]
        self.assertIn("15 days more make 35", " ".join(why.text for why in again.assessment.left))

    def test_two_that_wait_for_payment_together_are_not_both_granted_by_themselves(self) -> None:
        licence = self.granted("TL")
        two = [self.filed(licence, "TP", self.asked(*days)) for days in ((1, 10), (21, 35))]
        for step in two:
            self.pay(step)
        states = [self.loaded(step).assessment.state for step in two]
        self.assertEqual(states, ["Granted", "Filed"])  # the second one waits for an officer, who sees what differs
        self.assertEqual(len(self.loaded(licence).so_far.permit.steps), 2)

    def test_nobody_else_and_nothing_else(self) -> None:
        licence = self.granted("TL")
        with self.assertRaises(NotFound):
            stepping.begin_step(self.office, person(self.office, "tamsin"), licence, "TP")
        with self.assertRaises(NotAllowed):
            stepping.begin_step(self.office, self.imre, licence, "TP")
        with self.assertRaises(NotFound):
            stepping.begin_step(self.office, self.odalys, licence, "BX")


class Lives(OnPermits):
    """A permit from its grant to its end."""

    def go(self, day: date, hour: int = 10) -> None:
        at = datetime.combine(day, time(hour), LISBON)
        self.office.now = lambda: at

    def working(self, day: date, reference: str) -> date:
        calendar = self.loaded(reference).known.calendar
        while not calendar.is_working(day):
            day += timedelta(days=1)
        return day

    def test_a_stall_licence_changed_renewed_and_given_up(self) -> None:
        licence, today = self.granted("TL"), self.today()
        change = {"stall": 2, "pitch": "tide_street", "first": today.isoformat(), "last": today.isoformat()}
        self.pay(self.filed(licence, "TP", {"change": change}))
        self.assertEqual(self.permit(licence).state, "changed until")
        ends = self.permit(licence).day("ends")
        assert ends
        offered = {o.kind: o for o in stepping.offers(self.office, self.loaded(licence))}
        self.assertIn("It can be renewed from", offered["TR"].why_not[0])
        with self.assertRaises(NotReady):
            stepping.begin_step(self.office, self.odalys, licence, "TR")
        self.go(self.working(ends - timedelta(days=45), licence))
        self.assertEqual(self.permit(licence).state, "in force")
        draft = stepping.begin_step(self.office, self.odalys, licence, "TR")
        stalls = drafts.open_draft(self.office, self.odalys, draft).dossier.answers["stalls"]
        self.assertEqual([s["pitch"] for s in stalls], ["fish_quay", "lamp_lane"])  # type: ignore[call-overload, index]
        cover = statement("Liability insurance", ("Insured: Odalys Renn", f"In force until {ends.day} March {ends.year + 1}"))
        attaching.attach(self.office, self.odalys, draft, "insurance", "cover.pdf", cover)
        renewal = self.filed(licence, "TR", {})
        self.pay(renewal)
        self.assertEqual(self.loaded(renewal).assessment.state, "Filed")  # an officer looks at the insurance
        self.decide(renewal)
        renewed = self.permit(licence).day("ends")
        self.assertEqual(renewed, ends.replace(year=ends.year + 1))
        last = self.working(date(ends.year, 12, 1), licence)
        self.go(last)
        paid = self.loaded(licence).so_far.paid
        end = self.filed(licence, "TE", {"end": {"day": (last + timedelta(days=3)).isoformat()}})
        self.assertEqual(self.loaded(end).assessment.state, "Granted")  # nothing is due, everything is clear
        self.assertEqual(self.permit(licence).state, "in force")
        self.go(last + timedelta(days=3))
        self.assertEqual(self.permit(licence).state, "cancelled")
        back = self.loaded(licence).so_far.refunds_due
        price, months = (self.loaded(end).sheet.values[f"held.{name}"] for name in ("price", "months"))
        self.assertEqual([b.amount for b in back], [min((price * 3 / months).quantize(Decimal("0.01"), ROUND_HALF_UP), paid)])
        self.assertEqual([o.why_not == () for o in stepping.offers(self.office, self.loaded(licence))], [False] * 4)
        lines = [line for line in register.everything(self.office, register.Wanted()) if line.reference == licence]
        self.assertEqual([line.stands for line in lines], ["cancelled"])
        self.assertEqual([told for one in (licence, renewal, end) for told in verify(self.office, one)], [])

    def test_a_building_permit_over_three_inspections_to_finished(self) -> None:
        permit = self.building()
        self.assertIn("Still to be passed: Foundation, Frame, Final inspection.", self.offer(permit, "BF").why_not)
        self.filed(permit, "BB", {"done": {"day": self.today().isoformat()}})
        self.assertIsNone(self.permit(permit).day("begin"))
        self.assertEqual(self.offer(permit, "BB").why_not, ("That it was begun is told already.",))
        with self.assertRaises(NotReady) as early:
            self.book(permit, "frame")
        self.assertIn("“Foundation” has to be passed first.", early.exception.detail)
        self.held(permit, "foundation", True, "")
        for failed in range(3):
            booked = self.book(permit, "frame")
            fee = booked.so_far.permit.inspections[failed + 2].booked.fee
            self.assertEqual(fee, Decimal("60.00") if failed == 2 else Decimal(0))
            if fee:
                self.assertEqual(booked.assessment.account.open, fee)
                self.pay(permit)
                self.assertEqual(self.loaded(permit).assessment.account.open, 0)
            self.held(permit, "frame", failed == 2, "The ties are missing at the north wall.", booked=True)
        self.held(permit, "final", True, "As it was permitted.")
        self.assertEqual(self.offer(permit, "BF").why_not, ())
        done = self.filed(permit, "BF", {"done": {"day": self.loaded(permit).now.date().isoformat()}})
        self.assertEqual(self.loaded(done).assessment.state, "Granted")
        self.assertEqual(self.permit(permit).state, "finished")
        told = self.story(permit)
        self.assertTrue(
            any("Inspection 2 was not passed: The ties are missing at the north wall. Again by" in t for t in told), told
        )
        with self.assertRaises(NotReady):
            self.book(permit, "final")
        self.assertEqual(list(verify(self.office)), [])

    def building(self) -> str:
        """A permit of odalys that is issued just now."""
        with read_session(self.office.engine) as session:
            own = Case.kind == "BW", Case.applicant_id == "odalys", Case.state == "Granted", Case.permit_code.is_(None)
            reference = session.scalars(select(Case.reference).where(*own)).one()
        self.pay(reference)
        return reference

    def offer(self, reference: str, kind: str) -> stepping.StepOffer:
        return next(o for o in stepping.offers(self.office, self.loaded(reference)) if o.kind == kind)

    def book(self, reference: str, visit: str) -> Loaded:
        first = self.loaded(reference).now.astimezone(LISBON).date()
        hours = inspecting.free_hours(self.office, self.odalys, reference, visit, first)
        begins = hours[0].begins if hours else self.office.now() + timedelta(days=1)
        return inspecting.book(self.office, self.odalys, reference, visit, begins)

    def held(self, reference: str, visit: str, passed: bool, words: str, booked: bool = False) -> None:
        """Booked unless it is, and its hour has come."""
        loaded = self.loaded(reference) if booked else self.book(reference, visit)
        one = loaded.so_far.permit.waiting(visit)
        assert one
        with self.assertRaises(NotReady):
            inspecting.hold(self.office, self.imre, reference, one.booked.no, True, "")
        self.office.now = lambda: one.booked.begins + timedelta(hours=2)
        photographs = [("north wall.png", PICTURE)]
        inspecting.hold(self.office, self.imre, reference, one.booked.no, passed, words, photographs)

    def test_hours_are_booked_once_moved_and_given_up_until_the_day_before(self) -> None:
        permit = self.building()
        first = self.today()
        free = inspecting.free_hours(self.office, self.odalys, permit, "foundation", first)
        self.assertTrue({hour.said for hour in free} == {"08:00 to 10:00", "10:00 to 12:00", "12:00 to 14:00", "14:00 to 16:00"})
        inspecting.book(self.office, self.odalys, permit, "foundation", free[0].begins)
        self.assertNotIn(free[0], inspecting.free_hours(self.office, self.odalys, permit, "foundation", first))
        moved = inspecting.book(self.office, self.odalys, permit, "foundation", free[9].begins)
        self.assertEqual([one.booked.on for one in moved.so_far.permit.inspections.values()], [free[9].on])
        self.assertIn(free[0], inspecting.free_hours(self.office, self.odalys, permit, "foundation", first))
        for odd, told in (
            (free[9].begins + timedelta(minutes=1), "do not begin at this hour"),
            (datetime.combine(first, time(10), LISBON), "for tomorrow or later"),
            (datetime.combine(date(first.year, 12, 25), time(10), LISBON), "closed"),
            (datetime.combine(first + timedelta(days=200), time(10), LISBON), "at most 120 days"),
        ):
            with self.assertRaises(Invalid) as refused:
                inspecting.book(self.office, self.odalys, permit, "foundation", odd)
            self.assertIn(told, refused.exception.detail)
        self.go(free[9].on, 0)
        for late in (
            lambda: inspecting.book(self.office, self.odalys, permit, "foundation", free[-1].begins),
            lambda: inspecting.give_up(self.office, self.odalys, permit, 1),
        ):
            with self.assertRaises(NotReady) as over:
                late()
            self.assertIn("until the day before", over.exception.detail)
        self.go(free[9].on - timedelta(days=1), 23)
        inspecting.give_up(self.office, self.odalys, permit, 1)
        self.assertEqual(self.loaded(permit).so_far.permit.waiting("foundation"), None)
        tamsin = person(self.office, "tamsin")
        with write_session(self.office.engine) as session:  # an hour that somebody else has
            other = session.scalars(select(Case.id).where(Case.kind == "BW", Case.applicant_id == "tamsin")).first() or ""
            session.add(BookedHour(kind="BW", begins=free[9].begins, day=free[9].on, case_id=other, no=1))
        with self.assertRaises(NotReady) as taken:
            inspecting.book(self.office, self.odalys, permit, "foundation", free[9].begins)
        self.assertIn("Somebody else has just taken this hour.", taken.exception.detail)
        with self.assertRaises(NotFound):
            inspecting.book(self.office, tamsin, permit, "foundation", free[12].begins)
        with self.assertRaises(NotAllowed):  # its edition has no inspections
            inspecting.book(self.office, tamsin, self.of("tamsin", "BW"), "foundation", free[12].begins)

    def of(self, who: str, kind: str) -> str:
        with read_session(self.office.engine) as session:
            own = Case.kind == kind, Case.applicant_id == who, Case.permit_code.is_not(None)
            return session.scalars(select(Case.reference).where(*own)).first() or ""

    def test_what_is_told_of_an_inspection_is_looked_at(self) -> None:
        permit = self.building()
        booked = self.book(permit, "foundation")
        self.office.now = lambda: booked.so_far.permit.inspections[1].booked.begins
        for passed, words, photographs in (
            (False, "no", []),
            (True, "", [("x.png", b"<svg/>")]),
            (True, "", [("x.png", PICTURE)] * 21),
        ):
            with self.assertRaises(Invalid):
                inspecting.hold(self.office, self.imre, permit, 1, passed, words, photographs)
        with self.assertRaises(NotAllowed):
            inspecting.hold(self.office, self.odalys, permit, 1, True, "")
        with self.assertRaises(NotFound):
            inspecting.hold(self.office, self.imre, permit, 2, True, "")
        done = inspecting.hold(self.office, self.imre, permit, 1, True, "", [("x.png", PICTURE)])
        found = done.so_far.permit.inspections[1].held
        self.assertEqual([(p.name, p.size) for p in found.photographs], [("x.png", len(PICTURE))])  # type: ignore[union-attr]

    def test_a_visa_that_is_over_is_not_prolonged(self) -> None:
        corvin = person(self.office, "corvin")
        visa = self.of("corvin", "QV")
        offer = self.offer(visa, "QX")
        self.assertEqual((offer.why_not, self.permit(visa).state in ("not yet in force", "in force")), ((), True))
        ends = self.permit(visa).day("ends")
        assert ends
        draft = stepping.begin_step(self.office, corvin, visa, "QX")
        held = drafts.open_draft(self.office, corvin, draft).dossier.answers["held"]
        self.assertEqual((held["ends"], held["persons"], held["extended"]), (str(ends), "1", "0"))  # type: ignore[call-overload, index]
        self.go(ends + timedelta(days=1))
        self.assertEqual(self.permit(visa).state, "expired")
        self.assertIn("is expired; it has to be “not yet in force” or “in force”.", self.offer(visa, "QX").why_not[0])

    def test_a_patent_stands_in_the_register_and_goes_to_another_owner(self) -> None:
        corvin, silas = (person(self.office, id_) for id_ in ("corvin", "silas"))
        with read_session(self.office.engine) as session:
            patent = session.scalars(select(Case.reference).where(Case.kind == "IP", Case.state == "Under review")).one()
        reviewing.grant(self.office, silas, patent)
        if self.loaded(patent).assessment.account.open:
            at = paying.ask_payment(self.office, corvin, patent)
            notices.at_stand_in(self.office, corvin, at.key, "approved")
        self.assertEqual(self.owner(patent), "Corvin Pell")
        draft = stepping.begin_step(self.office, corvin, patent, "IT")
        now = drafts.open_draft(self.office, corvin, draft).dossier.answers
        new = {"new": {"owner": "Odalys Renn", "seat": "4 Saltern Slip, Quill"}}
        drafts.keep(self.office, corvin, draft, None, answers={**now, **new})
        for slot in ("deed", "acceptance"):
            paper = statement(slot.title(), ("Corvin Pell gives the patent to Odalys Renn, who accepts it.",))
            attaching.attach(self.office, corvin, draft, slot, f"{slot}.pdf", paper)
        signing.sign(self.office, corvin, draft, "Corvin Pell")
        step = filing.file(self.office, corvin, draft)
        at = paying.ask_payment(self.office, corvin, step)
        notices.at_stand_in(self.office, corvin, at.key, "approved")
        self.assertEqual((self.owner(patent), self.loaded(step).assessment.state), ("Corvin Pell", "Filed"))
        self.decide(step)
        self.assertEqual((self.owner(patent), self.permit(patent).state), ("Odalys Renn", "transferred"))

    def owner(self, patent: str) -> str:
        """Whom the public register names as the owner."""
        (line,) = (one for one in register.everything(self.office, register.Wanted(kind="IP")) if one.reference == patent)
        return dict(line.says)["Owner"]
