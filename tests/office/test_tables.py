"""Repeats of a draft as a table: spreadsheets of several makes read, taken in and given out; odd and hostile ones told."""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import date, datetime

from openpyxl import Workbook, load_workbook

from jolly_clerk.core.say import speaking
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.preparing import drafts, tables
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.texts import catalogue
from tests.helpers import ROOT, OfficeTest, sqlite_only

HEAD = ["Name as in the passport", "Date of birth", "How many empty pages has it?"]


def workbook(rows: list[list[object]]) -> bytes:
    book, out = Workbook(), io.BytesIO()
    for row in rows:
        book.active.append(row)
    book.save(out)
    return out.getvalue()


class Tables(OfficeTest):
    def setUp(self) -> None:
        super().setUp()
        publish(self.office, sorted((ROOT / "rulebooks" / "QV").glob("*.yaml"))[-1])
        self.draft = drafts.start_draft(self.office, self.odalys, "QV")

    def read(self, content: bytes, name: str = "choir.csv") -> list[list[str]]:
        return tables.read_rows(self.office, self.odalys, self.draft, name, content)

    def persons(self) -> list[dict[str, object]]:
        return drafts.open_draft(self.office, self.odalys, self.draft).dossier.answers["persons"]

    @sqlite_only
    def test_csv_of_every_make(self) -> None:
        for name, content in (
            ("plain", "a,b\r\nÁlvaro Rook,2\r\n".encode()),
            ("with a mark", "a;b\nÁlvaro Rook;2\n".encode("utf-8-sig")),
            ("two bytes", "a\tb\nÁlvaro Rook\t2\n".encode("utf-16")),
            ("older", "a;b\nÁlvaro Rook;2\n".encode("cp1252")),
        ):
            with self.subTest(name):
                self.assertEqual(self.read(content), [["a", "b"], ["Álvaro Rook", "2"]])

    @sqlite_only
    def test_xlsx_with_true_dates_and_numbers(self) -> None:
        content = workbook(
            [HEAD, ["Ines Marrow", date(1991, 1, 15), 6], ["Tom Ashby", datetime(1988, 5, 2, 14, 30), 6.0], [None, True, 1.5]]
        )
        self.assertEqual(
            self.read(content, "choir.xlsx"),
            [HEAD, ["Ines Marrow", "1991-01-15", "6"], ["Tom Ashby", "1988-05-02 14:30", "6"], ["", "yes", "1.5"]],
        )

    @sqlite_only
    def test_what_is_no_table_is_told(self) -> None:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as bundle:
            bundle.writestr("xl/workbook.xml", "<no/>")
        for content, said in (
            (b"", "“choir.csv”: The file is empty."),
            (b"%PDF-1.7\x00\x01\x02", "“choir.csv”: This is no spreadsheet. Save the table as XLSX or as CSV."),
            (packed.getvalue(), "“choir.csv”: This is no spreadsheet that can be read. Save the table as XLSX or as CSV."),
            (b"x" * 2_000_001, "“choir.csv” is larger than 2 MB, the most for a table."),
        ):
            with self.subTest(said), self.assertRaises(Invalid) as told:
                self.read(content)
            self.assertEqual(str(told.exception), said)

    def test_taken_in_and_given_out(self) -> None:
        rows = [HEAD, *([f"Odo Fenn {n}", "2 May 1988", "6"] for n in range(30))]
        done = tables.take_rows(self.office, self.odalys, self.draft, "persons", rows)
        self.assertEqual((done.added, done.changed, done.complaints), (30, 0, ()))
        self.assertEqual(len(self.persons()), 30)
        content, name = tables.table_file(self.office, self.odalys, self.draft, "persons", "csv")
        self.assertEqual(name, "Persons.csv")
        out = list(csv.reader(io.StringIO(content.decode("utf-8-sig"))))
        self.assertEqual(out[1][:4], ["1", "Odo Fenn 0", "", "1988-05-02"])
        content, _ = tables.table_file(self.office, self.odalys, self.draft, "persons", "xlsx")
        again = tables.take_rows(self.office, self.odalys, self.draft, "persons", self.read(content, "Persons.xlsx"))
        self.assertEqual((again.added, again.changed, again.complaints), (0, 0, ()))
        sheet = load_workbook(io.BytesIO(content)).active
        offered = [v for v in sheet.data_validations.dataValidation if v.type == "list"]
        self.assertEqual(len(offered), 1, "what they do is chosen from a list")

    def test_in_portuguese_the_words_of_both_languages_are_known(self) -> None:
        with speaking(catalogue("pt"), "pt"):
            content, _ = tables.table_file(self.office, self.odalys, self.draft, "persons", "csv")
            head = self.read(content)[0]
            self.assertNotIn("Date of birth", head)
            rows = [head[:4], ["", "Ines Marrow", "", "31 Jun 1996"]]
            done = tables.take_rows(self.office, self.odalys, self.draft, "persons", rows)
            self.assertEqual((done.added, [c.column for c in done.complaints]), (1, [head[3]]))
            done = tables.take_rows(self.office, self.odalys, self.draft, "persons", [HEAD, ["Tom Ashby", "2 May 1988", "6"]])
            self.assertEqual((done.added, done.complaints), (1, ()))
            content, _ = tables.table_file(self.office, self.odalys, self.draft, "persons", "csv")
        done = tables.take_rows(self.office, self.odalys, self.draft, "persons", self.read(content))
        self.assertEqual((done.added, done.changed, done.complaints), (0, 0, ()), "given out in one language, read in another")

    def test_a_formula_stays_a_text(self) -> None:
        tables.take_rows(self.office, self.odalys, self.draft, "persons", [HEAD[:1], ["=1+1"]])
        content, _ = tables.table_file(self.office, self.odalys, self.draft, "persons", "csv")
        self.assertIn("'=1+1", content.decode("utf-8-sig"))
        self.assertEqual(self.read(content)[1][1], "=1+1")
        content, _ = tables.table_file(self.office, self.odalys, self.draft, "persons", "xlsx")
        self.assertEqual(load_workbook(io.BytesIO(content)).active["B2"].data_type, "s")

    def test_a_part_that_does_not_repeat_is_none(self) -> None:
        for part in ("tour", "nothing"):
            with self.assertRaises(NotFound):
                tables.take_rows(self.office, self.odalys, self.draft, part, [HEAD])

    def test_what_another_window_typed_stays(self) -> None:
        before = drafts.open_draft(self.office, self.odalys, self.draft).draft.revision
        drafts.keep(self.office, self.odalys, self.draft, before, {"tour": {"title": "The Salt Choir"}})
        tables.take_rows(self.office, self.odalys, self.draft, "persons", [HEAD[:1], ["Ines Marrow"]], seen=before)
        now = drafts.open_draft(self.office, self.odalys, self.draft).dossier.answers
        self.assertEqual((now["tour"]["title"], now["persons"][0]["name"]), ("The Salt Choir", "Ines Marrow"))
