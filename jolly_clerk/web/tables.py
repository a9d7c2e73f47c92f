"""Routes of a part that repeats as a table: rows in, a spreadsheet read, and the table out as one."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import File, Response, UploadFile
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.core.dossier.grid import MOST_COLUMNS, Complaint
from jolly_clerk.office.preparing import earlier, tables
from jolly_clerk.reading.spreadsheet import MOST_LETTERS, MOST_ROWS
from jolly_clerk.web.applicant import Applicant, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.cases import served
from jolly_clerk.web.changed import DraftChanged, draft_changed, draft_seen
from jolly_clerk.web.turns import router_of

router = router_of("/api/drafts/{draft}", "applicant")

MEDIA = {"csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
Cell = Annotated[str, Field(max_length=MOST_LETTERS)]
Row = Annotated[list[Cell], Field(max_length=100)]


class Rows(BaseModel):
    """Rows of a table. ``columns`` are the questions, from the left, of rows that name none, and ``first`` the number of the repeat to
    which the first of them goes; beyond the last they make new ones."""

    rows: list[Row] = Field(max_length=MOST_ROWS)
    columns: list[Annotated[str, Field(max_length=60)]] = Field(default=[], max_length=MOST_COLUMNS)
    first: int | None = Field(default=None, ge=1, le=1_000_000)


class RowsChanged(DraftChanged):
    """What rows that were taken in came to, and what was wrong with them, cell by cell."""

    added: int
    changed: int
    complaints: list[Complaint]


class RowsRead(BaseModel):
    """The rows of a spreadsheet as texts."""

    rows: list[list[str]]


@router.post("/parts/{part}/rows", response_model=RowsChanged)
def take_rows(draft: str, part: str, body: Rows, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take rows into a part that repeats."""
    before = draft_seen(office, who, draft, seen)
    done = tables.take_rows(office, who, draft, part, body.rows, body.columns, body.first, seen)
    told = {"added": done.added, "changed": done.changed, "complaints": [_told(c) for c in done.complaints]}
    return draft_changed(office, who, before, done.draft, also=told)


def _told(complaint: Complaint) -> dict[str, object]:
    return {"row": complaint.row, "column": complaint.column, "text": complaint.text, "place": complaint.place}


class Picked(BaseModel):
    """The keys of what is picked."""

    keys: list[Annotated[str, Field(max_length=20)]] = Field(min_length=1, max_length=100)


@router.get("/parts/{part}/earlier")
def earlier_ones(draft: str, part: str, office: TheOffice, who: Applicant) -> list[earlier.Earlier]:
    """What one has named in earlier filings that fits a part that repeats."""
    return earlier.earlier(office, who, draft, part)


@router.post("/parts/{part}/earlier", response_model=DraftChanged)
def pick(draft: str, part: str, body: Picked, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Add some of them to the part."""
    return changed(office, who, draft, seen, lambda: earlier.pick(office, who, draft, part, body.keys, seen))


@router.post("/parts/table")
def read_table(draft: str, office: TheOffice, who: Applicant, file: Annotated[UploadFile, File()]) -> RowsRead:
    """Read a CSV or XLSX file; nothing is kept."""
    content = file.file.read(tables.MOST_BYTES + 1)
    return RowsRead(rows=tables.read_rows(office, who, draft, file.filename or "", content))


@router.get("/parts/{part}/table.{kind}", response_class=Response)
def give_table(draft: str, part: str, kind: Literal["csv", "xlsx"], office: TheOffice, who: Applicant) -> Response:
    """A part that repeats as a spreadsheet."""
    content, name = tables.table_file(office, who, draft, part, kind)
    return served(content, MEDIA[kind], name, inline=False)
