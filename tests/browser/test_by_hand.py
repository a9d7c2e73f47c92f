"""A filing signed by hand: the sheet is fetched, its scan attached, and the officer sees it beside the declaration."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.browser.looks import Looks
from tests.browser.steps import begin, field, kept, on_to
from tests.office.test_sheets import scanned


class ByHand(Looks):
    def attach(self, page: Page, content: bytes) -> None:
        page.get_by_label("Name of whoever signed it").fill("Corvin Pell")
        page.get_by_label("The signed sheet", exact=True).set_input_files(
            {"name": "signed.jpg", "mimeType": "image/jpeg", "buffer": content}
        )

    def test_the_sheet_is_printed_signed_and_known_again(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        on_to(page, "The works")
        field(page, "works.what").fill("Net loft")
        kept(page)
        on_to(page, "Promise and sign")
        page.get_by_text("Sign by hand instead").click()
        self.look(page, "a filing signed by hand")
        address = page.get_by_role("link", name="Print the sheet (PDF)").get_attribute("href")
        first = page.request.get(f"{self.server.address}{address}").body()
        self.attach(page, scanned(first, turn=90))  # the code is cut off
        expect(page.get_by_text("No code of a sheet that was printed here was found on it.", exact=False)).to_be_visible()
        on_to(page, "The works")
        field(page, "works.what").fill("Net loft and store")
        kept(page)
        on_to(page, "Promise and sign")
        page.get_by_text("Sign by hand instead").click()
        self.attach(page, scanned(first))
        expect(page.get_by_text("Something was changed since this sheet was printed.", exact=False)).to_be_visible()
        second = page.request.get(f"{self.server.address}{address}").body()
        self.attach(page, scanned(second, turn=0.8))
        done = page.locator(".filing-signed")
        expect(done).to_contain_text("Signed by hand; the sheet came")
        answer = page.request.get(f"{self.server.address}{done.get_by_role('link').get_attribute('href')}")
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "image/jpeg"))
        self.look(page, "a filing that was signed by hand")
