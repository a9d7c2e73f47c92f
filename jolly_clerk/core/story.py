"""The line of time: what happened, in words, and what comes next."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.in_words import day, money, things

Paper = Literal["", "filing receipt", "payment receipt", "letter", "acceptance letter", "decision", "permit", "reminder"]


@dataclass(frozen=True, slots=True)
class Moment:
    """Something that happened. ``no`` is the number of its entry; ``paper`` names a PDF that goes with it, ``lane`` where it was."""

    no: int
    at: datetime
    text: str
    holder: Literal["ours", "theirs"]
    paper: Paper
    inner: bool
    lane: str = ""


def story(
    entries: Sequence[h.Entry], names: Mapping[str, str], currency: str, today: date, lanes: Mapping[str, str] | None = None
) -> tuple[Moment, ...]:
    """Every entry in words, oldest first; ``inner`` moments are the office's alone. ``lanes`` are the titles of lanes by id."""
    moments = []
    for no, entry in enumerate(entries, 1):
        told = _TOLD.get(entry.what)
        if told is None:
            continue
        text, holder, paper, inner = told(entry, names.get(entry.who, entry.who), currency, today)
        if lane := getattr(entry, "lane", ""):
            text = f"{(lanes or {}).get(lane, lane)}: {text}"
        moments.append(Moment(no, entry.at, text, holder, paper, inner, lane))
    return tuple(moments)


#: the entries that end a case, or a lane, with grounds
_Grounded = h.NotAccepted | h.OutOfScope | h.Lapsed | h.Refused
_Told = tuple[str, Literal["ours", "theirs"], Paper, bool]
_TOLD: dict[str, Callable[[Any, str, str, date], _Told]] = {
    "filed": lambda e, who, c, t: (f"Filed by {who}", "theirs", "filing receipt", False),
    "paid": lambda e, who, c, t: (f"{money(e.amount, c)} paid by {e.means}", "ours", "payment receipt", False),
    "paid back": lambda e, who, c, t: (f"{money(e.amount, c)} paid back: {e.because}", "ours", "", False),
    "checking began": lambda e, who, c, t: (f"{who} began checking", "ours", "", False),
    "judged": lambda e, who, c, t: (
        f"{who} judged {e.requirement}: {e.standing or 'taken back'}" + (f" ({e.reason})" if e.reason else ""),
        "ours",
        "",
        True,
    ),
    "letter sent": lambda e, who, c, t: (
        f"The office asked {things(len(e.points), 'thing')}; answers are due {day(e.due, t)}",
        "theirs",
        "letter",
        False,
    ),
    "letter returned": lambda e, who, c, t: ("The letter came back undelivered; the clock never stood still", "ours", "", False),
    "letter sent again": lambda e, who, c, t: (
        f"The letter went out again; answers are due {day(e.due, t)}",
        "theirs",
        "letter" if e.letter_sha256 else "",
        False,
    ),
    "extended": lambda e, who, c, t: (
        f"More time was given, until {day(e.due, t)}",
        "theirs",
        "letter" if e.letter_sha256 else "",
        False,
    ),
    "answered": lambda e, who, c, t: (f"{who} answered; version {e.version}", "ours", "", False),
    "point closed": lambda e, who, c, t: (f"{who} closed point {e.no}", "ours", "", True),
    "point asked again": lambda e, who, c, t: (f"{who} asks point {e.no} again", "ours", "", True),
    "change taken": lambda e, who, c, t: (f"{who} took the change at {e.place}", "ours", "", True),
    "accepted": lambda e, who, c, t: (
        _accepted(e, t),
        "ours",
        "acceptance letter",
        False,
    ),
    "points arranged": lambda e, who, c, t: (f"{who} arranged the points", "ours", "", True),
    "requirement added": lambda e, who, c, t: (f"{who} asks besides: {e.title}", "ours", "", True),
    "register asked": lambda e, who, c, t: (_register(e, who), "ours", "", True),
    "fee set": lambda e, who, c, t: (
        f"{who} {'waived' if e.waived else 'set'} {e.line}{'' if e.waived else ' to ' + money(e.amount, c)}: {e.reason}"
        + ("; a second person must confirm" if e.needs_second else ""),
        "ours",
        "",
        True,
    ),
    "fee settled": lambda e, who, c, t: (
        f"{who} {'confirmed' if e.confirmed else 'did not confirm'} what was set for {e.line}",
        "ours",
        "",
        True,
    ),
    "undone": lambda e, who, c, t: (f"{who} took the last step back", "ours", "", True),
    "note written": lambda e, who, c, t: (f"{who} noted: {e.text}", "ours", "", True),
    "message sent": lambda e, who, c, t: (f"{who} wrote: {_short(e.text)}", "ours", "", False),
    "fee raised": lambda e, who, c, t: (f"{money(e.due, c)} is due at filing now: {e.because}", "theirs", "reminder", False),
    "reminded": lambda e, who, c, t: (f"A reminder went out; the last day is {day(e.due, t)}", "theirs", "reminder", False),
    "taken back": lambda e, who, c, t: (f"{who} took the filing back: {e.reason}", "theirs", "", False),
    "withdrawn": lambda e, who, c, t: (_ended("Withdrawn", e), "theirs", "decision", False),
    "not accepted": lambda e, who, c, t: (_ended("Not accepted", e), "ours", "decision", False),
    "out of scope": lambda e, who, c, t: (_ended("Out of scope", e), "ours", "decision", False),
    "lapsed": lambda e, who, c, t: (_ended("Lapsed", e), "theirs", "decision", False),
    "handed over": lambda e, who, c, t: (f"{who} handed the case over to a reviewer", "ours", "", False),
    "granted": lambda e, who, c, t: (_ended("Granted", e), "ours", "decision", False),
    "refused": lambda e, who, c, t: (_ended("Refused", e), "ours", "decision", False),
    "permit issued": lambda e, who, c, t: (f"The permit was issued, code {e.code}", "ours", "permit", False),
}


def _accepted(entry: h.Accepted, today: date) -> str:
    if not entry.completes:
        return "Complete"
    if entry.target is None:
        return "Accepted as complete; the decision is planned from the day on which what is due now is paid"
    return f"Accepted as complete; the decision is planned by {day(entry.target, today)}"


def _ended(word: str, entry: _Grounded) -> str:
    return f"{word}: {_short(entry.grounds)}" if entry.grounds else word


def _short(text: str) -> str:
    text = " ".join(text.split())
    return text if len(text) <= 160 else f"{text[:159]}…"


def _register(entry: h.RegisterAsked, who: str) -> str:
    told = entry.trouble or ("no such entry" if entry.row is None else "an entry was found")
    return f"{who} asked the register {entry.name} about {entry.key}: {told}"
