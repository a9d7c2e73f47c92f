"""The applicant's small things in the browser: another edition, no connection, throwing away, dropping a change, keys alone."""

from __future__ import annotations

import subprocess
import sys
from datetime import date
from pathlib import Path

from playwright.sync_api import expect

from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.browser.house import BrowserTest
from tests.browser.steps import begin, field, on_to


class Applicant(BrowserTest):
    def test_an_edition_published_from_today_changes_the_draft_and_no_filed_case(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("link", name="Glass lean-to").click()
        slip = page.locator(".jc-slip")
        expect(slip).to_contain_text("244.00 or 488.00")
        text = (
            (SHIPPED / "BW" / "2026-07-01.yaml")
            .read_text("utf-8")
            .split("\nexamples:")[0]
            .replace("adds: 11.50", "adds: 20.00")
            .replace("in_force: 2026-07-01", f"in_force: {date.today()}")
        )
        file = Path(self.server.folder) / "second.yaml"
        file.write_text(text, "utf-8")
        command = [sys.executable, "-m", "jolly_clerk.cli", "rulebook", "publish", str(file), "--data", str(self.server.folder)]
        subprocess.run(command, check=True, capture_output=True)
        page.reload()
        # 17 545.00: 60.00 + 16 × 20.00
        expect(slip).to_contain_text("380.00 or 760.00")
        page.get_by_role("link", name="My cases").click()
        page.get_by_role("link", name="Timber store").click()
        expect(page.get_by_text("Under the rules of 1 Jul")).to_be_visible()
        expect(page.locator(".jc-slip")).to_contain_text("186.50")

    def test_nothing_typed_is_lost_without_a_connection(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Building works permit")
        on_to(page, "The place")
        field(page, "place.plot").fill("Q-1")
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.context.set_offline(True)
        field(page, "place.plot").fill("Q-12")
        expect(page.get_by_text("Not kept yet; it will be tried again")).to_be_visible()
        page.get_by_label("Where are the works?").fill("3 Pier Head")
        page.context.set_offline(False)
        expect(page.get_by_text("Kept a moment ago")).to_be_visible()
        page.reload()
        expect(field(page, "place.plot")).to_have_value("Q-12")
        expect(page.get_by_label("Where are the works?")).to_have_value("3 Pier Head")
        self.troubles.clear()  # the browser logs the requests that could not be made

    def test_throwing_a_draft_away(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        page.get_by_role("button", name="Throw this draft away").click()
        expect(page.get_by_role("heading", name="Hello, Corvin")).to_be_visible()
        drafts = page.locator(".cases-row", has_text="Building works permit")
        expect(drafts).to_have_count(0)
        thrown = page.get_by_role("status").filter(has_text="was thrown away. It can be brought back for a week.")
        thrown.get_by_role("button", name="Undo").click()
        expect(drafts).to_have_count(1)
        expect(thrown).to_have_count(0)

    def test_dropping_a_change_of_an_answer(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("link", name="Answer 2 points").click()
        page.get_by_text("Change something the letter did not ask about").click()
        field(page, "place.plot").fill("Q-77/3")
        expect(page.get_by_role("heading", name="Also changed, not asked for")).to_be_visible()
        page.get_by_role("button", name="Undo this change").click()
        expect(page.get_by_role("heading", name="Also changed, not asked for")).to_have_count(0)
        expect(field(page, "place.plot")).to_have_value("Q-77/2")

    def test_a_working_by_keyboard(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("link", name="Timber store").focus()
        page.keyboard.press("Enter")
        page.locator(".jc-slip-line").first.focus()
        expect(page.get_by_role("tooltip")).to_contain_text("65 % of 186.50")
