"""What a person sees of a case or a draft: the assessment cut to the role, the form, the files, the line of time."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from pydantic.dataclasses import dataclass as schema_once  # its schema is built once, however many routes give it

from jolly_clerk.core.assess import Assessment
from jolly_clerk.core.corrections import offers
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import Finding, file_findings
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.known import Known
from jolly_clerk.core.requirements import Offer
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Option, Part, Signature
from jolly_clerk.core.say import day
from jolly_clerk.core.story import Moment, NextStep, next_steps, story
from jolly_clerk.office.casework import Loaded, load_case, names
from jolly_clerk.office.checking import due_if_sent_now
from jolly_clerk.office.drafts import OpenDraft
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people import note_reading


@dataclass(frozen=True, slots=True)
class SlotForm:
    """A slot as the form shows it."""

    slot: str
    title: str
    says: str
    article: str
    optional: bool
    accepts: str


@dataclass(frozen=True, slots=True)
class Form:
    """The form that a rulebook makes: parts with their questions, lists, slots, the declaration."""

    kind: str
    title: str
    about: str
    law: str
    edition: str
    currency: str
    incomplete_filing: Literal["warn", "refuse"]
    parts: tuple[Part, ...]
    lists: dict[str, tuple[Option, ...]]
    slots: tuple[SlotForm, ...]
    signature: Signature


@dataclass(frozen=True, slots=True)
class FileView:
    """A file with what was read in it, in words."""

    attachment: Attachment
    said: str
    opens: str
    type: str
    pages: int
    findings: tuple[Finding, ...]


@schema_once(frozen=True, slots=True)
class DraftView:
    """A draft as its owner sees it. ``answers_case`` is the reference of the case that it answers."""

    id: str
    counter: int
    kept_at: datetime
    own_reference: str
    answers_case: str
    dossier: Dossier
    words: dict[int, str]
    form: Form
    files: tuple[FileView, ...]
    assessment: Assessment


@dataclass(frozen=True, slots=True)
class VersionView:
    """A filed version, for looking at and comparing."""

    no: int
    at: datetime
    dossier: Dossier
    files: tuple[FileView, ...]


@schema_once(frozen=True, slots=True)
class CaseView:
    """A case as a person sees it. ``seen`` goes back with each change, so that nobody decides over another's head."""

    reference: str
    own_reference: str
    applicant: str
    officer: str
    seen: int
    today: str
    form: Form
    assessment: Assessment
    versions: tuple[VersionView, ...]
    story: tuple[Moment, ...]
    next_steps: tuple[NextStep, ...]
    offers: dict[str, tuple[Offer, ...]]
    due_if_sent: str


def form_of(rulebook: Rulebook) -> Form:
    """The form of a rulebook."""
    e = rulebook.edition
    return Form(
        kind=e.kind,
        title=e.title,
        about=e.about.strip(),
        law=e.law,
        edition=e.id,
        currency=e.currency,
        incomplete_filing=e.incomplete_filing,
        parts=tuple(e.parts),
        lists={name: tuple(options) for name, options in e.lists.items()},
        slots=tuple(SlotForm(s.slot, s.title, s.says, s.article, s.optional, _accepts(rulebook, s.slot)) for s in e.documents),
        signature=e.signature,
    )


def _accepts(rulebook: Rulebook, slot: str) -> str:
    accepts = rulebook.slots[slot].slot.accepts
    count = f"{accepts.files} file{'s' if accepts.files != '1' else ''}"
    sheet = f", {accepts.sheet} or larger" if accepts.sheet else ""
    return f"{' or '.join(f.upper() for f in accepts.formats)}{sheet}, {count}, at most {accepts.size} each"


def file_views(dossier: Dossier, known: Known) -> tuple[FileView, ...]:
    """The files of a dossier with what was read."""
    views = []
    for a in dossier.attachments:
        r = known.readings.get(a.sha256)
        said, opens, kind, pages = (r.said(), r.opens, r.type, len(r.pages)) if r else ("not read yet", "not read", "", 0)
        views.append(FileView(a, said, opens, kind, pages, tuple(file_findings(a, r))))
    return tuple(views)


def draft_view(open_now: OpenDraft) -> DraftView:
    """A draft for its owner."""
    draft = open_now.draft
    return DraftView(
        id=draft.id,
        counter=draft.counter,
        kept_at=draft.kept_at,
        own_reference=draft.own_reference,
        answers_case=open_now.case.reference if open_now.case else "",
        dossier=open_now.dossier,
        words=open_now.words,
        form=form_of(open_now.rulebook),
        files=file_views(open_now.dossier, open_now.known),
        assessment=for_applicant(open_now.assessment),
    )


def look_at(office: Office, who: Who, reference: str) -> CaseView:
    """A case as this person may see it; that it was read is noted."""
    loaded = load_case(office, who, reference)
    note_reading(office, who, loaded.case.id)
    return case_view(office, who, loaded)


def case_view(office: Office, who: Who, loaded: Loaded) -> CaseView:
    """The view of a loaded case."""
    known_names = names(office)
    inner = who.sees_all
    today = loaded.known.calendar.local_day(loaded.now)
    moments = story(loaded.history.entries, known_names, loaded.rulebook.edition.currency, today)
    versions = tuple(VersionView(v.no, v.at, v.dossier, file_views(v.dossier, loaded.known)) for v in loaded.history.versions)
    return CaseView(
        reference=loaded.case.reference,
        own_reference=loaded.case.own_reference,
        applicant=known_names.get(loaded.case.applicant_id, ""),
        officer=known_names.get(loaded.case.officer_id or "", ""),
        seen=loaded.entries,
        today=today.isoformat(),
        form=form_of(loaded.rulebook),
        assessment=with_names(loaded.assessment, known_names) if inner else for_applicant(loaded.assessment),
        versions=versions,
        story=tuple(m for m in moments if inner or not m.inner),
        next_steps=next_steps(
            loaded.so_far, loaded.rulebook.edition.clock, loaded.assessment.clock, loaded.known.calendar, loaded.now
        ),
        offers=_offers(loaded) if who.is_officer else {},
        due_if_sent=day(due_if_sent_now(office, loaded), today) if who.is_officer else "",
    )


def _offers(loaded: Loaded) -> dict[str, tuple[Offer, ...]]:
    a = loaded.assessment
    sheet = read_answers(loaded.rulebook, loaded.dossier.answers, a.filing_day, loaded.known.calendar.local_day(loaded.now))
    return {r.id: offers(loaded.rulebook, r, sheet) for r in a.requirements if r.asked}


def with_names(assessment: Assessment, known_names: dict[str, str]) -> Assessment:
    """The assessment with people's names instead of their ids."""
    named = tuple(
        replace(r, given=replace(r.given, who=known_names.get(r.given.who, r.given.who)) if r.given else None)
        for r in assessment.requirements
    )
    return replace(assessment, requirements=named)


def for_applicant(assessment: Assessment) -> Assessment:
    """Without what is the office's alone: given standings, points not yet sent, the officer's moves and judgements."""
    own = tuple(replace(r, given=None, standing=r.proposed) for r in assessment.requirements)
    rounds = tuple(
        replace(
            r,
            unasked=tuple(replace(u, taken=False) for u in r.unasked),
            points=tuple(replace(p, state="answered") if p.state in ("closed", "asked again") else p for p in r.points),
        )
        for r in assessment.rounds
    )
    moves = tuple(m for m in assessment.moves if m.role == "applicant")
    return replace(assessment, requirements=own, points=(), rounds=rounds, moves=moves, next_officer="")


def file_of_case(office: Office, who: Who, reference: str, sha256: str) -> Attachment:
    """The attachment of that content in any version of a case that this person may see."""
    for version in load_case(office, who, reference).history.versions:
        for a in version.dossier.attachments:
            if a.sha256 == sha256:
                return a
    raise NotFound("There is no such file in this case.")
