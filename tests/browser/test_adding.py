"""What may come later, a document, a person, an answer, is added to a case, signed, paid where it costs something, and seen on the desk."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import expect

from jolly_clerk.demo import dossiers
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import attach, field, kept, on_to, pay, sign_again, typed_plan
from tests.helpers import EDITION, answers
from tests.office.test_adding import PHOTOS
from tests.office.test_journey import PLAN, ROOF


class Adding(Looks):
    reference: ClassVar[str]

    @classmethod
    def lay(cls, folder: Path) -> None:
        """A case under an edition in which photographs may come later."""
        office = open_office(folder, demo=True)
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        file = folder / "2026-08-01.yaml"
        file.write_text(text.replace("\ndocuments:\n", f"\ndocuments:\n{PHOTOS}"), "utf-8")
        publish(office, file, SHIPPED / "calendars" / "quillhaven.yaml")
        who = person(office, "odalys")
        draft = drafts.start_draft(office, who, "BW")
        drafts.keep(office, who, draft, None, answers=answers())
        attaching.attach(office, who, draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(office, who, draft, "sections", "sections.pdf", ROOF)
        signing.sign(office, who, draft, who.name)
        cls.reference = filing.file(office, who, draft, take_gaps=True)
        office.engine.dispose()

    def test_a_photograph_is_added(self) -> None:
        page = self.come_in("Odalys Renn", at=f"/cases/{self.reference}")
        section = page.locator(".add-later")
        section.get_by_text("Photographs").click()
        add = section.get_by_role("button", name="Sign and add it")
        expect(add).to_be_disabled()
        with page.expect_file_chooser() as chooser:
            section.get_by_text("choose a file").click()
        picture = {"name": "yard.pdf", "mimeType": "application/pdf", "buffer": typed_plan((80, 700, "The yard"))}
        chooser.value.set_files(picture)  # type: ignore[arg-type]
        section.get_by_label("Your full name, as you sign").fill("Odalys Renn")
        self.look(page, "adding a document to a case")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "adding a document to a case on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        add.click()
        expect(section.get_by_text("It is added. The office sees it.")).to_be_visible()
        expect(page.get_by_text("Odalys Renn added later: Photographs; version 2")).to_be_visible()
        expect(page.locator(".filed-files")).to_contain_text("yard.pdf")
        desk = self.come_in("Imre Holt", at=f"/desk/{self.reference}")
        desk.get_by_role("button", name="History").click()
        expect(desk.get_by_text("Odalys Renn added later: Photographs; version 2")).to_be_visible()


class AddingMore(Looks):
    """A person, and an answer that costs something: what it costs and until when first, then signed, sent and paid."""

    tour: ClassVar[str]
    patent: ClassVar[str]
    ben: ClassVar[dict[str, object]]
    files: ClassVar[dict[str, bytes]]

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        who, today = person(office, "odalys"), date.today()
        people = (("Ada Skerry", 30), ("Ben Marrow", 41))

        def filed(kind: str, made: dossiers.Dossier) -> str:
            draft = drafts.start_draft(office, who, kind)
            drafts.keep(office, who, draft, None, answers=made[0])
            for slot, name, content in made[1]:
                attaching.attach(office, who, draft, slot, name, content)
            for said in drafts.open_draft(office, who, draft).rulebook.declarations:
                signing.declare(office, who, draft, said.declaration.declare, True)
            signing.sign(office, who, draft, who.name)
            reference = filing.file(office, who, draft, take_gaps=True)
            notices.at_stand_in(office, who, paying.ask_payment(office, who, reference).key, "approved")
            return reference

        cls.tour = filed("QV", dossiers.tour(today, "Odalys Renn", "Salt songs", people[:1]))
        cls.patent = filed("IP", dossiers.patent("Odalys Renn", "A pawl that holds"))
        told, files = dossiers.tour(today, "Odalys Renn", "Salt songs", people)
        cls.ben, cls.files = told["persons"][1], {slot: content for slot, _, content in files}
        office.close()

    def test_a_person(self) -> None:
        page = self.come_in("Odalys Renn", at=f"/cases/{self.tour}")
        page.locator(".add-later").get_by_role("button", name="Add it").click()
        expect(page.get_by_role("region", name="What you add")).to_contain_text("Person 2")
        expect(page.locator("[id='persons.1.name']")).to_be_disabled()
        self.look(page, "adding a person to a case")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "adding a person to a case on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        on_to(page, "Documents")
        expect(page.get_by_text("Letters of the venues", exact=False)).to_have_count(
            1
        )  # beside, not among what is to be attached
        for title, slot, ending in (
            ("Passport", "passport", "pdf"),
            ("Portrait", "portrait", "jpg"),
            ("Contract", "contract", "pdf"),
        ):
            attach(page, title, f"{slot}-2.{ending}", self.files[f"{slot}.2"])
        page.get_by_role("link", name="Persons").first.click()
        for place in ("name", "nationality", "pages", "passport", "born", "valid_until", "arrival", "departure"):
            field(page, f"persons.2.{place}").fill(str(self.ben[place]))
        field(page, "persons.2.role").select_option(label="Performs")
        kept(page)
        on_to(page, "Promise and sign")
        sign_again(page, "Odalys Renn")
        page.get_by_role("button", name="Send it to the office").click()
        page.wait_for_url(f"**/cases/{self.tour}/pay")

    def test_examination(self) -> None:
        page = self.come_in("Odalys Renn", at=f"/cases/{self.patent}")
        section = page.locator(".add-later")
        expect(section).to_contain_text("It costs EUR 480.00, to be paid until")
        section.get_by_role("button", name="Add it").click()
        expect(page.get_by_role("region", name="What you add")).to_contain_text("Examination. EUR 480.00 is due at once.")
        page.get_by_role("link", name="Promise and sign").first.click()
        send = page.get_by_role("button", name="Send it to the office")
        expect(send).to_be_disabled()
        sign_again(page, "Odalys Renn")
        self.look(page, "an answer added to a case, signed again")
        send.click()
        page.wait_for_url(f"**/cases/{self.patent}/pay")
        expect(page.get_by_text("480.00").first).to_be_visible()
        pay(page)
        go(page, f"{self.server.address}/cases/{self.patent}")
        expect(page.get_by_text("Odalys Renn added later: Examination; version 2")).to_be_visible()
        desk = self.come_in("Imre Holt", at=f"/desk/{self.patent}")
        desk.get_by_role("button", name="History").click()
        expect(desk.get_by_text("Odalys Renn added later: Examination; version 2")).to_be_visible()
