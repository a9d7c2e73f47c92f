"""The next thing to do, in words: for the office and for the applicant, in a case or in one lane of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from jolly_clerk.core.clock import holds_it
from jolly_clerk.core.fees.account import open_amount
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.in_words import money
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.meetings import next_for_applicant, next_of_meeting
from jolly_clerk.core.say import say
from jolly_clerk.core.states import CHECKING, STATES
from jolly_clerk.core.things import things

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment
    from jolly_clerk.core.lanes import LaneAtHand

Side = Literal["officer", "applicant"]


def first_lane(assessment: Assessment, side: Side) -> LaneAtHand | None:
    """The lane whose limit is nearest among those that wait for a side; None if none does, or there are no lanes."""
    mine = CHECKING if side == "officer" else ("Answers wanted",)
    lanes = assessment.lanes_at_hand.values() if assessment.lane_ids else ()
    waiting = [lane for lane in lanes if lane.case.state in mine and lane.limit_at]
    return min(waiting, key=lambda lane: lane.limit_at or assessment.now) if waiting else None


def next_step(assessment: Assessment, side: Side) -> str:
    """What comes next for a side; in a case with lanes in the one that waits for it with the nearest limit."""
    tell = next_officer if side == "officer" else next_applicant
    first = first_lane(assessment, side)
    if first is None:
        return tell(assessment.case, assessment.lanes_at_hand[""])
    return f"{first.title}: {tell(first.case, first)}"


def next_officer(case: CaseSoFar, lane: LaneAtHand) -> str:
    """The next thing to do in a lane, or in a case as its common lane has it."""
    if lane.whole.lane_ids and case is lane.case and case.accepted and not case.ended:
        return say("Nothing: this part is complete")
    found, latest, points = lane.requirements, lane.rounds[-1] if lane.rounds else None, lane.points
    if (open_round := case.open_round) is not None and open_round.posting_missed and not case.ended:
        return say("The letter of {day} is not ticked as posted", day=said_day(open_round.posting_missed))
    if (body := holds_it(case)) is not None and not case.ended:
        return say("An answer of {body}", body=body.asked.body)
    if case.state == "Filed":
        files = sum(len(r.files) for r in found if r.kind == "document")
        return say("Begin checking, {files} read", files=things(files, "file"))
    if STATES[case.state].checking:
        if case.fees_waiting:
            return say("Second person: a fee set by hand, {fees_waiting}", fees_waiting=", ".join(case.fees_waiting))
        finished = not any(r.stands_open for r in found)
        if finished and any(m.allowed and m.move == "accept as complete" for m in lane.moves):
            return say("Accept: all met, paid")
        waiting = [p for p in (latest.points if latest and latest.answered_at else ()) if p.state == "answered"]
        if waiting:
            fresh = sum(1 for p in waiting for c in p.changes if c.kind.startswith("file"))
            read = say("Read {count}", count=things(len(waiting), "answer"))
            return f"{read}, {things(fresh, 'new file')}" if fresh else read
        unjudged = [r for r in found if r.asked and not r.judged]
        if unjudged:
            return say("Judge {count}, next: {apart}", count=len(unjudged), apart=_apart(unjudged[0].title, lane))
        if points:
            return say("Send the letter, {count}", count=things(len(points), "point"))
        doubt = next((r for r in found if r.standing == "in doubt"), None)
        return say("Settle the doubt: {apart}", apart=_apart(doubt.title, lane)) if doubt else say("See what stops acceptance")
    if case.state == "Answers wanted":
        return say("Answers to {count}", count=things(len(latest.points), "point")) if latest else ""
    if case.state == "Complete" and not case.check_covered_at:
        return say("Payment of what fell due after the check")
    if case.state == "Under review" and (meets := next_of_meeting(lane.whole.rulebook, case)):
        return meets
    if case.state == "Granted" and not case.issued:
        return say("Payment of what is due at issue")
    return say(STATES[case.state].officer, **_granted(lane))


def _granted(lane: LaneAtHand) -> dict[str, str]:
    """What the edition grants, for the middle and for the head of a sentence."""
    grants = lane.whole.rulebook.edition.grants
    return {"grants": grants, "Grants": grants[0].upper() + grants[1:]}


def _apart(title: str, lane: LaneAtHand) -> str:
    """The title of a requirement without the name of the lane it stands in."""
    return title.removesuffix(f": {lane.title}") if lane.id else title


def next_applicant(case: CaseSoFar, lane: LaneAtHand) -> str:
    """The next thing for the applicant to do."""
    latest, fees = lane.rounds[-1] if lane.rounds else None, lane.whole.fees
    if case.state == "Draft" and case.taken_back:
        return say("Taken back: mend it and file again")
    if case.state == "Draft":
        left = len(lane.whole.left)
        return (
            say("{count} left before it is complete", count=things(left, "thing"))
            if left
            else say("Ready to be read over and filed")
        )
    missing = open_amount(case, fees, lane.whole.debts)
    if missing:
        return say("Pay {missing}", missing=money(missing, fees.currency))
    if (body := holds_it(case)) is not None and not case.ended:
        return say("Nothing to do: {body} has been asked", body=body.asked.body)
    if case.state == "Answers wanted" and latest:
        return say("Answer {count}", count=things(len(latest.points), "point"))
    if meets := next_for_applicant(lane.whole.rulebook, case):
        return meets
    return say(STATES[case.state].applicant, **_granted(lane))
