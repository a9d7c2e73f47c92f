"""Inspections booked, moved and given up by the holder or the office, and what they found. Of each hour there is one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.happened import Attached
from jolly_clerk.core.inspections import Hour, VisitView, again_by, fault_of_day, hours_on, hours_to_choose, may_move, visit_views
from jolly_clerk.core.permit_entries import InspectionBooked, InspectionDropped, InspectionHeld, InspectionSoFar
from jolly_clerk.core.rulebook.inspecting import Inspections
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, by
from jolly_clerk.office.desk.talking import attached_files
from jolly_clerk.office.errors import Invalid, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.permits.holding import load_permit
from jolly_clerk.reading.read import true_type
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import BookedHour
from jolly_clerk.store.tables import Case

MOST_PHOTOGRAPHS = 20
#: the file types of a photograph
PICTURES = ("jpeg", "png")


def free_hours(office: Office, who: Who, reference: str, visit: str, first: date) -> tuple[Hour, ...]:
    """The free hours for an inspection in the fourteen days from ``first`` on. Raises NotFound."""
    loaded = load_permit(office, who, reference)
    _visit(loaded, visit)
    with read_session(office.engine) as session:
        taken = session.scalars(select(BookedHour.begins).where(BookedHour.kind == loaded.case.kind, BookedHour.day >= first))
        return hours_to_choose(loaded.assessment, visit, first, frozenset(taken))


def book(office: Office, who: Who, reference: str, visit: str, begins: datetime, seen: int | None = None) -> Loaded:
    """Book an inspection for an hour, or move the one that is booked to it.

    Raises NotFound, Invalid for an hour that there is not, NotReady for what stands against it or if somebody else was faster.
    """
    made: list[InspectionBooked] = []

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        view, rules = _visit(loaded, visit), _rules(loaded)
        so_far = loaded.so_far.permit
        waiting = so_far.waiting(visit)
        if view.why_not and not waiting:
            raise NotReady(view.why_not)
        if waiting and not may_move(waiting, loaded.known.calendar, office.now()):
            raise NotReady(say("It can be moved until the day before; that is over."))
        hour = _hour(loaded, rules, visit, begins)
        no = waiting.booked.no if waiting else len(so_far.inspections) + 1
        fee = waiting.booked.fee if waiting else view.cost
        made[:] = [
            InspectionBooked(
                **by(office, who), no=no, visit=visit, title=view.title, on=hour.on, hours=hour.said, begins=hour.begins, fee=fee,
                moved=waiting is not None,
            )
        ]  # fmt: skip
        return made

    def hold(session: Session, case: Case, entries: Sequence[h.Entry]) -> Sequence[h.Entry]:
        booked = made[0]
        _free(session, case, booked.no)
        if session.get(BookedHour, (case.kind, booked.begins)) is not None:
            raise NotReady(say("Somebody else has just taken this hour. Choose another."))
        session.add(BookedHour(kind=case.kind, begins=booked.begins, day=booked.on, case_id=case.id, no=booked.no))
        return entries

    return act(office, who, reference, "book an inspection", entries, seen, finish=hold, relies_on=("permit",), load=load_permit)


def give_up(office: Office, who: Who, reference: str, no: int, seen: int | None = None) -> Loaded:
    """Give up a booked inspection, until the day before. Raises NotFound, NotReady."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        one = _booked(loaded, no)
        if not may_move(one, loaded.known.calendar, office.now()):
            raise NotReady(say("It can be given up until the day before; that is over."))
        return [InspectionDropped(**by(office, who), no=no)]

    return act(
        office, who, reference, "book an inspection", entries, seen, finish=_frees(no), relies_on=("permit",), load=load_permit
    )


def hold(
    office: Office,
    who: Who,
    reference: str,
    no: int,
    passed: bool,
    words: str,
    photographs: Sequence[tuple[str, bytes]] = (),
    seen: int | None = None,
) -> Loaded:
    """Tell what an inspection found, with photographs (name and content). One that is not passed is made again within the period.

    Raises NotFound, Invalid without words for one that was not passed or for what is no photograph, NotReady before its hour.
    """
    words = " ".join(words.split())[:2000]
    if not passed and len(words) < 5:
        raise Invalid(say("Say what has to be put right; the holder reads it."), "words")
    if len(photographs) > MOST_PHOTOGRAPHS:
        raise Invalid(say("At most {most} photographs go with an inspection.", most=MOST_PHOTOGRAPHS), "photographs")
    if odd := next((name for name, content in photographs if true_type(content) not in PICTURES), ""):
        raise Invalid(say("“{name}” is no photograph: send JPEG or PNG.", name=odd[:80]), "photographs")
    kept = attached_files(office, who, photographs)

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        one = _booked(loaded, no)
        if office.now() < one.booked.begins:
            raise NotReady(say("It is not its hour yet."))
        again = None if passed else again_by(_rules(loaded), loaded.known.calendar, office.now())
        return [InspectionHeld(**by(office, who), no=no, passed=passed, words=words, again=again, photographs=kept)]

    return act(
        office, who, reference, "hold an inspection", entries, seen, finish=_frees(no), relies_on=("permit",), load=load_permit
    )


def photograph(office: Office, who: Who, reference: str, sha256: str) -> Attached:
    """A photograph that was taken at an inspection, by its content. Raises NotFound."""
    inspections = load_permit(office, who, reference).so_far.permit.inspections.values()
    taken = (photo for one in inspections if one.held for photo in one.held.photographs)
    found = next((photo for photo in taken if photo.sha256 == sha256), None)
    if found is None:
        raise NotFound(say("There is no such photograph."))
    return found


def _frees(no: int) -> Callable[[Session, Case, Sequence[h.Entry]], Sequence[h.Entry]]:
    """What sets the hour of an inspection free in the step that ends it."""

    def free(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        _free(session, case, no)
        return made

    return free


def _free(session: Session, case: Case, no: int) -> None:
    session.execute(delete(BookedHour).where(BookedHour.case_id == case.id, BookedHour.no == no))


def _rules(loaded: Loaded) -> Inspections:
    rules = loaded.rulebook.edition.inspections
    if rules is None:
        raise NotFound(say("This kind has no inspections."))
    return rules


def _visit(loaded: Loaded, visit: str) -> VisitView:
    found = next((v for v in visit_views(loaded.assessment) if v.id == visit), None)
    if found is None:
        raise NotFound(say("There is no such inspection."))
    return found


def _booked(loaded: Loaded, no: int) -> InspectionSoFar:
    one = loaded.so_far.permit.inspections.get(no)
    if one is None or one.held or one.dropped:
        raise NotFound(say("No such inspection is booked."))
    return one


def _hour(loaded: Loaded, rules: Inspections, visit: str, begins: datetime) -> Hour:
    """The hour that begins then. Raises Invalid if there is none, or if the inspection cannot be on that day."""
    calendar = loaded.known.calendar
    on = calendar.local_day(begins)
    if told := fault_of_day(loaded.assessment, visit, on):
        raise Invalid(told, "begins")
    hour = next((one for one in hours_on(rules, calendar, on) if one.begins == begins), None)
    if hour is None:
        raise Invalid(say("Inspections do not begin at this hour."), "begins")
    return hour
