"""Fit for use: accounts and passwords, an office from nothing, settings, mail, backup and restore."""

from __future__ import annotations

import email
import re
import shutil
import socketserver
import threading
import unittest
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from unittest import mock

from sqlalchemy import select

from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooOften
from jolly_clerk.office.keeping.backup import back_up, restore
from jolly_clerk.office.keeping.founding import Founding, found
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.lifetimes import seconds_to_wait
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.people import accounts
from jolly_clerk.office.people import directory as people
from jolly_clerk.office.post import mailing
from jolly_clerk.office.settings import read_settings, write_settings
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import OneTimeLink, Person
from tests.folders import new_folder
from tests.helpers import OfficeTest
from tests.office.test_journey import Cases

GOOD = "a quiet harbour at dawn"


def link_in(office: object, key: str) -> str:
    rows = [out for out, _ in mailing.outbox(office) if out.key.startswith(key)]  # type: ignore[arg-type]
    return rows[-1].text.split("/password/")[1].split()[0]


def code_in(office: object) -> str:
    rows = [out for out, _ in mailing.outbox(office) if out.key.startswith("code-")]  # type: ignore[arg-type]
    found = re.search(r"\b\d{6}\b", rows[-1].text)
    assert found
    return found[0]


class Accounts(OfficeTest):
    def ada(self) -> tuple[people.Begun, Who]:
        """Somebody with an account whose address is confirmed."""
        begun = accounts.sign_up(self.office, "Ada Marsh", "ada@marsh.example", GOOD)
        who = people.signed_in(self.office, begun.secret)
        assert who
        accounts.confirm(self.office, who.who, code_in(self.office))
        return begun, who.who

    def test_sign_up_sign_in_and_the_hash(self) -> None:
        begun = accounts.sign_up(self.office, "  Ada   Marsh ", "Ada@Marsh.Example", GOOD)
        who = people.signed_in(self.office, begun.secret)
        assert who
        self.assertEqual((who.who.name, who.who.role), ("Ada Marsh", "applicant"))
        with read_session(self.office.engine) as session:
            kept = session.scalars(select(Person).where(Person.mail == "ada@marsh.example")).one()
        self.assertTrue(kept.password_hash.startswith("$argon2id$"))
        self.assertNotIn(GOOD, kept.password_hash)
        self.assertTrue(people.signed_in(self.office, accounts.sign_in(self.office, " ADA@marsh.example", GOOD).secret))

    def test_what_cannot_be_an_account(self) -> None:
        accounts.sign_up(self.office, "Ada Marsh", "ada@marsh.example", GOOD)
        for name, mail, password in (
            ("A", "b@c.example", GOOD),
            ("Ada Marsh", "no address", GOOD),
            ("Ada Marsh", "a@b@c", GOOD),
            ("Ada Marsh", "x@y.example\nBcc: z@y.example", GOOD),
            ("Ada Marsh", "b@c.example", "short"),
            ("Ada Marsh", "b@c.example", ""),
            ("Ada Marsh", "b@c.example", "x" * 201),
            ("Ada Marsh", "b@c.example", " " * 12),
            ("Ada Marsh", "b@c.example", "aaaaaaaaaaaa"),
            ("Ada Marsh", "b@c.example", "1234567890"),
            ("Ada Marsh", "b@c.example", "Ada Marsh ada"),
            ("Ada Marsh", "long.name@c.example", "long.name@c.example"),
        ):
            with self.subTest(mail=mail, password=password[:9]), self.assertRaises(Invalid):
                accounts.sign_up(self.office, name, mail, password)

    def test_failures_slow_the_next_tries_and_tell_nothing(self) -> None:
        self.ada()
        told = set()
        for mail in ("ada@marsh.example", "nobody@marsh.example"):
            for _ in range(4):
                with self.assertRaises(NotAllowed) as caught:
                    accounts.sign_in(self.office, mail, "wrong wrong wrong")
                told.add(caught.exception.detail)
            with self.assertRaises(TooOften) as slowed:
                accounts.sign_in(self.office, mail, GOOD)
            self.assertIn("5 seconds", slowed.exception.detail)
        self.assertEqual(len(told), 1)
        self.instant += timedelta(seconds=6)
        self.assertTrue(accounts.sign_in(self.office, "ada@marsh.example", GOOD))
        with self.assertRaises(NotAllowed):
            accounts.sign_in(self.office, "ada@marsh.example", "wrong wrong wrong")

    def test_the_wait_doubles_up_to_a_quarter_of_an_hour(self) -> None:
        self.assertEqual(
            [seconds_to_wait(n, self.instant, self.instant) for n in (0, 3, 4, 5, 6, 11, 12, 400)],
            [0, 0, 5, 10, 20, 640, 900, 900],
        )

    def test_a_person_without_a_password_cannot_sign_in(self) -> None:
        with self.assertRaises(NotAllowed):
            accounts.sign_in(self.office, "", "")

    def test_forgotten_the_link_works_once_and_ends_other_sessions(self) -> None:
        begun, _ = self.ada()
        before = len(mailing.outbox(self.office))
        accounts.forgotten(self.office, "nobody@marsh.example")
        self.assertEqual(len(mailing.outbox(self.office)), before)
        accounts.forgotten(self.office, "ADA@marsh.example")
        secret = link_in(self.office, "password-")
        with read_session(self.office.engine) as session:
            self.assertNotIn(secret, [row.secret_hash for row in session.scalars(select(OneTimeLink))])
        accounts.set_password(self.office, secret, "another quiet harbour")
        self.assertIsNone(people.signed_in(self.office, begun.secret))
        with self.assertRaises(NotFound):
            accounts.set_password(self.office, secret, "a third quiet harbour")
        self.assertTrue(accounts.sign_in(self.office, "ada@marsh.example", "another quiet harbour"))

    def test_a_link_ends_after_two_hours(self) -> None:
        self.ada()
        accounts.forgotten(self.office, "ada@marsh.example")
        secret = link_in(self.office, "password-")
        self.instant += timedelta(hours=2, seconds=1)
        with self.assertRaises(NotFound):
            accounts.set_password(self.office, secret, GOOD)

    def test_changing_it_asks_the_old_one(self) -> None:
        begun = accounts.sign_up(self.office, "Ada Marsh", "ada@marsh.example", GOOD)
        who = people.signed_in(self.office, begun.secret)
        assert who
        with self.assertRaises(NotAllowed):
            accounts.change_password(self.office, who.who, "not it at all", "another quiet harbour")
        accounts.change_password(self.office, who.who, GOOD, "another quiet harbour")
        self.assertTrue(accounts.sign_in(self.office, "ada@marsh.example", "another quiet harbour"))

    def test_a_lead_adds_somebody_who_sets_a_password_and_later_leaves(self) -> None:
        for who in (self.imre, self.odalys, self.anselm):
            with self.assertRaises(NotAllowed):
                accounts.invite(self.office, who, "New One", "new@office.example", "officer")
        with self.assertRaises(Invalid):
            accounts.invite(self.office, self.maud, "New One", "new@office.example", "applicant")
        made = accounts.invite(self.office, self.maud, "New One", "new@office.example", "officer")
        begun = accounts.set_password(self.office, link_in(self.office, "invitation-"), GOOD)
        self.assertIn("New One", [p.name for p in accounts.staff(self.office, self.maud)])
        with self.assertRaises(Invalid):
            accounts.leave(self.office, self.maud, self.maud.id)
        with self.assertRaises(NotFound):
            accounts.leave(self.office, self.maud, self.odalys.id)
        accounts.leave(self.office, self.maud, made.id)
        self.assertIsNone(people.signed_in(self.office, begun.secret))
        with self.assertRaises(NotAllowed):
            accounts.sign_in(self.office, "new@office.example", GOOD)

    def test_one_click_exists_only_in_a_demo(self) -> None:
        self.office.demo = False
        with self.assertRaises(NotAllowed):
            people.sign_in_by_click(self.office, "imre")


class Founded(unittest.TestCase):
    def setUp(self) -> None:
        self.base = new_folder("jolly-clerk-found-")
        self.addCleanup(shutil.rmtree, self.base)
        self.folder = self.base / "office"

    def founding(self, **changes: object) -> Founding:
        values: dict[str, object] = {
            "name": 'Works "Office"',
            "address": "1 Pier Road",
            "lead_name": "Ada Marsh",
            "lead_mail": "ada@office.example",
            "lead_password": GOOD,
            "registers": {"plots": REGISTERS / "plots.csv"},
        }
        return Founding(**{**values, **changes})  # type: ignore[arg-type]

    def test_an_office_from_nothing(self) -> None:
        told = " ".join(found(self.folder, self.founding()))
        self.assertIn("plots, 22 entries", told)
        self.assertIn("BW 2026-07-01", told)
        office = open_office(self.folder)
        self.addCleanup(office.close)
        self.assertEqual((office.name, office.address, office.demo), ('Works "Office"', "1 Pier Road", False))
        begun = accounts.sign_in(office, "ada@office.example", GOOD)
        who = people.signed_in(office, begun.secret)
        assert who
        self.assertEqual(who.who.role, "lead")
        self.assertEqual(list(verify(office)), [])
        with self.assertRaises(Invalid):
            found(self.folder, self.founding())

    def test_its_own_calendar_is_the_one_that_counts(self) -> None:
        own = self.base / "days.yaml"
        text = (Path(__file__).parents[2] / "rulebooks" / "calendars" / "quillhaven.yaml").read_text("utf-8")
        own.write_text(text.replace("[Monday, Tuesday,", "[Tuesday,"), "utf-8")
        found(self.folder, self.founding(calendar=own))
        office = open_office(self.folder)
        self.addCleanup(office.close)
        from jolly_clerk.office.rules.rulebooks import office_calendar

        self.assertEqual(len(office_calendar(office).working_weekdays), 4)

    def test_what_is_wrong_leaves_nothing_behind(self) -> None:
        bad = self.base / "bad.csv"
        bad.write_text("only one column\n", "utf-8")
        for changes in (
            {"name": " "},
            {"lead_mail": "nobody"},
            {"lead_password": "short"},
            {"registers": {"plots": bad}},
            {"registers": {"plots": self.base / "none.csv"}},
        ):
            with self.subTest(str(changes)), self.assertRaises(Invalid):
                found(self.folder, self.founding(**changes))
            self.assertFalse(self.folder.exists())
            self.assertFalse(self.folder.with_name("office.building").exists())

    def test_settings_from_the_file_and_the_environment(self) -> None:
        self.folder.mkdir()
        write_settings(self.folder, {"name": 'A "quoted" \\ office', "address": "two\nlines"})
        self.assertEqual(read_settings(self.folder).name, 'A "quoted" \\ office')
        self.assertEqual(read_settings(self.folder).address, "two lines")
        with mock.patch.dict("os.environ", {"JOLLY_CLERK_NAME": "From outside", "JOLLY_CLERK_PORT": "9000"}):
            settings = read_settings(self.folder)
        self.assertEqual((settings.name, settings.port, settings.smtp_host), ("From outside", 9000, ""))


class Mail(Cases):
    def test_without_a_server_it_lies_with_the_post_room_as_eml(self) -> None:
        reference = self.filed()
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.sections", "wanting")
        checking.send_letter(self.office, self.imre, reference)
        out, named = mailing.outbox(self.office)[-1]
        self.assertEqual(named, reference)
        self.assertIsNotNone(out.delivered_at)
        mail = email.message_from_bytes((self.folder / "post-room" / f"{out.key}.eml").read_bytes())
        self.assertIn(reference, mail["Subject"])
        self.assertEqual([p.get_content_type() for p in mail.walk()][1:], ["text/plain", "application/pdf"])

    def test_with_a_server_it_goes_there_once_and_waits_while_it_is_down(self) -> None:
        accounts.new_person(self.office, "Ada Marsh", "ada@marsh.example", "applicant", GOOD)
        self.office.settings.smtp_host, self.office.settings.smtp_port = "127.0.0.1", 1
        accounts.forgotten(self.office, "ada@marsh.example")
        self.assertEqual(mailing.deliver_waiting(self.office), 0)
        self.assertIsNone(mailing.outbox(self.office)[-1][0].delivered_at)
        with Catcher() as catcher:
            self.office.settings.smtp_port = catcher.port
            self.assertEqual(mailing.deliver_waiting(self.office), 1)
            self.assertEqual(mailing.deliver_waiting(self.office), 0)
        self.assertEqual(len(catcher.caught), 1)
        self.assertIn("/password/", catcher.caught[0])


class Catcher:
    """A mail server of a few lines that keeps what it is sent."""

    def __enter__(self) -> Catcher:
        caught: list[str] = []

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                self.wfile.write(b"220 here\r\n")
                body: list[str] | None = None
                for raw in self.rfile:
                    line = raw.decode().rstrip("\r\n")
                    if body is not None:
                        if line == ".":
                            caught.append("\n".join(body))
                            body = None
                            self.wfile.write(b"250 kept\r\n")
                        else:
                            body.append(line)
                        continue
                    word = line[:4].upper()
                    if word == "DATA":
                        body = []
                    self.wfile.write({"DATA": b"354 go on\r\n", "QUIT": b"221 bye\r\n"}.get(word, b"250 yes\r\n"))
                    if word == "QUIT":
                        return

        self.caught = caught
        self.server = socketserver.TCPServer(("127.0.0.1", 0), Handler)
        self.port = self.server.server_address[1]
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        return self

    def __exit__(self, *_: object) -> None:
        self.server.shutdown()
        self.server.server_close()


class Copies(Cases):
    def test_backed_up_while_it_runs_and_restored_it_verifies(self) -> None:
        reference = self.filed()
        base = new_folder("jolly-clerk-copy-")
        self.addCleanup(shutil.rmtree, base)
        archive = base / "office.tar"
        over = threading.Event()

        def file_on() -> None:
            while not over.is_set():
                self.filed()

        busy = threading.Thread(target=file_on)
        busy.start()
        try:
            self.assertGreater(back_up(self.office, archive), 3)
        finally:
            over.set()
            busy.join()
        self.assertEqual(restore(archive, base / "new", database=self.empty_database()), [])
        office = open_office(base / "new", now=lambda: self.instant)
        self.addCleanup(office.close)
        self.assertEqual(load_case(office, self.odalys, reference).so_far.paid, Decimal("438.18"))
        with self.assertRaises(Invalid):
            restore(archive, base / "new")
        self.assertEqual({p.name for p in base.iterdir()}, {"office.tar", "new"})

    def test_a_cut_or_foreign_file_is_refused(self) -> None:
        self.filed()
        base = new_folder("jolly-clerk-copy-")
        self.addCleanup(shutil.rmtree, base)
        archive = base / "office.tar"
        back_up(self.office, archive)
        cut, foreign = base / "cut.tar", base / "foreign.tar"
        cut.write_bytes(archive.read_bytes()[: archive.stat().st_size // 2])
        foreign.write_bytes(b"not a tar")
        for file in (cut, foreign, base / "none.tar"):
            with self.subTest(file.name), self.assertRaises(Invalid):
                restore(file, base / "new")
            self.assertFalse((base / "new").exists())
