"""What the engine knows stands where it is typed, at once; and a session that ends loses nothing."""

from __future__ import annotations

import re

import pypdfium2
from playwright.sync_api import Route, expect

from jolly_clerk.demo import papers
from tests.browser.house import BrowserTest
from tests.browser.steps import begin, field, on_to


class Told(BrowserTest):
    def test_a_rule_that_is_broken_is_said_at_the_field(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        on_to(page, "The stalls")
        expect(page.get_by_role("heading", name="The stalls", exact=True)).to_be_focused()
        expect(page).to_have_title(re.compile("^The stalls"))
        page.get_by_role("button", name="Add the first").click()
        front = field(page, "stalls.1.frontage")
        expect(front).not_to_have_attribute("aria-invalid", "true")
        front.fill("5")
        said = page.get_by_text("The front of 5 m is longer than 4.0 m.").first
        expect(said).to_be_visible()
        expect(front).to_have_attribute("aria-invalid", "true")
        described = (front.get_attribute("aria-describedby") or "").split()
        told = " ".join(page.locator(f'[id="{one}"]').inner_text() for one in described)
        self.assertIn("The front of 5 m is longer than 4.0 m.", told)
        front.fill("3.5")
        expect(said).to_have_count(0)
        expect(front).not_to_have_attribute("aria-invalid", "true")

    def test_nothing_is_answered_on_the_way_in_that_the_filing_would_not_have(self) -> None:
        page = self.come_in("Corvin Pell")
        held: list[Route] = []
        page.route("**/api/drafts", lambda route: held.append(route) if route.request.method == "POST" else route.continue_())
        page.get_by_role("link", name="New filing").click()
        page.get_by_role("button", name="Begin: Pavement stall licence").click()
        field(page, "trade.island").select_option(label="Quill")
        page.get_by_role("button", name="I know that I need it").click()
        expect(field(page, "trade.island")).to_be_disabled()  # the filing begins with what was answered until now
        expect(page.get_by_role("button", name="I know that I need it")).to_be_disabled()
        expect(page.get_by_text("Your filing begins…")).to_be_visible()
        self.assertEqual(len(held), 1)
        self.assertEqual(held[0].request.post_data_json["answers"], {"trade": {"island": "quill"}})
        held[0].continue_()
        expect(page.get_by_role("heading", name="What you sell", exact=True)).to_be_visible()
        expect(field(page, "trade.island")).to_be_enabled()
        expect(field(page, "trade.island")).to_have_value("quill")

    def test_what_is_not_needed_is_said_in_the_form_and_is_not_filed(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        field(page, "trade.island").select_option(label="Quill")
        field(page, "trade.ground").select_option(label="On my own ground")
        panel = page.locator(".way-in-says")
        expect(panel).to_contain_text("No, none is needed")
        expect(panel).to_contain_text("art. 3(1)")
        with page.expect_download() as letter:
            panel.get_by_role("button", name="Take the letter that says so").click()
        self.assertTrue(letter.value.path().read_bytes().startswith(b"%PDF"))
        page.get_by_role("link", name="Read it over").click()
        expect(page.locator(".way-in-says")).to_contain_text("No, none is needed")
        expect(page.get_by_role("button", name="File this application")).to_be_disabled()

    def test_a_session_that_ends_in_the_middle_of_a_word(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Building works permit")
        on_to(page, "The works")
        what = page.get_by_label("What will you build or change?")
        what.fill("A lean-to")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.context.clear_cookies()
        what.press("End")
        page.keyboard.insert_text(" of glass")  # at once: a slow machine would be asked for the password between two letters
        asked = page.get_by_role("dialog", name="You have been signed out")
        expect(asked).to_contain_text("What you typed is still here.")
        asked.get_by_role("button", name="Go on as Tamsin Oake").click()
        expect(asked).to_have_count(0)
        expect(what).to_have_value("A lean-to of glass")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.reload()
        expect(what).to_have_value("A lean-to of glass")

    def test_amounts_as_people_write_them_are_shown_back(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Building works permit")
        on_to(page, "The works")
        estimate, area = page.get_by_label("Your own estimate of cost"), page.get_by_label("Floor area under it")
        estimate.fill("31.000")
        expect(page.get_by_text("If you mean 31 000, write it like that.")).to_be_visible()
        estimate.fill("31 000,00")
        area.fill("95,8 m2")
        area.press("Tab")
        expect(page.get_by_text("If you mean 31 000")).to_have_count(0)
        expect(page.locator(".filing-echo")).to_have_text([re.compile("95.8 m²"), re.compile("31.000")])

    def test_on_a_phone_the_first_question_is_in_sight(self) -> None:
        page = self.come_in("Odalys Renn", 360, 740)
        page.get_by_role("link", name="Glass lean-to").first.click()
        page.wait_for_url("**/filing/**")
        island = field(page, "need.island")
        expect(island).to_be_visible()
        self.assertLess((island.bounding_box() or {"y": 740})["y"], 370)
        switch = page.locator(".filing-switch > summary")
        expect(switch).to_have_text(re.compile("1 of 9: What you plan"))
        switch.click()
        on_to(page, "The works")
        expect(switch).to_have_text(re.compile("4 of 9: The works"))
        expect(page.get_by_role("navigation", name="Parts of the filing")).to_be_hidden()

    def test_what_was_read_is_offered_as_the_answer(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Invention patent")
        on_to(page, "Documents")
        claims = papers.claims(2, 1)
        page.locator('[id="documents.claims"] input[type=file]').set_input_files(
            {"name": "claims.pdf", "mimeType": "application/pdf", "buffer": claims}
        )
        expect(page.get_by_role("link", name="claims.pdf").first).to_be_visible()
        expect(page.get_by_text("being read", exact=False)).to_have_count(0)
        on_to(page, "Claims and pages")
        offer = page.locator(".filing-offer").first
        expect(offer).to_contain_text("Claims, sheet 1: 3")
        count = field(page, "count.claims")
        count.fill("27")
        expect(page.get_by_text("Number of claims differs.", exact=False).first).to_be_visible()
        offer.get_by_role("button", name="Use 3").click()
        expect(count).to_have_value("3")
        expect(page.get_by_text("Number of claims differs.", exact=False)).to_have_count(0)

    def test_rows_are_not_born_red_and_a_stop_that_ends_before_it_begins_is_told(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Touring performers' visa")
        on_to(page, "The tour")
        stops = field(page, "tour.stops")
        stops.get_by_role("button", name="Add").click()
        expect(page.get_by_text("Row 1: fill in “Venue”, “First day” and “Last day”.")).to_be_visible()
        expect(stops.get_by_role("alert")).to_have_count(0)
        page.get_by_label("Venue, row 1").fill("Old Hall")
        page.get_by_label("First day, row 1").fill("8 Mar 2027")
        page.get_by_label("Last day, row 1").fill("1 Mar 2027")
        expect(page.get_by_text("The last day of a stop lies before its first.", exact=False).first).to_be_visible()
        page.get_by_label("Last day, row 1").fill("9 Mar 2027")
        expect(page.get_by_text("The last day of a stop lies before its first.", exact=False)).to_have_count(0)

    def test_a_kind_is_found_by_what_one_needs(self) -> None:
        page = self.come_in("Corvin Pell")
        page.get_by_role("link", name="New filing").click()
        kinds = page.locator(".kinds > li")
        expect(kinds).to_have_count(6)
        expect(kinds.last).to_be_in_viewport(ratio=1)  # all of them stand on one screen
        page.get_by_label("What do you want to do?").fill("sel ice creem")
        expect(kinds).to_have_count(1)
        expect(kinds).to_contain_text("Pavement stall licence")
        page.get_by_label("What do you want to do?").fill("xyzzy")
        expect(page.get_by_text("Nothing fits these words.", exact=False)).to_be_visible()
        page.get_by_label("What do you want to do?").fill("")
        expect(kinds).to_have_count(6)

    def test_before_an_account_the_price_and_papers_of_a_group_are_told_and_printed(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("button", name="Sign out").click()
        page.get_by_label("What do you want to do?").fill("bring a band")
        ways_in = page.get_by_role("link", name=re.compile("^Do I need it"))
        expect(ways_in.first).to_have_accessible_name(re.compile("Touring performers' visa"))  # what fits is listed
        ways_in.first.click()
        field(page, "need.paid_by").select_option(label="The promoter or the company on tour")
        field(page, "need.home").select_option(label="Anywhere else")
        expect(page.locator(".jc-slip")).to_contain_text("0.00 to 95.00")
        expect(page.locator(".filing-bring")).to_contain_text("Passport")
        page.get_by_label("Persons: how many?").fill("12")
        expect(page.locator(".filing-bring")).to_contain_text("Passport × 12")
        expect(page.locator(".jc-slip")).to_contain_text(re.compile(r"Bond\s*2.400\.00"))
        page.get_by_label("Persons: how many?").fill("1")
        for question, day in (("born", "4 Mar 1990"), ("arrival", "1 Mar 2030"), ("departure", "31 Mar 2030")):
            field(page, f"persons.1.{question}").fill(day)
        field(page, "service.speed").select_option(label="Normal")
        expect(page.locator(".jc-slip-total").first).to_contain_text(re.compile(r"To pay when you file\s*€.295\.00"))
        printed = pypdfium2.PdfDocument(page.pdf())
        text = printed[0].get_textpage().get_text_range()
        for said in ("Quillhaven One-Door Office", "Touring performers' visa: estimate and what to bring", f"1 / {len(printed)}"):
            self.assertIn(said, text)
        page.get_by_role("button", name="Sign in and begin with these answers").click()
        page.get_by_role("button", name="Odalys Renn").click()
        page.wait_for_url("**/filing/**")
        on_to(page, "Persons")
        expect(field(page, "persons.1.born")).to_have_value("4 Mar 1990")

    def test_a_case_shows_its_papers_and_messages_first_and_what_was_filed_by_part_and_version(self) -> None:
        page = self.come_in("Odalys Renn")
        page.locator(".cases-row", has_text="New workshop roof, 4 Saltern Slip").first.click()
        tops = [
            (page.get_by_role("heading", name=name, exact=True).bounding_box() or {"y": -1.0})["y"]
            for name in ("Papers", "Messages", "What you filed")
        ]
        self.assertEqual(tops, sorted(tops))
        works = page.locator("details.filed-part", has=page.locator("summary", has_text=re.compile("^The works$")))
        expect(works.get_by_text("82.1 m²")).to_be_hidden()
        works.locator("summary").click()
        expect(works.get_by_text("82.1 m²")).to_be_visible()
        files = page.locator("details.filed-part", has=page.locator("summary", has_text=re.compile("^Documents$")))
        expect(files).to_contain_text("site-plan-rev-c.pdf")
        page.get_by_role("button", name="Version 1").click()
        expect(files).to_contain_text("site-plan-rev-b.pdf")
        expect(files).not_to_contain_text("site-plan-rev-c.pdf")
        expect(works.get_by_text("95.8 m²")).to_be_visible()

    def test_what_a_third_party_sends_says_who_is_asked(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Land surveyor's registration")
        on_to(page, "Documents")
        told = page.get_by_text("The licensing body sends this straight to the office. Nothing is attached here.")
        expect(told.first).to_be_visible()
        expect(page.get_by_role("button", name="Ask them to send it").first).to_be_visible()

    def test_a_day_is_chosen_from_a_calendar_that_knows_closed_days(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        on_to(page, "The licence")
        begins = field(page, "licence.begins")
        begins.fill("24 Dec 2026")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.get_by_role("button", name="Choose a day").click()
        expect(page.get_by_text("December 2026")).to_be_visible()
        christmas = page.get_by_role("button", name="25 December 2026")
        expect(christmas).to_have_attribute("title", re.compile("The office is closed: "))
        expect(page.get_by_role("button", name="22 December 2026")).not_to_have_attribute("title", re.compile("."))
        page.get_by_role("button", name="22 December 2026").click()
        expect(begins).to_have_value("22 Dec 2026")
        expect(page.get_by_role("button", name="Choose a day")).to_be_focused()

    def test_a_list_with_nothing_to_choose_says_why(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        field(page, "trade.island").select_option(label="Far Skerry")
        on_to(page, "The stalls")
        page.get_by_role("button", name="Add the first").click()
        pitch = field(page, "stalls.1.pitch")
        expect(pitch).to_be_disabled()
        why = "There is nothing to choose, since “What you sell, On which island?” is “Far Skerry”."
        expect(page.get_by_text(why)).to_be_visible()

    def test_the_roll_counts_other_stalls_than_the_form(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Pavement stall licence")
        on_to(page, "The licence")
        field(page, "licence.sort").select_option(label="A new licence")
        held = field(page, "licence.held")
        expect(held).to_have_value("")  # nothing is answered for anybody
        held.fill("0")
        expect(page.get_by_label("Find it in the roll of stall licences")).to_have_count(0)
        held.fill("2")
        page.get_by_label("Find it in the roll of stall licences").last.fill("TL-2025-0052")
        page.get_by_role("button", name=re.compile("^TL-2025-0052")).click()
        expect(field(page, "licence.number")).to_have_value("TL-2025-0052")
        expect(page.get_by_text("Stalls on the roll differs.", exact=False).first).to_be_visible()
        held.fill("1")
        expect(page.get_by_text("Stalls on the roll differs.", exact=False)).to_have_count(0)
