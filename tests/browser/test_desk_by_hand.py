"""What an officer does by hand: a clerical error put right, the letter seen as the applicant will see it; a lead declares a closed day."""

from __future__ import annotations

import re
from datetime import date, timedelta

from playwright.sync_api import expect

from tests.browser.desks import WORKS, Desks

BEING_CHECKED = "BW-26-00413-T"


class ByHand(Desks):
    def test_a_clerical_error_is_put_right_and_nothing_more(self) -> None:
        page = self.desk(BEING_CHECKED)

        def right(place: str, value: str) -> None:
            page.keyboard.press("o")
            page.get_by_role("combobox").fill("clerical")
            page.keyboard.press("Enter")
            page.get_by_label("Which answer?").select_option(place)
            page.get_by_label("It is to say").fill(value)
            page.get_by_label("Why is it a clerical error?").fill("A letter is missing.")
            page.locator(".desk-more form button[type=submit]").click()

        right("works.area", "300")
        expect(page.get_by_text("That is no clerical error: what is due would be", exact=False).first).to_be_visible()
        self.assertEqual(self.case(page, BEING_CHECKED)["assessment"]["version"], 1)
        page.get_by_role("form", name="Put a clerical error right").get_by_role("button", name="cancel").click()
        page.keyboard.press("Escape")
        right("works.what", "Steel canopies")
        expect(page.get_by_role("heading", level=1)).to_have_text("Steel canopies, 12 Barnacle Steps")
        self.assertIn("put a clerical error right", self.case(page, BEING_CHECKED)["story"][-1]["text"])
        applicant = self.come_in("Tamsin Oake", at=f"/cases/{BEING_CHECKED}")
        expect(applicant.get_by_text("Imre Holt put a clerical error right", exact=False).first).to_be_visible()

    def test_a_letter_is_seen_as_it_will_stand_in_the_case(self) -> None:
        page = self.desk(WORKS)
        page.locator(".desk-check", has_text="consent").first.click()
        page.keyboard.press("w")
        words = page.get_by_label(re.compile(r"^Point \d+ of the letter"))
        expect(words).to_be_visible()
        page.keyboard.press("l")
        page.get_by_role("button", name="In the applicant's case").click()
        shown = page.get_by_role("group", name="As the applicant will see it in the case")
        expect(shown.locator(".answering-point")).to_have_count(1)
        expect(shown).to_contain_text("still needs a new file or a few words")
        words.fill("Sign it, please.")
        page.keyboard.press("Tab")
        expect(shown).to_contain_text("Sign it, please.")


class ClosedDays(Desks):
    def test_what_would_move_is_shown_before_it_is_declared(self) -> None:
        page = self.come_in("Maud Ferrier")
        self.to_the_office(page, "Closed days")
        today = date.fromisoformat(page.evaluate("async () => (await (await fetch('/api/session')).json()).today"))
        soon = [today + timedelta(days=n) for n in range(3, 15)]
        closed = {d["day"] for y in {d.year for d in soon} for d in page.evaluate(f"async () => (await fetch('/api/closed-days/{y}')).json()")}  # fmt: skip
        day = next(d for d in soon if d.isoformat() not in closed)
        page.get_by_label("Which day?").click()
        if day.month != today.month:
            page.locator("button[data-direction=next]").click()
        page.locator(f"table button:not([data-outside]):text-is('{day.day}')").click()
        found = page.get_by_role("region", name="What would move")
        expect(found).to_contain_text("Limits that move: ")
        expect(found.locator("tbody tr").first).to_contain_text("(it was ")
        expect(page.get_by_role("button", name="Declare it")).to_have_count(0)  # why is asked first
        page.get_by_label("Why").fill("A storm")
        page.get_by_role("button", name="Declare it").click()
        page.get_by_role("dialog").get_by_role("button", name="Declare it").click()
        expect(page.get_by_text(re.compile("^Declared: "))).to_be_visible(timeout=60_000)
        expect(page.get_by_role("region", name="Declared before")).to_contain_text("A storm")
