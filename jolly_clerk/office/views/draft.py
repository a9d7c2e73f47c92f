"""A draft as its owner sees it, and files with what was read in them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from pydantic.dataclasses import dataclass as schema_once  # its schema is built once, however many routes give it

from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.dossier.changing import next_item
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import Finding, file_findings
from jolly_clerk.core.known import Known
from jolly_clerk.core.say import say
from jolly_clerk.core.sides import as_applicant
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
    findings: tuple[Finding, ...]


@schema_once(frozen=True, slots=True)
class DraftView:
    """A draft as its owner sees it.

    ``answers_case`` is the reference of the case that it answers, ``lane`` which lane of it. ``edition_sha256`` names the form.
    ``next_items`` is the number that the next item of each part gets, which none of this case ever had. ``revision`` goes back with
    each change; ``digest`` tells this state of the view from any other.
    """

    id: str
    revision: int
    kept_at: datetime
    own_reference: str
    answers_case: str
    lane: str
    dossier: Dossier
    words: dict[int, str]
    edition_sha256: str
    item_slots: tuple[ItemSlot, ...]
    next_items: dict[str, int]
    files: tuple[FileView, ...]
    assessment: AssessmentView
    digest: str = ""


def draft_view(open_now: OpenDraft) -> DraftView:
    """A draft for its owner."""
    draft, versions = open_now.draft, open_now.history.versions
    repeats = [part.id for part in open_now.rulebook.edition.parts if part.each]
    titles = {f"documents.{slot.slot}": slot.title for slot in item_slots(open_now.assessment)}
    return DraftView(
        id=draft.id,
        revision=draft.revision,
        kept_at=draft.kept_at,
        own_reference=draft.own_reference,
        answers_case=open_now.case.reference if open_now.case else "",
        lane=draft.lane,
        dossier=open_now.dossier,
        words=open_now.words,
        edition_sha256=open_now.edition_sha256,
        item_slots=item_slots(open_now.assessment),
        next_items={part: next_item(open_now.dossier, versions, part) for part in repeats},
        files=file_views(open_now.dossier, open_now.known, lambda slot: titles.get(slot) or open_now.rulebook.slot_title(slot)),
        assessment=as_applicant(open_now.assessment),
    )


def file_views(dossier: Dossier, known: Known, title_of: Callable[[str], str]) -> tuple[FileView, ...]:
    """The files of a dossier with what was read; ``title_of`` names the slot of a place."""
    views = []
    for a in dossier.attachments:
        r = known.readings.get(a.sha256)
        said, opens, kind, pages = (r.said(), r.opens, r.type, len(r.pages)) if r else (say("not read yet"), "not read", "", 0)
        title = title_of(f"documents.{a.slot}")
        views.append(FileView(a, title, said, opens, kind, pages, tuple(file_findings(a, r))))
    return tuple(views)
