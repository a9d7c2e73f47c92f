"""After the intake: handed over to reviewers, of whom one grants or refuses and the others sign off; what is due at issue; the permit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.due import Silence
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.permit import permit_says
from jolly_clerk.core.reviewing import HandedBack
from jolly_clerk.core.roles import REVIEWERS, SECOND
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, assessed, by, check_seen, load_case, permit
from jolly_clerk.office.cases.endings import refund_of, words_of
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import of_roles, person
from jolly_clerk.office.permits.carrying import carry_out, new_code
from jolly_clerk.office.post.mailing import deliver_soon, put_out, put_out_mail
from jolly_clerk.office.post.papers import permit_paper, plain_letter
from jolly_clerk.office.post.receipts import notice
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.beside import Erasure
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.permits import ReplacedCode
from jolly_clerk.store.tables import Case, Person


def reviewers(office: Office, kind: str) -> list[Who]:
    """Everybody who reviews cases of a kind."""
    return [reviewer for reviewer in of_roles(office, REVIEWERS) if kind in (reviewer.kinds or (kind,))]


def hand_over(office: Office, who: Who, reference: str, to: str, seen: int | None = None, beside: Sequence[str] = ()) -> Loaded:
    """Hand a complete case over to a reviewer, who leads and decides; those ``beside`` sign off first."""
    others = tuple(dict.fromkeys(id_ for id_ in beside if id_ != to))
    if any(person(office, id_).role not in REVIEWERS for id_ in (to, *others)):
        raise NotFound(say("There is no such reviewer."))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.HandedOver(at=office.now(), who=who.signs, role=who.role, to=to, beside=others)]

    return act(office, who, reference, "hand over", entries, seen)


def sign_off(office: Office, who: Who, reference: str, words: str = "", seen: int | None = None) -> Loaded:
    """A reviewer beside the leading one has nothing against a decision; ``words`` are what is to be minded in it."""

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.SignedOff(**by(office, who), words=words.strip()[:4000])]

    return act(office, who, reference, "sign off", entries, seen, relies_on=(f"sign-off:{who.id}",))


def hand_back(office: Office, who: Who, reference: str, because: str, seen: int | None = None) -> Loaded:
    """Hand a case back to the officers, with the reason: it is complete again and with no reviewer."""
    because = words_of(because, say("why it goes back"))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [HandedBack(**by(office, who), because=because)]

    return act(office, who, reference, "hand back", entries, seen)


def ask_applicant(office: Office, who: Who, reference: str, text: str, seen: int | None = None) -> Loaded:
    """Ask the applicant something by a letter of the case; the answer comes as a message."""
    text = words_of(text, say("what is asked"))
    loaded = load_case(office, who, reference)
    permit(loaded, who, "ask the applicant")
    subject = say("A question about {title}", title=loaded.assessment.title)
    closing = say("Please answer by a message in the case. The office goes on meanwhile.")
    sha256 = office.vault.put(notice(office, loaded, subject, f"{text}\n\n{closing}"))
    asked = sum(isinstance(e, h.ReviewAsked) for e in loaded.history.entries)

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.ReviewAsked(**by(office, who), text=text, letter_sha256=sha256)]

    def out(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        put_out(session, case, f"{reference}-question-{1 + asked}", subject, sha256, made[-1].at)
        return made

    done = act(office, who, reference, "ask the applicant", entries, seen, finish=out, relies_on=(f"question:{1 + asked}",))
    deliver_soon(office)
    return done


def grant(office: Office, who: Who, reference: str, conditions: str = "", seen: int | None = None) -> Loaded:
    """Grant an application: what is due at issue falls due, less what was prepaid; if nothing is open the permit goes out at once."""
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "grant")
    return _grant(office, who, loaded, conditions.strip()[:4000], "grant", None)


def grant_by_silence(office: Office, who: Who, loaded: Loaded, silence: Silence) -> Loaded:
    """The clock job's word that nobody decided in time and that silence grants, with the limit's instant. Leads are told what was in
    doubt."""
    grounds = say("Nobody decided by the end of the period; it is granted by silence (art. {article}).", article=silence.article)
    if silence.doubts:
        subject = say("{reference} was granted by silence", reference=loaded.case.reference)
        text = say("In doubt then: {doubts}.", doubts=", ".join(silence.doubts))
        with write_session(office.engine) as session:
            for lead in session.scalars(select(Person).where(Person.role.in_(SECOND), Person.left_at.is_(None))):
                put_out_mail(
                    session,
                    f"{loaded.case.reference}-silence-{lead.id}"[:80],
                    lead.mail or lead.name,
                    subject,
                    text,
                    office.now(),
                )
    return _grant(office, who, loaded, grounds, "", silence.at)


def grant_by_itself(office: Office, who: Who, loaded: Loaded) -> Loaded:
    """A short filing is granted since everything in it is clear; ``who`` is the clock."""
    return _grant(office, who, loaded, "", "", None)


def _grant(
    office: Office, who: Who, loaded: Loaded, conditions: str, move: Literal["grant", ""], when: datetime | None
) -> Loaded:
    code = new_code()
    due, currency = loaded.assessment.fees.total("at issue").low, loaded.rulebook.edition.currency
    granted = h.Granted(at=when or office.now(), who=who.signs, role=who.role, grounds=conditions, due=due, code=code)
    then = h.History(entries=(*loaded.history.entries, granted), versions=loaded.history.versions)
    still = assessed(office, loaded.case, then, loaded.entries).assessment.account.for_issue
    sha256 = office.vault.put(plain_letter(office, loaded, "granted", who, grounds=conditions, amount=money(still, currency)))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        told = granted.model_copy(update={"at": when or office.now(), "letter_sha256": sha256})
        return [told, *issue(office, now, [told])]

    def permit_too(session: Session, case: Case, made: Sequence[h.Entry]) -> None:
        put_out_permit(office, session, case, made)

    done = act_and_tell(office, who, loaded, move, entries, "granted", sha256, also=permit_too)
    carry_out(office, done.case.id)
    return done


def issue(office: Office, loaded: Loaded, fresh: Sequence[h.Entry]) -> list[h.Entry]:
    """The entries that follow when, with these fresh ones, a granted case has nothing open: what was paid too much, and the permit."""
    history = h.History(entries=(*loaded.history.entries, *fresh), versions=loaded.history.versions)
    case = fold(history.entries)
    granted = case.granted
    if granted is None or case.issued:
        return []
    now = assessed(office, loaded.case, history, loaded.entries)
    if now.assessment.account.for_issue:
        return []
    at, made = office.now(), list[h.Entry]()
    if now.assessment.account.over:
        made.append(
            h.RefundDue(
                at=at,
                who="office",
                role="office",
                amount=now.assessment.account.over,
                because=say("more was paid than is due"),
                key=f"{loaded.case.reference}-issue",
                prepaid=min(case.prepaid, now.assessment.account.over),
            )
        )
    sha256 = office.vault.put(permit_paper(office, now, granted.code, granted))
    made.append(h.PermitIssued(at=at, who="office", role="office", code=granted.code, permit_sha256=sha256))
    return made


def put_out_permit(office: Office, session: Session, case: Case, made: Sequence[h.Entry]) -> None:
    """Lay the permit out for the applicant if these entries issue it."""
    for entry in made:
        if isinstance(entry, h.PermitIssued):
            put_out(
                session,
                case,
                f"{case.reference}-permit",
                say("Your {grants}", grants=rulebook(office, case.edition_sha256).edition.grants),
                entry.permit_sha256,
                office.now(),
            )


def refuse(office: Office, who: Who, reference: str, grounds: str, seen: int | None = None) -> Loaded:
    """Refuse an application, with grounds. What was prepaid comes back, and a bond."""
    grounds = words_of(grounds, say("on which grounds it is refused"))
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "refuse")
    sha256 = office.vault.put(plain_letter(office, loaded, "refused", who, grounds=grounds))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        at, back = office.now(), refund_of(now, "refused")
        refused = h.Refused(at=at, who=who.signs, role=who.role, grounds=grounds, letter_sha256=sha256)
        if not back.total:
            return [refused]
        what = say("what was prepaid for the issue") if back.prepaid else say("the bond")
        because, key = say("{what} comes back, since nothing is issued", what=what), f"{reference}-refused"
        paid_back = h.RefundDue(
            at=at, who=who.signs, role=who.role, amount=back.total, because=because, key=key, prepaid=back.prepaid
        )
        return [paid_back, refused]

    return act_and_tell(office, who, loaded, "refuse", entries, "refused", sha256)


@dataclass(frozen=True, slots=True)
class Told:
    """A question with its answer in words."""

    label: str
    value: str


@dataclass(frozen=True, slots=True)
class PublicPermit:
    """What anybody may know who has a permit's code: only answers that the rulebook calls public. ``counts`` is false for a document that was
    replaced."""

    code: str
    reference: str
    kind: str
    state: str
    granted: str
    says: tuple[Told, ...]
    stands: str = ""
    counts: bool = True


def check_permit(office: Office, code: str) -> PublicPermit:
    """The permit of a code. Raises NotFound for every other code alike."""
    with read_session(office.engine) as session:
        before = session.get(ReplacedCode, code.strip().upper())
        wanted = Case.id == before.case_id if before else Case.permit_code == code.strip().upper()
        case = session.scalars(select(Case).where(wanted)).first()
        history = load_history(session, case.id) if case and case.erased_at is None else None
        erased = session.scalars(select(Erasure).where(Erasure.target_id == case.id)).first() if case and case.erased_at else None
    if erased is not None:
        return PublicPermit(**erased.public | {"says": tuple(Told(**told) for told in erased.public["says"])})
    if case is None or history is None:
        raise NotFound(say("No permit has this code. Compare it letter by letter; 0, 1, I, O and Q do not occur in it."))
    loaded = assessed(office, case, history, len(history.entries))
    granted = loaded.so_far.granted
    calendar = loaded.known.calendar
    if before is not None:
        stands = say("This document was replaced by another one on {day} and counts no more.", day=day(before.day))
        title = loaded.rulebook.edition.title
        on = day(calendar.local_day(granted.at)) if granted else ""
        return PublicPermit(before.code, case.reference, title, case.state, on, (), stands, counts=False)
    says = tuple(Told(label, value) for label, value in permit_says(loaded.sheet, loaded.so_far, public_only=True))
    on = day(calendar.local_day(granted.at)) if granted else ""
    if view := loaded.assessment.permit:
        says += tuple(Told(d.title, day(d.day)) for d in view.days)
    return PublicPermit(
        code.strip().upper(), case.reference, loaded.rulebook.edition.title, case.state, on, says, view.says if view else ""
    )
