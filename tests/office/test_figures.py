"""The figures of the demo equal what plain SQL sums over the same rows; of nobody but how much each officer has."""

from __future__ import annotations

import io
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from openpyxl import load_workbook

from jolly_clerk.core.figures import Figure, Letter, common_points, share
from jolly_clerk.exchange.spreadsheet import csv_file, xlsx_file
from jolly_clerk.office.errors import Invalid, NotAllowed
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.views.figures import figures, table_of
from tests.helpers import OfficeTest, demo_folder


class OfTheDemo(OfficeTest):
    sqlite_only = True  # the demo is laid in SQLite

    def setUp(self) -> None:
        super().setUp()
        self.office.engine.dispose()
        self.demo = demo_folder()
        self.office = open_office(self.demo, demo=True)
        self.addCleanup(self.office.close)
        self.maud = person(self.office, "maud")
        self.until = date.today() + timedelta(days=400)

    def figure(self, id_: str, kind: str = "", since: date = date(2020, 1, 1)) -> Figure:
        return next(t for t in figures(self.office, self.maud, since, self.until, kind).tables if t.id == id_)

    def sql(self, query: str) -> list[Any]:
        with closing(sqlite3.connect(self.demo / "office.db")) as plain:
            return plain.execute(query).fetchall()

    def test_they_equal_plain_sums(self) -> None:
        live = "tray != ''"
        self.assertEqual(
            sorted((row[1], row[2]) for row in self.figure("open").rows),
            sorted(self.sql(f"select count(*), sum(holder = 'ours') from cases where {live} group by kind")),
        )
        (whole,) = self.sql(f"select count(*) from cases where {live}")
        self.assertEqual(sum(row[1] for row in self.figure("load").rows), whole[0])  # type: ignore[misc]
        said = "select count(distinct case_id) from entries where json_extract(body, '$.what') = 'accepted'"
        ((complete,),) = self.sql(f"{said} and coalesce(json_extract(body, '$.completes'), 1)")
        ((asked,),) = self.sql(
            f"{said} and coalesce(json_extract(body, '$.completes'), 1) and case_id in"
            " (select case_id from entries where json_extract(body, '$.what') = 'letter sent')"
        )
        rows = self.figure("first look").rows
        self.assertEqual((sum(r[1] for r in rows), sum(r[2] for r in rows)), (complete, complete - asked))  # type: ignore[misc]
        ((points,),) = self.sql(
            "select sum(json_array_length(coalesce(personal, body), '$.points')) from entries where json_extract(body, '$.what') = 'letter sent'"
        )
        told = common_points([Letter("x", 1, ())], 15).rows
        self.assertEqual((told, self.figure("points").rows[0][1] > 0), ((), True))  # type: ignore[operator]
        self.assertLessEqual(sum(r[1] for r in self.figure("points").rows), points)  # type: ignore[misc]
        placed = self.sql("select amount from placings where charged_back_at is null")
        self.assertEqual(sum(r[1] for r in self.figure("taken").rows), sum(Decimal(a) for (a,) in placed))  # type: ignore[misc]
        owed = self.sql("select amount from owed where until is not null")
        self.assertEqual(sum(r[3] for r in self.figure("taken").rows), sum(Decimal(a) for (a,) in owed))  # type: ignore[misc]
        (decided,) = self.sql(
            "select count(*) from cases where state in ('Granted', 'Refused', 'Not accepted', 'Out of scope', 'Lapsed', 'Withdrawn')"
        )
        self.assertEqual(sum(r[1] for r in self.figure("days").rows), decided[0])  # type: ignore[misc]

    def test_a_time_and_a_kind(self) -> None:
        self.assertEqual([len(self.figure(id_, "QV").rows) for id_ in ("open", "days")], [1, 1])
        self.assertEqual(self.figure("points", "CP").rows, ())
        later = self.figure("taken", since=date.today() + timedelta(days=300))
        self.assertEqual(later.rows, ())
        with self.assertRaises(Invalid):
            figures(self.office, self.maud, date(2026, 2, 1), date(2026, 1, 1))
        for who in ("imre", "odalys", "silas", "petra"):
            with self.assertRaises(NotAllowed):
                figures(self.office, person(self.office, who), date(2026, 1, 1), self.until)

    def test_nobody_is_in_them_but_by_load(self) -> None:
        names = {name for (name,) in self.sql("select name from people")}
        for table in figures(self.office, self.maud, date(2020, 1, 1), self.until).tables:
            told = {str(cell) for row in table.rows for cell in row}
            if table.id != "load":
                self.assertEqual(told & names, set(), table.id)
            rows = table_of(table)
            self.assertEqual({len(row) for row in rows}, {len(table.columns)})
            sheet = load_workbook(io.BytesIO(xlsx_file(table.title, rows, {}))).active
            assert sheet is not None
            self.assertEqual([str(c.value) for c in next(sheet.iter_rows())], list(table.columns))
            self.assertEqual(len(csv_file(rows).decode("utf-8-sig").splitlines()), len(rows))

    def test_shares_and_what_is_asked_again(self) -> None:
        self.assertEqual((share(1, 3), share(2, 3), share(0, 0), share(1, 200)), (33, 67, 0, 1))
        letters = [
            Letter("a", 1, (("plan", "Plan"), ("deed", "Deed"))),
            Letter("a", 2, (("plan", "Plan"),)),
            Letter("b", 1, (("plan", "Plan"),)),
        ]
        self.assertEqual(common_points(letters).rows, (("Plan", 3, 1), ("Deed", 1, 0)))
