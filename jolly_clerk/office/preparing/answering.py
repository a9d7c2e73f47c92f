"""Answering a letter: in a draft of the next version, point by point, sent as a whole."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Version
from jolly_clerk.core.history import Answered, Entry
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import refused_move
from jolly_clerk.office.cases.casework import Loaded, act, load_case, need_lane
from jolly_clerk.office.cases.seeing import note_use
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.drafts import end_draft, open_draft, start_answering
from jolly_clerk.office.preparing.reading_queue import wait_until_read
from jolly_clerk.store.chain import seal
from jolly_clerk.store.tables import Case


def begin_answering(office: Office, who: Who, reference: str, lane: str = "") -> str:
    """The draft in which the letter of a case, or of one of its lanes, is answered; the same one each time."""
    loaded = load_case(office, who, reference)
    if who.may.moves != "applicant" or (refused := refused_move(loaded.access, "send the answers")):
        raise NotAllowed(refused.text if refused else say("Only the applicant answers for this case."))
    state = need_lane(loaded, lane).state
    if state != "Answers wanted":
        raise NotReady(say("The case is “{state}”; nothing is asked of you now.", state=state))
    # the note belongs to what it came with
    return start_answering(office, loaded.case, loaded.dossier.model_copy(update={"note": ""}), lane)


def send_answers(office: Office, who: Who, draft_id: str, seen: int | None = None) -> str:
    """Send the answers: they become the next version. Returns the reference; NotReady lists what a point still needs."""
    ready = open_draft(office, who, draft_id)
    need_right(ready.access, "answer")
    if unread := [h for h, reading in ready.known.readings.items() if reading.opens == "being read"]:
        wait_until_read(office, unread)
        ready = open_draft(office, who, draft_id)
    if ready.case is None:
        raise Invalid(say("This is a new filing; it is filed, not sent as an answer."))
    lane = ready.draft.lane
    move = ready.assessment.move("applicant", "send the answers", lane)
    if not move.allowed:
        raise NotReady(move.why_not[0].text, move.why_not[0].place.ref if move.why_not[0].place else "", move.why_not)
    round_no = ready.assessment.rounds_in(lane)[-1].no
    number = ready.history.versions[-1].no + 1
    sealed = seal(Version(no=number, at=office.now(), dossier=ready.dossier))
    expected = ready.draft.revision if seen is None else seen

    def entries(_: Loaded) -> Sequence[Entry]:
        return [
            Answered(
                at=sealed.version.at,
                who=who.signs,
                role="applicant",
                lane=lane,
                round=round_no,
                version=number,
                words=ready.words,
                note=ready.dossier.note,
                dossier_hash=sealed.hash,
            )
        ]

    def finish(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        end_draft(session, ready.draft.owner_id, draft_id, expected, case.id)
        note_use(session, ready.access, "answer ", office.now())
        return made

    act(office, who, ready.case.reference, "", entries, sealed=sealed, finish=finish)
    return ready.case.reference
