"""The page of a permit: how it stands, what it says, its days, what can be done with it, its inspections and its history."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select

from jolly_clerk.core.history import PermitIssued
from jolly_clerk.core.inspections import VisitView, visit_views
from jolly_clerk.core.permit import TONES, PermitDay, permit_says
from jolly_clerk.core.permit_entries import WHAT_HAPPENS_TO_IT, PermitStep, PermitTakenOver, code_of
from jolly_clerk.core.rulebook.steps import PermitState
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State, Tone
from jolly_clerk.office.cases.casework import Loaded, moments_of
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.reviewing import Told
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names
from jolly_clerk.office.permits.holding import HOLDER, holder_of, is_held_by, load_permit
from jolly_clerk.office.permits.stepping import StepOffer, offers
from jolly_clerk.office.post.papers import paper
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import FiledStep
from jolly_clerk.store.tables import Case

#: entries about money, which the history of a permit tells as well
MONEY = ("refund due", "paid")


@dataclass(frozen=True, slots=True)
class StepUnderWay:
    """A short filing on the permit: its reference, what it is called, how it stands, and when it was filed; ``opens`` tells that whoever
    looks may see it, which those of an earlier or a later holder do not."""

    reference: str
    title: str
    state: State
    said: str
    filed_at: datetime
    opens: bool


@dataclass(frozen=True, slots=True)
class PermitLine:
    """A line of the permit's history; ``paper`` is the number of the entry whose PDF goes with it, 0 without one."""

    at: datetime
    text: str
    paper: int


@dataclass(frozen=True, slots=True)
class PermitPage:
    """A permit. ``stands`` is its state in words, ``conditions`` those of the decision; ``offers`` is what the holder can file on it.

    ``own`` tells that whoever looks holds it, ``sees_case`` that they may see what was filed for it. ``holds`` tells that they may tell what
    an inspection found, ``books`` that they may book one.
    """

    reference: str
    kind: str
    title: str
    called: str
    grants: str
    holder: str
    own: bool
    sees_case: bool
    state: PermitState
    stands: str
    tone: Tone
    code: str
    issued: date
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
    """The permit of a case for whoever may see the case or holds the permit. Raises NotFound before it is issued."""
    return page_of(office, who, load_permit(office, who, reference))


def page_of(office: Office, who: Who, loaded: Loaded) -> PermitPage:
    """The permit of a loaded case. Raises NotFound before it is issued."""
    a, so_far = loaded.assessment, loaded.so_far
    if so_far.issued is None or a.permit is None or so_far.granted is None:
        raise NotFound(say("Nothing is issued in this case yet."))
    edition, called = loaded.rulebook.edition, names(office, loaded.people)
    owner = is_held_by(loaded, who)
    may = {(m.role, m.move) for m in a.moves if m.allowed}
    return PermitPage(
        reference=loaded.case.reference,
        kind=edition.kind,
        title=edition.title,
        called=a.title,
        grants=edition.grants,
        holder=called.get(holder_of(loaded), ""),
        own=owner,
        sees_case=loaded.access is not HOLDER,
        state=a.permit.state,
        stands=a.permit.says,
        tone=TONES[a.permit.state],
        code=code_of(so_far),
        issued=loaded.known.calendar.local_day(so_far.issued.at),
        says=tuple(Told(label, value) for label, value in permit_says(loaded.sheet, so_far)),
        conditions=so_far.granted.grounds,
        days=a.permit.days,
        offers=tuple(sorted(offers(office, loaded), key=lambda offer: bool(offer.why_not))) if owner or who.is_officer else (),
        filed=_filed(office, who, loaded),
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
    kinds = ("granted", "permit issued", *WHAT_HAPPENS_TO_IT, *MONEY)
    issued = next(no for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, PermitIssued))
    of_it = {no for no, e in enumerate(loaded.history.entries, 1) if e.what in kinds and (no >= issued or e.what == "granted")}
    told = [m for m in moments_of(loaded, called) if m.no in of_it and not m.inner]
    if loaded.access is not HOLDER:
        return tuple(PermitLine(m.at, m.text, m.no if m.paper else 0) for m in reversed(told))
    entries = loaded.history.entries  # what was paid before, and its receipts, are of whoever held it then
    since = max(no for no, e in enumerate(entries, 1) if isinstance(e, PermitTakenOver))
    return tuple(PermitLine(m.at, m.text, 0) for m in reversed(told) if m.no >= since or entries[m.no - 1].what not in MONEY)


def permit_document(office: Office, who: Who, reference: str) -> tuple[str, bytes]:
    """The document of a permit that counts now, as a PDF: its file name and content. Raises NotFound."""
    loaded = load_permit(office, who, reference)
    documents = [no for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, (PermitIssued, PermitStep)) and e.code]
    return paper(office, loaded, max(documents, default=0))


def _filed(office: Office, who: Who, loaded: Loaded) -> tuple[StepUnderWay, ...]:
    """The short filings on it, the latest first."""
    with read_session(office.engine) as session:
        wanted = select(Case).join(FiledStep, FiledStep.case_id == Case.id).where(FiledStep.permit_case_id == loaded.case.id)
        seen = set(session.scalars(wanted.with_only_columns(Case.id).where(*visible(who))))
        return tuple(
            StepUnderWay(
                c.reference, rulebook(office, c.edition_sha256).edition.title, c.state, say(c.state), c.filed_at, c.id in seen
            )
            for c in session.scalars(wanted.order_by(Case.filed_at.desc()))
        )
