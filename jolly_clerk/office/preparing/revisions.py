"""The revisions of a draft: what each change touched, so that a window that saw an older state can be merged, and who is told of it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.changing import answer
from jolly_clerk.core.dossier.merging import touched
from jolly_clerk.core.dossier.model import Answers, Dossier
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import Access, Needed
from jolly_clerk.office.cases.seeing import note_use
from jolly_clerk.office.errors import Stale
from jolly_clerk.office.events import draft_changed
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import note_writer, people_of
from jolly_clerk.store.tables import Draft, DraftChange, StoredFile

#: so many files that were taken out of a draft can be put back
MOST_REMOVED = 50
#: so many changes of a draft are remembered, for a window that saw an older state
MOST_REMEMBERED = 200


#: what is kept beside the answers of a draft, as if it were parts of them
WORDS, OWN = "#words", "#own"
BESIDE = (WORDS, OWN)


def whole(draft: Draft) -> Answers:
    """Everything that is typed into a draft: its answers, the words of answered points, the covering note, the own reference."""
    own = {"note": draft.dossier.get("note", ""), "own_reference": draft.own_reference, "folder": draft.folder}
    return {**draft.dossier["answers"], WORDS: dict(draft.words), OWN: own}


def put(draft: Draft, given: Answers) -> None:
    """Put everything that is typed into a draft."""
    draft.words, own = given.get(WORDS) or {}, given.get(OWN) or {}
    draft.own_reference, draft.folder = own.get("own_reference") or "", own.get("folder") or ""
    dossier = answer(Dossier.model_validate(draft.dossier), {part: of for part, of in given.items() if part not in BESIDE})
    draft.dossier = dossier.model_copy(update={"note": own.get("note") or ""}).model_dump(mode="json")


def known_revision(draft: Draft, seen: int | None) -> None:
    """Raise Stale for a revision that a draft never had."""
    if seen is not None and not 0 < seen <= draft.revision:
        raise Stale(say("This draft has no such revision. Load it again."))


def since_seen(session: Session, draft: Draft, seen: int | None) -> dict[str, list[Any]]:
    """The places changed since a revision, with what stood there when it was seen."""
    known_revision(draft, seen)
    if seen is None or seen == draft.revision:
        return {}
    log = select(DraftChange).where(DraftChange.draft_id == draft.id, DraftChange.revision > seen).order_by(DraftChange.revision)
    rows = list(session.scalars(log))
    if len(rows) < draft.revision - seen:
        raise Stale(say("This draft was changed very often in another window. Load it again; what you typed is still here."))
    changed: dict[str, list[Any]] = {}
    for row in rows:
        for place, before in row.before.items():
            changed.setdefault(place, before)
    return changed


def note_change(
    office: Office, session: Session, who: Who, draft: Draft, before: Answers, access: Access, made: Iterable[Needed]
) -> None:
    """Note a change of a draft: the next revision, what stood before at the places that it touched, who wrote in which part."""
    draft.revision += 1
    draft.kept_at = office.now()
    log = DraftChange(draft_id=draft.id, revision=draft.revision, who_id=who.id, at=draft.kept_at)
    log.before = touched(before, whole(draft))
    session.add(log)
    needs = list(made)
    note_writer(draft, who, {need.place.partition(".")[0] for need in needs if need.right == "fill"}, draft.kept_at)
    for use in dict.fromkeys(f"{need.right} {need.place.partition('.')[0]}" for need in needs if need.right):
        note_use(session, access, use, draft.kept_at)
    tell_of(office, session, draft)
    if draft.revision > MOST_REMEMBERED:
        forget_changes(session, draft.id, draft.revision - MOST_REMEMBERED)


def note_other_change(office: Office, session: Session, draft: Draft, who_id: str) -> None:
    """Note a change of something beside the answers: the next revision, of which open pages are told."""
    draft.revision += 1
    session.add(DraftChange(draft_id=draft.id, revision=draft.revision, who_id=who_id, at=office.now(), before={}))
    tell_of(office, session, draft)


def tell_of(office: Office, session: Session, draft: Draft) -> None:
    """Tell all who may see a draft that it changed, in the caller's write."""
    for person in people_of(session, draft):
        draft_changed(office, session, draft.id, draft.revision, person)


def remember_removed(office: Office, session: Session, draft: Draft, before: Dossier, after: Dossier) -> None:
    """Keep what was taken out of a draft, so that it can be put back for as long as files are kept that nothing names."""
    there = {a.sha256 for a in after.attachments}
    gone = [a for a in before.attachments if a.sha256 not in there]
    if gone:
        draft.removed = [*draft.removed, *(a.model_dump(mode="json") for a in gone)][-MOST_REMOVED:]
        kept = update(StoredFile).where(StoredFile.sha256.in_([a.sha256 for a in gone]))
        session.execute(kept.values(kept_at=office.now()))


def forget_changes(session: Session, draft_id: str, until: int | None = None) -> None:
    """Forget what is remembered of the changes of a draft, up to a revision or all of it."""
    old = delete(DraftChange).where(DraftChange.draft_id == draft_id)
    session.execute(old.where(DraftChange.revision <= until) if until is not None else old)
