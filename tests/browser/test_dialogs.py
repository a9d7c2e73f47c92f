"""Errors and dialogs of an applicant, open, in each language and each scheme: nothing serious for axe."""

from __future__ import annotations

import json
import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import field
from tests.helpers import ROOT

Say = Callable[..., str]
TOLD: dict[str, str] = json.loads((ROOT / "frontend" / "src" / "texts" / "pt.json").read_text("utf-8"))


def speaker(language: str) -> Say:
    """What the screen says for a message in a language."""

    def say(message: str, **values: str) -> str:
        text = TOLD.get(message) or message if language == "pt" else message
        return re.sub(r"\{\{(\w+)\}\}", lambda found: values[found[1]], text)

    return say


class Dialogs(Looks):
    def in_both(self, page: Page, name: str) -> None:
        """Looked at on paper and in the dark."""
        for scheme in ("light", "dark"):
            page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
            self.look(page, f"{name}, {scheme}")
        page.emulate_media(color_scheme="light")

    def test_errors_and_dialogs_in_each_language_and_scheme(self) -> None:
        for language in ("en", "pt"):
            page = self.come_in("Corvin Pell")
            page.evaluate("(language) => localStorage.setItem('jc-language', language)", language)
            go(page, f"{self.server.address}/cases")
            expect(page.locator("html")).to_have_attribute("lang", language)
            self.preparing(page, speaker(language), language)
            self.under_way(page, speaker(language), language)
            self.troubles.clear()  # requests without a session

    def preparing(self, page: Page, say: Say, language: str) -> None:
        """A draft: wrong answers, a calendar, contradicted files, somebody else's name, signed out."""
        page.locator(".cases-row", has_text="The Salt Choir").click()
        page.wait_for_url("**/filing/**")
        base = page.url.split("?")[0].rstrip("/")
        go(page, f"{base}/persons?as=cards")
        field(page, "persons.1.valid_until").fill("1/2/2027")
        page.keyboard.press("Tab")
        expect(page.locator("[aria-invalid=true]").first).to_be_visible()
        self.in_both(page, f"a person with a fault, {language}")
        page.get_by_role("button", name=say("Choose a day")).first.click()
        expect(page.get_by_role("dialog")).to_be_visible()
        self.in_both(page, f"a calendar, {language}")
        page.keyboard.press("Escape")
        go(page, f"{base}/tour")
        field(page, "tour.goods").fill("12.500")
        page.keyboard.press("Tab")
        expect(page.locator(".filing-look").first).to_be_visible()
        self.in_both(page, f"an amount that can be read in two ways, {language}")
        go(page, f"{base}/documents")
        page.locator(".filing-slot input[type=file]").first.set_input_files(
            {"name": "letters.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.7 this is none"}
        )
        expect(page.locator(".jc-findings .fault").first).to_be_visible()
        self.in_both(page, f"documents with a damaged file, {language}")
        go(page, f"{base}/read-over")
        expect(page.locator(".read-over-gaps")).to_be_visible()
        self.in_both(page, f"read-over with what is missing, {language}")
        go(page, f"{base}/sign")
        page.get_by_label(say("Your full name, as you sign")).fill("Tamsin Oake")
        page.get_by_role("button", name=re.compile(f"^{say('Sign')}$|^{say('Sign again')}$")).click()
        expect(page.get_by_role("button", name=say("Yes, sign as {{name}}", name="Tamsin Oake"))).to_be_visible()
        self.in_both(page, f"another name, {language}")
        go(page, f"{base}/tour")
        title = field(page, "tour.title")
        expect(title).to_be_visible()
        page.context.clear_cookies()
        title.fill(f"The Salt Choir {language}")
        asked = page.get_by_role("dialog", name=say("You have been signed out"))
        expect(asked).to_be_visible()
        self.in_both(page, f"signed out, {language}")
        asked.get_by_role("button", name=say("Go on as {{name}}", name="Corvin Pell")).click()
        expect(asked).to_have_count(0)

    def under_way(self, page: Page, say: Say, language: str) -> None:
        """Cases: withdrawing with its refund, taking back, a letter with its points, more time."""
        filed = page.locator(".cases-row", has_text="New windows in the chandlery")
        go(page, f"{self.server.address}/cases")
        filed.click()
        page.get_by_role("button", name=say("Withdraw it")).click()
        self.in_both(page, f"withdrawing, {language}")
        page.get_by_role("button", name=say("cancel")).click()
        page.get_by_role("button", name=say("Take it back")).click()
        self.in_both(page, f"taking back, {language}")
        go(page, f"{self.server.address}/cases")
        page.locator(".cases-row", has_text="Slipway winch house").click()
        page.get_by_role("button", name=say("Ask for more time")).first.click()
        self.in_both(page, f"answering, more time, {language}")
