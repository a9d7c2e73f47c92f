"""What the tests of the desk share: it opened by its officer, the case as the office has it, and how much is judged."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.house import BrowserTest

GROUP, TRIAL, WORKS = "QV-26-00006-K", "CT-26-00002-E", "BW-26-00415-P"
INVENTION, STALL, STALL_ASKED, WITH_CHANGE = "IP-26-00006-Y", "TL-26-00007-V", "TL-26-00006-J", "BW-26-00409-Y"
CASE = "async (reference) => (await fetch(`/api/cases/${reference}`)).json()"


class Desks(BrowserTest):
    def desk(self, reference: str, who: str = "Imre Holt") -> Page:
        page = self.come_in(who, at=f"/desk/{reference}")
        expect(page.locator("[data-mark]").first).to_be_visible()
        return page

    def case(self, page: Page, reference: str) -> dict:  # type: ignore[type-arg]
        return dict(page.evaluate(CASE, reference))

    def judged(self, page: Page) -> int:
        found = re.match(r"(\d+) of", page.locator(".desk-list h2 > span").inner_text())
        assert found
        return int(found[1])
