"""The figures of the office for a time and a kind, from what the cases and the ledger hold."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import figures as f
from jolly_clerk.core.say import say
from jolly_clerk.core.states import FINAL, LIVE
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import kind_titles, office_calendar
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case, HistoryEntry
from jolly_clerk.store.till import Owed

#: of so many decided cases, the latest, the days of each side are told
MOST_DECIDED = 400


@dataclass(frozen=True, slots=True)
class Figures:
    """What was asked for, and the tables; ``kinds`` are all kinds with their titles."""

    since: date
    until: date
    kind: str
    kinds: tuple[tuple[str, str], ...]
    tables: tuple[f.Figure, ...]


def figures(office: Office, who: Who, since: date, until: date, kind: str = "") -> Figures:
    """The figures of a time and, where one is named, of a kind. Raises NotAllowed, Invalid for a time that ends before it begins."""
    if "figures" not in who.may.pages:
        raise NotAllowed(say("Figures are for leads and the auditor."))
    if until < since:
        raise Invalid(say("The time ends before it begins."), "until")
    titles, calendar = kind_titles(office), office_calendar(office)
    today, begins, ends = calendar.local_day(office.now()), calendar.day_begin(since), calendar.day_end(until)
    with read_session(office.engine) as session:
        open_ones = list(_open(session, kind, calendar))
        letters = [(case, at, letter) for case, at, letter in _letters(session, kind)]
        accepted = {case: own for case, own, at in _accepted(session, kind) if begins <= at < ends}
        owed = list(_owed(session, kind))
        came = [a for a in _came(session, kind) if since <= a.on <= until]
        back = [a for a in _back(session, kind, calendar) if since <= a.on <= until]
        decided = list(_decided(session, kind, begins, ends))
    ribbons: dict[str, list[dict[str, int]]] = defaultdict(list)
    for case in decided:
        ribbons[titles.get(case.kind, case.kind)].append(_days(office, case))
    tables = (
        f.open_by_kind(open_ones, titles, today),
        f.load_by_officer(open_ones, today),
        f.at_first_look(accepted, {case for case, _, _ in letters}, titles),
        f.common_points([letter for _, at, letter in letters if begins <= at < ends]),
        f.days_of_each_side(ribbons),
        f.runs_out(open_ones, today),
        f.taken(came, back, [a for a in owed if since <= a.on <= until]),
        f.to_come(owed, today),
    )
    return Figures(since, until, kind, tuple(sorted(titles.items())), tables)


def _of_kind(kind: str) -> list[Any]:
    return [Case.kept.is_(False), Case.erased_at.is_(None), *([Case.kind == kind] if kind else [])]


def _open(session: Session, kind: str, calendar: Calendar) -> Iterator[f.OpenCase]:
    wanted = select(Case.kind, Case.officer_id, Case.filed_at, Case.holder, Case.limit_day)
    rows = session.execute(wanted.where(Case.state.in_(LIVE), *_of_kind(kind))).all()
    called = names_in(session, {row.officer_id for row in rows if row.officer_id})
    for row in rows:
        officer = called.get(row.officer_id or "", "")
        yield f.OpenCase(row.kind, officer, calendar.local_day(row.filed_at), row.holder == "ours", row.limit_day)


def _said(session: Session, kind: str, what: str) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """The entries of a sort, with their case and its kind."""
    wanted = select(HistoryEntry.case_id, Case.kind, HistoryEntry.body, HistoryEntry.personal).join(
        Case, Case.id == HistoryEntry.case_id
    )
    wanted = wanted.where(HistoryEntry.body.contains(f'"what":"{what}"'), *_of_kind(kind))
    for case_id, own, body, personal in session.execute(wanted.order_by(HistoryEntry.case_id, HistoryEntry.no)):
        yield case_id, own, json.loads(body) | (json.loads(personal) if personal else {})


def _letters(session: Session, kind: str) -> Iterator[tuple[str, datetime, f.Letter]]:
    for case_id, _, entry in _said(session, kind, "letter sent"):
        asked = tuple((p["requirement"], p["title"]) for p in entry["points"])
        lane = f"{case_id}{entry.get('lane', '')}"
        yield case_id, datetime.fromisoformat(entry["at"]), f.Letter(lane, entry["round"], asked)


def _accepted(session: Session, kind: str) -> Iterator[tuple[str, str, datetime]]:
    for case_id, own, entry in _said(session, kind, "accepted"):
        if entry.get("completes", True):
            yield case_id, own, datetime.fromisoformat(entry["at"])


def _owed(session: Session, kind: str) -> Iterator[f.Amount]:
    wanted = select(Owed.until, Owed.amount).join(Case, Case.id == Owed.case_id).where(Owed.until.is_not(None), *_of_kind(kind))
    yield from (f.Amount(until, Decimal(amount)) for until, amount in session.execute(wanted).tuples() if until)


def _came(session: Session, kind: str) -> Iterator[f.Amount]:
    wanted = select(MoneyIn.value_day, Placing.amount).join(Placing, Placing.money_id == MoneyIn.id)
    wanted = wanted.join(Case, Case.id == Placing.case_id).where(Placing.charged_back_at.is_(None), *_of_kind(kind))
    yield from (f.Amount(on, Decimal(amount)) for on, amount in session.execute(wanted).tuples())


def _back(session: Session, kind: str, calendar: Calendar) -> Iterator[f.Amount]:
    wanted = select(Refund.left_at, Refund.amount).join(Case, Case.id == Refund.case_id)
    wanted = wanted.where(Refund.left_at.is_not(None), *_of_kind(kind))
    yield from (f.Amount(calendar.local_day(at), Decimal(amount)) for at, amount in session.execute(wanted).tuples() if at)


def _decided(session: Session, kind: str, begins: datetime, ends: datetime) -> Sequence[Case]:
    wanted = select(Case).where(Case.state.in_(FINAL), Case.changed_at >= begins, Case.changed_at < ends, *_of_kind(kind))
    return session.scalars(wanted.order_by(Case.changed_at.desc()).limit(MOST_DECIDED)).all()


def _days(office: Office, case: Case) -> dict[str, int]:
    """The calendar days that each side held a case."""
    with read_session(office.engine) as session:
        history = load_history(session, case.id)
    clock = assessed(office, case, history, len(history.entries)).assessment.clock
    found: dict[str, int] = defaultdict(int)
    for day in clock.ribbon if clock else ():
        found[day.holder] += 1
    return dict(found)


def table_of(figure: f.Figure) -> list[Sequence[f.Cell]]:
    """A figure as rows, its columns first."""
    return [figure.columns, *figure.rows]
