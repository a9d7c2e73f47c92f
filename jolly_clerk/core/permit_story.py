"""What happens to a permit, in words for the line of time."""

from __future__ import annotations

from datetime import date
from typing import Literal

from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.permit_entries import WHAT_HAPPENS_TO_IT as WHAT_HAPPENS_TO_IT
from jolly_clerk.core.permit_entries import (
    InspectionBooked,
    InspectionDropped,
    InspectionHeld,
    PermitEntry,
    PermitStep,
    PermitTakenOver,
)
from jolly_clerk.core.say import _, say

#: the days that an extension moves, in words
_MOVED = {"begin": _("to be begun by {day}"), "finish": _("to be finished by {day}"), "ends": _("in force until {day}")}


def permit_words(entry: PermitEntry, who: str, currency: str, today: date) -> str:
    """What happened to a permit, in words; ``today`` leaves the year out where it is this one."""
    if isinstance(entry, PermitStep):
        return say("{title} ({reference}): {what}", title=entry.called, reference=entry.reference, what=step_words(entry, today))
    if isinstance(entry, PermitTakenOver):
        return say("{who} accepted it ({reference}) and holds it from now on", who=who, reference=entry.reference)
    told = {"who": who, "no": entry.no}
    if isinstance(entry, InspectionDropped):
        return say("{who} gave up inspection {no}", **told)
    if isinstance(entry, InspectionBooked):
        told |= {"title": entry.title, "day": day(entry.on, today), "hours": entry.hours}
        said = (
            say("{who} moved inspection {no}, {title}, to {day}, {hours}", **told)
            if entry.moved
            else say("{who} booked inspection {no}, {title}, for {day}, {hours}", **told)
        )
        return say("{said}; {amount} is due", said=said, amount=money(entry.fee, currency)) if entry.fee else said
    return _result(entry, today)


def permit_paper(entry: PermitEntry) -> Literal["", "permit"]:
    """The paper that goes with an entry: that of a new document."""
    return "permit" if isinstance(entry, PermitStep) and entry.code else ""


def _result(entry: InspectionHeld, today: date) -> str:
    told = {"no": entry.no, "words": entry.words, "n": len(entry.photographs)}
    if entry.passed:
        said = say("Inspection {no} was passed: {words}", **told) if entry.words else say("Inspection {no} was passed", **told)
    else:
        said = say("Inspection {no} was not passed: {words}", **told)
    if entry.again:
        said = say("{said} Again by {day}.", said=said if said.endswith(".") else f"{said}.", day=day(entry.again, today))
    return said


def step_words(entry: PermitStep, today: date) -> str:
    """What a step does, in a few words."""
    starts = day(entry.starts, today)
    says = "; ".join(f"{title}: {words}" for title, words in entry.said.items())
    if entry.does == "changes for a time" and entry.until:
        return say("{says}, from {starts} until {until}", says=says, starts=starts, until=day(entry.until, today))
    if entry.does == "extends":
        told = [say(_MOVED[what], day=day(to, today)) for what, to in entry.days.items()]
        return ", ".join([*told, *([says] if says else [])])
    if entry.does == "ends":
        return say("not in force any more from {starts}", starts=starts)
    if entry.does == "replaces":
        return say("a new document; the one before counts no more from {starts}", starts=starts)
    if entry.does == "begun":
        return say("begun on {starts}", starts=starts)
    if entry.does == "finished":
        return say("finished on {starts}", starts=starts)
    return say("{says}, from {starts}", says=says, starts=starts) if says else say("from {starts}", starts=starts)
