"""Short filings on a permit: begun from it with what is known of it, and decided by themselves where everything is clear."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.changing import begin, fill_from_register, patterned
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.due import AskPermit, DecidesItself, what_is_due
from jolly_clerk.core.history import NO_HISTORY
from jolly_clerk.core.in_words import money
from jolly_clerk.core.permit_steps import accepts_it, permit_of, told_before
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.turning import answers_kept
from jolly_clerk.office.cases.casework import Loaded, load_case, write_entries
from jolly_clerk.office.cases.endings import CLOCK
from jolly_clerk.office.cases.own_cases import own_case
from jolly_clerk.office.cases.seeing import held_by
from jolly_clerk.office.desk.registers import ask_for_case, outer, prepared
from jolly_clerk.office.desk.reviewing import grant_by_itself
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.accounts import mail_of
from jolly_clerk.office.permits.carrying import carry_out
from jolly_clerk.office.permits.holding import holder_of, is_held_by, load_permit
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, start_draft
from jolly_clerk.office.preparing.profiles import profile
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import FiledStep
from jolly_clerk.store.tables import Case, Draft, Person


@dataclass(frozen=True, slots=True)
class StepOffer:
    """A short filing that there is for a permit: what it costs if that is known before anything is answered, why it cannot be filed now,
    and the draft in which it is being prepared already."""

    kind: str
    title: str
    about: str
    cost: str
    why_not: tuple[str, ...]
    draft: str = ""


def steps_for(office: Office, kind: str) -> list[Rulebook]:
    """The editions in force today of every short filing on what that kind grants."""
    today = office_calendar(office).local_day(office.now())
    return [r for r in kinds(office, today) if r.step is not None and r.edition.sub_kind_of == kind]


def begun_with(office: Office, loaded: Loaded, rules: Rulebook) -> Dossier:
    """A short filing as it is begun: what the profile knows, the answers of the permit's case that are asked again, and what the
    office's register says of the permit."""
    assert rules.step is not None
    owner, now = holder_of(loaded), office.now()
    answered = loaded.dossier.answers if owner == loaded.case.applicant_id else {}  # what somebody else answered is not shown
    own = patterned(rules, answers_kept(loaded.rulebook, rules, answered), loaded.case.reference, now)
    begun = begin(rules, asdict(profile(office, owner)), own.answers, now)
    begun = begun.model_copy(update={"prefilled": (*own.prefilled, *begun.prefilled), "numbered": own.numbered})
    reference = loaded.case.reference
    return _filled(rules, begun, reference, _row(office, rules, reference, owner), now)


def _row(office: Office, rules: Rulebook, reference: str, owner: str) -> dict[str, str] | None:
    """What the office's own register says of the permit, without what is the office's alone; None if the owner has no such permit."""
    assert rules.step is not None
    register = rules.edition.registers[rules.step.step.register_]
    row = own_case(office, register, owner, reference)
    return outer(register, row) if row else None


def _filled(rules: Rulebook, dossier: Dossier, reference: str, row: dict[str, str] | None, at: datetime) -> Dossier:
    assert rules.step is not None
    return fill_from_register(dossier, rules, rules.step.step.register_, reference, row, at) if row else dossier


def offers(office: Office, loaded: Loaded) -> Iterator[StepOffer]:
    """What can be filed on the permit of a case, and for what cannot, why not."""
    drafts = _drafts(office, loaded)
    for rules in steps_for(office, loaded.case.kind):
        a = _foreseen(office, loaded, rules)
        due = a.fees.total("at filing")
        cost = money(due.amount, a.fees.currency) if due.amount else say("Nothing is due") if due.amount is not None else ""
        edition = rules.edition
        yield StepOffer(
            edition.kind, edition.title, edition.about.strip(), cost, _why_not(loaded, a), drafts.get(edition.kind, "")
        )


def _foreseen(office: Office, loaded: Loaded, rules: Rulebook) -> Assessment:
    dossier, owner = begun_with(office, loaded, rules), holder_of(loaded)
    known = replace(loaded.known, registers=prepared(office, rules, dossier, owner))
    return assess(rules, dossier, NO_HISTORY, known, office.now())


def _why_not(loaded: Loaded, a: Assessment) -> tuple[str, ...]:
    """What stands against it before anything is answered: that it was told, or the rules that are broken by what is known already."""
    if told := told_before(a.rulebook, loaded.so_far.permit):
        return (told,)
    return tuple(r.because for r in a.requirements if r.kind in ("rule", "prerequisite") and r.proposed == "wanting")


def _drafts(office: Office, loaded: Loaded) -> dict[str, str]:
    """The short filings on this permit that are being prepared: the draft of each kind."""
    found: dict[str, str] = {}
    by_kind = {r.edition.kind: r for r in steps_for(office, loaded.case.kind)}
    with read_session(office.engine) as session:
        own = select(Draft).where(
            Draft.owner_id == holder_of(loaded),
            Draft.kind.in_(by_kind),
            Draft.case_id.is_(None),
            Draft.thrown_away_at.is_(None),
        )
        for draft in session.scalars(own.order_by(Draft.kept_at)):
            step = by_kind[draft.kind].step
            part, _, question = step.asked_by.partition(".") if step else ("", "", "")
            given = Dossier.model_validate(draft.dossier).answers.get(part)
            if isinstance(given, dict) and given.get(question) == loaded.case.reference:
                found[draft.kind] = draft.id
    return found


def begin_step(office: Office, who: Who, reference: str, kind: str) -> str:
    """Begin a short filing on a permit, or go on with the one that is being prepared; returns its draft.

    Raises NotFound if there is no such short filing on it, NotReady before it is issued or for what stands against it, NotAllowed for
    whoever does not hold it.
    """
    if who.may.moves != "applicant":
        raise NotAllowed(say("Filings are begun by applicants."))
    loaded = load_permit(office, who, reference)
    if not is_held_by(loaded, who):
        raise NotAllowed(say("This is for whoever holds it."))
    rules = next((r for r in steps_for(office, loaded.case.kind) if r.edition.kind == kind), None)
    if rules is None:
        raise NotFound(say("There is no such filing on it."))
    if loaded.so_far.issued is None:
        raise NotReady(say("The {grants} is not issued yet.", grants=loaded.rulebook.edition.grants))
    if there := _drafts(office, loaded).get(kind):
        return there
    if against := _why_not(loaded, _foreseen(office, loaded, rules)):
        raise NotReady(against[0])
    return start_draft(office, who, kind, made=lambda fresh: begun_with(office, loaded, fresh), owner=holder_of(loaded))


def need_as_it_stands(office: Office, who: Who, ready: OpenDraft) -> None:
    """Raise NotReady if the permit of a short filing is not any more as it says: it is filled in anew then, to be looked at and signed."""
    rules, reference = ready.rulebook, permit_of(ready.assessment)
    if rules.step is None or ready.case is not None:
        return
    if told := accepts_it(ready.assessment):
        _need_somebody_else(office, ready.draft.owner_id, told, rules.step.step.accepted_by or "")
    row, now = _row(office, rules, reference, ready.draft.owner_id), office.now()
    if _filled(rules, ready.dossier, reference, row, now).answers == ready.dossier.answers:
        return
    change_draft(office, who, ready.draft.id, lambda dossier: _filled(rules, dossier, reference, row, now))
    raise NotReady(
        say(
            "What this says of {reference} was not as the office has it. It is filled in anew: look at it, and sign again.",
            reference=reference,
        ),
        rules.step.asked_by,
    )


def _need_somebody_else(office: Office, owner_id: str, address: str, place: str) -> None:
    """Raise NotReady if a permit cannot be offered to an address: it is none, or the holder's own."""
    try:
        mail = mail_of(address)
    except Invalid as told:
        raise NotReady(str(told), place) from None
    with read_session(office.engine) as session:
        if mail == session.get_one(Person, owner_id).mail:
            raise NotReady(say("This address is your own. Give that of whoever holds it after you."), place)


def note_filed_step(session: Session, case: Case, a: Assessment) -> None:
    """Keep which permit a short filing is on, in the write that files it."""
    permit = session.scalars(select(Case).where(Case.reference == permit_of(a), held_by(case.applicant_id))).first()
    if permit is not None and session.get(FiledStep, case.id) is None:
        session.add(
            FiledStep(
                case_id=case.id,
                permit_case_id=permit.id,
                reference=case.reference,
                permit=permit.reference,
                kind=case.kind,
                done_at=None,
            )
        )


def go_on(office: Office, reference: str) -> None:
    """Decide a short filing by itself as far as that is due, and carry out what was granted; harmless as often as it is asked."""
    for _ in range(3):
        loaded = load_case(office, CLOCK, reference)
        due = what_is_due(loaded.assessment) if loaded.rulebook.step else None
        if not isinstance(due, (AskPermit, DecidesItself)):
            break
        decide_itself(office, loaded, due)
    carry_out(office, loaded.case.id)


def decide_itself(office: Office, loaded: Loaded, due: AskPermit | DecidesItself) -> None:
    """Ask how the permit stands, or grant: what is due of a short filing that is decided by itself."""
    if isinstance(due, AskPermit):
        told = ask_for_case(office, CLOCK, loaded.rulebook, loaded.dossier, [due.name], loaded.case.applicant_id)
        write_entries(office, loaded, tuple(told))
        return
    grant_by_itself(office, CLOCK, loaded)
