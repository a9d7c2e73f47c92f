"""What an applicant adds to a case without being asked: a document, a repeat of a part or an answer that may come later, signed again, as a
new version. What costs something and is not paid in time is taken out again by the clock job.

While answers are prepared it goes into them. It pauses nothing, changes no state, and is judged like an answer.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import IO

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.additions import Adding, adding, may_add
from jolly_clerk.core.assessment import assess
from jolly_clerk.core.delivering import CameLater, TakenOut
from jolly_clerk.core.dossier.adding import without_added
from jolly_clerk.core.dossier.changing import AlreadyThere, answer, next_item
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.model import Signing, Version
from jolly_clerk.core.dossier.signing import covered, signed
from jolly_clerk.core.due import LaterUnpaid
from jolly_clerk.core.history import Entry
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.lifecycle import in_lane
from jolly_clerk.core.say import say
from jolly_clerk.core.to_come import to_add
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, TooLarge
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.accounts import need_confirmed
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.answering import begin_answering
from jolly_clerk.office.preparing.attaching import MOST_FILES, already_there, attach, clean_name, free_name, keep_files, too_large
from jolly_clerk.office.preparing.drafts import OpenDraft, end_draft, open_draft, start_answering
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.office.preparing.signing import need_name
from jolly_clerk.store.chain import seal
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft


def add(office: Office, who: Who, reference: str, slot: str, file: str, content: bytes | IO[bytes], name: str) -> str:
    """Add a document to a case, signed with a typed ``name``; returns the draft of the answers into which it went, nothing for a version.

    Raises NotAllowed for whoever may not file, NotReady where nothing of the kind may be added now, Invalid, TooLarge, Stale.
    """
    need_confirmed(who)
    need_name(name)
    loaded, place = load_case(office, who, reference), f"documents.{slot}"[:60]
    if who.may.moves != "applicant" or not loaded.access.may("file"):
        raise NotAllowed(say("This is for whoever applied."))
    compiled = loaded.rulebook.slot_at(slot)
    if compiled is None or all(one.slot != slot for one in to_add(loaded.assessment)):
        raise NotReady(say("Nothing of this kind can be added to the case now."), place)
    file = clean_name(file)
    if isinstance(content, bytes):
        too_large(office, file, len(content))
    if answers := _answers(office, loaded, loaded.rulebook.lane_of(place) or ""):
        attach(office, who, answers, slot, file, content)
        return answers
    ((sha256, size),) = keep_files(office, who, [content])
    if size > compiled.slot.accepts.most_bytes:
        raise TooLarge(say("At most {most} is taken here.", most=compiled.slot.accepts.size), place)
    wait_until_read(office, [sha256])
    dossier, versions = loaded.dossier, loaded.history.versions
    if len(dossier.attachments) >= MOST_FILES:
        raise TooLarge(say("There are {most_files} files here already; no more can be taken.", most_files=MOST_FILES))
    try:
        dossier = put_in(dossier, versions, slot, free_name(dossier, slot, file, sha256), sha256, size)
    except AlreadyThere:
        raise already_there(file, place) from None
    text = loaded.rulebook.edition.signature.text
    signing = Signing(name=name.strip(), at=office.now().replace(microsecond=0), text=text, covers=covered(dossier))
    sealed = seal(Version(no=versions[-1].no + 1, at=office.now(), dossier=signed(dossier, signing)))

    def entries(_: Loaded) -> Sequence[Entry]:
        title, number = loaded.rulebook.slot_title(place), sealed.version.no
        return [CameLater(**by(office, who), place=place, title=title, version=number, dossier_hash=sealed.hash)]

    act(office, who, reference, "", entries, loaded.entries, sealed=sealed)
    return ""


def begin(office: Office, who: Who, reference: str, adds: str) -> str:
    """The draft in which something is added to a case (a part that repeats, or the place of a question); the same one each time. Where a
    letter is being answered it is that of the answers.

    Raises NotAllowed for whoever may not file, NotReady where it cannot be added now.
    """
    need_confirmed(who)
    loaded = load_case(office, who, reference)
    if who.may.moves != "applicant" or not loaded.access.may("file"):
        raise NotAllowed(say("This is for whoever applied."))
    if all(one.adds != adds for one in may_add(loaded.assessment)):
        raise NotReady(say("Nothing of this kind can be added to the case now."), adds[:60])
    lane = loaded.rulebook.lane_of(adds) or ""
    letter = in_lane(loaded.so_far, lane).open_round
    if letter is not None and letter.paused_from is not None:
        return begin_answering(office, who, reference, lane)
    dossier = loaded.dossier
    if adds not in loaded.rulebook.questions:  # its first repeat is there to be filled in
        given = dossier.answers.get(adds)
        number = next_item(dossier, loaded.history.versions, adds)
        dossier = answer(dossier, {**dossier.answers, adds: [*(given if isinstance(given, list) else []), {"id": number}]})
    return start_answering(office, loaded.case, dossier, adds=adds)


def adding_of(ready: OpenDraft) -> Adding | None:
    """What a draft adds to its case, with its amount; None for any other draft."""
    if not ready.draft.adds or ready.case is None:
        return None
    filed = assess(ready.rulebook, ready.history.versions[-1].dossier, ready.history, ready.known, ready.assessment.now)
    return adding(filed, ready.assessment, ready.draft.adds)


def send(office: Office, who: Who, draft_id: str, seen: int | None = None) -> str:
    """Send what a draft adds: it becomes a new version, and its amount is due at once. Returns the reference.

    Raises NotReady with everything that is left, NotAllowed, Invalid where the draft adds nothing.
    """
    need_confirmed(who)
    ready = open_draft(office, who, draft_id)
    need_right(ready.access, "file")
    if unread := [h for h, reading in ready.known.readings.items() if reading.opens == "being read"]:
        wait_until_read(office, unread)
        ready = open_draft(office, who, draft_id)
    told, case = adding_of(ready), ready.case
    if told is None or case is None:
        raise Invalid(say("This adds nothing to a case; it is filed, or sent as an answer."))
    if left := ready.assessment.left:
        raise NotReady(left[0].text, left[0].place.ref if left[0].place else "", left)
    if ready.dossier == ready.history.versions[-1].dossier:
        raise NotReady(say("Nothing is added yet."), told.adds)
    number = ready.history.versions[-1].no + 1
    sealed = seal(Version(no=number, at=office.now(), dossier=ready.dossier))
    expected = ready.draft.revision if seen is None else seen

    def entries(now: Loaded) -> Sequence[Entry]:
        if all(one.adds != told.adds for one in may_add(now.assessment)):
            raise NotReady(say("Nothing of this kind can be added to the case now."), told.adds)
        return [
            CameLater(
                **by(office, who),
                place=told.adds,
                title=told.title,
                version=number,
                dossier_hash=sealed.hash,
                due=told.amount,
                until=told.until if told.amount else None,
            )
        ]

    def finish(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        end_draft(session, ready.draft.owner_id, draft_id, expected, case.id)
        if told.amount:
            subject = say("To be paid: {title}", title=told.title)
            put_out(session, case, f"{case.reference}-added-{number}", subject, "", office.now(), text=told.told, news="money")
        return made

    act(office, who, case.reference, "", entries, len(ready.history.entries), sealed=sealed, finish=finish)
    deliver_soon(office)
    return case.reference


def take_out(office: Office, clock: Who, loaded: Loaded, due: LaterUnpaid) -> None:
    """The clock job's word that what came later was not paid in time: a version without it, and the applicant is told."""
    added, versions, rules = due.added, loaded.history.versions, loaded.rulebook
    before, after = versions[added.version - 2].dossier, versions[added.version - 1].dossier
    dossier = without_added(rules, loaded.dossier, before, after, added.place)
    number = versions[-1].no + 1
    sealed = seal(Version(no=number, at=office.now(), dossier=dossier))

    def entries(_: Loaded) -> Sequence[Entry]:
        return [
            TakenOut(
                **by(office, clock),
                of=added.version,
                place=added.place,
                title=added.title,
                amount=added.due,
                version=number,
                dossier_hash=sealed.hash,
            )
        ]

    def finish(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        amount = money(added.due, rules.edition.currency)
        subject = say("Not paid: {title}", title=added.title)
        text = say(
            "{amount} was to be paid until {day} and has not come. {title} counts as not having come; the rest of your application goes on.",
            amount=amount, day=day(added.until) if added.until else "", title=added.title,
        )  # fmt: skip
        put_out(session, case, f"{case.reference}-taken-out-{number}", subject, "", office.now(), text=text, news="money")
        return made

    act(office, clock, loaded.case.reference, "", entries, loaded.entries, sealed=sealed, finish=finish)
    deliver_soon(office)


def _answers(office: Office, loaded: Loaded, lane: str) -> str:
    """The draft of answers that are being prepared in a lane; nothing if there is none."""
    own = Draft.case_id == loaded.case.id, Draft.lane == lane, Draft.adds == ""
    wanted = select(Draft.id).where(*own, Draft.thrown_away_at.is_(None))
    with read_session(office.engine) as session:
        return session.scalars(wanted).first() or ""
