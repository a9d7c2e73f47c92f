"""Past cases under another edition: what each would come to, told case by case while it goes on, on all cores."""

from __future__ import annotations

import json
import multiprocessing
import os
import threading
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import ColumnElement, Text, cast, func, literal_column, select
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from jolly_clerk.core.assessment import assess, outcome
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.history import ENTRY, Entry, History
from jolly_clerk.core.known import Known
from jolly_clerk.office.keeping.sharing_out import clear_seldom
from jolly_clerk.office.office import open_office
from jolly_clerk.office.rules.rulebooks import MOST_READINGS
from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook, without_examples
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, FiledVersion, HistoryEntry, StoredReading

CHUNK = 100
#: what bears on fees and proposed standings; what an officer judged or wrote does not
BEARS = {
    "filed", "taken back", "paid", "paid back", "checking began", "register asked", "fee set", "fee settled", "fee raised",
    "letter sent", "letter returned", "letter sent again", "extended", "answered", "came later", "taken out", "accepted",
    "handed over", "granted", "permit issued", "withdrawn", "not accepted", "out of scope", "lapsed", "refused",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Differs:
    """One thing that would come out otherwise: ``was`` under the case's own edition, ``now`` under the other."""

    what: str
    was: str
    now: str


@dataclass(frozen=True, slots=True)
class Replayed:
    """One case under the other edition, with all that would differ."""

    reference: str
    edition: str
    differs: tuple[Differs, ...]


@dataclass(frozen=True, slots=True)
class Progress:
    """How far it has come: ``done`` of ``of`` cases, and what came out of the latest ones."""

    done: int
    of: int
    latest: tuple[Replayed, ...]


def replay(folder: Path, edition: Path, workers: int | None = None) -> Iterator[Progress]:
    """Assess every filed case of the edition's kind under it, and tell what would differ from the case's own edition.

    Nothing is written. The cases are worked on in processes of their own; memory stays flat however many there are.
    """
    office = open_office(folder)
    kind = read_rulebook(without_examples(edition.read_text("utf-8")), str(edition)).rulebook.edition.kind
    with read_session(office.engine) as session:
        ids = list(
            session.scalars(
                select(Case.id).where(Case.kind == kind, Case.kept.is_(False), Case.erased_at.is_(None)).order_by(Case.filed_at)
            )
        )
    office.close()
    chunks = [ids[n : n + CHUNK] for n in range(0, len(ids), CHUNK)]
    done = 0
    # a process that does nothing else can be copied with all that it has loaded; one with threads cannot safely be
    context = multiprocessing.get_context("fork" if threading.active_count() == 1 else "spawn")
    with ProcessPoolExecutor(workers or os.cpu_count(), context, _begin, (str(folder), str(edition))) as pool:
        for latest in pool.map(_work, chunks):
            done += len(latest)
            yield Progress(done, len(ids), latest)


class _Worker:
    """What one process keeps: the office it reads, and the rulebook to try."""

    def __init__(self, folder: str, edition: str) -> None:
        self.office = open_office(Path(folder))
        self.rules = read_rulebook(without_examples(Path(edition).read_text("utf-8")), edition).rulebook
        self.calendar = calendar_beside(Path(edition), self.rules.edition.calendar)
        self.now = datetime.now(UTC)
        self.readings: dict[str, Reading] = {}

    def read(self, session: Session, hashes: set[str]) -> None:
        """Have the readings of these files at hand; those of others are let go when there are many."""
        if len(self.readings) > MOST_READINGS:
            self.readings = {sha256: self.readings[sha256] for sha256 in hashes & self.readings.keys()}
        wanted = select(StoredReading.sha256, StoredReading.reading).where(
            StoredReading.sha256.in_(hashes - self.readings.keys())
        )
        for sha256, text in session.execute(wanted.order_by(StoredReading.read_at)):
            self.readings[sha256] = Reading.model_validate_json(text)

    def replayed(self, reference: str, own_sha256: str, was: dict[str, str], history: History) -> Replayed:
        """One case under the other edition, compared with ``was``, what its own edition makes of it."""
        would = outcome(assess(self.rules, history.versions[-1].dossier, history, Known(self.calendar, self.readings), self.now))
        names = dict.fromkeys((*was, *would))
        differs = tuple(Differs(n, was.get(n, "nothing"), would.get(n, "nothing")) for n in names if was.get(n) != would.get(n))
        return Replayed(reference, own_sha256, differs)


_HERE: list[_Worker] = []


def _begin(folder: str, edition: str) -> None:
    _HERE.append(_Worker(folder, edition))
    clear_seldom()


def _work(ids: Sequence[str]) -> tuple[Replayed, ...]:
    here = _HERE[0]
    with read_session(here.office.engine) as session:
        cases = list(_cases(session, ids))
        hashes = {a.sha256 for *_, history in cases for a in history.versions[-1].dossier.papers}
        here.read(session, hashes)
    return tuple(here.replayed(*case) for case in cases)


def _cases(session: Session, ids: Sequence[str]) -> Iterator[tuple[str, str, dict[str, str], History]]:
    """The cases of a chunk with what bears on them, in their order."""
    cases = {
        row.id: row
        for row in session.execute(select(Case.id, Case.reference, Case.edition_sha256, Case.outcome).where(Case.id.in_(ids)))
    }
    entries: dict[str, list[Entry]] = {id_: [] for id_ in ids}
    body_alone, what = _parts_of_body(session)
    told = select(HistoryEntry.case_id, body_alone, HistoryEntry.personal).where(HistoryEntry.case_id.in_(ids), what.in_(BEARS))
    for case_id, body, personal in session.execute(told.order_by(HistoryEntry.case_id, HistoryEntry.no)):
        entries[case_id].append(_entry(body, personal))
    versions: dict[str, Version] = {}
    kept = select(FiledVersion.case_id, FiledVersion.no, FiledVersion.at, FiledVersion.dossier).where(
        FiledVersion.case_id.in_(ids)
    )
    for case_id, no, at, dossier in session.execute(kept.order_by(FiledVersion.no)):
        versions[case_id] = Version.model_construct(no=no, at=at, dossier=dossier)
    for id_ in ids:
        last = versions[id_]
        whole = last.model_copy(update={"dossier": Dossier.model_validate_json(str(last.dossier))})
        history = History.model_construct(entries=tuple(entries[id_]), versions=(whole,))
        yield cases[id_].reference, cases[id_].edition_sha256, cases[id_].outcome, history


def _parts_of_body(session: Session) -> tuple[ColumnElement[str], ColumnElement[str]]:
    """The body of an entry without the hash of its personal part, and what kind of entry it is, as each engine says it."""
    if session.get_bind().dialect.name == "postgresql":
        body = cast(HistoryEntry.body, JSONB)
        return cast(body.op("-")(literal_column("'personal_hash'")), Text), body["what"].astext
    return func.json_remove(HistoryEntry.body, "$.personal_hash"), func.json_extract(HistoryEntry.body, "$.what")


def _entry(body: str, personal: str | None) -> Entry:
    return ENTRY.validate_python(json.loads(body) | json.loads(personal)) if personal else ENTRY.validate_json(body)
