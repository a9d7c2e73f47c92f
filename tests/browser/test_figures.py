"""The figures of the office: charts with their tables, for a time and a kind, taken along."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.looks import Looks


class OfTheOffice(Looks):
    def test_a_lead_looks_and_takes_one_along(self) -> None:
        page = self.come_in("Maud Ferrier")
        self.to_the_office(page, "Figures")
        table = page.get_by_role("region", name="Open cases by kind")
        expect(table.get_by_role("row", name="Building works permit")).to_be_visible()
        expect(page.get_by_role("heading")).to_have_count(9)
        self.look(page, "the figures")
        page.locator(".figures-asked select").first.select_option(label="Product file")
        expect(table.get_by_role("row")).to_have_count(2)
        with page.expect_download() as taken:
            page.get_by_role("region", name="Open cases by officer").get_by_role("link", name="CSV").click()
        told = taken.value.path().read_text("utf-8-sig").splitlines()
        self.assertEqual(told[0].split(",")[:2], ["Officer", "Open"])
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "the figures at 360 px")
