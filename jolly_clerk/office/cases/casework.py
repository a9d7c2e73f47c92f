"""How every use case works on a case: load, ask the core, append in one short write, project.

Nothing slow stands inside the write; if the case moved in between, :class:`Stale` says so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import nullcontext
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal

from sqlalchemy.orm import Session

from jolly_clerk.core.assessment import Assessment, assess, outcome
from jolly_clerk.core.called import called_in
from jolly_clerk.core.conflicts import WHOLE, conflicting
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.due import next_look
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import Entry, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lanes import their_lane
from jolly_clerk.core.lifecycle import CaseSoFar, fold, in_lane
from jolly_clerk.core.moves import MoveName, WhyNot
from jolly_clerk.core.owning import Somebody, why_not_own
from jolly_clerk.core.permit_entries import code_of
from jolly_clerk.core.recording import why_not_decide
from jolly_clerk.core.reviewing import given_to, why_not_review
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import OWNER, Access, refused_move
from jolly_clerk.core.states import STATES
from jolly_clerk.core.story import READY, Moment, story
from jolly_clerk.core.urgency import finished_at_once, place_of
from jolly_clerk.core.whose import whose
from jolly_clerk.office.cases.finding import brings_something_to_find, write_what_is_found
from jolly_clerk.office.cases.ledger import keep_owed, note_in_ledger
from jolly_clerk.office.cases.publishing import keep_public
from jolly_clerk.office.cases.ready import drop, entries_of, fallen, keep_ready, leaves_now, ready_steps, taken_back
from jolly_clerk.office.cases.sealing import row_hash
from jolly_clerk.office.cases.seeing import access_to, find_case
from jolly_clerk.office.cases.under_review import keep_review
from jolly_clerk.office.desk.waiting import note_waiting
from jolly_clerk.office.errors import Leaving, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.events import case_changed
from jolly_clerk.office.lifetimes import BEHIND, before
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names, somebodies_in
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.rules.rulebooks import known_for, known_to_applicant, rulebook
from jolly_clerk.store.beside import ReadyStep
from jolly_clerk.store.chain import Sealed, append, count_of, keep_version, load_history
from jolly_clerk.store.database import ClockBehind, read_session, write_session
from jolly_clerk.store.outside import note_last
from jolly_clerk.store.tables import NO_LIMIT, Case, Head


@dataclass(slots=True)
class Loaded:
    """A case with all that the core needs and what the core said; ``access`` is what an applicant who loaded it may do in it,
    ``two`` are somebody of the office who loaded it and whoever applied."""

    case: Case
    rulebook: Rulebook
    dossier: Dossier
    history: History
    known: Known
    now: datetime
    assessment: Assessment
    so_far: CaseSoFar
    entries: int
    access: Access = OWNER
    two: tuple[Somebody, Somebody] | None = None

    def not_mine(self, move: MoveName) -> str:
        """Why whoever of the office loaded it may not make a move since the case is their own; nothing if they may."""
        return why_not_own(*self.two, move) if self.two else ""

    @property
    def sheet(self) -> Sheet:
        """The answers, read at this instant."""
        return self.assessment.sheet

    @property
    def people(self) -> set[str]:
        """The ids of everybody who has to do with the case: who applied, who did something, to whom it was handed."""
        done = self.history.entries
        return {self.case.applicant_id, *(e.who for e in done), *given_to(done)}


Decide = Callable[[Loaded], Sequence[Entry]]
Finish = Callable[[Session, Case, Sequence[Entry]], Sequence[Entry]]
MOST_ATTEMPTS = 5


def load_case(office: Office, who: Who, reference: str) -> Loaded:
    """Load a case that this person may see and assess it now; what is ready and due to leave leaves first."""
    with read_session(office.engine) as session:
        case = find_case(session, who, reference)
        if not leaves_now(office, case):
            return _loaded(office, session, who, case)
    leave_due(office, case.id)
    with read_session(office.engine) as session:
        return _loaded(office, session, who, find_case(session, who, reference))


def _loaded(office: Office, session: Session, who: Who, case: Case) -> Loaded:
    history = load_history(session, case.id)
    filed = [version.dossier for version in history.versions]
    known = None if who.sees_all else known_to_applicant(office, case.edition_sha256, filed, session)
    loaded = assessed(office, case, history, count_of(session, case.id), session, known)
    loaded.access = access_to(session, who, case)
    if who.may.staff:
        two = somebodies_in(session, who.id, case.applicant_id)
        loaded.two = (two[0], two[1]) if len(two) == 2 else None
    return loaded


def assessed(
    office: Office, case: Case, history: History, entries: int, session: Session | None = None, known: Known | None = None
) -> Loaded:
    """Ask the core about a case and its history; inside a write its ``session`` is handed on. What is ``known`` is asked of the office if it
    is not given."""
    rules = rulebook(office, case.edition_sha256)
    dossier = history.versions[-1].dossier
    if known is None:
        files = {file.sha256 for v in history.versions for file in v.dossier.papers}
        known = known_for(office, case.edition_sha256, files, session)
    now = office.now()
    a = assess(rules, dossier, history, known, now)
    return Loaded(case, rules, dossier, history, a.known, now, a, fold(history.entries), entries)


def need_lane(loaded: Loaded, lane: str) -> CaseSoFar:
    """The case as that lane sees it (nothing names the common lane). Raises NotFound."""
    if lane and all(there.id != lane for there in loaded.assessment.lanes):
        raise NotFound(say("This case has no such lane."))
    return in_lane(loaded.so_far, lane)


def key_of(lane: str) -> str:
    """What tells the letters of a lane apart from those of the others: ``sites.2-``, nothing for the common lane."""
    return f"{lane}-" if lane else ""


def permit(loaded: Loaded, who: Who, move: MoveName, lane: str = "") -> None:
    """The one place where permission is asked: may this person make this move of this case now?

    Raises NotAllowed if the move is not this role's or not this person's, NotReady with the reasons if it is not the time for it.
    """
    need_lane(loaded, lane)
    try:
        found = loaded.assessment.move(who.role, move, lane)
    except KeyError:
        raise NotAllowed(whose(move)) from None
    if who.may.moves == "applicant" and (refused := refused_move(loaded.access, move)):
        raise NotAllowed(refused.text)
    if who.may.moves == "reviewer" and (why := why_not_review(loaded.so_far, who.id, move)):
        raise NotAllowed(why)
    if why := why_not_decide(loaded.history.entries, who.id, move) or loaded.not_mine(move):
        raise NotAllowed(why)
    if not found.allowed:
        raise NotReady(found.why_not[0].text, found.why_not[0].place.ref if found.why_not[0].place else "", found.why_not)


def check_seen(office: Office, loaded: Loaded, who: Who, seen: int | None, relies_on: Iterable[str] = (WHOLE,)) -> None:
    """Raise Stale, with what changed and by whom, if what a change relies on was touched since revision ``seen``."""
    if seen is None or seen == loaded.entries:
        return
    entries = loaded.history.entries
    if not 0 <= seen <= len(entries):
        raise Stale(say("This case has no such revision. Look at it again, then decide."))
    touched = conflicting(relies_on, entries, seen)
    if not touched:
        return
    told = moments_of(loaded, names(office, loaded.people))
    news = [WhyNot(m.text) for m in told if m.no in touched and (who.sees_all or not m.inner)]
    raise Stale(
        say("Somebody else worked on this case since you opened it. Look at what changed, then decide again."),
        reasons=news or [WhyNot(say("The office worked on this case."))],
    )


def moments_of(loaded: Loaded, known_names: Mapping[str, str]) -> tuple[Moment, ...]:
    """What happened to a case, in words; ``known_names`` are those of the people in it."""
    a, edition = loaded.assessment, loaded.rulebook.edition
    today, lanes = loaded.known.calendar.local_day(loaded.now), {lane.id: lane.title for lane in a.lanes}
    return story(loaded.history.entries, known_names, edition.currency, today, lanes, edition.grants, called_in(a))


def by(office: Office, who: Who) -> dict[str, Any]:
    """What every entry begins with: when, who, in which role."""
    return {"at": office.now(), "who": who.id, "role": who.role}


def act(
    office: Office,
    who: Who,
    reference: str,
    move: MoveName | Literal[""],
    decide: Decide,
    seen: int | None = None,
    sealed: Sealed | None = None,
    finish: Finish | None = None,
    *,
    lane: str = "",
    relies_on: Iterable[str] | Callable[[Loaded], Iterable[str]] = (WHOLE,),
    load: Callable[[Office, Who, str], Loaded] = load_case,
) -> Loaded:
    """Do something to a case: ``decide`` gives the entries, which are appended in one write.

    Args:
        move: the move that is made, which must be this person's to make now; empty only for what happens by itself.
        decide: from the loaded case to the entries; it is asked again if somebody else wrote at the same moment.
        seen: the revision that the person had before the eyes. If what ``relies_on`` names was touched since, Stale is raised
            and nothing happens; it may be worked out from the loaded case.
        sealed: the version that goes with the entries.
        finish: runs inside the write, may write further rows and gives the entries their running numbers.
        lane: in which lane the move is made.
        load: how the case is loaded, and whether this person may.

    Raises: NotFound, NotAllowed, NotReady, Stale.
    """
    for attempt in range(MOST_ATTEMPTS):
        # whoever was too late once goes in turn with the others of this case, so that not all of them work in vain again
        with office.turns.of(reference) if attempt else nullcontext():
            loaded = load(office, who, reference)
            check_seen(office, loaded, who, seen, relies_on(loaded) if callable(relies_on) else relies_on)
            if move:
                permit(loaded, who, move, lane)
            made = tuple(decide(loaded))
            falls, changed = _what_falls(office, loaded, who, made), say("the case was changed before by {who}", who=who.name)
            made += tuple(taken_back(step, made[-1].at, "office", "office", changed) for step in falls)
            done = write_entries(office, loaded, made, sealed, finish, falls)
        if done is not None:
            return done
    raise Stale(say("Somebody else worked on this case at the same moment. Look at what changed, then decide again."))


def _what_falls(office: Office, loaded: Loaded, who: Who, made: tuple[Entry, ...]) -> list[ReadyStep]:
    """The steps that are ready and fall with these entries. Raises Leaving if it is an officer who makes them: the officer is asked first."""
    if loaded.case.leaves_at is None:
        return []
    with read_session(office.engine) as session:
        steps = fallen(ready_steps(session, loaded.case.id), (*loaded.history.entries, *made), loaded.entries)
    if steps and who.is_officer:
        raise Leaving(steps[0].id, say(READY[steps[0].move]))
    return steps


def leave_due(office: Office, case_id: str) -> None:
    """Let what is ready leave if its time has come: its entries are appended at the instant that was told, its letter goes out."""
    for _ in range(MOST_ATTEMPTS):
        with read_session(office.engine) as session:
            case = session.get_one(Case, case_id)
            due = [step for step in ready_steps(session, case_id) if step.leaves_at <= office.now()]
            if not due:
                return
            history, head = load_history(session, case_id), session.get_one(Head, case_id)
        leave(office, assessed(office, case, history, head.count), due[0], entries_of(due[0]))


def leave(office: Office, loaded: Loaded, step: ReadyStep, entries: Sequence[Entry]) -> None:
    """Append the entries of a step that leaves, and lay its letter out, both or neither; nothing if somebody was faster."""

    def out(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        if step.out:
            key, subject, sha256 = (step.out[name] for name in ("key", "subject", "sha256"))
            put_out(session, case, key, subject, sha256, made[-1].at, by_post=bool(step.out["by_post"]))
        return made

    if write_entries(office, loaded, tuple(entries), None, out, (step,)) is not None:
        deliver_soon(office)


def write_entries(
    office: Office,
    loaded: Loaded,
    entries: tuple[Entry, ...],
    sealed: Sealed | None = None,
    finish: Finish | None = None,
    drops: Sequence[ReadyStep] = (),
) -> Loaded | None:
    """Append entries to a case as it was loaded and drop what was ready; None if somebody was faster. An office that makes a step ready
    keeps the entries instead."""
    versions = (*loaded.history.versions, sealed.version) if sealed else loaded.history.versions
    entries = in_order(loaded.history, entries)
    count = loaded.entries + len(entries)
    known = loaded.known if loaded.known.all_read(file.sha256 for v in versions for file in v.dossier.papers) else None
    after = _after(loaded, entries, versions)
    foreseen: Loaded | None = assessed(office, loaded.case, after, count, known=known)  # before the lock
    with write_session(office.engine) as session:
        head = session.get(Head, loaded.case.id)
        there = session.get_one(Case, loaded.case.id)
        if (head.count if head else 0) != loaded.entries or there.leaves_at != loaded.case.leaves_at:
            return None
        if not drop(session, there, [step.id for step in drops]):
            return None
        if office.ready:
            keep_ready(session, there, loaded, entries, office.ready)
            case_changed(office, session, there)
            return loaded
        if finish:
            numbered = in_order(loaded.history, tuple(finish(session, loaded.case, entries)))
            foreseen, entries = (foreseen if numbered == entries else None), numbered
        count = append(session, loaded.case.id, entries)
        note_waiting(session, loaded.case, loaded.history.entries, entries)
        note_in_ledger(session, loaded.case, entries, loaded.rulebook.edition.currency)
        if sealed:
            keep_version(session, loaded.case.id, sealed)
        case = session.get_one(Case, loaded.case.id)
        same_edition = case.edition_sha256 == loaded.case.edition_sha256
        if foreseen is not None and same_edition:
            done = replace(foreseen, case=case)
        else:  # a receipt got its number, or an edition changed
            done = assessed(office, case, _after(loaded, entries, versions), count, session)
        before = loaded.so_far if same_edition else None
        project(office, session, case, done, found_anew=brings_something_to_find(entries), before=before)
        last = session.get(Head, case.id)
    if last is not None:
        note_last(office.folder, last, office.now())
    return done


def _after(loaded: Loaded, entries: tuple[Entry, ...], versions: tuple[Version, ...]) -> History:
    return History(entries=(*loaded.history.entries, *entries), versions=versions)


def in_order(history: History, entries: tuple[Entry, ...]) -> tuple[Entry, ...]:
    """Entries that are not older than what happened before: a clock that is a little behind is made up for.

    Raises ClockBehind if it is more than two minutes behind: then somebody must put the clock right first.
    """
    if not history.entries:
        return entries
    last = history.entries[-1].at
    if any(before(last, BEHIND) > entry.at for entry in entries):
        raise ClockBehind
    return tuple(entry if entry.at >= last else entry.model_copy(update={"at": last}) for entry in entries)


def project(
    office: Office, session: Session, case: Case, loaded: Loaded, found_anew: bool = True, before: CaseSoFar | None = None
) -> None:
    """Write the row of a case for lists, when the clock job looks at it next, and what it is found by; open pages are told. ``before`` is
    the case as it was when its row was written last, under the same edition, if that is at hand."""
    for column, value in (row := projection(loaded)).items():
        setattr(case, column, value)
    session.get_one(Head, case.id).row_hash = row_hash(row)
    case.next_look_at = next_look(loaded.assessment)
    case.counted_after = loaded.assessment.clock.after if loaded.assessment.clock else None
    case.at_once = finished_at_once(row["state"], row["squares"])
    case.changed_by = loaded.history.entries[-1].who
    keep_owed(session, case, loaded.assessment)
    keep_review(session, case.id, loaded, before)
    keep_public(session, case, loaded)
    case_changed(office, session, case)
    if found_anew:
        write_what_is_found(session, case, loaded.history, loaded.known)


def projection(loaded: Loaded) -> dict[str, Any]:
    """The row of a case as its history says it."""
    a, so_far = loaded.assessment, loaded.so_far
    assert so_far.first_filed is not None
    filed, theirs = so_far.filed or so_far.first_filed, their_lane(a)
    holder, step = (a.clock.holder, a.clock.step) if a.clock else ("theirs", "")
    return {
        "title": a.title[:300],
        "state": a.state,
        "holder": holder,
        "officer_id": so_far.officer or None,
        "edition_sha256": filed.edition_sha256 or loaded.case.edition_sha256,
        "reviewer_id": so_far.handed.to if so_far.handed else None,
        "permit_code": code_of(so_far) or None,
        "filed_at": filed.filed_at,
        "changed_at": loaded.history.entries[-1].at,
        "version": a.version,
        "limit_at": a.clock.limit_at if a.clock else None,
        "limit_day": a.clock.limit_day if a.clock else None,
        "limit_of": a.clock_of[:120],
        "their_limit_day": theirs.clock.limit_day if theirs and theirs.clock else None,
        "their_limit_of": theirs.title[:120] if theirs else "",
        "step": step,
        "tray": STATES[a.state].desk,
        "waits": holder != "ours" and not (theirs and theirs.clock and theirs.clock.limit_day),
        "sort_at": a.clock.limit_at if a.clock and a.clock.limit_at else NO_LIMIT,
        "place": place_of(a.state, step, "theirs" if theirs and theirs.clock and theirs.clock.limit_day else holder),
        "next_officer": a.next_officer[:200],
        "next_applicant": a.next_applicant[:200],
        "outcome": outcome(a),
        "squares": [[r.square, r.judged] for r in a.requirements if r.asked],
        "entries": loaded.entries,
    }
