"""A case as a person sees it: the assessment cut to the role, the files, the line of time, the talk."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import Decimal

from pydantic.dataclasses import dataclass as schema_once  # its schema is built once, however many routes give it

from jolly_clerk.core.additions import MayAdd, may_add
from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.checklist import Offer
from jolly_clerk.core.clock import ClockView
from jolly_clerk.core.corrections import offers
from jolly_clerk.core.counted import Counted, counted
from jolly_clerk.core.deadlines import answers_due_why, due_said
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.extending import MoreTime, more_time
from jolly_clerk.core.foreseen import foreseen
from jolly_clerk.core.money_explained import money_explained
from jolly_clerk.core.next_step import first_lane
from jolly_clerk.core.permit_entries import code_of
from jolly_clerk.core.permit_steps import permit_of
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.second_person import is_second_person
from jolly_clerk.core.sharing import Right
from jolly_clerk.core.sides import as_applicant, as_office
from jolly_clerk.core.states import State
from jolly_clerk.core.story import Moment, since_looked
from jolly_clerk.core.to_come import NextStep, ToAdd, steps_to_come, to_add
from jolly_clerk.office.cases.casework import Loaded, load_case, moments_of
from jolly_clerk.office.cases.leaving import LeavingView, leaving
from jolly_clerk.office.cases.seeing import need_open
from jolly_clerk.office.desk.checking import due_if_sent_now
from jolly_clerk.office.desk.owning import colleagues
from jolly_clerk.office.desk.reviewing import reviewers
from jolly_clerk.office.desk.sameness import same_elsewhere
from jolly_clerk.office.desk.talking import Message, message_files, messages
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import leads_of, names, opened_last
from jolly_clerk.office.post.languages import in_their_language, language_of, their_points
from jolly_clerk.office.views.beside import BesideView, beside_view
from jolly_clerk.office.views.draft import FileView, file_views
from jolly_clerk.office.views.form import ItemSlot, item_slots


@dataclass(frozen=True, slots=True)
class VersionView:
    """A filed version, for looking at and comparing; ``said`` are its answers in words, by place, where it is not the latest."""

    no: int
    at: datetime
    dossier: Dossier
    files: tuple[FileView, ...]
    said: dict[str, str]


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
    """A fee that was set by hand and waits for a second person. ``may_settle`` tells that whoever looks is one."""

    line: str
    title: str
    was: Decimal
    amount: Decimal
    who: str
    reason: str
    own: bool
    may_settle: bool


@dataclass(frozen=True, slots=True)
class Choice:
    """Somebody to choose."""

    id: str
    name: str


@dataclass(frozen=True, slots=True)
class BodyView:
    """Another body that was asked and has not answered yet: its number in the case, who, what, and until when."""

    no: int
    body: str
    text: str
    due: date


@schema_once(frozen=True, slots=True)
class CaseView:
    """A case as a person sees it.

    ``revision`` goes back with each change, so that nobody decides over another's head; ``digest`` tells this state of the view from
    any other. ``edition_sha256`` names the form. ``foreseen`` is what steps would bring, by lane and
    move; ``leaving`` is what is ready and leaves soon, ``counted`` what is declared
    otherwise than it was found, with the fee by each. ``lane_first`` is the lane that waits longest for the person who looks. ``own`` is
    false for an applicant who was only invited, ``rights`` what an applicant may do; ``permit_on`` the case whose permit has a page.
    """

    reference: str
    own_reference: str
    applicant: str
    own: bool
    acting: bool
    rights: tuple[Right, ...]
    officer: str
    officer_id: str
    officers: tuple[Choice, ...]
    revision: int
    today: date
    edition_sha256: str
    item_slots: tuple[ItemSlot, ...]
    assessment: AssessmentView
    lane_first: str
    versions: tuple[VersionView, ...]
    story: tuple[Moment, ...]
    next_steps: tuple[NextStep, ...]
    to_add: tuple[ToAdd, ...]
    may_add: tuple[MayAdd, ...]
    money_explained: tuple[str, ...]
    offers: dict[str, tuple[Offer, ...]]
    due_if_sent: str
    due_why: tuple[str, ...]
    messages: tuple[Message, ...]
    notes: tuple[Message, ...]
    registers: tuple[RegisterView, ...]
    fees_waiting: tuple[FeeWaiting, ...]
    more_time: dict[str, MoreTime]
    bodies: tuple[BodyView, ...]
    reviewers: tuple[Choice, ...]
    reviewer: str
    beside: tuple[BesideView, ...]
    permit_on: str
    permit_code: str
    may_undo: bool
    leaving: tuple[LeavingView, ...]
    foreseen: dict[str, dict[str, tuple[str, ...]]]
    counted: tuple[Counted, ...]
    fee_limit: str
    same_elsewhere: dict[str, tuple[str, ...]]
    digest: str = ""


@dataclass(frozen=True, slots=True)
class FeeShort:
    """A fee line in a summary; without an amount while it is open."""

    id: str
    title: str
    amount: Decimal | None


@schema_once(frozen=True, slots=True)
class CaseSummary:
    """A case at a glance, for the margin of a list: its stamp, clock, what came back, fees, what happened lately, when whoever looks
    opened it last, and what others did ``since``."""

    reference: str
    title: str
    state: State
    currency: str
    clock: ClockView | None
    came_back: tuple[str, ...]
    unasked: tuple[str, ...]
    fees: tuple[FeeShort, ...]
    paid: Decimal
    over: Decimal
    lately: tuple[Moment, ...]
    looked_at: datetime | None
    since: tuple[Moment, ...]


def look_at(office: Office, who: Who, reference: str) -> CaseView:
    """A case as this person may see it. Looking leaves nothing behind."""
    return case_view(office, who, load_case(office, who, reference))


def summary(office: Office, who: Who, reference: str) -> CaseSummary:
    """A case at a glance."""
    loaded = load_case(office, who, reference)
    a = loaded.assessment if who.sees_all else as_applicant(loaded.assessment)
    moments = moments_of(loaded, names(office, loaded.people))
    latest = a.rounds[-1] if a.rounds and a.rounds[-1].answered_at else None
    opened = opened_last(office, who, loaded.case.id) if who.sees_all else None
    looked_at, since = since_looked(moments, loaded.history.entries, who.id, opened) if who.sees_all else (None, ())
    return CaseSummary(
        reference=loaded.case.reference,
        title=a.title,
        state=a.state,
        currency=a.fees.currency,
        clock=a.clock,
        came_back=tuple(say("Point {no}, {title}: {state}", no=p.no, title=p.title, state=p.state) for p in latest.points)
        if latest
        else (),
        unasked=tuple(f"{u.change.label}, {u.change.was} → {u.change.now}" for u in latest.unasked) if latest else (),
        fees=tuple(FeeShort(x.id, x.title, x.amount) for x in a.fees.lines if x.state != "not asked"),
        paid=a.account.paid,
        over=a.account.over,
        lately=tuple(m for m in moments if not m.inner)[-3:],
        looked_at=looked_at,
        since=since,
    )


def case_view(office: Office, who: Who, loaded: Loaded) -> CaseView:
    """The view of a loaded case."""
    known_names = names(office, loaded.people)
    inner = who.sees_all
    a, today = loaded.assessment, loaded.known.calendar.local_day(loaded.now)
    titles = {f"documents.{slot.slot}": slot.title for slot in item_slots(a)}
    told, noted = messages(office, loaded, known_names, inner)
    moments = moments_of(loaded, known_names)
    versions = tuple(
        VersionView(
            v.no,
            v.at,
            v.dossier,
            file_views(v.dossier, loaded.known, lambda slot: titles.get(slot) or loaded.rulebook.slot_title(slot)),
            {} if v is loaded.history.versions[-1] else _said(loaded.rulebook, v.dossier),
        )
        for v in loaded.history.versions
    )
    return CaseView(
        reference=loaded.case.reference,
        own_reference=loaded.case.own_reference,
        applicant=known_names.get(loaded.case.applicant_id, ""),
        own=loaded.access.owner,
        acting=bool(loaded.access.mandate),
        rights=loaded.access.rights,
        officer=known_names.get(loaded.so_far.officer, ""),
        officer_id=loaded.so_far.officer if inner else "",
        officers=tuple(Choice(o.id, o.name) for o in colleagues(office)) if who.is_officer else (),
        revision=loaded.entries,
        today=today,
        edition_sha256=loaded.case.edition_sha256,
        item_slots=item_slots(a),
        assessment=_office_view(office, loaded, known_names, who) if inner else as_applicant(a, loaded.access),
        lane_first=first.id if (first := first_lane(a, "applicant" if who.may.moves == "applicant" else "officer")) else "",
        versions=versions,
        story=tuple(m for m in moments if inner or not m.inner),
        next_steps=steps_to_come(a),
        money_explained=money_explained(a),
        may_add=may_add(a) if who.may.moves == "applicant" and loaded.access.may("file") else (),
        to_add=to_add(a) if who.may.moves == "applicant" and loaded.access.may("file") else (),
        offers=_offers(office, loaded) if who.may.moves in ("officer", "reviewer") else {},
        due_if_sent=due_said(due_if_sent_now(office, loaded), loaded.known.calendar, today) if who.is_officer else "",
        due_why=answers_due_why(loaded.now, loaded.assessment.clock_rules, loaded.known.calendar) if who.is_officer else (),
        messages=told,
        notes=noted,
        registers=_registers(loaded) if inner else (),
        fees_waiting=_fees_waiting(office, loaded, known_names, who) if inner else (),
        more_time=_more_time(loaded),
        bodies=_bodies(loaded) if inner else (),
        reviewers=tuple(Choice(r.id, r.name) for r in reviewers(office, loaded.case.kind))
        if who.is_officer and a.move(who.role, "hand over").allowed
        else (),
        reviewer=known_names.get(loaded.so_far.handed.to, "") if loaded.so_far.handed else "",
        beside=beside_view(loaded, known_names, who.id) if inner else (),
        permit_on=permit_of(a) or (loaded.case.reference if loaded.so_far.issued else ""),
        permit_code=code_of(loaded.so_far),
        fee_limit=office.settings.fee_limit,
        same_elsewhere=same_elsewhere(office, who, loaded) if inner and who.may.sees_all else {},
        leaving=leaving(office, who, loaded),
        foreseen=_foreseen(loaded, who),
        counted=counted(a) if inner else (),
        may_undo=who.id in loaded.so_far.undoable and not loaded.so_far.ended,
    )


def _said(rulebook: Rulebook, dossier: Dossier) -> dict[str, str]:
    return {place: said_answer(rulebook, place, raw) for place, raw in raw_answers(dossier).items()}


def _foreseen(loaded: Loaded, who: Who) -> dict[str, dict[str, tuple[str, ...]]]:
    """What the steps would bring that an officer can take now, lane by lane."""
    if not who.is_officer:
        return {}
    lanes = [lane.id for lane in loaded.assessment.lanes] or [""]
    return {lane: foreseen(loaded.assessment, who.role, lane) for lane in lanes}


def _more_time(loaded: Loaded) -> dict[str, MoreTime]:
    """What more time would bring, by the lane that waits for answers."""
    a = loaded.assessment
    lanes = [lane.id for lane in a.lanes] or [""]
    return {lane: told for lane in lanes if (told := more_time(a, lane)) is not None}


def _bodies(loaded: Loaded) -> tuple[BodyView, ...]:
    out = (b.asked for b in loaded.so_far.bodies if b.answered_at is None)
    return tuple(BodyView(asked.no, asked.body, asked.text, asked.due) for asked in out)


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
                trouble=asked.trouble if asked else say("not asked yet"),
                found=row is not None,
                cells=cells,
            )
        )
    return tuple(views)


def _fees_waiting(office: Office, loaded: Loaded, known_names: dict[str, str], who: Who) -> tuple[FeeWaiting, ...]:
    waiting = loaded.so_far.fees_waiting.values()
    titles = {line.id: line.title for line in loaded.assessment.fees.lines}
    leads = leads_of(office) if waiting else set()
    return tuple(
        FeeWaiting(
            f.line,
            titles.get(f.line, f.line),
            f.was,
            f.amount,
            known_names.get(f.who, f.who),
            f.reason,
            f.who == who.id,
            is_second_person(f, who.id, who.role, leads),
        )
        for f in waiting
    )


def _office_view(office: Office, loaded: Loaded, known_names: dict[str, str], who: Who) -> AssessmentView:
    """What the office sees; the points of the next letter in the language in which they will be sent."""
    view = as_office(loaded.assessment, known_names, who.role)
    if not language_of(loaded):
        return view
    points = {lane.id: their_points(office, loaded, lane.id) for lane in view.lanes}
    lanes = tuple(replace(lane, points=points[lane.id]) for lane in view.lanes)
    return replace(view, points=their_points(office, loaded), lanes=lanes)


def _offers(office: Office, loaded: Loaded) -> dict[str, tuple[Offer, ...]]:
    """What the catalogue offers, in the language of the case's letters; the titles by which the office chooses are its own."""
    own = _offered(loaded)
    if not language_of(loaded):
        return own
    with in_their_language(office, loaded) as told:
        theirs = _offered(told)
    return {id_: tuple(replace(o, title=mine.title) for o, mine in zip(theirs[id_], own[id_], strict=True)) for id_ in own}


def _offered(loaded: Loaded) -> dict[str, tuple[Offer, ...]]:
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
    for a in (*(a for v in loaded.history.versions for a in v.dossier.papers), *message_files(loaded)):
        if a.sha256 == sha256:
            if not who.sees_all:
                need_open(a)
            return a
    raise NotFound(say("There is no such file in this case."))
