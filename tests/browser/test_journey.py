"""One building works permit from a blank form to *Complete*, by the screen alone, on both sides of the counter."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jolly_clerk.demo.drawings import site_plan
from tests.browser.house import BrowserTest, go
from tests.browser.steps import accept, begin, file_it, fill_in, judge_rest, on_to, sign, sign_again, unfold
from tests.reading.test_reading import foreign_pdfs


class WholeJourney(BrowserTest):
    def test_from_a_blank_form_to_complete(self) -> None:
        reference = self.prepare_and_file(page := self.come_in("Tamsin Oake", by_click=True))
        self.pay(page)
        self.check_and_ask(officer := self.come_in("Imre Holt", by_click=True), reference)
        self.answer(page, reference)
        self.close_and_accept(officer, reference)
        go(page, f"{self.server.address}/cases/{reference}")
        expect(page.locator(".jc-stamp").first).to_have_text("Complete")
        expect(page.locator(".story").get_by_text("Accepted as complete")).to_be_visible()
        for paper in ("filing receipt", "answers receipt", "payment receipt", "letter", "acceptance letter"):
            self.assert_pdf(page, paper)

    def prepare_and_file(self, page: Page) -> str:
        begin(page, "Building works permit")
        fill_in(page, "21 Cooper's Yard", "Cooper's workshop", distance="45")
        slip = page.locator(".jc-slip")
        on_to(page, "The works")
        area = page.get_by_label("Floor area under it")
        area.fill("-4")
        expect(page.get_by_text("−4 m² is below 0 m²")).to_be_visible()
        area.fill("95.8")
        page.get_by_label("How far is the nearest part from high water?").fill("30")
        expect(slip).to_contain_text("318.18")
        expect(slip).to_contain_text("€ 438.18")
        expect(
            page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name="The shoreline")
        ).to_be_visible()
        page.get_by_label("How far is the nearest part from high water?").fill("45")
        expect(slip).to_contain_text("€ 318.18")
        yes_or_no = page.get_by_role("radiogroup", name="Have works begun?")
        yes_or_no.get_by_label("Yes").check()
        page.get_by_label("When did works begin?").fill("31 November 2026")
        expect(page.get_by_text("There is no 31 Nov 2026")).to_be_visible()
        yes_or_no.get_by_label("No").check()
        on_to(page, "Documents")
        # leave and come back: everything is still there
        go(page, f"{self.server.address}/cases")
        page.get_by_role("link", name="Cooper's workshop, 21 Cooper's Yard").click()
        on_to(page, "The place")
        expect(page.get_by_label("Where are the works?")).to_have_value("21 Cooper's Yard")
        on_to(page, "Documents")
        foreign = foreign_pdfs()
        page.get_by_label("File for Site plan, to scale").set_input_files(
            {"name": "empty.pdf", "mimeType": "application/pdf", "buffer": b""}
        )
        expect(page.get_by_text("“empty.pdf” is empty (0 bytes)").first).to_be_visible()
        page.get_by_role("button", name="remove empty.pdf").click()
        page.get_by_label("File for Site plan, to scale").set_input_files(str(foreign[-1]))
        expect(page.locator(".filing-slot").first.get_by_text("A3 or larger is asked.").first).to_be_visible()
        page.get_by_label("File for Sections").set_input_files(str(foreign[0]))
        sections = page.locator(".filing-slot", has=page.get_by_role("heading", name="Sections"))
        expect(
            sections.get_by_text("No scale was found; 1:50 is asked.").or_(sections.get_by_text("No text can be read")).first
        ).to_be_visible()
        on_to(page, "Promise and sign")
        sign(page, "Tamsin Oake")
        old_address = page.url
        reference = file_it(page)
        there = page.context.new_page()
        go(there, old_address)
        expect(there.get_by_text(f"This was filed or sent: it is {reference} now.")).to_be_visible()
        there.get_by_role("link", name="Open the case").click()
        expect(there.locator(".jc-stamp").first).to_have_text("Waiting for payment")
        there.close()
        return reference

    def pay(self, page: Page) -> None:
        expect(page.locator(".jc-stamp").first).to_have_text("Waiting for payment")
        page.get_by_role("button", name="Pay by card").click()
        page.get_by_role("button", name="Hold a card without money").click()
        expect(page.get_by_text("The card was declined. Nothing was charged.")).to_be_visible()
        page.get_by_role("button", name="Try again").click()
        page.get_by_role("button", name="Hold a good card to it").click()
        expect(page.get_by_text("Approved")).to_be_visible()
        expect(page.get_by_text("Filed", exact=True)).to_be_visible()
        page.get_by_role("link", name="To my case").click()
        expect(page.get_by_text("The office, since")).to_be_visible()

    def check_and_ask(self, page: Page, reference: str) -> None:
        """The officer, by keyboard alone once the case is found."""
        page.keyboard.press("f")
        page.keyboard.type(reference[:11])
        expect(page.get_by_role("button", name="Cooper's workshop").first).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Cooper's workshop, 21 Cooper's Yard")).to_be_visible()
        page.get_by_role("heading", name="Cooper's workshop, 21 Cooper's Yard").click()
        page.keyboard.press("k")
        expect(page.locator(".jc-stamp")).to_have_text("Being checked")
        counter = page.locator(".desk-list h2 > span")
        page.get_by_role("button", name="Site plan, to scale").click()
        expect(page.locator("[data-drawn=true]")).to_be_visible()
        page.keyboard.press("w")
        expect(counter).to_have_text("1 of 12 judged")
        expect(page.get_by_label("Point 1 of the letter")).to_have_value(re.compile("A3 or larger is asked"))
        page.locator(".desk-list h3").first.click()
        page.keyboard.press("n")
        judge_rest(page)
        page.keyboard.press("l")
        expect(page.get_by_role("heading", name="The letter, 1 point")).to_be_visible()
        page.get_by_label("Point 1 of the letter").fill("Send the site plan again on A3, at 1:200, with a scale bar.")
        page.keyboard.press("Tab")
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        expect(page.locator("[data-drawn=true]")).to_be_visible()
        page.get_by_role("button", name="Send and pause the clock").press("Enter")
        expect(page.get_by_role("heading", name="The letter is sent")).to_be_visible()
        expect(page.locator(".jc-stamp").first).to_have_text("Answers wanted")

    def answer(self, page: Page, reference: str) -> None:
        page.get_by_role("link", name="My cases").click()
        page.get_by_role("link", name="Answer 1 point").click()
        expect(page.get_by_role("heading", name="1 thing to put right")).to_be_visible()
        expect(page.get_by_text("at 1:200, with a scale bar").first).to_be_visible()
        send = page.get_by_role("button", name="Send the answers")
        expect(send).to_be_disabled()
        expect(page.get_by_text("Not yet:")).to_be_visible()
        page.get_by_role("button", name="remove").first.click()
        expect(page.get_by_role("button", name="Undo this change")).to_be_visible()
        drawn = site_plan("21 Cooper's Yard", "workshop", 13.3, 7.2, 18)
        page.get_by_label("File for Site plan").set_input_files(
            {"name": "plan-c.pdf", "mimeType": "application/pdf", "buffer": drawn}
        )
        expect(page.get_by_text("plan-c.pdf").first).to_be_visible()
        page.get_by_label("Your answer in words").fill("Drawn anew on A3.")
        page.get_by_text("Change something the letter did not ask about").click()
        page.get_by_label("Floor area under it").fill("82.1")
        expect(page.get_by_role("heading", name="Also changed, not asked for")).to_be_visible()
        expect(page.get_by_text("Comes back on acceptance")).to_be_visible()
        expect(page.get_by_text("32.18")).to_be_visible()
        page.get_by_label("A word to the officer").fill("Sorry about the small plan.")
        expect(page.get_by_text("Signed before this was changed").first).to_be_visible()
        expect(send).to_be_disabled()
        sign_again(page, "Tamsin Oake")
        expect(send).to_be_enabled()
        send.click()
        expect(page.locator(".jc-stamp").first).to_have_text("Answers came back")

    def close_and_accept(self, page: Page, reference: str) -> None:
        page.get_by_role("link", name="In-tray", exact=True).click()
        page.get_by_role("button", name=reference).dblclick()
        expect(page.get_by_text("0 of 1 closed")).to_be_visible()
        expect(page.get_by_text("“Drawn anew on A3.”")).to_be_visible()
        expect(page.locator("[data-drawn=true]")).to_have_count(2)
        page.keyboard.press("c")
        expect(page.get_by_text("1 of 1 closed")).to_be_visible()
        page.keyboard.press("t")
        expect(page.get_by_text("taken", exact=True)).to_be_visible()
        button = page.get_by_role("button", name="Accept as complete")
        expect(button).to_be_disabled()
        page.get_by_role("button", name="The whole checklist").click()
        expect(page.get_by_text("changed since it was judged met").first).to_be_visible()
        page.locator(".desk-list h3").first.click()
        judge_rest(page)
        expect(button).to_be_enabled()
        accept(page)
        expect(page.locator(".jc-stamp").first).to_have_text("Complete")

    def assert_pdf(self, page: Page, paper: str) -> None:
        address = page.get_by_role("link", name=paper, exact=True).get_attribute("href")
        head = page.evaluate("async (a) => { const r = await fetch(a); return (await r.text()).slice(0, 5) }", address)
        self.assertEqual(head, "%PDF-", paper)


class Elsewhere(BrowserTest):
    def test_somebody_elses_case_is_not_there(self) -> None:
        officer = self.come_in("Brisa Quay", at="/tray?whose=everyone's")
        first = officer.locator(".tray-ref").first.inner_text()
        page = self.come_in("Tamsin Oake", at=f"/cases/{first}")
        expect(page.get_by_text("There is no case").or_(page.get_by_text("What you filed"))).to_be_visible()
        go(page, f"{self.server.address}/tray")
        expect(page.get_by_role("heading", name="Hello, Tamsin")).to_be_visible()

    def test_two_officers_on_one_case(self) -> None:
        """The second is told, sees what changed, and loses no typed word."""
        first, second = self.come_in("Brisa Quay"), self.come_in("Maud Ferrier")
        for page in (first, second):
            go(page, f"{self.server.address}/tray?whose=everyone's")
            page.locator(".tray-row", has_text="Barnacle Steps").dblclick()
            expect(page.locator(".desk-list")).to_be_visible()
        expect(second.get_by_text("Brisa Quay has this case open too.")).to_be_visible()
        second.get_by_role("button", name="Sections", exact=False).first.click()
        second.keyboard.press("w")
        words = second.get_by_label("Point 1 of the letter")
        expect(words).to_be_visible()
        words.fill("Send the sections again; the roof is missing.")
        first.reload()
        unfold(first)
        first.get_by_role("button", name="Plot is on the land register").click()
        first.keyboard.press("d")
        expect(first.get_by_role("button", name="Plot is on the land register in doubt")).to_be_visible()
        words.press("Tab")  # another line of the checklist: both are kept, and the second hears of the first
        expect(second.get_by_text("Somebody else worked on this case.")).to_be_visible()
        expect(
            second.locator(".desk-news").get_by_text("Brisa Quay judged “Plot is on the land register” in doubt")
        ).to_be_visible()
        expect(second.get_by_text("kept", exact=True)).to_be_visible()
        expect(words).to_have_value("Send the sections again; the roof is missing.")
        second.get_by_role("button", name="Go on").click()
        unfold(second)
        second.get_by_role("button", name="Plot is on the land register", exact=False).first.click()
        # what the second hears of it comes late
        second.route(re.compile(r"/api/cases/[^/]+$"), lambda route: route.abort())
        first.get_by_role("button", name="Plot is on the land register", exact=False).first.click()
        first.keyboard.press("m")
        expect(first.get_by_role("button", name="Plot is on the land register met")).to_be_visible()
        second.unroute_all()
        second.keyboard.press("d")  # the same line: the second is told, and decides anew
        expect(second.get_by_text("Somebody else was faster; your step was not done.")).to_be_visible()
        expect(second.locator(".desk-news").get_by_text("Brisa Quay judged “Plot is on the land register” met")).to_be_visible()
        second.get_by_role("button", name="Go on").click()
        self.troubles.clear()  # the browser logs the requests that could not be made
        second.reload()
        unfold(second)
        second.get_by_role("button", name="Sections", exact=False).first.click()
        expect(words).to_have_value("Send the sections again; the roof is missing.")
