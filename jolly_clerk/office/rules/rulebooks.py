"""Editions of the office: published into the vault, found by the filing day, compiled once."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import nullcontext
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from jolly_clerk.core.delivering import sealed_files
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.compiler import compile_edition
from jolly_clerk.core.rulebook.letters import letter_texts
from jolly_clerk.core.rulebook.model import Edition
from jolly_clerk.core.rulebook.strict import no_calendars
from jolly_clerk.core.rulebook.wording import in_language
from jolly_clerk.core.say import say, spoken_language
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office
from jolly_clerk.shelf.rulebooks import calendar_beside, read_calendar, read_rulebook, without_examples
from jolly_clerk.store.beside import ToRead
from jolly_clerk.store.database import query, read_session, write_session
from jolly_clerk.store.tables import PublishedEdition, StoredReading
from jolly_clerk.texts import catalogue


def publish(office: Office, file: Path, calendar_file: Path | None = None) -> str:
    """Publish an edition file: checked whole, kept in the vault, in force from its day. Returns its SHA-256.

    ``calendar_file`` is an office's own calendar, in place of the one that the edition names.

    Raises UnreadableRulebook with every fault, Invalid if the kind has another edition from that day.
    """
    text = file.read_text("utf-8")
    edition = read_rulebook(text, str(file), strict=True).rulebook.edition
    own = calendar_file.read_bytes() if calendar_file else None
    calendar = read_calendar(own.decode(), str(calendar_file)) if own else calendar_beside(file, edition.calendar)
    return publish_text(office, text, str(file), own or _calendar_text(file, edition.calendar), calendar)


def publish_text(office: Office, text: str, name: str, calendar_text: bytes, calendar: Calendar) -> str:
    """Publish the text of an edition with its calendar; returns its SHA-256. ``name`` is what faults call it.

    Raises as :func:`publish` does.
    """
    shelved = read_rulebook(text, name, strict=True)
    edition = shelved.rulebook.edition
    for _path, told in no_calendars(shelved.rulebook, calendar):
        raise Invalid(told)
    calendar_sha, sha256 = office.vault.put(calendar_text), office.vault.put(text.encode())
    with write_session(office.engine) as session:
        there = edition_from(session, edition.kind, edition.in_force)
        if there and there.sha256 != sha256:
            raise Invalid(another_from(edition.kind, edition.in_force))
        if there is None:
            session.add(
                PublishedEdition(
                    sha256=sha256,
                    kind=edition.kind,
                    in_force=edition.in_force,
                    published_at=office.now(),
                    calendar_sha256=calendar_sha,
                )
            )
    office.rulebooks[sha256] = shelved.rulebook
    office.calendars[calendar_sha] = calendar
    return sha256


def edition_from(session: Session, kind: str, in_force: date) -> PublishedEdition | None:
    """The edition of a kind that is in force from that day."""
    same_day = PublishedEdition.kind == kind, PublishedEdition.in_force == in_force
    return session.scalars(select(PublishedEdition).where(*same_day)).first()


def another_from(kind: str, in_force: date) -> str:
    """Why an edition cannot be published from a day on which another one begins."""
    return say("{kind} already has another edition in force from {in_force}; choose a later day.", kind=kind, in_force=in_force)


def _calendar_text(file: Path, name: str) -> bytes:
    from jolly_clerk.shelf.rulebooks import SHIPPED

    for parent in [*file.resolve().parents, SHIPPED]:
        place = parent / "calendars" / f"{name}.yaml"
        if place.is_file():
            return place.read_bytes()
    raise Invalid(say("No calendar is called {name}.", name=f"{name!r}"))


_IN_FORCE = (
    select(PublishedEdition.sha256)
    .where(PublishedEdition.kind == bindparam("kind"), PublishedEdition.in_force <= bindparam("day"))
    .order_by(PublishedEdition.in_force.desc())
)


def edition_on(office: Office, kind: str, day: date, session: Session | None = None) -> str:
    """The SHA-256 of the edition of a kind that is in force on a day, by the caller's session if there is one. Raises NotFound."""
    with nullcontext(session) if session else read_session(office.engine) as own:
        sha256 = own.scalars(_IN_FORCE, {"kind": kind, "day": day}).first()
    if sha256 is None:
        raise NotFound(say("No rulebook of kind {kind} is in force on {day}.", kind=kind, day=day))
    return sha256


def known_kinds(office: Office) -> set[str]:
    """Every kind of which an edition was ever published."""
    with read_session(office.engine) as session:
        return set(session.scalars(select(PublishedEdition.kind).distinct()))


_BEGUN = (
    select(PublishedEdition.kind, PublishedEdition.sha256)
    .where(PublishedEdition.in_force <= bindparam("day"))
    .order_by(PublishedEdition.in_force)
)


def kinds(office: Office, day: date, session: Session | None = None) -> list[Rulebook]:
    """The rulebook in force of every kind, by the caller's session if there is one."""
    with nullcontext(session) if session else read_session(office.engine) as own:
        newest_last = query(own, _BEGUN, day=day).tuples().all()
    return [rulebook(office, sha256) for _, sha256 in sorted(dict(newest_last).items())]


def kind_titles(office: Office) -> dict[str, str]:
    """What each kind is called in the edition of today."""
    today = office_calendar(office).local_day(office.now())
    return {rules.edition.kind: rules.edition.title for rules in kinds(office, today)}


def rulebook(office: Office, sha256: str) -> Rulebook:
    """The compiled edition, from the vault; in the language that is asked for, where it says itself in it."""
    found = office.rulebooks.get(sha256)
    if found is None:
        found = read_rulebook(
            without_examples(office.vault.get(sha256).decode()), say("edition {sha256}", sha256=sha256[:12])
        ).rulebook
        office.rulebooks[sha256] = found
    language = spoken_language()
    if language not in found.edition.translations:
        return found
    key = f"{sha256} {language}"
    told = office.rulebooks.get(key)
    if told is None:
        told = office.rulebooks[key] = compile_edition(in_language(with_house_words(found.edition, language), language))
    return told


def with_house_words(edition: Edition, language: str) -> Edition:
    """With the letters of the house in a language, also those that came after the edition was published."""
    texts = catalogue(language)
    house = {text: said for text in letter_texts() if texts and (said := texts.gettext(text)) != text}
    translated = {**edition.translations, language: {**house, **edition.translations[language]}}
    return edition.model_copy(update={"translations": translated})


def published(office: Office, sha256: str) -> Rulebook:
    """A published edition by its hash. Raises NotFound."""
    calendar_of(office, sha256)
    return rulebook(office, sha256)


def calendar_of(office: Office, edition_sha256: str, session: Session | None = None) -> Calendar:
    """The calendar that was published with an edition; looked up in the caller's transaction if there is one."""
    calendar_sha256 = office.calendar_of.get(edition_sha256)
    if calendar_sha256 is None:
        with nullcontext(session) if session else read_session(office.engine) as own:
            edition = own.get(PublishedEdition, edition_sha256)
        if edition is None:
            raise NotFound(say("This edition was never published."))
        calendar_sha256 = office.calendar_of[edition_sha256] = edition.calendar_sha256
    found = office.calendars.get(calendar_sha256)
    if found is None:
        found = read_calendar(office.vault.get(calendar_sha256).decode(), "calendar")
        office.calendars[calendar_sha256] = found
    return found


_NEWEST = select(PublishedEdition.sha256).order_by(PublishedEdition.in_force.desc()).limit(1)


def office_calendar(office: Office, session: Session | None = None) -> Calendar:
    """The calendar of the newest edition, for greetings and lists. Raises NotFound."""
    with nullcontext(session) if session else read_session(office.engine) as own:
        sha256 = query(own, _NEWEST).scalar()
    if sha256 is None:
        raise NotFound(say("No rulebook is published yet."))
    return calendar_of(office, sha256, session)


def zone_calendar(office: Office) -> Calendar | None:
    """The office's calendar, by whose zone every screen tells the time; None before anything is published."""
    try:
        return office_calendar(office)
    except NotFound:
        return None


MOST_READINGS = 2000


def known_for(office: Office, edition_sha256: str, hashes: set[str], session: Session | None = None) -> Known:
    """What is known for a case: its edition's calendar and the readings of these files. Readings are kept in memory once parsed.

    Inside a write its ``session`` is handed on, since nothing there may take a second connection.
    """
    with nullcontext(session) if session else read_session(office.engine) as own:
        return Known(calendar_of(office, edition_sha256, own), readings_of(office, hashes, own))


_READ = (
    select(StoredReading.sha256, StoredReading.reader, StoredReading.read_at)
    .where(StoredReading.sha256.in_(bindparam("files", expanding=True)))
    .order_by(StoredReading.read_at)
)


def readings_of(office: Office, hashes: set[str], session: Session | None = None) -> dict[str, Reading]:
    """What was read in these files, or that they are being read. Readings are kept in memory once parsed."""
    readings: dict[str, Reading] = {}
    with nullcontext(session) if session else read_session(office.engine) as own:
        for sha256, reader, read_at in query(own, _READ, files=list(hashes)).all() if hashes else ():
            readings[sha256] = _reading(office, own, sha256, reader, read_at)
        if len(readings) < len(hashes):
            waiting = own.scalars(select(ToRead.sha256).where(ToRead.sha256.in_(hashes - readings.keys())))
            readings |= {h: Reading(sha256=h, reader="", size=0, type="", opens="being read") for h in waiting}
    return readings


def known_to_applicant(office: Office, edition_sha256: str, dossiers: Sequence[Dossier], session: Session | None = None) -> Known:
    """What is known for a filing, without what was read in files that are sealed: from it an applicant may be told everything."""
    hashes = {a.sha256 for dossier in dossiers for a in dossier.papers}
    return known_for(office, edition_sha256, hashes - sealed_files(dossiers), session)


def _reading(office: Office, session: Session, sha256: str, reader: str, read_at: datetime) -> Reading:
    """A stored reading; the text of one that was parsed before is not loaded again."""
    key = (sha256, reader, read_at)  # one that was read again is another
    found = office.readings.get(key)
    if found is None:
        if len(office.readings) > MOST_READINGS:
            office.readings.clear()
        text = session.get_one(StoredReading, (sha256, reader)).reading
        found = office.readings[key] = Reading.model_validate_json(text)
    return found
