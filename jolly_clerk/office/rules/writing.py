"""Editions written in the browser by a rule-keeper: begun from one that is published or from nothing, checked as they are typed, tried on
their examples and on past cases, laid before a lead, and published when the lead confirms.

An edition can be taken back until the day from which it is in force; a case never changes its edition.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.rulebook.comparing import compare
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.completing import Completion, completions
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale, TooLarge
from jolly_clerk.office.lifetimes import EDITION_AHEAD, after
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.checking import CheckedText, check_edition
from jolly_clerk.office.rules.replaying import Progress, replay
from jolly_clerk.office.rules.rulebooks import office_calendar, publish_text, rulebook
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, read_calendar, read_rulebook
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.rules import CalendarText, EditionDraft
from jolly_clerk.store.tables import Case, PublishedEdition

MOST_LETTERS = 1_000_000
#: what an edition of a new kind is begun with
PATTERN = SHIPPED / "pattern.yaml"


@dataclass(frozen=True, slots=True)
class EditionLine:
    """A published edition: from which day, whether it decides ``now`` or is still to ``come``, and over how many cases."""

    sha256: str
    id: str
    in_force: date
    now: bool
    to_come: bool
    cases: int


@dataclass(frozen=True, slots=True)
class DraftLine:
    """An edition that is being written: who kept it last and when, and whether it waits for a lead."""

    id: str
    kept_at: datetime
    by: str
    asked: bool


@dataclass(frozen=True, slots=True)
class KindLine:
    """A kind with its editions, the oldest first, and what is being written of it."""

    kind: str
    title: str
    part_of: str
    editions: tuple[EditionLine, ...]
    drafts: tuple[DraftLine, ...]


@dataclass(frozen=True, slots=True)
class WrittenEdition:
    """An edition that is being written, with what the check says of it. ``writes`` tells that whoever looks may write in it, ``confirms``
    that they may confirm it; ``before`` is the text of the edition that it was begun from."""

    id: str
    kind: str
    text: str
    before: str
    revision: int
    kept_at: datetime
    by: str
    asked_at: datetime | None
    asked_by: str
    writes: bool
    confirms: bool
    checked: CheckedText


def shelf(office: Office, who: Who) -> list[KindLine]:
    """Every kind with its editions and what is being written, each followed by what belongs to it. Raises NotAllowed."""
    need_page(who)
    today = office_calendar(office).local_day(office.now())
    with read_session(office.engine) as session:
        published = list(session.scalars(select(PublishedEdition).order_by(PublishedEdition.kind, PublishedEdition.in_force)))
        cases = dict(
            session.execute(select(Case.edition_sha256, func.count()).where(Case.kept.is_(False)).group_by(Case.edition_sha256))
            .tuples()
            .all()
        )
        drafts = list(session.scalars(select(EditionDraft).order_by(EditionDraft.kept_at.desc())))
        called = names_in(session, {d.kept_by for d in drafts})
    found = []
    for kind in sorted({p.kind for p in published} | {d.kind for d in drafts}):
        own = [p for p in published if p.kind == kind]
        current = max((p.in_force for p in own if p.in_force <= today), default=None)
        lines = tuple(
            EditionLine(
                p.sha256, f"{kind} {p.in_force}", p.in_force, p.in_force == current, p.in_force > today, cases.get(p.sha256, 0)
            )
            for p in own
        )
        edition = rulebook(office, own[-1].sha256).edition if own else None
        written = tuple(
            DraftLine(d.id, d.kept_at, called.get(d.kept_by, d.kept_by), d.asked_at is not None) for d in drafts if d.kind == kind
        )
        latest = next((_said_in(d.text, "title") for d in drafts if d.kind == kind), "")
        title = edition.title if edition else latest or say("A new kind")
        found.append(KindLine(kind, title, (edition.sub_kind_of or "") if edition else "", lines, written))
    return sorted(found, key=lambda line: (line.part_of or line.kind, line.part_of, line.kind))


def begin(office: Office, who: Who, of: str, kind: str) -> str:
    """Begin an edition from a published one (``of``, by its hash), or one of a new ``kind`` from a pattern; returns its id.

    Raises NotAllowed, NotFound, Invalid for a kind that there is.
    """
    need_writer(who)
    starts = office_calendar(office).local_day(after(office.now(), EDITION_AHEAD))
    with read_session(office.engine) as session:
        source = session.get(PublishedEdition, of) if of else None
        taken = session.scalars(select(PublishedEdition.kind).where(PublishedEdition.kind == kind)).first()
    if of and source is None:
        raise NotFound(say("There is no such edition."))
    if not of and (taken or len(kind) != 2 or not kind.isascii() or not kind.isalpha() or not kind.isupper()):
        raise Invalid(say("A new kind is called by two capital letters that no other kind has."), "kind")
    if source is not None:
        text = _with(office.vault.get(source.sha256).decode(), in_force=str(starts))
        kind = source.kind
    else:
        told = {"kind": kind, "in_force": str(starts), "calendar": _calendar_name(office), "as_of": str(starts)}
        text = _with(PATTERN.read_text("utf-8"), **told)
    row = EditionDraft(
        id=new_id(),
        kind=kind,
        text=text,
        based_on=of,
        revision=0,
        kept_at=office.now(),
        kept_by=who.id,
        asked_at=None,
        asked_by="",
    )
    with write_session(office.engine) as session:
        session.add(row)
        return row.id


def _with(text: str, **told: str) -> str:
    """The text with other words at some of its keys, wherever they stand on a line of their own."""
    for key, value in told.items():
        text = re.sub(rf"^( *{key}:) .*$", rf"\g<1> {value}", text, count=1, flags=re.MULTILINE)
    return text


def open_edition(office: Office, who: Who, id_: str) -> WrittenEdition:
    """An edition that is being written. Raises NotAllowed, NotFound."""
    need_page(who)
    with read_session(office.engine) as session:
        row = _row(session, id_)
        called = names_in(session, {row.kept_by, row.asked_by})
    return _view(office, who, row, called)


def _view(office: Office, who: Who, row: EditionDraft, called: dict[str, str]) -> WrittenEdition:
    before = office.vault.get(row.based_on).decode() if row.based_on else ""
    return WrittenEdition(
        row.id,
        row.kind,
        row.text,
        before,
        row.revision,
        row.kept_at,
        called.get(row.kept_by, row.kept_by),
        row.asked_at,
        called.get(row.asked_by, row.asked_by),
        who.may.writes_rules and row.asked_at is None,
        who.may.minds_people and row.asked_at is not None and row.asked_by != who.id,
        check_edition(office, row.text, calendar_for(office)),
    )


def keep(office: Office, who: Who, id_: str, text: str, seen: int | None) -> WrittenEdition:
    """Keep what was typed, and say what the check says of it.

    Raises NotAllowed, NotFound, TooLarge, Stale if somebody else wrote in it since revision ``seen``, NotReady while it lies before a lead.
    """
    need_writer(who)
    if len(text) > MOST_LETTERS:
        raise TooLarge(say("An edition has at most {most} characters.", most=MOST_LETTERS))
    with write_session(office.engine) as session:
        row = _row(session, id_)
        if row.asked_at is not None:
            raise NotReady(say("It lies before a lead. Take it back first, then write on."))
        if seen is not None and row.revision != seen:
            writer = names_in(session, {row.kept_by}).get(row.kept_by, row.kept_by)
            raise Stale(
                say(
                    "{who} wrote in this edition meanwhile. What you typed is still here; copy it, then look at it anew.",
                    who=writer,
                )
            )
        if row.text != text:
            row.text, row.revision, row.kept_at, row.kept_by = text, row.revision + 1, office.now(), who.id
            row.kind = _kind_in(text) or row.kind
    return open_edition(office, who, id_)


def _said_in(text: str, key: str) -> str:
    """What a text, whole or not, says at a key of its own."""
    line = next((line for line in text.splitlines() if line.startswith(f"{key}:")), "")
    return line.partition(":")[2].strip().strip("\"'")[:120]


def _kind_in(text: str) -> str:
    kind = _said_in(text, "kind")
    return kind if len(kind) == 2 and kind.isascii() and kind.isupper() else ""


def throw_away(office: Office, who: Who, id_: str) -> None:
    """Throw away what is being written. Raises NotAllowed, NotFound."""
    need_writer(who)
    with write_session(office.engine) as session:
        session.delete(_row(session, id_))


def complete(who: Who, text: str, line: int, column: int) -> list[Completion]:
    """What may stand at a place of a text. Raises NotAllowed."""
    need_writer(who)
    return completions(text, line, column)


def differences(office: Office, who: Who, id_: str) -> list[str]:
    """What differs from the edition that it was begun from, in words. Raises NotAllowed, NotFound, NotReady while it has a fault."""
    need_page(who)
    row, rules = faultless(office, id_)
    if not row.based_on:
        return []
    return [str(change) for change in compare(rulebook(office, row.based_on).edition, rules.edition)]


def try_on_past(office: Office, who: Who, id_: str) -> Iterator[Progress]:
    """What it would have done to past cases, as it goes on. Raises NotAllowed, NotFound, NotReady while it has a fault."""
    need_page(who)
    row, _ = faultless(office, id_)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "edition.yaml"
        file.write_text(row.text, "utf-8")
        (Path(folder) / "calendars").mkdir()
        (Path(folder) / "calendars" / f"{_calendar_name(office)}.yaml").write_bytes(calendar_text(office))
        yield from replay(office.folder, file)


def ask_for_confirmation(office: Office, who: Who, id_: str) -> WrittenEdition:
    """Lay an edition before a lead. Raises NotReady while it has a fault, an example that does not come out, or a day that is past."""
    need_writer(who)
    written = open_edition(office, who, id_)
    if written.checked.why_not:
        raise NotReady(written.checked.why_not[0])
    with write_session(office.engine) as session:
        row = _row(session, id_)
        if row.revision != written.revision:
            raise Stale(say("Somebody else wrote in this edition meanwhile. Look at it anew."))
        row.asked_at, row.asked_by = office.now(), who.id
    return open_edition(office, who, id_)


def take_back(office: Office, who: Who, id_: str) -> WrittenEdition:
    """Take it back from the lead, or send it back: it is written on. Raises NotAllowed, NotFound."""
    need_writer_or_lead(who)
    with write_session(office.engine) as session:
        row = _row(session, id_)
        row.asked_at, row.asked_by = None, ""
    return open_edition(office, who, id_)


def confirm(office: Office, who: Who, id_: str) -> str:
    """A lead confirms an edition: it is published. Returns its hash. Raises NotAllowed, NotFound, NotReady."""
    if not who.may.minds_people:
        raise NotAllowed(say("An edition is confirmed by a lead."))
    written = open_edition(office, who, id_)
    if written.asked_at is None:
        raise NotReady(say("It is not laid before you."))
    if not written.confirms:
        raise NotAllowed(say("Whoever asked for it does not confirm it."))
    if written.checked.why_not:
        raise NotReady(written.checked.why_not[0])
    calendar = calendar_for(office)
    sha256 = publish_text(office, written.text, say("edition"), calendar_text(office), calendar)
    with write_session(office.engine) as session:
        session.delete(_row(session, id_))
    return sha256


def withdraw_edition(office: Office, who: Who, sha256: str) -> None:
    """Take back a published edition before its day. Raises NotAllowed, NotFound, NotReady from its day on."""
    need_writer_or_lead(who)
    today = office_calendar(office).local_day(office.now())
    with write_session(office.engine) as session:
        row = session.get(PublishedEdition, sha256)
        if row is None:
            raise NotFound(say("There is no such edition."))
        if row.in_force <= today:
            raise NotReady(say("It is in force; another edition takes its place from a later day."))
        text = office.vault.get(sha256).decode()
        session.add(
            EditionDraft(
                id=new_id(), kind=row.kind, text=text, based_on="", revision=0, kept_at=office.now(), kept_by=who.id, asked_at=None,
                asked_by="",
            )
        )  # fmt: skip
        session.delete(row)


def _row(session: Session, id_: str) -> EditionDraft:
    row = session.get(EditionDraft, id_)
    if row is None:
        raise NotFound(say("There is no such edition in the making."))
    return row


def faultless(office: Office, id_: str) -> tuple[EditionDraft, Rulebook]:
    """What is being written, and the rules that it makes. Raises NotFound, NotReady while it has a fault."""
    with read_session(office.engine) as session:
        row = _row(session, id_)
    try:
        return row, read_rulebook(row.text, say("edition")).rulebook
    except UnreadableRulebook as error:
        raise NotReady(say("It has a fault: {fault}", fault=error.faults[0].message)) from None


def need_page(who: Who) -> None:
    """Raise NotAllowed unless this person may look at rulebooks."""
    if "rulebooks" not in who.may.pages:
        raise NotAllowed(say("Rulebooks are for the rule-keeper and leads."))


def need_writer(who: Who) -> None:
    """Raise NotAllowed unless this person writes rules."""
    if not who.may.writes_rules:
        raise NotAllowed(say("Editions are written by a rule-keeper."))


def need_writer_or_lead(who: Who) -> None:
    """Raise NotAllowed unless this person writes rules or confirms them."""
    if not (who.may.writes_rules or who.may.minds_people):
        raise NotAllowed(say("Only a rule-keeper or a lead may do this."))


def calendar_text(office: Office) -> bytes:
    """The calendar of the office: what a lead confirmed last, or that of the edition that was published last, whichever came later."""
    with read_session(office.engine) as session:
        written = session.scalars(
            select(CalendarText).where(CalendarText.confirmed_at.is_not(None)).order_by(CalendarText.confirmed_at.desc())
        ).first()
        newest = session.scalars(select(PublishedEdition).order_by(PublishedEdition.in_force.desc())).first()
    if written and written.confirmed_at and not (newest and newest.published_at > written.confirmed_at):
        return office.vault.get(written.sha256)
    return office.vault.get(newest.calendar_sha256) if newest else (SHIPPED / "calendars" / "quillhaven.yaml").read_bytes()


def calendar_for(office: Office) -> Calendar:
    """The calendar of the office, read."""
    return read_calendar(calendar_text(office).decode(), "calendar")


def _calendar_name(office: Office) -> str:
    return calendar_for(office).name
