"""What is refused when an edition is checked or published, though one that an office published before still runs with it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from keyword import iskeyword

from jolly_clerk.core.currency import CURRENCIES
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook.compiled import Fault, Path, Rulebook
from jolly_clerk.core.rulebook.examples import Gives
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.tariff import ROUNDING
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.time.periods import HOURS, Period


def strict_faults(rulebook: Rulebook) -> list[Fault]:
    """Every fault of an edition that can be run and would not do what it seems to say."""
    return [
        *_names(rulebook.edition),
        *_currency(rulebook.edition),
        *_periods(rulebook.edition),
        *_braces(rulebook.edition),
        *_examples(rulebook),
    ]


def _names(e: m.Edition) -> Iterator[Fault]:
    """Names that no rule could ever name."""
    named: list[tuple[Path, str]] = [(("fees", n, "line"), line.line) for n, line in enumerate(e.fees)]
    named += [(("values", n, "id"), value.id) for n, value in enumerate(e.values)]
    for pn, part in enumerate(e.parts):
        named += [(("parts", pn, "id"), part.id)]
        named += [(("parts", pn, "questions", qn, "id"), q.id) for qn, q in enumerate(part.questions)]
    for name in (*e.tables, *e.scales, *e.curves):
        section = "tables" if name in e.tables else "scales" if name in e.scales else "curves"
        named.append(((section, name), name))
    for path, name in named:
        if iskeyword(name):
            yield Fault(
                path, say("`{name}` means something else in a rule, so no rule could name it; choose another name", name=name)
            )


def _currency(e: m.Edition) -> Iterator[Fault]:
    if e.currency not in CURRENCIES:
        hint = did_you_mean(e.currency, sorted(CURRENCIES, key=lambda c: c != "EUR"), 60) or say("; write one as in `EUR`")
        yield Fault(("currency",), say("{currency} is no currency (ISO 4217){hint}", currency=e.currency, hint=hint))


def _periods(e: m.Edition) -> Iterator[Fault]:
    clock = e.clock
    told: list[tuple[Path, Period | None]] = [
        (("clock", "check", "within"), clock.check.within),
        (("clock", "answers", "within"), clock.answers.within),
        (("clock", "answers", "once_more"), clock.answers.once_more),
        (("clock", "answers", "printed", "received"), clock.answers.printed.received if clock.answers.printed else None),
        (("clock", "pay", "within"), clock.pay.within),
        (("clock", "decision", "within"), clock.decision.within),
    ]
    for path, period in told:
        if period is not None and not period.count:
            yield Fault(path, say("a period of 0 {unit} is over before it begins; write at least 1", unit=period.unit))
    within, more = clock.answers.within, clock.answers.once_more
    if more is not None and more.unit != within.unit and (more.unit in HOURS) != (within.unit in HOURS):
        yield Fault(("clock", "answers", "once_more"), say("more time is said in {unit}, as `within` is", unit=within.unit))


def _braces(e: m.Edition) -> Iterator[Fault]:
    """Texts with a brace that is not closed: the name in it would be read out as it stands."""
    texts: list[tuple[Path, str | None]] = [(("case_title",), e.case_title)]
    texts += [(("reasons", n, "says"), reason.says) for n, reason in enumerate(e.reasons)]
    texts += [(("must", n, "otherwise"), must.otherwise) for n, must in enumerate(e.must)]
    texts += [(("way_in", n, "because"), branch.because) for n, branch in enumerate(e.way_in)]
    texts += [(("documents", n, "named"), slot.named) for n, slot in enumerate(e.documents)]
    for path, text in texts:
        rest = re.sub(r"\{[^{}]*\}", "", text or "")
        for brace, other in ("{}", "}{"):
            if brace in rest:
                yield Fault(path, say("a brace stands alone: its `{other}` is missing", other=other))


def _examples(rulebook: Rulebook) -> Iterator[Fault]:
    """Examples that name an answer, a fee, a slot or a pathway that the edition does not have, so that nothing would be compared."""
    e = rulebook.edition
    lines = [*(line.line for line in e.fees), *(f"{line.line}.rest" for line in e.fees if line.falls_due), *ROUNDING.values()]
    values = [value.id if not value.each else f"{value.each}.{value.id}" for value in e.values]
    pathways, branches = [p.id for p in e.pathways], [b.id for b in e.way_in]
    for n, example in enumerate(e.examples):
        path: Path = ("examples", n)
        yield from _dossier(e, example.dossier, (*path, "dossier"))
        given: list[tuple[Path, Gives]] = [((*path, "gives"), example.gives)]
        given += [((*path, "also", k, "gives"), variant.gives) for k, variant in enumerate(example.also)]
        for at, gives in given:
            yield from (_no(("fees",), at, name, lines, say("fee line")) for name in gives.fees if name not in lines)
            yield from (
                _no(("values",), at, name, values, say("computed answer"))
                for name in gives.values
                if re.sub(r"\.\d+\.", ".", name) not in values
            )
            if gives.pathway is not None and gives.pathway not in pathways:
                yield _no(("pathway",), at, gives.pathway, pathways, say("pathway"))
            if gives.way_in is not None and gives.way_in not in (
                *branches,
                "needed",
                "not needed",
                "belongs elsewhere",
                "not known yet",
            ):
                yield _no(("way_in",), at, gives.way_in, branches, say("branch of the way in"))


def _no(key: Path, at: Path, name: str, there: list[str], what: str) -> Fault:
    hint = did_you_mean(name, there) or (say("; there are {there}", there=", ".join(there)) if there else "")
    place = (*at, *key, name) if key in (("fees",), ("values",)) else (*at, *key)
    return Fault(place, say("no {what} is called `{name}`{hint}", what=what, name=name, hint=hint))


def _dossier(e: m.Edition, dossier: dict[str, object], at: Path) -> Iterator[Fault]:
    parts = {part.id: part for part in e.parts}
    for name, answers in dossier.items():
        if name not in parts:
            yield Fault((*at, name), say("no part is called `{name}`{hint}", name=name, hint=did_you_mean(name, parts)))
            continue
        asked = {q.id for q in parts[name].questions} | {"id"}
        rows = answers if isinstance(answers, list) else [answers]
        for k, row in enumerate(rows):
            place = (*at, name, k) if isinstance(answers, list) else (*at, name)
            for key in row if isinstance(row, dict) else ():
                if key not in asked:
                    hint = did_you_mean(key, asked)
                    yield Fault(
                        (*place, key), say("`{name}` asks nothing that is called `{key}`{hint}", name=name, key=key, hint=hint)
                    )


def no_calendars(rulebook: Rulebook, calendar: Calendar) -> Iterator[tuple[Path, str]]:
    """The periods that are counted `by` a calendar that the calendar of the edition does not have among its `others`."""
    clock = rulebook.edition.clock
    for name in ("check", "answers", "pay", "decision", "other_body"):
        by = getattr(getattr(clock, name), "by", None)
        if by is not None and by not in calendar.others:
            near = did_you_mean(by, calendar.others)
            told = say(
                "the calendar `{calendar}` has no `{by}` among its `others`{near}",
                calendar=rulebook.edition.calendar,
                by=by,
                near=near,
            )
            yield ("clock", name, "by"), told
