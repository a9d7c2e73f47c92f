"""The stages of the route table that come after the intake: editions that are written, permits with their inspections and holders."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.permits import inspecting
from jolly_clerk.office.rules import calendars, writing
from jolly_clerk.store.database import write_session
from jolly_clerk.store.permits import HeldPermit
from jolly_clerk.store.tables import Case, Person
from tests.helpers import LISBON
from tests.office.test_journey import Cases
from tests.photographs import photograph

INSPECTED = """
after_grant: {begin: {within: 24 months, article: "43"}, finish: {within: 60 months, article: "43"}}
inspections:
  visits: [{id: foundation, title: Foundation, says: The ground beneath.}]
  at: ["08:00", "10:00"]
  lasts: 2 hours
  again: 20 working days
  article: "45"
"""
#: the stages at which a permit is issued
ISSUED = ("granted", "booked", "inspected", "photographed", "permit offered")


def rules(test: Cases, stage: str) -> dict[str, str]:
    """An edition that is being written, laid before a lead, or published."""
    keeper = add_person(test.office, "kees", "Kees Lune", "rule-keeper")
    written = writing.begin(test.office, keeper, "", "ZX")
    told = calendars.calendar_page(test.office, keeper)
    calendars.keep_calendar(test.office, keeper, told.text.replace("version: 2026-01", "version: 2026-02"), 0)
    if stage == "rules":
        return {"written": written}
    calendars.ask_for_calendar(test.office, keeper)
    writing.ask_for_confirmation(test.office, keeper, written)
    if stage == "rules asked":
        return {"written": written}
    lena = add_person(test.office, "lena", "Lena Quill", "lead")
    return {"written": written, "published": writing.confirm(test.office, lena, written)}


def issued(test: Cases, stage: str, reference: str) -> None:
    """Granted and issued; with an inspection booked, or one whose hour has come."""
    reviewing.grant(test.office, person(test.office, "silas"), reference)
    if load_case(test.office, test.imre, reference).assessment.account.open:
        test.pay(reference)
    if stage == "permit offered":
        with write_session(test.office.engine) as session:
            session.get_one(Person, "odalys").mail = "odalys@renn.example"
            case = session.scalars(select(Case.id).where(Case.reference == reference)).one()
            session.add(HeldPermit(case_id=case, step="BX-26-00001-A", offered_to="odalys@renn.example", holder_id=None))
        return
    if stage != "granted":
        begins = datetime(2026, 11, 18, 10, tzinfo=LISBON)
        inspecting.book(test.office, test.odalys, reference, "foundation", begins)
    if stage in ("inspected", "photographed"):
        test.move_to(2026, 11, 18, 11)
    if stage == "photographed":
        inspecting.hold(test.office, test.imre, reference, 1, True, "Sound.", [("wall.jpg", photograph("north wall"))])
