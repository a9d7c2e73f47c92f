"""An office made from nothing by ``office init``, without demo data: from sign-up to *Complete*, as somebody new would."""

from __future__ import annotations

import re
import subprocess
import sys
import unittest
from pathlib import Path

from playwright.sync_api import Page, expect

from jolly_clerk.demo.lay import REGISTERS
from tests.browser.house import ROOT, BrowserTest, Forked, Shared
from tests.browser.steps import accept, attach, choose, field, file_it, judge_rest, on_to, sign, stamp, typed_plan
from tests.folders import new_folder

GOOD = "a quiet harbour at dawn"


def command(*words: str, given: str = "") -> str:
    """Run ``jolly-clerk`` and give what it printed."""
    done = subprocess.run(
        [sys.executable, "-m", "jolly_clerk.cli", *words], check=True, capture_output=True, text=True, cwd=ROOT, input=given
    )
    return done.stdout


class NewOffice(BrowserTest):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = new_folder("jolly-clerk-new-") / "office"
        asked = [
            "Pier Works Office",
            "1 Pier Road",
            "",
            f"plots={REGISTERS / 'plots.csv'}",
            "",
            "Ada Marsh",
            "ada@office.example",
            GOOD,
            GOOD,
        ]
        cls.said = command("office", "init", "--data", str(cls.folder), given="\n".join(asked) + "\n")
        cls.server = Forked(cls.folder, demo=False)
        cls.addClassCleanup(lambda: cls.server.stop())
        cls.browser = Shared.open()

    folder: Path
    said: str

    def window(self) -> Page:
        page = self.stranger()
        page.goto(self.server.address)
        return page

    def link(self, kind: str) -> str:
        """The one-time link of the newest mail of a kind."""
        secret = self.mailed(kind, r"/password/([\w-]+)")
        return f"{self.server.address}/password/{secret}"

    def mailed(self, kind: str, pattern: str) -> str:
        """What stands in the newest mail of a kind, as the outbox shows it."""
        key = re.findall(rf"{kind}-\w+", command("outbox", "--data", str(self.folder)))[-1]
        mail = command("outbox", "--data", str(self.folder), "--key", key).replace("=\n", "")
        found = re.search(pattern, mail)
        assert found
        return found[1]

    def test_from_sign_up_to_complete(self) -> None:
        self.assertIn("Pier Works Office: made in", self.said)
        self.assertIn("plots, 22 entries", self.said)
        lead = self.window()
        expect(lead.get_by_role("heading", name="Pier Works Office")).to_be_visible()
        expect(lead.get_by_text("Come in as")).to_have_count(0)
        self.sign_in(lead, "ada@office.example", "wrong wrong wrong")
        expect(lead.get_by_text("The address or the password is not right.")).to_be_visible()
        self.sign_in(lead, "ada@office.example", GOOD)
        self.to_the_office(lead, "People")
        lead.get_by_label("Name").fill("Finn Barrow")
        lead.get_by_label("Mail address").fill("finn@office.example")
        lead.get_by_role("button", name="Add to the office").click()
        expect(lead.get_by_text("Finn Barrow is added")).to_be_visible()
        officer = self.window()
        officer.goto(self.link("invitation"))
        officer.get_by_label("New password").fill(GOOD)
        officer.get_by_role("button", name="Set it and come in").click()
        expect(officer.get_by_role("heading", name="Finn")).to_be_visible()
        reference = self.apply(applicant := self.window())
        officer.get_by_role("button", name="Nobody's yet").click()
        officer.locator(".tray-row", has_text="Hen house").dblclick()
        stamp(officer, "Waiting for payment")
        officer.get_by_role("button", name="Other steps").click()
        officer.get_by_role("option", name="Money came in").click()
        officer.get_by_label("Amount", exact=True).fill(self.due)
        officer.get_by_label("How it came").select_option("transfer")
        officer.get_by_label("The number that stands on it").fill("TR 2026-118")
        officer.get_by_role("button", name="Money came in").last.click()
        stamp(officer, "Filed")
        officer.get_by_role("button", name="Begin checking", exact=False).click()
        stamp(officer, "Being checked")
        officer.get_by_role("button", name="Owner of the plot").click()
        expect(officer.locator(".agreement tr", has_text="Land register")).to_contain_text("Corvin Pell")
        officer.locator(".desk-list h3").first.click()
        judge_rest(officer)
        accept(officer)
        stamp(officer, "Complete")
        applicant.goto(f"{self.server.address}/cases/{reference}")
        stamp(applicant, "Complete")
        self.forgotten(applicant)
        self.assertIn("All is whole", command("verify", "--data", str(self.folder)))

    def sign_in(self, page: Page, mail: str, password: str) -> None:
        page.get_by_label("Mail address").fill(mail)
        page.get_by_label("Password", exact=True).fill(password)
        page.get_by_role("button", name="Sign in", exact=True).click()

    def apply(self, page: Page) -> str:
        """Through the way in, an account made on the way, the land register, to a paid filing."""
        page.get_by_role("link", name=re.compile("^Do I need it.*Building works permit")).click()
        page.get_by_label("On which island?").select_option(label="Near Skerry")
        choose(page, "Does any of it stand below high water?", "No")
        page.get_by_label("What is it?").select_option(label="A new building")
        page.get_by_label("How high is its highest part?").fill("2.5")
        choose(page, "Is the building listed?", "No")
        page.get_by_label("Floor area under it").fill("14")
        expect(page.get_by_role("heading", name="Yes, it is needed")).to_be_visible()
        page.get_by_role("button", name="Sign in and begin with these answers").click()
        expect(page.get_by_role("heading", name="Make an account")).to_be_visible()
        page.get_by_label("Your name").fill("Corvin Pell")
        page.get_by_label("Mail address").fill("corvin@reed.example")
        page.get_by_label("Password", exact=True).fill(GOOD)
        page.get_by_role("button", name="Make an account").click()
        expect(page.get_by_role("form", name="Confirm your mail address")).to_be_visible()
        expect(page.get_by_label("On which island?")).to_have_value("near_skerry")
        on_to(page, "Who is filing")
        page.get_by_label("Your name or the name of your firm").fill("Corvin Pell")
        page.get_by_label("In which language do you answer?").select_option(label="English")
        page.get_by_label("How should letters reach you?").select_option(label="By mail to my address")
        on_to(page, "The place")
        page.locator("#find-plots").fill("widgeon 3")
        page.get_by_role("button", name="Q-41").click()
        expect(page.get_by_label("Who owns the plot?")).to_have_value("Corvin Pell")
        expect(page.get_by_text("from the land register").first).to_be_visible()
        page.get_by_label("Who owns the plot?").fill("Corvin P.")
        expect(page.get_by_text("The land register says “Corvin Pell”")).to_be_visible()
        page.get_by_label("Do you own the plot?").select_option(label="I own the plot")
        choose(page, "Have you told the neighbours?", "Yes")
        on_to(page, "The works")
        page.get_by_label("What will you build or change?").fill("Hen house")
        field(page, "works.use").select_option(label="Store or shed")
        page.get_by_label("Built of").select_option(label="Timber frame")
        expect(page.get_by_label("Floor area under it")).to_have_value("14")
        page.get_by_label("Your own estimate of cost").fill("3000")
        page.get_by_label("How many storeys?").fill("1")
        page.get_by_label("Widest span").fill("3")
        page.get_by_label("How far is the nearest part from high water?").fill("121")
        choose(page, "Have works begun?", "No")
        on_to(page, "People on site")
        page.get_by_role("button", name="Add the first").click()
        field(page, "people.1.name").fill("Corvin Pell")
        page.get_by_label("What they do").select_option(label="Draws and answers for the plans")
        on_to(page, "While it is built")
        page.get_by_label("When do you want to begin?").fill("1 Feb 2030")
        page.get_by_label("How many months will it take?").fill("2")
        choose(page, "Will you use part of the street?", "No")
        page.get_by_label("Where does the waste go?").select_option(label="There is none")
        on_to(page, "The service")
        page.get_by_label("Which service do you want?").select_option(label="Normal")
        on_to(page, "Documents")
        attach(
            page, "Site plan, to scale", "plan.pdf", typed_plan((200, 400, "121 m to high water"), (500, 700, "floor area 14 m²"))
        )
        attach(page, "Sections", "sections.pdf", typed_plan((300, 300, "Section A-A at 1:50")))
        on_to(page, "Promise and sign")
        expect(page.get_by_text("1 thing left.")).to_be_visible()
        sign(page, "Corvin Pell")
        expect(page.get_by_text("Nothing is left.")).to_be_visible()
        self.confirm(page)
        reference = file_it(page)
        words = page.get_by_role("region", name="How to pay")
        expect(words).to_contain_text(
            f"This office takes no cards. Pay by transfer, by cheque or in cash at the counter, and name {reference}"
        )
        expect(page.get_by_role("button", name="Pay by card")).to_have_count(0)
        found = re.search(r"To pay: € ?([\d.]+)", words.inner_text())
        assert found
        self.due = found[1]
        return reference

    def confirm(self, page: Page) -> None:
        """Type the code of the newest mail; a wrong one is told."""
        bar = page.get_by_role("form", name="Confirm your mail address")
        bar.get_by_role("textbox").fill("000000")
        bar.get_by_role("button", name="Confirm", exact=True).click()
        expect(bar.get_by_text("This code is not right")).to_be_visible()
        bar.get_by_role("textbox").fill(self.mailed("code", r"Your code is (\d{6})"))
        bar.get_by_role("button", name="Confirm", exact=True).click()
        expect(bar).to_have_count(0)

    def forgotten(self, page: Page) -> None:
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("button", name="I forgot my password").click()
        page.get_by_label("Mail address").fill("corvin@reed.example")
        page.get_by_role("button", name="Send me a link").click()
        expect(page.get_by_text("a link is on its way")).to_be_visible()
        page.goto(self.link("password"))
        page.get_by_label("New password").fill("another quiet harbour")
        page.get_by_role("button", name="Set it and come in").click()
        expect(page.get_by_role("heading", name="Hello, Corvin")).to_be_visible()


class Serving(unittest.TestCase):
    def test_nothing_is_served_where_there_is_no_office(self) -> None:
        with self.assertRaises(subprocess.CalledProcessError) as caught:
            command("serve", "--data", str(new_folder("jolly-clerk-none-")))
        self.assertIn("office init", caught.exception.stderr)

    def test_other_days_are_for_the_demo_only(self) -> None:
        with self.assertRaises(subprocess.CalledProcessError):
            command("serve", "--data", str(new_folder("jolly-clerk-none-")), "--days-ahead", "3")
