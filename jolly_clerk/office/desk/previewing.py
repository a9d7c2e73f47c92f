"""The letter of a step before it is taken: as it would go out now, and nothing is written."""

from __future__ import annotations

from jolly_clerk.core.foreseen import ENDS
from jolly_clerk.core.moves import MoveName
from jolly_clerk.core.say import say
from jolly_clerk.core.whose import whose
from jolly_clerk.office.cases.casework import load_case, permit
from jolly_clerk.office.cases.endings import LETTERS_OF, refund_told
from jolly_clerk.office.desk.checking import acceptance_if_now
from jolly_clerk.office.errors import NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.papers import plain_letter


def preview_step(office: Office, who: Who, reference: str, move: MoveName, lane: str = "", grounds: str = "") -> bytes:
    """The letter with which a step would be told if it were taken now, as PDF.

    Raises NotAllowed or NotReady as the step itself would, NotFound for a step that has no letter of its own.
    """
    loaded = load_case(office, who, reference)
    if not who.is_officer:
        raise NotAllowed(whose(move))
    permit(loaded, who, move, lane)
    if move == "accept as complete":
        return acceptance_if_now(office, who, loaded, lane)[0]
    if move not in ENDS:
        raise NotFound(say("This step has no letter of its own."))
    if lane:
        return plain_letter(office, loaded, "lane_ended", who, lane, grounds=grounds)
    ending = ENDS[move]
    return plain_letter(office, loaded, LETTERS_OF[ending], who, grounds=grounds, refund=refund_told(loaded, ending))
