"""A table as CSV (RFC 4180, UTF-8) and as XLSX (ISO/IEC 29500), so that any program opens it and none runs what is in it."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from datetime import date
from decimal import Decimal

#: what some programs take for the beginning of a formula
FORMULA = ("=", "+", "-", "@", "\t", "\r")
#: rows that are ready to be filled in, and how wide a column is at most, in characters
READY, WIDEST = 200, 40

#: a cell: words, which no program runs, or a number, an amount or a day, with which one goes on reckoning
Cell = str | int | Decimal | date
Rows = Sequence[Sequence[Cell]]


#: how the cells of an XLSX are shown, by what they hold
_FORMATS: dict[type, str] = {str: "@", int: "0", Decimal: "0.00", date: "yyyy-mm-dd"}


def csv_file(rows: Rows) -> bytes:
    """A table as CSV. A cell that a program could take for a formula stands behind an apostrophe."""
    out = io.StringIO(newline="")
    csv.writer(out).writerows([_plain(cell) if isinstance(cell, str) else str(cell) for cell in row] for row in rows)
    return out.getvalue().encode("utf-8-sig")


def xlsx_file(title: str, rows: Rows, choices: Mapping[int, Sequence[str]]) -> bytes:
    """A table as XLSX, its first row fixed; numbers and days are such, all else is text.

    ``choices`` are offered in the columns of these numbers, counted from 0.
    """
    from openpyxl import Workbook  # loaded with the first table that is taken away
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.datavalidation import DataValidation

    book = Workbook()
    sheet = book.active
    sheet.title = "".join(c for c in title if c not in "[]:*?/\\")[:31] or "Table"
    for y, row in enumerate(rows, 1):
        for x, cell in enumerate(row, 1):
            there = sheet.cell(y, x, cell)
            there.number_format = next(shown for kind, shown in _FORMATS.items() if isinstance(cell, kind))
            if isinstance(cell, str):
                there.data_type = "s"
            if y == 1:
                there.font = Font(bold=True)
    for x in range(1, len(rows[0]) + 1):
        letter = get_column_letter(x)
        longest = max(len(str(row[x - 1])) for row in rows)
        sheet.column_dimensions[letter].width = min(WIDEST, max(10, longest + 2))
        for y in range(len(rows) + 1, READY + 1):
            sheet.cell(y, x).number_format = "@"
    sheet.freeze_panes = "B2"
    if choices:
        listed = book.create_sheet("Choices")
        listed.sheet_state = "hidden"
        for n, (column, titles) in enumerate(choices.items(), 1):
            for y, told in enumerate(titles, 1):
                listed.cell(y, n, told).data_type = "s"
            letter, own = get_column_letter(n), get_column_letter(column + 1)
            offered = DataValidation("list", formula1=f"Choices!${letter}$1:${letter}${len(titles)}", allow_blank=True)
            offered.add(f"{own}2:{own}{READY}")
            sheet.add_data_validation(offered)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _plain(cell: str) -> str:
    return f"'{cell}" if cell.startswith(FORMULA) else cell
