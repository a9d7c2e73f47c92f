"""``verify`` names each thing that was tampered with or lost."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
from dataclasses import replace
from datetime import timedelta

from sqlalchemy import select

from jolly_clerk.office.cases import endings
from jolly_clerk.office.desk import checking
from jolly_clerk.office.keeping import verifying
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.store.chain import Chains
from jolly_clerk.store.database import is_postgres, read_session
from jolly_clerk.store.tables import Case
from tests.helpers import sqlite_only
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
        if is_postgres(self.office.engine):  # as somebody who may do anything
            with self.office.engine.begin() as connection:
                connection.exec_driver_sql("set session_replication_role = replica")
                changed = connection.exec_driver_sql(statement.replace("?", "%s"), values).rowcount
                connection.exec_driver_sql("set session_replication_role = origin")
        else:
            with sqlite3.connect(self.folder / "office.db") as file:
                changed = file.execute(statement, values).rowcount
            file.close()
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

    def test_one_case_alone_and_what_changed_since(self) -> None:
        self.sql("update cases set title = 'x' where reference = ?", self.reference)
        self.assertEqual(list(verify(self.office, self.other)), [])
        self.assertEqual(len(list(verify(self.office, self.reference))), 1)
        self.assertEqual(list(verify(self.office, "BW-26-99999-Z")), [])
        self.assertEqual(len(list(verify(self.office, since=self.instant))), 1)
        self.assertEqual(list(verify(self.office, since=self.instant + timedelta(days=1))), [])

    def test_one_that_was_stopped_goes_on_where_it_stopped(self) -> None:
        self.sql("update cases set title = 'x' where reference = ?", self.reference)
        before, verifying.AT_ONCE = verifying.AT_ONCE, 1
        self.addCleanup(setattr, verifying, "AT_ONCE", before)
        steps: list[int] = []

        def stop(done: verifying.Verified) -> None:
            steps.append(done.cases)
            raise KeyboardInterrupt

        found: list[str] = []
        with self.assertRaises(KeyboardInterrupt):
            found.extend(verify(self.office, progress=stop))
        told: list[verifying.Verified] = []
        rest = list(verify(self.office, resume=True, progress=lambda done: told.append(replace(done))))
        self.assertEqual((steps, [d.cases for d in told]), ([1], [2]))
        self.assertEqual(told[-1].wrong, 1)
        self.assertLessEqual(len(rest), 1)
        self.assertFalse((self.folder / verifying.FILE).exists())

    @sqlite_only  # the processes of an import open the other one
    def test_several_processes_find_the_same_in_the_same_order(self) -> None:
        self.sql("update cases set title = 'x' where reference = ?", self.reference)
        self.sql("update entries set body = replace(body, '438.18', '438.19') where case_id = ? and no = 2", self.case_id())
        third = self.filed()
        self.sql("update cases set title = 'y' where reference = ?", third)
        for name, value in (("AT_ONCE", 1), ("WORTH_SHARING", 0)):
            self.addCleanup(setattr, verifying, name, getattr(verifying, name))
            setattr(verifying, name, value)
        alone = self.wrong()
        self.assertEqual(len(alone), 2)
        told: list[verifying.Verified] = []
        shared = list(verify(self.office, progress=lambda done: told.append(replace(done)), workers=2))
        self.assertEqual((shared, [done.cases for done in told]), (alone, [1, 2, 3]))

    def test_the_row_of_an_ended_case_is_sealed(self) -> None:
        endings.withdraw(self.office, self.odalys, self.other)
        loads: list[str] = []
        real = Chains.history
        Chains.history = lambda chains, case_id: loads.append(case_id) or real(chains, case_id)  # type: ignore[method-assign,func-returns-value]
        self.addCleanup(setattr, Chains, "history", real)
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(loads, [self.case_id()], "only the one that lives is looked at by its rules")
        self.sql("update cases set title = 'x' where reference = ?", self.other)
        self.assertIn(f"list row of {self.other}: title is 'x'", self.wrong()[0])

    def test_the_command_says_it_and_fails(self) -> None:
        self.sql("update cases set title = 'x' where reference = ?", self.reference)
        self.office.engine.dispose()
        run = subprocess.run(
            [sys.executable, "-m", "jolly_clerk.cli", "verify", "--data", str(self.folder)], capture_output=True, text=True
        )
        self.assertEqual(run.returncode, 1)
        self.assertIn(f"list row of {self.reference}: title", run.stdout)
