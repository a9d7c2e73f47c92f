"""What the engine knows stands where it is typed, at once; and a session that ends loses nothing."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.house import BrowserTest
from tests.browser.steps import begin, field, on_to


class Told(BrowserTest):
    def test_a_rule_that_is_broken_is_said_at_the_field(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        on_to(page, "The stalls")
        expect(page.get_by_role("heading", name="The stalls", exact=True)).to_be_focused()
        expect(page).to_have_title(re.compile("^The stalls"))
        page.get_by_role("button", name="Add the first").click()
        front = field(page, "stalls.1.frontage")
        expect(front).not_to_have_attribute("aria-invalid", "true")
        front.fill("5")
        said = page.get_by_text("The front of 5 m is longer than 4.0 m.").first
        expect(said).to_be_visible()
        expect(front).to_have_attribute("aria-invalid", "true")
        described = (front.get_attribute("aria-describedby") or "").split()
        told = " ".join(page.locator(f'[id="{one}"]').inner_text() for one in described)
        self.assertIn("The front of 5 m is longer than 4.0 m.", told)
        front.fill("3.5")
        expect(said).to_have_count(0)
        expect(front).not_to_have_attribute("aria-invalid", "true")

    def test_what_is_not_needed_is_said_in_the_form_and_is_not_filed(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        field(page, "trade.island").select_option(label="Quill")
        field(page, "trade.ground").select_option(label="On my own ground")
        panel = page.locator(".way-in-says")
        expect(panel).to_contain_text("No, none is needed")
        expect(panel).to_contain_text("art. 3(1)")
        with page.expect_download() as letter:
            panel.get_by_role("button", name="Take the letter that says so").click()
        self.assertTrue(letter.value.path().read_bytes().startswith(b"%PDF"))
        page.get_by_role("link", name="Read it over").click()
        expect(page.locator(".way-in-says")).to_contain_text("No, none is needed")
        expect(page.get_by_role("button", name="File this application")).to_be_disabled()

    def test_a_session_that_ends_in_the_middle_of_a_word(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Building works permit")
        on_to(page, "The works")
        what = page.get_by_label("What will you build or change?")
        what.fill("A lean-to")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.context.clear_cookies()
        what.press_sequentially(" of glass")
        asked = page.get_by_role("dialog", name="You have been signed out")
        expect(asked).to_contain_text("What you typed is still here.")
        asked.get_by_role("button", name="Go on as Tamsin Oake").click()
        expect(asked).to_have_count(0)
        expect(what).to_have_value("A lean-to of glass")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.reload()
        expect(what).to_have_value("A lean-to of glass")

    def test_amounts_as_people_write_them_are_shown_back(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Building works permit")
        on_to(page, "The works")
        estimate, area = page.get_by_label("Your own estimate of cost"), page.get_by_label("Floor area under it")
        estimate.fill("31.000")
        expect(page.get_by_text("If you mean 31 000, write it like that.")).to_be_visible()
        estimate.fill("31 000,00")
        area.fill("95,8 m2")
        area.press("Tab")
        expect(page.get_by_text("If you mean 31 000")).to_have_count(0)
        expect(page.locator(".filing-echo")).to_have_text([re.compile("95.8 m²"), re.compile("31.000")])

    def test_on_a_phone_the_first_question_is_in_sight(self) -> None:
        page = self.come_in("Odalys Renn", 360, 740)
        page.get_by_role("link", name="Glass lean-to").first.click()
        page.wait_for_url("**/filing/**")
        island = field(page, "need.island")
        expect(island).to_be_visible()
        self.assertLess((island.bounding_box() or {"y": 740})["y"], 370)
        switch = page.locator(".filing-switch > summary")
        expect(switch).to_have_text(re.compile("1 of 9: What you plan"))
        switch.click()
        on_to(page, "The works")
        expect(switch).to_have_text(re.compile("4 of 9: The works"))
        expect(page.get_by_role("navigation", name="Parts of the filing")).to_be_hidden()
