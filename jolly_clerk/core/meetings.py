"""A case before a meeting: put on its agenda, taken off it, and what was minuted. Where the pathway has a meeting nobody decides before it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import TYPE_CHECKING, Any, Final, Literal, get_args

from pydantic import AwareDatetime

from jolly_clerk.core.happened import Happened
from jolly_clerk.core.in_words import day
from jolly_clerk.core.rulebook.routes import Meeting
from jolly_clerk.core.say import _, say
from jolly_clerk.core.states import Holder
from jolly_clerk.core.time.calendar import Calendar

if TYPE_CHECKING:
    from jolly_clerk.core.lifecycle import CaseSoFar
    from jolly_clerk.core.rulebook.compiled import Rulebook

#: what a meeting can come to in a case
Result = Literal["in favour", "against", "put off"]
RESULTS: Final[tuple[Result, ...]] = get_args(Result)
#: the same, so that the catalogues know them
_SAID = (_("in favour"), _("against"), _("put off"))


class PutOnAgenda(Happened):
    """The case was put on the agenda of a meeting: the id of the meeting, who meets (its id and its title), the day and the hour."""

    what: Literal["put on an agenda"] = "put on an agenda"
    meeting: str
    body: str
    title: str
    on: date
    begins: AwareDatetime


class TakenOffAgenda(Happened):
    """The case is not on the agenda of a meeting any more: it was put on another one, or the meeting was called off."""

    what: Literal["taken off an agenda"] = "taken off an agenda"
    meeting: str
    title: str
    on: date
    because: str = ""


class Minuted(Happened):
    """What a meeting came to in the case, in a result and in the words of the minutes. Minuted once more, the later one counts."""

    what: Literal["minuted"] = "minuted"
    meeting: str
    title: str
    on: date
    result: Result
    words: str = ""


MeetingEntry = PutOnAgenda | TakenOffAgenda | Minuted


@dataclass(frozen=True, slots=True)
class Tabled:
    """A case on an agenda, and what was minuted. ``off`` tells that it was taken off, ``over`` that it counts no more since the case went
    back to the officers."""

    put: PutOnAgenda
    minuted: Minuted | None = None
    off: bool = False
    over: bool = False


def fold_put(case: CaseSoFar, entry: PutOnAgenda) -> None:
    """The case is on an agenda."""
    case.agendas = (*case.agendas, Tabled(entry))


def fold_off(case: CaseSoFar, entry: TakenOffAgenda) -> None:
    """It is not on that agenda any more."""
    _change(case, entry.meeting, lambda one: replace(one, off=True))


def fold_minuted(case: CaseSoFar, entry: Minuted) -> None:
    """The meeting looked at it."""
    _change(case, entry.meeting, lambda one: replace(one, minuted=entry))


def fold_over(case: CaseSoFar) -> None:
    """What meetings said counts no more: the case is not what they saw, or it is with another office."""
    case.agendas = tuple(replace(one, over=True) for one in case.agendas)


def _change(case: CaseSoFar, meeting: str, to: Callable[[Tabled], Tabled]) -> None:
    last = max((n for n, one in enumerate(case.agendas) if one.put.meeting == meeting), default=-1)
    case.agendas = tuple(to(one) if n == last else one for n, one in enumerate(case.agendas))


def now_on(case: CaseSoFar) -> Tabled | None:
    """The agenda on which the case is, or the last on which it was and that counts; None if there is none."""
    return next((one for one in reversed(case.agendas) if not one.off and not one.over), None)


def results_by_meeting(rulebook: Rulebook, case: CaseSoFar) -> dict[str, str]:
    """What each meeting on whose agenda a case is came to (nothing: it is to meet), by the meeting's id; with no id where the case waits for
    an agenda."""
    live = case.state == "Under review"
    found = {
        one.put.meeting: one.minuted.result if one.minuted else ""
        for one in case.agendas
        if not one.off and (one.minuted or (live and not one.over))
    }
    return {**found, "": ""} if waits_for(rulebook, case) else found


def meeting_of(rulebook: Rulebook, case: CaseSoFar) -> Meeting | None:
    """The meeting of the pathway on which the case was accepted; None if it has none."""
    return meeting_on(rulebook, case.accepted.pathway if case.accepted else "")


def meeting_on(rulebook: Rulebook, pathway: str) -> Meeting | None:
    """The meeting of a pathway by its id; None if it has none."""
    return next((p.pathway.meeting for p in rulebook.pathways if p.pathway.id == pathway), None)


def waits_for(rulebook: Rulebook, case: CaseSoFar) -> Meeting | None:
    """The meeting for whose agenda a case under review still waits: it is on none, or was put off."""
    meeting = meeting_of(rulebook, case) if case.state == "Under review" else None
    at = now_on(case)
    return meeting if meeting and (at is None or (at.minuted is not None and at.minuted.result == "put off")) else None


def why_not_before_meeting(rulebook: Rulebook, case: CaseSoFar, grants: bool) -> Iterator[str]:
    """What of its meeting keeps a case from being granted (``grants``) or refused: it did not look at it, or came to something else."""
    if case.state != "Under review" or (meeting := meeting_of(rulebook, case)) is None:
        return
    at = now_on(case)
    if at is None or waits_for(rulebook, case):
        yield say(
            "{title} looks at it first (art. {article}): put it on an agenda.", title=meeting.title, article=meeting.article
        )
    elif at.minuted is None:
        yield say(
            "It is on the agenda of {title} on {day}; what comes of it has to be minuted first.",
            title=at.put.title,
            day=day(at.put.on),
        )
    elif grants != (at.minuted.result == "in favour"):
        yield say("{title}, {day}: {result}.", title=at.put.title, result=say(at.minuted.result), day=day(at.put.on))


def why_not_put(rulebook: Rulebook, case: CaseSoFar) -> Iterator[str]:
    """What keeps a case from every agenda."""
    if meeting_of(rulebook, case) is None:
        yield say("No meeting looks at cases of this pathway.")


def why_not_minute(case: CaseSoFar) -> Iterator[str]:
    """What keeps everybody from minuting a result."""
    if now_on(case) is None:
        yield say("It is on no agenda.")


def why_not_minute_yet(at: Tabled, now: datetime) -> str:
    """Why nothing is minuted at ``now``: the meeting has not begun. Nothing if it has."""
    return say("The meeting has not begun yet.") if now < at.put.begins else ""


def closes_on(meeting: Meeting, on: date, calendar: Calendar) -> date:
    """The last day on which a case is put on the agenda of a meeting on a day."""
    return meeting.closes.before(on, calendar) if meeting.closes else on


def why_not_on(meeting: Meeting, begins: datetime, calendar: Calendar, now: datetime) -> str:
    """Why a case is not put on the agenda of a meeting that begins then; nothing if it can be."""
    if begins <= now:
        return say("This meeting has begun already.")
    closed = closes_on(meeting, calendar.local_day(begins), calendar)
    if calendar.local_day(now) > closed:
        return say(
            "The agenda was closed on {day}, {closes} before the meeting (art. {article}).",
            day=day(closed),
            closes=meeting.closes,
            article=meeting.article,
        )
    return ""


FOLD_MEETING: Final[dict[str, Callable[[CaseSoFar, Any], None]]] = {
    "put on an agenda": fold_put,
    "taken off an agenda": fold_off,
    "minuted": fold_minuted,
}


def next_of_meeting(rulebook: Rulebook, case: CaseSoFar) -> str:
    """The next thing to do with a case under review as far as its meeting goes; nothing if there is nothing."""
    if (meeting := waits_for(rulebook, case)) is not None:
        return say("Put it on an agenda: {title}", title=meeting.title)
    at = now_on(case)
    if meeting_of(rulebook, case) is None or at is None:
        return ""
    if at.minuted is None:
        return say("{title} meets on {day}", title=at.put.title, day=day(at.put.on))
    return say("Decide. {title}: {result}", title=at.put.title, result=say(at.minuted.result))


def next_for_applicant(rulebook: Rulebook, case: CaseSoFar) -> str:
    """What an applicant waits for as far as the meeting goes; nothing once it has met, or where there is none."""
    if (meeting := waits_for(rulebook, case)) is not None:
        return say("Nothing to do: {title} looks at it first", title=meeting.title)
    at = now_on(case)
    if case.state != "Under review" or at is None or at.minuted is not None:
        return ""
    return say("Nothing to do: {title} meets on {day}", title=at.put.title, day=day(at.put.on))


def _put_words(e: PutOnAgenda, who: str) -> str:
    return say("{who} put it on the agenda of {day}: {title}", who=who, day=day(e.on), title=e.title)


def _off_words(e: TakenOffAgenda, who: str) -> str:
    if not e.because:
        return say("{who} took it off the agenda of {day}: {title}", who=who, day=day(e.on), title=e.title)
    values = {"who": who, "day": day(e.on), "title": e.title, "because": e.because}
    return say("{who} took it off the agenda of {day} ({title}): {because}", **values)


def _minuted_words(e: Minuted, who: str) -> str:
    values = {"who": who, "day": day(e.on), "title": e.title, "result": say(e.result)}
    if e.words:
        return say("{who} minuted: {title}, {day}: {result}. {words}", **values, words=e.words)
    return say("{who} minuted: {title}, {day}: {result}", **values)


#: what happens before a meeting in words, with whose time runs, its paper, and whether it is the office's alone
MEETING_WORDS: Final[dict[str, Callable[[Any, str, str, date], tuple[str, Holder, Literal["", "letter"], bool]]]] = {
    "put on an agenda": lambda e, who, c, t: (_put_words(e, who), "ours", "", False),
    "taken off an agenda": lambda e, who, c, t: (_off_words(e, who), "ours", "", False),
    "minuted": lambda e, who, c, t: (_minuted_words(e, who), "ours", "", e.result != "put off"),
}
