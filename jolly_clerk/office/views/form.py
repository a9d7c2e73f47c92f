"""The form of an edition: what never changes while it is filled in, fetched once and kept by the browser."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Declaration, Part, Signature
from jolly_clerk.core.rulebook.wording import plain


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


@dataclass(frozen=True, slots=True)
class ListChoice:
    """One choice of a list as the form shows it; which are offered now stands with the question."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class Form:
    """The form that a rulebook makes: parts with their questions, lists, slots, the declaration. It never changes.

    ``translations`` are its texts in other languages, by the text on one line.
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
    parts: tuple[Part, ...]
    lists: dict[str, tuple[ListChoice, ...]]
    slots: tuple[SlotForm, ...]
    signature: Signature
    declarations: tuple[Declaration, ...]
    registers: dict[str, str]
    way_in_asks: tuple[str, ...]
    translations: dict[str, dict[str, str]]


@dataclass(frozen=True, slots=True)
class ItemSlot:
    """A slot of one item: ``passport.2`` of the slot ``passport``, with its title and what the item is called."""

    slot: str
    of: str
    title: str
    item_label: str


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
        parts=tuple(e.parts),
        lists={name: tuple(ListChoice(o.id, o.title) for o in options) for name, options in e.lists.items()},
        slots=tuple(
            SlotForm(s.slot, s.title, s.says, s.article, s.optional, s.in_words(), s.delivered_by or "", s.for_each or "")
            for s in e.documents
        ),
        signature=e.signature,
        declarations=tuple(e.declarations),
        registers={name: r.title for name, r in e.registers.items()},
        way_in_asks=rulebook.way_in_asks,
        translations={language: {plain(text): said for text, said in told.items()} for language, told in e.translations.items()},
    )


def item_slots(assessment: Assessment) -> tuple[ItemSlot, ...]:
    """The slots of items, in the order of the checklist."""
    return tuple(
        ItemSlot(r.id.removeprefix("documents."), r.id.split(".")[1], r.title, r.item_label)
        for r in assessment.requirements
        if r.kind == "document" and r.item_label
    )
