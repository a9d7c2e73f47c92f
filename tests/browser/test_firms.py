"""A firm with two people: made, asked, accepted; both work on the filing of the firm, and the history names the person."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.looks import Looks
from tests.browser.steps import begin


class Firms(Looks):
    def test_a_firm(self) -> None:
        page = self.come_in("Odalys Renn", at="/account")
        own = page.get_by_role("region", name="Firms")
        own.get_by_label("Name of a new firm").fill("Slip Works")
        own.get_by_role("button", name="Make this firm").click()
        firm = page.get_by_role("region", name="Slip Works")
        firm.get_by_text("Ask somebody to belong to it").click()
        firm.get_by_label("Name", exact=True).fill("Tamsin Oake")
        firm.get_by_label("Mail address").fill("nonsense@")
        ask = firm.get_by_role("button", name="Ask", exact=True)
        firm.locator("form").evaluate("form => { form.noValidate = true; }")
        ask.click()
        expect(firm.get_by_text("This is no mail address", exact=False)).to_be_visible()
        firm.get_by_label("Mail address").fill("tamsin@post.quillhaven.example")
        ask.click()
        expect(firm.get_by_text("asked, not accepted yet")).to_be_visible()
        firm.get_by_role("button", name="leave the firm").click()
        expect(firm.get_by_text("This is the last keeper of the firm", exact=False)).to_be_visible()
        self.look(page, "a firm and its people")
        firm.get_by_role("button", name="Go on as Slip Works").click()
        expect(page.get_by_text("for Slip Works")).to_be_visible()
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "a firm and its people on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        begin(page, "Pavement stall licence")
        address = page.url
        other = self.come_in("Tamsin Oake", at="/account")
        theirs = other.get_by_role("region", name="Slip Works")
        expect(theirs.get_by_text("You are asked to belong to it.")).to_be_visible()
        expect(theirs.get_by_text("odalys@post", exact=False)).to_have_count(0)
        theirs.get_by_role("button", name="Accept").click()
        theirs.get_by_role("button", name="Go on as Slip Works").click()
        expect(other.get_by_text("for Slip Works")).to_be_visible()
        other.goto(address)
        expect(other.get_by_role("navigation", name="Parts of the filing")).to_be_visible()
        other.get_by_role("button", name="As myself").click()
        expect(other.get_by_text("for Slip Works")).to_have_count(0)
        other.goto(f"{self.server.address}/account")
        theirs.get_by_role("button", name="leave the firm").click()
        expect(theirs).to_have_count(0)
