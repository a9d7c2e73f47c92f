"""What a short filing does to the permit that it is filed on, and what a register of cases knows of a permit."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from decimal import Decimal
from typing import TYPE_CHECKING

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.checklist import Requirement
from jolly_clerk.core.currency import coin_of, to_coin
from jolly_clerk.core.permit import LASTING, label_of
from jolly_clerk.core.permit_entries import PermitSoFar, PermitStep
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.compiled_step import CompiledStep
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.steps import Does
from jolly_clerk.core.say import _, say

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment

#: lines of the checklist that say nothing of the matter by themselves
_BESIDE = ("fee",)


def effect_of(a: Assessment, reference: str) -> PermitStep | None:
    """What a short filing does to its permit, by its answers, as an entry of the permit's history; None for an edition that is none.

    ``reference`` is that of the short filing. Days that its rules cannot work out yet are left out; it begins today then.
    """
    compiled = a.rulebook.step
    if compiled is None:
        return None
    step, values = compiled.step, a.sheet.values
    today = a.known.calendar.local_day(a.case.granted.at if a.case.granted else a.now)
    return PermitStep(
        at=a.now,
        who="office",
        role="office",
        reference=reference,
        title=a.rulebook.edition.title,
        does=step.does,
        starts=_day(compiled.starts, values) or today,
        until=_day(compiled.until, values),
        days={what: day for what, rule in compiled.days.items() if (day := _day(rule, values)) is not None},
        says=says_of(compiled, values),
    )


def says_of(compiled: CompiledStep, values: Mapping[str, object]) -> dict[str, str]:
    """What the permit says from then on, by what it is called, in the language of the edition that is handed in."""
    return {title.fill(values): becomes.fill(values) for title, becomes in compiled.sets}


def accepts_it(a: Assessment) -> str:
    """The mail address of whoever accepts a permit that is transferred, as it was answered; nothing where none is asked or given."""
    place = a.rulebook.step.step.accepted_by if a.rulebook.step else None
    return str(a.sheet.raw.get(place) or "").strip() if place else ""


def comes_back(a: Assessment) -> Decimal:
    """What comes back of what was paid for the permit."""
    rule = a.rulebook.step.back if a.rulebook.step else None
    value = rule.value(a.sheet.values) if rule else Decimal(0)
    if is_absent(value) or not isinstance(value, Decimal):
        return Decimal(0)
    return max(to_coin(value, coin_of(a.fees.currency)), Decimal(0))


def _day(rule: Expression | None, values: dict[str, object]) -> date | None:
    value = rule.value(values) if rule else None
    return value if isinstance(value, date) and not is_absent(value) else None


def permit_of(a: Assessment) -> str:
    """The reference of the permit that a short filing is on, as it was answered; nothing if it was not."""
    return str(a.sheet.raw.get(a.rulebook.step.asked_by) or "").strip() if a.rulebook.step else ""


#: what is told of a permit once
_ONCE: dict[Does, str] = {
    "begun": _("That it was begun is told already."),
    "finished": _("That it was finished is told already."),
}


def told_before(rulebook: Rulebook, permit: PermitSoFar) -> str:
    """Why a short filing cannot be made again on a permit: what it tells was told; nothing if it can."""
    does = rulebook.step.step.does if rulebook.step else "changes"
    return say(_ONCE[does]) if does in _ONCE and any(permit.did(does)) else ""


def register_of_step(a: Assessment) -> str:
    """The name of the register that knows the permit."""
    return a.rulebook.step.step.register_ if a.rulebook.step else ""


def as_the_permit_stands(a: Assessment) -> bool:
    """True if what the short filing says of its permit is what the office's own register said when it was asked after the filing."""
    told = a.case.registers.get(register_of_step(a))
    if told is None or told.row is None:
        return False
    for place, node in a.rulebook.questions.items():
        source, _, column = (node.question.register_ or "").partition(".")
        if source == told.name and str(a.sheet.raw.get(place) or "") != told.row.get(column, ""):
            return False
    return True


def stands_clear(requirements: tuple[Requirement, ...]) -> bool:
    """True if every requirement that is asked is proposed met, so that nobody has to look."""
    return all(r.proposed == "met" for r in requirements if r.asked and r.kind not in _BESIDE)


def needs_asking(a: Assessment) -> bool:
    """True if a short filing that is decided by itself still has to ask the office's own register how its permit stands."""
    return _waits(a) and register_of_step(a) not in a.case.registers


def decides_itself(a: Assessment) -> bool:
    """True if a short filing is granted by itself: it is paid, its permit stands as it says, and every requirement is met."""
    return _waits(a) and as_the_permit_stands(a) and stands_clear(a.requirements)


def _waits(a: Assessment) -> bool:
    compiled = a.rulebook.step
    return compiled is not None and compiled.step.decided == "by itself" and a.state == "Filed" and not a.case.to_set


def permit_row(a: Assessment) -> dict[str, str]:
    """What a register of cases knows of the permit of a case, by its columns; nothing before it is issued."""
    view, so_far = a.permit, a.case.permit
    if view is None:
        return {}
    spans = ((step.starts, step.until) for step in so_far.did("changes for a time"))
    days = sum((until - starts).days + 1 for starts, until in spans if until)
    told = {str(d.what): d.day.isoformat() for d in view.days}
    inspections = a.rulebook.edition.inspections
    left = [v.title for v in inspections.visits if v.id not in so_far.passed] if inspections else []
    return told | {
        "permit": view.state,
        "changed_days": str(days),
        "extended": str(sum(1 for _ in so_far.did("extends"))),
        "to_inspect": ", ".join(left) or "none",
    }


def told_of_step(a: Assessment) -> Iterator[tuple[str, str]]:
    """What a short filing does, as examples say it: ``does``, ``starts``, ``until``, each day that it moves, what it says by its title,
    ``back`` and whether it is decided ``by itself``."""
    effect = effect_of(a, "")
    if effect is None:
        return
    yield from (("does", effect.does), ("starts", str(effect.starts)))
    if effect.until:
        yield "until", str(effect.until)
    yield from ((what, str(day)) for what, day in effect.days.items())
    yield from effect.says.items()
    yield from (("back", str(comes_back(a))), ("by itself", "yes" if decides_itself(a) else "no"))


#: the questions whose answer is the words that a step may put in its place
_WORDS = ("text", "long text", "person", "place", "mail address")


def answer_since(a: Assessment, place: str) -> str | None:
    """What a step said for good in the place of an answer in words, such as the name of a new owner; None where none did."""
    node = a.rulebook.questions.get(place)
    if node is None or node.question.type not in _WORDS:
        return None
    said = (step.said.get(label_of(node.question)) for step in reversed(a.case.permit.steps) if step.does in LASTING)
    return next((words for words in said if words is not None), None)


def worked_out_of(a: Assessment, place: str) -> str:
    """A fee line (``fee.price``) or a computed answer of a case, as a register of cases tells it; nothing where it is not known."""
    head, _, rest = place.partition(".")
    if head == "fee":
        line = next((line for line in a.fees.lines if line.id == rest and line.amount is not None), None)
        return str(line.amount) if line else ""
    value = a.sheet.values.get(place)
    if value is None or is_absent(value):
        return ""
    return value.isoformat() if isinstance(value, date) else f"{value:f}" if isinstance(value, Decimal) else str(value)
