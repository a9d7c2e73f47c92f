"""What one has of one's own: a folder, words found among drafts and cases, another filing like this one, one's own reference."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import begin, field, new_visa, on_to

SELF = "corvin"
CASE = "CT-26-00004-B"


class Own(Looks):
    def test_a_draft_is_transferred_to_somebody_who_accepts_it(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        on_to(page, "The works")
        page.get_by_label("What will you build or change?").fill("Net loft")
        page.get_by_role("button", name="Transfer it to somebody else").click()
        mail = page.get_by_label("Mail address of whoever takes it over")
        mail.fill(f"{SELF}@post.quillhaven.example")
        page.get_by_role("button", name="Offer it").click()
        expect(page.get_by_text("This address is your own.")).to_be_visible()
        mail.fill("odalys@post.quillhaven.example")
        page.get_by_role("button", name="Offer it").click()
        offered = page.get_by_text("Offered to odalys@post.quillhaven.example. It stays yours until they accept it.")
        expect(offered).to_be_visible()
        self.look(page, "a draft that is offered")
        page.get_by_role("button", name="Take the offer back").click()
        page.get_by_role("button", name="Transfer it to somebody else").click()
        mail.fill("odalys@post.quillhaven.example")
        page.get_by_role("button", name="Offer it").click()
        expect(offered).to_be_visible()
        other = self.come_in("Odalys Renn")
        there = other.get_by_role("region", name="Offered to you")
        expect(there).to_contain_text("Corvin Pell offers you a filing")
        self.look(other, "a draft offered to oneself")
        there.get_by_role("button", name="Take it over").click()
        other.wait_for_url(re.compile("/filing/"))
        on_to(other, "The works")
        expect(field(other, "works.what")).to_have_value("Net loft")
        page.reload()
        expect(page.get_by_text("There is no such draft of yours.")).to_be_visible()

    def test_a_folder_a_search_and_another_one_like_this(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        on_to(page, "The works")
        page.get_by_label("What will you build or change?").fill("Kelp drying shed")
        page.get_by_label("In which folder").fill("Spring works")
        page.get_by_label("A reference of your own").fill("kelp-7")
        expect(page.locator(".filing-kept")).to_contain_text("Kept")
        first = page.url.split("/filing/")[1][:32]
        page.get_by_role("button", name="Begin another one like this").click()
        page.wait_for_url(lambda url: first not in url)
        on_to(page, "The works")
        what = field(page, "works.what")
        expect(what).to_have_value("Kelp drying shed")
        expect(page.locator(".filing-from").first).to_contain_text("as in Kelp drying shed")
        what.fill("Kelp press house")
        expect(page.get_by_text("the officer will look", exact=False)).to_have_count(0)
        expect(page.get_by_label("In which folder")).to_have_value("")
        expect(page.locator(".filing-kept")).to_contain_text("Kept")
        page.get_by_role("link", name="My cases").click()
        folder = page.locator("details.cases-folder")
        expect(folder.locator("summary")).to_have_text(re.compile(r"Spring works\s*1"))
        expect(folder.locator(".cases-row")).to_contain_text("“kelp-7”")
        find = page.get_by_label("Find among your own")
        found = page.get_by_role("region", name="Found among your own")
        for words, count in (("kelp", 2), ("kelp press", 1), ("KELP-7", 1), ("spring wor", 1), ("no such words", 0)):
            find.fill(words)
            with self.subTest(words):
                expect(found.get_by_role("heading")).to_have_text(re.compile(rf"Found among your own\s*{count}$"))
                expect(found.locator(".cases-row")).to_have_count(count)
        find.fill("tidazol first time")
        expect(found.locator(".cases-row")).to_contain_text(CASE)
        self.look(page, "found among one's own")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "found among one's own on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        found.locator(".cases-row").click()
        expect(page.locator(".my-case-story .mono").first).to_have_text(re.compile(rf"{CASE}.*“tz-1”"))
        page.get_by_role("button", name="Begin another one like this").click()
        page.wait_for_url(re.compile("/filing/"))
        expect(page.locator(".filing-title")).to_contain_text("Tidazol")

    def test_somebody_named_before_is_picked(self) -> None:
        page = self.come_in("Corvin Pell")
        draft = new_visa(page)
        go(page, f"{self.server.address}/filing/{draft}/persons")
        page.get_by_text("Pick from your earlier filings").click()
        offered = page.locator(".earlier")
        first = offered.get_by_role("checkbox").first
        expect(first).to_be_visible()
        name = offered.locator("b").first.inner_text()
        first.check()
        self.look(page, "somebody named before")
        offered.get_by_role("button", name="Add them").click()
        expect(field(page, "persons.1.name")).to_have_value(name)
        expect(page.locator(".filing-from").first).to_contain_text("as in")
        page.get_by_text("Pick from your earlier filings").click()
        expect(offered.get_by_role("button", name="Add them")).to_be_visible()
        expect(offered.locator("b", has_text=re.compile(f"^{name}$"))).to_have_count(0)


class ByName(Looks):
    def test_a_builder_and_an_agent_are_looked_for_by_name(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Building works permit")
        on_to(page, "People on site")
        page.get_by_role("button", name="Add the first").click()
        page.get_by_role("textbox", name="Find it in the roll of builders").fill("skerry roof")
        page.get_by_role("button", name="B-022").click()
        expect(page.locator("[id='people.1.name']")).to_have_value("Skerry Roofing")
        expect(page.locator("[id='people.1.number']")).to_have_value("B-022")
        page.get_by_role("button", name="Add another").click()
        page.get_by_role("textbox", name="Find it in the roll of builders").fill("nobody of that name")
        expect(page.get_by_text("Nothing is called that.", exact=False)).to_be_visible()
        self.look(page, "a builder looked for by name")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "a builder looked for by name on a narrow screen")
