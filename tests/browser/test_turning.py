"""A case of the wrong kind: the office proposes another one at the desk, the applicant sorts the files, signs, files; the old one has ended."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.looks import Looks


class Turning(Looks):
    def test_proposed_at_the_desk_and_agreed(self) -> None:
        page = self.come_in("Imre Holt", at="/desk/QV-26-00006-K")
        page.get_by_role("button", name="Other steps").click()
        page.locator(".desk-more").get_by_role("option", name="Turn it into another kind").click()
        page.get_by_label("Into which kind?").select_option(label="Pavement stall licence")
        page.get_by_label("Why does it belong there?").fill("They sell at a stall and do not perform.")
        self.look(page, "turning a case into another kind")
        page.locator(".desk-more").get_by_role("button", name="Turn it into another kind").click()
        expect(page.locator(".desk-more")).to_have_count(0)
        owner = self.come_in("Odalys Renn", at="/cases/QV-26-00006-K")
        expect(owner.get_by_text(re.compile("They sell at a stall")).first).to_be_attached()
        told = owner.evaluate("async () => (await fetch('/api/cases/QV-26-00006-K')).text()")
        draft = re.search(r"/filing/([0-9a-f]{32})", told)
        assert draft
        owner.goto(f"{self.server.address}/filing/{draft[1]}")
        note = owner.locator(".filing-turns")
        expect(note).to_contain_text("The office proposes that QV-26-00006-K becomes this.")
        self.look(owner, "a filing that was turned")
        note.get_by_role("link", name="Sort its files").click()
        expect(owner.locator(".pile-piece").first).to_be_visible()
