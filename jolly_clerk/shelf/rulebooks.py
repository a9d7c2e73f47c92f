"""Rulebook and calendar files: reading, checking, finding. Faults name the file and the line."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

from pydantic import BaseModel, ValidationError

from jolly_clerk.core.known import CalendarFile, calendar_faults
from jolly_clerk.core.rulebook.advice import advice
from jolly_clerk.core.rulebook.compiled import Rulebook, RulebookFaults
from jolly_clerk.core.rulebook.compiler import compile_edition
from jolly_clerk.core.rulebook.model import Edition
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.strict import no_calendars, strict_faults
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.shelf.nodes import FileFault, Nodes, UnreadableRulebook, read_nodes
from jolly_clerk.shelf.shapes import shape_faults


@dataclass(frozen=True, slots=True)
class Shelved:
    """An edition read from text: the compiled rulebook, the text and its SHA-256."""

    rulebook: Rulebook
    text: str
    sha256: str


def read_rulebook(text: str, file: str, strict: bool = False) -> Shelved:
    """Read, check and compile one edition; ``strict`` refuses as well what an edition published before still runs with.

    Raises :class:`UnreadableRulebook` with every fault at once.
    """
    nodes = read_nodes(text, file)
    try:
        rulebook = compile_edition(Edition.model_validate(nodes.value))
    except ValidationError as error:
        raise UnreadableRulebook(_faults_of(error, nodes, Edition)) from None
    except RulebookFaults as found:
        faults = [FileFault(file, nodes.line(f.path), _with_path(f.path, f.message, f.column)) for f in found.faults]
        raise UnreadableRulebook(sorted(faults, key=lambda f: f.line)) from None
    if strict and (odd := strict_faults(rulebook)):
        raise UnreadableRulebook([FileFault(file, nodes.line(f.path), _with_path(f.path, f.message, 0)) for f in odd])
    return Shelved(rulebook, text, hashlib.sha256(text.encode()).hexdigest())


def without_examples(text: str) -> str:
    """The text of an edition up to its examples: what a running office needs. They stand last and hold no rule."""
    head, found, tail = text.partition("\nexamples:\n")
    only = found and all(line[:1] in (" ", "#", "") for line in tail.splitlines())
    return head + "\n" if only else text


def _with_path(path: tuple[str | int, ...], message: str, column: int) -> str:
    key = ".".join(str(p) for p in path if isinstance(p, str))
    where = say("{key}, column {column}", key=key, column=column) if column > 1 else key
    return f"{where}: {message}"


def _faults_of(error: ValidationError, nodes: Nodes, model: type[BaseModel]) -> list[FileFault]:
    found = [
        FileFault(nodes.file, nodes.line(path), _with_path(path, message, 0))
        for path, message in shape_faults(error, nodes.value, model)
    ]
    return sorted(found, key=lambda f: f.line)


@dataclass(frozen=True, slots=True)
class CheckedFile:
    """An edition file without a fault, and what in it is worth a look, each with its line."""

    rulebook: Rulebook | None
    advice: tuple[FileFault, ...]


def check_rulebook_file(path: Path) -> CheckedFile:
    """Check an edition with the calendar that it names, or a calendar by itself (then there is no edition).

    Raises :class:`UnreadableRulebook` with every fault.
    """
    text = _text_of(path)
    if "\nworking_days:" in f"\n{text}" and "\nkind:" not in f"\n{text}":
        read_calendar(text, str(path), strict=True)
        return CheckedFile(None, ())
    rulebook = read_rulebook(text, str(path)).rulebook
    nodes = read_nodes(text, str(path))
    faults = [FileFault(str(path), nodes.line(f.path), _with_path(f.path, f.message, 0)) for f in strict_faults(rulebook)]
    try:
        calendar = calendar_beside(path, rulebook.edition.calendar, nodes.line(("calendar",)), strict=True)
        faults += [
            FileFault(str(path), nodes.line(at), _with_path(at, message, 0)) for at, message in no_calendars(rulebook, calendar)
        ]
    except UnreadableRulebook as error:
        faults += error.faults
    if faults:
        raise UnreadableRulebook(sorted(faults, key=lambda f: f.line))
    told = tuple(FileFault(str(path), nodes.line(a.path) if a.path else 0, a.message) for a in advice(rulebook))
    return CheckedFile(rulebook, told)


def check_text(text: str, file: str, calendar: Calendar) -> CheckedFile:
    """Check the text of an edition with a calendar. Raises :class:`UnreadableRulebook` with every fault."""
    rulebook = read_rulebook(text, file).rulebook
    nodes = read_nodes(text, file)
    odd = [*((f.path, f.message) for f in strict_faults(rulebook)), *no_calendars(rulebook, calendar)]
    if odd:
        faults = [FileFault(file, nodes.line(path), _with_path(path, message, 0)) for path, message in odd]
        raise UnreadableRulebook(sorted(faults, key=lambda f: f.line))
    told = tuple(FileFault(file, nodes.line(a.path) if a.path else 0, a.message) for a in advice(rulebook))
    return CheckedFile(rulebook, told)


def read_rulebook_file(path: Path) -> Shelved:
    """Read one edition from a file."""
    return read_rulebook(_text_of(path), str(path))


def read_calendar(text: str, file: str, strict: bool = False) -> Calendar:
    """Read a calendar file; ``strict`` refuses as well what an office that has it from before goes on with.

    Raises :class:`UnreadableRulebook`.
    """
    nodes = read_nodes(text, file)
    try:
        told = CalendarFile.model_validate(nodes.value)
    except ValidationError as error:
        raise UnreadableRulebook(_faults_of(error, nodes, CalendarFile)) from None
    faults = [FileFault(file, nodes.line(path), _with_path(path, message, 0)) for path, message in calendar_faults(told, strict)]
    if faults:
        raise UnreadableRulebook(faults)
    return told.calendar()


def calendar_beside(rulebook_file: Path, name: str, line: int = 0, strict: bool = False) -> Calendar:
    """The calendar that an edition names: ``calendars/NAME.yaml`` in a folder above the file, else the one shipped."""
    places = [parent / "calendars" / f"{name}.yaml" for parent in rulebook_file.resolve().parents]
    places = [*places, SHIPPED / "calendars" / f"{name}.yaml"]
    for place in places:
        if place.is_file():
            return read_calendar(_text_of(place), str(place), strict)
    there = sorted({file.stem for place in places for file in place.parent.glob("*.yaml")})
    near = did_you_mean(name, there)
    told = say("no calendar is called `{name}` in a folder `calendars` beside this file or above it{near}", name=name, near=near)
    raise UnreadableRulebook([FileFault(str(rulebook_file), line, told)])


def _text_of(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise UnreadableRulebook([FileFault(str(path), 0, say("this file cannot be read: {error}", error=error))]) from None


def editions_in(folder: Path) -> list[Path]:
    """Every edition file below a folder, oldest first within a kind."""
    return sorted(p for p in folder.glob("??/*.yaml"))


SHIPPED = Path(__file__).resolve().parents[2] / "rulebooks"
