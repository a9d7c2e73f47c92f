"""A case package of another office is read in: checked whole before anything is written, then taken with its history or kept as it came.

Where the same edition with the same calendar is published here, the case goes on here: its entries stay as they were, hash by hash, and
the entry of the reading-in follows. Else it is kept as it came: shown, found, verified, and never assessed.
"""

from __future__ import annotations

import hashlib
import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.case_package import CasePackage, VersionTold, faults
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.history import ReadIn
from jolly_clerk.core.reference import counter_of, make_reference
from jolly_clerk.core.roles import SECOND
from jolly_clerk.core.say import say
from jolly_clerk.core.searching import searched
from jolly_clerk.exchange.bag import BadBag, unpacked_bag
from jolly_clerk.exchange.case_xml import BadXml, as_xml, need_valid
from jolly_clerk.office.cases.casework import assessed, by, project
from jolly_clerk.office.cases.sealing import row_hash
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.keeping.kept_row import kept_entry, kept_row
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, name_of
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import FileUse, KeptCase
from jolly_clerk.store.chain import append, chain_faults, chained, load_history, name_files
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.searching import keep_searched
from jolly_clerk.store.tables import (
    Case,
    FiledVersion,
    Head,
    HistoryEntry,
    Person,
    PublishedEdition,
    StoredFile,
    StoredReading,
)


@dataclass(frozen=True, slots=True)
class PackageFound:
    """What a package is, before it is read in: the case, where it comes from, the hash of its last entry, who applied; ``goes_on`` tells
    that it will be a case of this office, else ``why_kept`` why it is only kept as it came."""

    office: str
    reference: str
    kind: str
    title: str
    state: str
    applicant: str
    files: int
    entries: int
    last_hash: str
    goes_on: bool
    why_kept: str


@dataclass(frozen=True, slots=True)
class PackageTaken:
    """A case that was read in: its reference here, and whether it goes on here."""

    reference: str
    goes_on: bool


def need_reads_in(who: Who) -> None:
    """Raise NotAllowed unless this person may read a case of another office in."""
    if who.role not in SECOND:
        raise NotAllowed(say("Only a lead reads a case of another office in."))


def look_into(office: Office, file: Path) -> PackageFound:
    """What a package is and what would become of it; nothing is written. Raises Invalid with what is wrong with it."""
    with _opened(office, file) as (told, _):
        why = _why_kept(office, told)
        return PackageFound(
            office=told.origin.office,
            reference=told.origin.reference,
            kind=told.kind,
            title=told.title,
            state=told.state,
            applicant=told.applicant.name,
            files=len(told.files),
            entries=told.origin.entries,
            last_hash=told.origin.last_hash,
            goes_on=not why,
            why_kept=why,
        )


def read_in(office: Office, who: Who, file: Path, last_hash: str = "") -> PackageTaken:
    """Read a package in, whole or not at all. ``last_hash`` is how the other office says the hash of its last entry begins, if it was asked.

    Raises NotAllowed for everybody but a lead, Invalid with what is wrong with it, also if the case is here already.
    """
    need_reads_in(who)
    wanted = "".join(last_hash.split()).lower()
    with _opened(office, file) as (told, data):
        if wanted and not (len(wanted) >= LEAST_HASH and told.origin.last_hash.startswith(wanted)):
            raise Invalid(
                say("Its last entry has another hash than the other office told you. Somebody may have changed it on the way.")
            )
        package_sha256, _ = office.vault.take_file(file)
        for one in told.files:
            office.vault.take_file(data / one.path)
        goes_on = not _why_kept(office, told)
        with write_session(office.engine) as session:
            _need_new(session, told)
            applicant = _applicant(office, session, told)
            reference = _reference(office, session, told)
            _keep_files(office, session, told, package_sha256)
            case = _row(told, applicant, reference)
            if goes_on:
                _go_on(office, session, who, case, told, package_sha256)
            else:
                _keep(session, case, told, package_sha256)
    return PackageTaken(reference, goes_on)


#: so many digits of a hash have to be given at least
LEAST_HASH = 8


@contextmanager
def _opened(office: Office, file: Path) -> Iterator[tuple[CasePackage, Path]]:
    """A package unpacked and found whole: its bag, its JSON and XML, its history, its files."""
    with tempfile.TemporaryDirectory(prefix="jolly-clerk-read-in-") as base:
        try:
            data = unpacked_bag(file, Path(base)) / "data"
        except BadBag as error:
            raise Invalid(str(error)) from None
        told = _told(data)
        wrong = list(faults(told)) or list(_wrong(told, data))  # what is not whole cannot be held against its hashes
        if wrong:
            more = say(" And {count} more.", count=len(wrong) - MOST_TOLD) if len(wrong) > MOST_TOLD else ""
            raise Invalid(" ".join(wrong[:MOST_TOLD]) + more)
        with read_session(office.engine) as session:
            _need_new(session, told)
        yield told, data


#: so many faults are told at a time; so many bytes has the JSON of a case at most
MOST_TOLD, MOST_JSON = 5, 200_000_000


def _told(data: Path) -> CasePackage:
    path, xml = data / "case.json", data / "case.xml"
    if not path.is_file() or not xml.is_file():
        raise Invalid(say("It holds no case: case.json or case.xml is missing."))
    if path.stat().st_size > MOST_JSON:
        raise Invalid(say("Its case.json is too large."))
    try:
        told = CasePackage.model_validate_json(path.read_bytes())
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or say("the whole")
        raise Invalid(say("case.json, {where}: {why}.", where=where, why=first["msg"])) from None
    content = xml.read_bytes()
    try:
        need_valid(content)
    except BadXml as error:
        raise Invalid(say("case.xml: {why}.", why=error)) from None
    if content != as_xml(told):
        raise Invalid(say("case.xml does not say what case.json says."))
    return told


def _wrong(told: CasePackage, data: Path) -> Iterator[str]:
    """What is wrong with the history, the versions and the files of a package."""
    rows = [(e.no, e.body or "", e.personal, e.salt, e.previous, e.hash) for e in told.history]
    versions = {v.no: (v.dossier, v.salt) for v in told.versions}
    yield from chain_faults(told.origin.case_id, told.origin.reference, rows, versions)
    for one in told.files:
        path = (data / one.path).resolve()
        if not path.is_relative_to(data.resolve()) or not path.is_file():
            yield say("The file {path} is not there.", path=one.path)
            continue
        with path.open("rb") as content:
            if hashlib.file_digest(content, "sha256").hexdigest() != one.sha256:
                yield say("The file {path} is another one than case.json says.", path=one.path)
    there = {f.sha256 for f in told.files}
    for version in told.versions:
        dossier = _dossier(version)
        if dossier is None:
            yield say("Its version {no} cannot be read.", no=version.no)
            continue
        yield from (
            say("“{name}” of version {no} did not come with it.", name=a.name, no=version.no)
            for a in dossier.papers
            if a.sha256 not in there
        )
    for reading in told.readings:
        try:
            Reading.model_validate_json(reading.text)
        except ValidationError:
            yield say("What was read in {sha256}… cannot be read.", sha256=reading.sha256[:12])


def _dossier(version: VersionTold) -> Dossier | None:
    try:
        return Dossier.model_validate_json(version.dossier)
    except ValidationError:
        return None


def _need_new(session: Session, told: CasePackage) -> None:
    """Raise Invalid if the case is here already, as our own or read in before."""
    there = session.get(Case, told.origin.case_id)
    if there is not None:
        raise Invalid(say("This case is here already: {reference}.", reference=there.reference))


def _why_kept(office: Office, told: CasePackage) -> str:
    """Why a case is only kept as it came; nothing if it can go on here."""
    with read_session(office.engine) as session:
        edition = session.get(PublishedEdition, told.edition.sha256)
    if edition is None:
        return say("The edition that decides it, {title}, is not published here.", title=told.edition.title)
    if edition.calendar_sha256 != told.edition.calendar_sha256:
        return say("The edition that decides it is published here with another calendar.")
    return ""


def _applicant(office: Office, session: Session, told: CasePackage) -> str:
    """The person who applied: whoever has an account of that address here, else somebody new; and everybody whom the history names."""
    now = office.now()
    mail = mail_of(told.applicant.mail) if told.applicant.mail else ""
    by_mail = session.scalars(select(Person.id).where(Person.mail == mail, Person.confirmed)).first() if mail else None
    for person in told.people:
        if person.id != told.applicant.id and person.id and session.get(Person, person.id) is None:
            session.add(Person(id=person.id, name=person.name[:120], role="applicant", kinds=[], made_at=now, left_at=now))
    if by_mail:
        return by_mail
    id_ = told.applicant.id if session.get(Person, told.applicant.id) is None else new_id()
    session.add(Person(id=id_, name=name_of(told.applicant.name), role="applicant", mail=mail, kinds=[], made_at=now))
    session.flush()
    return id_


def _reference(office: Office, session: Session, told: CasePackage) -> str:
    year = office_calendar(office, session).local_day(told.filed_at).year
    return make_reference(told.kind, year, next_number(session, counter_of(told.kind, year)))


def _keep_files(office: Office, session: Session, told: CasePackage, package_sha256: str) -> None:
    sizes = {f.sha256: f.size for f in told.files} | {package_sha256: office.vault.path(package_sha256).stat().st_size}
    known = set(session.scalars(select(StoredFile.sha256).where(StoredFile.sha256.in_(sizes))))
    session.add_all(StoredFile(sha256=s, size=n, kept_at=office.now()) for s, n in sizes.items() if s not in known)
    for reading in told.readings:
        if session.get(StoredReading, (reading.sha256, reading.reader)) is None:
            session.add(StoredReading(sha256=reading.sha256, reader=reading.reader, reading=reading.text, read_at=reading.at))
    session.flush()


def _row(told: CasePackage, applicant: str, reference: str) -> Case:
    return Case(
        id=told.origin.case_id,
        reference=reference,
        kind=told.kind,
        edition_sha256=told.edition.sha256,
        applicant_id=applicant,
        title=told.title,
        state=told.state,
        holder="",
        filed_at=told.filed_at,
        changed_at=told.changed_at,
        version=1,
        step="",
        next_officer="",
        next_applicant="",
        squares=[],
        entries=0,
    )


def _go_on(office: Office, session: Session, who: Who, case: Case, told: CasePackage, package_sha256: str) -> None:
    """Keep the history as it was, hash by hash, and go on with the entry of the reading-in."""
    session.add(case)
    session.flush()
    for e in told.history:
        session.add(
            HistoryEntry(
                case_id=case.id, no=e.no, body=e.body, personal=e.personal, salt=e.salt, previous=e.previous, hash=e.hash
            )
        )
    session.add(Head(case_id=case.id, count=told.origin.entries, hash=told.origin.last_hash))
    for v in told.versions:
        session.add(FiledVersion(case_id=case.id, no=v.no, at=v.at, dossier=v.dossier, salt=v.salt))
    session.flush()
    name_files(session, case.id, {f.sha256 for f in told.files} | {package_sha256})
    entry = ReadIn(
        **by(office, who),
        office=told.origin.office,
        reference=told.origin.reference,
        came_with=told.origin.entries,
        last_hash=told.origin.last_hash,
        package_sha256=package_sha256,
    )
    count = append(session, case.id, [entry])
    project(office, session, case, assessed(office, case, load_history(session, case.id), count, session))


def _keep(session: Session, case: Case, told: CasePackage, package_sha256: str) -> None:
    """Keep the case as it came: what it says in words, its files, and the package itself, which holds its history with the proof."""
    files = [{"name": f.name, "sha256": f.sha256, "size": f.size} for f in told.files]
    kept = json.dumps(
        {
            "answers": [a.model_dump() for a in told.answers],
            "steps": [{"at": s.at.isoformat(), "text": s.text, "who": s.who} for s in told.steps],
            "files": [*files, {"name": f"{told.origin.reference}-package.zip", "sha256": package_sha256, "size": 0}],
            "applicant": {"name": told.applicant.name, "mail": told.applicant.mail},
            "came_from": told.origin.model_dump(),
        },
        ensure_ascii=False,
        sort_keys=True,
    )
    entries, head = chained(case.id, [kept_entry(told.changed_at, kept)])
    row = kept_row(told.title, told.state, told.filed_at, told.changed_at)
    for column, value in row.items():
        setattr(case, column, value)
    case.kept = True
    session.add(case)
    session.flush()
    session.add_all(HistoryEntry(**e) for e in entries)
    session.add(Head(**head, row_hash=row_hash(row)))
    session.add(KeptCase(case_id=case.id, told=kept))
    session.add_all(FileUse(sha256=s, case_id=case.id) for s in {*(f.sha256 for f in told.files), package_sha256})
    session.flush()
    fields = [told.title, told.origin.reference, *(a.value for a in told.answers if len(a.value) <= LONG)]
    texts = [*(s.text for s in told.steps), *(a.value for a in told.answers if len(a.value) > LONG)]
    keep_searched(session, case.id, searched(case.reference, told.applicant.name, fields, texts))


#: an answer that is longer is searched as a text
LONG = 120
