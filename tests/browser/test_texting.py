"""Text messages: a number told and known by its code, news chosen, a code at signing in and at filing, in an office of its own."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.accounts import new_person
from jolly_clerk.office.preparing import attaching, drafts, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.browser.house import Forked
from tests.browser.looks import Looks
from tests.folders import new_folder
from tests.helpers import EDITION, answers
from tests.office.test_journey import PLAN, ROOF

GOOD = "a quiet harbour at dawn"


class Texting(Looks):
    draft: str

    @classmethod
    def lay(cls, folder: Path) -> None:
        """An office without one click for each person; one edition of it is filed with a code."""
        own = new_folder("jolly-clerk-text-") / "office"
        office = open_office(own)
        file = own / "2026-07-02.yaml"
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        file.write_text(text.replace("\ncurrency:", "\nconfirm_by: text\ncurrency:", 1), "utf-8")
        publish(office, file, SHIPPED / "calendars" / "quillhaven.yaml")
        who = new_person(office, "Ada Marsh", "ada@marsh.example", "applicant", GOOD)
        cls.draft = drafts.start_draft(office, who, "BW")
        drafts.keep(office, who, cls.draft, None, answers=answers())
        attaching.attach(office, who, cls.draft, "site_plan", "plan.pdf", PLAN)
        attaching.attach(office, who, cls.draft, "sections", "sections.pdf", ROOF)
        signing.sign(office, who, cls.draft, who.name)
        office.close()
        cls.own = Forked(own, demo=False)
        cls.addClassCleanup(cls.own.stop)

    own: Forked

    def code(self, seen: int) -> str:
        """The code of the newest text message, once there are more than were seen."""

        def newest() -> Path | None:
            files = sorted(self.own.folder.glob("text-messages/*.json"), key=lambda f: f.stat().st_mtime_ns)
            return files[-1] if len(files) > seen else None

        found = re.search(r"\d{6}", json.loads(self.until(newest).read_text("utf-8"))["text"])
        assert found
        return found[0]

    def sign_in(self, page: Page) -> None:
        page.goto(self.own.address)
        page.get_by_role("textbox", name="Mail address").fill("ada@marsh.example")
        page.get_by_role("textbox", name="Password").fill(GOOD)
        page.get_by_role("button", name="Sign in", exact=True).click()

    def test_number_news_and_codes(self) -> None:
        page = self.stranger(address=self.own.address)
        self.sign_in(page)
        expect(page.get_by_role("button", name="Sign out")).to_be_visible()
        page.goto(f"{self.own.address}/filing/{self.draft}/read-over")
        page.get_by_role("button", name="Send me a code").click()
        expect(page.get_by_text("Tell us a number for text messages first", exact=False)).to_be_visible()
        page.get_by_role("link", name="To your account").click()
        section = page.get_by_role("region", name="Text messages and news")
        section.get_by_label("Number for text messages").fill("nobody")
        section.get_by_role("button", name="Send me a code").click()
        expect(section.get_by_text("Write the number in digits", exact=False)).to_be_visible()
        section.get_by_label("Number for text messages").fill("0300 55 40")
        section.get_by_role("button", name="Send me a code").click()
        section.get_by_label("The code of six digits").fill(self.code(0))
        self.look(page, "a number for text messages and its code")
        section.get_by_role("button", name="Confirm").click()
        expect(section.get_by_text("Text messages go to 03005540.")).to_be_visible()
        section.get_by_label("Messages of the office").select_option("text")
        expect(section.get_by_text("Kept.")).to_be_visible()
        section.get_by_label("Ask for a code by text message when I sign in").click()
        expect(section.get_by_label("Ask for a code by text message when I sign in")).to_be_checked()
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "which news come by which way, on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(f"{self.own.address}/filing/{self.draft}/read-over")
        page.get_by_role("button", name="Send me a code").click()
        file = page.get_by_role("button", name="File this application")
        expect(file).to_be_disabled()
        page.get_by_label("The code of six digits").fill("12")
        page.get_by_label("The code of six digits").fill(self.code(1))
        self.look(page, "filing with a code by text message")
        file.click()
        page.wait_for_url("**/cases/*/pay")
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_role("textbox", name="Mail address")).to_be_visible()
        self.sign_in(page)
        expect(page.get_by_text("to the number that ends in 40", exact=False)).to_be_visible()
        page.get_by_label("The code of six digits").fill(self.code(2))
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page.get_by_role("button", name="Sign out")).to_be_visible()
