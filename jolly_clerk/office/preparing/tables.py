"""The repeats of a draft as a table: rows pasted or read from a spreadsheet taken in, and the table given out as one."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from jolly_clerk.core.dossier.grid import Complaint, columns_of, given_out, take_in
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.exchange.spreadsheet import csv_file, xlsx_file
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.attaching import clean_name
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, need_bounded, open_draft

#: bytes of a spreadsheet at most
MOST_BYTES = 2_000_000


@dataclass(frozen=True, slots=True)
class RowsTaken:
    """A draft with the rows of a table in it, how many repeats were added and changed, and what was wrong."""

    draft: OpenDraft
    added: int
    changed: int
    complaints: tuple[Complaint, ...]


def take_rows(
    office: Office,
    who: Who,
    draft_id: str,
    part: str,
    rows: Sequence[Sequence[str]],
    columns: Sequence[str] = (),
    first: int | None = None,
    seen: int | None = None,
) -> RowsTaken:
    """Take the rows of a table into the repeats of a part (see :func:`jolly_clerk.core.dossier.grid.take_in`). Raises NotFound."""
    now = open_draft(office, who, draft_id)
    rules = _repeating(now.rulebook, part)
    as_written = office.rulebooks[now.edition_sha256]  # the same in the edition's own language and with its translations
    told = list[tuple[int, int, tuple[Complaint, ...]]]()

    def put(dossier: Dossier) -> Dossier:
        taken = take_in(
            rules, dossier, now.history.versions, part, rows, now.assessment.filing_day, columns, first, (as_written,)
        )
        need_bounded(taken.dossier.answers, rules)
        told.append((taken.added, taken.changed, taken.complaints))
        return taken.dossier

    changed = change_draft(office, who, draft_id, put, seen)
    return RowsTaken(changed, *told[-1])


def read_rows(office: Office, who: Who, draft_id: str, name: str, content: bytes) -> list[list[str]]:
    """The rows of a CSV or XLSX file. Raises Invalid if it is too large or none."""
    open_draft(office, who, draft_id)
    if len(content) > MOST_BYTES:
        raise Invalid(
            say("“{name}” is larger than {most} MB, the most for a table.", name=clean_name(name), most=MOST_BYTES // 10**6)
        )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table"
        path.write_bytes(content)
        cells = office.readers.cells(path)
    if cells.trouble:
        raise Invalid(say("“{name}”: {trouble}", name=clean_name(name), trouble=cells.trouble))
    return cells.rows


def table_file(office: Office, who: Who, draft_id: str, part: str, kind: Literal["csv", "xlsx"]) -> tuple[bytes, str]:
    """The repeats of a part as a CSV or XLSX file, and its name; with no repeat yet it is the table to be filled in. Raises NotFound."""
    now = open_draft(office, who, draft_id)
    rules = _repeating(now.rulebook, part)
    rows = given_out(rules, now.dossier, part, now.assessment.filing_day)
    title = rules.parts[part].title
    name = f"{clean_name(title)}.{kind}"
    if kind == "csv":
        return csv_file(rows), name
    choices = {
        n: list(node.options.values()) for n, node in enumerate(columns_of(rules, part), 1) if node.question.type == "one of"
    }
    return xlsx_file(title, rows, choices), name


def _repeating(rules: Rulebook, part: str) -> Rulebook:
    if part not in rules.parts or not rules.parts[part].each:
        raise NotFound(say("There is no such part."))
    return rules
