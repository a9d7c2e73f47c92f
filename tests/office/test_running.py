"""The office run from the browser: its condition in words, what could not be sent, settings, registers."""

from __future__ import annotations

import email
import email.policy
import json
import os
import shutil
from collections.abc import Callable
from typing import Any
from unittest.mock import patch

from jolly_clerk.core.ports import NoAnswer
from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.keeping.backup import back_up, restore
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.post.mailing import put_out_mail
from jolly_clerk.office.running import condition, copies, maps, registers, settling
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Outgoing, Person
from tests.folders import new_folder
from tests.office.test_journey import Cases


class Running(Cases):
    def setUp(self) -> None:
        super().setUp()
        (self.folder / "registers").mkdir(exist_ok=True)
        self.plots = self.folder / "registers" / "plots.csv"
        self.plots.write_bytes((REGISTERS / "plots.csv").read_bytes())
        self.lines = self.plots.read_text("utf-8").splitlines()

    def page(self) -> condition.OfficePage:
        return condition.office_page(self.office, self.maud)

    def part(self, name: str) -> condition.OfficePart:
        return next(p for p in self.page().parts if p.name == name)

    def test_a_copy_is_told_with_its_day_and_grows_old(self) -> None:
        self.assertFalse(self.part("Copies").well)
        self.assertIn("No copy of this office was ever taken", self.part("Copies").says)
        to = new_folder() / "monday.tar"
        back_up(self.office, to)
        self.assertTrue(self.part("Copies").well)
        self.assertRegex(self.part("Copies").says, r"The last was taken on Thu 5 Nov 2026: monday.tar, \d+ files, \d+ MB\.")
        self.assertEqual(["by command"], [c.who for c in self.page().changes])
        self.move_to(2026, 11, 8)
        self.assertFalse(self.part("Copies").well)
        self.assertIn("more than two days ago", self.part("Copies").says)

    def test_a_lead_takes_a_copy_from_which_the_office_is_made_again(self) -> None:
        reference = self.filed()
        with self.assertRaises(NotAllowed):
            copies.take_copy(self.office, self.imre)
        begun = list[Callable[[], None]]()
        copies.take_copy(self.office, self.maud, begun.append)
        self.assertFalse(self.page().copying)
        begun[0]()
        (archive,) = copies.folder_of_copies(self.office).glob("*.tar")
        self.assertEqual((0o600, 0o700), (archive.stat().st_mode & 0o777, archive.parent.stat().st_mode & 0o777))
        self.assertIn(archive.name, self.part("Copies").says)
        self.assertIn("lie on the disk of the office: carry them elsewhere", self.part("Copies").says)
        self.assertEqual(["Maud Ferrier"], [c.who for c in self.page().changes])
        again = new_folder() / "again"
        self.assertEqual([], restore(archive, again, database=self.empty_database()))
        self.assertFalse((again / "copies").exists())
        made = open_office(again, demo=True)
        self.addCleanup(made.engine.dispose)
        self.assertEqual(reference, load_case(made, self.imre, reference).case.reference)

    def test_one_copy_at_a_time_and_only_where_there_is_room(self) -> None:
        folder = copies.folder_of_copies(self.office)
        folder.mkdir()
        with copies._taking(folder):
            self.assertTrue(self.page().copying)
            with self.assertRaisesRegex(NotReady, "being taken already"):
                copies.take_copy(self.office, self.maud)
            copies._take(self.office, self.maud, folder)  # whoever was slower
        self.assertFalse(self.page().copying)
        self.assertEqual([], list(folder.glob("*.tar")))
        full = patch("jolly_clerk.office.running.copies.shutil.disk_usage", return_value=shutil._ntuple_diskusage(9, 8, 1))
        with full, self.assertRaisesRegex(NotReady, r"0.0 GB are free, 1.\d GB are needed"):
            copies.take_copy(self.office, self.maud)
        (self.folder / "plain").write_text("no folder", "utf-8")
        self.office.settings.copies = str(self.folder / "plain")
        with self.assertRaisesRegex(NotReady, "cannot be written"):
            copies.take_copy(self.office, self.maud)

    def test_a_copy_that_fails_is_told(self) -> None:
        back_up(self.office, new_folder() / "monday.tar")
        with patch("jolly_clerk.office.keeping.backup.tarfile.open", side_effect=OSError(28, "No space left on device")):
            copies.take_copy(self.office, self.maud, lambda work: work())
        self.assertEqual(
            (False, "No copy was made: No space left on device"), (self.part("Copies").well, self.part("Copies").says)
        )
        self.assertEqual([copies.LOCK], [f.name for f in copies.folder_of_copies(self.office).iterdir()])

    def map_with(self, change: Callable[[list[dict[str, Any]]], None] = lambda features: None) -> bytes:
        """The map of the demo with a change in its features."""
        drawn = json.loads((REGISTERS / "plots.geojson").read_text("utf-8"))
        change(drawn["features"])
        return json.dumps(drawn).encode()

    def test_a_map_is_looked_over_and_taken(self) -> None:
        first = maps.look_over_map(self.office, self.maud, "plots", self.map_with())
        self.assertEqual((22, 22, 0, 0), (first.rows, first.came, first.gone, first.differ))
        maps.take_map(self.office, self.maud, "plots", self.map_with(), first.sha256)
        plots = next(r for r in self.page().registers if r.name == "plots")
        self.assertEqual((True, True), (plots.map, plots.takes_map))

        def change(features: list[dict[str, Any]]) -> None:
            plots = [f for f in features if f["properties"]["what"] == "plot"]
            plots[0]["properties"]["plot"] = "Q-999/9"
            plots[1]["geometry"]["coordinates"][0][1][0] += 0.0001
            plots[2]["properties"]["address"] = "1 Elsewhere"

        new = self.map_with(change)
        told = maps.look_over_map(self.office, self.maud, "plots", new)
        self.assertEqual((22, 1, 1, 2), (told.rows, told.came, told.gone, told.differ))
        self.assertIn("Q-999/9", told.some_came[0])
        self.assertEqual([("another outline",)], [row.differs for row in told.some_differ][:1])
        self.assertIn("→ 1 Elsewhere", told.some_differ[1].differs[0])
        with self.assertRaises(Stale):
            maps.take_map(self.office, self.maud, "plots", new, first.sha256)
        self.assertEqual(self.map_with(), self.office.registers.map_of("plots"))
        maps.take_map(self.office, self.maud, "plots", new, told.sha256)
        self.assertEqual(new, self.office.registers.map_of("plots"))
        self.assertIn("Map of register plots: 22 plots. The one before is kept as", self.page().changes[0].said)
        self.assertIn(self.map_with(), [f.read_bytes() for f in (self.folder / "vault").rglob("*") if f.is_file()])

    def test_what_is_no_map_is_refused_exactly(self) -> None:
        def plots(features: list[dict[str, Any]]) -> list[dict[str, Any]]:
            return [f for f in features if f["properties"]["what"] == "plot"]

        def number(told: object) -> Callable[[list[dict[str, Any]]], None]:
            return lambda features: plots(features)[0]["geometry"]["coordinates"][0].__setitem__(0, told)

        def many(features: list[dict[str, Any]]) -> None:
            features[0]["geometry"]["coordinates"] = [[[n / 1e7, 50.0] for n in range(1_000_000)]]

        cases: list[tuple[bytes, str]] = [
            (b"{", "This is no JSON: it breaks at 1:2"),
            (b"\xff\xfe", "This is no JSON"),
            (b"[" * 100_000, "nested too deeply"),
            (b"[1, 2]", "This is no GeoJSON with features"),
            (b'{"features": [1, null, "x", {}]}', "The map has no land"),
            (self.map_with(many), "It has 1\u00a0000\u00a0[0-9]{3} points; a map on which places are measured has at most 200\u00a0000"),
            (self.map_with(number([512_000.0, 3_600_000.0])), r"512000.0, 3600000.0 is no longitude and latitude in degrees"),
            (self.map_with(number([float("nan"), 1.0])), "NaN is no number"),
            (self.map_with(number(["a", "b"])), "a, b is no longitude"),
            (self.map_with(lambda fs: plots(fs)[0]["properties"].pop("plot")), "A plot on it has no number"),
            (self.map_with(lambda fs: fs.append(plots(fs)[0])), r"The plot Q-[0-9/]+ is drawn twice"),
            (self.map_with(lambda fs: plots(fs)[0].update(geometry={"type": "Point", "coordinates": [1, 2]})), "no polygon and no line"),
            (self.map_with(lambda fs: fs[0]["geometry"]["coordinates"][0].__setitem__(0, [-20.0, 40.0])), "km wide; distances on it are right up to 100 km"),
        ]  # fmt: skip
        for content, why in cases:
            with self.subTest(why), self.assertRaisesRegex(Invalid, why):
                maps.look_over_map(self.office, self.maud, "plots", content)
        with self.assertRaises(NotAllowed):
            maps.look_over_map(self.office, self.imre, "plots", self.map_with())
        with self.assertRaises(NotFound):
            maps.look_over_map(self.office, self.maud, "nothing", self.map_with())
        self.assertIsNone(self.office.registers.map_of("plots"))

    def test_what_could_not_be_sent_is_told_and_sent_once_more(self) -> None:
        self.assertTrue(self.part("Mail").well)
        with write_session(self.office.engine) as session:
            put_out_mail(session, "k-1", "odalys@post.quillhaven.example", "Your account", "Hello", self.office.now())
            session.get_one(Outgoing, "k-1").trouble = "the mail server refuses it for good"
        (stuck,) = self.page().stuck
        self.assertEqual(("k-1", "the mail server refuses it for good"), (stuck.key, stuck.why))
        self.assertIn("1 mail could not be sent", self.part("Mail").says)
        told = email.message_from_bytes(condition.mail_of_outbox(self.office, self.maud, "k-1"), policy=email.policy.default)
        self.assertEqual(("Your account", "odalys@post.quillhaven.example"), (told["Subject"], told["To"]))
        self.assertIn("Hello", told.get_body().get_content())  # type: ignore[union-attr]
        condition.send_again(self.office, self.maud, "k-1")
        self.assertEqual((), self.page().stuck)
        with read_session(self.office.engine) as session:
            self.assertIsNotNone(session.get_one(Outgoing, "k-1").delivered_at)
        with self.assertRaises(NotFound):
            condition.send_again(self.office, self.maud, "k-1")

    def test_a_setting_changes_at_once_and_is_told_to_whoever_asks_later(self) -> None:
        settling.change_setting(self.office, self.maud, "telephone", "  +351 291  000 111 ")
        self.assertEqual("+351 291 000 111", self.office.settings.telephone)
        self.assertIn("Telephone: “” became “+351 291 000 111”", self.page().changes[0].said)
        again = open_office(self.folder, database=self.url)
        self.assertEqual("+351 291 000 111", again.settings.telephone)
        settling.change_setting(self.office, self.maud, "telephone", "")
        again.look_at_settings()
        self.assertEqual("", again.settings.telephone)
        again.engine.dispose()

    def test_every_lead_hears_of_another_account(self) -> None:
        with write_session(self.office.engine) as session:
            session.get_one(Person, self.maud.id).mail = "maud@office.example"
        settling.change_setting(self.office, self.maud, "account", "DE89 3704 0044 0532 0130 00")
        with read_session(self.office.engine) as session:
            mails = [m for m in session.query(Outgoing) if m.key.startswith("account-")]
        self.assertTrue(mails)
        self.assertIn("became “DE89 3704 0044 0532 0130 00”", mails[0].text)

    def test_what_cannot_be_is_refused_with_the_reason(self) -> None:
        for name, value, why in (
            ("name", "", "cannot be empty"),
            ("account", "DE89 3704 0044 0532 0130 01", "no IBAN"),
            ("mail_from", "office", "no mail address"),
            ("letter_waits", "4000", "less than or equal to 3600"),
            ("letter_waits", "soon", "valid integer"),
            ("language", "la", "not possible here"),
            ("terminal_key", "x", "is changed on the server"),
            ("address", "x" * 201, "longer than 200"),
        ):
            with self.subTest(name=name, value=value):
                with patch.dict(os.environ), self.assertRaises(Invalid) as wrong:
                    os.environ.pop(f"JOLLY_CLERK_{name.upper()}", None)  # the tests set some of them
                    settling.change_setting(self.office, self.maud, name, value)
                self.assertIn(why, wrong.exception.detail)
        self.assertEqual((), self.page().changes)
        with patch.dict(os.environ, JOLLY_CLERK_ADDRESS="2 Harbour Stairs"), self.assertRaises(NotReady):
            settling.change_setting(self.office, self.maud, "address", "3 Harbour Stairs")

    def test_a_register_is_looked_over_before_it_is_taken(self) -> None:
        head, first, second, *rest = self.lines
        changed = first.rsplit(",", 1)[0] + ",Another"
        content = "\n".join([head, changed, *rest, first.replace(first.split(",")[0], "Q-999/9", 1)]).encode()
        found = registers.look_over(self.office, self.maud, "plots", content)
        self.assertEqual((1, 1, 1), (found.came, found.gone, found.differ))
        self.assertIn("Q-999/9", found.some_came[0])
        self.assertIn(second.split(",")[0], found.some_gone[0])
        self.assertIn("→ Another", found.some_differ[0].differs[0])
        self.assertEqual("\n".join(self.lines), self.plots.read_text("utf-8").rstrip("\n"))
        with self.assertRaises(Stale):
            registers.take(self.office, self.maud, "plots", content + b"\n", found.sha256)
        registers.take(self.office, self.maud, "plots", content, found.sha256)
        self.assertIsNotNone(self.office.registers.entry("plots", "plot", "q-999/9"))
        said = self.page().changes[0].said
        self.assertIn("1 new, 1 gone, 1 changed", said)
        before = next(s for s in self.office.vault.all() if s.startswith(said.rpartition("kept as ")[2].rstrip("…")))
        self.assertEqual("\n".join(self.lines), self.office.vault.get(before).decode().rstrip("\n"))

    def test_a_damaged_register_is_refused_with_its_line(self) -> None:
        head, first, *rest = self.lines
        for content, why in (
            (b"", "has to name each column"),
            (head.encode() + b"\nQ-1,", "Line 2 has 2 cells"),
            ("\n".join([head, first, first]).encode(), "is there twice"),
            ("\n".join([head, *rest[:3], first]).encode() + b"\nQ-\xff", "Line 6 is not UTF-8"),
            ("\n".join([head, '"' + first]).encode(), "Line 2"),
            ("\n".join([f"{head},{head.split(',')[0]}", first + ",x"]).encode(), "is named twice"),
        ):
            with self.subTest(why), self.assertRaises(Invalid) as wrong:
                registers.look_over(self.office, self.maud, "plots", content)
            self.assertIn(why, wrong.exception.detail)
        with self.assertRaises(NotFound):
            registers.look_over(self.office, self.maud, "../office", b"plot\n")
        formula = "\n".join([head, *self.lines[1:], "=HYPERLINK()" + "," * head.count(",")]).encode()
        self.assertIn("=HYPERLINK()", registers.look_over(self.office, self.maud, "plots", formula).some_came[0])

    def test_a_register_that_is_silent_is_told(self) -> None:
        self.assertTrue(next(r for r in self.page().registers if r.name == "plots").answers)
        self.plots.with_suffix(".silent").touch()
        self.assertFalse(next(r for r in self.page().registers if r.name == "plots").answers)
        with self.assertRaises(NoAnswer):
            self.office.registers.entry("plots", "plot", "Q-1")

    def test_only_a_lead(self) -> None:
        for who in (self.imre, Who("anselm", "Anselm", "auditor"), Who("petra", "Petra", "rule-keeper"), self.odalys):
            with self.subTest(who.role):
                for ask in (
                    lambda who=who: condition.office_page(self.office, who),
                    lambda who=who: settling.change_setting(self.office, who, "telephone", "1"),
                    lambda who=who: registers.look_over(self.office, who, "plots", b"plot\n"),
                    lambda who=who: condition.send_again(self.office, who, "k"),
                ):
                    with self.assertRaises(NotAllowed):
                        ask()
