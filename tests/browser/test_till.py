"""A morning at the till by keyboard: a statement read, its movements placed, kept, sent back and undone, cash taken, the day closed."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.bank import Entry, camt, is_standard
from tests.browser.house import go
from tests.browser.looks import Looks


class Till(Looks):
    def begin(self, person: str = "Imre Holt") -> Page:
        page = self.come_in(person)
        page.get_by_role("link", name="Till", exact=True).click()
        expect(page.get_by_role("heading", name=re.compile("^Till"))).to_be_visible()
        return page

    def marked(self, page: Page):
        return page.locator(".bank-row.marked")

    def give(self, page: Page, name: str, *entries: Entry) -> None:
        content = camt(entries, number=name)
        self.assertTrue(is_standard(content))
        page.get_by_label("A statement of the bank").set_input_files(
            {"name": f"{name}.xml", "mimeType": "text/xml", "buffer": content}
        )

    def test_a_morning_by_keyboard(self) -> None:
        page = self.begin()
        look, sure = page.get_by_role("region", name="To look at"), page.get_by_role("region", name="Placed, confirm at one go")
        expect(look.locator(".bank-row")).to_have_count(6)
        self.look(page, "the till")
        told = page.get_by_role("region", name="What the bank tells")
        expect(told.locator("mark")).to_have_count(1)  # the sign that is off
        expect(page.locator(".bank-offer.marked")).to_contain_text("one sign of the reference differs")
        page.keyboard.press("Enter")  # booked, on to the next
        expect(look.locator(".bank-row")).to_have_count(5)
        expect(self.marked(page)).to_contain_text("no reference")
        page.keyboard.press("k")  # kept unplaced
        expect(look.locator(".bank-row")).to_have_count(4)
        page.keyboard.press("u")  # undone, looked at again
        expect(look.locator(".bank-row")).to_have_count(5)
        expect(self.marked(page)).to_contain_text("no reference")
        page.keyboard.press("Enter")
        expect(self.marked(page)).to_contain_text("10.00 short of")
        page.keyboard.press("Enter")
        expect(self.marked(page)).to_contain_text("the second time")
        expect(page.locator(".bank-told")).to_be_visible()
        page.keyboard.press("x")
        page.get_by_label("Why, in a few words").fill("paid twice")
        page.keyboard.press("Enter")
        expect(self.marked(page)).to_contain_text("Taken back")
        self.look(page, "a payment that the bank took back")
        page.keyboard.press("Enter")
        expect(self.marked(page)).to_contain_text("fee for the account")
        expect(page.locator(".bank-told")).to_be_visible()
        page.keyboard.press("z")
        page.get_by_label("Why, in a few words").fill("the bank's own work")
        page.keyboard.press("Enter")
        expect(look).to_have_count(0)
        page.keyboard.press("g")
        expect(sure).to_have_count(0)
        expect(page.locator(".bank-left")).to_contain_text("Confirmed: 1 movement.")
        done = page.get_by_role("region", name="Decided since the last closing")
        expect(done.locator(".bank-row")).to_have_count(7)
        self.take_cash(page)
        self.close_the_day(page)

    def take_cash(self, page: Page) -> None:
        page.keyboard.press("c")
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Reference, person or place").fill("BW-26-00406")
        expect(dialog.locator(".find-case li button").first).to_contain_text("Net loft")
        page.keyboard.press("Enter")
        expect(dialog.get_by_label("Amount in EUR")).to_have_value("210.50")
        self.look(page, "cash at the counter")
        dialog.get_by_role("button", name="Take it").click()
        expect(dialog).to_contain_text(re.compile(r"The receipt is \d{4}-\d{5}\."))
        dialog.get_by_role("button", name="Done").click()
        counter = page.get_by_role("region", name="Counter since the last closing")
        expect(counter.locator(".bank-row", has_text="210.50")).to_be_visible()

    def close_the_day(self, page: Page) -> None:
        slip = page.get_by_role("complementary", name="This day")
        expect(slip).to_contain_text(re.compile(r"In the drawer should be\s*360.50"))
        expect(slip.locator(".bank-agrees")).to_have_text("agree")
        slip.get_by_label("Counted in the drawer").fill("349.00")
        slip.get_by_role("button", name="Close the day").click()
        expect(page.get_by_role("alert")).to_contain_text("Say why what was counted differs.")
        slip.get_by_label("Why it differs").fill("not known")
        slip.get_by_role("button", name="Close the day").click()
        expect(slip).to_contain_text("A second person looks at this difference")
        other = self.begin("Maud Ferrier")
        side = other.get_by_role("complementary", name="This day")
        expect(side).to_contain_text("not known")
        side.get_by_role("button", name="I looked at it: close the day").click()
        expect(side.get_by_role("button", name="Open the till")).to_be_visible()
        other.get_by_role("link", name="Closings and files").click()
        row = other.get_by_role("row", name=re.compile("Till 1"))
        expect(row).to_contain_text("−11.50")
        self.look(other, "closed days and files")
        with other.expect_download() as got:
            row.get_by_role("link", name="XLSX").click()
        self.assertEqual(got.value.suggested_filename, "closing-00001.xlsx")

    def test_split_over_cases_that_one_finds(self) -> None:
        page = self.begin()
        self.give(page, "2026-900", Entry("X-1", "70.00", "for my cases", "Ann Holt"))
        expect(page.locator(".bank-left")).to_contain_text("New from statement 2026-900: 1 movement.")
        page.locator(".bank-row", has_text="Ann Holt").click()
        expect(page.locator(".pile-paper")).to_contain_text("Nothing is proposed")
        for words in ("BW-26-00406-R", "BW-26-00417-L"):
            page.keyboard.press("/")
            page.keyboard.type(words)
            expect(page.locator(".find-case li button").first).to_contain_text(words)
            page.keyboard.press("Enter")
            expect(page.locator(".bank-own", has_text=words)).to_be_visible()
        own = page.locator(".bank-own")
        own.nth(0).get_by_label("Its part").fill("60.00")
        own.nth(1).get_by_label("Its part").fill("20.00")
        page.get_by_role("button", name="Book it").click()
        expect(page.get_by_role("alert")).to_contain_text("The parts come to more than the payment.")
        own.nth(0).get_by_label("Its part").fill("50.00")
        page.get_by_role("button", name="Book it").click()
        expect(page.locator(".bank-done", has_text="Ann Holt")).to_contain_text("placed")

    def test_a_damaged_file_and_a_narrow_window(self) -> None:
        page = self.begin()
        page.get_by_label("A statement of the bank").set_input_files(
            {"name": "half.xml", "mimeType": "text/xml", "buffer": b"<Document><Stmt>"}
        )
        expect(page.get_by_role("alert")).to_contain_text("This XML file is damaged in line 1.")
        page.set_viewport_size({"width": 360, "height": 740})
        self.look(page, "the till at 360 px")
        go(page, f"{self.server.address}/till/closings")
        expect(page.get_by_role("heading", name="Closings and files")).to_be_visible()
        self.look(page, "closings at 360 px")

    def test_no_applicant_comes_here(self) -> None:
        page = self.come_in("Odalys Renn", at="/till")
        expect(page.locator(".bank")).to_have_count(0)
        told = page.evaluate("async () => (await fetch('/api/till')).status")
        self.assertEqual(told, 403)
