"""Drafts: started, opened, listed, kept as one types, thrown away. A change is made from what is read inside its own write."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.checklist import Place
from jolly_clerk.core.dossier.adding import fresh_items, is_added, take_added
from jolly_clerk.core.dossier.bounds import beyond
from jolly_clerk.core.dossier.changing import begin
from jolly_clerk.core.dossier.differences import differences
from jolly_clerk.core.dossier.lanes import take_lane
from jolly_clerk.core.dossier.merging import merge, touched
from jolly_clerk.core.dossier.model import Answers, Dossier
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import fold, in_lane
from jolly_clerk.core.locking import breaks_lock, locked_places
from jolly_clerk.core.mandates import begins_for
from jolly_clerk.core.moves import WhyNot
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import OWNER, Access, Writing, needed_by
from jolly_clerk.core.states import UNFILED
from jolly_clerk.office.desk.registers import look_up_typed, prepared
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.preparing.access import (
    being_written,
    need_account,
    need_free,
    need_may_change,
    need_owner,
    need_right,
    note_writer,
    own_draft,
    shared_draft,
)
from jolly_clerk.office.preparing.profiles import profile
from jolly_clerk.office.preparing.reaching import reached_at
from jolly_clerk.office.preparing.revisions import (
    BESIDE,
    OWN,
    WORDS,
    forget_changes,
    known_revision,
    note_change,
    note_other_change,
    put,
    remember_removed,
    since_seen,
    whole,
)
from jolly_clerk.office.rules.rulebooks import edition_on, known_to_applicant, office_calendar, rulebook
from jolly_clerk.store.beside import EndedDraft, Invitation, IssuerAsked, PileItem
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.counter import Turning
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft

MOST_ANSWERS = 1_000_000


@dataclass(slots=True)
class OpenDraft:
    """A draft with what the core says about it; ``case`` is the case it answers, if any. ``access`` is what may be done in it by whoever
    opened it, ``written`` the parts that others are writing just now, ``names`` those of the people in it,
    ``turns`` the case that it is to be instead of, if the office proposed that."""

    draft: Draft
    dossier: Dossier
    words: dict[int, str]
    rulebook: Rulebook
    edition_sha256: str
    history: History
    known: Known
    assessment: Assessment
    case: Case | None
    access: Access = OWNER
    written: Mapping[str, Writing] = field(default_factory=dict)
    names: Mapping[str, str] = field(default_factory=dict)
    turns: str = ""


def start_draft(
    office: Office,
    who: Who,
    kind: str,
    answers: Answers | None = None,
    made: Callable[[Rulebook], Dossier] | None = None,
    owner: str = "",
) -> str:
    """Begin a filing of a kind, with what the profile knows and perhaps the answers of the way in, or as ``made``; returns its id. With
    a mandate it is begun for another ``owner``, by the id.

    Raises NotFound for an unknown kind, NotAllowed without a mandate to prepare it.
    """
    if who.may.moves != "applicant":
        raise NotAllowed(say("Filings are begun by applicants."))
    need_account(who)
    if owner not in ("", who.id) and not begins_for(who.mandates, owner, kind):
        raise NotAllowed(say("You have no mandate to prepare filings of this kind for somebody else."))
    rules = rulebook(office, edition_on(office, kind, office_calendar(office).local_day(office.now())))
    need_bounded(answers or {}, rules)
    dossier = made(rules) if made else begin(rules, asdict(profile(office, owner or who.id)), answers or {}, office.now())
    draft_id = new_id()
    with write_session(office.engine) as session:
        session.add(_new(office, owner or who.id, draft_id, kind, dossier, None))
    return draft_id


def _new(
    office: Office, owner_id: str, draft_id: str, kind: str, dossier: Dossier, case_id: str | None, lane: str = "", adds: str = ""
) -> Draft:
    return Draft(
        id=draft_id,
        owner_id=owner_id,
        kind=kind,
        case_id=case_id,
        lane=lane,
        adds=adds,
        own_reference="",
        folder="",
        dossier=dossier.model_dump(mode="json"),
        words={},
        kept_at=office.now(),
    )


def start_answering(office: Office, case: Case, dossier: Dossier, lane: str = "", adds: str = "") -> str:
    """The draft in which a letter of a lane is answered, or in which something is added to a case, begun from the latest version if it is
    not there yet."""
    with write_session(office.engine) as session:
        own = Draft.case_id == case.id, Draft.owner_id == case.applicant_id
        there = session.scalars(select(Draft.id).where(*own, Draft.lane == lane, Draft.adds == adds)).first()
        if there:
            return there
        draft_id = new_id()
        session.add(_new(office, case.applicant_id, draft_id, case.kind, dossier, case.id, lane, adds))
    return draft_id


def open_draft(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """A draft of one's own, or one to which one was invited, assessed now."""
    with read_session(office.engine) as session:
        draft, access = shared_draft(session, who, draft_id)
        case = session.get(Case, draft.case_id) if draft.case_id else None
        history = load_history(session, case.id) if case else NO_HISTORY
        found, written = opened(office, session, draft, case, history), being_written(office, who, draft)
        people = names_in(session, {draft.owner_id, *(one.who for one in written.values())})
    return replace(found, access=access, written=written, names=people)


def opened(office: Office, session: Session, draft: Draft, case: Case | None, history: History) -> OpenDraft:
    """Ask the core about a draft."""
    now = reached_at(office, session, draft) or office.now()
    taken_back = bool(history.entries) and fold(history.entries).filed is None
    if case and not taken_back:
        sha256 = case.edition_sha256
    else:
        sha256 = edition_on(office, draft.kind, office_calendar(office, session).local_day(now), session)
    rules = rulebook(office, sha256)
    dossier = Dossier.model_validate(draft.dossier)
    if case and not taken_back:
        filed = history.versions[-1].dossier
        today = office_calendar(office, session).local_day(now)
        dossier = (
            take_added(rules, filed, dossier, draft.adds, today) if draft.adds else take_lane(rules, filed, dossier, draft.lane)
        )
    words = {int(no): text for no, text in draft.words.items()}
    known = known_to_applicant(office, sha256, [dossier, *(v.dossier for v in history.versions)], session)
    known = replace(known, registers=prepared(office, rules, dossier, draft.owner_id))
    found = assess(rules, dossier, history, known, now, words, draft.lane, draft.adds)
    turned = session.get(Turning, draft.id)
    return OpenDraft(draft, dossier, words, rules, sha256, history, known, found, case, turns=turned.reference if turned else "")


def drafts_of(office: Office, who: Who) -> list[OpenDraft]:
    """All filings that a person is preparing, newest first."""
    with read_session(office.engine) as session:
        own = select(Draft, Case).outerjoin(Case, Case.id == Draft.case_id).where(Draft.owner_id == who.id)
        own = own.where(Draft.thrown_away_at.is_(None), Draft.case_id.is_(None) | (Case.state == UNFILED)).order_by(
            Draft.kept_at.desc()
        )
        rows = [(draft, case, load_history(session, case.id) if case else NO_HISTORY) for draft, case in session.execute(own)]
        return [opened(office, session, draft, case, history) for draft, case, history in rows]


def need_bounded(answers: Answers, rules: Rulebook) -> None:
    """Raise Invalid, with the place, if answers hold what cannot be kept; TooLarge if they are too long in all."""
    if found := beyond(answers, rules):
        raise Invalid(found.why, found.place[:120])
    if len(str(answers)) > MOST_ANSWERS:
        raise TooLarge(say("These answers are longer than a filing can be."))


Alter = Callable[[Dossier], Dossier]


def change_draft(office: Office, who: Who, draft_id: str, alter: Alter, seen: int | None = None) -> OpenDraft:
    """Change a dossier that is being prepared: ``alter`` gets what stands there now, inside the write.

    Such a change (a file, a tick, a signature) conflicts with no other, whatever revision was ``seen``; only one that never was
    is refused. Invalid is raised where it touches what stays as it was filed while a letter is answered.
    """
    locks = _locks(office, who, draft_id)
    with write_session(office.engine) as session:
        draft, access = shared_draft(session, who, draft_id)
        known_revision(draft, seen)
        before = whole(draft)
        there = Dossier.model_validate(draft.dossier)
        dossier = alter(there)
        need_may_change(office, session, who, draft, access, there, dossier)
        if locks:
            locks.need_kept(there, dossier)
        draft.dossier = dossier.model_dump(mode="json")
        remember_removed(office, session, draft, there, dossier)
        note_change(office, session, who, draft, before, access, needed_by(there, dossier))
    return open_draft(office, who, draft_id)


def keep(
    office: Office,
    who: Who,
    draft_id: str,
    seen: int | None,
    answers: Answers | None = None,
    note: str | None = None,
    own_reference: str | None = None,
    folder: str | None = None,
    words: dict[int, str] | None = None,
) -> OpenDraft:
    """Keep what was typed; None leaves a thing as it is. Faulty answers are kept too, with their complaint beside them.

    ``seen`` is the revision over which it was typed. What was changed since and left alone here stays as it is now; Stale, with
    the places, is raised only where both changed the same answer, each otherwise.
    """
    if answers is not None:
        with read_session(office.engine) as session:
            kind = shared_draft(session, who, draft_id)[0].kind
        need_bounded(answers, rulebook(office, edition_on(office, kind, office_calendar(office).local_day(office.now()))))
    locks = _locks(office, who, draft_id)
    with write_session(office.engine) as session:
        draft, access = shared_draft(session, who, draft_id)
        now = whole(draft)
        mine = now if answers is None else {**answers, **{key: now[key] for key in BESIDE}}
        if words is not None:
            mine = {**mine, WORDS: {str(no): text[:4000] for no, text in words.items()}}
        typed = {
            "note": note and note[:4000],
            "own_reference": own_reference and own_reference.strip()[:80],
            "folder": folder and " ".join(folder.split())[:60],
        }
        mine = {**mine, OWN: now[OWN] | {key: text for key, text in typed.items() if text is not None}}
        merged = merge(mine, now, since_seen(session, draft, seen))
        need_free(office, session, who, draft, merged.conflicts)
        if not merged.conflicts:
            there = Dossier.model_validate(draft.dossier)
            put(draft, merged.answers)
            after = Dossier.model_validate(draft.dossier)
            need_may_change(office, session, who, draft, access, there, after)
            _need_may_set(access, touched(now, merged.answers))
            if locks:
                locks.need_kept(there, after)
            note_change(office, session, who, draft, now, access, needed_by(there, after))
    if merged.conflicts:
        raise _both_changed(office, draft, merged.conflicts)
    kept = open_draft(office, who, draft_id)
    asked = answers is not None and look_up_typed(office, kept.rulebook, kept.dossier, who.id)
    return open_draft(office, who, draft_id) if asked else kept


def _need_may_set(access: Access, places: Iterable[str]) -> None:
    """Raise NotAllowed if what stands beside the answers is changed by somebody who was not invited to."""
    parts = {place.partition(".")[0] for place in places if place != f"{OWN}.note"}
    if OWN in parts:
        need_owner(access)
    if WORDS in parts:
        need_right(access, "answer")


@dataclass(frozen=True, slots=True)
class _Locks:
    """What stays as it was filed while a letter is answered in a draft: the places, and the version in which they stand. In a draft that
    ``adds`` something to a case it is everything else."""

    rules: Rulebook
    places: tuple[str, ...]
    base: Dossier
    adds: str = ""

    def need_kept(self, before: Dossier, after: Dossier) -> None:
        """Raise Invalid, with the place, if a change touches one of them."""
        if self.adds:
            own = fresh_items(self.base, before, self.adds) | fresh_items(self.base, after, self.adds)
            for other in differences(self.rules, before, after):
                if other.place != "signature" and not is_added(other.place, self.adds, own, self.rules):
                    raise Invalid(say("“{label}” is not what you add; it stays as it was filed.", label=other.label), other.place)
            return
        change = breaks_lock(self.rules, self.places, self.base, before, after)
        if change is not None:
            said = say("“{label}” was not asked about; it stays as it was filed.", label=change.label)
            raise Invalid(said, change.place)


def _locks(office: Office, who: Who, draft_id: str) -> _Locks | None:
    """What stays in a draft as it was filed; None in one of a filing. Read before the write, which takes no second connection."""
    with read_session(office.engine) as session:
        draft, _ = shared_draft(session, who, draft_id)
        case = session.get(Case, draft.case_id) if draft.case_id else None
        history = load_history(session, case.id) if case else NO_HISTORY
    if case is None or not history.versions:
        return None
    so_far, base, rules = fold(history.entries), history.versions[-1].dossier, rulebook(office, case.edition_sha256)
    if draft.adds:
        return _Locks(rules, (), base, draft.adds)
    places = locked_places(rules, base, in_lane(so_far, draft.lane).round) if so_far.filed else ()
    return _Locks(rules, places, base) if places else None


def take_part_over(office: Office, who: Who, draft_id: str, part: str) -> OpenDraft:
    """The owner takes a part over from whoever writes it just now; from then on that person waits."""
    with write_session(office.engine) as session:
        draft = own_draft(session, who, draft_id)
        note_writer(draft, who, [part], office.now())
        note_other_change(office, session, draft, who.id)
    return open_draft(office, who, draft_id)


def _both_changed(office: Office, draft: Draft, conflicts: Sequence[str]) -> Stale:
    rules = rulebook(office, edition_on(office, draft.kind, office_calendar(office).local_day(office.now())))
    reasons = []
    for ref in conflicts:
        part = ref.partition(".")[0]
        label = {WORDS: say("the words of a point"), OWN: say("the note, the own reference or the folder")}.get(
            part
        ) or rules.label(ref)
        place = None if part in BESIDE else Place(ref, label)
        reasons.append(WhyNot(say("{label} was changed in another window as well.", label=label), place))
    said = reasons[0].text if len(reasons) == 1 else say("The same answers were changed in another window as well.")
    detail = say("{said} What you typed is still here; load the other state, then decide.", said=said)
    return Stale(detail, conflicts[0] if conflicts[0].partition(".")[0] not in BESIDE else "", reasons)


def end_draft(session: Session, owner_id: str, draft_id: str, seen: int | None, case_id: str) -> None:
    """Take a draft away, in the caller's transaction, because it is filed or sent: its address leads to the case from now on.

    Raises Stale if it was changed since ``seen``, or belongs to somebody else by now.
    """
    draft = session.get(Draft, draft_id)
    if draft is None or draft.owner_id != owner_id or (seen is not None and draft.revision != seen):
        raise Stale(say("This was changed, filed or sent in another window. Look at it again before you go on."))
    forget_changes(session, draft_id)
    session.delete(draft)
    session.execute(delete(PileItem).where(PileItem.draft_id == draft_id))  # what was placed nowhere was not filed
    for table in (Invitation, IssuerAsked):
        session.execute(update(table).where(table.draft_id == draft_id).values(case_id=case_id))
    session.add(EndedDraft(draft_id=draft_id, owner_id=draft.owner_id, case_id=case_id))


def _sent_in(session: Session, draft: Draft) -> str:
    """The name of a file that an issuer sent into a draft of answers, which stands in no version yet."""
    versions = load_history(session, draft.case_id).versions if draft.case_id else ()
    filed = {a.id for version in versions for a in version.dossier.attachments}
    sent = (a for a in Dossier.model_validate(draft.dossier).attachments if a.issuer and a.id not in filed)
    return next((a.name for a in sent), "")


def throw_away(office: Office, who: Who, draft_id: str, seen: int | None = None) -> None:
    """Throw a draft away. A new filing can be brought back for some days; the answers to a letter are gone at once."""
    with write_session(office.engine) as session:
        draft = own_draft(session, who, draft_id)
        if seen is not None and draft.revision != seen:
            raise Stale(say("This draft was changed in another window. Look at it again before you throw it away."))
        if draft.case_id is not None and (sent := _sent_in(session, draft)):
            told = say(
                "“{name}” was sent straight to the office for these answers. They cannot be thrown away any more.", name=sent
            )
            raise NotReady(told)
        if draft.case_id is None:
            draft.thrown_away_at = office.now()
        else:
            forget_changes(session, draft_id)
            session.delete(draft)
