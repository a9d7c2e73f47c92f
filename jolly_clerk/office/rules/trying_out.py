"""An edition that is being written as applicant and officer would see it: one of its examples, or its form over one's own answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic.dataclasses import dataclass as schema_once

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.assessment_view import AssessmentView
from jolly_clerk.core.checklist.requirement import Standing
from jolly_clerk.core.dossier.bounds import beyond
from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.in_words import money
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sides import as_applicant
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.trying import assessed_example
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.office.rules.writing import calendar_for, faultless, need_page
from jolly_clerk.office.views.form import Form, form_of


@dataclass(frozen=True, slots=True)
class Priced:
    """A line of the fee, and what it was under the edition before; empty where that had none."""

    title: str
    amount: str
    was: str


@dataclass(frozen=True, slots=True)
class ProposedLine:
    """A requirement as the machine proposes it, and why."""

    title: str
    proposed: Standing
    because: str


@schema_once(frozen=True, slots=True)
class Tried:
    """The form of an edition that is being written, filled in: ``answers`` are those of an example or one's own, the ``assessment`` is what
    the applicant is told; what it costs, and what the officer looks at."""

    answers: dict[str, Any]
    form: Form
    assessment: AssessmentView
    fees: tuple[Priced, ...]
    requirements: tuple[ProposedLine, ...]


def try_out(office: Office, who: Who, id_: str, example: str, answers: Answers | None) -> Tried:
    """Its form as an applicant fills it in, over the answers of an example or one's own, with the amounts of the edition before; nothing is
    kept.

    Raises NotAllowed, NotFound, Invalid for answers that are too many or too deep, NotReady while it has a fault.
    """
    need_page(who)
    row, rules = faultless(office, id_)
    if answers is not None and (found := beyond(answers)):
        raise Invalid(found.why, found.place[:120])
    before = rulebook(office, row.based_on) if row.based_on else None
    return tried(rules, calendar_for(office), example, before, answers)


def tried(rules: Rulebook, calendar: Calendar, example: str, before: Rulebook | None, answers: Answers | None) -> Tried:
    """The form over the answers of an example (the first where none is named, none where there is no example), or over one's own. Raises
    NotFound."""
    there = rules.edition.examples
    example = example or (there[0].id if there else "")
    given = {} if answers is None and not there else answers
    a = assessed_example(rules, calendar, example, None, given)
    if a is None:
        raise NotFound(say("There is no such example."))
    was = assessed_example(rules, calendar, example, before, given) if before else None
    then = _amounts(was) if was else {}
    told = {  # of a part that repeats each repeat with its number
        part: [{"id": n, **item} for n, item in enumerate(value, 1)] if isinstance(value, list) else value
        for part, value in a.dossier.answers.items()
    }
    fees = tuple(Priced(title, amount, then.get(id_, ("", ""))[1]) for id_, (title, amount) in _amounts(a).items())
    looked = tuple(ProposedLine(r.title, r.proposed, r.because) for r in a.requirements if r.asked)
    return Tried(told, form_of(rules), as_applicant(a), fees, looked)


def _amounts(a: Assessment) -> dict[str, tuple[str, str]]:
    """The lines of the fee that are asked, and the sums of the stages, in words."""
    currency: Any = a.fees.currency
    lines = {
        line.id: (line.title, money(line.amount, currency) if line.amount is not None else say("open"))
        for line in a.fees.lines
        if line.state != "not asked"
    }
    sums = {
        f"sum_{total.stage}": (
            say("Due {stage}", stage=say(total.stage)),
            money(total.amount, currency) if total.amount is not None else say("open"),
        )
        for total in a.fees.totals
        if total.amount is None or total.amount
    }
    return lines | sums
