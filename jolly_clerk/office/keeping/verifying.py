"""``jolly-clerk verify``: is everything there and whole? Each line names what is wrong."""

from __future__ import annotations

import re
from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import assessed, project, projection
from jolly_clerk.office.office import Office
from jolly_clerk.store.chain import files_named, load_history, verify_chain
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.outside import verify_last
from jolly_clerk.store.tables import (
    Case,
    Counter,
    Draft,
    FiledVersion,
    Head,
    HistoryEntry,
    Outgoing,
    PublishedEdition,
    StoredFile,
)


def verify(office: Office) -> Iterator[str]:
    """Everything that is wrong, one sentence each; nothing if all is well."""
    with read_session(office.engine) as session:
        named = dict(_named_files(session))
        cases = list(session.scalars(select(Case).order_by(Case.reference)))
        yield from _lost_rows(session, {case.id for case in cases})
        yield from verify_last(session, office.folder)
    for sha256, where in sorted(named.items(), key=lambda pair: pair[1]):
        wrong = office.vault.check(sha256)
        if wrong:
            yield say("file {sha256}… ({where}) {wrong}", sha256=sha256[:12], where=where, wrong=wrong)
    for case in cases:
        with read_session(office.engine) as session:
            broken = list(verify_chain(session, case.id, case.reference))
        yield from broken
        if not broken and case.erased_at is None:
            yield from _projection(office, case)
    with read_session(office.engine) as session:
        yield from _receipts(session, {case.id: case.reference for case in cases})


def _named_files(session: Session) -> Iterator[tuple[str, str]]:
    for row in session.scalars(select(StoredFile)):
        yield row.sha256, say("kept upload")
    for edition in session.scalars(select(PublishedEdition)):
        yield edition.sha256, say("edition {kind} {in_force}", kind=edition.kind, in_force=edition.in_force)
        yield edition.calendar_sha256, say("calendar of {kind} {in_force}", kind=edition.kind, in_force=edition.in_force)
    for out in session.scalars(select(Outgoing)):
        if out.pdf_sha256:
            yield out.pdf_sha256, say("letter {key}", key=out.key)
    for body, personal, reference in session.execute(
        select(HistoryEntry.body, HistoryEntry.personal, Case.reference)
        .join(Case, Case.id == HistoryEntry.case_id)
        .where(Case.erased_at.is_(None))
    ):
        for sha256 in sorted(files_named(body + (personal or ""))):
            yield sha256, say("a paper or file in the history of {reference}", reference=reference)
    for draft in session.scalars(select(Draft)):
        for a in Dossier.model_validate(draft.dossier).attachments:
            yield a.sha256, say("“{name}” in a draft", name=a.name)
    for version, reference in session.execute(select(FiledVersion, Case.reference).join(Case, Case.id == FiledVersion.case_id)):
        try:
            dossier = Dossier.model_validate_json(version.dossier)
        except ValueError:
            continue  # the chain of the case names it
        for a in dossier.attachments:
            yield a.sha256, say("“{name}” in {reference}, version {no}", name=a.name, reference=reference, no=version.no)


def _lost_rows(session: Session, cases: set[str]) -> Iterator[str]:
    chained = {*session.scalars(select(HistoryEntry.case_id).distinct()), *session.scalars(select(Head.case_id))}
    yield from (
        say("history {case_id}… has no row in the list of cases", case_id=case_id[:12]) for case_id in sorted(chained - cases)
    )


def _projection(office: Office, case: Case) -> Iterator[str]:
    with read_session(office.engine) as session:
        history = load_history(session, case.id)
    loaded = assessed(office, case, history, len(history.entries))
    for column, told in projection(loaded).items():
        if getattr(case, column) != told:
            yield say(
                "list row of {reference}: {column} is {listed}, its history says {told}",
                reference=case.reference,
                column=column,
                listed=f"{getattr(case, column)!r}",
                told=f"{told!r}",
            )


def _receipts(session: Session, references: dict[str, str]) -> Iterator[str]:
    """Receipts are numbered without a gap: each number up to the counter stands in exactly one history."""
    found: dict[str, list[str]] = {}
    for case_id, body in session.execute(
        select(HistoryEntry.case_id, HistoryEntry.body).where(HistoryEntry.body.contains('"paid"'))
    ):
        number = re.search(r'"receipt":"(\d{4}-\d+)"', body)
        if number:
            found.setdefault(number[1], []).append(references.get(case_id, case_id[:12]))
    yield from (
        say("receipt {number} stands in {where}", number=number, where=all_of(where))
        for number, where in sorted(found.items())
        if len(where) > 1
    )
    for counter in session.scalars(select(Counter).where(Counter.name.startswith("receipt "))):
        year = counter.name.removeprefix("receipt ")
        for n in range(1, counter.last + 1):
            if f"{year}-{n:05}" not in found:
                yield say("receipt {number} is missing", number=f"{year}-{n:05}")


def rebuild(office: Office) -> int:
    """Write every list row anew from its history; returns how many rows changed."""
    changed = 0
    with read_session(office.engine) as session:
        cases = list(session.scalars(select(Case).where(Case.erased_at.is_(None))))
    for case in cases:
        with write_session(office.engine) as session:
            history = load_history(session, case.id)
            loaded = assessed(office, case, history, len(history.entries), session)
            row = session.get_one(Case, case.id)
            changed += any(getattr(row, column) != told for column, told in projection(loaded).items())
            project(office, session, row, loaded)
    return changed
