"""A draft as its owner sees it, and files with what was read in them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime

from pydantic.dataclasses import dataclass as schema_once  # its schema is built once, however many routes give it

from jolly_clerk.core.additions import Adding
from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.dossier.changing import next_item
from jolly_clerk.core.dossier.describing import told_in_words
from jolly_clerk.core.dossier.model import SIGNED, Attachment, Dossier
from jolly_clerk.core.facts.file_findings import Finding, file_findings
from jolly_clerk.core.known import Known
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import Right
from jolly_clerk.core.sides import as_applicant
from jolly_clerk.core.sorting.exchanging import Swapped, swapped
from jolly_clerk.office.preparing.adding import adding_of
from jolly_clerk.office.preparing.attaching import filed_before
from jolly_clerk.office.preparing.drafts import OpenDraft
from jolly_clerk.office.views.form import ItemSlot, item_slots


@dataclass(frozen=True, slots=True)
class FileView:
    """A file with what was read in it, in words."""

    attachment: Attachment
    slot_title: str
    said: str
    opens: str
    type: str
    pages: int
    signed: bool
    findings: tuple[Finding, ...]


@dataclass(frozen=True, slots=True)
class WritingView:
    """Somebody else is writing a part until an instant, unless another key is pressed."""

    part: str
    name: str
    until: datetime


@schema_once(frozen=True, slots=True)
class DraftView:
    """A draft as its owner sees it, or somebody who was invited.

    ``own`` tells that it is one's own, ``owner`` whose it is, ``rights`` what one may do in it; ``read_only`` are the parts of the page
    (``documents`` and ``sign`` too) in which one may write nothing now, ``written`` those among them that somebody else is writing.

    ``answers_case`` is the reference of the case that it answers, ``lane`` which lane of it; ``adding`` is what it adds to that without
    being asked. ``edition_sha256`` names the form.
    ``replaced`` are files that were filed and that a new one took the place of, which can be put back beside it.
    ``swapped`` are pairs of files that stand in each other's place. ``next_items`` is the number that the next item of each part gets,
    which none of this case ever had. ``revision`` goes back with each change; ``digest`` tells this state of the view from any other.
    """

    id: str
    revision: int
    kept_at: datetime
    own_reference: str
    folder: str
    offered_to: str
    own: bool
    acting: bool
    counter: bool
    turns: str
    owner: str
    rights: tuple[Right, ...]
    read_only: tuple[str, ...]
    written: tuple[WritingView, ...]
    answers_case: str
    lane: str
    adding: Adding | None
    dossier: Dossier
    words: dict[int, str]
    edition_sha256: str
    item_slots: tuple[ItemSlot, ...]
    next_items: dict[str, int]
    files: tuple[FileView, ...]
    replaced: tuple[Attachment, ...]
    swapped: tuple[Swapped, ...]
    assessment: AssessmentView
    digest: str = ""


def draft_view(open_now: OpenDraft) -> DraftView:
    """A draft for its owner."""
    draft, versions, access = open_now.draft, open_now.history.versions, open_now.access
    repeats = [part.id for part in open_now.rulebook.edition.parts if part.each]
    titles = {f"documents.{slot.slot}": slot.title for slot in item_slots(open_now.assessment)}
    return DraftView(
        id=draft.id,
        revision=draft.revision,
        kept_at=draft.kept_at,
        own_reference=draft.own_reference,
        folder=draft.folder if access.owner else "",
        offered_to=draft.offered_to if access.owner else "",
        own=access.owner,
        acting=bool(access.mandate),
        counter=access.counter,
        turns=open_now.turns,
        owner=open_now.names.get(draft.owner_id, ""),
        rights=access.rights,
        read_only=tuple(_read_only(open_now)),
        written=tuple(WritingView(w.part, open_now.names.get(w.who, ""), w.until) for w in open_now.written.values()),
        answers_case=open_now.case.reference if open_now.case else "",
        lane=draft.lane,
        adding=adding_of(open_now),
        dossier=open_now.dossier,
        words=open_now.words,
        edition_sha256=open_now.edition_sha256,
        item_slots=item_slots(open_now.assessment),
        next_items={part: next_item(open_now.dossier, versions, part) for part in repeats},
        files=file_views(open_now.dossier, open_now.known, lambda slot: titles.get(slot) or open_now.rulebook.slot_title(slot)),
        replaced=_replaced(open_now),
        swapped=tuple(swapped(open_now.rulebook, open_now.dossier, open_now.known.readings)),
        assessment=as_applicant(open_now.assessment, access),
    )


def _read_only(open_now: OpenDraft) -> Iterator[str]:
    """The parts in which nothing may be written now, by whoever opened the draft."""
    for part in open_now.rulebook.edition.parts:
        if not open_now.access.may_fill(part.id) or part.id in open_now.written:
            yield part.id
    if not open_now.access.may("attach"):
        yield "documents"
    if not open_now.access.may("sign"):
        yield "sign"


def _replaced(open_now: OpenDraft) -> tuple[Attachment, ...]:
    here = open_now.dossier.attachments
    removed = [Attachment.model_validate(raw) for raw in open_now.draft.removed]
    filed = {a.id for a in removed if any(a.id == b.id for b in filed_before(open_now, a.slot))}
    there, slots = {a.sha256 for a in here}, {a.slot for a in here}
    return tuple(a for a in removed if a.id in filed and a.sha256 not in there and a.slot in slots)


def file_views(dossier: Dossier, known: Known, title_of: Callable[[str], str]) -> tuple[FileView, ...]:
    """The files of a dossier with what was read; ``title_of`` names the slot of a place."""
    views = []
    for a in dossier.papers:
        r = known.readings.get(a.sha256)
        said, opens, kind, pages = (r.said(), r.opens, r.type, len(r.pages)) if r else (say("not read yet"), "not read", "", 0)
        if a.sealed and r is None:
            said = say("sealed for the office")
        if words := told_in_words(a, dossier.attachments):
            said = f"{said} · {words}"
        signed = r is not None and r.signatures > 0
        title = say("Declaration signed") if a.id == SIGNED else title_of(f"documents.{a.slot}")
        views.append(
            FileView(a, title, said, opens, kind, pages, signed, tuple(file_findings(a, r)) if r or not a.sealed else ())
        )
    return tuple(views)
