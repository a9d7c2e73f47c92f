"""Every main view: nothing serious for axe, no sideways scrolling, on paper and in the dark, wide and narrow."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import unfold


class Views(Looks):
    def applicant(self, page: Page, label: str) -> None:
        self.look(page, f"my cases {label}")
        page.get_by_role("link", name="New filing").click()
        expect(page.get_by_role("button", name="Begin: Building works permit")).to_be_visible()
        self.look(page, f"new filing {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Glass lean-to").click()
        expect(page.get_by_label("On which island?")).to_be_visible()
        filing = page.url
        self.look(page, f"filing, the place {label}")
        go(page, f"{filing}/works")
        page.get_by_label("Floor area under it").fill("-1")
        expect(page.get_by_text("is below")).to_be_visible()
        self.look(page, f"filing with a fault {label}")
        page.get_by_label("Floor area under it").fill("14.5")
        expect(page.get_by_text("is below")).to_have_count(0)
        for part in ("place", "people", "documents", "sign", "read-over"):
            go(page, f"{filing}/{part}")
            expect(page.locator("h1").first).to_be_visible()
            self.look(page, f"filing, {part} {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Shed for two boats").click()
        page.get_by_role("button", name="Pay by card").click()
        expect(page.get_by_text("Hold your card here")).to_be_visible()
        self.look(page, f"payment {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Answer 2 points").click()
        expect(page.get_by_role("heading", name="2 things to put right")).to_be_visible()
        self.look(page, f"answering {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Timber store").click()
        expect(page.get_by_text("What you filed")).to_be_visible()
        self.look(page, f"my case {label}")
        page.get_by_role("button", name="Withdraw it").click()
        page.get_by_text("What cannot be done now, and why").click()
        self.look(page, f"my case, withdrawing {label}")
        go(page, f"{self.server.address}/account")
        expect(page.get_by_role("heading", name="Change the password")).to_be_visible()
        self.look(page, f"account {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="TW-7, Ondrelin").click()
        expect(page.get_by_role("heading", name="1 thing to put right")).to_be_visible()
        self.look(page, f"a site that is answered {label}")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="TW-8, Ondrelin").click()
        switch = page.locator(".filing-switch > summary")
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        if switch.is_visible():  # on a phone the parts are one line that opens
            switch.click()
            self.look(page, f"the parts of a filing {label}")
        page.get_by_role("link", name="The sites").click()
        expect(page.get_by_role("heading", name="The sites", exact=True)).to_be_visible()
        self.look(page, f"the sites of a trial {label}")

    def officer(self, page: Page, label: str) -> None:
        expect(page.locator(".tray-row").first).to_be_visible()
        self.look(page, f"in-tray {label}")
        page.locator(".tray-row", has_text="Saltern Slip").dblclick()
        expect(page.get_by_text("Asked, and answered")).to_be_visible()
        self.look(page, f"answers {label}")
        page.get_by_role("button", name="The whole checklist").click()
        self.look(page, f"checklist {label}")
        go(page, f"{self.server.address}/tray")
        page.locator(".tray-row", has_text="Compass Close").dblclick()
        unfold(page)
        page.get_by_role("button", name="Site plan, to scale").click()
        expect(page.locator("[data-drawn=true]")).to_be_visible()
        self.look(page, f"desk {label}")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name="Keys of the desk")).to_be_visible()
        self.look(page, f"desk with its keys {label}")
        page.keyboard.press("Escape")
        if page.get_by_label("Point 1 of the letter").count() == 0:  # the look before this one gave it
            page.keyboard.press("w")
        expect(page.get_by_label("Point 1 of the letter")).to_be_visible()
        page.keyboard.press("v")
        expect(page.get_by_label("Why is this not asked here?")).to_be_visible()
        self.look(page, f"desk with a point and a waiver {label}")
        page.keyboard.press("Escape")
        for beside in ("Registers", "Talk", "History", "Answers"):
            page.get_by_role("button", name=re.compile(f"^{beside}")).first.click()
            self.look(page, f"desk, {beside} {label}")
        page.get_by_role("button", name="Other steps").click()
        page.get_by_text("What cannot be done now, and why").click()
        self.look(page, f"other steps {label}")
        page.get_by_role("option", name="Do not accept").first.click()
        self.look(page, f"other steps, not accepting {label}")
        page.get_by_role("button", name="cancel").click()
        page.get_by_role("button", name="close").click()
        page.get_by_role("button", name="Fee due at filing is paid").click()
        page.get_by_role("button", name="waive or set Permit fee").click()
        self.look(page, f"desk, a fee by hand {label}")
        page.get_by_role("button", name="Read the letter").click()
        expect(page.get_by_role("heading", name="The letter, 1 point")).to_be_visible()
        self.look(page, f"letter {label}")
        go(page, f"{self.server.address}/tray")
        page.locator(".tray-row", has_text="TW-7").dblclick()
        tabs = page.get_by_role("navigation", name="Parts that are judged by themselves")
        expect(tabs.locator(".jc-lane")).to_have_count(4)
        self.look(page, f"a lane on the desk {label}")
        tabs.get_by_role("button", name=re.compile("The trial itself")).click()
        expect(page.get_by_text("Asked, and answered")).to_be_visible()
        self.look(page, f"answers in a lane {label}")

    def test_the_places_of_everybody(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("link", name=re.compile("^Do I need it.*Building works permit")).click()
        page.get_by_label("On which island?").select_option(label="Far Skerry")
        expect(page.get_by_role("heading", name="Another office decides")).to_be_visible()
        self.look(page, "the way in")
        go(page, f"{self.server.address}/check/NOPE-NOPE")
        expect(page.get_by_text("No permit has this code")).to_be_visible()
        self.look(page, "the check of a permit")
        go(page, f"{self.server.address}/password/none")
        expect(page.get_by_label("New password")).to_be_visible()
        self.look(page, "a new password")

    def test_the_places_of_the_lead_and_the_reviewer(self) -> None:
        lead = self.come_in("Maud Ferrier")
        self.to_the_office(lead, "People")
        expect(lead.get_by_role("cell", name="Brisa Quay", exact=True)).to_be_visible()
        self.look(lead, "people")
        reviewer = self.come_in("Silas Thorne")
        expect(reviewer.locator(".tray-row").first).to_be_visible()
        self.look(reviewer, "the reviewer's tray")

    def test_the_door(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_role("heading", name="Come in as")).to_be_visible()
        self.look(page, "the door")

    def test_the_applicants_places(self) -> None:
        self.applicant(self.come_in("Odalys Renn"), "at 1280")

    def test_the_applicants_places_on_a_narrow_phone_in_the_dark(self) -> None:
        self.applicant(self.come_in("Odalys Renn", 360, 740, "dark"), "at 360, dark")

    def test_the_officers_places(self) -> None:
        self.officer(self.come_in("Imre Holt"), "at 1280")

    def test_the_officers_places_in_the_dark(self) -> None:
        self.officer(self.come_in("Imre Holt", 1024, 768, "dark"), "at 1024, dark")

    def test_keys_can_be_switched_off(self) -> None:
        page = self.come_in("Imre Holt")
        page.locator(".tray-row", has_text="Ropemaker Row").dblclick()
        page.get_by_role("button", name="switch the keys off").click()
        before = page.locator(".desk-check.chosen").inner_text()
        page.keyboard.press("n")
        self.assertEqual(page.locator(".desk-check.chosen").inner_text(), before)
        page.keyboard.press("f")  # F7: the search had a key of its own
        expect(page.get_by_label("Find a case, person or place")).not_to_be_focused()
        page.get_by_role("button", name="switch the keys on").click()
        page.keyboard.press("n")
        self.assertNotEqual(page.locator(".desk-check.chosen").inner_text(), before)
