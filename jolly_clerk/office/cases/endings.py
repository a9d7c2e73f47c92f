"""How a case ends before a decision, or goes back: taken back, withdrawn, not accepted, out of scope, lapsed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.fees.account import Ending, Refund
from jolly_clerk.core.in_words import money
from jolly_clerk.core.moves import MoveName
from jolly_clerk.core.say import _, say
from jolly_clerk.office.cases.casework import Loaded, act, check_seen, load_case, permit
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.office.preparing.drafts import start_answering
from jolly_clerk.office.preparing.revisions import forget_changes
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Draft

CLOCK = Who("clock", _("The clock of the office"), "clock")
#: the texts of the rulebook with which an ending is told
LETTERS_OF: dict[Ending, str] = {
    "withdrawn": "withdrawn",
    "not accepted": "not_accepted",
    "out of scope": "out_of_scope",
    "lapsed": "lapsed",
}


def refund_of(loaded: Loaded, ending: Ending) -> Refund:
    """What comes back if the case ends now in this way."""
    return next(r for r in loaded.assessment.refunds if r.ending == ending)


def refund_told(loaded: Loaded, ending: Ending) -> str:
    """What comes back if the case ends now in this way, in words."""
    total = refund_of(loaded, ending).total
    return money(total, loaded.rulebook.edition.currency) if total else say("Nothing")


def words_of(text: str, what: str, least: int = 3) -> str:
    """A reason that a person gave; Invalid if there is none."""
    if len(text.strip()) < least:
        raise Invalid(say("Say in a few words {what}.", what=what))
    return text.strip()[:4000]


def take_back(office: Office, who: Who, reference: str, reason: str, seen: int | None = None) -> str:
    """Take a filing back before checking began: a draft again, the money stays on the account. Returns the draft's id."""
    reason = words_of(reason, say("why you take it back"))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.TakenBack(at=office.now(), who=who.signs, role=who.role, reason=reason)]

    done = act(office, who, reference, "take back", entries, seen)
    return start_answering(office, done.case, done.dossier)


def withdraw(office: Office, who: Who, reference: str, reason: str = "", seen: int | None = None) -> Loaded:
    """Withdraw an application; what comes back by the rules is paid back in the same write."""
    done = _end(office, who, reference, "withdrawn", h.Withdrawn, reason.strip()[:4000], "withdraw", seen)
    with write_session(
        office.engine
    ) as session:  # a draft of answers, or of one that was taken back, has nothing to go to any more
        for draft in session.query(Draft).where(Draft.case_id == done.case.id):
            forget_changes(session, draft.id)
            session.delete(draft)
    return done


def do_not_accept(office: Office, who: Who, reference: str, grounds: str, seen: int | None = None, lane: str = "") -> Loaded:
    """Do not accept an application, or one lane of it, with grounds."""
    grounds = words_of(grounds, say("on which grounds it is not accepted"))
    if lane:
        loaded = load_case(office, who, reference)
        check_seen(office, loaded, who, seen)
        permit(loaded, who, "do not accept", lane)
        return _end_lane(office, who, loaded, lane, h.NotAccepted, grounds, "do not accept")
    return _end(office, who, reference, "not accepted", h.NotAccepted, grounds, "do not accept", seen)


def put_out_of_scope(office: Office, who: Who, reference: str, grounds: str, seen: int | None = None) -> Loaded:
    """An application that does not belong here: all but a small fee is paid back."""
    grounds = words_of(grounds, say("where it belongs"))
    return _end(office, who, reference, "out of scope", h.OutOfScope, grounds, "put out of scope", seen)


def lapse(office: Office, loaded: Loaded, step: Any, grounds: str, lane: str = "") -> Loaded:
    """The clock job's word that the applicant's time has run out, in the whole case or in one lane."""

    def made(**told: Any) -> h.Entry:
        return h.Lapsed(**told, step=step)

    if lane:
        return _end_lane(office, CLOCK, loaded, lane, made, grounds, "")
    return _end(office, CLOCK, loaded.case.reference, "lapsed", made, grounds, "", loaded.entries)


def _end_lane(
    office: Office, who: Who, loaded: Loaded, lane: str, made: Callable[..., h.Entry], grounds: str, move: MoveName | Literal[""]
) -> Loaded:
    """Close the lane of one site; the others go on, and no money moves."""
    sha256 = office.vault.put(plain_letter(office, loaded, "lane_ended", who, lane, grounds=grounds))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [made(at=office.now(), who=who.signs, role=who.role, lane=lane, grounds=grounds, letter_sha256=sha256)]

    key = f"{loaded.case.reference}-lane-ended-{lane}"
    return act_and_tell(office, who, loaded, move, entries, "lane_ended", sha256, key, lane=lane)


def _end(
    office: Office,
    who: Who,
    reference: str,
    ending: Ending,
    made: Callable[..., h.Entry],
    grounds: str,
    move: MoveName | Literal[""],
    seen: int | None = None,
) -> Loaded:
    """End a case: what comes back by the rules is paid back in the same write, and the letter goes out."""
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    if move:
        permit(loaded, who, move)
    told = {"grounds": grounds, "refund": refund_told(loaded, ending)}
    name = LETTERS_OF[ending]
    sha256 = office.vault.put(plain_letter(office, loaded, name, who, **told))

    def entries(now: Loaded) -> Sequence[h.Entry]:
        at, back = office.now(), refund_of(now, ending)
        whole: list[h.Entry] = []
        if back.total:
            whole.append(
                h.RefundDue(
                    at=at,
                    who=who.signs,
                    role=who.role,
                    amount=back.total,
                    because=say("the application is {ending}", ending=ending),
                    key=f"{reference}-{ending}",
                    prepaid=back.prepaid,
                )
            )
        return [*whole, made(at=at, who=who.signs, role=who.role, grounds=grounds, letter_sha256=sha256)]

    return act_and_tell(office, who, loaded, move, entries, name, sha256)
