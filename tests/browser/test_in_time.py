"""What an applicant is told while a filing is prepared, paid and followed: in time, at its place, and no sum that is none."""

from __future__ import annotations

import re
from contextlib import suppress

from playwright.sync_api import APIResponse, Error, Page, Route, expect

from tests.browser.house import BrowserTest
from tests.browser.steps import attach, begin, field, on_to, pay, typed_plan


class InTime(BrowserTest):
    def mine(self, page: Page, title: str) -> None:
        """Open an own case from the first page."""
        page.goto(f"{self.server.address}/cases")
        page.locator(".cases-row", has_text=title).first.click()

    def kept(self, page: Page, place: str, answer: str) -> None:
        """Type an answer, and wait until the office has it."""
        with page.expect_response(lambda reply: reply.request.method == "PUT" and reply.ok):
            field(page, place).fill(answer)

    def test_two_windows_of_one_draft_keep_what_each_has_typed(self) -> None:
        one = self.come_in("Odalys Renn")
        begin(one, "Building works permit")
        on_to(one, "The works")
        two = one.context.new_page()
        two.goto(one.url)
        on_to(two, "While it is built")
        self.kept(one, "works.what", "A winch house")
        self.kept(two, "site.months", "3")
        two.reload()
        expect(field(two, "site.months")).to_have_value("3")
        on_to(two, "The works")
        expect(field(two, "works.what")).to_have_value("A winch house")
        # the same answer in both: the second, typed before the first was known there, is told, and overwrites nothing
        held: list[Route] = []

        def hold(asked: Route) -> None:
            if asked.request.method == "PUT" and not held:
                held.append(asked)
            else:
                asked.continue_()

        two.route("**/api/drafts/**", hold)
        field(two, "works.what").fill("A lamp house")
        self.until(lambda: held, two)
        self.kept(one, "works.what", "A boathouse")
        held[0].continue_()
        expect(two.get_by_text("Not kept: another window changed the same.").first).to_be_visible()

    def test_a_window_that_is_loading_while_another_changes_shows_the_change(self) -> None:
        one = self.come_in("Odalys Renn")
        begin(one, "Building works permit")
        on_to(one, "The works")
        two = one.context.new_page()
        before: list[tuple[Route, APIResponse]] = []

        def late(asked: Route) -> None:
            if before:
                asked.continue_()
            else:
                before.append((asked, asked.fetch()))

        two.route(re.compile(r"/api/drafts/\w+$"), late)
        two.goto(one.url)
        self.until(lambda: before, two)
        self.kept(one, "works.what", "A winch house")
        two.wait_for_timeout(1500)  # the change is told to both before what was there earlier arrives
        asked, earlier = before[0]
        asked.fulfill(response=earlier)
        expect(field(two, "works.what")).to_have_value("A winch house")

    def test_what_changed_before_a_page_could_listen_is_told_to_it(self) -> None:
        one = self.come_in("Odalys Renn")
        begin(one, "Building works permit")
        on_to(one, "The works")
        two = self.come_in("Odalys Renn")  # in another browser, which listens by itself
        held: list[Route] = []
        two.route("**/api/events*", lambda asked: held.append(asked))
        two.goto(one.url)
        self.until(lambda: held, two)
        expect(field(two, "works.what")).to_have_value("")
        self.kept(one, "works.what", "A winch house")
        two.wait_for_timeout(1500)
        expect(field(two, "works.what")).to_have_value("")
        for asked in held:  # the place from which it came may have asked as well
            with suppress(Error):
                asked.continue_()
        expect(field(two, "works.what")).to_have_value("A winch house")

    def test_a_slip_says_what_is_open_and_a_part_that_may_not_be_asked_is_dashed(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Touring performers' visa")
        slip = page.locator(".filing-slip .jc-slip")
        # nobody is named yet: the price is not nothing, it is open
        expect(slip).to_contain_text(re.compile(r"To pay when you file\s*(€ )?(open|from)"))
        expect(slip).not_to_contain_text("€ 0.00")
        begin(page, "Clinical trial authorisation")
        expect(slip).to_contain_text(re.compile(r"\d+ questions open, first:"))
        for line in slip.locator("li").all():
            self.assertLessEqual(line.get_by_role("link").count(), 1)
        begin(page, "Building works permit")
        shore = page.get_by_role("navigation", name="Parts of the filing").get_by_role("link", name="The shoreline")
        expect(shore.locator("..")).to_contain_text("not known yet")

    def test_a_file_that_is_contradicted_and_one_with_several_faults(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Invention patent")
        on_to(page, "Claims and pages")
        field(page, "count.claims").fill("27")
        on_to(page, "Documents")
        attach(
            page, "Claims", "claims.pdf", typed_plan((72, 700, "1. A block, that turns."), (72, 680, "2. A block as in claim 1."))
        )
        told = "Number of claims differs. Form, Claims and pages: 27; Claims, sheet 1: 2."
        slot = page.locator(".filing-slot", has=page.get_by_role("heading", name="Claims"))
        expect(slot).to_contain_text(told)
        expect(slot).not_to_contain_text("nothing to object to")
        expect(page.locator(".filing-bring li", has_text="Claims").first).to_contain_text(told)
        begin(page, "Building works permit")
        on_to(page, "Documents")
        attach(page, "Site plan, to scale", "small.pdf", b"%PDF-1.7 broken")
        page.get_by_role("link", name="Read it over").first.click()
        expect(page.locator(".read-over-gaps")).to_contain_text("small.pdf")
        expect(page.get_by_role("button", name="File this application")).to_be_disabled()

    def test_more_time_says_its_day_and_price_before_it_is_taken(self) -> None:
        page = self.come_in("Corvin Pell")
        # what runs out first stands first, and what is to be done stands before what can be paid
        rows = page.get_by_role("region", name="Waiting for you").locator(".cases-row")
        expect(rows.first).to_contain_text(
            re.compile(r"lapses (tonight|in [1-4] days?)")
        )  # how many lie between hangs on the weekday
        self.mine(page, "Rope end that does not fray")
        expect(page.get_by_role("button", name="Send the answers")).to_be_visible()  # all of the page is there
        page.get_by_role("button", name="Ask for more time").click()
        asked = page.get_by_role("dialog", name=re.compile(r"Your answers are then due on .* and € 90\.00 more is to be paid\."))
        expect(asked).to_be_visible()
        page.keyboard.press("Escape")
        page.reload()
        expect(page.get_by_role("button", name="Ask for more time")).to_be_visible()  # nothing was taken

    def test_a_message_of_the_office_waits_until_it_was_in_sight(self) -> None:
        officer = self.come_in("Imre Holt", at="/desk/BW-26-00416-A")
        officer.get_by_role("button", name=re.compile("^Talk")).click()
        officer.get_by_label("Write to the applicant").fill("The bell is out of order: knock.")
        officer.get_by_role("button", name="Send the message").click()
        expect(officer.locator(".messages-text", has_text="The bell is out of order")).to_be_visible()
        page = self.come_in("Corvin Pell")
        waiting = page.get_by_role("region", name="Waiting for you")
        told = waiting.locator(".cases-row", has_text="A message from Imre Holt")
        expect(told).to_contain_text("BW-26-00416-A")
        told.click()
        expect(page.locator(".messages-text", has_text="The bell is out of order")).to_be_visible()
        page.wait_for_timeout(1500)
        page.goto(f"{self.server.address}/cases")
        expect(waiting).to_be_visible()
        expect(told).to_have_count(0)

    def test_the_terminal_tells_this_payment_and_asks_none_where_nothing_is_due(self) -> None:
        page = self.come_in("Tamsin Oake", at="/cases")
        page.locator(".cases-row", has_text="TL-26-00003-B").click()
        screen = page.locator(".till-screen")
        expect(screen).to_contain_text("116.50")
        pay(page)
        expect(screen).to_contain_text("€ 116.50")
        page.reload()
        expect(page.locator(".till-machine")).to_be_hidden()  # paid: no terminal that approves nothing
        expect(page.get_by_text("Still to pay")).to_have_count(0)
