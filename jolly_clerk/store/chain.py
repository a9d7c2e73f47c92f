"""The history of a case: append-only, each entry chained to the one before by a hash.

The chain covers the body of an entry and the salted hash of its personal part, so that what is
personal can be erased by law and the chain still verifies.
"""

from __future__ import annotations

import hashlib
import json
import re
import secrets
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.history import ENTRY, Entry, History
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Json
from jolly_clerk.store.beside import FileUse
from jolly_clerk.store.counter import DocketSent
from jolly_clerk.store.database import query
from jolly_clerk.store.tables import Case, FiledVersion, Head, HistoryEntry

#: fields that say something about a person; they stand beside the chain
PERSONAL = (
    "reason", "text", "points", "words", "note", "because", "grounds", "title", "row", "files", "messages",
    "payer", "account",
)  # fmt: skip
START = "0" * 64


def canonical(value: Json) -> str:
    """One JSON text for one value."""
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def salted(text: str, salt: str) -> str:
    """The salted hash of a text."""
    return hashlib.sha256(f"{salt}\n{text}".encode()).hexdigest()


def link(previous: str, case_id: str, no: int, body: str, personal_hash: str) -> str:
    """The hash of an entry."""
    return hashlib.sha256(canonical([previous, case_id, no, body, personal_hash]).encode()).hexdigest()


def append(session: Session, case_id: str, entries: Sequence[Entry]) -> int:
    """Append entries to a case within the caller's transaction; returns how many there are now."""
    head = session.get(Head, case_id)
    if head is None:
        head = Head(case_id=case_id, count=0, hash=START)
        session.add(head)
    for entry in entries:
        row = _row(case_id, head.count + 1, head.hash, entry.model_dump(mode="json"))
        session.add(HistoryEntry(**row))
        name_files(session, case_id, files_named(row["body"]) | files_named(row["personal"] or ""))
        head.count, head.hash = row["no"], row["hash"]
    return head.count


def _row(case_id: str, no: int, previous: str, whole: dict[str, Any]) -> dict[str, Any]:
    """The row of an entry, linked to the one before; its personal part is taken out of ``whole`` and stands beside."""
    private = {key: whole.pop(key) for key in PERSONAL if whole.get(key)}
    salt = secrets.token_hex(16)
    personal = canonical(private) if private else None
    personal_hash = salted(personal, salt) if personal else ""
    body = canonical(whole | {"personal_hash": personal_hash})
    own = link(previous, case_id, no, body, personal_hash)
    return {"case_id": case_id, "no": no, "body": body, "personal": personal, "salt": salt, "previous": previous, "hash": own}


def chained(case_id: str, entries: Sequence[dict[str, Any]]) -> tuple[list[dict[str, Any]], dict[str, Any]]:
    """The rows of a new chain and of its head, made at once."""
    rows, previous = list[dict[str, Any]](), START
    for no, given in enumerate(entries, 1):
        rows.append(_row(case_id, no, previous, dict(given)))
        previous = rows[-1]["hash"]
    return rows, {"case_id": case_id, "count": len(rows), "hash": previous}


_NAMED = re.compile(r'"(?:letter_|permit_)?sha256":\s?"([0-9a-f]{64})"')


def files_named(text: str) -> set[str]:
    """The SHA-256 of every file that the JSON of an entry or of a version names: uploads, letters, permits."""
    return set(_NAMED.findall(text))


def name_files(session: Session, case_id: str, files: set[str]) -> None:
    """Keep which files a case names, in the caller's transaction."""
    for sha256 in sorted(files):
        if session.get(FileUse, (sha256, case_id)) is None:
            session.add(FileUse(sha256=sha256, case_id=case_id))
            session.flush()


@dataclass(frozen=True, slots=True)
class Sealed:
    """A version ready to be kept: its text, its salt, and the salted hash that the chain will hold."""

    version: Version
    text: str
    salt: str
    hash: str


def seal(version: Version) -> Sealed:
    """Make a version ready to be kept."""
    salt, text = secrets.token_hex(16), canonical(version.dossier.model_dump(mode="json"))
    return Sealed(version, text, salt, salted(text, salt))


def keep_version(session: Session, case_id: str, sealed: Sealed) -> None:
    """Keep a filed version whole, in the caller's transaction."""
    session.add(FiledVersion(case_id=case_id, no=sealed.version.no, at=sealed.version.at, dossier=sealed.text, salt=sealed.salt))
    name_files(session, case_id, files_named(sealed.text))
    for docket in sealed.version.dossier.dockets:
        session.merge(DocketSent(no=docket.no, case_id=case_id))


def load_history(session: Session, case_id: str) -> History:
    """The whole history of a case with its versions."""
    entries = tuple(_entry(body, personal) for body, personal in query(session, _ENTRIES, case_id=case_id))
    kept = query(session, _VERSIONS, case_id=case_id)
    versions = tuple(Version(no=no, at=at, dossier=Dossier.model_validate_json(text)) for no, at, text in kept)
    return History(entries=entries, versions=versions)


_ENTRIES = (
    select(HistoryEntry.body, HistoryEntry.personal).where(HistoryEntry.case_id == bindparam("case_id")).order_by(HistoryEntry.no)
)
_VERSIONS = (
    select(FiledVersion.no, FiledVersion.at, FiledVersion.dossier)
    .where(FiledVersion.case_id == bindparam("case_id"))
    .order_by(FiledVersion.no)
)
_COUNT = select(Head.count).where(Head.case_id == bindparam("case_id"))


def count_of(session: Session, case_id: str) -> int:
    """How many entries the history of a case has."""
    return query(session, _COUNT, case_id=case_id).scalar() or 0


def _entry(text: str, personal: str | None) -> Entry:
    body = json.loads(text)
    body.pop("personal_hash", None)
    return ENTRY.validate_python(body | (json.loads(personal) if personal else {}))


_READ_IN = '"what":"read in"'
_RECEIPT = re.compile(r'"receipt":"(\d{4}-\d+)"')


class Chains:
    """The chains and the versions of some cases, read at once and verified one by one."""

    def __init__(self, session: Session, case_ids: Sequence[str]) -> None:
        e, v = HistoryEntry, FiledVersion
        self.rows: dict[str, list[tuple[Any, ...]]] = {id_: [] for id_ in case_ids}
        self.versions: dict[str, dict[int, tuple[str, str]]] = {id_: {} for id_ in case_ids}
        self.heads = {h.case_id: h for h in session.scalars(select(Head).where(Head.case_id.in_(case_ids)))}
        wanted = select(e.case_id, e.no, e.body, e.personal, e.salt, e.previous, e.hash).where(e.case_id.in_(case_ids))
        for case_id, *row in session.execute(wanted.order_by(e.case_id, e.no)):
            self.rows[case_id].append(tuple(row))
        self.kept_at: dict[tuple[str, int], datetime] = {}
        kept = select(v.case_id, v.no, v.at, v.dossier, v.salt).where(v.case_id.in_(case_ids)).order_by(v.no)
        for case_id, no, at, dossier, salt in session.execute(kept):
            self.versions[case_id][no], self.kept_at[case_id, no] = (dossier, salt), at

    def history(self, case_id: str) -> History:
        """The whole history of a case whose chain is whole."""
        entries = tuple(_entry(body, personal) for _, body, personal, *_rest in self.rows[case_id])
        versions = tuple(
            Version(no=no, at=self.kept_at[case_id, no], dossier=Dossier.model_validate_json(text))
            for no, (text, _) in self.versions[case_id].items()
        )
        return History(entries=entries, versions=versions)

    def receipts(self, case_id: str) -> Iterator[str]:
        """The numbers of the receipts in a history."""
        rows = self.rows[case_id]
        came = max((no for no, body, *_ in rows if _READ_IN in body), default=0)  # what stands before is of another office
        for _, body, *_rest in rows[came:]:
            if '"paid"' in body and (number := _RECEIPT.search(body)):
                yield number[1]

    def named_in(self, case_id: str, reference: str) -> dict[str, str]:
        """The files of the versions, each with what it is called there."""
        named: dict[str, str] = {}
        for no, (dossier, _) in self.versions[case_id].items():
            try:
                attachments = json.loads(dossier)["attachments"]
                named |= {a["sha256"]: _called(a["name"], reference, no) for a in attachments}
            except (ValueError, KeyError, TypeError):
                continue  # the chain of the case names it
        return named

    def kept_hash(self, case_id: str) -> str:
        """The hash that the one entry of a case tells that is kept as it came."""
        rows = self.rows[case_id]
        return str(json.loads(rows[0][1]).get("told_hash", "")) if rows else ""

    def wrong(self, case_id: str, reference: str, erased: bool) -> Iterator[str]:
        """What is wrong with the chain of a case; nothing if it is whole."""
        rows = self.rows[case_id]
        yield from chain_faults(case_id, reference, rows, None if erased else self.versions[case_id])
        head, last = self.heads.get(case_id), rows[-1] if rows else (0, "", None, "", "", START)
        if head is None or head.count != last[0]:
            yield say(
                "history of {reference}: it has {count} entries, its head counts {told}; the end is cut off",
                reference=reference,
                count=last[0],
                told=head.count if head else 0,
            )
        elif head.hash != last[5]:
            yield say("history of {reference}: its head does not match the last entry", reference=reference)


def chain_faults(
    case_id: str, reference: str, rows: Sequence[tuple[Any, ...]], versions: Mapping[int, tuple[str, str]] | None
) -> Iterator[str]:
    """What is wrong with a chain by itself: ``rows`` are number, body, personal part, salt, hash before and hash of each entry,
    ``versions`` text and salt by number, None for a case that was erased."""
    previous, count = START, 0
    hashes: dict[int, str] = {}
    for no, text, personal, salt, before, own in rows:
        count += 1
        where = say("history of {reference}, entry {no}", reference=reference, no=no)
        if no != count:
            yield say("{where}: entry {count} is missing before it", where=where, count=count)
            count = no
        try:
            body = json.loads(text)
            personal_hash = str(body["personal_hash"])
        except (ValueError, KeyError, TypeError):
            yield say("{where}: its text is damaged", where=where)
            previous = own
            continue
        if before != previous or link(before, case_id, no, text, personal_hash) != own:
            yield say("{where}: it does not fit the chain", where=where)
        if personal is not None and salted(personal, salt) != personal_hash:
            yield say("{where}: its personal part was changed", where=where)
        if personal is None and personal_hash and versions is not None:
            yield say("{where}: its personal part is missing", where=where)
        if "dossier_hash" in body:
            hashes[int(body["version"])] = str(body["dossier_hash"])
        previous = own
    for no, told in sorted(hashes.items()) if versions is not None else ():
        if versions is None or no not in versions:
            yield say("version {no} of {reference} is missing", no=no, reference=reference)
        elif salted(*versions[no]) != told:
            yield say("version {no} of {reference} was changed", no=no, reference=reference)


def _called(name: str, reference: str, no: int) -> str:
    return say("“{name}” in {reference}, version {no}", name=name, reference=reference, no=no)


def verify_chain(session: Session, case_id: str, reference: str) -> Iterator[str]:
    """What is wrong with the chain of a case; nothing if it is whole."""
    erased = session.scalar(select(Case.erased_at).where(Case.id == case_id)) is not None
    return Chains(session, [case_id]).wrong(case_id, reference, erased)
