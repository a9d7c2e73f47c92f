"""What others did since an officer last looked, what is done in minutes, and the parts of a case side by side."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.looks import Looks

CASE, TRIAL = "BW-26-00412-G", "CT-26-00002-E"


class SinceOneLooked(Looks):
    def test_what_others_did_since(self) -> None:
        imre, brisa = self.come_in("Imre Holt"), self.come_in("Brisa Quay")
        desk, tray = f"{self.server.address}/desk/{CASE}", f"{self.server.address}/tray"
        imre.goto(desk)
        expect(imre.locator("[data-mark]").first).to_be_visible()
        imre.wait_for_load_state("networkidle")
        imre.goto(tray)
        row = imre.locator(".tray-row", has_text=CASE)
        row.click()
        beside = imre.get_by_role("complementary", name="The marked case")
        expect(beside.get_by_role("heading", name="Lately")).to_be_visible()
        expect(beside.get_by_text("Since you last looked")).to_have_count(0)
        expect(row.locator(".tray-news")).to_have_count(0)
        brisa.goto(f"{desk}?look=talk")
        brisa.get_by_label("A note for the office").fill("The neighbour rang: the wall is shared.")
        brisa.get_by_role("button", name="Keep the note").click()
        expect(brisa.get_by_text("The neighbour rang").first).to_be_visible()
        expect(row.locator(".tray-news")).to_be_visible()  # without loading anew
        expect(beside.get_by_text("Since you last looked")).to_be_visible()
        expect(beside.get_by_text("Brisa Quay noted: The neighbour rang: the wall is shared.")).to_be_visible()
        self.look(imre, "in-tray with news")
        row.dblclick()
        missed = imre.get_by_role("region", name="Since you last looked")
        expect(missed.get_by_text("The neighbour rang")).to_be_visible()
        self.look(imre, "desk with news")
        missed.get_by_role("button", name="I have seen it").click()
        expect(missed).to_have_count(0)
        imre.goto(tray)
        expect(row).to_be_visible()
        expect(row.locator(".tray-news")).to_have_count(0)

    def test_what_is_done_in_minutes_stands_apart(self) -> None:
        page = self.come_in("Imre Holt")
        now = page.get_by_role("region", name="Can be finished now")
        longer = page.get_by_role("region", name="Takes longer")
        expect(now.locator(".tray-row", has_text="Hand over to a reviewer").first).to_be_visible()
        expect(longer.locator(".tray-row", has_text="Judge 43").first).to_be_visible()
        expect(longer.locator(".tray-row", has_text="Hand over to a reviewer")).to_have_count(0)
        count = int(now.get_by_role("heading").inner_text().split()[-1])
        expect(now.locator(".tray-row")).to_have_count(count)
        expect(page.get_by_text(f"{count} can be finished now")).to_be_visible()

    def test_the_parts_of_a_trial_side_by_side(self) -> None:
        page = self.come_in("Imre Holt", at=f"/desk/{TRIAL}")
        page.get_by_role("button", name="side by side").click()
        table = page.get_by_role("table")
        expect(table.get_by_role("row")).to_have_count(5)
        whole = table.get_by_role("row", name=re.compile("The trial itself"))
        expect(whole.get_by_text(re.compile("about version 1"))).to_be_visible()
        expect(whole.get_by_text(re.compile("2 answered · answered .* with version 2"))).to_be_visible()
        wanted = table.get_by_role("row", name=re.compile("Site 2"))
        expect(wanted.get_by_text("Answers wanted")).to_be_visible()
        expect(wanted.get_by_text(re.compile("1 open · due"))).to_be_visible()
        self.look(page, "parts side by side")
        table.get_by_role("button", name=re.compile("Site 3")).click()
        expect(page.locator("[data-mark]").first).to_be_visible()
        expect(page.locator(".jc-lane[aria-current]")).to_contain_text("Site 3")
