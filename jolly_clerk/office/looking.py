"""What a person sees of a case or a draft: the assessment cut to the role, the form, the files, the line of time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal
from typing import Literal

from pydantic.dataclasses import dataclass as schema_once  # its schema is built once, however many routes give it

from jolly_clerk.core.assess import Assessment
from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.checklist import Offer
from jolly_clerk.core.corrections import offers
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import Finding, file_findings
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import in_lane
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import LANGUAGES, Declaration, Part, Signature
from jolly_clerk.core.rulebook.wording import plain
from jolly_clerk.core.say import day, one_of
from jolly_clerk.core.sides import as_applicant, as_office
from jolly_clerk.core.story import Moment, NextStep, next_steps, story
from jolly_clerk.core.time.periods import applicant_last_day
from jolly_clerk.office.casework import Loaded, load_case, names
from jolly_clerk.office.checking import due_if_sent_now
from jolly_clerk.office.drafts import OpenDraft
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people import looking_too, note_reading
from jolly_clerk.office.reviewing import reviewers
from jolly_clerk.office.talking import Message, message_files, messages


@dataclass(frozen=True, slots=True)
class SlotForm:
    """A slot as the form shows it."""

    slot: str
    title: str
    says: str
    article: str
    optional: bool
    accepts: str
    delivered_by: str


@dataclass(frozen=True, slots=True)
class ListChoice:
    """One choice of a list as the form shows it; which are offered now stands with the question."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class Form:
    """The form that a rulebook makes: parts with their questions, lists, slots, the declaration.

    ``translations`` are its texts in other languages, by the text on one line.
    """

    kind: str
    title: str
    about: str
    law: str
    edition: str
    currency: str
    incomplete_filing: Literal["warn", "refuse"]
    parts: tuple[Part, ...]
    lists: dict[str, tuple[ListChoice, ...]]
    slots: tuple[SlotForm, ...]
    signature: Signature
    declarations: tuple[Declaration, ...]
    registers: dict[str, str]
    way_in_asks: tuple[str, ...]
    translations: dict[str, dict[str, str]]


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
    """A draft as its owner sees it. ``answers_case`` is the reference of the case that it answers, ``lane`` which lane of it."""

    id: str
    counter: int
    kept_at: datetime
    own_reference: str
    answers_case: str
    lane: str
    dossier: Dossier
    words: dict[int, str]
    form: Form
    files: tuple[FileView, ...]
    assessment: AssessmentView


@dataclass(frozen=True, slots=True)
class VersionView:
    """A filed version, for looking at and comparing."""

    no: int
    at: datetime
    dossier: Dossier
    files: tuple[FileView, ...]


@dataclass(frozen=True, slots=True)
class Cell:
    """One column of a register entry; ``inner`` ones are the office's alone."""

    title: str
    value: str
    inner: bool


@dataclass(frozen=True, slots=True)
class RegisterView:
    """What a register said about the case: its columns in words, or why there is no answer."""

    name: str
    title: str
    key: str
    at: datetime | None
    trouble: str
    found: bool
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class FeeWaiting:
    """A fee that was set by hand and waits for a second person."""

    line: str
    title: str
    was: Decimal
    amount: Decimal
    who: str
    reason: str
    own: bool


@dataclass(frozen=True, slots=True)
class Choice:
    """Somebody to choose."""

    id: str
    name: str


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
    assessment: AssessmentView
    versions: tuple[VersionView, ...]
    story: tuple[Moment, ...]
    next_steps: tuple[NextStep, ...]
    offers: dict[str, tuple[Offer, ...]]
    due_if_sent: str
    due_why: tuple[str, ...]
    messages: tuple[Message, ...]
    notes: tuple[Message, ...]
    registers: tuple[RegisterView, ...]
    fees_waiting: tuple[FeeWaiting, ...]
    others_here: tuple[str, ...]
    reviewers: tuple[Choice, ...]
    reviewer: str
    permit_code: str
    may_undo: bool
    fee_limit: str


def form_of(rulebook: Rulebook, assessment: Assessment | None = None) -> Form:
    """The form of a rulebook; with what was assessed, a slot of each repeat stands once for every one."""
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
        lists={name: tuple(ListChoice(o.id, o.title) for o in options) for name, options in e.lists.items()},
        slots=tuple(_slots(rulebook, assessment)),
        signature=e.signature,
        declarations=tuple(e.declarations),
        registers={name: r.title for name, r in e.registers.items()},
        way_in_asks=rulebook.way_in_asks,
        translations={language: {plain(text): said for text, said in told.items()} for language, told in e.translations.items()},
    )


def _slots(rulebook: Rulebook, assessment: Assessment | None) -> Iterator[SlotForm]:
    for s in rulebook.edition.documents:
        plain = SlotForm(s.slot, s.title, s.says, s.article, s.optional, _accepts(rulebook, s.slot), s.delivered_by or "")
        if s.for_each is None or assessment is None:
            yield plain
            continue
        for r in assessment.requirements:
            if r.kind == "document" and r.id.startswith(f"documents.{s.slot}."):
                yield replace(plain, slot=r.id.removeprefix("documents."), title=r.title)


def _accepts(rulebook: Rulebook, slot: str) -> str:
    accepts = rulebook.slots[slot].slot.accepts
    count = f"{accepts.files} file{'s' if not accepts.files.endswith(' 1') and accepts.files != '1' else ''}"
    sheet = f", {accepts.sheet} or larger" if accepts.sheet else ""
    issued = rulebook.slots[slot].slot.issued
    old = f", not older than {issued.within}" if issued else ""
    own = rulebook.slots[slot].slot
    languages = f", in {one_of([LANGUAGES[code] for code in own.languages])}" if own.languages else ""
    if own.translation != "none":
        languages += f", else with a {'certified ' if own.translation == 'certified' else ''}translation after it"
    return f"{' or '.join(f.upper() for f in accepts.formats)}{sheet}, {count}, at most {accepts.size} each{old}{languages}"


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
        lane=draft.lane,
        dossier=open_now.dossier,
        words=open_now.words,
        form=form_of(open_now.rulebook, open_now.assessment),
        files=file_views(open_now.dossier, open_now.known),
        assessment=as_applicant(open_now.assessment),
    )


def look_at(office: Office, who: Who, reference: str) -> CaseView:
    """A case as this person may see it; that it was read is noted."""
    loaded = load_case(office, who, reference)
    others = tuple(looking_too(office, who, loaded.case.id)) if who.sees_all else ()
    note_reading(office, who, loaded.case.id)
    return replace(case_view(office, who, loaded), others_here=others)


def case_view(office: Office, who: Who, loaded: Loaded) -> CaseView:
    """The view of a loaded case."""
    known_names = names(office)
    inner = who.sees_all
    today = loaded.known.calendar.local_day(loaded.now)
    told, noted = messages(office, loaded, known_names, inner)
    lanes = {lane.id: lane.title for lane in loaded.assessment.lanes}
    moments = story(loaded.history.entries, known_names, loaded.rulebook.edition.currency, today, lanes)
    versions = tuple(VersionView(v.no, v.at, v.dossier, file_views(v.dossier, loaded.known)) for v in loaded.history.versions)
    return CaseView(
        reference=loaded.case.reference,
        own_reference=loaded.case.own_reference,
        applicant=known_names.get(loaded.case.applicant_id, ""),
        officer=known_names.get(loaded.case.officer_id or "", ""),
        seen=loaded.entries,
        today=today.isoformat(),
        form=form_of(loaded.rulebook, loaded.assessment),
        assessment=as_office(loaded.assessment, known_names) if inner else as_applicant(loaded.assessment),
        versions=versions,
        story=tuple(m for m in moments if inner or not m.inner),
        next_steps=_next_steps(loaded),
        offers=_offers(loaded) if who.is_officer or who.role == "reviewer" else {},
        due_if_sent=day(due_if_sent_now(office, loaded), today) if who.is_officer else "",
        due_why=_due_why(loaded) if who.is_officer else (),
        messages=told,
        notes=noted,
        registers=_registers(loaded) if inner else (),
        fees_waiting=_fees_waiting(loaded, known_names, who) if inner else (),
        others_here=(),
        reviewers=_reviewers(office) if who.is_officer and loaded.assessment.state == "Complete" else (),
        reviewer=known_names.get(loaded.so_far.handed.to, "") if loaded.so_far.handed else "",
        permit_code=loaded.so_far.issued.code if loaded.so_far.issued else "",
        fee_limit=office.settings.fee_limit,
        may_undo=who.id in loaded.so_far.undoable and not loaded.so_far.ended,
    )


def _next_steps(loaded: Loaded) -> tuple[NextStep, ...]:
    """What comes next; in a case with open lanes that of each of them, soonest first, and then the decision."""
    rules, calendar, a = loaded.rulebook.edition.clock, loaded.known.calendar, loaded.assessment
    if not a.clock_of:
        return next_steps(loaded.so_far, rules, a.clock, calendar, loaded.now)
    made: list[NextStep] = []
    for lane in a.lanes:
        steps = next_steps(in_lane(loaded.so_far, lane.id), rules, lane.clock, calendar, loaded.now)
        made += [replace(step, text=f"{lane.title}: {step.text}") for step in steps if step.day]
    later = [s for s in next_steps(loaded.so_far, rules, a.clock, calendar, loaded.now)[-1:] if s.day is None]
    return (*sorted(made, key=lambda s: str(s.day)), *later)


def _reviewers(office: Office) -> tuple[Choice, ...]:
    return tuple(Choice(r.id, r.name) for r in reviewers(office))


def _due_why(loaded: Loaded) -> tuple[str, ...]:
    """Why answers would be due on that day if the letter went out now."""
    calendar, rules = loaded.known.calendar, loaded.rulebook.edition.clock.answers
    today = calendar.local_day(loaded.now)
    plain, due = rules.within.last_day(today, calendar), applicant_last_day(today, rules.within, calendar)
    why = [f"{rules.within} from the day after {day(today, today)} (art. {rules.article})"]
    if due != plain:
        why.append(f"{day(plain, today)} is closed ({calendar.closed_on(plain)})")
    return tuple(why)


def _registers(loaded: Loaded) -> tuple[RegisterView, ...]:
    views = []
    for name, register in loaded.rulebook.edition.registers.items():
        asked = loaded.so_far.registers.get(name)
        row = asked.row if asked else None
        cells = tuple(Cell(title, row.get(c, ""), c in register.inner) for c, title in register.columns.items()) if row else ()
        views.append(
            RegisterView(
                name=name,
                title=register.title,
                key=asked.key if asked else "",
                at=asked.at if asked else None,
                trouble=asked.trouble if asked else "not asked yet",
                found=row is not None,
                cells=cells,
            )
        )
    return tuple(views)


def _fees_waiting(loaded: Loaded, known_names: dict[str, str], who: Who) -> tuple[FeeWaiting, ...]:
    titles = {line.id: line.title for line in loaded.assessment.fees.lines}
    return tuple(
        FeeWaiting(f.line, titles.get(f.line, f.line), f.was, f.amount, known_names.get(f.who, f.who), f.reason, f.who == who.id)
        for f in loaded.so_far.fees_waiting.values()
    )


def _offers(loaded: Loaded) -> dict[str, tuple[Offer, ...]]:
    a = loaded.assessment
    sheet = loaded.sheet
    found = {r.id: offers(loaded.rulebook, r, sheet) for r in a.requirements if r.asked}
    for target in ("not accepted", "out of scope", "refused"):
        reasons = loaded.rulebook.reasons_for(target)
        found[target] = tuple(Offer(reason.id, reason.title, text.fill(sheet.values).strip()) for reason, text in reasons)
    return found


def file_of_case(office: Office, who: Who, reference: str, sha256: str) -> Attachment:
    """The attachment of that content in any version of a case that this person may see."""
    loaded = load_case(office, who, reference)
    for a in (*(a for v in loaded.history.versions for a in v.dossier.attachments), *message_files(loaded)):
        if a.sha256 == sha256:
            return a
    raise NotFound("There is no such file in this case.")
