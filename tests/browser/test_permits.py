"""What was granted lives on: changed for a time by its holder, inspected by the office, all of it on the page of the permit."""

from __future__ import annotations

import re
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from pathlib import Path

from playwright.sync_api import expect

from jolly_clerk.demo.permit_scenes import BAKEHOUSE, STALLS
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import file_it, on_to, pay, sign


class Permits(Looks):
    licence = permit = ""

    @classmethod
    def lay(cls, folder: Path) -> None:
        with closing(sqlite3.connect(folder / "office.db")) as office:
            named = "select reference from cases where permit_code is not null and applicant_id = 'odalys' and "
            (cls.licence,) = office.execute(f"{named} own_reference = ?", (STALLS,)).fetchone()
            (cls.permit,) = office.execute(f"{named} title = ?", (BAKEHOUSE,)).fetchone()

    def test_a_holder_changes_a_licence_for_a_time(self) -> None:
        page = self.come_in("Odalys Renn", at=f"/cases/{self.licence}")
        page.get_by_role("link", name="The licence: how it stands, and what you can do with it").click()
        expect(page.locator(".permit-stands")).to_contain_text("Changed until")
        renewal = page.locator(".permit-offers li", has_text="Renewal for the next year")
        expect(renewal).to_contain_text("Not now: It can be renewed from")
        expect(renewal.get_by_role("button")).to_have_count(0)
        self.look(page, "the page of a licence")
        offer = page.locator(".permit-offers li", has_text="Another pitch for a time")
        expect(offer).to_contain_text("EUR 12.00")
        offer.get_by_role("button", name="Begin").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_label("How many days was it on another pitch already?")).to_have_value("10")
        expect(page.get_by_text("from the stall licences").first).to_be_visible()
        on_to(page, "Where and when")
        page.get_by_label("Which of your stalls?").fill("1")
        page.get_by_label("On which pitch will it stand?").select_option(label="Upper Green")
        first, last = (date.today() + timedelta(days=n) for n in (20, 38))
        page.get_by_label("From which day?").fill(first.isoformat())
        page.get_by_label("Until which day?").fill(last.isoformat())
        page.keyboard.press("Tab")
        expect(page.get_by_text("19 days more make 29 with those of before; at most 28 are allowed.").first).to_be_visible()
        page.get_by_label("Until which day?").fill((last - timedelta(days=1)).isoformat())
        page.keyboard.press("Tab")
        expect(page.get_by_text("19 days more make 29")).to_have_count(0)
        on_to(page, "Promise and sign")
        sign(page, "Odalys Renn")
        reference = file_it(page)
        pay(page)
        go(page, f"{self.server.address}/cases/{reference}")
        expect(page.locator(".jc-stamp").first).to_have_text("Granted")  # nobody had to decide
        page.get_by_role("link", name=f"What this is filed on: {self.licence}").click()
        expect(page.locator(".permit-history")).to_contain_text("Upper Green in the place of stall 1")
        expect(page.locator(".permit-filed")).to_contain_text(reference)

    def test_an_inspection_is_moved_and_the_office_sees_it(self) -> None:
        page = self.come_in("Odalys Renn", at=f"/permits/{self.permit}")
        frame = page.locator(".permit-visits > li", has=page.get_by_role("heading", name="Frame", exact=True))
        expect(frame).to_contain_text("The ties of the north wall are missing.")
        move = frame.get_by_role("button", name="Move it")
        expect(move).to_be_visible()
        move.click()
        hour = frame.get_by_role("button", name=re.compile("12:00 to 14:00$")).last
        chosen = hour.get_attribute("aria-label") or ""
        self.look(page, "the hours of an inspection")
        hour.click()
        expect(frame.locator("b", has_text="12:00 to 14:00")).to_have_text(chosen)
        expect(page.locator(".permit-history")).to_contain_text("moved inspection 3, Frame")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "the page of a permit at 360 px")
        officer = self.come_in("Imre Holt", at=f"/desk/{self.permit}")
        officer.get_by_role("link", name="The permit", exact=True).click()
        expect(officer.get_by_role("heading", name="What the holder can do with it")).to_be_visible()
        expect(officer.locator(".permit-visits")).to_contain_text(chosen)
        expect(officer.get_by_role("button", name="Tell what it found")).to_have_count(0)  # its hour has not come
        expect(officer.get_by_role("button", name="Begin")).to_have_count(0)
