"""What was granted, from one day to the next of its life: a licence renewed and given up, a patent in the register, a visa that expired."""

from __future__ import annotations

import re
from datetime import date, timedelta
from pathlib import Path

from playwright.sync_api import Page, expect
from sqlalchemy import select

from jolly_clerk.core.in_words import day
from jolly_clerk.demo.drawings import statement
from jolly_clerk.demo.permit_scenes import STALLS
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case
from tests.browser.house import Forked, go
from tests.browser.looks import Looks
from tests.browser.steps import accept, attach, file_it, hand_over, judge_rest, on_to, pay, sign, stamp


class Ahead(Looks):
    """An office whose days go on."""

    licence = visa = ""
    ends: date
    over: date

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        lead = person(office, "maud")
        with read_session(office.engine) as session:
            granted = select(Case.reference).where(Case.permit_code.is_not(None)).order_by(Case.filed_at)
            cls.licence = session.scalars(granted.where(Case.own_reference == STALLS)).one()
            cls.visa = session.scalars(granted.where(Case.kind == "QV")).first() or ""
        for name, reference in (("ends", cls.licence), ("over", cls.visa)):
            permit = load_case(office, lead, reference).assessment.permit
            assert permit is not None
            setattr(cls, name, permit.day("ends"))
        office.close()

    def on(self, when: date) -> None:
        """Go to another day: the windows are closed, the server begins again."""
        self.doCleanups()
        self.server.stop()
        type(self).server = Forked(self.server.folder, "--days-ahead", str((when - date.today()).days), settings=self.settings)
        self.addClassCleanup(self.server.stop)

    def begin(self, page: Page, step: str) -> None:
        """Begin a short filing on the licence."""
        go(page, f"{self.server.address}/permits/{self.licence}")
        page.locator(".permit-offers li", has_text=step).get_by_role("button", name="Begin").click()
        page.wait_for_url("**/filing/**")

    def done(self, page: Page, name: str = "Odalys Renn") -> str:
        """Sign and file; the reference."""
        on_to(page, "Promise and sign")
        sign(page, name)
        return file_it(page)

    def decided(self, reference: str) -> None:
        """An officer looks at it, a reviewer grants it."""
        officer = self.come_in("Imre Holt", at=f"/desk/{reference}")
        officer.get_by_role("button", name="Begin checking").click()
        stamp(officer, "Being checked")
        judge_rest(officer)
        accept(officer)
        stamp(officer, "Complete")
        hand_over(officer, "Silas Thorne")
        self.granted(reference)

    def granted(self, reference: str) -> None:
        """Whoever reviews it grants it."""
        reviewer = self.come_in("Silas Thorne", at=f"/desk/{reference}")
        reviewer.get_by_role("button", name="Grant", exact=True).click()
        reviewer.locator(".desk-more").get_by_role("button", name="Grant", exact=True).click()
        expect(reviewer.locator(".jc-stamp").first).to_have_text("Granted")


class ALicence(Ahead):
    def test_a_licence_is_renewed_and_given_up(self) -> None:
        self.on(self.ends - timedelta(days=30))
        page = self.come_in("Odalys Renn")
        self.begin(page, "Renewal for the next year")
        year = self.ends.replace(year=self.ends.year + 1)
        expect(page.get_by_label("Until when is it in force?")).to_have_value(re.compile(str(self.ends.year)))
        on_to(page, "Documents")
        cover = statement("Liability insurance", ("Insured: Odalys Renn", f"In force until {year.day} March {year.year}"))
        attach(page, "Liability insurance", "cover.pdf", cover)
        renewal = self.done(page)
        pay(page)
        self.decided(renewal)
        go(page, f"{self.server.address}/permits/{self.licence}")
        stands = page.locator(".permit-paper, main").first
        expect(stands).to_contain_text(day(year))
        self.begin(page, "End of the licence")
        last = self.ends + timedelta(days=30)
        on_to(page, "From when")
        page.get_by_label("From which day will you not stand there any more?").fill(last.isoformat())
        page.keyboard.press("Tab")
        end = self.done(page)
        go(page, f"{self.server.address}/cases/{end}")
        expect(page.locator(".jc-stamp").first).to_have_text("Granted")  # nothing to pay, nothing to look at
        self.on(last + timedelta(days=1))
        page = self.come_in("Odalys Renn", at=f"/permits/{self.licence}")
        expect(page.locator(".permit-stands")).to_contain_text("Cancelled")
        expect(page.locator(".permit-history")).to_contain_text(renewal)
        expect(page.locator(".permit-offers").get_by_role("button", name="Begin")).to_have_count(0)
        go(page, f"{self.server.address}/register?words={self.licence}")
        expect(page.locator(".register-lines > li")).to_contain_text("Cancelled")


class APatentAndAVisa(Ahead):
    def test_a_patent_enters_the_register(self) -> None:
        page = self.come_in("Corvin Pell")
        page.locator("a", has_text="Anchor that folds").first.click()
        reference = page.url.rpartition("/")[2]
        self.granted(reference)
        page.reload()
        if page.get_by_role("link", name="Pay now").count():
            page.get_by_role("link", name="Pay now").click()
            pay(page)
        go(page, f"{self.server.address}/register?words=anchor")
        entry = page.locator(".register-lines > li")
        expect(entry).to_have_count(1)
        expect(entry).to_contain_text("Anchor that folds")
        expect(entry).to_contain_text("Corvin Pell")
        expect(entry).to_contain_text("In force")
        self.look(page, "a patent in the register")

    def test_a_visa_expires(self) -> None:
        self.on(self.over)
        page = self.come_in("Corvin Pell", at=f"/permits/{self.visa}")
        expect(page.locator(".permit-stands")).to_have_text("In force")
        self.on(self.over + timedelta(days=1))
        page = self.come_in("Corvin Pell", at=f"/permits/{self.visa}")
        expect(page.locator(".permit-stands")).to_have_text("Expired")
        expect(page.get_by_text("is expired; it has to be").first).to_be_visible()
        self.look(page, "a visa that expired")
