"""A lead runs the office with nothing but the browser, and reads a case of another office in."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

from playwright.sync_api import expect
from sqlalchemy import select

from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.post.mailing import put_out_mail
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Outgoing
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.folders import new_folder
from tests.office.test_importing import package_of_another


class TheOffice(Looks):
    package: Path

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        lead = person(office, "maud")
        with read_session(office.engine) as session:
            wanted = select(Case.reference).where(Case.tray == "intake", Case.kind == "BW", Case.version == 1)
            reference = session.scalars(wanted.order_by(Case.reference)).first() or ""
        cls.package = package_of_another(office, lead, load_case(office, lead, reference))
        with write_session(office.engine) as session:
            put_out_mail(session, "aside", "wenna@tregar.example", "Your new password", "A link", office.now())
            session.get_one(Outgoing, "aside").trouble = "the mail server refuses it for good"
        office.close()

    def test_a_case_of_another_office_is_read_in(self) -> None:
        page = self.come_in("Maud Ferrier")
        self.to_the_office(page, "Condition and settings")
        expect(page.get_by_role("heading", name="The office", exact=True)).to_be_visible()
        page.get_by_label("A package").set_input_files(self.package)
        told = page.locator(".office-change")
        expect(told).to_contain_text("The package is whole.")
        expect(told).to_contain_text("the case goes on here")
        self.look(page, "a package of another office")
        told.get_by_label("How does the hash").fill("0123456789")
        told.get_by_role("button", name="Read it in").click()
        expect(page.get_by_text("Its last entry has another hash")).to_be_visible()
        told.get_by_label("How does the hash").fill("")
        told.get_by_role("button", name="Read it in").click()
        page.get_by_text("It goes on here as").get_by_role("link").click()
        expect(page.locator(".desk-rule").first).to_be_visible()
        page.go_back()
        page.get_by_label("A package").set_input_files(self.package)
        expect(page.get_by_text("This case is here already")).to_be_visible()
        broken = new_folder() / "broken.zip"
        broken.write_bytes(self.package.read_bytes()[:-2000])
        page.get_by_label("A package").set_input_files(broken)
        expect(page.get_by_text("It is no ZIP archive, or a damaged one")).to_be_visible()

    def test_settings_registers_and_what_could_not_be_sent(self) -> None:
        page = self.come_in("Maud Ferrier", at="/office")
        expect(page.locator(".office-parts")).to_contain_text("No copy of this office was ever taken")
        self.look(page, "the condition of the office")
        aside = page.locator("section", has_text="What could not be sent").locator("tbody tr", has_text="wenna@tregar.example")
        expect(aside).to_contain_text("refuses it for good")
        aside.get_by_role("button", name="send once more").click()
        expect(page.get_by_text("wenna@tregar.example")).to_have_count(0)
        page.get_by_label("Telephone").fill("+351 291 000 111")
        page.keyboard.press("Enter")
        expect(page.get_by_text("became “+351 291 000 111”")).to_be_visible()
        page.get_by_label("Bank account").fill("DE89 3704 0044 0532 0130 01")
        page.keyboard.press("Enter")
        expect(page.get_by_text("This is no IBAN")).to_be_visible()
        plots = (self.server.folder / "registers" / "plots.csv").read_text("utf-8").splitlines()
        new = new_folder() / "plots.csv"
        new.write_text("\n".join([plots[0], *plots[2:]]) + "\n", "utf-8")
        page.get_by_label("A new state of Land register").set_input_files(new)
        told = page.locator(".office-change")
        expect(told).to_contain_text("0 new, 1 gone, 0 changed")
        expect(told).to_contain_text(plots[1].split(",")[0])
        self.look(page, "what a register would change")
        told.get_by_role("button", name="Take this state").click()
        expect(page.get_by_text(f"Taken: {len(plots) - 2} rows now.")).to_be_visible()
        new.write_text(f"{plots[0]}\nQ-1,too,few\n", "utf-8")
        page.get_by_label("A new state of Land register").set_input_files(new)
        expect(page.get_by_text("Line 2 has 3 cells")).to_be_visible()

    def test_both_parties_take_a_case_along(self) -> None:
        for name, link, path in (
            ("Odalys Renn", "Take the whole case along (ZIP)", "/cases"),
            ("Imre Holt", "The whole case as a package (ZIP)", "/desk"),
        ):
            with self.subTest(name):
                page = self.come_in(name)
                go(page, f"{self.server.address}{path}/{self.own}")
                if path == "/desk":
                    page.get_by_role("button", name="Other steps").click()
                with page.expect_download() as kept:
                    page.get_by_role("link", name=link).click()
                self.assertEqual(f"{self.own}-package.zip", kept.value.suggested_filename)
                with zipfile.ZipFile(kept.value.path()) as archive:
                    self.assertIn(f"{self.own}/data/case.xml", archive.namelist())
        answer = self.stranger().request.get(f"{self.server.address}/api/cases/{self.own}/package")
        self.assertEqual(401, answer.status)

    def test_a_token_for_a_program(self) -> None:
        page = self.come_in("Odalys Renn", at="/account")
        form = page.locator("section", has=page.get_by_role("heading", name="Access for programs"))
        form.get_by_label("What is it for?").fill("My drawing office")
        form.evaluate("section => section.scrollIntoView({ block: 'start' })")  # a calendar whose field is out of sight closes
        form.get_by_label("Until and with").click()
        page.locator(".mantine-DatePickerInput-day:not([data-outside]):not([disabled])").last.click()
        form.get_by_role("button", name="Make a token").click()
        secret = form.locator(".feed-link").inner_text()
        self.look(page, "tokens for programs")
        program = self.browser.new_page(extra_http_headers={"Authorization": f"Bearer {secret}"})
        self.addCleanup(program.close)
        self.assertEqual(200, program.request.get(f"{self.server.address}/api/my-cases").status)
        form.get_by_role("button", name="take it back").click()
        expect(form.get_by_text("My drawing office")).to_have_count(0)
        self.assertEqual(401, program.request.get(f"{self.server.address}/api/my-cases").status)

    @property
    def own(self) -> str:
        """A case of Odalys that is being checked."""
        office = open_office(self.server.folder, demo=True)
        with read_session(office.engine) as session:
            wanted = select(Case.reference).where(Case.tray == "intake", Case.applicant_id == "odalys")
            reference = session.scalars(wanted.order_by(Case.reference)).first() or ""
        office.close()
        return reference


class CopyAndMap(Looks):
    def test_a_copy_is_taken_and_a_map_brought_in(self) -> None:
        page = self.come_in("Maud Ferrier", at="/office")
        expect(page.get_by_text("No copy of this office was ever taken.")).to_be_visible()
        page.get_by_role("button", name="Take a copy now").click()
        expect(page.get_by_text("The last was taken on")).to_be_visible()
        expect(page.get_by_role("button", name="Take a copy now")).to_be_enabled()
        (archive,) = (self.server.folder / "copies").glob("*.tar")
        self.assertGreater(archive.stat().st_size, 1_000_000)
        drawn = json.loads((REGISTERS / "plots.geojson").read_text("utf-8"))
        next(f for f in drawn["features"] if f["properties"]["what"] == "plot")["properties"]["plot"] = "Q-999/9"
        brought = page.get_by_label("A map of Land register")
        brought.set_input_files({"name": "plots.geojson", "mimeType": "application/geo+json", "buffer": b'{"features": ['})
        expect(page.get_by_text("This is no JSON: it breaks at 1:15.")).to_be_visible()
        brought.set_input_files(
            {"name": "plots.geojson", "mimeType": "application/geo+json", "buffer": json.dumps(drawn).encode()}
        )
        told = page.locator(".office-change")
        expect(told).to_contain_text("22 plots in the file: 1 new, 1 gone, 0 changed.")
        self.look(page, "a map that is brought in")
        told.get_by_role("button", name="Take this state").click()
        expect(page.get_by_text("Taken: 22 plots now.")).to_be_visible()
        expect(page.get_by_text("Map of register plots: 22 plots.").first).to_be_visible()
