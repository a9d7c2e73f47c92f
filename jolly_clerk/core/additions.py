"""What may come later besides documents: a repeat of a part, or the answer to a question; what it costs, until when, and what is unpaid.

Source: the decisions, *The applicant*, *What may come after filing*.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.delivering import CameLater, to_pay_by
from jolly_clerk.core.dossier.adding import fresh_items, take_added
from jolly_clerk.core.dossier.answers import is_open
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.dossier.places import answer_at
from jolly_clerk.core.fees.lines import ZERO
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.rulebook.said import Stage
from jolly_clerk.core.say import say
from jolly_clerk.core.states import LIVE


@dataclass(frozen=True, slots=True)
class MayAdd:
    """Something that may be added after filing without being asked for: ``adds`` names it (a part, or the place of a question), ``told`` says
    what it costs and until when that is to be paid."""

    adds: str
    title: str
    help: str
    told: str
    article: str


def may_add(a: Assessment) -> tuple[MayAdd, ...]:
    """What may be added to a case, until it ends or is granted."""
    return tuple(_may_add(a)) if a.case.filed and not a.case.ended and a.state in LIVE else ()


def _may_add(a: Assessment) -> Iterator[MayAdd]:
    until = to_pay_by(a.known.calendar.local_day(a.now))
    asked = {view.id for view in a.parts if view.asked}
    for part in a.rulebook.edition.parts:
        if part.id not in asked:
            continue
        given = a.dossier.answers.get(part.id)
        if part.later and part.each and (len(given) if isinstance(given, list) else 0) < part.at_most:
            told = say("What it costs shows as you fill it in; it is to be paid until {day}.", day=day(until))
            yield MayAdd(part.id, part.one or part.title, "", told, "")
        for question in part.questions:
            place = f"{part.id}.{question.id}"
            if not question.later or not is_open(answer_at(a.dossier.answers, place)) or not _is_asked(a, place):
                continue
            yield MayAdd(
                place, question.added_as or question.ask, question.help or "", _told(a, place, until), question.article or ""
            )


def _is_asked(a: Assessment, place: str) -> bool:
    """True if the question is asked by the answers as they stand."""
    return any(q.place == place and q.asked == "yes" for part in a.parts for q in part.questions)


def _told(a: Assessment, place: str, until: date) -> str:
    """What the answer to a question would cost; of one answered on the day, reckoned."""
    if a.rulebook.questions[place].question.later != "on the day":
        return say("What it costs shows as you answer; it is to be paid until {day}.", day=day(until))
    today = a.known.calendar.local_day(a.now)
    then = assess(a.rulebook, take_added(a.rulebook, a.dossier, a.dossier, place, today), a.history, a.known, a.now)
    amount = costs(a, then)
    if not amount:
        return say("It costs nothing.")
    return say("It costs {amount}, to be paid until {day}.", amount=money(amount, a.rulebook.edition.currency), day=day(until))


def costs(filed: Assessment, then: Assessment, most: bool = False) -> Decimal:
    """What is due at once with what is added: by how much the lines of the stages rise that the case has reached; the ``most`` of it that
    is known while something is open."""
    total = ZERO
    for stage in _reached(filed):
        there = then.fees.total(stage)
        high = there.low if there.high is None else there.high
        total += (high if most else there.low) - filed.fees.total(stage).low
    return max(total, ZERO)


def _reached(filed: Assessment) -> tuple[Stage, ...]:
    return ("at filing", "after the check") if filed.case.accepted else ("at filing",)


@dataclass(frozen=True, slots=True)
class Adding:
    """What a draft adds to a case: what it is called, what it costs and until when that is to be paid; what it changes if it is not."""

    adds: str
    title: str
    amount: Decimal
    until: date
    told: str


def adding(filed: Assessment, then: Assessment, adds: str) -> Adding:
    """What a draft adds; ``filed`` is the case as it stands, ``then`` with what is added."""
    amount, until = costs(filed, then), to_pay_by(filed.known.calendar.local_day(filed.now))
    told, currency, high = say("It costs nothing."), filed.rulebook.edition.currency, costs(filed, then, most=True)
    if high > amount:
        said = {"low": money(amount, currency), "high": money(high, currency), "day": day(until)}
        told = say(
            "{low} to {high} will be due at once, by what you fill in. If it is not paid until {day}, it counts as not having come.",
            **said,
        )
    elif amount:
        said = {"amount": money(amount, currency), "day": day(until)}
        told = say("{amount} is due at once. If it is not paid until {day}, it counts as not having come.", **said)
    return Adding(adds, title_of(then, filed.dossier, adds), amount, until, told)


def title_of(then: Assessment, filed: Dossier, adds: str) -> str:
    """What is added, in words: the question, or the repeat with its number."""
    if adds in then.rulebook.questions:
        asked = then.rulebook.questions[adds].question
        return asked.added_as or asked.ask
    one = then.rulebook.one(adds)
    return ", ".join(f"{one} {number}" for number in sorted(fresh_items(filed, then.dossier, adds))) or one


def unpaid(a: Assessment) -> tuple[CameLater, ...]:
    """What came later and is not paid yet, oldest first: what is open is for the latest of them, and no payment since was as much."""
    left, found = a.account.open, list[CameLater]()
    for one in reversed(a.case.additions):
        since = sum((p.amount - p.prepaid for p in a.case.payments if p.at > one.at), ZERO)
        if left <= 0 or a.case.granted or a.case.ended:
            break
        if since < one.due:
            found.append(one)
        left -= one.due
    return tuple(reversed(found))
