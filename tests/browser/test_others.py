"""Others at work in a filing: invited, held to their rights, seen at what they do; two people and two windows on one draft."""

from __future__ import annotations

import random
import re

from playwright.sync_api import Page, expect

from tests import SEED
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import begin, field, kept, on_to

CORVIN = "corvin@post.quillhaven.example"
ORDERS, STEPS = 5, 7


def invite(page: Page, name: str, mail: str, *rights: str) -> None:
    """Invite somebody on the page of the others at work."""
    form = page.get_by_role("form", name="Invite somebody")
    form.get_by_label("Name").fill(name)
    form.get_by_label("Mail address").fill(mail)
    for right in ("Fill in", "Attach files", "Sign", "Pay", "Answer letters"):
        form.get_by_label(right, exact=True).set_checked(right in rights)
    form.get_by_role("button", name="Send the invitation").click()
    expect(page.locator(".others-list")).to_contain_text(mail)


class Others(Looks):
    def test_somebody_is_invited_held_to_it_seen_and_sent_away(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Building works permit")
        address = page.url.split("/filing/")[0] + "/filing/" + page.url.split("/filing/")[1][:32]
        page.get_by_role("link", name="Others at work").click()
        expect(page.get_by_text("Nobody was invited yet.")).to_be_visible()
        invite(page, "Ida Marsh", "ida@marsh.example", "Sign")
        expect(page.locator(".others-list li").first).to_contain_text("has no account yet")
        invite(page, "Corvin Pell", CORVIN, "Fill in", "Attach files")
        self.look(page, "others at work")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "others at work on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})

        other = self.come_in("Corvin Pell")
        there = other.get_by_role("region", name="You were invited")
        expect(there).to_contain_text("You may look at it, fill in, attach files.")
        self.look(other, "what one was invited to")
        there.get_by_role("link").click()
        other.wait_for_url(re.compile("/filing/"))
        expect(other.get_by_text("This is a filing of Odalys Renn, who files it and invites others.")).to_be_visible()
        for gone in ("Throw this draft away", "Transfer it to somebody else", "Begin another one like this", "Others at work"):
            expect(other.get_by_text(gone)).to_have_count(0)
        on_to(other, "The works")
        field(other, "works.what").fill("Net loft")
        kept(other)
        go(page, f"{address}/works")
        held = page.locator(".filing-held")
        expect(held).to_contain_text("Corvin Pell is writing here.")
        expect(field(page, "works.what")).to_have_value("Net loft")
        expect(field(page, "works.what")).to_be_disabled()
        self.look(page, "a part that somebody else is writing")
        held.get_by_role("button", name="Take it over now").click()
        expect(held).to_have_count(0)
        field(page, "works.what").fill("Net loft and store")
        kept(page)
        expect(other.locator(".filing-held")).to_contain_text("Odalys Renn is writing here.")
        expect(field(other, "works.what")).to_have_value("Net loft and store")
        go(other, f"{address}/sign")
        expect(other.locator(".filing-held")).to_contain_text("You were not invited to change it.")
        expect(other.get_by_role("button", name="Sign", exact=True)).to_have_count(0)
        go(other, f"{address}/read-over")
        expect(other.get_by_text("Odalys Renn files it; you can only look at it here.")).to_be_visible()
        expect(other.get_by_role("button", name="File this application")).to_have_count(0)

        go(page, f"{address}/others")
        row = page.locator(".others-list > li", has_text=CORVIN)
        expect(row).to_contain_text("filled in “The works”")
        expect(row).to_contain_text("looked at it")
        row.get_by_role("button", name="Change what they may do").click()
        form = page.get_by_role("form", name="What Corvin Pell may do")
        form.get_by_label("Fill in", exact=True).uncheck()
        form.get_by_role("button", name="Change it").click()
        expect(row).to_contain_text("may look at it, attach files")
        go(other, f"{address}/works")
        expect(field(other, "works.what")).to_be_disabled()
        row.get_by_role("button", name="End the invitation").click()
        page.get_by_role("button", name="End it").click()
        expect(row).to_have_count(0)
        other.reload()
        expect(other.get_by_text("There is no such draft of yours.")).to_be_visible()

    def test_whoever_has_no_account_comes_by_link_and_code_and_signs(self) -> None:
        page = self.come_in("Odalys Renn")
        begin(page, "Building works permit")
        page.get_by_role("link", name="Others at work").click()
        invite(page, "Ada Marsh", "ada@marsh.example", "Sign")
        guest = self.stranger()
        go(guest, re.sub("^https?://[^/]*", self.server.address, self.mailed("ada@marsh.example", r"\S*/invited/[\w-]+")))
        expect(guest.get_by_text("Odalys Renn invites Ada Marsh to a filing.")).to_be_visible()
        self.look(guest, "the link of an invitation")
        guest.get_by_role("button", name="Send me the code").click()
        guest.get_by_label("The code that we sent to a…@marsh.example").fill("12345")
        expect(guest.get_by_role("button", name="Come in")).to_be_disabled()
        guest.get_by_label("The code that we sent to a…@marsh.example").fill(self.mailed("ada@marsh.example", r"\b\d{6}\b"))
        guest.get_by_role("button", name="Come in").click()
        expect(guest.get_by_text("You came by an invitation", exact=False)).to_be_visible()
        self.look(guest, "the first page of a guest")
        guest.get_by_role("region", name="You were invited").get_by_role("link").click()
        on_to(guest, "Promise and sign")
        guest.get_by_label("Your full name, as you sign").fill("Ada Marsh")
        guest.get_by_role("button", name="Sign", exact=True).click()
        expect(guest.locator(".filing-signed")).to_contain_text("Ada Marsh")
        on_to(guest, "The works")
        expect(field(guest, "works.what")).to_be_disabled()
        page.reload()
        expect(page.locator(".others-list li").first).to_contain_text("signed or declared")
        guest.close()

    def test_two_people_and_two_windows_in_random_orders(self) -> None:
        dice = random.Random(SEED)
        one = self.come_in("Odalys Renn")
        other = self.come_in("Corvin Pell")
        for n in range(ORDERS):
            go(one, f"{self.server.address}/new")
            begin(one, "Building works permit")
            draft = one.url.split("/filing/")[1][:32]
            one.get_by_role("link", name="Others at work").click()
            invite(one, "Corvin Pell", CORVIN, "Fill in")
            two = one.context.new_page()
            for page, part in ((one, "works"), (two, "works"), (other, "place")):
                go(page, f"{self.server.address}/filing/{draft}/{part}")
                expect(page.locator(".filing-main h1")).to_be_visible()
            # the two windows of one person write in one part, the other person in another
            may = [(one, "works.what"), (two, "works.what"), (one, "works.area"), (two, "works.area"), (other, "place.address")]
            last: dict[str, str] = {}
            for step in range(STEPS):
                page, place = dice.choice(may)
                last[place] = f"{n + 1}{step}" if place == "works.area" else f"Order {n} step {step}"
                field(page, place).fill(last[place])
                if dice.random() < 0.6:
                    settle(page, place, last[place])
            for page, place in may:
                if field(page, place).input_value() == last.get(place):
                    settle(page, place, last[place])
            for page in (one, two, other):
                expect(page.locator(".filing-kept")).to_contain_text(re.compile("^Kept"))
            with self.subTest(order=n):
                for place, value in last.items():
                    go(one, f"{self.server.address}/filing/{draft}/{place.partition('.')[0]}")
                    expect(field(one, place)).to_have_value(value)
            two.close()


def settle(page: Page, place: str, value: str) -> None:
    """Wait until it is kept; where another window changed the same, load its state and type it once more."""
    conflict = page.get_by_role("button", name="Load the other state")
    said = page.locator(".filing-kept")
    expect(said.filter(has_text=re.compile("^Kept")).or_(conflict)).to_be_visible()
    if conflict.count():
        conflict.click()
        expect(conflict).to_have_count(0)
        field(page, place).fill(value)
        expect(said).to_contain_text(re.compile("^Kept"))
