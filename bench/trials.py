"""Holds the hand-written trial against the core: every trial of the demo, and the largest with each answer and file spoilt in turn."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from bench.by_hand_trial import Case
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.office.cases.casework import Loaded

#: what each answer is made into: open, nonsense, a number out of its range, a day, a yes
SPOILT: tuple[Any, ...] = (None, "?", "-3", "2031-02-28", "yes")


def by_hand(c: Loaded, dossier: Dossier | None = None) -> Case:
    """The hand-written trial over a case, or over another dossier with its history."""
    assert c.case.filed_at is not None
    filed = c.known.calendar.local_day(c.so_far.filed.at) if c.so_far.filed else c.known.calendar.local_day(c.now)
    text = c.rulebook.edition.signature.text
    return Case(dossier or c.dossier, c.history.entries, c.known.readings, filed, text)


def asked(assessment: Assessment) -> tuple[dict[str, str], dict[str, Any]]:
    """What a hand-written function gives as well: the standings and the fees."""
    return {r.id: r.standing for r in assessment.requirements}, {
        x.id: x.amount for x in assessment.fees.lines if x.state != "not asked"
    }


def unjudged(c: Loaded) -> Loaded:
    """The case as it was before anybody judged: every standing has to be proposed."""
    entries = tuple(e for e in c.history.entries if e.what != "judged")
    return replace(c, history=c.history.model_copy(update={"entries": entries}))


def by_plain(c: Loaded) -> tuple[dict[str, str], dict[str, Any]]:
    """The standings and fees of a case by the hand-written function."""
    hand = by_hand(c)
    return hand.standings(), hand.fees()


def by_core(c: Loaded, dossier: Dossier | None = None) -> tuple[dict[str, str], dict[str, Any]]:
    """The same by the core."""
    return asked(assess(c.rulebook, dossier or c.dossier, c.history, c.known, c.now))


def spoilt(dossier: Dossier) -> Iterator[tuple[str, Dossier]]:
    """The dossier with one answer, one file or the signature otherwise, each with what was done."""
    for part, given in dossier.answers.items():
        for n, item in enumerate(given if isinstance(given, list) else [given]):
            for question in item:
                for value in SPOILT if question != "id" else ():
                    answers = copy.deepcopy(dossier.answers)
                    (answers[part][n] if isinstance(given, list) else answers[part])[question] = value
                    yield f"{part} {n} {question} {value}", dossier.model_copy(update={"answers": answers})
    for a in dossier.attachments:
        others = tuple(b for b in dossier.attachments if b.id != a.id)
        renamed = a.model_copy(update={"name": "picture.tiff"})
        yield f"without {a.slot}", dossier.model_copy(update={"attachments": others})
        yield f"renamed {a.slot}", dossier.model_copy(update={"attachments": (*others, renamed)})
        moved = a.model_copy(update={"slot": "protocol", "id": "another"})
        yield f"twice {a.slot}", dossier.model_copy(update={"attachments": (*dossier.attachments, moved)})
    yield "not declared", dossier.model_copy(update={"declared": ()})
    yield "not signed", dossier.model_copy(update={"signature": None})


def covering_all(dossier: Dossier) -> Dossier:
    """The dossier with a signature that says nothing of what it covers, so that it stands whatever is changed."""
    signature = dossier.signature
    return dossier.model_copy(update={"signature": signature.model_copy(update={"covers": {}}) if signature else None})


def compared(cases: list[Loaded]) -> tuple[int, list[str]]:
    """How many dossiers were tried, and where the hand-written trial and the core say otherwise."""
    count, wrong = 0, []
    largest = max(cases, key=lambda c: len(c.assessment.requirements))
    tried = [(c, c.case.reference, c.dossier) for c in cases]
    tried += [(largest, what, dossier) for what, dossier in spoilt(covering_all(largest.dossier))]
    for c, what, dossier in tried:
        hand = by_hand(c, dossier)
        standings, fees = by_core(c, dossier)
        own = hand.standings()
        differ = {k: (own.get(k), standings.get(k)) for k in {**own, **standings} if own.get(k) != standings.get(k)}
        paid = hand.fees()
        if None not in paid.values() and paid != fees:
            differ["fees"] = (str(paid), str(fees))
        wrong += [f"{what}: {key}: by hand {a}, by the core {b}" for key, (a, b) in differ.items()]
        count += 1
    return count, wrong
