"""The page of a permit: how it stands, what it says, its days, what can be done with it, its inspections and its history."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select

from jolly_clerk.core.history import PermitIssued
from jolly_clerk.core.inspections import VisitView, visit_views
from jolly_clerk.core.permit import TONES, PermitDay, permit_says
from jolly_clerk.core.permit_entries import PermitStep, code_of
from jolly_clerk.core.permit_story import WHAT_HAPPENS_TO_IT
from jolly_clerk.core.rulebook.steps import PermitState
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State, Tone
from jolly_clerk.office.cases.casework import Loaded, load_case, moments_of
from jolly_clerk.office.desk.reviewing import Told
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names
from jolly_clerk.office.permits.stepping import StepOffer, offers
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import FiledStep
from jolly_clerk.store.tables import Case


@dataclass(frozen=True, slots=True)
class StepUnderWay:
    """A short filing on the permit: its reference, what it is called, how it stands, and when it was filed."""

    reference: str
    title: str
    state: State
    said: str
    filed_at: datetime


@dataclass(frozen=True, slots=True)
class PermitLine:
    """A line of the permit's history; ``paper`` is the number of the entry whose PDF goes with it, 0 without one."""

    at: datetime
    text: str
    paper: int


@dataclass(frozen=True, slots=True)
class PermitPage:
    """A permit. ``stands`` is its state in words, ``conditions`` those of the decision, ``paper`` the number of the entry with its PDF;
    ``offers`` is what the holder can file on it. ``holds`` tells that whoever looks may tell what an inspection found, ``books`` that they
    may book one."""

    reference: str
    kind: str
    title: str
    called: str
    grants: str
    holder: str
    own: bool
    state: PermitState
    stands: str
    tone: Tone
    code: str
    issued: date
    paper: int
    says: tuple[Told, ...]
    conditions: str
    days: tuple[PermitDay, ...]
    offers: tuple[StepOffer, ...]
    filed: tuple[StepUnderWay, ...]
    visits: tuple[VisitView, ...]
    books: bool
    holds: bool
    currency: str
    today: date
    history: tuple[PermitLine, ...]
    revision: int


def permit_page(office: Office, who: Who, reference: str) -> PermitPage:
    """The permit of a case for whoever may see the case. Raises NotFound before it is issued."""
    return page_of(office, who, load_case(office, who, reference))


def page_of(office: Office, who: Who, loaded: Loaded) -> PermitPage:
    """The permit of a loaded case. Raises NotFound before it is issued."""
    a, so_far = loaded.assessment, loaded.so_far
    if so_far.issued is None or a.permit is None or so_far.granted is None:
        raise NotFound(say("Nothing is issued in this case yet."))
    edition, called = loaded.rulebook.edition, names(office, loaded.people)
    owner = who.may.moves == "applicant" and loaded.access.may("file")
    may = {(m.role, m.move) for m in a.moves if m.allowed}
    return PermitPage(
        reference=loaded.case.reference,
        kind=edition.kind,
        title=edition.title,
        called=a.title,
        grants=edition.grants,
        holder=called.get(loaded.case.applicant_id, ""),
        own=owner,
        state=a.permit.state,
        stands=a.permit.says,
        tone=TONES[a.permit.state],
        code=code_of(so_far),
        issued=loaded.known.calendar.local_day(so_far.issued.at),
        paper=max(no for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, (PermitIssued, PermitStep)) and e.code),
        says=tuple(Told(label, value) for label, value in permit_says(loaded.sheet, so_far)),
        conditions=so_far.granted.grounds,
        days=a.permit.days,
        offers=tuple(sorted(offers(office, loaded), key=lambda offer: bool(offer.why_not))) if owner or who.is_officer else (),
        filed=_filed(office, loaded),
        visits=visit_views(a),
        books=(who.role, "book an inspection") in may and (owner or who.is_officer),
        holds=(who.role, "hold an inspection") in may,
        currency=edition.currency,
        today=loaded.known.calendar.local_day(loaded.now),
        history=_history(loaded, called),
        revision=loaded.entries,
    )


def _history(loaded: Loaded, called: dict[str, str]) -> tuple[PermitLine, ...]:
    """What happened to the permit, the latest first: that it was granted and issued, and all since."""
    kinds = ("granted", "permit issued", *WHAT_HAPPENS_TO_IT, "refund due", "paid")
    issued = next(no for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, PermitIssued))
    of_it = {no for no, e in enumerate(loaded.history.entries, 1) if e.what in kinds and (no >= issued or e.what == "granted")}
    told = [m for m in moments_of(loaded, called) if m.no in of_it and not m.inner]
    return tuple(PermitLine(m.at, m.text, m.no if m.paper else 0) for m in reversed(told))


def _filed(office: Office, loaded: Loaded) -> tuple[StepUnderWay, ...]:
    """The short filings on it, the latest first."""
    with read_session(office.engine) as session:
        wanted = select(Case).join(FiledStep, FiledStep.case_id == Case.id).where(FiledStep.permit_case_id == loaded.case.id)
        return tuple(
            StepUnderWay(c.reference, rulebook(office, c.edition_sha256).edition.title, c.state, say(c.state), c.filed_at)
            for c in session.scalars(wanted.order_by(Case.filed_at.desc()))
        )
