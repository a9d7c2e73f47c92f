"""All fourteen states, reached by the screen alone; each that is not final is left, and from each final one nothing more goes."""

from __future__ import annotations

import random
import re

from playwright.sync_api import Page, expect

from tests import SEED
from tests.browser.house import BrowserTest, Forked, go
from tests.browser.steps import (
    accept,
    attach,
    choose,
    file_it,
    fill_in,
    hand_over,
    judge_rest,
    on_to,
    open_desk,
    other_step,
    pay,
    sign,
    sign_again,
    stamp,
    typed_plan,
)

FINAL = {"Granted", "Refused", "Not accepted", "Out of scope", "Lapsed", "Withdrawn"}


class States(BrowserTest):
    open_desk, other_step = staticmethod(open_desk), staticmethod(other_step)

    def assert_final(self, page: Page, state: str, applicant: Page) -> None:
        """Each move is listed as impossible, with the reason, on both sides of the counter."""
        self.assertIn(state, FINAL)
        stamp(page, state)
        reference = re.search(r"BW-\d\d-\d{5}-[A-Z]", page.url)
        assert reference
        page.get_by_role("button", name="Other steps").click()
        page.get_by_text("What cannot be done now, and why").click()
        reasons = page.locator(".desk-more dd").all_inner_texts()
        self.assertGreaterEqual(len(reasons), 12)
        final = [r for r in reasons if f"The case is “{state}”; that is final." in r]
        self.assertGreaterEqual(len(final), 11)
        self.assertTrue(all(r.strip() for r in reasons))
        page.get_by_role("button", name="close").click()
        go(applicant, f"{self.server.address}/cases/{reference[0]}")
        stamp(applicant, state)
        applicant.get_by_text("What cannot be done now, and why").click()
        told = applicant.locator(".why-not dd").all_inner_texts()
        self.assertGreaterEqual(len(told), 6)
        for button in ("Withdraw it", "Take it back", "Ask for more time"):
            expect(applicant.get_by_role("button", name=button)).to_have_count(0)

    def test_from_a_draft_to_a_permit(self) -> None:
        """Draft, waiting, filed, taken back, checked, asked, answered, complete, under review, granted: with a plan typed up here."""
        distance = random.Random(SEED).randint(40, 190)
        page = self.come_in("Tamsin Oake")
        page.get_by_role("link", name="New filing").click()
        page.get_by_role("button", name="Begin: Building works permit").click()
        page.get_by_label("On which island?").select_option(label="Far Skerry")
        expect(page.get_by_role("heading", name="Another office decides")).to_be_visible()
        with page.expect_download() as letter:
            page.get_by_role("button", name="Take the letter that says so").click()
        self.assertEqual(letter.value.path().read_bytes()[:5], b"%PDF-")
        page.get_by_label("On which island?").select_option(label="Quill")
        choose(page, "Does any of it stand below high water?", "No")
        page.get_by_label("What is it?").select_option(label="A building made larger")
        expect(page.get_by_role("heading", name="Yes, it is needed")).to_be_visible()
        page.get_by_role("button", name="Begin the filing with these answers").click()
        expect(page.get_by_label("What is it?")).to_have_value("larger")
        fill_in(page, "9 Fiddler's Rest", "Fiddle workshop", distance=str(distance))
        on_to(page, "Documents")
        attach(
            page,
            "Site plan, to scale",
            "plan.pdf",
            typed_plan((200, 400, f"to mean high water {distance} m"), (500, 700, "floor area 95.8 m²")),
        )
        attach(page, "Sections", "sections.pdf", typed_plan((300, 300, "Section A-A at 1:50")))
        go(page, f"{self.server.address}/cases")
        expect(page.locator(".cases-row", has_text="Fiddle workshop").locator(".jc-stamp")).to_have_text("Draft")
        page.get_by_role("link", name="Fiddle workshop").click()
        on_to(page, "Promise and sign")
        sign(page, "Tamsin Oake")
        reference = file_it(page)
        stamp(page, "Waiting for payment")
        pay(page)
        stamp(page, "Filed")
        go(page, f"{self.server.address}/cases/{reference}")
        page.get_by_role("button", name="Take it back").click()
        page.get_by_label("Why do you take it back?").fill("The floor area was measured again.")
        page.get_by_role("button", name="Take the filing back").click()
        expect(page.get_by_text(f"taken back · {reference}")).to_be_visible()
        on_to(page, "The works")
        page.get_by_label("Anything else the plans do not show").fill("The roof is thatched.")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        on_to(page, "Promise and sign")
        sign_again(page, "Tamsin Oake")
        self.assertEqual(file_it(page), reference)
        stamp(page, "Filed")  # what was paid waited on the account
        officer = self.come_in("Brisa Quay")
        self.check(officer, reference, distance)
        self.answer(page, reference)
        self.complete(officer, reference)
        hand_over(officer, "Silas Thorne")
        reviewer = self.come_in("Silas Thorne")
        reviewer.locator(".tray-row", has_text="Fiddle workshop").dblclick()
        reviewer.get_by_role("button", name="Grant", exact=True).click()
        reviewer.get_by_label("Conditions, if there are any").fill("The thatch is fireproof.")
        reviewer.locator(".desk-more").get_by_role("button", name="Grant", exact=True).click()
        stamp(reviewer, "Granted")
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Fiddle workshop").click()
        pay(page)
        expect(page.get_by_role("heading", name="Paid. Your permit is issued.")).to_be_visible()
        page.get_by_role("link", name="To my case").click()
        expect(page.get_by_role("link", name="The permit (PDF)")).to_be_visible()
        code = page.locator(".my-case-permit .mono").inner_text()
        href = page.get_by_role("link", name="permit", exact=True).get_attribute("href")
        head = page.evaluate("async (a) => (await (await fetch(a)).text()).slice(0, 5)", href)
        self.assertEqual(head, "%PDF-")
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("link", name="Check whether a permit or licence is real").click()
        page.get_by_label("The code on it").fill(code)
        page.get_by_role("button", name="Check it").click()
        expect(page.get_by_text("Fiddle workshop")).to_be_visible()
        expect(page.get_by_text("Tamsin")).to_have_count(0)
        desk = self.come_in("Imre Holt")
        self.go(desk, reference)
        self.assert_final(desk, "Granted", self.come_in("Tamsin Oake"))

    def go(self, page: Page, reference: str) -> None:
        """To the desk of a case."""
        go(page, f"{self.server.address}/desk/{reference}")
        expect(page.locator(".desk-head")).to_be_visible()

    def check(self, page: Page, reference: str, distance: int) -> None:
        """The desk shows the distance of the plan with its box; on the plan sent next there is none to be found."""
        self.go(page, reference)
        page.get_by_role("button", name="Begin checking", exact=False).click()
        stamp(page, "Being checked")
        page.get_by_role("button", name="Distance to high water").first.click()
        table = page.locator(".agreement")
        expect(table.locator("tr", has_text="Site plan, to scale, sheet 1")).to_contain_text(f"{distance} m")
        expect(page.locator("[data-drawn=true]")).to_be_visible()
        box = page.get_by_role("img", name=f"Found here: {distance} m")
        expect(box).to_be_visible()
        placed = box.bounding_box()
        sheet = page.locator(".jc-pdf-sheet").bounding_box()
        assert placed and sheet
        across = (placed["x"] + placed["width"] / 2 - sheet["x"]) / sheet["width"]
        down = (placed["y"] + placed["height"] / 2 - sheet["y"]) / sheet["height"]
        self.assertAlmostEqual(across, 0.29, delta=0.06)  # 200 of 1191 points, after the words before it
        self.assertAlmostEqual(down, 1 - 405 / 842, delta=0.03)
        page.locator(".desk-list h3").first.click()
        judge_rest(page)
        for title in ("Site plan, to scale", "Sections"):
            page.get_by_role("button", name=title).first.click()
            page.locator(".desk-list h3").first.click()
            page.keyboard.press("w")
            expect(page.locator(".desk-rule [aria-pressed=true]")).to_contain_text("Wanting")
        page.keyboard.press("u")
        expect(page.locator(".desk-foot")).to_contain_text("1 point")
        page.keyboard.press("w")
        expect(page.locator(".desk-foot")).to_contain_text("2 points")
        page.keyboard.press("l")
        expect(page.get_by_role("heading", name="The letter, 2 points")).to_be_visible()
        page.get_by_role("button", name="merge into point 1").click()
        expect(page.get_by_role("heading", name="The letter, 1 point")).to_be_visible()
        page.get_by_role("button", name="split it again").click()
        expect(page.get_by_role("heading", name="The letter, 2 points")).to_be_visible()
        page.get_by_role("button", name="Send and pause the clock").click()
        expect(page.get_by_role("heading", name="The letter is sent")).to_be_visible()
        stamp(page, "Answers wanted")

    def answer(self, page: Page, reference: str) -> None:
        go(page, f"{self.server.address}/cases/{reference}")
        expect(page.get_by_role("heading", name="2 things to put right")).to_be_visible()
        page.get_by_role("button", name="Ask for more time").click()
        expect(page.get_by_role("dialog")).to_contain_text("Your answers are then due on")
        page.get_by_role("button", name="Take more time").click()
        expect(page.get_by_text("More time was given").first).to_be_visible()
        page.get_by_label("File for Site plan").set_input_files(
            {"name": "plan.pdf", "mimeType": "application/pdf", "buffer": typed_plan((200, 400, "no distance here"))}
        )
        expect(page.get_by_text("Version 2 of “plan.pdf”").first).to_be_visible()
        page.get_by_label("Your answer in words").nth(1).fill("The sections are as they were.")
        sign_again(page, "Tamsin Oake")
        expect(page.get_by_role("button", name="Send the answers")).to_be_enabled()
        page.get_by_role("button", name="Send the answers").click()
        expect(page.get_by_text("Your answers are sent. The office reads them", exact=False)).to_be_visible()
        stamp(page, "Answers came back")

    def complete(self, page: Page, reference: str) -> None:
        self.go(page, reference)
        expect(page.get_by_text("0 of 2 closed")).to_be_visible()  # what was answered is on the desk
        for closed in (1, 2):
            page.keyboard.press("c")
            expect(page.get_by_text(f"{closed} of 2 closed")).to_be_visible()
        page.get_by_role("button", name="The whole checklist").click()
        page.get_by_role("button", name="Distance to high water").first.click()
        expect(page.locator(".agreement tr", has_text="Site plan")).to_contain_text("not found")
        expect(page.locator(".jc-pdf-box")).to_have_count(0)
        page.locator(".desk-list h3").first.click()
        judge_rest(page)
        accept(page)
        stamp(page, "Complete")

    def test_refused(self) -> None:
        page = self.come_in("Imre Holt")
        self.open_desk(page, "8 Pilot Walk")
        stamp(page, "Complete")
        hand_over(page)
        reviewer = self.come_in("Silas Thorne")
        reviewer.locator(".tray-row", has_text="Pilot Walk").dblclick()
        reviewer.get_by_role("button", name="Refuse", exact=True).click()
        reviewer.get_by_role("button", name="Flood line", exact=True).click()
        reviewer.locator(".desk-more").get_by_role("button", name="Refuse", exact=True).click()
        stamp(reviewer, "Refused")
        page.reload()
        self.assert_final(page, "Refused", self.come_in("Odalys Renn"))

    def test_an_auditor_reads_and_is_offered_nothing_to_change(self) -> None:
        page = self.come_in("Anselm Gray")
        self.open_desk(page, "6 Compass Close")
        for beside in ("Registers", "Talk", "History"):
            page.get_by_role("button", name=re.compile(f"^{beside}")).first.click()
        page.get_by_role("button", name=re.compile("^Talk")).click()
        expect(page.get_by_role("heading", name="Internal notes")).to_be_visible()
        for button in ("Send the message", "Keep the note", "Other steps", "Accept as complete", "Hand over", "Ask it again"):
            expect(page.get_by_role("button", name=button)).to_have_count(0)
        expect(page.locator(".desk-judge button").first).to_be_disabled()
        page.keyboard.press("m")
        expect(page.get_by_text("Your role reads and does not judge.")).to_be_visible()

    def test_not_accepted(self) -> None:
        page = self.come_in("Imre Holt")
        self.open_desk(page, "9 Ropemaker Row")
        stamp(page, "Being checked")
        self.other_step(page, "Do not accept")
        page.get_by_role("button", name="Points stay open").click()
        page.locator(".desk-more").get_by_role("button", name="Do not accept").click()
        self.assert_final(page, "Not accepted", self.come_in("Tamsin Oake"))

    def test_out_of_scope(self) -> None:
        page = self.come_in("Brisa Quay")
        self.open_desk(page, "2 Lantern Quay")
        stamp(page, "Filed")
        self.other_step(page, "It is out of scope")
        expect(page.locator(".desk-more")).to_contain_text("45.00 is kept")
        page.get_by_label("Where does it belong?").fill("The harbour master decides about this.")
        page.locator(".desk-more").get_by_role("button", name="It is out of scope").click()
        self.assert_final(page, "Out of scope", self.come_in("Corvin Pell"))

    def test_withdrawn_with_the_refund_shown_first(self) -> None:
        applicant = self.come_in("Tamsin Oake")
        applicant.get_by_role("link", name="Boathouse with a slip").click()
        stamp(applicant, "Filed")
        applicant.get_by_role("button", name="Withdraw it").click()
        form = applicant.locator(".case-moves-form")
        # all of it within five working days; the test of the lapse, if it came first, set the clock on by twenty days
        expect(form).to_contain_text(re.compile("(100|80) % of"))
        back = form.locator(".jc-slip-total .mono").inner_text()
        applicant.get_by_role("button", name="Withdraw the application").click()
        stamp(applicant, "Withdrawn")
        expect(applicant.get_by_text(f"EUR {back.removeprefix('€ ')} comes back")).to_be_visible()
        page = self.come_in("Imre Holt")
        self.open_desk(page, "5 Heron Landing")
        self.assert_final(page, "Withdrawn", applicant)

    def test_lapsed_when_the_days_have_passed(self) -> None:
        folder = self.server.folder
        type(self).server.stop()
        type(self).server = Forked(folder, "--days-ahead", "20")
        self.addClassCleanup(self.server.stop)
        page = self.come_in("Imre Holt")
        self.open_desk(page, "28 Skerry Lane")
        for _ in range(40):
            if page.locator(".jc-stamp").first.inner_text() == "Lapsed":
                break
            page.wait_for_timeout(250)
            page.reload()
        self.assert_final(page, "Lapsed", self.come_in("Odalys Renn"))
