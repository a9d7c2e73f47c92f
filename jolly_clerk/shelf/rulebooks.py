"""Rulebook and calendar files: reading, checking, finding. Faults name the file and the line."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from jolly_clerk.core.known import CalendarFile
from jolly_clerk.core.rulebook.advice import advice
from jolly_clerk.core.rulebook.compiled import Rulebook, RulebookFaults
from jolly_clerk.core.rulebook.compiler import compile_edition
from jolly_clerk.core.rulebook.model import Edition
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.shelf.nodes import FileFault, Nodes, UnreadableRulebook, read_nodes

_SAID = {
    "missing": _("this is missing"),
    "extra_forbidden": _("no such key is known here"),
}


@dataclass(frozen=True, slots=True)
class Shelved:
    """An edition read from text: the compiled rulebook, the text and its SHA-256."""

    rulebook: Rulebook
    text: str
    sha256: str


def read_rulebook(text: str, file: str) -> Shelved:
    """Read, check and compile one edition. Raises :class:`UnreadableRulebook` with every fault at once."""
    nodes = read_nodes(text, file)
    try:
        rulebook = compile_edition(Edition.model_validate(nodes.value))
    except ValidationError as error:
        raise UnreadableRulebook(_faults_of(error, nodes)) from None
    except RulebookFaults as found:
        faults = [FileFault(file, nodes.line(f.path), _with_path(f.path, f.message, f.column)) for f in found.faults]
        raise UnreadableRulebook(sorted(faults, key=lambda f: f.line)) from None
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


def _faults_of(error: ValidationError, nodes: Nodes) -> list[FileFault]:
    found = []
    for problem in error.errors():
        path = tuple(p for p in problem["loc"])
        known = _SAID.get(problem["type"])
        message = say(known) if known else problem["msg"].removeprefix("Value error, ")
        found.append(FileFault(nodes.file, nodes.line(path), _with_path(path, message, 0)))
    return sorted(found, key=lambda f: f.line)


def advice_for(path: Path) -> list[FileFault]:
    """What in an edition file is worth a look though it is no fault, each with its line. Raises :class:`UnreadableRulebook`."""
    text = _text_of(path)
    nodes = read_nodes(text, str(path))
    return [
        FileFault(str(path), nodes.line(a.path) if a.path else 0, a.message)
        for a in advice(read_rulebook(text, str(path)).rulebook)
    ]


def read_rulebook_file(path: Path) -> Shelved:
    """Read one edition from a file."""
    return read_rulebook(_text_of(path), str(path))


def read_calendar(text: str, file: str) -> Calendar:
    """Read a calendar file. Raises :class:`UnreadableRulebook`."""
    nodes = read_nodes(text, file)
    try:
        return CalendarFile.model_validate(nodes.value).calendar()
    except ValidationError as error:
        raise UnreadableRulebook(_faults_of(error, nodes)) from None


def calendar_beside(rulebook_file: Path, name: str) -> Calendar:
    """The calendar that an edition names: ``calendars/NAME.yaml`` in a folder above the file, else the one shipped."""
    places = [parent / "calendars" / f"{name}.yaml" for parent in rulebook_file.resolve().parents]
    for place in [*places, SHIPPED / "calendars" / f"{name}.yaml"]:
        if place.is_file():
            return read_calendar(_text_of(place), str(place))
    raise UnreadableRulebook([FileFault(str(rulebook_file), 0, say("no calendar is called {name}", name=f"{name!r}"))])


def _text_of(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise UnreadableRulebook([FileFault(str(path), 0, say("this file cannot be read: {error}", error=error))]) from None


def editions_in(folder: Path) -> list[Path]:
    """Every edition file below a folder, oldest first within a kind."""
    return sorted(p for p in folder.glob("??/*.yaml"))


SHIPPED = Path(__file__).resolve().parents[2] / "rulebooks"
