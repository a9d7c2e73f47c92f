"""What waits, in the tray or before it leaves: words for whoever may answer, steps that may be taken back, letters replaced."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.desks import WORKS, Desks
from tests.browser.house import go
from tests.browser.steps import stamp, unfold


class Waiting(Desks):
    def test_a_message_and_a_fee_wait_in_the_tray_of_whoever_may_answer(self) -> None:
        applicant = self.come_in("Tamsin Oake", at="/cases/PL-26-00006-A")
        applicant.get_by_label("Write to the office").fill("May I send the cover later?")
        applicant.get_by_role("button", name="Send the message").click()
        expect(applicant.get_by_text("May I send the cover later?")).to_be_visible()
        auditor = self.come_in("Anselm Gray", at="/desk/PL-26-00006-A")
        auditor.get_by_role("button", name=re.compile("^Talk")).click()
        expect(auditor.get_by_text("May I send the cover later?").first).to_be_visible()
        page = self.come_in("Imre Holt")
        words = page.get_by_role("region", name="Waits for a word from you")
        expect(words).to_contain_text("May I send the cover later?")
        self.assertIsNone(self.case(page, "PL-26-00006-A")["messages"][-1]["read_at"])
        with page.expect_response(lambda answer: answer.url.endswith("/talk")):  # the words stand in the in-tray as well
            words.get_by_role("link").first.click()
        expect(page.get_by_text("May I send the cover later?").first).to_be_visible()
        go(page, f"{self.server.address}/tray")
        expect(page.locator(".tray-row").first).to_be_visible()
        expect(words).to_have_count(0)
        self.assertIsNotNone(self.case(page, "PL-26-00006-A")["messages"][-1]["read_at"])
        # a fee above the limit waits for a second person
        go(page, f"{self.server.address}/desk/{WORKS}")
        unfold(page)
        page.locator(".desk-check", has_text="Fee due at filing").click()
        page.get_by_role("button", name=re.compile("^waive or set")).first.click()
        page.get_by_label("Why?").fill("A hardship.")
        page.get_by_role("button", name="Waive it").click()
        expect(page.locator(".desk-second").first).to_be_visible()
        lead = self.come_in("Maud Ferrier")
        expect(lead.get_by_role("region", name="Waits for a word from you")).to_contain_text("A fee waits for a second person")

    def test_a_session_that_ends_asks_over_the_desk_and_the_step_is_done(self) -> None:
        page = self.desk("TL-26-00007-V")
        page.keyboard.press("w")
        words = page.get_by_label(re.compile(r"^Point \d+ of the letter")).first
        expect(words).to_be_visible()
        page.context.clear_cookies()
        words.fill("Half a sentence about the")
        words.press("Tab")
        again = page.get_by_role("dialog", name="You have been signed out")
        expect(again).to_be_visible()
        again.get_by_role("button", name="Go on as Imre Holt").click()
        expect(again).to_have_count(0)
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        expect(words).to_have_value("Half a sentence about the")
        kept = [p["text"] for p in self.case(page, "TL-26-00007-V")["assessment"]["points"]]
        self.assertIn("Half a sentence about the", kept)
        stamp(page, "Being checked")
        self.troubles.clear()


class Leaving(Desks):
    settings = {"letter_waits": "600", "step_waits": "60"}

    def test_a_letter_is_taken_back_before_it_leaves(self) -> None:
        page = self.desk("BW-26-00413-T", "Brisa Quay")
        page.keyboard.press("w")
        expect(page.locator(".desk-foot")).to_contain_text("1 point")
        page.keyboard.press("l")
        page.get_by_role("button", name="Send and pause the clock").click()
        expect(page.get_by_role("heading", name="The letter is ready")).to_be_visible()
        expect(page.get_by_text("The letter leaves in 10 min, made ready by Brisa Quay.")).to_be_visible()
        other = self.desk("BW-26-00413-T")
        expect(other.get_by_text("The letter leaves in", exact=False)).to_be_visible()
        stamp(other, "Being checked")
        before = self.judged(other)
        other.keyboard.press("m")  # an officer who judges meanwhile is asked first
        asked = other.get_by_role("dialog", name="Take it back first?")
        expect(asked).to_contain_text("The letter is ready and leaves soon.")
        asked.get_by_role("button", name="Leave it as it is").click()
        expect(asked).to_have_count(0)
        self.assertEqual(self.judged(other), before)
        other.keyboard.press("m")
        asked.get_by_role("button", name="Take it back and go on").click()
        expect(other.locator(".desk-list h2 > span")).to_have_text(re.compile(f"^{before + 1} of"))
        expect(other.locator(".desk-leaving")).to_have_count(0)
        self.assertEqual(self.case(other, "BW-26-00413-T")["assessment"]["state"], "Being checked")
        self.troubles.clear()

    def test_an_acceptance_shows_its_letter_and_is_taken_back_by_the_key_of_undo(self) -> None:
        page = self.desk("BW-26-00412-G")
        for _ in range(12):
            if page.get_by_role("button", name="Accept as complete").is_enabled():
                break
            before = self.judged(page)
            page.keyboard.press("m")
            why = page.get_by_label("Why is it met all the same?")
            moved = page.get_by_text(f"{before + 1} of", exact=False)
            expect(why.or_(moved).first).to_be_visible()
            if why.is_visible():
                why.fill("Looked at by hand.")
                page.keyboard.press("Enter")
                expect(moved.first).to_be_visible()
        page.keyboard.press("y")
        first = page.get_by_role("dialog", name="Accept as complete?")
        expect(first.locator("[data-drawn=true]")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_text("The acceptance leaves in", exact=False)).to_be_visible()
        stamp(page, "Being checked")
        page.keyboard.press("u")
        expect(page.locator(".desk-leaving")).to_have_count(0)
        expect(page.get_by_role("button", name="Accept as complete")).to_be_enabled()
        # what is ready can also go at once
        page.keyboard.press("y")
        expect(first).to_be_visible()
        page.keyboard.press("Enter")
        page.get_by_role("button", name="send it now").click()
        stamp(page, "Complete")

    def test_a_letter_that_was_wrong_is_replaced(self) -> None:
        page = self.desk("BW-26-00405-E")
        page.keyboard.press("o")
        page.keyboard.type("replace")
        page.keyboard.press("Enter")
        page.get_by_label("Words of point 1").fill("Send it with a scale, please.")
        page.locator(".desk-more").get_by_role("button", name="Replace the letter").click()
        expect(page.locator(".desk-leaving")).to_contain_text("The letter that takes the place of another leaves in")
        page.get_by_role("button", name="send it now").click()
        expect(page.locator(".desk-leaving")).to_have_count(0)
        points = self.case(page, "BW-26-00405-E")["assessment"]["rounds"][-1]["points"]
        self.assertEqual(points[0]["text"], "Send it with a scale, please.")
