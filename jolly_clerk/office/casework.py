"""How every use case works on a case: load, ask the core, append in one short write, project.

Nothing slow stands inside the write; if the case moved in between, :class:`Stale` says so.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.assess import Assessment, assess, outcome, read_case
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import Entry, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import CaseSoFar, fold, in_lane
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rulebooks import known_for, rulebook
from jolly_clerk.store.chain import Sealed, append, keep_version, load_history
from jolly_clerk.store.database import reading, writing
from jolly_clerk.store.tables import Case, Head, Person


@dataclass(slots=True)
class Loaded:
    """A case with all that the core needs and what the core said."""

    case: Case
    rulebook: Rulebook
    dossier: Dossier
    history: History
    known: Known
    now: datetime
    assessment: Assessment
    so_far: CaseSoFar
    entries: int

    @property
    def sheet(self) -> Sheet:
        """The answers, read at this instant."""
        return read_case(self.rulebook, self.dossier, self.so_far, self.known, self.now)


Decide = Callable[[Loaded], Sequence[Entry]]
Finish = Callable[[Session, Case, Sequence[Entry]], Sequence[Entry]]


def find_case(session: Session, who: Who, reference: str) -> Case:
    """The case of that reference, if this person may see it; NotFound otherwise, so that nothing is given away."""
    case = session.scalars(select(Case).where(Case.reference == reference)).first()
    if case is None or not (who.sees_all or case.applicant_id == who.id or who.role == "clock"):
        raise NotFound(f"There is no case {reference[:20]} that you may see.")
    return case


def load_case(office: Office, who: Who, reference: str) -> Loaded:
    """Load a case that this person may see and assess it now."""
    with reading(office.engine) as session:
        case = find_case(session, who, reference)
        history = load_history(session, case.id)
        head = session.get(Head, case.id)
    return assessed(office, case, history, head.count if head else 0)


def assessed(office: Office, case: Case, history: History, entries: int, session: Session | None = None) -> Loaded:
    """Ask the core about a case and its history; inside a write its ``session`` is handed on."""
    rules = rulebook(office, case.edition_sha256)
    dossier = history.versions[-1].dossier
    hashes = {a.sha256 for v in history.versions for a in v.dossier.attachments}
    known = known_for(office, case.edition_sha256, hashes, session)
    now = office.now()
    return Loaded(
        case, rules, dossier, history, known, now, assess(rules, dossier, history, known, now), fold(history.entries), entries
    )


def need_lane(loaded: Loaded, lane: str) -> CaseSoFar:
    """The case as that lane sees it (nothing names the common lane). Raises NotFound."""
    if lane and all(there.id != lane for there in loaded.assessment.lanes):
        raise NotFound("This case has no such lane.")
    return in_lane(loaded.so_far, lane)


def key_of(lane: str) -> str:
    """What tells the letters of a lane apart from those of the others: ``sites.2-``, nothing for the common lane."""
    return f"{lane}-" if lane else ""


def need_move(loaded: Loaded, role: str, move: str, lane: str = "") -> None:
    """Raise NotReady with the reasons unless the core allows the move."""
    need_lane(loaded, lane)
    found = loaded.assessment.move(role, move, lane)
    if not found.allowed:
        raise NotReady(found.why_not[0].text, found.why_not[0].place.ref if found.why_not[0].place else "", found.why_not)


def need_officer(who: Who) -> None:
    """Raise NotAllowed unless this person judges cases."""
    if not who.is_officer:
        raise NotAllowed("Only an officer of the office may do this.")


def act(
    office: Office,
    who: Who,
    reference: str,
    decide: Decide,
    seen: int | None = None,
    sealed: Sealed | None = None,
    finish: Finish | None = None,
) -> Loaded:
    """Do something to a case: ``decide`` gives the entries, which are appended in one write.

    ``seen`` is the number of entries that the person had before the eyes; if there are more now,
    Stale is raised and nothing happens. ``sealed`` is the version that goes with the entries.
    ``finish`` runs inside the write, may write further rows and gives the entries their running numbers.
    """
    loaded = load_case(office, who, reference)
    if seen is not None and seen != loaded.entries:
        raise Stale("Somebody else worked on this case since you opened it. Look at what changed, then decide again.")
    entries = tuple(decide(loaded))
    versions = (*loaded.history.versions, sealed.version) if sealed else loaded.history.versions
    with writing(office.engine) as session:
        head = session.get(Head, loaded.case.id)
        if (head.count if head else 0) != loaded.entries:
            raise Stale("Somebody else worked on this case at the same moment. Look at what changed, then decide again.")
        if finish:
            entries = tuple(finish(session, loaded.case, entries))
        after = History(entries=(*loaded.history.entries, *entries), versions=versions)
        count = append(session, loaded.case.id, entries)
        if sealed:
            keep_version(session, loaded.case.id, sealed)
        case = session.get_one(Case, loaded.case.id)
        done = assessed(office, case, after, count, session)
        project(case, done)
    return done


def project(case: Case, loaded: Loaded) -> None:
    """Write the row of a case for lists from what the core says."""
    for column, value in projection(loaded).items():
        setattr(case, column, value)


def projection(loaded: Loaded) -> dict[str, Any]:
    """The row of a case as its history says it."""
    a, so_far = loaded.assessment, loaded.so_far
    assert so_far.first_filed is not None
    filed = so_far.filed or so_far.first_filed
    return {
        "title": a.title[:300],
        "state": a.state,
        "holder": a.clock.holder if a.clock else "theirs",
        "officer_id": so_far.checking.who if so_far.checking else None,
        "edition_sha256": filed.edition_sha256 or loaded.case.edition_sha256,
        "reviewer_id": so_far.handed.to if so_far.handed else None,
        "permit_code": so_far.issued.code if so_far.issued else None,
        "filed_at": filed.at,
        "changed_at": loaded.history.entries[-1].at,
        "version": a.version,
        "limit_at": a.clock.limit_at if a.clock else None,
        "limit_day": a.clock.limit_day if a.clock else None,
        "limit_of": a.clock_of[:120],
        **_their_side(a),
        "step": a.clock.step if a.clock else "",
        "next_officer": a.next_officer[:200],
        "next_applicant": a.next_applicant[:200],
        "outcome": outcome(a),
        "squares": [[r.standing, r.judged] for r in a.requirements if r.asked],
        "entries": loaded.entries,
    }


def _their_side(a: Assessment) -> dict[str, Any]:
    """The applicant's nearest limit and its lane, where in another lane the office has something to do; else nothing."""
    running = [(lane, lane.clock) for lane in a.lanes if lane.clock and lane.clock.limit_day]
    theirs = [(clock.limit_day, lane.title[:120]) for lane, clock in running if clock.holder == "theirs"]
    day, of = min(theirs) if theirs and len(theirs) < len(running) else (None, "")
    return {"their_limit_day": day, "their_limit_of": of}


def names(office: Office) -> dict[str, str]:
    """Everybody's name by id."""
    with reading(office.engine) as session:
        return {p.id: p.name for p in session.scalars(select(Person))}
