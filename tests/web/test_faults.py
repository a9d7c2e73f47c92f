"""A full disk, a folder that may only be read, a clock set back, a database that lost its end: a clear answer, nothing acknowledged lost."""

from __future__ import annotations

import errno
import json
import shutil
import sqlite3
import unittest
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from sqlalchemy import event
from sqlalchemy.exc import OperationalError
from typer.testing import CliRunner

from jolly_clerk.cli import app as commands
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking, talking
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.store import outside
from jolly_clerk.store.database import ClockBehind
from tests.web.test_web import WebTest


class Faults(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed()
        self.officer = self.client("imre")

    def begin(self) -> Any:
        return self.officer.post(f"/api/cases/{self.reference}/checking", json={})

    def test_a_full_disk(self) -> None:
        def full(*_: object) -> None:
            raise OperationalError("insert", {}, sqlite3.OperationalError("database or disk is full"))

        event.listen(self.office.engine, "before_execute", full)
        answer = self.begin()
        event.remove(self.office.engine, "before_execute", full)
        self.assertEqual((answer.status_code, answer.json()["title"]), (507, "No room"))
        self.assertIn("Nothing was kept", answer.json()["detail"])
        self.assertEqual(self.begin().status_code, 200)

    def test_a_full_vault(self) -> None:
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "BW"}).json()["id"]
        sent = {"data": {"slot": "site_plan"}, "files": {"file": ("a.pdf", b"%PDF-1.4 x")}}
        for number, status in ((errno.ENOSPC, 507), (errno.EDQUOT, 507), (errno.EROFS, 503), (errno.EIO, 500)):
            with mock.patch("os.fsync", side_effect=OSError(number, "no")):
                self.assertEqual(client.post(f"/api/drafts/{draft}/files", **sent).status_code, status)
        self.assertEqual(list(self.office.vault.folder.glob("incoming-*")), [])
        self.assertEqual(client.post(f"/api/drafts/{draft}/files", **sent).status_code, 201)

    def test_a_database_that_may_only_be_read(self) -> None:
        def read_only(*_: object) -> None:
            raise OperationalError("insert", {}, sqlite3.OperationalError("attempt to write a readonly database"))

        event.listen(self.office.engine, "before_execute", read_only)
        answer = self.begin()
        event.remove(self.office.engine, "before_execute", read_only)
        self.assertEqual((answer.status_code, answer.json()["title"]), (503, "Nothing can be written"))

    def test_health_tries_a_write_a_file_and_the_clock(self) -> None:
        def health() -> tuple[int, dict[str, str]]:
            from jolly_clerk.web.app import create_app

            self.app = create_app(self.office)  # one that tried nothing yet
            answer = self.client().get("/health")
            return answer.status_code, answer.json()

        self.assertEqual(health(), (200, {"status": "ok", "database": "ok", "vault": "ok", "clock": "ok"}))
        with mock.patch("jolly_clerk.web.minding.write_session", side_effect=OperationalError("x", {}, Exception("full"))):
            self.assertEqual(health(), (503, {"status": "broken", "database": "OperationalError", "vault": "ok", "clock": "ok"}))
        vault = self.office.vault.folder
        vault.rename(vault.with_name("elsewhere"))
        self.assertEqual(health()[1]["vault"], "FileNotFoundError")
        vault.with_name("elsewhere").rename(vault)
        self.instant -= timedelta(days=400)
        self.assertEqual(health()[1]["clock"], "behind")

    def test_a_clock_that_is_set_back(self) -> None:
        talking.note(self.office, self.imre, self.reference, "At ten.")
        self.instant -= timedelta(minutes=1)
        done = talking.note(self.office, self.imre, self.reference, "A minute before ten.")
        at = [e.at for e in done.history.entries]
        self.assertEqual(at, sorted(at))
        self.instant -= timedelta(days=400)
        count = len(done.history.entries)
        with self.assertRaises(ClockBehind):
            talking.note(self.office, self.imre, self.reference, "A year before.")
        with mock.patch("jolly_clerk.office.people.directory.signed_in"):
            self.instant += timedelta(days=399, hours=23)
            answer = self.begin()
        self.assertEqual((answer.status_code, answer.json()["title"]), (503, "The clock is wrong"))
        self.assertEqual(len(load_case(self.office, self.imre, self.reference).history.entries), count)
        self.instant += timedelta(days=1, hours=2)
        checking.begin_checking(self.office, self.imre, self.reference)
        self.assertEqual(list(verify(self.office)), [])


class LostEnd(WebTest):
    def test_a_write_ahead_log_that_was_deleted_is_named(self) -> None:
        self.filed()
        with self.office.engine.connect() as connection:
            connection.exec_driver_sql("pragma wal_checkpoint(truncate)")
        kept = self.folder / "kept.db"
        shutil.copyfile(self.folder / "office.db", kept)
        second = self.filed()
        self.assertEqual(list(verify(self.office)), [])
        self.office.engine.dispose()
        for name in ("office.db-wal", "office.db-shm"):
            (self.folder / name).unlink(missing_ok=True)
        shutil.copyfile(kept, self.folder / "office.db")
        wrong = list(verify(self.office))
        self.assertEqual(len(wrong), 1, wrong)
        self.assertIn("the database lost what was written last", wrong[0])
        self.assertIn("2026-11-05 10:00:00 UTC", wrong[0])
        self.assertTrue(second)

    def test_a_note_that_is_damaged_or_missing_hurts_nobody(self) -> None:
        self.filed()
        for text in ("", "{", "[]", json.dumps({"case_id": "x"})):
            (self.folder / outside.FILE).write_text(text, "utf-8")
            self.assertIsNone(outside.last_noted(self.folder))
            self.assertEqual(list(verify(self.office)), [])
        (self.folder / outside.FILE).unlink()
        self.assertEqual(list(verify(self.office)), [])


class Folders(unittest.TestCase):
    def test_an_office_that_cannot_be_opened_is_told_in_a_sentence(self) -> None:
        from tests.folders import new_folder

        folder = Path(new_folder()) / "office"
        folder.mkdir()
        (folder / "office.db").write_bytes(b"this is no database at all" * 100)
        for command in (["verify"], ["serve"], ["clock"]):
            done = CliRunner().invoke(commands, [*command, "--data", str(folder)])
            self.assertEqual(done.exit_code, 1, done.output)
            self.assertIn("the office cannot be opened", done.output)
            self.assertNotIn("Traceback", done.output)
