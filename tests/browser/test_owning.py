"""Who of the office has a case: seen in each row and on the desk, taken over, picked and given, a deputy; a lead's page; a case reopened."""

from __future__ import annotations

import re
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import expect

from jolly_clerk.office.cases import endings
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from tests.browser.house import go
from tests.browser.looks import Looks


class Owning(Looks):
    ended: ClassVar[str] = "BW-26-00412-G"

    @classmethod
    def lay(cls, folder: Path) -> None:
        """One case that was not accepted, and could be reopened."""
        office = open_office(folder, demo=True)
        endings.do_not_accept(office, person(office, "imre"), cls.ended, "It cannot be.")
        office.close()

    def test_taken_over_and_given_back(self) -> None:
        page = self.come_in("Imre Holt", at="/tray?whose=everyone%27s")
        row = page.locator(".tray-row", has_text="Jonas Wick").first
        expect(row).to_be_visible()
        reference = row.get_attribute("data-row") or ""
        row.click()
        page.get_by_role("button", name="take it over").click()
        expect(page.locator(f"[data-row='{reference}']")).not_to_contain_text("Jonas Wick")
        go(page, f"{self.server.address}/desk/{reference}")
        expect(page.locator(".desk-who")).to_contain_text("with Imre Holt")
        page.get_by_role("button", name="Other steps").click()
        page.locator(".desk-more").get_by_role("option", name="Give it to somebody").click()
        page.get_by_label("To whom?").select_option(label="nobody")
        self.look(page, "giving a case to somebody")
        page.locator(".desk-more").get_by_role("button", name="Give it to somebody").click()
        expect(page.locator(".desk-who")).to_contain_text("nobody has it yet")

    def test_several_are_picked_and_given(self) -> None:
        page = self.come_in("Maud Ferrier", at="/tray?whose=nobody%27s%20yet")
        rows = page.locator(".tray-row")
        expect(rows.first).to_be_visible()
        picked = [rows.nth(n).get_attribute("data-row") or "" for n in range(2)]
        page.keyboard.press("p")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("p")
        bar = page.get_by_role("region", name="Picked cases")
        expect(bar).to_contain_text("2 cases picked")
        self.look(page, "cases picked in the in-tray")
        bar.get_by_label("give to").select_option(label="Brisa Quay")
        bar.get_by_role("button", name="Do it").click()
        expect(bar).to_have_count(0)
        for reference in picked:
            expect(page.locator(f"[data-row='{reference}']")).to_have_count(0)
        go(page, f"{self.server.address}/tray?view=to%20hand%20over&whose=everyone%27s")
        expect(page.get_by_text("Hand over to a reviewer").first).to_be_visible()
        first = rows.first.get_attribute("data-row") or ""
        page.keyboard.press("p")
        bar.get_by_label("give to").select_option(label="Silas Thorne")
        bar.get_by_role("button", name="Do it").click()
        expect(bar).to_have_count(0)
        expect(page.locator(f"[data-row='{first}']", has_text="Hand over to a reviewer")).to_have_count(0)

    def test_a_view_is_kept_under_a_name(self) -> None:
        page = self.come_in("Imre Holt", at="/tray?whose=everyone%27s&view=to%20hand%20over")
        page.get_by_role("button", name="keep this one…").click()
        page.get_by_label("Name of the view").fill("To hand over, all")
        page.keyboard.press("Enter")
        own = page.get_by_role("link", name="To hand over, all")
        expect(own).to_be_visible()
        self.look(page, "a view that was kept")
        go(page, f"{self.server.address}/tray")
        own.click()
        expect(page).to_have_url(re.compile("view=to\\+hand\\+over"))
        page.get_by_role("button", name="drop the view To hand over, all").click()
        expect(own).to_have_count(0)

    def test_who_looked(self) -> None:
        page = self.come_in("Anselm Gray")
        page.get_by_role("link", name="Who looked").click()
        expect(page.get_by_role("heading", name="Who looked at what")).to_be_visible()
        page.get_by_label("Person or reference").fill("Anselm")
        expect(page.get_by_role("row", name=re.compile("Anselm Gray")).first).to_be_visible()
        self.look(page, "who looked at what")

    def test_who_has_what_and_who_is_away(self) -> None:
        page = self.come_in("Maud Ferrier")
        self.to_the_office(page, "Who has what")
        expect(page.get_by_role("row", name="Jonas Wick").first).to_be_visible()
        away = page.get_by_role("region", name="Absences")
        away.get_by_label("Who is away?").select_option(label="Brisa Quay")
        away.get_by_label("Who stands in?").select_option(label="Imre Holt")
        for label in ("First day", "Last day"):
            away.get_by_label(label).click()
            page.locator("[data-today]").click()
            expect(page.locator("[data-today]")).to_have_count(0)
            page.wait_for_timeout(500)  # the focus goes back to the field before the next one opens its own days
        away.get_by_role("button", name="Note it").click()
        expect(away).to_contain_text("Imre Holt stands in")
        expect(page.get_by_role("row", name="Brisa Quay").first).to_contain_text("Imre Holt stands in")
        self.look(page, "who of the office has what")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "who of the office has what on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        imre = self.come_in("Imre Holt")
        expect(imre.locator(".tray-row", has_text="Brisa Quay").first).to_be_visible()
        page.get_by_label("To whom the cases of Jonas Wick go").select_option(label="Imre Holt")
        page.get_by_role("button", name="Give : Jonas Wick").or_(page.get_by_role("button", name="Give: Jonas Wick")).click()
        expect(page.get_by_text("went over.")).to_be_visible()

    def test_a_case_is_reopened(self) -> None:
        page = self.come_in("Maud Ferrier", at=f"/desk/{self.ended}")
        page.get_by_role("button", name="Other steps").click()
        page.locator(".desk-more").get_by_role("option", name="Reopen the case").click()
        page.get_by_label("Why is it reopened?").fill("The plan had come after all.")
        page.locator(".desk-more").get_by_role("button", name="Reopen the case").click()
        expect(page.locator(".desk-head")).to_contain_text("Being checked")
        page.get_by_role("button", name="History").click()
        expect(page.get_by_text("The case was reopened: The plan had come after all.")).to_be_visible()
