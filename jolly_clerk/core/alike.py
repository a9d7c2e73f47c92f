"""Cases that are alike: filed twice perhaps, about the same thing, or of the same person; each with what speaks for it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.facts.names import same_name
from jolly_clerk.core.form import question_at
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say

#: *duplicate*: the same filed twice, perhaps; *thing*: about the same thing; *person*: of the same person
How = Literal["duplicate", "thing", "person"]
ORDER: Mapping[str, int] = {"duplicate": 0, "thing": 1, "person": 2}
#: from so much on, of 100, titles and addresses are nearly the same
NEARLY = 88


@dataclass(frozen=True, slots=True)
class Identity:
    """By what a case is known: the ``keys`` of registers and numbers that its answers name (by their question), its places, its title,
    and who applies, with the numbers of that person (``own``)."""

    kind: str
    title: str
    applicant_id: str
    applicant: str
    keys: Mapping[str, str]
    places: tuple[str, ...]
    own: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Likeness:
    """How a case is alike, and what speaks for it in words."""

    how: How
    because: tuple[str, ...]


def identity_of(rules: Rulebook, dossier: Dossier, title: str, applicant_id: str, applicant: str) -> Identity:
    """By what a case is known: answers that name an entry of a register by its key, passports, and places that are not an address of
    the applicant."""
    registers = {name: register.key for name, register in rules.edition.registers.items()}
    keys, places, own = dict[str, str](), list[str](), list[str]()
    of_person = {n.part.id for n in rules.questions.values() if n.question.profile in ("name", "called")}
    for place, raw in raw_answers(dossier).items():
        asked = question_at(rules, place)
        if asked is None or asked.question.profile or not isinstance(raw, str):
            continue
        source, _, column = (asked.question.register_ or "").partition(".")
        is_key = bool(source) and registers.get(source) == column and not asked.part.each
        if is_key and asked.part.id in of_person:
            own.append(raw.strip())
        elif is_key or asked.question.id == "passport":
            keys[rules.label(place)] = raw.strip()
        elif asked.question.type == "place" and not asked.part.each:
            places.append(said_answer(rules, place, raw))
    return Identity(rules.edition.kind, title, applicant_id, applicant, keys, tuple(places), tuple(own))


def searched_by(mine: Identity) -> list[str]:
    """What to look for other cases by: the keys and places of a case, and its title."""
    return list(dict.fromkeys([*mine.keys.values(), *mine.places, mine.title, *mine.own]))


def likeness(mine: Identity, other: Identity, is_open: bool = True) -> Likeness | None:
    """How another case is alike; None if it is not. What has ended (``is_open`` is false) is no duplicate any more."""
    from rapidfuzz import fuzz  # loaded with the first case that is looked at

    because = list[str]()
    theirs = {value.casefold() for value in other.keys.values()}
    same_keys = [(label, value) for label, value in mine.keys.items() if value.casefold() in theirs]
    because += [say("the same {label}: {value}", label=label, value=value) for label, value in same_keys]
    place = next((p for p in mine.places for q in other.places if fuzz.ratio(p.casefold(), q.casefold()) >= NEARLY), "")
    if place:
        because.append(say("the same place: {place}", place=place))
    person = (
        mine.applicant_id == other.applicant_id or same_name(mine.applicant, other.applicant) or bool({*mine.own} & {*other.own})
    )
    title = mine.kind == other.kind and fuzz.ratio(mine.title.casefold(), other.title.casefold()) >= NEARLY
    if title:
        because.append(say("nearly the same title: {title}", title=other.title))
    if person:
        because.append(say("the same person: {name}", name=other.applicant))
    about = bool(same_keys or place)
    twice = title and (about or (person and not (mine.keys or mine.places)))
    if is_open and mine.kind == other.kind and twice:
        return Likeness("duplicate", tuple(because))
    if about or title:
        return Likeness("thing", tuple(because))
    return Likeness("person", tuple(because)) if person else None


@dataclass(frozen=True, slots=True)
class AnswersOfTwo:
    """An answer of two cases of one kind, side by side."""

    label: str
    mine: str
    other: str
    same: bool


def side_by_side(rules: Rulebook, mine: Dossier, other: Dossier) -> list[AnswersOfTwo]:
    """The answers of two cases of a kind, in the order of the form."""
    one, two = raw_answers(mine), raw_answers(other)
    order = {key: n for n, key in enumerate(rules.questions)}
    rows = []
    for place in sorted({*one, *two}, key=lambda p: (order.get(p, len(order)), p)):
        said = said_answer(rules, place, one.get(place)), said_answer(rules, place, two.get(place))
        rows.append(AnswersOfTwo(rules.label(place), *said, said[0] == said[1]))
    return rows


def in_another_name(rules: Rulebook, dossier: Dossier, account: str) -> str:
    """What to say where the form names another applicant than the account that filed; nothing where they agree."""
    for place, raw in raw_answers(dossier).items():
        asked = question_at(rules, place)
        if asked and asked.question.profile in ("name", "called") and isinstance(raw, str) and raw.strip():
            if not same_name(raw, account):
                told = {"named": raw.strip(), "account": account}
                return say(
                    "The form names {named}, the account is that of {account}. Look whether they may file for each other.", **told
                )
            return ""
    return ""


def sorted_likenesses(found: Sequence[tuple[str, Likeness]]) -> list[tuple[str, Likeness]]:
    """References with their likeness: what may be filed twice first, then by how much speaks for it, then as they came."""
    return sorted(found, key=lambda one: (ORDER[one[1].how], -len(one[1].because)))
