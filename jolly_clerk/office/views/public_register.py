"""The public register: searched by anybody, on the map, as JSON, CSV and GeoJSON; corrected and struck by a lead's decision."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Any

from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.permit import state_on
from jolly_clerk.core.public_change import fault_of_change
from jolly_clerk.core.say import say
from jolly_clerk.core.searching import words_in
from jolly_clerk.core.town_map import Point, ground_of, places_of
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import read_session
from jolly_clerk.store.public import PublicLine
from jolly_clerk.store.tables import Case

#: so many lines are shown at once, and so many leave in one file
PAGE, MOST = 50, 20_000
#: more words than these are not looked for
MOST_WORDS = 8


@dataclass(frozen=True, slots=True)
class RegisterLine:
    """A line of the register, as anybody sees it. ``stands`` is empty for what was refused; ``at`` are longitude and latitude."""

    reference: str
    kind: str
    title: str
    outcome: str
    decided: date
    starts: date | None
    until: date | None
    stands: str
    place: str
    says: tuple[tuple[str, str], ...]
    at: Point | None


@dataclass(frozen=True, slots=True)
class RegisterPage:
    """Lines that were found, the latest decided first: how many there are in all, and where the next page begins (empty if none does)."""

    count: int
    rows: tuple[RegisterLine, ...]
    after: str
    kinds: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is looked for: ``words`` in what the lines say (a place, a name, a number), a kind, decided from and until which day."""

    words: str = ""
    kind: str = ""
    since: date | None = None
    until: date | None = None

    def conditions(self) -> list[ColumnElement[bool]]:
        """The same over columns."""
        found = [PublicLine.words.contains(word, autoescape=True) for word in words_in(self.words)[:MOST_WORDS]]
        found += [PublicLine.kind == self.kind] if self.kind else []
        found += [PublicLine.decided >= self.since] if self.since else []
        return [*found, PublicLine.decided <= self.until] if self.until else found


def search(office: Office, wanted: Wanted, after: str = "") -> RegisterPage:
    """A page of the register. Raises Invalid for a place in it that is none."""
    with read_session(office.engine) as session:
        count = session.scalar(select(func.count()).select_from(PublicLine).where(*wanted.conditions())) or 0
        rows = _rows(session, wanted, PAGE + 1, after)
        kinds = session.execute(select(PublicLine.kind, func.max(PublicLine.title)).group_by(PublicLine.kind)).tuples().all()
    onwards = f"{rows[PAGE - 1].decided} {rows[PAGE - 1].reference}" if len(rows) > PAGE else ""
    return RegisterPage(count, tuple(_lines(office, rows[:PAGE])), onwards, tuple(sorted((k, t) for k, t in kinds)))


def everything(office: Office, wanted: Wanted) -> list[RegisterLine]:
    """All lines that were looked for, at most 20 000."""
    with read_session(office.engine) as session:
        rows = _rows(session, wanted, MOST, "")
    return list(_lines(office, rows))


def _rows(session: Session, wanted: Wanted, most: int, after: str) -> list[PublicLine]:
    found = select(PublicLine).where(*wanted.conditions())
    if after:
        day, _, reference = after.partition(" ")
        try:
            last = date.fromisoformat(day)
        except ValueError:
            raise Invalid(say("There is no such page."), "after") from None
        later = and_(PublicLine.decided == last, PublicLine.reference > reference)
        found = found.where(or_(PublicLine.decided < last, later))
    return list(session.scalars(found.order_by(PublicLine.decided.desc(), PublicLine.reference).limit(most)))


def _lines(office: Office, rows: Sequence[PublicLine]) -> Iterator[RegisterLine]:
    today, spots = office_calendar(office).local_day(office.now()), {name: _spots(office, name) for name in {r.map for r in rows}}
    for row in rows:
        stands = say(_stands(row, today)) if row.outcome == "granted" else ""
        says = tuple((str(label), str(value)) for label, value in row.says)
        yield RegisterLine(
            row.reference, row.kind, row.title, row.outcome, row.decided, row.starts, row.until, stands, row.place, says,
            spots[row.map].get(row.place),
        )  # fmt: skip


def _stands(row: PublicLine, today: date) -> str:
    """How what was granted stands today; what ended it before its time goes before its days."""
    over = state_on(today, row.starts or row.decided, row.until)
    return row.ended if row.ended and over == "expired" else over


def _spots(office: Office, name: str) -> dict[str, Point]:
    drawn = office.registers.map_of(name) if name else None
    return _places(drawn) if drawn else {}


@lru_cache(maxsize=4)
def _places(drawn: bytes) -> dict[str, Point]:
    try:
        return places_of(json.loads(drawn))
    except ValueError:
        return {}


def table(lines: Sequence[RegisterLine]) -> list[list[str]]:
    """Lines as rows of a table under their headings, a column for each thing that any of them says."""
    labels = list(dict.fromkeys(label for line in lines for label, _ in line.says))
    head = [
        say("Reference"),
        say("Kind"),
        say("Outcome"),
        say("Decided"),
        say("In force from"),
        say("In force until"),
        say("Stands"),
        say("Place"),
    ]
    rows = [
        [
            line.reference, line.title, line.outcome, line.decided.isoformat(), line.starts.isoformat() if line.starts else "",
            line.until.isoformat() if line.until else "", line.stands, line.place, *(dict(line.says).get(label, "") for label in labels),
        ]
        for line in lines
    ]  # fmt: skip
    return [[*head, *labels], *rows]


def geojson(lines: Sequence[RegisterLine]) -> str:
    """Lines as GeoJSON (RFC 7946): a feature each, without a geometry where no place of it is known."""
    features = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": list(line.at)} if line.at else None,
            "properties": {
                "reference": line.reference,
                "kind": line.kind,
                "title": line.title,
                "outcome": line.outcome,
                "decided": line.decided.isoformat(),
                "until": line.until.isoformat() if line.until else None,
                "stands": line.stands,
                "place": line.place,
                "says": dict(line.says),
            },
        }
        for line in lines
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False)


#: so many entries are drawn on the map at once
MOST_ON_MAP = 2000


def on_map(office: Office, wanted: Wanted) -> str:
    """What was looked for on the town's map, as GeoJSON (RFC 7946): land and streets (``what`` is *land*, *street*), and a point for each entry
    whose place is known (*entry*). Nothing else of a register's map is public."""
    with read_session(office.engine) as session:
        rows = _rows(session, wanted, MOST_ON_MAP, "")
        maps = session.scalars(select(PublicLine.map).where(PublicLine.map != "").distinct().order_by(PublicLine.map)).all()
    found = json.loads(geojson([line for line in _lines(office, rows) if line.at]))
    for feature in found["features"]:
        feature["properties"]["what"] = "entry"
    ground = [feature for name in maps[:1] if (drawn := office.registers.map_of(name)) for feature in _ground(drawn)]
    return json.dumps({**found, "features": [*ground, *found["features"]]}, ensure_ascii=False)


@lru_cache(maxsize=4)
def _ground(drawn: bytes) -> tuple[dict[str, Any], ...]:
    try:
        return tuple(ground_of(json.loads(drawn)))
    except ValueError:
        return ()


def change(
    office: Office, who: Who, reference: str, struck: bool, corrected: dict[str, str], because: str, seen: int | None = None
) -> Loaded:
    """Strike an entry, correct what it says, or take it in again: a lead's decision, with its reason. Raises NotAllowed, NotFound where
    there is none, Invalid with what is wrong with it."""
    loaded, because = load_case(office, who, reference), " ".join(because.split())[:1000]
    if not who.may.minds_people:
        raise NotAllowed(say("Only a lead changes the public register."))
    with read_session(office.engine) as session:
        line = session.scalars(
            select(PublicLine).join(Case, Case.id == PublicLine.case_id).where(Case.reference == reference)
        ).first()
    was_struck = any(e.struck for e in loaded.history.entries if isinstance(e, h.PublicEntryChanged))
    if line is None and not was_struck:
        raise NotFound(say("The public register has no entry of this case."))
    says = tuple((str(label), str(value)) for label, value in line.says) if line else None
    fault = fault_of_change(says, struck, corrected, because)
    if fault:
        raise Invalid(fault, "because")
    told = {label: " ".join(text.split())[:400] for label, text in corrected.items()}

    def entries(_: Loaded) -> list[h.PublicEntryChanged]:
        return [h.PublicEntryChanged(**by(office, who), struck=struck, corrected=told, because=because)]

    return act(office, who, reference, "", entries, seen)
