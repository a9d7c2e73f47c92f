"""The cells of a spreadsheet (CSV or XLSX) as texts; runs in the fenced reader, since nobody knows what is in the file."""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import date, datetime, time
from pathlib import Path

from pydantic import BaseModel

from jolly_clerk.core.say import say
from jolly_clerk.exchange.spreadsheet import FORMULA

#: so many rows and columns are read, and so many characters of a cell
MOST_ROWS, MOST_COLUMNS, MOST_LETTERS = 1000, 100, 4000


class Cells(BaseModel):
    """The rows of a table as texts, or why there are none."""

    rows: list[list[str]] = []
    trouble: str = ""


def read_cells(path: Path) -> Cells:
    """Read the first sheet of an XLSX file, or a CSV file whatever its separator and its encoding; dates come as ``2026-11-05``."""
    content = path.read_bytes()
    if not content.strip():
        return Cells(trouble=say("The file is empty."))
    if zipfile.is_zipfile(io.BytesIO(content)):
        return _workbook(content)
    if b"\x00" in content[:4000] and not content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return Cells(trouble=say("This is no spreadsheet. Save the table as XLSX or as CSV."))
    try:
        return Cells(rows=_separated(_decoded(content)))
    except csv.Error:
        return Cells(trouble=say("This CSV file cannot be read: its quotation marks do not match."))


def _decoded(content: bytes) -> str:
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return content.decode("utf-16", "replace")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:  # what older programs write
        return content.decode("cp1252", "replace")


def _separated(text: str) -> list[list[str]]:
    first = text.lstrip().partition("\n")[0]
    separator = max(",;\t|", key=lambda sign: first.count(sign))
    rows: list[list[str]] = []
    for row in csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=False):
        if len(rows) == MOST_ROWS:
            break
        rows.append([_said(cell) for cell in row[:MOST_COLUMNS]])
    return _trimmed(rows)


def _workbook(content: bytes) -> Cells:
    import openpyxl

    try:
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        sheet = next((s for s in book.worksheets if s.sheet_state == "visible"), None)
        if sheet is None:
            return Cells(trouble=say("There is no sheet in this file."))
        rows = sheet.iter_rows(max_row=MOST_ROWS, max_col=MOST_COLUMNS, values_only=True)
        return Cells(rows=_trimmed([[_said(cell) for cell in row] for row in rows]))
    except (KeyError, ValueError, OSError, TypeError, AttributeError, zipfile.BadZipFile, SyntaxError):
        return Cells(trouble=say("This is no spreadsheet that can be read. Save the table as XLSX or as CSV."))


def _trimmed(rows: list[list[str]]) -> list[list[str]]:
    """Rows without the empty ones at the end, none wider than the widest."""
    while rows and not any(rows[-1]):
        rows.pop()
    widest = max((n for row in rows for n, cell in enumerate(row, 1) if cell), default=0)
    return [row[:widest] for row in rows]


def _said(cell: object) -> str:
    """A cell as a person would type it."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.strftime("%Y-%m-%d %H:%M")
    if isinstance(cell, (date, time)):
        return cell.isoformat() if isinstance(cell, date) else cell.strftime("%H:%M")
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    text = str(cell).strip()[:MOST_LETTERS]
    # what stands behind an apostrophe so that no program takes it for a formula; the apostrophe is no part of the text
    return text[1:] if text[:1] == "'" and text[1:2] in FORMULA else text
