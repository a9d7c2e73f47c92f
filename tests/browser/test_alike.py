"""Cases that are alike, at the desk: what may be filed twice is said above the rule, and laid side by side."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.looks import Looks


class Alike(Looks):
    def test_filed_twice_perhaps(self) -> None:
        page = self.come_in("Brisa Quay", at="/desk/TL-26-00008-F")
        expect(page.locator(".alike-name")).to_contain_text("Filed twice, perhaps: see TL-26-00004-M below.")
        others = page.get_by_role("region", name="Other cases")
        twice = others.locator("li", has_text="TL-26-00004-M")
        expect(twice).to_contain_text("nearly the same title")
        twice.get_by_role("button", name="side by side").click()
        dialog = page.get_by_role("dialog")
        expect(
            dialog.locator("table tbody tr.differs").first.or_(dialog.get_by_text("Every answer is the same."))
        ).to_be_visible()
        before = dialog.locator("tbody tr").count()
        dialog.get_by_label("what is the same, too").check()
        expect(dialog.locator("tbody tr").nth(before)).to_be_visible()
        self.look(page, "two cases side by side")
        page.keyboard.press("Escape")
        others.get_by_text("Of the same person").click()
        expect(others.locator("details", has_text="Of the same person").locator("li").first).to_be_visible()
        self.look(page, "cases that are alike")
