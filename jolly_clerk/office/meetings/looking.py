"""The pages of meetings: all of them with what waits, and one with its agenda."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.meetings import closes_on, meeting_of, now_on, why_not_minute_yet
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.meetings.planning import (
    MOST_ITEMS,
    Body,
    bodies,
    may_plan,
    meeting_row,
    need_office,
    rules_of_meetings,
)
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names, names_in
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import read_session
from jolly_clerk.store.meetings import AgendaItem, PlannedMeeting
from jolly_clerk.store.tables import Case

#: so many meetings that are over are shown
MOST_PAST = 30


@dataclass(frozen=True, slots=True)
class MeetingLine:
    """A meeting in a list: who meets, when and where, how many cases are on its agenda, of which how many have a result. ``called_off`` says
    why it does not take place; empty if it does."""

    id: str
    body: str
    title: str
    day: date
    at: str
    place: str
    cases: int
    minuted: int
    called_off: str


@dataclass(frozen=True, slots=True)
class WaitingCase:
    """A case under review that waits for an agenda: of which body, since when it is with the reviewer, and until when it is to be decided."""

    reference: str
    title: str
    body: str
    reviewer: str
    limit: date | None


@dataclass(frozen=True, slots=True)
class MeetingsPage:
    """All meetings: those to come, the soonest first; those that are over, the latest first; what waits for an agenda; who meets.
    ``may_plan`` tells that whoever asks plans them."""

    bodies: tuple[Body, ...]
    waiting: tuple[WaitingCase, ...]
    to_come: tuple[MeetingLine, ...]
    past: tuple[MeetingLine, ...]
    may_plan: bool


@dataclass(frozen=True, slots=True)
class ItemView:
    """A case on an agenda: its number there, whoever applied, who decides, what was minuted in which words. ``says`` is the result in words;
    ``may_minute`` tells that whoever asks can minute it now, else ``why_not`` says why not;
    ``revision`` is the state of the case that was seen."""

    reference: str
    title: str
    kind: str
    applicant: str
    reviewer: str
    signed: tuple[str, ...]
    state: str
    result: str
    says: str
    words: str
    may_minute: bool
    why_not: str
    revision: int


@dataclass(frozen=True, slots=True)
class MeetingView:
    """A meeting with its agenda in order. ``closes`` is the last day on which cases of an edition in force go on it."""

    line: MeetingLine
    items: tuple[ItemView, ...]
    closes: date | None
    may_order: bool
    may_call_off: bool


def _lines(office: Office, session: Session, rows: Sequence[PlannedMeeting], who: Who) -> list[MeetingLine]:
    wanted = select(AgendaItem.meeting_id, AgendaItem.result).join(Case, Case.id == AgendaItem.case_id)
    wanted = wanted.where(AgendaItem.meeting_id.in_([row.id for row in rows]), *visible(who))
    count, minuted = dict[str, int](), dict[str, int]()
    for meeting, result in session.execute(wanted).tuples():
        count[meeting] = count.get(meeting, 0) + 1
        minuted[meeting] = minuted.get(meeting, 0) + bool(result)
    zone = office_calendar(office, session).zone
    return [
        MeetingLine(
            row.id, row.body, row.title, row.day, f"{row.begins.astimezone(zone):%H:%M}", row.place, count.get(row.id, 0),
            minuted.get(row.id, 0), row.called_off,
        )
        for row in rows
    ]  # fmt: skip


def meetings_page(office: Office, who: Who) -> MeetingsPage:
    """All meetings and what waits for them. Raises NotAllowed."""
    need_office(who)
    today = office_calendar(office).local_day(office.now())
    known = bodies(office)
    titles = {body.id: body.title for body in known}
    with read_session(office.engine) as session:
        come = list(session.scalars(select(PlannedMeeting).where(PlannedMeeting.day >= today).order_by(PlannedMeeting.begins)))
        over = select(PlannedMeeting).where(PlannedMeeting.day < today).order_by(PlannedMeeting.begins.desc()).limit(MOST_PAST)
        to_come, past = _lines(office, session, come, who), _lines(office, session, list(session.scalars(over)), who)
        wanted = select(Case, AgendaItem.body).join(AgendaItem, AgendaItem.case_id == Case.id)
        wanted = wanted.where(AgendaItem.meeting_id == "", *visible(who)).order_by(Case.sort_at, Case.reference)
        rows = session.execute(wanted.limit(MOST_ITEMS)).tuples().all()
        named = names_in(session, [case.reviewer_id for case, _ in rows])
    waiting = tuple(
        WaitingCase(c.reference, c.title, titles.get(body, body), named.get(c.reviewer_id or "", ""), c.limit_day)
        for c, body in rows
    )
    return MeetingsPage(known, waiting, tuple(to_come), tuple(past), may_plan(who))


def meeting_view(office: Office, who: Who, meeting: str) -> MeetingView:
    """A meeting with its agenda. Raises NotAllowed, NotFound."""
    line, loaded = with_cases(office, who, meeting)
    with read_session(office.engine) as session:
        begins = meeting_row(session, meeting).begins
    known = names(office, {id_ for one in loaded for id_ in one.people})
    calendar = office_calendar(office)
    rules = [m for one in loaded if (m := meeting_of(one.rulebook, one.so_far))] or [
        r for r in rules_of_meetings(office) if r.body == line.body
    ]
    closes = min((closes_on(rule, line.day, calendar) for rule in rules), default=None)
    over = begins <= office.now()
    return MeetingView(
        line,
        tuple(_item(office, who, one, meeting, known) for one in loaded),
        closes,
        may_plan(who) and not line.called_off,
        may_plan(who) and not line.called_off and not line.minuted and not over,
    )


def with_cases(office: Office, who: Who, meeting: str) -> tuple[MeetingLine, list[Loaded]]:
    """A meeting with the cases on its agenda that somebody may see, in order."""
    need_office(who)
    with read_session(office.engine) as session:
        (line,) = _lines(office, session, [meeting_row(session, meeting)], who)
        wanted = select(Case.reference).join(AgendaItem, AgendaItem.case_id == Case.id)
        wanted = wanted.where(AgendaItem.meeting_id == meeting, Case.erased_at.is_(None), *visible(who))
        references = list(session.scalars(wanted.order_by(AgendaItem.position, AgendaItem.case_id)))
    return line, [load_case(office, who, reference) for reference in references]


def _item(office: Office, who: Who, loaded: Loaded, meeting: str, known: dict[str, str]) -> ItemView:
    so_far, case = loaded.so_far, loaded.case
    at = next(one for one in reversed(so_far.agendas) if one.put.meeting == meeting and not one.off)
    handed = so_far.handed
    signed = [entry for id_ in (handed.beside if handed else ()) if (entry := so_far.signed_off.get(id_))]
    why = ""
    try:
        move = loaded.assessment.move(who.role, "minute")
        why = move.why_not[0].text if move.why_not else ""
    except KeyError:
        why = say("Officers and leads minute what a meeting comes to.")
    now = now_on(so_far)
    if not why and (now is None or now.put.meeting != meeting):
        why = say("It is on another agenda by now.")
    why = why or why_not_minute_yet(at, office.now())
    return ItemView(
        case.reference,
        case.title,
        loaded.rulebook.edition.title,
        known.get(case.applicant_id, ""),
        known.get(handed.to, "") if handed else "",
        tuple(f"{known.get(e.who, e.who)}: {e.words or say('nothing against it')}" for e in signed),
        case.state,
        at.minuted.result if at.minuted else "",
        say(at.minuted.result) if at.minuted else "",
        at.minuted.words if at.minuted else "",
        not why,
        why,
        loaded.entries,
    )
