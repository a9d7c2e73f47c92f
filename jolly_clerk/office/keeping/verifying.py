"""``jolly-clerk verify``: is everything there and whole? Each line names what is wrong."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from sqlalchemy import exists, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import assessed, project, projection
from jolly_clerk.office.cases.sealing import COLUMNS, row_hash
from jolly_clerk.office.keeping.sharing_out import shared_out
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.store.beside import FileUse, KeptCase
from jolly_clerk.store.chain import Chains, load_history
from jolly_clerk.store.counter import Turning
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.outside import verify_last
from jolly_clerk.store.tables import (
    Case,
    Counter,
    Draft,
    Head,
    HistoryEntry,
    Outgoing,
    PublishedEdition,
    StoredFile,
)

#: so many cases are taken up at a time
AT_ONCE = 200
#: from so many cases on it is worth the time that processes take to begin
WORTH_SHARING = 5_000
#: a verify that was stopped goes on from what stands here, in the folder of the office
FILE = "verify.json"


@dataclass
class Verified:
    """How far a verify is: how many cases of how many, and how much was wrong. ``after`` is the last case that was seen."""

    cases: int = 0
    of: int = 0
    wrong: int = 0
    after: str = ""


def verify(
    office: Office,
    reference: str = "",
    since: datetime | None = None,
    resume: bool = False,
    progress: Callable[[Verified], None] | None = None,
    workers: int = 0,
) -> Iterator[str]:
    """Everything that is wrong, one sentence each; nothing if all is well. Takes memory for some hundred cases, however many there are.

    Args:
        reference: look at this one case alone.
        since: look only at cases that changed since then, and at what belongs to no case.
        resume: go on where a verify of the whole office was stopped.
        progress: told after every few hundred cases.
        workers: look at the cases in so many processes, if there are enough of them; in this one if it is none.
    """
    done = _begun(office) if resume else Verified()
    whole = not reference and since is None
    with read_session(office.engine) as session:
        done.of = session.scalar(select(func.count()).select_from(Case)) or 0
        if not reference and not done.after:
            yield from _counted(done, _beside(office, session))
    receipts = _Receipts(office)
    many = done.of - done.cases > WORTH_SHARING and not reference
    with _looked_at(office, workers if many else 0) as looked_at:
        for ids, found in looked_at(_chunks(office, done.after, reference, since)):
            yield from _counted(done, found.wrong)
            receipts.add(found.receipts)
            done.cases, done.after = done.cases + len(ids), ids[-1]
            if whole:
                _keep(office, done)
            if progress:
                progress(done)
    if whole and not resume:
        yield from receipts.wrong()
    if whole:
        (office.folder / FILE).unlink(missing_ok=True)


def _counted(done: Verified, found: Iterable[str]) -> Iterator[str]:
    for line in found:
        done.wrong += 1
        yield line


def _begun(office: Office) -> Verified:
    try:
        return Verified(**json.loads((office.folder / FILE).read_text("utf-8")))
    except (OSError, ValueError, TypeError):
        return Verified()


def _keep(office: Office, done: Verified) -> None:
    new = office.folder / f"{FILE}.new"
    with suppress(OSError):
        new.write_text(json.dumps(asdict(done)), "utf-8")
        new.replace(office.folder / FILE)


class _Found(NamedTuple):
    """What is wrong with some cases, and the receipts that stand in each."""

    wrong: list[str]
    receipts: list[tuple[str, list[str]]]


_Looked = Callable[[Iterator[list[str]]], Iterator[tuple[list[str], _Found]]]
#: the office of a process that looks at cases, and the files that it saw
_HERE: list[tuple[Office, _Files]] = []


@contextmanager
def _looked_at(office: Office, workers: int) -> Iterator[_Looked]:
    """What looks at cases, some hundred at a time: processes of their own, with none this one."""
    if not workers:
        files = _Files(office)
        yield lambda chunks: ((ids, _cases(office, ids, files)) for ids in chunks)
        return
    given = (str(office.folder), str(office.engine.url.render_as_string(False)), office.demo)
    with shared_out(workers, _begin, given, _by_themselves) as shared:
        yield shared


def _begin(folder: str, database: str, demo: bool) -> None:
    office = open_office(Path(folder), demo=demo, database=database)
    _HERE.append((office, _Files(office)))


def _by_themselves(ids: list[str]) -> _Found:
    return _cases(_HERE[0][0], ids, _HERE[0][1])


def _chunks(office: Office, after: str, reference: str, since: datetime | None) -> Iterator[list[str]]:
    while cases := _next(office, after, reference, since):
        yield [case.id for case in cases]
        if reference:
            return
        after = cases[-1].id


def _next(office: Office, after: str, reference: str, since: datetime | None) -> list[Case]:
    wanted = select(Case).where(Case.id > after).order_by(Case.id).limit(AT_ONCE)
    if reference:
        wanted = wanted.where(Case.reference == reference)
    if since is not None:
        wanted = wanted.where(Case.changed_at >= since)
    with read_session(office.engine) as session:
        return list(session.scalars(wanted))


def _beside(office: Office, session: Session) -> Iterator[str]:
    """What is wrong beside the cases: lost rows, editions, files of drafts and of nobody, the last entry."""
    yield from _lost_rows(session)
    yield from verify_last(session, office.folder)
    named: dict[str, str] = {}
    for edition in session.scalars(select(PublishedEdition)):
        named[edition.sha256] = say("edition {kind} {in_force}", kind=edition.kind, in_force=edition.in_force)
        named[edition.calendar_sha256] = say("calendar of {kind} {in_force}", kind=edition.kind, in_force=edition.in_force)
    loose = select(StoredFile.sha256).where(~exists().where(FileUse.sha256 == StoredFile.sha256))
    named |= dict.fromkeys(session.scalars(loose), say("kept upload"))
    for dossier in session.scalars(select(Draft.dossier).execution_options(yield_per=100)):
        named |= {a.sha256: say("“{name}” in a draft", name=a.name) for a in Dossier.model_validate(dossier).papers}
    outgoing = select(Outgoing.pdf_sha256, Outgoing.key).where(Outgoing.pdf_sha256 != "", Outgoing.case_id.is_(None))
    named |= {sha256: say("letter {key}", key=key) for sha256, key in session.execute(outgoing).tuples()}
    files = _Files(office)
    for sha256, where in sorted(named.items(), key=lambda pair: pair[1]):
        yield from files.wrong(sha256, where)


class _Files:
    """The vault as a verify sees it: a file that was looked at and is whole is not read again."""

    def __init__(self, office: Office) -> None:
        self.office, self.whole = office, set[str]()

    def wrong(self, sha256: str, where: str) -> Iterator[str]:
        """What is wrong with a file."""
        if sha256 in self.whole:
            return
        wrong = self.office.vault.check(sha256)
        if wrong:
            yield say("file {sha256}… ({where}) {wrong}", sha256=sha256[:12], where=where, wrong=wrong)
        elif len(self.whole) < MOST_REMEMBERED:
            self.whole.add(sha256)


#: so many files that are whole are remembered
MOST_REMEMBERED = 200_000


def _cases(office: Office, ids: Sequence[str], files: _Files) -> _Found:
    """What is wrong with some cases: chains, versions, files, list rows. Rows and histories are read in one look, since others go on."""
    found = _Found([], [])
    with read_session(office.engine) as session:
        cases = list(session.scalars(select(Case).where(Case.id.in_(ids))))
        chains = Chains(session, ids)
        uses: dict[str, set[str]] = {id_: set() for id_ in ids}
        for sha256, case_id in session.execute(select(FileUse.sha256, FileUse.case_id).where(FileUse.case_id.in_(ids))).tuples():
            uses[case_id].add(sha256)
        kept = dict(session.execute(select(KeptCase.case_id, KeptCase.told).where(KeptCase.case_id.in_(ids))).tuples().all())
    for case in sorted(cases, key=lambda c: c.reference):
        erased = case.erased_at is not None
        broken = list(chains.wrong(case.id, case.reference, erased))
        found.wrong.extend(broken)
        called = {} if erased else chains.named_in(case.id, case.reference)
        other = say("a paper or file in the history of {reference}", reference=case.reference)
        for sha256 in sorted(uses[case.id] | called.keys()):
            found.wrong.extend(files.wrong(sha256, called.get(sha256, other)))
        if case.kept and not erased and hashlib.sha256(kept.get(case.id, "").encode()).hexdigest() != chains.kept_hash(case.id):
            found.wrong.append(say("{reference}, kept as it came, was changed", reference=case.reference))
        if not (broken or erased or case.kept) and not _is_sealed(case, chains.heads.get(case.id)):
            found.wrong.extend(_projection(office, case, chains))
        found.receipts.append((case.reference, list(chains.receipts(case.id))))
    return found


def _is_sealed(case: Case, head: Head | None) -> bool:
    """True if a list row that changes no more is as it was sealed; one that lives is looked at by its rules."""
    ended = not case.tray and case.place == "closed"
    return ended and head is not None and head.row_hash == row_hash({c: getattr(case, c) for c in COLUMNS})


def _lost_rows(session: Session) -> Iterator[str]:
    for table in (HistoryEntry, Head):
        lost = select(table.case_id).where(~exists().where(Case.id == table.case_id)).distinct()
        for case_id in sorted(session.scalars(lost)):
            yield say("history {case_id}… has no row in the list of cases", case_id=case_id[:12])


def _projection(office: Office, case: Case, chains: Chains) -> Iterator[str]:
    """Where a list row says otherwise than its history. What an earlier version of the program made of the rules (``outcome``) may stand in
    a row that nobody touched since: its seal tells."""
    head, history = chains.heads.get(case.id), chains.history(case.id)
    untouched = head is not None and head.row_hash in ("", row_hash({c: getattr(case, c) for c in COLUMNS}))
    loaded = assessed(office, case, history, len(history.entries))
    for column, told in projection(loaded).items():
        if getattr(case, column) != told and not (untouched and column == "outcome"):
            yield say(
                "list row of {reference}: {column} is {listed}, its history says {told}",
                reference=case.reference,
                column=column,
                listed=f"{getattr(case, column)!r}",
                told=f"{told!r}",
            )


class _Receipts:
    """The receipts of all cases: numbered without a gap, each in one history, or in those on which one money in was placed."""

    def __init__(self, office: Office) -> None:
        self.office, self.found = office, dict[str, list[str]]()

    def add(self, of_cases: Iterable[tuple[str, Iterable[str]]]) -> None:
        """The receipts of some cases."""
        for reference, numbers in of_cases:
            for number in numbers:
                self.found.setdefault(number, []).append(reference)

    def wrong(self) -> Iterator[str]:
        """What is wrong with them."""
        with read_session(self.office.engine) as session:
            shared = select(MoneyIn.receipt).join(Placing, Placing.money_id == MoneyIn.id).group_by(MoneyIn.id, MoneyIn.receipt)
            placed = set(session.scalars(shared.having(func.count() > 1)))
            gone = select(Refund.money_id).where(Refund.money_id.is_not(None))
            where_loose = or_(MoneyIn.is_left, MoneyIn.id.in_(gone))
            loose = set(session.scalars(select(MoneyIn.receipt).where(MoneyIn.receipt != "", where_loose)))
            counters = list(session.scalars(select(Counter).where(Counter.name.startswith("receipt "))))
            turned = [{old, new} for old, new in session.execute(select(Turning.reference, Turning.became)).tuples()]
        for number, where in sorted(self.found.items()):
            if len(where) > 1 and number not in placed and set(where) not in turned:
                yield say("receipt {number} stands in {where}", number=number, where=all_of(where))
        for counter in counters:
            year = counter.name.removeprefix("receipt ")
            for n in range(1, counter.last + 1):
                if f"{year}-{n:05}" not in self.found and f"{year}-{n:05}" not in loose:
                    yield say("receipt {number} is missing", number=f"{year}-{n:05}")


def rebuild(office: Office, progress: Callable[[Verified], None] | None = None) -> int:
    """Write every list row anew from its history, some hundred at a time; returns how many rows changed."""
    changed, done = 0, Verified()
    while cases := _next(office, done.after, "", None):
        for case in cases:
            if case.erased_at is not None or case.kept:
                continue
            with write_session(office.engine) as session:
                history = load_history(session, case.id)
                loaded = assessed(office, case, history, len(history.entries), session)
                row = session.get_one(Case, case.id)
                changed += any(getattr(row, column) != told for column, told in projection(loaded).items())
                project(office, session, row, loaded)
        done.cases, done.after = done.cases + len(cases), cases[-1].id
        if progress:
            progress(done)
    return changed
