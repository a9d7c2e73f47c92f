"""Keys of the desk that can be trusted: letters are words while something is open, and what is met against the machine says why."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.house import BrowserTest, go

FIND = """async (reference) => {
  const view = await (await fetch(`/api/cases/${reference}`)).json();
  const against = view.assessment.requirements.filter((r) => r.asked && r.met_needs_reason);
  return against.map((r) => ({ id: r.id, because: r.because }));
}"""
BEING_CHECKED = "BW-26-00413-T"
NEARLY_JUDGED = "BW-26-00412-G"
IN_DOUBT = "BW-26-00416-A"  # filed; its plan says another floor area than the form


class DeskKeys(BrowserTest):
    def desk(self, reference: str = BEING_CHECKED) -> Page:
        page = self.come_in("Imre Holt", at=f"/desk/{reference}")
        expect(page.locator(".desk-check.chosen")).to_be_visible()
        return page

    def judged(self, page: Page) -> int:
        found = re.match(r"(\d+) of", page.locator(".desk-list h2 > span").inner_text())
        assert found
        return int(found[1])

    def test_met_against_the_machine_asks_why_and_stays_seen(self) -> None:
        page = self.desk(IN_DOUBT)
        page.keyboard.press("k")
        expect(page.locator(".jc-stamp").first).to_have_text("Being checked")
        doubtful = page.evaluate(FIND, IN_DOUBT)
        self.assertTrue(doubtful, "the case has nothing in doubt")
        page.locator(f"[id='check-{doubtful[0]['id']}']").click()
        before = self.judged(page)
        page.keyboard.press("m")
        line = page.get_by_label("Why is it met all the same?")
        expect(line).to_be_focused()
        expect(page.locator("form.desk-waive")).to_contain_text(doubtful[0]["because"])
        page.keyboard.type("my own words: Wide, Dim, Met")  # letters, no keys
        self.assertEqual(self.judged(page), before)
        page.keyboard.press("Escape")
        expect(line).to_have_count(0)
        expect(page.locator("[data-mark]")).to_be_focused()
        page.keyboard.press("m")
        page.keyboard.type("Looked at by hand.")
        page.keyboard.press("Enter")
        row = page.locator(f"[id='check-{doubtful[0]['id']}']")
        expect(row).to_contain_text("met against the machine: Looked at by hand.")
        expect(row.locator(".jc-tab.overruled")).to_be_visible()
        go(page, f"{self.server.address}/tray")
        squares = page.locator(".tray-row", has_text=IN_DOUBT).locator(".jc-squares .overruled")
        expect(squares.first).to_be_attached()

    def test_letters_judge_nothing_while_something_is_open(self) -> None:
        page = self.desk()
        before = self.judged(page)
        page.keyboard.press("o")
        panel = page.get_by_role("region", name="Other steps")
        expect(panel.get_by_role("combobox")).to_be_focused()
        for letter in "mwdvn":
            page.keyboard.press(letter)
        panel.get_by_role("combobox").fill("else SOMETHING")  # any step is found by its words
        expect(panel.get_by_role("option")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.get_by_label("What is it called?")).to_be_focused()
        page.keyboard.type("mwd")
        expect(page.get_by_label("What is it called?")).to_have_value("mwd")
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        expect(panel).to_have_count(0)
        self.assertEqual(self.judged(page), before)
        page.keyboard.press("n")  # and they are keys again
        expect(page.locator(".desk-check.chosen kbd")).to_be_visible()

    def test_a_case_that_was_found_is_judged_by_key(self) -> None:
        page = self.come_in("Imre Holt")
        expect(page.locator(".tray-row").first).to_be_visible()
        page.keyboard.press("f")
        page.keyboard.type(BEING_CHECKED)
        expect(page.locator(".jc-found button").first).to_contain_text(BEING_CHECKED)
        page.keyboard.press("Enter")
        expect(page.locator(".desk-check.chosen")).to_be_visible()
        page.keyboard.press("w")
        expect(page.get_by_label(re.compile(r"^Point \d+ of the letter")).first).to_be_visible()
        self.assertEqual(page.get_by_label("Find a case, person or place").input_value(), "")

    def test_the_letter_that_goes_is_the_one_on_the_screen(self) -> None:
        page = self.desk()
        page.keyboard.press("w")
        expect(page.get_by_label(re.compile(r"^Point \d+ of the letter")).first).to_be_visible()
        page.keyboard.press("l")
        expect(page.get_by_role("heading", name=re.compile("^The letter, ")).first).to_be_visible()
        words = page.get_by_label(re.compile(r"^Point 1 of the letter"))
        words.fill("")
        page.keyboard.press("Tab")
        expect(words).not_to_have_value("")  # emptied, it is what would be sent
        # somebody else judges meanwhile, and the line is cut for the words alone: nothing goes without them
        words.fill("My carefully written words about the scale.")
        page.route("**/words", lambda route: route.abort())
        page.get_by_role("button", name="Send and pause the clock").click()
        expect(page.get_by_text("There is no connection to the office just now", exact=False).first).to_be_visible()
        expect(page.get_by_role("heading", name="The letter is sent")).to_have_count(0)
        expect(words).to_have_value("My carefully written words about the scale.")
        page.unroute_all()
        page.get_by_role("button", name="Send and pause the clock").click()  # one click keeps and sends
        expect(page.get_by_role("heading", name="The letter is sent")).to_be_visible()
        sent = page.evaluate(
            "async (reference) => (await (await fetch(`/api/cases/${reference}`)).json()).assessment.rounds.at(-1).points[0].text",
            BEING_CHECKED,
        )
        self.assertEqual(sent, "My carefully written words about the scale.")
        self.troubles.clear()

    def test_a_case_from_the_tray_to_complete_and_on_by_keys_alone(self) -> None:
        page = self.desk(NEARLY_JUDGED)
        pressed = 0
        counter = page.locator(".desk-list h2 > span")

        def press(key: str) -> None:
            nonlocal pressed
            pressed += 1
            page.keyboard.press(key)

        total = int(re.findall(r"\d+", counter.inner_text())[1])
        for n in range(self.judged(page), total):
            press("m")
            reason = page.get_by_label("Why is it met all the same?")
            expect(page.get_by_text(f"{n + 1} of {total} judged").or_(reason).first).to_be_visible()
            if reason.is_visible():
                page.keyboard.type("Looked at by hand.")
                press("Enter")
            expect(counter).to_have_text(f"{n + 1} of {total} judged")
        press("u")  # the mark goes to what was undone
        expect(counter).to_have_text(f"{total - 1} of {total} judged")
        expect(page.locator(".desk-check.chosen .jc-tab.given")).to_have_count(0)
        press("m")
        if page.get_by_label("Why is it met all the same?").is_visible():
            page.keyboard.type("Looked at by hand.")
            press("Enter")
        expect(counter).to_have_text(f"{total} of {total} judged")
        press("y")
        expect(page.get_by_role("dialog", name="Accept as complete?")).to_be_visible()
        press("Enter")
        expect(page.locator(".jc-stamp").first).to_have_text("Complete")
        press("h")
        expect(page.get_by_role("dialog", name="Hand the case over?")).to_be_visible()
        press("Enter")
        expect(page.locator(".jc-stamp").first).to_have_text("Under review")
        press("g")
        expect(page.locator(".desk-head")).not_to_contain_text(NEARLY_JUDGED)
        expect(page.locator(".desk-check.chosen, .desk-answer.chosen").first).to_be_visible()
        press("r")
        expect(page.get_by_role("button", name=re.compile("^Registers"))).to_have_attribute("aria-pressed", "true")
        press("r")  # and back to the evidence
        expect(page.get_by_role("button", name=re.compile("^Registers"))).to_have_attribute("aria-pressed", "false")
        press("i")
        expect(page.locator(".tray-row").first).to_be_visible()
