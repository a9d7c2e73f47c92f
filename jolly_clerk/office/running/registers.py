"""The registers that the office looks into: which there are, and a new state of one from a CSV file, shown before it is taken."""

from __future__ import annotations

import csv
import hashlib
import io
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.ports import as_key
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.office.errors import Invalid, NotFound, NotReady, Stale
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.office.running.changes import need_lead, note_change
from jolly_clerk.standins.registers import MOST_ROWS, RegisterFolder
from jolly_clerk.store.database import write_session


@dataclass(frozen=True, slots=True)
class RegisterTold:
    """A register: how many rows it has, since when, whether it answers, whether a map lies beside it, and whether it takes one: the
    rules measure on it."""

    name: str
    title: str
    rows: int
    since: datetime | None
    answers: bool
    map: bool
    takes_map: bool


@dataclass(frozen=True, slots=True)
class RowChanged:
    """A row that differs: the key, and what was and is, by column."""

    key: str
    differs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class RegisterChange:
    """What a new state of a register brings. ``sha256`` is that of the file, with which it is taken; a few rows of each sort are named.
    ``lost`` are columns that rules name and the file does not have: then it cannot be taken."""

    name: str
    sha256: str
    rows: int
    came: int
    gone: int
    differ: int
    some_came: tuple[str, ...]
    some_gone: tuple[str, ...]
    some_differ: tuple[RowChanged, ...]
    lost: tuple[str, ...]


#: so many rows of each sort are named, and so many bytes has a file at most
NAMED, MOST_BYTES = 12, 100_000_000
Table = dict[str, dict[str, str]]


def registers(office: Office) -> tuple[RegisterTold, ...]:
    """The registers that lie in the office's folder; nothing if they lie elsewhere."""
    if not isinstance(office.registers, RegisterFolder):
        return ()
    titles, measured, told = _titles(office), _measured(office), list[RegisterTold]()
    for file in sorted(office.registers.folder.glob("*.csv")):
        silent = file.with_suffix(".silent").exists()
        rows = 0 if silent else len(office.registers.rows(file.stem))
        since = datetime.fromtimestamp(file.stat().st_mtime, UTC)
        title, drawn = titles.get(file.stem, file.stem), file.with_suffix(".geojson").exists()
        told.append(RegisterTold(file.stem, title, rows, since, not silent, drawn, drawn or file.stem in measured))
    return tuple(told)


def look_over(office: Office, who: Who, name: str, content: bytes) -> RegisterChange:
    """What a CSV file would change in a register; nothing is written.

    Raises NotAllowed for everybody but a lead, NotFound for a register that is not there, Invalid with the line for a file that cannot be read.
    """
    need_lead(who)
    folder, key, needed = folder_of(office), _key(office, name), _needed(office, name)
    if not (folder.folder / f"{name}.csv").is_file():
        raise NotFound(say("There is no such register."))
    new, columns = _table(content, key)
    old, _ = _table((folder.folder / f"{name}.csv").read_bytes(), key)
    came, gone = [k for k in new if k not in old], [k for k in old if k not in new]
    differ = [k for k in new if k in old and new[k] != old[k]]
    return RegisterChange(
        name=name,
        sha256=hashlib.sha256(content).hexdigest(),
        rows=len(new),
        came=len(came),
        gone=len(gone),
        differ=len(differ),
        some_came=tuple(_said(new[k]) for k in came[:NAMED]),
        some_gone=tuple(_said(old[k]) for k in gone[:NAMED]),
        some_differ=tuple(RowChanged(next(iter(new[k].values())), _differs(old[k], new[k])) for k in differ[:NAMED]),
        lost=tuple(sorted(needed - set(columns))),
    )


def take(office: Office, who: Who, name: str, content: bytes, sha256: str) -> RegisterChange:
    """Take a new state of a register, as it was looked over (``sha256``). The one before is kept among the office's files.

    Raises as :func:`look_over` does; Stale for another file; NotReady if a column is missing that rules name.
    """
    change = look_over(office, who, name, content)
    if change.sha256 != sha256:
        raise Stale(say("This is another file than the one that was looked over."))
    if change.lost:
        raise NotReady(say("The rules need columns that are missing in it: {columns}.", columns=all_of(change.lost)))
    file = folder_of(office).folder / f"{name}.csv"
    before = office.vault.put(file.read_bytes())
    said = say(
        "Register {name}: {rows}; {came} new, {gone} gone, {differ} changed. The state before is kept as {before}…",
        name=name,
        rows=things(change.rows, "row"),
        came=change.came,
        gone=change.gone,
        differ=change.differ,
        before=before[:12],
    )
    put_in_place(office, who, name, file, content, said)
    return change


def put_in_place(office: Office, who: Who, name: str, file: Path, content: bytes, said: str) -> None:
    """Write a file of a register, whole or not at all, and note in words what was done."""
    new = file.with_name(f"{file.name}.new")
    with write_session(office.engine) as session:
        note_change(office, session, who.id, "register", name, said)
        new.write_bytes(content)
        new.replace(file)


def folder_of(office: Office) -> RegisterFolder:
    """Where the registers lie. Raises NotReady if they lie elsewhere."""
    if not isinstance(office.registers, RegisterFolder):
        raise NotReady(say("The registers of this office are kept elsewhere."))
    return office.registers


def _table(content: bytes, key: str) -> tuple[Table, list[str]]:
    """The rows of a CSV file by their key, and its columns. Raises Invalid with the line."""
    if len(content) > MOST_BYTES:
        raise Invalid(say("It has more than {most} MB.", most=MOST_BYTES // 1_000_000))
    try:
        lines = csv.reader(io.StringIO(content.decode("utf-8-sig"), newline=""), strict=True)
        columns = [cell.strip() for cell in next(lines, [])]
        _check_columns(columns, key)
        rows: Table = {}
        for cells in lines:
            if not any(cell.strip() for cell in cells):
                continue
            _add(rows, columns, [cell.strip() for cell in cells], key or columns[0], lines.line_num)
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise Invalid(say("Line {line} is not UTF-8. Save it as CSV in UTF-8.", line=line)) from None
    except csv.Error as error:
        raise Invalid(say("Line {line}: {why}.", line=lines.line_num, why=error)) from None
    return rows, columns


def _check_columns(columns: list[str], key: str) -> None:
    if not columns or not all(columns):
        raise Invalid(say("The first line has to name each column."))
    twice = next((c for n, c in enumerate(columns) if c in columns[:n]), "")
    if twice:
        raise Invalid(say("The column {name} is named twice.", name=twice))
    if key and key not in columns:
        raise Invalid(say("The column {name} is missing, by which an entry is found.", name=key))


def _add(rows: Table, columns: list[str], cells: list[str], key: str, line: int) -> None:
    if len(cells) != len(columns):
        told = {"line": line, "cells": len(cells), "columns": len(columns)}
        raise Invalid(say("Line {line} has {cells} cells; the first line names {columns}.", **told))
    row = dict(zip(columns, cells, strict=True))
    own = as_key(row[key])
    if not own:
        raise Invalid(say("Line {line} has nothing in {key}.", line=line, key=key))
    if own in rows:
        raise Invalid(say("Line {line}: {value} is there twice.", line=line, value=row[key]))
    if len(rows) >= MOST_ROWS:
        raise Invalid(say("It has more than {most} rows.", most=MOST_ROWS))
    rows[own] = row


def _said(row: Mapping[str, str]) -> str:
    return " · ".join(text for text in row.values() if text)


def _differs(old: Mapping[str, str], new: Mapping[str, str]) -> tuple[str, ...]:
    columns = [c for c in {**old, **new} if old.get(c, "") != new.get(c, "")]
    return tuple(f"{c}: {old.get(c, '') or '—'} → {new.get(c, '') or '—'}" for c in columns)


def _titles(office: Office) -> dict[str, str]:
    today = office_calendar(office).local_day(office.now())
    return {name: r.title for rules in kinds(office, today) for name, r in rules.edition.registers.items()}


def _measured(office: Office) -> set[str]:
    """The registers on whose map the rules measure."""
    today = office_calendar(office).local_day(office.now())
    return {name for rules in kinds(office, today) for name, r in rules.edition.registers.items() if r.measures}


def _of_rules(office: Office, name: str) -> list[tuple[str, set[str]]]:
    today = office_calendar(office).local_day(office.now())
    found = (rules.edition.registers.get(name) for rules in kinds(office, today))
    return [(r.key, set(r.columns)) for r in found if r is not None and not r.cases_of]


def _key(office: Office, name: str) -> str:
    """The column by which the rules find an entry; empty if none of them looks into it."""
    return next((key for key, _ in _of_rules(office, name)), "")


def _needed(office: Office, name: str) -> set[str]:
    return set[str]().union(*(columns for _, columns in _of_rules(office, name)))
