"""What a permit says, its days and how it stands. *Permit* is the word of this program for whatever an edition grants.

It says the answers that the rulebook puts on it, those of repeats one by one, and of lanes only those that are complete.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import day as in_day
from jolly_clerk.core.lifecycle import CaseSoFar, in_lane
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.model import Question
from jolly_clerk.core.rulebook.steps import Does, PermitState
from jolly_clerk.core.say import _, say
from jolly_clerk.core.states import Tone
from jolly_clerk.core.time.calendar import Calendar


def label_of(question: Question) -> str:
    """What an answer is called where others read it: on what was granted, and in the public register."""
    return question.stands_as or question.ask


def permit_says(sheet: Sheet, case: CaseSoFar, public_only: bool = False) -> Iterator[tuple[str, str]]:
    """Each answer that stands on the permit, with its label and in words; ``public_only`` leaves out what is not open to everybody.

    What steps on the permit said since stands in the place of the answer that is called so, else after them.
    """
    rulebook = sheet.rulebook
    said = {title: words for step in case.permit.steps if step.does in LASTING for title, words in step.said.items()}
    for node in rulebook.questions.values():
        if not (node.question.public or (node.question.on_permit and not public_only)):
            continue
        for place in sheet.places_of(node):
            lane = rulebook.lane_of(place)
            own = in_lane(case, lane)
            if lane and (own.accepted is None or (own.ended is not None and case.ended is not own.ended)):
                continue  # a site that was not complete is not part of what is granted
            told = said_answer(rulebook, place, sheet.raw.get(place))
            if told:
                label = label_of(node.question)
                if node.part.each:
                    label = f"{rulebook.one(node.part.id)} {place.split('.')[1]}, {label}"
                yield label, said.pop(label, told)
    if not public_only:
        yield from said.items()


What = Literal["starts", "begin", "finish", "ends"]
#: the states, so that the catalogues know them
_STATES = (_("not yet in force"), _("in force"), _("finished"), _("expired"), _("cancelled"), _("transferred"))
#: the colour of each state
TONES: dict[PermitState, Tone] = {
    "not yet in force": "petrol", "in force": "moss", "changed until": "brass", "finished": "moss", "expired": "slate",
    "cancelled": "madder", "transferred": "petrol",
}  # fmt: skip
#: the reports after which a day is no longer waited for
_REPORTS: dict[What, Does] = {"begin": "begun", "finish": "finished"}
#: what these steps say stands on the permit for good
LASTING = ("changes", "transfers", "extends")
_TITLES: dict[What, str] = {
    "starts": _("In force from"),
    "begin": _("To be begun by"),
    "finish": _("To be finished by"),
    "ends": _("In force until"),
}


@dataclass(frozen=True, slots=True)
class PermitDay:
    """A day of what was granted: which, in words, and by which article."""

    what: What
    title: str
    day: date
    article: str


@dataclass(frozen=True, slots=True)
class PermitView:
    """How what was granted stands, also in words, and its days in their order.

    A day to begin or to finish that passes ends nothing by itself; it is *expired* after the last day that the document states, as
    steps moved it.
    """

    state: PermitState
    days: tuple[PermitDay, ...]
    says: str

    def day(self, what: What) -> date | None:
        """A day of it by its name."""
        return next((d.day for d in self.days if d.what == what), None)


def permit_view(sheet: Sheet, case: CaseSoFar, calendar: Calendar, today: date, assumed: date | None = None) -> PermitView | None:
    """The permit of a case; None before it is issued, unless a day of issue is ``assumed`` (for the document itself)."""
    issued = calendar.local_day(case.issued.at) if case.issued else assumed
    if issued is None or (case.granted is None and assumed is None):
        return None
    said, periods = sheet.rulebook.edition.after_grant, sheet.rulebook.periods
    found: list[PermitDay] = []
    if said is not None:
        for what, on, rule in (("starts", said.starts, periods.starts), ("ends", said.ends, periods.ends)):
            day = _day(rule, sheet)
            if on and day:
                found.append(PermitDay(what, say(_TITLES[what]), day, on.article))  # type: ignore[arg-type, index]
        for what, within in (("begin", said.begin), ("finish", said.finish)):
            if within:
                last = within.within.last_day(issued, calendar)
                found.append(PermitDay(what, say(_TITLES[what]), last, within.article))  # type: ignore[arg-type, index]
    moved: dict[What, date] = {what: day for step in case.permit.did("extends") for what, day in step.days.items()}
    reported = {what for what, does in _REPORTS.items() if any(case.permit.did(does))}
    found = [replace(d, day=moved.get(d.what, d.day)) for d in found if d.what not in reported]
    days = {d.what: d.day for d in found}
    state = state_on(today, days.get("starts", issued), days.get("ends"))
    state, until = _stepped(case, state, today)
    says = say("changed until {day}", day=in_day(until)) if until else say(state)
    return PermitView(state, tuple(sorted(found, key=lambda d: d.day)), says)


def state_on(today: date, starts: date, ends: date | None) -> PermitState:
    """How what was granted stands on a day, by its days alone."""
    if today < starts:
        return "not yet in force"
    return "expired" if ends is not None and today > ends else "in force"


def _stepped(case: CaseSoFar, state: PermitState, today: date) -> tuple[PermitState, date | None]:
    """The state as the steps on it leave it, and until when it is changed: what ended it goes before what changed it."""
    permit = case.permit
    if any(step.starts <= today for step in permit.did("ends")):
        return "cancelled", None
    if any(permit.did("finished")):
        return "finished", None
    if state != "in force":
        return state, None
    running = [step.until for step in permit.did("changes for a time") if step.until and step.starts <= today <= step.until]
    if running:
        return "changed until", max(running)
    if any(step.starts <= today for step in permit.did("transfers")):
        return "transferred", None
    return state, None


def _day(rule: Expression | None, sheet: Sheet) -> date | None:
    value = rule.value(sheet.values) if rule else None
    return value if isinstance(value, date) and not is_absent(value) else None
