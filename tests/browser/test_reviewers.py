"""A case goes to two reviewers: one signs off and asks the applicant, the other decides; and a case is handed back."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import open_desk, other_step, stamp


class TwoReviewers(Looks):
    def test_one_signs_off_and_the_other_decides(self) -> None:
        officer = self.come_in("Imre Holt")
        open_desk(officer, "8 Pilot Walk")
        officer.get_by_role("button", name="Hand over").click()
        first = officer.get_by_role("dialog", name="Hand the case over?")
        first.get_by_label("Who decides").select_option(label="Silas Thorne")
        first.get_by_role("group", name="Who signs off before").get_by_label("Tove Marsh").check()
        self.look(officer, "handing over to two reviewers")
        first.get_by_role("button", name="Hand over").click()
        stamp(officer, "Under review")
        expect(officer.get_by_text("Tove Marsh has not signed off yet")).to_be_visible()
        leads = self.come_in("Silas Thorne")
        leads.locator(".tray-row", has_text="Pilot Walk").dblclick()
        expect(leads.get_by_role("button", name="Grant", exact=True)).to_have_count(0)
        leads.get_by_role("button", name="Other steps").click()
        expect(leads.locator(".desk-more")).to_contain_text("1 reviewer has not signed off yet")
        second = self.come_in("Tove Marsh")
        second.locator(".tray-row", has_text="Pilot Walk").dblclick()
        other_step(second, "Ask the applicant")
        second.get_by_label("What do you want to know?").fill("Is the north wall of brick?")
        second.locator(".desk-more").get_by_role("button", name="Ask the applicant").click()
        expect(second.locator(".desk-more")).to_have_count(0)
        second.get_by_role("button", name="Sign off", exact=True).click()
        second.get_by_label("What is to be minded, if anything?").fill("Mind the flood line.")
        self.look(second, "signing off")
        second.locator(".desk-more").get_by_role("button", name="Sign off").click()
        expect(second.get_by_text("Tove Marsh signed off: Mind the flood line.").first).to_be_visible()
        leads.reload()
        leads.get_by_role("button", name="Grant", exact=True).click()
        leads.locator(".desk-more").get_by_role("button", name="Grant", exact=True).click()
        expect(leads.locator(".jc-stamp").first).to_have_text("Granted")

    def test_it_is_handed_back(self) -> None:
        officer = self.come_in("Imre Holt")
        reviewer = self.come_in("Silas Thorne")
        reviewer.locator(".tray-row").first.dblclick()
        stamp(reviewer, "Under review")
        reference = reviewer.url.rpartition("/")[2]
        other_step(reviewer, "Hand it back")
        reviewer.get_by_label("Why?").fill("The plan is not of this plot.")
        reviewer.locator(".desk-more").get_by_role("button", name="Hand it back").click()
        reviewer.wait_for_url("**/tray")
        expect(reviewer.locator(f"[data-reference={reference}]")).to_have_count(0)
        go(officer, f"{self.server.address}/desk/{reference}")
        stamp(officer, "Complete")
        officer.get_by_role("button", name="History").click()
        expect(officer.get_by_text("handed the case back to the officers: The plan is not of this plot.")).to_be_visible()
