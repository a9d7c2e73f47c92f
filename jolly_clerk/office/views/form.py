"""The form of an edition: what never changes while it is filled in, fetched once and kept by the browser."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.checklist.by_hand import OWN_SLOT
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import LANGUAGES, Declaration, Part, Signature
from jolly_clerk.core.rulebook.wording import plain
from jolly_clerk.core.say import speaking
from jolly_clerk.texts import catalogue


@dataclass(frozen=True, slots=True)
class SlotForm:
    """A slot as the form shows it; one ``for_each`` item of a part stands once for each in :class:`ItemSlot`."""

    slot: str
    title: str
    says: str
    article: str
    optional: bool
    accepts: str
    delivered_by: str
    for_each: str
    by_post: bool
    has_form: bool


@dataclass(frozen=True, slots=True)
class ListChoice:
    """One choice of a list as the form shows it; which are offered now stands with the question."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class Form:
    """The form that a rulebook makes: parts with their questions, lists, slots, the declaration. It never changes.

    ``file_languages`` are those that can be told of a file, by their codes; ``translations`` are its texts in other languages, by the
    text on one line.
    """

    kind: str
    title: str
    about: str
    law: str
    grants: str
    edition: str
    in_force: date
    currency: str
    incomplete_filing: Literal["warn", "refuse"]
    confirm_by: Literal["text"] | None
    parts: tuple[Part, ...]
    lists: dict[str, tuple[ListChoice, ...]]
    slots: tuple[SlotForm, ...]
    signature: Signature
    declarations: tuple[Declaration, ...]
    registers: dict[str, str]
    measures: dict[str, str]
    way_in_asks: tuple[str, ...]
    file_languages: tuple[str, ...]
    translations: dict[str, dict[str, str]]


@dataclass(frozen=True, slots=True)
class ItemSlot:
    """A slot of one item: ``passport.2`` of the slot ``passport``, with its title and what the item is called. One of something that was
    asked by hand is ``of`` none and ``says`` what is asked."""

    slot: str
    of: str
    title: str
    item_label: str
    says: str = ""


def _told_in(rulebook: Rulebook, language: str) -> dict[str, str]:
    """The texts of the form in another language, by their plain texts: those of the rulebook, and what each slot takes."""
    e = rulebook.edition
    taken = [slot.in_words() for slot in e.documents]
    with speaking(catalogue(language), language):
        return {plain(text): said for text, said in e.translations[language].items()} | {
            plain(text): slot.in_words() for text, slot in zip(taken, e.documents, strict=True)
        }


def form_of(rulebook: Rulebook) -> Form:
    """The form of a rulebook."""
    e = rulebook.edition
    return Form(
        kind=e.kind,
        title=e.title,
        about=e.about.strip(),
        law=e.law,
        grants=e.grants,
        edition=e.id,
        in_force=e.in_force,
        currency=e.currency,
        incomplete_filing=e.incomplete_filing,
        confirm_by=e.confirm_by,
        parts=tuple(e.parts),
        lists={name: tuple(ListChoice(o.id, o.title) for o in options) for name, options in e.lists.items()},
        slots=tuple(
            SlotForm(
                s.slot,
                s.title,
                s.says,
                s.article,
                s.optional,
                s.in_words(),
                s.delivered_by or "",
                s.for_each or "",
                s.by_post,
                bool(s.form),
            )
            for s in e.documents
        ),
        signature=e.signature,
        declarations=tuple(e.declarations),
        registers={name: r.title for name, r in e.registers.items()},
        measures={name: r.measures for name, r in e.registers.items() if r.measures},
        way_in_asks=rulebook.way_in_asks,
        file_languages=tuple(LANGUAGES),
        translations={language: _told_in(rulebook, language) for language in e.translations},
    )


def item_slots(assessment: Assessment) -> tuple[ItemSlot, ...]:
    """The slots of items, in the order of the checklist, then those of what was asked by hand in a letter."""
    by_hand = (
        ItemSlot(ref.removeprefix("documents."), "", p.asked.title, "", p.asked.text)
        for a_round in assessment.common.all_rounds
        for p in a_round.points.values()
        for ref in p.asked.places
        if ref.startswith(OWN_SLOT)
    )
    items = (
        ItemSlot(r.id.removeprefix("documents."), r.id.split(".")[1], r.title, r.item_label)
        for r in assessment.requirements
        if r.kind == "document" and r.item_label
    )
    return (*items, *{slot.slot: slot for slot in by_hand}.values())
