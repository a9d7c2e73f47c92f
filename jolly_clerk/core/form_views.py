"""The form as it stands: its parts and questions, computed answers, the way in, the pathway, what was altered, the title of the case."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from functools import partial
from typing import Any, Literal

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.dossier.answers import asks_back
from jolly_clerk.core.dossier.changing import PAPER, PATTERN
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.lines import Lazy
from jolly_clerk.core.fees.working import coins, value_working
from jolly_clerk.core.form import Sheet, decided_by, question_at
from jolly_clerk.core.in_words import all_of, depends_on, in_words
from jolly_clerk.core.moves import WhyNot
from jolly_clerk.core.rulebook.compiled import AskedQuestion, ComputedValue, Rulebook
from jolly_clerk.core.say import _, say
from jolly_clerk.core.usual import Usual, usual_answers
from jolly_clerk.core.values import Value


@dataclass(frozen=True, slots=True)
class QuestionView:
    """A question as it stands: ``asked`` is ``yes``, ``no`` or ``not known yet``; ``left`` tells that it still needs an answer.

    ``offered`` are the choices that are open now, where they depend on another answer; ``said`` is the answer in words, ``ask`` what is
    asked of one that can be read in two ways. ``because`` says on what it depends, why nothing can be chosen, or which cells of its
    rows are still to be filled in. ``day`` is an answer that is a day, as it was read.
    """

    place: str
    asked: str
    raw: Any
    fault: str
    left: bool
    because: str
    offered: tuple[str, ...] | None = None
    said: str = ""
    ask: str = ""
    day: date | None = None


@dataclass(frozen=True, slots=True)
class PartView:
    """A part of the form with what is left in it. One that is not ``asked`` does not stand in the form; of one that ``waits`` it is not
    known yet whether it is asked."""

    id: str
    title: str
    left: int
    asked: bool
    questions: tuple[QuestionView, ...]
    waits: bool
    usual: tuple[Usual, ...] = ()


@dataclass(frozen=True, slots=True)
class SectionView:
    """A page of a filing: a part, ``documents`` or ``sign``, with how many things are left on it; ``waits`` as in a part."""

    id: str
    title: str
    left: int
    asked: bool
    waits: bool = False


@dataclass(frozen=True, slots=True)
class ComputedView:
    """A computed answer with its working; ``beside`` are the questions it is shown beside."""

    id: str
    title: str
    value: str
    working: Lazy
    help: str
    beside: tuple[str, ...]
    article: str


@dataclass(frozen=True, slots=True)
class WayIn:
    """The way in: the branch that decides, or the questions that it hangs on.

    ``title`` says the verdict in a few words; it ``stops`` where nothing is to be filed here, unless one may ``insist``.
    """

    branch: str
    then: Literal["", "needed", "not needed", "belongs elsewhere"]
    because: str
    article: str
    depends_on: tuple[str, ...]
    title: str = ""
    stops: bool = False
    insist: bool = False


_VERDICT = {
    "needed": _("Yes, it is needed"),
    "not needed": _("No, none is needed"),
    "belongs elsewhere": _("Another office decides"),
}


@dataclass(frozen=True, slots=True)
class PathwayView:
    """The pathway that the answers choose; empty while it is not known."""

    id: str
    title: str
    says: str
    article: str


@dataclass(frozen=True, slots=True)
class Altered:
    """An answer that differs from what a register gave."""

    place: str
    label: str
    was: str
    now: str
    source: str


def way_in(sheet: Sheet) -> WayIn | None:
    """The first branch that holds; it stops at the first that is not known, and says what it hangs on."""
    decided, open_ = decided_by(sheet)
    if decided is None:
        return WayIn("", "", "", "", open_) if open_ else None
    branch, because = decided.branch, decided.because.fill(sheet.values).strip()
    stops = branch.then != "needed"
    return WayIn(branch.id, branch.then, because, branch.article, (), say(_VERDICT[branch.then]), stops, branch.insist)


def pathway(sheet: Sheet) -> PathwayView | None:
    """The first pathway that holds; None while an open question decides it."""
    for compiled in sheet.rulebook.pathways:
        holds = True if compiled.when is None else compiled.when.holds(sheet.values)
        if holds is UNKNOWN:
            return None
        if holds:
            p = compiled.pathway
            return PathwayView(p.id, p.title, p.says, p.article)
    return None


def altered(rulebook: Rulebook, dossier: Dossier) -> tuple[Altered, ...]:
    """The answers that a register, a paper or the profile gave and that were changed since; a pattern is there to be changed."""
    flat = raw_answers(dossier) if dossier.prefilled else {}
    found = []
    for given in (g for g in dossier.prefilled if g.source != PATTERN):
        now = said_answer(rulebook, given.place, flat.get(given.place))
        was = said_answer(rulebook, given.place, given.value)
        if now != was:
            register = rulebook.edition.registers.get(given.source)
            title = register.title if register else given.key if given.source == PAPER else given.source
            found.append(Altered(given.place, rulebook.label(given.place), was, now or "nothing", title))
    return tuple(found)


def case_title(rulebook: Rulebook, sheet: Sheet) -> str:
    """What the case is called, from its answers; the title of the kind while none of them is given."""
    text = rulebook.case_title
    values = [None if isinstance(p, str) else p.value(sheet.values) for p in text.pieces]
    if all(v is None or is_absent(v) for v in values):
        return rulebook.edition.title
    said = [
        p if isinstance(p, str) else "" if is_absent(v) else text.said(p, sheet.values)
        for p, v in zip(text.pieces, values, strict=True)
    ]
    return "".join(said).strip(" ,") or rulebook.edition.title


def part_views(sheet: Sheet, left: tuple[WhyNot, ...]) -> tuple[PartView, ...]:
    """The parts with their questions; what is left in one counts open questions and rules that do not hold."""
    count = Counter(thing.place.ref.partition(".")[0] for thing in left if thing.place)
    made = []
    for part in sheet.rulebook.parts.values():
        questions = tuple(_question(sheet, place, sheet.asked[place]) for place in sheet.places_in(part.id))
        whole = sheet.part_asked.get(part.id, True)
        asked = whole is not False if part.each else any(q.asked != "no" for q in questions)
        waits = whole is UNKNOWN if part.each else asked and all(q.asked != "yes" for q in questions)
        usual = usual_answers(sheet, part.id)
        made.append(PartView(part.id, part.title, count[part.id], asked, questions, waits, usual))
    return tuple(made)


def section_views(parts: tuple[PartView, ...], left: tuple[WhyNot, ...]) -> tuple[SectionView, ...]:
    """The pages of a filing, with what is left on each."""
    heads = [thing.place.ref.partition(".")[0] for thing in left if thing.place]
    signing = sum(head in ("signature", "declarations") for head in heads)
    return (
        *(SectionView(part.id, part.title, part.left, part.asked, part.waits) for part in parts),
        SectionView("documents", say("Documents"), heads.count("documents"), True),
        SectionView("sign", say("Promise and sign"), signing, True),
    )


def _question(sheet: Sheet, place: str, asked: Value) -> QuestionView:
    node = question_at(sheet.rulebook, place)
    assert node is not None
    raw, fault = sheet.raw.get(place), sheet.faults.get(place, "")
    left = asked is True and (bool(fault) or (raw is None and place not in sheet.may_stay_open))
    because = ""
    if asked is UNKNOWN:
        because = depends_on([sheet.rulebook.label(p) for p in sheet.deciding(node.when)])
    elif place in sheet.begun:
        fault, because = "", fault
    said = "yes" if asked is True else "no" if asked is False else "not known yet"
    own = sheet.own(place.rpartition(".")[0]) if node.part.each else sheet.values
    offered = tuple(node.offered(own)) if node.option_when else None
    if offered == ():
        because = say("There is nothing to choose, since {why}.", why=all_of(list(dict.fromkeys(_decides_choices(sheet, node)))))
    words = said_answer(sheet.rulebook, place, raw)
    day = own[node.key] if node.question.type == "date" and asked is True else None
    return QuestionView(
        place,
        said,
        raw,
        fault if asked is True else "",
        left,
        because,
        offered,
        words,
        asks_back(node.question, raw),
        day if isinstance(day, date) else None,
    )


def _decides_choices(sheet: Sheet, node: AskedQuestion) -> Iterable[str]:
    """The answers on which it hangs that no choice of a question is offered, each once."""
    names = dict.fromkeys(name for rule in node.option_when.values() for name in sorted(rule.reads))
    for name in (n for n in names if n in sheet.rulebook.questions):
        for place in sheet.places_of(sheet.rulebook.questions[name]):
            yield say(
                "“{question}” is “{answer}”",
                question=sheet.rulebook.label(name),
                answer=said_answer(sheet.rulebook, place, sheet.raw.get(place)),
            )


def computed_views(sheet: Sheet) -> tuple[ComputedView, ...]:
    """The computed answers, those of repeats item by item where they are shown beside a question."""
    made = []
    for node in sheet.rulebook.computed.values():
        part = node.value.each
        if part is None:
            made.append(_computed_one(sheet, node, sheet.values, node.key, tuple(node.value.beside)))
            continue
        for own in sheet.items.get(part, ()) if node.value.beside else ():
            beside = tuple(f"{part}.{own.item['id']}.{b.rpartition('.')[2]}" for b in node.value.beside)
            made.append(_computed_one(sheet, node, own, f"{part}.{own.item['id']}.{node.value.id}", beside))
    return tuple(made)


def _computed_one(
    sheet: Sheet, node: ComputedValue, values: Mapping[str, Any], id_: str, beside: tuple[str, ...]
) -> ComputedView:
    value, v = values[node.key], node.value
    is_money = node.key in sheet.rulebook.money_names and not is_absent(value)
    said = coins(value, coin_of(sheet.rulebook.edition.currency)) if is_money else in_words(value)
    working = partial(value_working, sheet, node, values)
    return ComputedView(id_, v.title, said, working, v.help or "", beside, v.article)
