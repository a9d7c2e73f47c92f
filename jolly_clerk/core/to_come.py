"""What comes next, and when: reminders, limits, the decision."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime

from jolly_clerk.core.additions import unpaid
from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.clock import ClockView, reminders
from jolly_clerk.core.fees.debts import Debt
from jolly_clerk.core.in_words import money
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.model import Clock
from jolly_clerk.core.say import say
from jolly_clerk.core.states import LIVE
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import Calendar


@dataclass(frozen=True, slots=True)
class NextStep:
    """Something that comes: on a day, or so many working days after the case is back with the office. ``ask`` is what one may ask
    for before."""

    day: date | None
    after: str
    text: str
    ask: str = ""


def steps_to_come(a: Assessment) -> tuple[NextStep, ...]:
    """What comes next; in a case with open lanes that of each of them, soonest first, and then the decision."""
    rules, calendar = a.clock_rules, a.known.calendar
    whole = next_steps(a.common, rules, a.clock, calendar, a.now)
    owed = [NextStep(d.due, "", _owed(d, a.rulebook.edition.currency)) for d in a.debts if a.case.filed and d.due and d.open]
    currency = a.rulebook.edition.currency
    owed += [
        NextStep(
            one.until,
            "",
            say("Last day to pay {amount} for what came later: {title}", amount=money(one.due, currency), title=one.title),
        )
        for one in unpaid(a)
    ]
    if owed:
        days = [*owed, *(step for step in whole if step.day)]
        whole = (*sorted(days, key=lambda step: str(step.day)), *(step for step in whole if not step.day))
    if not a.clock_of:
        return (*_from_others(a), *whole)
    made: list[NextStep] = []
    for lane in a.lanes_at_hand.values():
        steps = next_steps(lane.case, rules, lane.clock, calendar, a.now)
        made += [replace(step, text=f"{lane.title}: {step.text}") for step in steps if step.day]
    later = [s for s in whole[-1:] if s.day is None]
    return (*_from_others(a), *sorted(made, key=lambda s: str(s.day)), *later)


def _from_others(a: Assessment) -> Iterator[NextStep]:
    """What a third party has still to send straight to the office: who is asked for it, and by whom."""
    if a.case.filed is None or a.case.accepted or a.case.ended:
        return
    for r in a.requirements:
        slot = a.rulebook.slot_at(r.id.removeprefix("documents.")) if r.kind == "document" and r.proposed == "wanting" else None
        if slot and slot.slot.delivered_by:
            yield NextStep(None, say("still"), r.put_right)


@dataclass(frozen=True, slots=True)
class ToAdd:
    """A document that the applicant may add after filing without being asked; ``because`` says how long, or what is there."""

    slot: str
    title: str
    says: str
    accepts: str
    because: str


def to_add(a: Assessment) -> tuple[ToAdd, ...]:
    """What may be added to a case: to each slot that takes something later and is asked for here, until the case ends or is granted."""
    return tuple(_to_add(a)) if a.case.filed and not a.case.ended and a.state in LIVE else ()


def _to_add(a: Assessment) -> Iterator[ToAdd]:
    for r in a.requirements:
        name = r.id.removeprefix("documents.")
        compiled = a.rulebook.slot_at(name) if r.kind == "document" else None
        if compiled is None or not compiled.slot.takes_later:
            continue
        number = name.partition(".")[2]
        values = a.sheet.own(f"{compiled.slot.for_each}.{number}" if number else "")
        if compiled.when is None or compiled.when.value(values) is True:
            yield ToAdd(name, r.title, compiled.slot.says, compiled.slot.in_words(), r.because)


def _owed(debt: Debt, currency: str) -> str:
    return say("Last day to pay {amount}: {title}", amount=money(debt.open, currency), title=debt.title)


def next_steps(case: CaseSoFar, rules: Clock, clock: ClockView | None, calendar: Calendar, now: datetime) -> tuple[NextStep, ...]:
    """What comes next for the applicant, soonest first."""
    if clock is None or clock.limit_day is None:
        return ()
    today = calendar.local_day(now)
    within = rules.decision.within
    event = say("the payment") if case.accepted else say("it is complete")
    decided = say("Decision, about {period} after {event}", period=f"{within}", event=event)
    decision = NextStep(None, say("later"), decided)
    remind = [NextStep(d, "", say("A reminder, if nothing came")) for d in reminders(clock, rules) if d > today]
    if clock.step == "payment":
        return (*remind, NextStep(clock.limit_day, "", say("Last day to pay; after it the application lapses")), decision)
    if clock.step == "answers":
        more = rules.answers.once_more
        extended = case.open_round.extended if case.open_round else True
        ask = say("You may ask once for {more} more.", more=more) if more and not extended else ""
        return (
            *remind,
            NextStep(clock.limit_day, "", say("Your answers are due. {ask}", ask=ask).strip(), ask),
            NextStep(
                None,
                say("then"),
                say(
                    "The office checks on; it has {period} left",
                    period=things(clock.paused_left or 0, clock.paused_unit.removesuffix("s")),
                ),
            ),
            decision,
        )
    if clock.step == "other body":
        due = NextStep(clock.limit_day, "", say("The answer of the other body is due; then the office goes on"))
        return (due,) if case.accepted else (due, decision)
    if clock.step == "check":
        return (NextStep(clock.limit_day, "", say("The office has checked whether it is complete")), decision)
    return (NextStep(clock.limit_day, "", say("The decision is planned by this day")),)
