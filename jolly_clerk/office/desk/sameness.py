"""The same file in other cases, and pages that are alike: for the office alone, since one case is nobody else's business."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations

from sqlalchemy import Select, bindparam, select
from sqlalchemy.orm import Session

from jolly_clerk.core.facts.alike import alike, signs_of
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.seeing import visible, visible_in_office
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.beside import FileUse, PageSign
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, StoredReading

#: so many other cases are named for one file
MOST_NAMED = 5
#: so many files of other cases are compared page by page; a sign that stands in more files than these says nothing: it is a printed form
MOST_COMPARED, MOST_WITH_A_SIGN = 12, 40


#: which of some files another case holds as well
_ELSEWHERE = (
    select(FileUse.sha256)
    .where(FileUse.sha256.in_(bindparam("files", expanding=True)), FileUse.case_id != bindparam("own"))
    .distinct()
)


@cache
def _with_file(reviewer: bool, kinds: tuple[str, ...]) -> Select[str]:
    """The references of other cases that hold a file, for whoever of the office sees these kinds."""
    wanted = select(Case.reference).join(FileUse, Case.id == FileUse.case_id)
    wanted = wanted.where(
        FileUse.sha256 == bindparam("file"), FileUse.case_id != bindparam("own"), *visible_in_office(reviewer, kinds)
    )
    return wanted.order_by(FileUse.case_id).limit(MOST_NAMED)


def same_elsewhere(office: Office, who: Who, loaded: Loaded) -> dict[str, tuple[str, ...]]:
    """The references of other cases that hold the same bytes and that this person of the office may see, by the attachment of the version
    that stands now; at most :data:`MOST_NAMED` of each."""
    files = loaded.dossier.attachments
    if not files:
        return {}
    own, wanted = loaded.case.id, _with_file(who.may.moves == "reviewer", who.kinds)
    with read_session(office.engine) as session:
        found = session.scalars(_ELSEWHERE, {"files": list({a.sha256 for a in files}), "own": own})
        named = {sha256: sorted(session.scalars(wanted, {"file": sha256, "own": own})) for sha256 in found.all()}
    return {a.id: tuple(named[a.sha256]) for a in files if named.get(a.sha256)}


@dataclass(frozen=True, slots=True)
class AlikePage:
    """A page of a file of this case that is the same as one of another file, or nearly.

    ``file`` is this case's attachment; ``reference`` is empty if the other stands in this case, too, where it has a ``name``. ``by``
    tells whether they are alike by their bytes, their words or their look, and ``share`` how far; the words that only one of them has
    are told.
    """

    file: str
    page: int
    reference: str
    name: str
    sha256: str
    type: str
    other_page: int
    by: str
    share: float
    only_here: tuple[str, ...] = ()
    only_there: tuple[str, ...] = ()


def alike_pages(office: Office, who: Who, reference: str) -> list[AlikePage]:
    """The pages of the newest version that are alike to pages of other files, of this case and of others, the likeliest first.

    Raises NotAllowed for whoever does not see every case.
    """
    loaded = load_case(office, who, reference)
    if not who.may.sees_all:
        raise NotAllowed(say("Only the office does this."))
    readings, files = loaded.known.readings, loaded.dossier.attachments
    names = {a.sha256: a.name for a in files}
    found = [
        AlikePage(a.id, 1, "", b.name, b.sha256, readings[b.sha256].type, 1, "bytes", 1.0)
        for a, b in combinations(files, 2)
        if a.sha256 == b.sha256 and b.sha256 in readings
    ]
    with read_session(office.engine) as session:
        others = _with_a_sign(session, [readings[sha256] for sha256 in names if sha256 in readings])
        cases = _cases_of(session, who, set(others), loaded.case.id)
        for sha256 in [one for one in others if one in cases or one in names][:MOST_COMPARED]:
            reading = readings.get(sha256) or _stored(session, sha256)
            for mine in files:
                if reading and mine.sha256 != sha256 and mine.sha256 in readings:  # the same bytes are told by themselves
                    pages = list(_compared(mine.id, readings[mine.sha256], reading, others[sha256]))
                    found += [replace(page, reference=where) for where in cases.get(sha256, [])[:MOST_NAMED] for page in pages]
                    # papers of one form in one case differ in a few words: only what is wholly the same is told there
                    whole = [page for page in pages if sha256 in names and (page.share == 1 or page.by == "look")]
                    found += [replace(page, name=names[sha256]) for page in whole]
    return sorted(_one_each(found), key=lambda a: (-a.share, a.file, a.page))


def _with_a_sign(session: Session, readings: Iterable[Reading]) -> dict[str, set[str]]:
    """The files that share a sign with these, with the signs; those that share the most first."""
    signs = {sign for reading in readings for _, sign in signs_of(reading)}
    by_sign = defaultdict[str, set[str]](set)
    for sign in sorted(signs):
        rows = session.scalars(select(PageSign.sha256).where(PageSign.sign == sign).limit(MOST_WITH_A_SIGN + 1)).all()
        if len(rows) <= MOST_WITH_A_SIGN:
            by_sign[sign] |= set(rows)
    shared = defaultdict[str, set[str]](set)
    for sign, files in by_sign.items():
        for sha256 in files:
            shared[sha256].add(sign)
    return dict(sorted(shared.items(), key=lambda item: (-len(item[1]), item[0])))


def _cases_of(session: Session, who: Who, hashes: set[str], not_case: str) -> dict[str, list[str]]:
    """The references of the other cases that this person may see and that hold these files, the newest first."""
    wanted = select(FileUse.sha256, Case.reference).join(Case, Case.id == FileUse.case_id)
    wanted = (
        wanted.where(FileUse.sha256.in_(hashes), FileUse.case_id != not_case, *visible(who))
        .order_by(Case.reference.desc())
        .limit(500)
    )
    found = defaultdict[str, list[str]](list)
    for sha256, reference in session.execute(wanted).tuples():
        found[sha256].append(reference)
    return dict(found)


def _stored(session: Session, sha256: str) -> Reading | None:
    text = session.scalar(
        select(StoredReading.reading).where(StoredReading.sha256 == sha256).order_by(StoredReading.read_at.desc()).limit(1)
    )
    return Reading.model_validate_json(text) if text else None


def _compared(id_: str, mine: Reading, other: Reading, signs: set[str]) -> Iterator[AlikePage]:
    theirs = defaultdict[str, list[int]](list)
    for page, sign in signs_of(other):
        theirs[sign].append(page)
    pairs = {(page, there) for page, sign in signs_of(mine) if sign in signs for there in theirs[sign]}
    for page, there in sorted(pairs):
        how = alike(mine, page, other, there)
        if how:
            yield AlikePage(id_, page, "", "", other.sha256, other.type, there, how.by, how.share, how.only_here, how.only_there)


def _one_each(found: list[AlikePage]) -> list[AlikePage]:
    """Of each page and each other file, the page that is most alike."""
    best = dict[tuple[str, int, str, str], AlikePage]()
    for one in found:
        key = (one.file, one.page, one.reference, one.sha256)
        if key not in best or best[key].share < one.share:
            best[key] = one
    return list(best.values())
