"""Filing: a draft becomes a case with a reference."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.deadlines import due_said, payment_due
from jolly_clerk.core.dossier.model import Version
from jolly_clerk.core.fees.account import asked_when_filed
from jolly_clerk.core.fees.debts import later
from jolly_clerk.core.fees.lines import Line
from jolly_clerk.core.history import ClosureDeclared, Entry, Filed, History
from jolly_clerk.core.in_words import money
from jolly_clerk.core.reference import counter_of, make_reference
from jolly_clerk.core.roles import RULE_KEEPERS
from jolly_clerk.core.say import say
from jolly_clerk.core.shut import Shut
from jolly_clerk.office.cases.casework import Loaded, act, assessed, project
from jolly_clerk.office.cases.closures import ahead
from jolly_clerk.office.desk.turning import finish_turning, need_still_open
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import need_confirmed
from jolly_clerk.office.people.claiming import new_claim
from jolly_clerk.office.people.texting import need_code
from jolly_clerk.office.permits.stepping import go_on, need_as_it_stands, note_filed_step
from jolly_clerk.office.post.mailing import deliver_soon, put_out, put_out_mail
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.drafts import OpenDraft, end_draft, open_draft
from jolly_clerk.office.preparing.reaching import note_recorded, recorded_as
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.store.chain import Sealed, append, keep_version, seal
from jolly_clerk.store.counter import Turning
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.outside import note_last
from jolly_clerk.store.tables import Case, Head, Person


def file(office: Office, who: Who, draft_id: str, seen: int | None = None, take_gaps: bool = False, code: str = "") -> str:
    """File a draft; returns the reference. ``take_gaps`` says that the listed gaps were read and accepted, ``code`` is the one that came by
    text message, where the edition asks for it.

    Raises NotReady with every gap if there are some and they were not accepted, or may not be; Invalid for another code.
    """
    if who.may.moves == "applicant":
        need_confirmed(who)
    ready = open_draft(office, who, draft_id)
    need_right(ready.access, "file")
    if unread := [h for h, reading in ready.known.readings.items() if reading.opens == "being read"]:
        wait_until_read(office, unread)
        ready = open_draft(office, who, draft_id)
    recorded = recorded_as(office, who, ready)
    with read_session(office.engine) as session:
        turned = need_still_open(session, draft_id)
    move = ready.assessment.move("applicant", "file")
    if not move.allowed:
        raise NotReady(move.why_not[0].text, "", move.why_not)
    if move.warnings and not take_gaps:
        raise NotReady(
            say("Something is still missing. It can be filed like this; the office will ask for it."), "", move.warnings
        )
    need_as_it_stands(office, who, ready)
    if ready.rulebook.edition.confirm_by == "text":
        need_code(office, who, "file", code)
    now, due = office.now(), max(ready.assessment.fees.total("at filing").low, Decimal(0))
    odd = [line for line in ready.assessment.fees.lines if line.stage == "at filing" and line.trouble]
    number = ready.history.versions[-1].no + 1 if ready.case else 1
    sealed = seal(Version(no=number, at=now, dossier=ready.dossier))
    filed = Filed(
        at=now,
        who=who.signs,
        role=who.role,
        came=recorded.came if recorded else None,
        reached=recorded.reached if recorded else turned.filed_at if turned else None,
        turned_from=turned.reference if turned else "",
        version=number,
        edition=ready.rulebook.edition.id,
        edition_sha256=ready.edition_sha256,
        calendar_version=ready.known.calendar.version,
        due_at_filing=due,
        dossier_hash=sealed.hash,
        to_set=tuple(line.id for line in odd),
        later=later(ready.assessment.debts_in("at filing", due, now)),
    )
    expected = ready.draft.revision if seen is None else seen

    def take_draft(session: Session, case_id: str) -> None:
        end_draft(session, ready.draft.owner_id, draft_id, expected, case_id)
        for line in odd:
            _tell_rule_keepers(session, ready.rulebook.edition.id, line, now)

    if ready.case:  # one that was taken back is filed again under its reference
        return _file_again(office, who, ready, filed, sealed, take_draft)
    case_id = new_id()
    year = ready.assessment.filing_day.year
    with write_session(office.engine) as session:
        reference = make_reference(ready.draft.kind, year, next_number(session, counter_of(ready.draft.kind, year)))
        case = Case(
            id=case_id,
            reference=reference,
            kind=ready.draft.kind,
            edition_sha256=ready.edition_sha256,
            applicant_id=ready.draft.owner_id,
            own_reference=ready.draft.own_reference,
            title="",
            state=ready.assessment.state,
            holder="",
            filed_at=filed.filed_at,
            changed_at=now,
            version=1,
            step="",
            next_officer="",
            next_applicant="",
            squares=[],
            entries=0,
        )
        session.add(case)
        session.flush()
        take_draft(session, case_id)
        keep_version(session, case_id, sealed)
        entries: tuple[Entry, ...] = (filed, *ahead(office, session, ready.assessment.filing_day))
        count = append(session, case_id, entries)
        project(
            office, session, case, assessed(office, case, History(entries=entries, versions=(sealed.version,)), count, session)
        )
        head = session.get_one(Head, case_id)
        tell_filed(office, session, case, ready, filed)
        if ready.rulebook.step:
            note_filed_step(session, case, ready.assessment)
        note_recorded(session, draft_id, reference)
        if turned:
            session.get_one(Turning, draft_id).became = reference
    note_last(office.folder, head, office.now())
    if turned:
        finish_turning(office, draft_id)
    if ready.rulebook.step:
        go_on(office, case.reference)
    deliver_soon(office)
    return case.reference


def tell_filed(office: Office, session: Session, case: Case, ready: OpenDraft, filed: Filed) -> None:
    """Lay a mail out for the applicant that says it was filed, what is to be paid by when, and when the office begins."""
    calendar, reference = ready.known.calendar, case.reference
    subject = say("Filed: {title}", title=ready.assessment.title)
    told = [say("We received your application. Its reference is {reference}.", reference=reference)]
    if filed.to_set:
        told.append(say("The office sets a part of the fee first; you are told what is to be paid."))
    elif asked := asked_when_filed(ready.assessment.account, filed):
        until = due_said(payment_due(filed.at, ready.assessment.clock_rules.pay, calendar), calendar)
        due = money(asked, ready.rulebook.edition.currency)
        told.append(
            say("Pay {due} by the end of {until}; after that it lapses. The office begins when it is paid.", due=due, until=until)
        )
    else:
        told.append(say("Nothing is due now. The office begins to check it."))
    owner = session.get_one(Person, case.applicant_id)
    if filed.came and not owner.mail and not owner.is_firm:
        site, code = office.settings.base_url, new_claim(office, session, owner)
        told.append(say("To follow your case yourself, open {site}/claim and type the code {code}.", site=site, code=code))
    put_out(session, case, f"{reference}-filed-{filed.version}", subject, "", filed.at, text=" ".join(told), news="money")


def _tell_rule_keepers(session: Session, edition: str, line: Line, at: datetime) -> None:
    """Tell those who mind the rules that a fee line could not be worked out, once a day."""
    subject = say("A fee that cannot be worked out: {edition}", edition=edition)
    text = say("{title} {trouble}. The office sets it by hand in each such case.", title=line.title, trouble=line.trouble)
    for keeper in session.scalars(select(Person).where(Person.role.in_(RULE_KEEPERS), Person.mail.is_not(None))):
        put_out_mail(session, f"{edition} {line.id} {at:%Y-%m-%d} {keeper.id}"[:80], keeper.mail or "", subject, text, at)


def _file_again(
    office: Office, who: Who, ready: OpenDraft, filed: Filed, sealed: Sealed, take_draft: Callable[[Session, str], None]
) -> str:
    reference = ready.case.reference if ready.case else ""

    has: list[Shut] = []

    def entries(now: Loaded) -> Sequence[Entry]:
        has[:] = [e.shut for e in now.history.entries if isinstance(e, ClosureDeclared)]
        return [filed]

    def finish(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        made = [*made, *(e for e in ahead(office, session, ready.assessment.filing_day) if e.shut not in has)]
        take_draft(session, case.id)
        session.get_one(Case, case.id).edition_sha256 = filed.edition_sha256
        tell_filed(office, session, case, ready, filed)
        return made

    act(office, who, reference, "", entries, sealed=sealed, finish=finish)
    deliver_soon(office)
    return reference
