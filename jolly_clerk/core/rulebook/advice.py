"""What an edition may say and had better not: no fault, but worth a rule-keeper's look before it is published."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from jolly_clerk.core.rulebook.checked import key_of
from jolly_clerk.core.rulebook.compiled import Fault, Path, Rulebook
from jolly_clerk.core.rulebook.fee_lines import rules_of
from jolly_clerk.core.rulebook.letters import Letters
from jolly_clerk.core.rulebook.tariff import Change
from jolly_clerk.core.rulebook.wording import form_texts, plain
from jolly_clerk.core.say import say


def advice(rulebook: Rulebook) -> list[Fault]:
    """Everything worth a look, in the order of the file's sections."""
    return [
        *_odd_money(rulebook),
        *_unused(rulebook),
        *_without_article(rulebook),
        *_without_reason(rulebook),
        *_nothing_public(rulebook),
        *_house_letters(rulebook),
        *_untried(rulebook),
        *_untranslated(rulebook),
    ]


def _odd_money(rulebook: Rulebook) -> Iterator[Fault]:
    """Amounts that are allowed and hardly meant."""
    e = rulebook.edition
    for n, line in enumerate(e.fees):
        path: Path = ("fees", n)
        if isinstance(line.comes_back, Decimal) and 0 < line.comes_back <= 1:
            told = say(
                "{share} per cent come back; if {percent} per cent are meant, write `{percent}`",
                share=line.comes_back,
                percent=plain_number(line.comes_back * 100),
            )
            yield Fault((*path, "comes_back"), told)
        each = line.bands.each if line.bands else []
        for k, band in enumerate(each):
            before = [b.flat for b in each[:k] if b.flat is not None]
            if band.flat is not None and band.adds is None and any(flat > 0 for flat in before) and band.flat > max(before):
                told = say(
                    "each `flat` is added to what the bands before come to; if the tariff prints what is due in all, write `is: {flat}`",
                    flat=band.flat,
                )
                yield Fault((*path, "bands", "each", k), told)
        changed = {other.line for other in e.fees if other.then} | {name for change in e.changes for name in change.of}
        if (
            line.percent
            and line.percent.after_changes is None
            and (of := [name for name in line.percent.lines if name in changed])
        ):
            told = say(
                "{name} has changes: say `after_changes: true` if this is a share of what is charged, `false` if not",
                name=", ".join(of),
            )
            yield Fault((*path, "percent"), told)
        changes = [((*path, "then", k), change) for k, change in enumerate(line.then)]
        yield from (_below_zero(at, change) for at, change in changes if _takes_all(change))
    yield from (_below_zero(("changes", k), change) for k, change in enumerate(e.changes) if _takes_all(change))


def _takes_all(change: Change) -> bool:
    return isinstance(change.percent, Decimal) and change.percent < -100


def _below_zero(at: Path, change: Change) -> Fault:
    return Fault(
        (*at, "percent"),
        say("{percent} per cent take the line below zero; what is waived says `waived: true`", percent=change.percent),
    )


def plain_number(value: Decimal) -> str:
    """Without idle zeros: 80, not 80.0."""
    return f"{value.normalize():f}"


def _untranslated(rulebook: Rulebook) -> Iterator[Fault]:
    for language, told in rulebook.edition.translations.items():
        said = {plain(text) for text in told}
        for text in form_texts(rulebook.edition):
            if text not in said:
                yield Fault(("translations", language), say("nothing says {text} in this language", text=f"{text!r}"))


def _unused(rulebook: Rulebook) -> Iterator[Fault]:
    e = rulebook.edition
    lists = {q.question.options for node in rulebook.questions.values() for q in (node, *node.columns)}
    yield from (
        Fault(("lists", name), say("no question takes its choices from this list")) for name in e.lists if name not in lists
    )
    read, called = _read(rulebook), _called(rulebook)
    for section, named in (("tables", e.tables), ("scales", e.scales), ("curves", e.curves)):
        yield from (Fault((section, name), say("no rule looks into this")) for name in named if name not in called)
    for n, value in enumerate(e.values):
        if key_of(value) not in read and not value.beside:
            yield Fault(("values", n), say("{name} is read by no rule and shown beside no question", name=value.id))


def _rules(rulebook: Rulebook) -> Iterator[object]:
    yield from (node.rule for _, node in rulebook.late)
    for node in rulebook.order:
        yield getattr(node, "when", None) or getattr(node, "rule", None)
        yield getattr(node, "needed_when", None)
        yield from getattr(node, "option_when", {}).values()
    yield from rulebook.part_when.values()
    for slot in rulebook.slots.values():
        yield from (slot.when, slot.until, slot.issued, slot.valid)
    yield from (e.when for e in rulebook.eithers)
    for m in rulebook.musts:
        yield from (m.when, m.rule)
    yield from (a.when for a in rulebook.agrees)
    yield from (p.when for p in rulebook.prerequisites)
    yield from (b.when for b in rulebook.branches)
    yield from (p.when for p in rulebook.pathways)
    yield from (d.when for d in rulebook.debts)
    for line in rulebook.lines:
        yield from rules_of(line)


def _read(rulebook: Rulebook) -> set[str]:
    found = {name for rule in _rules(rulebook) for name in getattr(rule, "reads", ())}
    texts = [t for _, t in rulebook.reasons.values()] + [m.otherwise for m in rulebook.musts if m.otherwise]
    texts += [rulebook.case_title, *(b.because for b in rulebook.branches)]
    texts += [text for letter in rulebook.letters.values() for text in letter.values()]
    found |= {place for a in rulebook.edition.agree for place in a.places}
    return found | {name for text in texts for piece in text.pieces for name in getattr(piece, "reads", ())}


def _called(rulebook: Rulebook) -> set[str]:
    return {name for rule in _rules(rulebook) for name in getattr(rule, "functions", ())}


def _without_article(rulebook: Rulebook) -> Iterator[Fault]:
    asked = [
        (("parts", pn, "questions", qn), f"{part.id}.{q.id}")
        for pn, part in enumerate(rulebook.edition.parts)
        for qn, q in enumerate(part.questions)
        if q.article is None
    ]
    if asked:
        names = _some([name for _, name in asked])
        yield Fault(asked[0][0], say("these questions name no article: {names}", names=names))


def _some(names: list[str]) -> str:
    shown = ", ".join(names[:6])
    return say("{names} and {count} more", names=shown, count=len(names) - 6) if len(names) > 6 else shown


def _nothing_public(rulebook: Rulebook) -> Iterator[Fault]:
    if rulebook.edition.public_register and not any(q.question.public for q in rulebook.questions.values()):
        yield Fault(("public_register",), say("no question is public, so the register would say nothing"))


def _without_reason(rulebook: Rulebook) -> Iterator[Fault]:
    e = rulebook.edition
    named = [*(s.slot for s in e.documents), *(m.id for m in e.must), *(a.id for a in e.agree), *(p.id for p in e.prerequisites)]
    declares = ("declarations",) if e.declarations else ()
    named += ["answer", *declares, "signature", "fee", "not accepted", "out of scope", "refused"]
    without = [name for name in named if not rulebook.reasons_for(name)]
    if without:
        yield Fault(("reasons",), say("no reason words a point about {names}", names=_some(without)))


def _house_letters(rulebook: Rulebook) -> Iterator[Fault]:
    written = rulebook.edition.letters.model_fields_set | {"office_shut", "put_right"}
    if rulebook.edition.lanes is None:
        written = written | {"lane_complete", "lane_ended"}
    if rulebook.edition.after_grant is None:
        written = written | {"permit_reminder"}
    if rulebook.edition.clock.other_body is None:
        written = written | {"inquiry"}
    plain_ones = [name for name in Letters.model_fields if name not in written]
    if plain_ones:
        said = say("these letters have the plain words of the house: {names}", names=", ".join(plain_ones))
        yield Fault(("letters",), said)


def _untried(rulebook: Rulebook) -> Iterator[Fault]:
    if not rulebook.edition.examples:
        yield Fault((), say("it carries no examples"))
