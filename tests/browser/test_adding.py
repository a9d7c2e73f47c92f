"""A document that may come later is added on the page of a case, signed, and seen on the desk."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from playwright.sync_api import expect

from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.browser.looks import Looks
from tests.browser.steps import typed_plan
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
        page = self.come_in("Odalys Renn")
        page.goto(f"{self.server.address}/cases/{self.reference}")
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
        desk = self.come_in("Imre Holt")
        desk.goto(f"{self.server.address}/desk/{self.reference}")
        desk.get_by_role("button", name="History").click()
        expect(desk.get_by_text("Odalys Renn added later: Photographs; version 2")).to_be_visible()
