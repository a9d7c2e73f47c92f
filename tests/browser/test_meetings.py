"""A case goes before a meeting: put on its agenda by whoever decides, minuted by an officer, decided as it was minuted."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

import pikepdf
from playwright.sync_api import Page, expect
from sqlalchemy import select

from jolly_clerk.office.office import open_office
from jolly_clerk.store.database import read_session
from jolly_clerk.store.meetings import PlannedMeeting
from jolly_clerk.store.tables import Case
from tests.browser.steps import stamp
from tests.browser.test_lives import Ahead


class BeforeTheBoard(Ahead):
    case = meeting = ""
    day: date

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        with read_session(office.engine) as session:
            cls.case = session.scalars(select(Case.reference).where(Case.kind == "PL", Case.state == "Under review")).one()
            planned = session.scalars(select(PlannedMeeting)).one()
            cls.meeting, cls.day = planned.id, planned.day
        office.close()

    def put(self, page: Page, meeting: str) -> None:
        page.get_by_role("button", name="Put it on an agenda").click()
        chosen = page.locator(".desk-more").get_by_label("Which meeting?")
        option = chosen.locator("option", has_text=meeting)
        chosen.select_option(value=option.get_attribute("value"))
        page.locator(".desk-more").get_by_role("button", name="Put it on an agenda").click()
        expect(page.locator(".desk-more")).to_have_count(0)

    def test_on_an_agenda_minuted_and_granted(self) -> None:
        reviewer = self.come_in("Silas Thorne")
        reviewer.get_by_role("link", name="Meetings").click()
        self.look(reviewer, "meetings, and what waits for one")
        reviewer.get_by_role("region", name="Waiting for an agenda").get_by_role("link", name=self.case).click()
        stamp(reviewer, "Under review")
        expect(reviewer.get_by_role("button", name="Grant", exact=True)).to_have_count(0)
        self.put(reviewer, "One-Door Office, room 2")
        expect(reviewer.get_by_text("Board of surveyors meets on").first).to_be_visible()
        applicant = self.come_in("Tamsin Oake", at=f"/cases/{self.case}")
        expect(applicant.get_by_text("put it on the agenda of").first).to_be_visible()
        officer = self.come_in("Imre Holt", at=f"/meetings/{self.meeting}")
        item = officer.locator(".meetings-agenda > li")
        expect(item).to_contain_text("The meeting has not begun yet.")
        self.look(officer, "the agenda of a meeting")
        with officer.expect_download() as taken:
            officer.get_by_role("link", name="Agenda with all papers (PDF)").click()
        with pikepdf.open(taken.value.path()) as papers, papers.open_outline() as outline:
            self.assertIn(self.case, str(outline.root[2].title))
        self.on(self.day + timedelta(days=1))
        officer = self.come_in("Imre Holt", at=f"/meetings/{self.meeting}")
        minutes = officer.get_by_role("form", name=f"Minutes for {self.case}")
        minutes.get_by_label("against").check()
        expect(minutes.get_by_role("button", name="Minute it")).to_be_disabled()
        minutes.get_by_label("in favour").check()
        minutes.get_by_label("Words of the minutes").fill("For bounds alone.")
        self.look(officer, "minuting a result")
        minutes.get_by_role("button", name="Minute it").click()
        expect(officer.locator(".meetings-agenda > li")).to_contain_text("For bounds alone.")
        expect(officer.get_by_role("link", name="Minutes (PDF)")).to_be_visible()
        reviewer = self.come_in("Silas Thorne", at=f"/desk/{self.case}")
        expect(reviewer.get_by_text("Board of surveyors: in favour").first).to_be_visible()
        reviewer.get_by_role("button", name="Grant", exact=True).click()
        reviewer.locator(".desk-more").get_by_role("button", name="Grant", exact=True).click()
        expect(reviewer.locator(".jc-stamp").first).to_have_text("Granted")


class PlannedAndCalledOff(Ahead):
    def test_a_meeting_is_planned_by_keyboard_and_called_off(self) -> None:
        officer = self.come_in("Maud Ferrier", at="/meetings")
        form = officer.get_by_role("form", name="Plan a meeting")
        form.get_by_label("Which day?").focus()
        officer.keyboard.press("Enter")
        officer.get_by_role("button", name="Next month").or_(officer.locator("[data-direction=next]")).first.focus()
        officer.keyboard.press("Enter")
        day = officer.locator("table button:not([data-outside]):not([data-weekend])").nth(9)
        day.focus()
        officer.keyboard.press("Enter")
        form.get_by_label("At", exact=True).fill("09:30")
        form.get_by_label("Where").fill("Harbour Hall")
        officer.keyboard.press("Enter")
        row = officer.get_by_role("row", name="Harbour Hall")
        expect(row).to_contain_text("09:30")
        row.get_by_role("link").click()
        officer.get_by_role("button", name="Call it off").click()
        dialog = officer.get_by_role("dialog", name="Call this meeting off?")
        dialog.get_by_label("Why? Applicants read it.").fill("The hall is let.")
        self.look(officer, "calling a meeting off")
        dialog.get_by_role("button", name="Call it off").click()
        expect(officer.get_by_text("Called off: The hall is let.")).to_be_visible()
        expect(officer.get_by_role("button", name="Call it off")).to_have_count(0)
        officer.get_by_role("link", name="All meetings").click()
        expect(officer.get_by_role("row", name="Harbour Hall")).to_contain_text("called off")
