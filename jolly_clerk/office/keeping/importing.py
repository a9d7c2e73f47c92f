"""Cases that come from elsewhere: JSON lines and files, taken in by the hundred, with a report of what was refused and why.

A case that lives is taken as one of our own, if our rules agree with its state and its money. One that ended may be *kept as it came*:
it is shown, found and verified, and never assessed. The format stands in ``docs/formats.md``.
"""

from __future__ import annotations

import collections
import itertools
import json
import os
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field
from datetime import date
from pathlib import Path
from typing import IO, Any, NamedTuple

from pydantic import ValidationError
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Version
from jolly_clerk.core.due import next_look
from jolly_clerk.core.history import ENTRY, Entry, Filed, History
from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.reference import counter_of, number_in
from jolly_clerk.core.roles import STAFF
from jolly_clerk.core.say import say
from jolly_clerk.core.searching import Searched, searched
from jolly_clerk.core.states import FINAL
from jolly_clerk.office.cases.casework import assessed, projection
from jolly_clerk.office.cases.finding import found_by
from jolly_clerk.office.cases.sealing import row_hash
from jolly_clerk.office.errors import OfficeError
from jolly_clerk.office.keeping.import_lines import Line, reference_in
from jolly_clerk.office.keeping.kept_row import kept_entry, kept_row
from jolly_clerk.office.keeping.sharing_out import shared_out
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.accounts import mail_of, name_of
from jolly_clerk.office.rules.rulebooks import edition_on
from jolly_clerk.store.beside import FileUse, KeptCase, SearchRow
from jolly_clerk.store.chain import chained, files_named, seal
from jolly_clerk.store.database import read_session, shrink_log, write_session
from jolly_clerk.store.tables import Base, Case, Counter, FiledVersion, Head, HistoryEntry, Person, StoredFile

#: so many lines are read, prepared and written at a time
CHUNK = 250
#: after so many chunks the log of the database gives its room back
SHRUNK = 80
#: people who came with a case are told apart by their address; the ids that follow from it stay the same when it is tried again
PEOPLE = uuid.UUID("5b1f3c1e-7a51-4f0e-9f5e-1d5d7f0a2c11")


class Refused(NamedTuple):
    """A line that was not taken: its number, the reference if it could be read, and why."""

    line: int
    reference: str
    why: str


@dataclass
class Imported:
    """How far an import is: cases taken as our own, kept as they came, and refused, with how many there are of each reason."""

    taken: int = 0
    kept: int = 0
    refused: int = 0
    reasons: collections.Counter[str] = field(default_factory=collections.Counter)


Rows = dict[type[Base], list[dict[str, Any]]]


class _Why(Exception):
    """Why a line is not taken."""


def import_cases(
    folder: Path, lines: IO[str], files: Path, report: IO[str], workers: int | None = None, database: str = ""
) -> Iterator[Imported]:
    """Take cases in from JSON lines; told after each few hundred. They are prepared by so many ``workers``, as many as
    there are cores if nothing is said, in this process if it is none. ``report`` gets a JSON object for each line that was refused.

    Each case is taken whole or not at all. A line that was taken before is refused as there already, so that an import that was
    stopped is simply begun again.
    """
    done, office = Imported(), open_office(folder, database=database)
    numbered = ((n, line) for n, line in enumerate(lines, 1) if line.strip())
    with _preparing(str(folder), str(files), database, os.cpu_count() or 1 if workers is None else workers) as prepared:
        for n, (refused, ready) in enumerate(prepared(numbered), 1):
            for one in (*refused, *_write(office, ready, done)):
                report.write(
                    json.dumps({"line": one.line, "reference": one.reference, "why": one.why}, ensure_ascii=False) + "\n"
                )
                done.refused += 1
                done.reasons[one.why] += 1
            if n % SHRUNK == 0:
                shrink_log(office.engine)
            yield done
    office.close()


Numbered = Iterator[tuple[int, str]]


@contextmanager
def _preparing(folder: str, files: str, database: str, workers: int) -> Iterator[Callable[[Numbered], Iterator[_Ready]]]:
    """What prepares chunks of lines: processes of their own, as many ahead as there are and two more; with none this one."""
    if not workers:
        _HERE[:] = [_Worker(folder, files, database)]
        yield lambda numbered: map(_prepare, _chunks(numbered))
        _HERE.pop().office.close()
        return
    with shared_out(workers, _begin, (folder, files, database), _prepare) as prepared:
        yield lambda numbered: (ready for _, ready in prepared(_chunks(numbered)))


def _chunks(numbered: Numbered) -> Iterator[list[tuple[int, str]]]:
    return iter(lambda: list(itertools.islice(numbered, CHUNK)), [])


@dataclass(frozen=True, slots=True)
class Prepared:
    """A case ready to be written: its rows, and the person who goes with it."""

    line: int
    reference: str
    kept: bool
    person: tuple[str, str, str]
    officer: str
    rows: Rows


_Ready = tuple[list[Refused], list[Prepared]]
_HERE: list[_Worker] = []


class _Worker:
    """What prepares lines: an office, the folder of their files, and the look into the database that they share."""

    session: Session
    #: the edition of a kind on a day, as this look finds it
    editions: dict[tuple[str, date], str]

    def __init__(self, folder: str, files: str, database: str) -> None:
        self.office, self.files = open_office(Path(folder), database=database), Path(files).resolve()


def _begin(folder: str, files: str, database: str) -> None:
    _HERE.append(_Worker(folder, files, database))


def _prepare(chunk: list[tuple[int, str]]) -> _Ready:
    """Read, check and assess some lines; nothing is written but files."""
    here = _HERE[0]
    with read_session(here.office.engine) as here.session:
        here.editions = {}
        return _prepared(here, chunk)


def _prepared(here: _Worker, chunk: list[tuple[int, str]]) -> _Ready:
    refused, ready = list[Refused](), list[Prepared]()
    for number, text in chunk:
        reference = ""
        try:
            line = Line.model_validate_json(text)
            reference = line.reference
            ready.append(_one(here, number, line))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            refused.append(
                Refused(number, reference_in(text), say("{where}: {why}", where=where or say("the line"), why=first["msg"]))
            )
        except (_Why, OfficeError, OSError, ValueError) as error:
            refused.append(Refused(number, reference, getattr(error, "detail", None) or str(error)))
    return refused, ready


def _one(here: _Worker, number: int, line: Line) -> Prepared:
    name = name_of(line.applicant.name)
    mail = mail_of(line.applicant.mail) if line.applicant.mail else ""
    person_id = uuid.uuid5(PEOPLE, mail or f"{line.reference} {name}").hex
    if line.changed_at < line.filed_at:
        raise _Why(say("It was changed before it was filed."))
    case_id = uuid.uuid5(PEOPLE, f"case {line.reference}").hex
    rows: Rows = {
        Case: [],
        Head: [],
        HistoryEntry: [],
        FiledVersion: [],
        KeptCase: [],
        SearchRow: [],
        FileUse: [],
        StoredFile: [],
    }
    make = _kept if line.kept else _living
    make(here, line, case_id, person_id, rows)
    return Prepared(number, line.reference, line.kept, (person_id, name, mail), line.officer.strip().lower(), rows)


def _files(here: _Worker, line: Line, case_id: str, rows: Rows) -> list[dict[str, Any]]:
    """Keep the files of a case in the vault; what it then names."""
    named = []
    for file in line.files:
        path = (here.files / file.path).resolve()
        if not path.is_relative_to(here.files) or not path.is_file():
            raise _Why(say("The file {path} is not there.", path=file.path))
        sha256, size = here.office.vault.take_file(path)
        named.append({"name": file.name, "sha256": sha256, "size": size})
    now = here.office.now()
    rows[StoredFile] += [{"sha256": f["sha256"], "size": f["size"], "kept_at": now} for f in named]
    rows[FileUse] += [{"sha256": f, "case_id": case_id} for f in {f["sha256"] for f in named}]
    return named


def _kept(here: _Worker, line: Line, case_id: str, person_id: str, rows: Rows) -> None:
    """One that ended elsewhere, kept as it came."""
    if line.state not in FINAL:
        raise _Why(say("“{state}” is no end; only what ended can be kept as it came.", state=line.state))
    told = {
        "answers": [a.model_dump() for a in line.answers],
        "steps": [s.model_dump(mode="json") for s in line.steps],
        "files": _files(here, line, case_id, rows),
        "applicant": line.applicant.model_dump(),
    }
    text = json.dumps(told, ensure_ascii=False, sort_keys=True)
    entries, head = chained(case_id, [kept_entry(line.changed_at, text)])
    row = kept_row(line.title, line.state, line.filed_at, line.changed_at)
    rows[Case].append(_case(line, case_id, person_id, row) | {"kept": True})
    rows[Head].append(head | {"row_hash": row_hash(row)})
    rows[HistoryEntry] += entries
    rows[KeptCase].append({"case_id": case_id, "told": text})
    texts = [*(s.text for s in line.steps), *(a.value for a in line.answers if len(a.value) > 120)]
    fields = [line.title, *(a.value for a in line.answers if len(a.value) <= 120), *(f.name for f in line.files)]
    rows[SearchRow].append(_found(case_id, searched(line.reference, line.applicant.name, fields, texts)))


def _living(here: _Worker, line: Line, case_id: str, person_id: str, rows: Rows) -> None:
    """One of our own: its history is ours, and our rules must agree with its state and its money."""
    office = here.office
    if not line.versions or not line.entries:
        raise _Why(say("A case that is not kept as it came gives its versions and its entries."))
    sealed = [seal(Version(no=v.no, at=v.at, dossier=v.dossier)) for v in line.versions]
    if [s.version.no for s in sealed] != list(range(1, len(sealed) + 1)):
        raise _Why(say("The versions are not numbered from 1 on."))
    hashes = {s.version.no: s.hash for s in sealed}
    filed = (line.kind, line.filed_at.date())
    edition = here.editions.get(filed) or edition_on(office, *filed, here.session)
    here.editions[filed] = edition
    entries = tuple(_entry(told, person_id, hashes, edition) for told in line.entries)
    if not isinstance(entries[0], Filed) or any(b.at < a.at for a, b in itertools.pairwise(entries)):
        raise _Why(say("The entries begin with the filing and follow one another in time."))
    history = History(entries=entries, versions=tuple(s.version for s in sealed))
    case = Case(id=case_id, reference=line.reference, kind=line.kind, edition_sha256=edition, applicant_id=person_id)
    named = _files(here, line, case_id, rows)
    missing = {a.sha256 for v in line.versions for a in v.dossier.papers} - {f["sha256"] for f in named}
    if missing:
        raise _Why(say("A version names a file that did not come with it: {sha256}…", sha256=min(missing)[:12]))
    loaded = assessed(office, case, history, len(entries), here.session)
    account = loaded.assessment.account
    for what, told, ours in (
        (say("the state"), line.state, loaded.assessment.state),
        (say("what was paid"), line.paid, account.paid),
        (say("what is open"), line.open, account.open),
    ):
        if told != ours:
            raise _Why(say("By our rules {what} is {ours}, not {told}.", what=what, ours=ours, told=told))
    row = projection(loaded)
    clock, look = loaded.assessment.clock, next_look(loaded.assessment)
    rows[Case].append(
        _case(line, case_id, person_id, row) | {"next_look_at": look, "counted_after": clock.after if clock else None}
    )
    made, head = chained(case_id, [e.model_dump(mode="json") for e in entries])
    rows[HistoryEntry] += made
    rows[Head].append(head | {"row_hash": row_hash(row)})
    rows[FiledVersion] += [
        {"case_id": case_id, "no": s.version.no, "at": s.version.at, "dossier": s.text, "salt": s.salt} for s in sealed
    ]
    case.title, case.own_reference, case.permit_code = row["title"], "", row["permit_code"]
    rows[SearchRow].append(_found(case_id, found_by(case, line.applicant.name, history, loaded.known)))
    uses = {u["sha256"] for u in rows[FileUse]}
    named_there = set[str]().union(*(files_named(r["body"]) | files_named(r["personal"] or "") for r in made))
    rows[FileUse] += [{"sha256": sha256, "case_id": case_id} for sha256 in named_there - uses]


def _entry(told: dict[str, Any], person_id: str, hashes: dict[int, str], edition: str) -> Entry:
    """An entry of ours; ``applicant`` stands for whoever applied, and the hashes of versions are those of their new salts."""
    made = dict(told)
    if made.get("who") == "applicant":
        made["who"] = person_id
    if "dossier_hash" in made or made.get("what") in ("filed", "answered"):
        made["dossier_hash"] = hashes.get(int(made.get("version", 0)), "")
    if made.get("what") == "filed":
        made["edition_sha256"] = edition
    return ENTRY.validate_python(made)


def _case(line: Line, case_id: str, person_id: str, row: dict[str, Any]) -> dict[str, Any]:
    own = {"id": case_id, "reference": line.reference, "kind": line.kind, "applicant_id": person_id, "own_reference": ""}
    return {"next_look_at": None, "counted_after": None, "kept": False, "erased_at": None, **row, **own}


def _found(case_id: str, by: Searched) -> dict[str, Any]:
    short = {"reference": by.reference[:40], "person": by.person[:200], "person_last": by.person_last[:200]}
    return {**asdict(by), **short, "case_id": case_id}


def _write(office: Office, ready: Sequence[Prepared], done: Imported) -> list[Refused]:
    """Write prepared cases in one write; returns those that are there already."""
    refused = list[Refused]()
    with write_session(office.engine) as session:
        there = set(session.scalars(select(Case.reference).where(Case.reference.in_([p.reference for p in ready]))))
        known = _people(office, session, [p for p in ready if p.reference not in there])
        officers = _officers(session, {p.officer for p in ready if p.officer})
        rows: Rows = {}
        for prepared in ready:
            if prepared.reference in there:
                refused.append(Refused(prepared.line, prepared.reference, say("There is a case of this reference already.")))
                continue
            there.add(prepared.reference)
            for table, own in prepared.rows.items():
                rows.setdefault(table, []).extend(own)
            done.kept += prepared.kept
            done.taken += not prepared.kept
            (case,) = prepared.rows[Case]
            case["applicant_id"] = known.get(prepared.person[0], prepared.person[0])
            if case["kept"] and prepared.officer in officers:
                case["officer_id"] = officers[prepared.officer]
                _seal_again(prepared.rows)
        _insert(session, rows)
        _go_on_counting(session, rows)
    return refused


def _seal_again(rows: Rows) -> None:
    (case,), (head,) = rows[Case], rows[Head]
    head["row_hash"] = row_hash(case)


def _people(office: Office, session: Session, ready: Sequence[Prepared]) -> dict[str, str]:
    """Add the people who are new; who has an account of that address already stays who that is. Returns the ids that differ."""
    wanted = {p.person[0]: p.person for p in ready}
    by_mail = dict(
        session.execute(
            select(Person.mail, Person.id).where(Person.mail.in_({m for _, _, m in wanted.values() if m}), Person.confirmed)
        )
        .tuples()
        .all()
    )
    there = set(session.scalars(select(Person.id).where(Person.id.in_(wanted))))
    known = {id_: by_mail[mail] for id_, _, mail in wanted.values() if mail in by_mail}
    new = [
        {"id": id_, "name": name, "role": "applicant", "mail": mail, "confirmed": True, "kinds": [], "made_at": office.now()}
        for id_, name, mail in wanted.values()
        if id_ not in there and id_ not in known
    ]
    if new:
        session.execute(insert(Person), new)
    return known


def _officers(session: Session, mails: set[str]) -> dict[str, str]:
    found = select(Person.mail, Person.id).where(Person.mail.in_(mails), Person.role.in_(STAFF))
    return dict(session.execute(found).tuples().all()) if mails else {}


def _insert(session: Session, rows: Rows) -> None:
    stored = {row["sha256"]: row for row in rows.get(StoredFile, [])}
    known = set(session.scalars(select(StoredFile.sha256).where(StoredFile.sha256.in_(stored)))) if stored else set()
    rows[StoredFile] = [row for sha256, row in stored.items() if sha256 not in known]
    for table in (Case, Head, HistoryEntry, FiledVersion, KeptCase, SearchRow, StoredFile, FileUse):
        if rows.get(table):
            session.execute(insert(table.metadata.tables[table.__tablename__]), rows[table])


def _go_on_counting(session: Session, rows: Rows) -> None:
    """Numbers of cases and of receipts go on after the highest that came."""
    highest: dict[str, int] = {}
    for case in rows.get(Case, []):
        if found := number_in(case["reference"]):
            kind, year, number = found
            counted = counter_of(kind, year)
            highest[counted] = max(highest.get(counted, 0), number)
    for entry in rows.get(HistoryEntry, []):
        receipt = json.loads(entry["body"]).get("receipt", "") if '"paid"' in entry["body"] else ""
        of_year, _, told = receipt.partition("-")
        if (receipted := whole_number(told)) is not None:
            counted = f"receipt {of_year}"
            highest[counted] = max(highest.get(counted, 0), receipted)
    for counted, number in highest.items():
        counter = session.get(Counter, counted)
        if counter is None:
            session.add(Counter(name=counted, last=number))
        elif counter.last < number:
            counter.last = number
