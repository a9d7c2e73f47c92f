"""The vault, the chain, counters and transactions on a real SQLite file."""

from __future__ import annotations

import hashlib
import sqlite3
import threading
import unittest
from datetime import UTC, datetime, timedelta, timezone
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from jolly_clerk.core import history as h
from jolly_clerk.core.dossier.model import Version
from jolly_clerk.store.chain import append, canonical, keep_version, load_history, salted, seal, verify_chain
from jolly_clerk.store.database import next_number, one_look, open_database, read_session, write_session
from jolly_clerk.store.tables import Case, Head, HistoryEntry, Person
from jolly_clerk.store.vault import Vault
from tests.folders import new_folder
from tests.helpers import at, dossier


class VaultTest(unittest.TestCase):
    def setUp(self) -> None:
        self.vault = Vault(new_folder() / "vault")

    @settings(max_examples=30)
    @given(st.binary(max_size=2000))
    def test_what_is_put_is_got(self, content: bytes) -> None:
        sha256 = self.vault.put(content)
        self.assertEqual(sha256, hashlib.sha256(content).hexdigest())
        self.assertEqual(self.vault.get(sha256), content)
        self.assertEqual(self.vault.check(sha256), "")

    def test_the_same_content_is_kept_once(self) -> None:
        for _ in range(3):
            self.vault.put(b"plan")
        self.assertEqual(len(list(self.vault.all())), 1)
        self.assertEqual([p for p in self.vault.folder.iterdir() if p.name.startswith("incoming-")], [])

    def test_many_at_once(self) -> None:
        threads = [threading.Thread(target=self.vault.put, args=(b"x" * 10_000 + bytes([n % 5]),)) for n in range(30)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(list(self.vault.all())), 5)
        self.assertTrue(all(self.vault.check(s) == "" for s in self.vault.all()))

    def test_names_are_never_paths(self) -> None:
        for name in ("../../etc/passwd", "a" * 63, "A" * 64, "", "a" * 64 + "/x", "/" + "a" * 63, "a" * 64 + "\n"):
            with self.subTest(name), self.assertRaises(ValueError):
                self.vault.path(name)

    def test_missing_and_changed_are_told_apart(self) -> None:
        sha256 = self.vault.put(b"plan")
        self.vault.path(sha256).write_bytes(b"plam")
        self.assertEqual(self.vault.check(sha256), "does not have the content it was kept under")
        self.vault.path(sha256).unlink()
        self.assertEqual(self.vault.check(sha256), "is missing from the vault")
        with self.assertRaises(FileNotFoundError):
            self.vault.get(sha256)


class DatabaseTest(unittest.TestCase):
    def setUp(self) -> None:
        self.file = new_folder() / "office.db"
        self.engine = open_database(self.file)
        self.addCleanup(self.engine.dispose)
        with write_session(self.engine) as session:
            session.add(Person(id="o", name="Odalys Renn", role="applicant"))
            session.flush()
            session.add(self.case("c1", "BW-26-00001-B"))

    def case(self, id_: str, reference: str) -> Case:
        now = at(2026, 11, 5)
        return Case(
            id=id_, reference=reference, kind="BW", edition_sha256="e" * 64, applicant_id="o", title="t", state="Filed", holder="ours",
            filed_at=now, changed_at=now, version=1, step="check", next_officer="", next_applicant="", squares=[], entries=0,
        )  # fmt: skip


class Transactions(DatabaseTest):
    def test_opening_again_changes_nothing(self) -> None:
        self.engine.dispose()
        again = open_database(self.file)
        with read_session(again) as session:
            self.assertEqual(session.scalars(select(Person.name)).all(), ["Odalys Renn"])
        again.dispose()

    def test_the_settings_that_keep_it_safe(self) -> None:
        with self.engine.connect() as connection:
            found = {
                p: connection.exec_driver_sql(f"PRAGMA {p}").scalar() for p in ("journal_mode", "synchronous", "foreign_keys")
            }
        self.assertEqual(found, {"journal_mode": "wal", "synchronous": 2, "foreign_keys": 1})

    def test_everything_or_nothing(self) -> None:
        with self.assertRaises(RuntimeError), write_session(self.engine) as session:
            session.add(Person(id="x", name="Nobody", role="applicant"))
            session.flush()
            raise RuntimeError
        with read_session(self.engine) as session:
            self.assertIsNone(session.get(Person, "x"))

    def test_in_one_look_everything_is_read_at_one_instant_and_nothing_is_written(self) -> None:
        with write_session(self.engine) as session:
            session.add(Person(id="a", name="Ada", role="applicant"))
        with one_look(self.engine) as look:
            with read_session(self.engine) as inner, one_look(self.engine) as innermost:
                self.assertIs(inner, look)
                self.assertIs(innermost, look)
            with self.assertRaisesRegex(RuntimeError, "a look writes nothing"), write_session(self.engine):
                pass
            with read_session(self.engine) as still:
                self.assertIs(still, look)
        with read_session(self.engine) as after:
            self.assertIsNot(after, look)
        with write_session(self.engine) as session:
            session.get_one(Person, "a").name = "Bo"

    def test_a_row_of_nobody_is_refused(self) -> None:
        with self.assertRaises(IntegrityError), write_session(self.engine) as session:
            wrong = self.case("c2", "BW-26-00002-M")
            wrong.applicant_id = "nobody"
            session.add(wrong)

    def test_instants_keep_their_moment_whatever_their_zone(self) -> None:
        east = datetime(2026, 11, 5, 12, 30, tzinfo=timezone(timedelta(hours=5)))
        with write_session(self.engine) as session:
            session.get_one(Case, "c1").limit_at = east
        with read_session(self.engine) as session:
            found = session.get_one(Case, "c1").limit_at
        self.assertEqual(found, east)
        self.assertEqual(found.tzinfo if found else None, UTC)

    def test_numbers_have_no_gap(self) -> None:
        for _ in range(3):
            with write_session(self.engine) as session:
                next_number(session, "receipt 2026")
        with self.assertRaises(RuntimeError), write_session(self.engine) as session:
            self.assertEqual(next_number(session, "receipt 2026"), 4)
            raise RuntimeError
        with write_session(self.engine) as session:
            self.assertEqual(next_number(session, "receipt 2026"), 4)
            self.assertEqual(next_number(session, "receipt 2027"), 1)

    def test_two_writers_never_get_the_same_number(self) -> None:
        numbers: list[int] = []

        def write() -> None:
            for _ in range(15):
                with write_session(self.engine) as session:
                    numbers.append(next_number(session, "case"))

        threads = [threading.Thread(target=write) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(numbers), list(range(1, 61)))


FILED = h.Filed(at=at(2026, 11, 5), who="o", role="applicant", edition="BW 2026-07-01", due_at_filing=Decimal("438.18"))
JUDGED = h.Judged(
    at=at(2026, 11, 9), who="i", role="officer", requirement="may-act", standing="in doubt", reason="ask Ivo", version=1
)
BEGAN = h.CheckingBegan(at=at(2026, 11, 9), who="i", role="officer")


class Chain(DatabaseTest):
    def setUp(self) -> None:
        super().setUp()
        sealed = seal(Version(no=1, at=FILED.at, dossier=dossier()))
        with write_session(self.engine) as session:
            keep_version(session, "c1", sealed)
            self.assertEqual(append(session, "c1", [FILED.model_copy(update={"dossier_hash": sealed.hash}), BEGAN]), 2)
        with write_session(self.engine) as session:
            self.assertEqual(append(session, "c1", [JUDGED]), 3)

    def wrong(self) -> list[str]:
        with read_session(self.engine) as session:
            return list(verify_chain(session, "c1", "REF"))

    def change(self, statement: str, *values: object) -> None:
        with sqlite3.connect(self.file) as connection:
            self.assertEqual(connection.execute(statement, values).rowcount, 1)
        connection.close()

    def test_it_is_loaded_as_it_was_written(self) -> None:
        with read_session(self.engine) as session:
            found = load_history(session, "c1")
        self.assertEqual(found.entries[1:], (BEGAN, JUDGED))
        self.assertEqual(found.versions[0].dossier, dossier())
        self.assertEqual(self.wrong(), [])

    def test_each_entry_is_linked_to_the_one_before(self) -> None:
        with read_session(self.engine) as session:
            rows = list(session.scalars(select(HistoryEntry).order_by(HistoryEntry.no)))
            self.assertEqual([r.previous for r in rows], ["0" * 64, rows[0].hash, rows[1].hash])
            self.assertEqual(session.get_one(Head, "c1").hash, rows[2].hash)

    def test_what_is_personal_stands_beside_the_chain(self) -> None:
        with read_session(self.engine) as session:
            row = session.scalars(select(HistoryEntry).where(HistoryEntry.no == 3)).one()
        self.assertNotIn("Ivo", row.body)
        self.assertEqual(row.personal, canonical({"reason": "ask Ivo"}))
        self.assertIn(salted(row.personal or "", row.salt), row.body)

    def test_any_byte_of_a_body_shows(self) -> None:
        for what, to in (("officer", "0fficer"), ("may-act", "may-act"), ("in doubt", "in d0ubt"), ("2026-11-09", "2026-11-08")):
            if what == to:
                continue
            with self.subTest(what):
                self.change("update entries set body = replace(body, ?, ?) where no = 3 and case_id = 'c1'", what, to)
                self.assertEqual(self.wrong(), ["history of REF, entry 3: it does not fit the chain"])
                self.change("update entries set body = replace(body, ?, ?) where no = 3 and case_id = 'c1'", to, what)
                self.assertEqual(self.wrong(), [])

    def test_damaged_text_is_named_and_does_not_stumble(self) -> None:
        self.change("update entries set body = substr(body, 1, 20) where no = 2 and case_id = 'c1'")
        self.assertEqual(self.wrong()[0], "history of REF, entry 2: its text is damaged")

    def test_a_personal_part_that_is_gone_without_the_word_for_it(self) -> None:
        self.change("update entries set personal = null where no = 3 and case_id = 'c1'")
        self.assertEqual(self.wrong(), ["history of REF, entry 3: its personal part is missing"])

    def test_a_rewritten_tail_does_not_match_its_head(self) -> None:
        self.change("update heads set hash = ? where case_id = 'c1'", "f" * 64)
        self.assertEqual(self.wrong(), ["history of REF: its head does not match the last entry"])
        self.change("delete from heads where case_id = 'c1'")
        self.assertIn("its head counts 0", self.wrong()[0])

    def test_a_version_that_is_gone_or_changed(self) -> None:
        self.change("update versions set dossier = replace(dossier, 'Saltern', 'Saltarn') where case_id = 'c1'")
        self.assertEqual(self.wrong(), ["version 1 of REF was changed"])
        self.change("delete from versions where case_id = 'c1'")
        self.assertEqual(self.wrong(), ["version 1 of REF is missing"])

    def test_the_same_dossier_sealed_twice_gives_nothing_away(self) -> None:
        version = Version(no=1, at=FILED.at, dossier=dossier())
        one, two = seal(version), seal(version)
        self.assertEqual(one.text, two.text)
        self.assertNotEqual(one.hash, two.hash)
