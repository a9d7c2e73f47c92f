"""The in-tray taken along: every case that it shows, in its order, readable by any program and run by none."""

from __future__ import annotations

import csv
import io

import openpyxl

from jolly_clerk.exchange.spreadsheet import csv_file, xlsx_file
from jolly_clerk.office.cases.list_file import tray_table
from jolly_clerk.office.cases.lists import Shown, tray
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.people.directory import person
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Case
from tests.helpers import DemoTest


class ListFiles(DemoTest):
    def setUp(self) -> None:
        super().setUp()
        self.imre = person(self.office, "imre")

    def test_it_holds_what_the_in_tray_shows(self) -> None:
        for shown in (Shown("mine", "", ""), Shown("everyone's", "BW", ""), Shown("everyone's", "", "to hand over")):
            with self.subTest(shown):
                page = tray(self.office, self.imre, shown.whose, shown.kind, shown.view)
                head, *rows = tray_table(self.office, self.imre, shown)
                self.assertEqual({row.reference for group in page.groups for row in group.rows}, {row[0] for row in rows})
                self.assertEqual(sum(group.count for group in page.groups), len(rows))
                self.assertEqual({len(head)}, {len(row) for row in rows})
                limits = [row[8] for row in rows if row[8]]
                self.assertEqual(limits, sorted(limits))

    def test_any_program_reads_it_and_none_runs_it(self) -> None:
        shown = Shown("everyone's", "", "")
        reference = tray_table(self.office, self.imre, shown)[1][0]
        with write_session(self.office.engine) as session:
            session.query(Case).filter(Case.reference == reference).update({"title": '=HYPERLINK("x")'})
        rows = tray_table(self.office, self.imre, shown)
        read = list(csv.reader(io.StringIO(csv_file(rows).decode("utf-8-sig"), newline="")))
        self.assertEqual(len(rows), len(read))
        self.assertEqual('\'=HYPERLINK("x")', read[1][2])
        sheet = openpyxl.load_workbook(io.BytesIO(xlsx_file("In-tray", rows, {}))).active
        self.assertEqual(('=HYPERLINK("x")', "s"), (sheet.cell(2, 3).value, sheet.cell(2, 3).data_type))
        self.assertEqual([r[0] for r in rows], [row[0].value for row in sheet.iter_rows(max_row=len(rows))])

    def test_an_applicant_has_no_in_tray(self) -> None:
        with self.assertRaises(NotAllowed):
            tray_table(self.office, person(self.office, "odalys"), Shown("mine", "", ""))
