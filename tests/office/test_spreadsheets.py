"""Lists and figures as an office suite reads them: LibreOffice opens each, shows what is in it, and runs nothing."""

from __future__ import annotations

import csv
import io
import shutil
import subprocess
import unittest
from datetime import date
from decimal import Decimal

import openpyxl

from jolly_clerk.exchange.spreadsheet import Rows, csv_file, xlsx_file
from jolly_clerk.office.cases.list_file import tray_table
from jolly_clerk.office.cases.lists import Shown
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.views.figures import figures, table_of
from tests.folders import new_folder
from tests.helpers import DemoTest

SUITE = shutil.which("soffice")
#: what a program could take for a formula, or for a command of the system
ODD = ("=1+1", '=HYPERLINK("http://x.example";"x")', "+2-1", "-3", "@SUM(A1)", "\t=1+1", "Ÿ “Tide”, row; 'x'")


@unittest.skipIf(SUITE is None, "LibreOffice is not installed")
class AsOthersReadThem(DemoTest):
    def converted(self, content: bytes, ending: str, to: str) -> bytes:
        """A file as LibreOffice writes it again in another format."""
        folder = new_folder()
        (folder / f"table.{ending}").write_bytes(content)
        own = f"-env:UserInstallation=file://{folder}/own"
        command = [
            str(SUITE),
            own,
            "--headless",
            "--convert-to",
            to,
            "--outdir",
            str(folder / "out"),
            str(folder / f"table.{ending}"),
        ]
        subprocess.run(command, check=True, capture_output=True, timeout=120)
        return next((folder / "out").iterdir()).read_bytes()

    def as_shown(self, content: bytes) -> list[list[str]]:
        """The cells of an XLSX as the office suite shows them."""
        made = self.converted(content, "xlsx", "csv:Text - txt - csv (StarCalc):44,34,76,1,,1033,false,true")
        rows = list(csv.reader(io.StringIO(made.decode("utf-8"), newline="")))
        return [row for row in rows if any(row)]

    def told(self, rows: Rows) -> list[list[str]]:
        return [[str(cell) for cell in row] for row in rows]

    def test_words_are_shown_as_they_stand_and_numbers_are_numbers(self) -> None:
        rows: Rows = [("Words", "Count", "Amount", "Day"), *((odd, 3, Decimal("-12.50"), date(2026, 11, 5)) for odd in ODD)]
        content = xlsx_file("Odd", rows, {})
        self.assertEqual(self.told(rows), self.as_shown(content))
        sheet = openpyxl.load_workbook(io.BytesIO(self.converted(content, "xlsx", "xlsx"))).active
        assert sheet is not None
        self.assertEqual(
            {"s", "n", "d"}, {cell.data_type for row in sheet.iter_rows(min_row=2, max_row=len(rows)) for cell in row}
        )
        self.assertEqual(-12.5, sheet.cell(2, 3).value)

    def test_a_csv_holds_no_formula(self) -> None:
        made = self.converted(csv_file([("Words",), *((odd,) for odd in ODD)]), "csv", "xlsx")
        sheet = openpyxl.load_workbook(io.BytesIO(made)).active
        assert sheet is not None
        self.assertNotIn("f", {cell.data_type for row in sheet.iter_rows() for cell in row})

    def test_the_in_tray_and_each_figure(self) -> None:
        tray = tray_table(self.office, person(self.office, "imre"), Shown("everyone's", "", ""))
        self.assertEqual(self.told(tray), self.as_shown(xlsx_file("In-tray", tray, {})))
        told = figures(self.office, person(self.office, "maud"), date(2026, 1, 1), date(2026, 12, 31)).tables
        fullest = max(told, key=lambda one: len(one.rows))
        self.assertEqual(self.told(table_of(fullest)), self.as_shown(xlsx_file(fullest.title, table_of(fullest), {})))
