"""Every short filing on a permit by the screen: works inspected to their end, a registration, a visa and a trial that go on, a patent that goes over."""

from __future__ import annotations

import io
import re
from datetime import date, datetime, timedelta
from pathlib import Path

from PIL import Image
from playwright.sync_api import Locator, Page, expect
from sqlalchemy import select

from jolly_clerk.core.in_words import day
from jolly_clerk.demo.drawings import statement
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case
from tests.browser.house import go
from tests.browser.steps import attach, hand_over, on_to, pay
from tests.browser.test_lives import Ahead


class OnPermits(Ahead):
    """Cases of the demo by their kind: those that are granted, and one that a reviewer still has."""

    cases: dict[str, str]
    ends: dict[str, date]

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        lead, cls.cases, cls.ends = person(office, "maud"), {}, {}
        with read_session(office.engine) as session:
            for case in session.scalars(select(Case).where(Case.state == "Granted", Case.kind.in_(("PL", "QV", "TL")))):
                permit = load_case(office, lead, case.reference).assessment.permit
                cls.cases[case.kind], ends = case.reference, permit.day("ends") if permit else None
                assert ends is not None
                cls.ends[case.kind] = ends
            for kind, state, owner in (
                ("BW", "Granted", "odalys"),
                ("IP", "Under review", "corvin"),
                ("CT", "Complete", "tamsin"),
            ):
                own = Case.kind == kind, Case.state == state, Case.applicant_id == owner, Case.permit_code.is_(None)
                cls.cases[kind] = session.scalars(select(Case.reference).where(*own)).one()
        office.close()

    def permit(self, page: Page, kind: str) -> None:
        go(page, f"{self.server.address}/permits/{self.cases[kind]}")
        expect(page.locator(".permit-stands")).to_be_visible()

    def step(self, page: Page, kind: str, title: str) -> None:
        """Begin a short filing on a permit."""
        self.permit(page, kind)
        page.locator(".permit-offers li", has_text=title).get_by_role("button", name="Begin").click()
        page.wait_for_url("**/filing/**")

    def issue(self, page: Page, kind: str) -> None:
        """Pay what is due at issue, if anything is."""
        go(page, f"{self.server.address}/cases/{self.cases[kind]}")
        expect(page.locator(".jc-stamp").first).to_have_text("Granted")
        if page.get_by_role("link", name="Pay now").count():
            page.get_by_role("link", name="Pay now").click()
            pay(page)


def visit(page: Page, title: str) -> Locator:
    """An inspection on the page of a permit."""
    return page.locator(".permit-visits > li", has=page.get_by_role("heading", name=title, exact=True))


def photograph() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (320, 240), (140, 112, 70)).save(out, "JPEG")
    return out.getvalue()


class ABuildingPermit(OnPermits):
    def book(self, title: str) -> date:
        """The holder books the first free hour; the day."""
        page = self.come_in("Odalys Renn")
        self.permit(page, "BW")
        one = visit(page, title)
        one.get_by_role("button", name="Book it").click()
        one.get_by_role("button", name=re.compile(" to [0-9:]+$")).first.click()
        expect(one.locator(".permit-mark")).to_have_text("Booked")
        said = one.locator("b").first.inner_text().split(",")[0]
        today = date.today()
        years = (datetime.strptime(f"{said} {year}", "%a %d %b %Y").date() for year in (today.year, today.year + 1))
        return next(found for found in years if found > today - timedelta(days=1) and found.strftime("%a") == said[:3])

    def told(self, title: str, passed: bool, words: str) -> None:
        """The day after, the office tells what it found."""
        self.on(self.book(title) + timedelta(days=1))
        officer = self.come_in("Imre Holt")
        self.permit(officer, "BW")
        one = visit(officer, title)
        one.get_by_role("button", name="Tell what it found").click()
        one.get_by_label("In words; the holder reads it").fill(words)
        with officer.expect_file_chooser() as chosen:
            one.get_by_text("add photographs").click()
        chosen.value.set_files({"name": "wall.jpg", "mimeType": "image/jpeg", "buffer": photograph()})
        expect(one.get_by_text("wall.jpg")).to_be_visible()
        one.get_by_role("button", name="Passed" if passed else "Not passed", exact=True).click()
        expect(one.locator(".permit-mark")).to_have_text("Passed" if passed else "Not passed")
        expect(one.locator("img").last).to_be_visible()

    def test_over_three_inspections_to_finished(self) -> None:
        page = self.come_in("Odalys Renn")
        self.issue(page, "BW")
        self.permit(page, "BW")
        expect(page.locator(".permit-offers li", has_text="Works are finished")).to_contain_text(
            "Still to be passed: Foundation, Frame, Final inspection."
        )
        self.step(page, "BW", "Works have begun")
        on_to(page, "When")
        page.get_by_label("On which day did they begin?").fill(date.today().isoformat())
        page.keyboard.press("Tab")
        self.done(page)
        self.permit(page, "BW")
        expect(visit(page, "Frame")).to_contain_text("“Foundation” has to be passed first.")
        self.told("Foundation", True, "On rock, 0.9 m deep.")
        self.told("Frame", False, "The ties are missing at the north wall.")
        page = self.come_in("Odalys Renn")
        self.permit(page, "BW")
        expect(visit(page, "Frame")).to_contain_text("The ties are missing at the north wall.")
        expect(visit(page, "Frame")).to_contain_text("To be made again by")
        self.look(page, "an inspection that was not passed")
        self.told("Frame", True, "The ties are there.")
        page = self.come_in("Odalys Renn")
        self.step(page, "BW", "More time to build")
        on_to(page, "Why")
        page.get_by_label("Why do you need more time?").fill("The slates come by ship.")
        page.keyboard.press("Tab")
        more = self.done(page)
        if page.get_by_role("link", name="Pay now").count():
            pay(page)
        self.decided(more)
        self.told("Final inspection", True, "As it was permitted.")
        page = self.come_in("Odalys Renn")
        self.step(page, "BW", "Works are finished")
        on_to(page, "When")
        page.get_by_label("On which day were they finished?").fill(self.today(page))
        page.keyboard.press("Tab")
        self.done(page)
        self.permit(page, "BW")
        expect(page.locator(".permit-stands")).to_have_text("Finished")
        for told in ("Inspection 2 was not passed", "Works have begun", "More time to build"):
            expect(page.locator(".permit-history")).to_contain_text(told)
        self.look(page, "a permit whose works are finished")

    def today(self, page: Page) -> str:
        """The day at the server."""
        return str(page.evaluate("async (r) => (await (await fetch(`/api/cases/${r}/permit`)).json()).today", self.cases["BW"]))


class ARegistration(OnPermits):
    def test_a_registration_is_renewed(self) -> None:
        ends = self.ends["PL"]
        self.on(ends - timedelta(days=61))
        page = self.come_in("Odalys Renn")
        self.permit(page, "PL")
        offer = page.locator(".permit-offers li", has_text="Registration for the next year")
        expect(offer).to_contain_text("Not now")
        self.on(ends - timedelta(days=59))
        page = self.come_in("Odalys Renn")
        self.step(page, "PL", "Registration for the next year")
        year = ends.replace(year=ends.year + 1)
        on_to(page, "Documents")
        cover = statement("Professional cover", ("Insured: Odalys Renn", f"In force until {year.day} {year:%B} {year.year}"))
        attach(page, "Indemnity cover", "cover.pdf", cover)
        renewal = self.done(page)
        pay(page)
        self.decided(renewal)
        self.permit(page, "PL")
        expect(page.locator("main")).to_contain_text(day(year).removesuffix(f" {date.today().year}"))
        expect(page.locator(".permit-history")).to_contain_text(renewal)


class OthersGoOn(OnPermits):
    def test_a_lost_licence_is_replaced(self) -> None:
        page = self.come_in("Odalys Renn")
        self.permit(page, "TL")
        first = self.code(page)
        self.step(page, "TL", "Another document in the place of a lost one")
        on_to(page, "What became of it")
        page.get_by_label("What became of the document?").select_option(label="It was stolen")
        page.get_by_label("When did you notice it?").fill(date.today().isoformat())
        page.keyboard.press("Tab")
        step = self.done(page)
        pay(page)
        go(page, f"{self.server.address}/cases/{step}")
        expect(page.locator(".jc-stamp").first).to_have_text("Granted")
        self.permit(page, "TL")
        expect(page.locator(".permit-history")).to_contain_text("a new document; the one before counts no more")
        second = self.code(page)
        self.assertNotEqual(first, second)
        go(page, f"{self.server.address}/check/{first}")
        expect(page.locator(".check-stands")).to_contain_text("was replaced by another one")
        self.look(page, "the check of a document that was replaced")
        go(page, f"{self.server.address}/check/{second}")
        expect(page.get_by_text("Odalys Renn").first).to_be_visible()
        expect(page.get_by_text("was replaced")).to_have_count(0)

    def code(self, page: Page) -> str:
        """The code of the licence as its page tells it."""
        asked = "async (r) => (await (await fetch(`/api/cases/${r}/permit`)).json()).code"
        return str(page.evaluate(asked, self.cases["TL"]))

    def test_a_visa_is_prolonged(self) -> None:
        page = self.come_in("Corvin Pell")
        self.step(page, "QV", "A longer stay")
        on_to(page, "How long")
        until = self.ends["QV"] + timedelta(days=15)
        page.get_by_label("Until when will you stay?").fill(until.isoformat())
        page.get_by_label("Why?").fill("One more evening at the Tide Hall.")
        page.keyboard.press("Tab")
        expect(page.get_by_text("14 days").first).to_be_visible()
        page.get_by_label("Until when will you stay?").fill((until - timedelta(days=1)).isoformat())
        page.keyboard.press("Tab")
        longer = self.done(page, "Corvin Pell")
        if page.get_by_role("button", name="Pay by card").count():
            pay(page)
        self.decided(longer)
        self.permit(page, "QV")
        expect(page.locator(".permit-history")).to_contain_text(longer)

    def test_a_patent_goes_over_to_another_owner(self) -> None:
        self.granted(self.cases["IP"])
        page = self.come_in("Corvin Pell")
        self.issue(page, "IP")
        self.step(page, "IP", "Transfer of a patent")
        on_to(page, "The new owner")
        page.get_by_label("Name or firm of the new owner").fill("Odalys Renn")
        page.get_by_label("Address", exact=True).fill("4 Saltern Slip, Quill")
        page.get_by_label("Mail address of the new owner").fill("odalys@post.quillhaven.example")
        on_to(page, "Documents")
        for slot in ("Deed of transfer", "Acceptance"):
            paper = statement(slot, ("Corvin Pell gives the patent to Odalys Renn, who accepts it.",))
            attach(page, slot, f"{slot.split(' ')[0].lower()}.pdf", paper)
        transfer = self.done(page, "Corvin Pell")
        pay(page)
        self.decided(transfer)
        go(page, f"{self.server.address}/register?words={self.cases['IP']}")
        expect(page.locator(".register-lines > li")).to_contain_text("Odalys Renn")
        self.permit(page, "IP")
        expect(page.locator(".permit-stands")).to_have_text("Transferred")
        odalys = self.come_in("Odalys Renn")
        offered = odalys.get_by_role("region", name="Transferred to you")
        expect(offered).to_contain_text(self.cases["IP"])
        self.look(odalys, "a permit that was transferred to oneself")
        offered.get_by_role("button", name="Accept it").click()
        expect(odalys.get_by_text(f"{self.cases['IP']}, which was transferred to you")).to_be_visible()
        expect(odalys.locator(".permit-offers")).to_contain_text("Transfer of a patent")
        self.look(odalys, "the page of a permit that one accepted")
        odalys.get_by_role("link", name="My cases").click()
        expect(odalys.get_by_role("region", name="You hold these")).to_contain_text(self.cases["IP"])
        page.reload()
        expect(page.locator(".permit-history")).to_contain_text("Odalys Renn accepted it")
        expect(page.locator(".permit-offers")).to_have_count(0)

    def test_a_small_change_of_a_trial_is_told(self) -> None:
        officer = self.come_in("Brisa Quay", at=f"/desk/{self.cases['CT']}")
        hand_over(officer, "Silas Thorne")
        self.granted(self.cases["CT"])
        page = self.come_in("Tamsin Oake")
        self.issue(page, "CT")
        self.step(page, "CT", "Change of a trial that is not substantial")
        on_to(page, "What changes")
        page.get_by_label("What changes?").fill("Telephone of the sponsor")
        page.get_by_label("How is it from now on?").fill("+351 291 555 010")
        for question in ("Does it touch the safety of anybody who takes part?", "Does it touch what the trial is to show?"):
            page.get_by_role("radiogroup", name=question).get_by_label("No", exact=True).check()
        told = self.done(page, "Tamsin Oake")
        go(page, f"{self.server.address}/cases/{told}")
        expect(page.locator(".jc-stamp").first).to_have_text("Granted")
        self.permit(page, "CT")
        expect(page.locator(".permit-history")).to_contain_text("Telephone of the sponsor")
