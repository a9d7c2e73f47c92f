"""``verify`` names each thing that was tampered with or lost."""

from __future__ import annotations

import subprocess
import sys

from sqlalchemy import select

from jolly_clerk.office.desk import checking
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.store.database import is_postgres, read_session
from jolly_clerk.store.tables import Case
from tests.office.test_journey import SMALL_PLAN, Cases


class Tampering(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed(plan=SMALL_PLAN)
        self.other = self.filed()
        checking.begin_checking(self.office, self.imre, self.reference)
        self.judge_all(self.reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, self.reference)
        self.assertEqual(list(verify(self.office)), [])

    def sql(self, statement: str, *values: object) -> None:
        with self.office.engine.begin() as connection:
            if is_postgres(self.office.engine):
                connection.exec_driver_sql("set session_replication_role = replica")  # as somebody who may do anything
            else:
                connection.exec_driver_sql("pragma defer_foreign_keys = on")
            mark = "%s" if is_postgres(self.office.engine) else "?"
            changed = connection.exec_driver_sql(statement.replace("?", mark), values).rowcount
        self.assertEqual(changed, 1)

    def case_id(self) -> str:
        with read_session(self.office.engine) as session:
            return session.scalars(select(Case.id).where(Case.reference == self.reference)).one()

    def wrong(self) -> list[str]:
        found = list(verify(self.office))
        self.assertTrue(found)
        return found

    def test_a_byte_in_a_history_entry(self) -> None:
        self.sql("update entries set body = replace(body, '438.18', '438.19') where case_id = ? and no = 2", self.case_id())
        self.assertEqual(self.wrong(), [f"history of {self.reference}, entry 2: it does not fit the chain"])

    def test_a_byte_in_the_personal_part_of_an_entry(self) -> None:
        no = len(self.said_entries())
        self.sql(
            "update entries set personal = replace(personal, 'A3 or', 'A4 or') where case_id = ? and no = ?", self.case_id(), no
        )
        self.assertEqual(self.wrong(), [f"history of {self.reference}, entry {no}: its personal part was changed"])

    def said_entries(self) -> tuple[object, ...]:
        from jolly_clerk.office.cases.casework import load_case

        return load_case(self.office, self.imre, self.reference).history.entries

    def test_a_byte_in_a_file(self) -> None:
        from jolly_clerk.office.cases.casework import load_case

        attachment = load_case(self.office, self.imre, self.reference).dossier.attachments[0]
        path = self.office.vault.path(attachment.sha256)
        content = bytearray(path.read_bytes())
        content[100] ^= 1
        path.write_bytes(bytes(content))
        (line,) = self.wrong()
        self.assertIn(attachment.sha256[:12], line)
        self.assertIn(f"“plan.pdf” in {self.reference}, version 1", line)
        path.unlink()
        self.assertIn("is missing from the vault", self.wrong()[0])

    def test_a_byte_in_a_list_row(self) -> None:
        self.sql("update cases set next_officer = 'Answers to 2 points' where reference = ?", self.reference)
        (line,) = self.wrong()
        self.assertIn(f"list row of {self.reference}: next_officer is 'Answers to 2 points'", line)
        self.assertEqual(rebuild(self.office), 1)
        self.assertEqual(list(verify(self.office)), [])

    def test_the_last_entry_cut_off(self) -> None:
        count = len(self.said_entries())
        self.sql("delete from entries where case_id = ? and no = ?", self.case_id(), count)
        self.assertEqual(
            self.wrong(),
            [f"history of {self.reference}: it has {count - 1} entries, its head counts {count}; the end is cut off"],
        )

    def test_an_entry_taken_out_of_the_middle(self) -> None:
        self.sql("delete from entries where case_id = ? and no = 3", self.case_id())
        self.assertIn(f"history of {self.reference}, entry 4: entry 3 is missing before it", self.wrong())

    def test_a_changed_version(self) -> None:
        self.sql("update versions set dossier = replace(dossier, '95.8', '59.8') where case_id = ?", self.case_id())
        self.assertIn(f"version 1 of {self.reference} was changed", self.wrong())

    def test_a_payment_that_is_missing_takes_its_receipt_along(self) -> None:
        self.sql("delete from entries where no = 2 and case_id = (select id from cases where reference = ?)", self.other)
        lines = self.wrong()
        self.assertIn("receipt 2026-00002 is missing", lines)
        self.assertTrue(any(line.startswith(f"history of {self.other}") for line in lines))

    def test_a_case_that_is_missing_from_the_list(self) -> None:
        self.sql("delete from cases where reference = ?", self.other)
        self.assertTrue(any("has no row in the list of cases" in line for line in self.wrong()))

    def test_the_command_says_it_and_fails(self) -> None:
        self.sql("update cases set title = 'x' where reference = ?", self.reference)
        self.office.engine.dispose()
        run = subprocess.run(
            [sys.executable, "-m", "jolly_clerk.cli", "verify", "--data", str(self.folder)], capture_output=True, text=True
        )
        self.assertEqual(run.returncode, 1)
        self.assertIn(f"list row of {self.reference}: title", run.stdout)
