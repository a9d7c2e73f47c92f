"""The commands of a running office: init by its questions, outbox, clock, backup and restore, the examples of an edition."""

from __future__ import annotations

import io
import shutil
import tarfile
import unittest

from typer.testing import CliRunner

from jolly_clerk.cli import app
from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.folders import new_folder

GOOD = "a quiet harbour at dawn"
RUN = CliRunner()


class Commands(unittest.TestCase):
    def setUp(self) -> None:
        self.base = new_folder("jolly-clerk-cli-")
        self.addCleanup(shutil.rmtree, self.base)
        self.folder = self.base / "office"

    def run_it(self, *words: str, status: int = 0, given: str | None = None) -> str:
        done = RUN.invoke(app, [*words], input=given)
        self.assertEqual(done.exit_code, status, done.output)
        return done.output

    def found(self) -> None:
        answers = [
            "Pier Office",
            "1 Pier Road",
            "",
            f"plots={REGISTERS / 'plots.csv'}",
            "",
            "Ada Marsh",
            "ada@office.example",
            GOOD,
            GOOD,
        ]
        said = self.run_it(
            "office", "init", "--data", str(self.folder), "--account", "QH07 0001 2345", given="\n".join(answers) + "\n"
        )
        self.assertIn("Pier Office: made in", said)
        self.assertNotIn(GOOD, said)

    def test_an_office_and_its_days(self) -> None:
        self.found()
        self.assertIn("0 reminded, 0 lapsed, 0 sent", self.run_it("clock", "--data", str(self.folder)))
        self.assertEqual(self.run_it("clock", "--data", str(self.folder), "--until", "2026-12-24").strip(), "")
        self.assertEqual(self.run_it("outbox", "--data", str(self.folder)), "")
        self.run_it("outbox", "--data", str(self.folder), "--key", "nothing", status=1)
        archive = self.base / "copy.tar"
        self.assertIn("the database and", self.run_it("backup", str(archive), "--data", str(self.folder)))
        self.assertIn("restored, and all is whole", self.run_it("restore", str(archive), "--data", str(self.base / "new")))
        self.assertIn("All is whole", self.run_it("verify", "--data", str(self.base / "new")))
        self.assertIn("is not empty", self.run_it("restore", str(archive), "--data", str(self.base / "new"), status=1))
        self.assertIn('account = "QH07 0001 2345"', (self.folder / "office.toml").read_text("utf-8"))
        self.assertEqual((self.folder / "office.toml").stat().st_mode & 0o777, 0o600)

    def test_a_copy_that_is_not_whole_is_refused_and_leaves_nothing(self) -> None:
        self.found()
        archive, other = self.base / "copy.tar", self.base / "other.tar"
        self.run_it("backup", str(archive), "--data", str(self.folder))

        def without(*names: str, put: dict[str, bytes] | None = None) -> str:
            with tarfile.open(archive) as whole, tarfile.open(other, "w") as made:
                for member in whole.getmembers():
                    content = whole.extractfile(member)
                    if member.name not in names and content:
                        made.addfile(member, content)
                for name, text in (put or {}).items():
                    info = tarfile.TarInfo(name)
                    info.size = len(text)
                    made.addfile(info, io.BytesIO(text))
            said = self.run_it("restore", str(other), "--data", str(self.base / "new"), status=1)
            self.assertFalse((self.base / "new").exists())
            self.assertFalse((self.base / "new.restoring").exists())
            return said

        with tarfile.open(archive) as tar:
            one = next(name for name in tar.getnames() if name.startswith("vault/"))
        self.assertIn("its database is missing", without("office.db"))
        self.assertIn("its database is missing", without("office.db", put={"office.db": b"rubbish" * 1000}))
        self.assertIn("cannot be read", without("office.db", put={"office.db": b"SQLite format 3\x00" + b"rubbish" * 1000}))
        self.assertIn("files of", without(one))
        self.assertIn("cannot be read", without("backup.json", put={"backup.json": b"{"}))
        for name in ("../out.txt", f"{self.base}/out.txt", "vault/../../out.txt"):
            self.assertIn(f"cannot be read: {name}", without(put={name: b"out"}))
        self.assertFalse((self.base / "out.txt").exists())

    def test_looks_and_copies(self) -> None:
        self.found()
        self.assertEqual(self.run_it("looks", "--data", str(self.folder)), "")
        self.run_it("copy-of", "nobody@office.example", str(self.base / "copy.zip"), "--data", str(self.folder), status=1)
        self.assertFalse((self.base / "copy.zip").exists())
        said = self.run_it("copy-of", "ada@office.example", str(self.base / "copy.zip"), "--data", str(self.folder))
        self.assertIn("the cases and 0 files", said)
        erase = ("erase-person", "ada@office.example", "--by", "nobody", "--reason", "asked for", "--data", str(self.folder))
        self.assertIn("no such person", self.run_it(*erase, status=1))

    def test_what_is_wrong_is_said_and_nothing_is_made(self) -> None:
        whole = {
            "--name": "Pier Office",
            "--address": "1 Pier Road",
            "--calendar": " ",
            "--registers": " ",
            "--base-url": "http://localhost:8321",
            "--lead-name": "Ada Marsh",
            "--lead-mail": "ada@office.example",
            "--lead-password": GOOD,
        }
        for option, wrong, says in (
            ("--lead-password", "short", "10 to 200 characters"),
            ("--lead-mail", "nobody", "no mail address"),
            ("--registers", "plots.csv", "name=file.csv"),
            ("--registers", "plots=/none.csv", "cannot be read"),
            ("--calendar", str(SHIPPED / "BW" / "2026-07-01.yaml"), "is no key of a calendar"),
            ("--calendar", str(self.base / "none.yaml"), "No such file"),
        ):
            with self.subTest(option=option, wrong=wrong):
                words = [w for pair in {**whole, option: wrong}.items() for w in pair]
                self.assertIn(says, self.run_it("office", "init", "--data", str(self.folder), *words, status=1))
                self.assertFalse(self.folder.exists())

    def test_commands_need_an_office(self) -> None:
        for words in (("clock",), ("outbox",), ("backup", str(self.base / "x.tar")), ("verify",), ("rebuild",)):
            self.assertIn("there is no office here", self.run_it(*words, "--data", str(self.folder), status=1))

    def test_the_examples_of_an_edition(self) -> None:
        file = SHIPPED / "BW" / "2026-07-01.yaml"
        self.assertRegex(self.run_it("rulebook", "test", str(file)), r"BW 2026-07-01: \d{3} examples come out")
        other = self.base / "BW" / "2026-08-01.yaml"
        other.parent.mkdir()
        other.write_text(file.read_text("utf-8").replace("rate: 65", "rate: 66"), "utf-8")
        said = self.run_it("rulebook", "test", str(other), status=1)
        self.assertIn("fee examination should be 318.18, and is 323.07", said)
