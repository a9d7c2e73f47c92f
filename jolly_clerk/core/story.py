"""The line of time: what happened, in words, and what comes next."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.called import NOTHING_CALLED, Called
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.money_entries import way_back
from jolly_clerk.core.owning import told_of
from jolly_clerk.core.permit_story import WHAT_HAPPENS_TO_IT, permit_paper, permit_words
from jolly_clerk.core.public_change import change_words
from jolly_clerk.core.reading_in import read_in_words
from jolly_clerk.core.recording import note_words, recorded_words, thing_words
from jolly_clerk.core.reviewing import REVIEW_WORDS
from jolly_clerk.core.say import _, say
from jolly_clerk.core.states import Holder
from jolly_clerk.core.things import things

Paper = Literal[
    "",
    "filing receipt",
    "answers receipt",
    "payment receipt",
    "letter",
    "acceptance letter",
    "decision",
    "permit",
    "reminder",
    "inquiry",
]


@dataclass(frozen=True, slots=True)
class Moment:
    """Something that happened. ``no`` is the number of its entry; ``paper`` names a PDF that goes with it, ``lane`` where it was,
    ``about`` are the requirements that it was about."""

    no: int
    at: datetime
    text: str
    holder: Holder
    paper: Paper
    inner: bool
    lane: str = ""
    about: tuple[str, ...] = ()


def story(
    entries: Sequence[h.Entry],
    names: Mapping[str, str],
    currency: str,
    today: date,
    lanes: Mapping[str, str] | None = None,
    grants: str = "permit",
    called: Called = NOTHING_CALLED,
) -> tuple[Moment, ...]:
    """Every entry in words, oldest first; ``inner`` moments are the office's alone. ``lanes`` are the titles of lanes by id, ``grants`` is
    what the edition grants, ``called`` what requirements, lines, registers and questions are called."""
    moments = []
    for no, entry in enumerate(entries, 1):
        told = _TOLD.get(entry.what)
        if told is None:
            continue
        text, holder, paper, inner = told(_in_words(entry, called), names.get(entry.who, entry.who), currency, today)
        if isinstance(entry, h.PermitIssued):
            text = say(text, grants=grants, code=entry.code)
        if lane := getattr(entry, "lane", ""):
            text = f"{(lanes or {}).get(lane, lane)}: {text}"
        moments.append(Moment(no, entry.at, text, holder, paper, inner, lane, _about(entry)))
    return tuple(moments)


def since_looked(
    moments: Iterable[Moment], entries: Sequence[h.Entry], who: str, looked_at: datetime | None
) -> tuple[datetime | None, tuple[Moment, ...]]:
    """When somebody looked last, and what others did since. Whoever did something then had the case before the eyes; whoever never
    looked is told nothing, for all of it is new."""
    own = [e.at for e in entries if e.who == who]
    last = max((at for at in (looked_at, *own[-1:]) if at is not None), default=None)
    if last is None:
        return None, ()
    return last, tuple(m for m in moments if m.at > last and entries[m.no - 1].who != who)


def _in_words(entry: h.Entry, called: Called) -> h.Entry:
    """An entry with what it names called as people call it."""
    if isinstance(entry, h.Judged):
        return entry.model_copy(update={"requirement": called.requirement(entry.requirement)})
    if isinstance(entry, (h.FeeSet, h.FeeSettled)):
        return entry.model_copy(update={"line": called.lines.get(entry.line, entry.line)})
    if isinstance(entry, h.RegisterAsked):
        return entry.model_copy(update={"name": called.registers.get(entry.name, entry.name)})
    if isinstance(entry, h.ChangeTaken):
        return entry.model_copy(update={"place": called.place(entry.place)})
    return entry


def _about(entry: h.Entry) -> tuple[str, ...]:
    """The requirements that an entry is about."""
    if isinstance(entry, (h.Judged, h.RequirementAdded)):
        return (entry.requirement,)
    if isinstance(entry, h.PointWorded):
        return tuple(entry.requirement.split("+"))
    if isinstance(entry, (h.LetterSent, h.LetterReplaced)):
        return tuple(id_ for p in entry.points for id_ in (p.requirement, *p.also))
    return ()


def _added_later(entry: h.CameLater, who: str, currency: str, today: date) -> str:
    told = {"who": who, "title": entry.title, "version": entry.version}
    if not entry.due or entry.until is None:
        return say("{who} added later: {title}; version {version}", **told)
    owed = {"amount": money(entry.due, currency), "day": day(entry.until, today)}
    return say("{who} added later: {title}; version {version}; {amount} to be paid until {day}", **told, **owed)


#: the entries that end a case, or a lane, with grounds
_Grounded = h.NotAccepted | h.OutOfScope | h.Lapsed | h.Refused
_Told = tuple[str, Holder, Paper, bool]
_TOLD: dict[str, Callable[[Any, str, str, date], _Told]] = {
    "read in": lambda e, who, c, t: (read_in_words(e, who), "ours", "", False),
    "filed": lambda e, who, c, t: (recorded_words(e, who), "theirs", "filing receipt", False),
    "paid": lambda e, who, c, t: (
        say("{amount} paid by {means}", amount=money(e.amount, c), means=e.means),
        "ours",
        "payment receipt",
        False,
    ),
    "paid back": lambda e, who, c, t: (
        say("{amount} paid back: {because}", amount=money(e.amount, c), because=e.because),
        "ours",
        "",
        False,
    ),
    "refund due": lambda e, who, c, t: (
        say("{amount} comes back: {because}", amount=money(e.amount, c), because=e.because),
        "ours",
        "",
        False,
    ),
    "refund paid": lambda e, who, c, t: (
        say("{amount} left, {way}", amount=money(e.amount, c), way=way_back(e.means, e.account)),
        "ours",
        "",
        False,
    ),
    "body asked": lambda e, who, c, t: (
        say("{who} asked {body}; the answer is due {due}", who=who, body=e.body, due=day(e.due, t)),
        "a third party's",
        "inquiry",
        False,
    ),
    "body answered": lambda e, who, c, t: (
        say("An answer of another body came: {text}", text=_short(e.text))
        if e.text
        else say("The office goes on without the other body"),
        "ours",
        "",
        False,
    ),
    "letter posted": lambda e, who, c, t: (say("{who} ticked that the letter left by post", who=who), "theirs", "", True),
    "posting missed": lambda e, who, c, t: (
        say("Nobody ticked by the end of {day} that the letter left by post", day=day(e.day, t)),
        "theirs",
        "",
        True,
    ),
    "charged back": lambda e, who, c, t: (
        say("{amount} was charged back: {because}", amount=money(e.amount, c), because=e.because)
        if e.because
        else say("{amount} was charged back", amount=money(e.amount, c)),
        "theirs",
        "",
        False,
    ),
    "lapse undone": lambda e, who, c, t: (say("The case goes on: {because}", because=e.because), "ours", "", False),
    "clerical error": lambda e, who, c, t: (
        say(
            "{who} put a clerical error right: “{label}” says {now}, it said {was} ({reason})",
            **{"who": who, "label": e.label, "now": e.now, "was": e.was, "reason": e.reason},
        ),
        "ours",
        "letter",
        False,
    ),
    "closure declared": lambda e, who, c, t: (
        say("The office was shut on {day}: {reason}. Limits are reckoned without it", day=e.shut.said, reason=e.shut.reason),
        "ours",
        "letter" if e.letter_sha256 else "",
        False,
    ),
    "checking began": lambda e, who, c, t: (say("{who} began checking", who=who), "ours", "", False),
    "judged": lambda e, who, c, t: (
        say(
            "{who} judged “{requirement}” {standing}, against the machine",
            who=who,
            requirement=e.requirement,
            standing=say(e.standing),
        )
        + f" ({e.reason}). {e.because}"
        if e.overrules
        else (
            say("{who} judged “{requirement}” {standing}", who=who, requirement=e.requirement, standing=say(e.standing))
            if e.standing
            else say("{who} took the judgement of “{requirement}” back", who=who, requirement=e.requirement)
        )
        + (f" ({e.reason})" if e.reason else "")
        + (say(", looked over with the rest") if e.with_rest else ""),
        "ours",
        "",
        True,
    ),
    "letter sent": lambda e, who, c, t: (
        say("The office asked {count}; answers are due {due}", count=things(len(e.points), "thing"), due=day(e.due, t)),
        "theirs",
        "letter",
        False,
    ),
    "letter returned": lambda e, who, c, t: (
        say("The letter came back undelivered; the clock never stood still"),
        "ours",
        "",
        False,
    ),
    "letter sent again": lambda e, who, c, t: (
        say("The letter went out again; answers are due {due}", due=day(e.due, t)),
        "theirs",
        "letter" if e.letter_sha256 else "",
        False,
    ),
    "letter replaced": lambda e, who, c, t: (
        say(
            "A new letter takes the place of the one before: {count}; answers are due {due}",
            count=things(len(e.points), "thing"),
            due=day(e.due, t),
        ),
        "theirs",
        "letter",
        False,
    ),
    "extended": lambda e, who, c, t: (
        say("More time was given, until {due}", due=day(e.due, t)),
        "theirs",
        "letter" if e.letter_sha256 else "",
        False,
    ),
    "answered": lambda e, who, c, t: (
        say("{who} answered; version {version}", who=who, version=e.version),
        "ours",
        "answers receipt",
        False,
    ),
    "came later": lambda e, who, c, t: (
        say(
            "{title} came from {issuer}, straight to the office; version {version}",
            title=e.title,
            issuer=e.issuer,
            version=e.version,
        )
        if e.issuer
        else _added_later(e, who, c, t),
        "ours",
        "",
        False,
    ),
    "taken out": lambda e, who, c, t: (
        say("{title} was not paid in time and counts as not having come; version {version}", title=e.title, version=e.version),
        "ours",
        "",
        False,
    ),
    "point closed": lambda e, who, c, t: (say("{who} closed point {no}", who=who, no=e.no), "ours", "", True),
    "point asked again": lambda e, who, c, t: (say("{who} asks point {no} again", who=who, no=e.no), "ours", "", True),
    "change taken": lambda e, who, c, t: (
        say("{who} took the change of “{place}” as it is", who=who, place=e.place),
        "ours",
        "",
        True,
    ),
    "accepted": lambda e, who, c, t: (
        _accepted(e, t),
        "ours",
        "acceptance letter",
        False,
    ),
    "points arranged": lambda e, who, c, t: (say("{who} arranged the points", who=who), "ours", "", True),
    "requirement added": lambda e, who, c, t: (say("{who} asks besides: {title}", who=who, title=e.title), "ours", "", True),
    "register asked": lambda e, who, c, t: (_register(e, who), "ours", "", True),
    "fee set": lambda e, who, c, t: (
        _fee_set(e, who, c),
        "ours",
        "",
        True,
    ),
    "fee settled": lambda e, who, c, t: (
        say("{who} confirmed what was set for {line}", who=who, line=e.line)
        if e.confirmed
        else say("{who} did not confirm what was set for {line}", who=who, line=e.line),
        "ours",
        "",
        True,
    ),
    "undone": lambda e, who, c, t: (say("{who} took the last step back", who=who), "ours", "", True),
    "step taken back": lambda e, who, c, t: (_not_left(e, who), "ours", "", True),
    "note written": lambda e, who, c, t: (note_words(e, who), "ours", "", True),
    "message sent": lambda e, who, c, t: (say("{who} wrote: {text}", who=who, text=_short(e.text)), "ours", "", False),
    "fee raised": lambda e, who, c, t: (
        say("{due} is due at filing now: {because}", due=money(e.due, c), because=e.because),
        "theirs",
        "reminder",
        False,
    ),
    "reminded": lambda e, who, c, t: (
        say("A reminder went out; the last day is {due}", due=day(e.due, t)),
        "theirs",
        "reminder",
        False,
    ),
    "taken back": lambda e, who, c, t: (
        say("{who} took the filing back: {reason}", who=who, reason=e.reason),
        "theirs",
        "",
        False,
    ),
    "withdrawn": lambda e, who, c, t: (_ended("Withdrawn", e), "theirs", "decision", False),
    "not accepted": lambda e, who, c, t: (_ended("Not accepted", e), "ours", "decision", False),
    "out of scope": lambda e, who, c, t: (_ended("Out of scope", e), "ours", "decision", False),
    "lapsed": lambda e, who, c, t: (_ended("Lapsed", e), "theirs", "decision", False),
    "assigned": lambda e, who, c, t: (told_of(e, who), "ours", "", True),
    "moved": lambda e, who, c, t: (
        say("{amount} was placed on {reference}", amount=money(e.amount, c), reference=e.to),
        "ours",
        "",
        False,
    ),
    **dict.fromkeys(WHAT_HAPPENS_TO_IT, lambda e, who, c, t: (permit_words(e, who, c, t), "ours", permit_paper(e), False)),
    "public entry changed": lambda e, who, c, t: (change_words(e, who), "ours", "", False),
    "thing came": lambda e, who, c, t: (thing_words(e), "ours", "", False),
    "reopened": lambda e, who, c, t: (say("The case was reopened: {because}", because=e.because), "ours", "", False),
    **REVIEW_WORDS,
    "granted": lambda e, who, c, t: (_ended("Granted", e), "ours", "decision", False),
    "refused": lambda e, who, c, t: (_ended("Refused", e), "ours", "decision", False),
    "permit issued": lambda e, who, c, t: (_("The {grants} was issued, code {code}"), "ours", "permit", False),
}


def _accepted(entry: h.Accepted, today: date) -> str:
    if not entry.completes:
        return "Complete"
    if entry.target is None:
        return say("Accepted as complete; the decision is planned from the day on which what is due now is paid")
    return say("Accepted as complete; the decision is planned by {target}", target=day(entry.target, today))


#: what is ready, by the move that it is
READY: dict[str, str] = {
    "send the letter": _("The letter"),
    "send again": _("The letter, written anew"),
    "replace the letter": _("The letter that takes the place of another"),
    "accept as complete": _("The acceptance"),
    "hand over": _("The hand-over"),
    "do not accept": _("The letter that it is not accepted"),
    "put out of scope": _("The letter that it is out of scope"),
}


def _not_left(entry: h.StepTakenBack, who: str) -> str:
    what = say(READY[entry.move])
    if entry.because:
        return say("{what} did not leave: {because}", what=what, because=entry.because)
    return say("{what} was taken back by {who} before it left", what=what, who=who)


def _fee_set(entry: h.FeeSet, who: str, currency: str) -> str:
    told = {"who": who, "line": entry.line, "reason": entry.reason}
    if entry.waived:
        said = say("{who} waived {line}: {reason}", **told)
    else:
        said = say("{who} set {line} to {amount}: {reason}", **told, amount=money(entry.amount, currency))
    return say("{said}; a second person must confirm", said=said) if entry.needs_second else said


def _ended(word: str, entry: _Grounded) -> str:
    said = say(word)
    return f"{said}: {_short(entry.grounds)}" if entry.grounds else said


def _short(text: str) -> str:
    text = " ".join(text.split())
    return text if len(text) <= 160 else f"{text[:159]}…"


def _register(entry: h.RegisterAsked, who: str) -> str:
    told = entry.trouble or (say("no such entry") if entry.row is None else say("an entry was found"))
    return say("{who} asked the {name} about {key}: {told}", who=who, name=entry.name, key=entry.key, told=told)
