"""What the check says of an edition that is being typed: faults and what is worth a look at their lines, its sections, its examples."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date

from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.trying import try_example
from jolly_clerk.office.office import Office
from jolly_clerk.office.rules.rulebooks import another_from, edition_from, office_calendar
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import check_text
from jolly_clerk.store.database import read_session

#: the sections of an edition that are gone to, by the key that begins them
SECTIONS = {
    "registers": _("Registers"), "way_in": _("The way in"), "pathways": _("Pathways"), "lists": _("Lists"), "tables": _("Tables"),
    "parts": _("Questions"), "values": _("Computed answers"), "documents": _("Documents"), "must": _("What must hold"),
    "agree": _("Agreements"), "step": _("What it does"), "fees": _("Fees"), "clock": _("Periods"), "after_grant": _("After the grant"),
    "inspections": _("Inspections"), "reasons": _("Reasons"), "letters": _("Letters"), "translations": _("Translations"),
    "examples": _("Examples"),
}  # fmt: skip
_TOP = re.compile(r"^([a-z_]+):")


@dataclass(frozen=True, slots=True)
class LineMessage:
    """Something said of a line (from 1; 0 for the whole): a ``fault``, or what is worth a look."""

    line: int
    text: str
    fault: bool


@dataclass(frozen=True, slots=True)
class Section:
    """A section of the text: where it begins."""

    key: str
    title: str
    line: int


@dataclass(frozen=True, slots=True)
class ExampleLine:
    """An example that the edition carries, its line, and what did not come out."""

    id: str
    line: int
    misses: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class CheckedText:
    """What the check says of a text. ``why_not`` is why it cannot be laid before a lead; nothing if it can."""

    title: str
    in_force: date | None
    messages: tuple[LineMessage, ...]
    sections: tuple[Section, ...]
    examples: tuple[ExampleLine, ...]
    why_not: tuple[str, ...]


def check_edition(office: Office, text: str, calendar: Calendar) -> CheckedText:
    """What the check says of the text of an edition, with its examples if it is without a fault."""
    sections = tuple(_sections(text))
    try:
        checked = check_text(text, say("edition"), calendar)
    except UnreadableRulebook as error:
        faults = tuple(LineMessage(fault.line, fault.message, True) for fault in error.faults)
        return CheckedText("", None, faults, sections, (), (say("It has {faults}.", faults=things(len(faults), "fault")),))
    rules = checked.rulebook
    assert rules is not None
    advice = tuple(LineMessage(note.line, note.message, False) for note in checked.advice)
    examples = tuple(_examples(rules, calendar, text))
    return CheckedText(
        rules.edition.title, rules.edition.in_force, advice, sections, examples, tuple(_why_not(office, rules, examples))
    )


def _why_not(office: Office, rules: Rulebook, examples: tuple[ExampleLine, ...]) -> list[str]:
    edition, told = rules.edition, list[str]()
    if missed := [example.id for example in examples if example.misses]:
        told.append(say("An example does not come out: {example}.", example=missed[0]))
    if not examples:
        told.append(say("It carries no example."))
    if edition.in_force <= office_calendar(office).local_day(office.now()):
        told.append(
            say("It would be in force from {day}. An edition begins tomorrow at the earliest.", day=said_day(edition.in_force))
        )
    with read_session(office.engine) as session:
        if edition_from(session, edition.kind, edition.in_force):
            told.append(another_from(edition.kind, edition.in_force))
    return told


def _sections(text: str) -> list[Section]:
    found = []
    for n, line in enumerate(text.splitlines(), 1):
        key = _TOP.match(line)
        if key and key[1] in SECTIONS:
            found.append(Section(key[1], say(SECTIONS[key[1]]), n))
    return found


def _examples(rules: Rulebook, calendar: Calendar, text: str) -> list[ExampleLine]:
    lines = {match[1]: n for n, line in enumerate(text.splitlines(), 1) if (match := re.match(r"\s*- (?:\{)?id: ([\w-]+)", line))}
    return [
        ExampleLine(e.id, lines.get(e.id, 0), tuple(str(miss) for miss in try_example(rules, calendar, e)))
        for e in rules.edition.examples
    ]
