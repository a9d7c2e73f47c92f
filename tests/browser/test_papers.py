"""The papers of a case on the desk: what was read in forms, photographs and scans with its place, words found, two compared, some bound."""

from __future__ import annotations

import io
from datetime import date, timedelta
from pathlib import Path
from typing import ClassVar

import pikepdf
from pikepdf import Name
from playwright.sync_api import Page, expect

from jolly_clerk.demo import papers
from jolly_clerk.office.cases import notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.preparing.reading_again import read_waiting_pages
from tests.browser.desks import GROUP, WITH_CHANGE, Desks
from tests.browser.house import go
from tests.helpers import SHARED_READERS
from tests.reading.test_inside import saved, sheet, widget
from tests.web.arriving import DISTANCE, Kind, drawing, scan, stall, surveyor, with_file, works

#: many sheets are drawn at once on a machine that does other things besides, in milliseconds
PATIENT = 60_000


def filed(office: Office, kind: Kind) -> str:
    """A case of these answers and files, filed and paid by Odalys Renn."""
    who = person(office, "odalys")
    name, given, files = kind
    draft = drafts.start_draft(office, who, name)
    drafts.keep(office, who, draft, None, answers=given)
    for slot, (file, content) in files.items():
        attaching.attach(office, who, draft, slot, file, content)
    read_waiting_pages(office)
    for said in drafts.open_draft(office, who, draft).rulebook.declarations:
        signing.declare(office, who, draft, said.declaration.declare, True)
    signing.sign(office, who, draft, who.name)
    reference = filing.file(office, who, draft, take_gaps=True)
    if load_case(office, who, reference).assessment.account.open:
        notices.at_stand_in(office, who, paying.ask_payment(office, who, reference).key, "approved")
    return reference


def form() -> bytes:
    """A certificate that is a form filled in."""
    pdf = sheet()
    widget(pdf, FT=Name.Tx, T="insured", TU="Insured", V="Odalys Renn")
    widget(pdf, FT=Name.Tx, T="until", TU="In force until", V=f"{date.today() + timedelta(days=500):%-d %B %Y}")
    return saved(pdf)


class Papers(Desks):
    form: ClassVar[str]
    photograph: ClassVar[str]
    plan: ClassVar[str]

    @classmethod
    def lay(cls, folder: Path) -> None:
        office = open_office(folder, demo=True)
        office.readers = SHARED_READERS
        degree = papers.paper(
            "Master of Surveying", "Awarded to: Odalys Renn", "Awarded on: 6 July 2016", letterhead="Tide School"
        )
        cls.form = filed(office, with_file(stall(), "insurance", "form.pdf", form()))
        cls.photograph = filed(office, with_file(surveyor(), "degree", "degree.jpg", papers.scanned(degree, 4)))
        cls.plan = filed(office, works(scan(drawing(DISTANCE)), place_plot="Q-88"))
        office.engine.dispose()

    def look(self, reference: str, requirement: str) -> Page:
        page = self.desk(reference)
        show = page.get_by_role("button", name="show", exact=False).first
        if show.count() and "not asked: show" in show.inner_text():
            show.click()
        page.locator(".desk-check", has_text=requirement).first.click()
        return page

    def boxed(self, page: Page, said: str) -> None:
        """The fact stands in the table, and a box around it on the sheet."""
        expect(page.locator(".agreement", has_text=said).first).to_be_visible()
        if page.locator(".jc-pdf-box").count() == 0:
            page.keyboard.press("e")
        box = page.locator(".jc-pdf-box").first
        expect(box).to_be_visible(timeout=PATIENT)
        self.assertTrue(any(said in (b.get_attribute("aria-label") or "") for b in page.locator(".jc-pdf-box").all()))
        around, room = box.bounding_box(), page.locator(".jc-pdf-sheet").bounding_box()
        assert around and room
        self.assertTrue(room["x"] <= around["x"] + 8 and around["x"] + around["width"] <= room["x"] + room["width"] + 8)
        self.assertTrue(room["y"] <= around["y"] + 8 and around["y"] + around["height"] <= room["y"] + room["height"] + 8)

    def test_a_form_a_photograph_and_a_scan_state_facts_with_boxes(self) -> None:
        self.boxed(self.look(self.form, "Liability insurance"), "Odalys Renn")
        self.boxed(self.look(self.photograph, "Degree certificate"), "Odalys Renn")
        self.boxed(self.look(self.plan, "Site plan"), "18 m")

    def test_words_are_found_in_all_papers_and_lead_to_their_place(self) -> None:
        page = self.desk(GROUP)
        page.keyboard.press("/")
        papers_ = page.get_by_role("group", name="All papers")
        expect(papers_.locator("li canvas, li img").first).to_be_visible(timeout=PATIENT)
        page.get_by_label("Find words in all papers").fill("old hall")
        found = page.get_by_role("region", name="Words in all papers")
        expect(found).to_contain_text("In 2 places.", timeout=PATIENT)
        found.get_by_role("button").first.click()
        expect(page.locator(".jc-pdf-box").first).to_be_visible(timeout=PATIENT)
        expect(page.locator(".desk-bar")).to_contain_text("venues.pdf")
        page.keyboard.press("/")
        page.get_by_label("Find words in all papers").fill("no such words")
        expect(found).to_contain_text("Nowhere.")

    def test_some_are_bound_into_one_pdf(self) -> None:
        page = self.desk(GROUP)
        page.keyboard.press("/")
        for name in ("contract-1.pdf", "portrait-1.jpg"):
            page.get_by_label(f"tick {name}").check()
        address = page.get_by_role("link", name="As one PDF").get_attribute("href")
        answer = page.request.get(f"{self.server.address}{address}")
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "application/pdf"))
        with pikepdf.open(io.BytesIO(answer.body())) as pdf, pdf.open_outline() as outline:
            titles = [item.title for item in outline.root]
        self.assertEqual(titles[0], f"Papers of {GROUP}")
        self.assertTrue(titles[1].endswith("contract-1.pdf") and titles[2].endswith("portrait-1.jpg"), titles)

    def test_two_papers_lie_side_by_side_over_each_other_and_only_what_differs(self) -> None:
        page = self.desk(GROUP)
        page.keyboard.press("/")
        for name in ("contract-1.pdf", "contract-2.pdf"):
            page.get_by_label(f"tick {name}").check()
        page.get_by_role("button", name="Compare the two").click()
        expect(page.locator(".desk-sides canvas[data-drawn=true]")).to_have_count(2, timeout=PATIENT)
        page.get_by_role("button", name="Over each other").click()
        expect(page.get_by_role("status").filter(has_text="They differ in")).to_be_visible(timeout=PATIENT)
        expect(page.locator(".two-files .jc-pdf-box").first).to_be_visible(timeout=PATIENT)
        page.get_by_role("button", name="Back to the evidence").click()
        expect(page.locator(".two-files")).to_have_count(0)
        # the version before and after, as answers come back
        go(page, f"{self.server.address}/desk/{WITH_CHANGE}")
        page.get_by_role("button", name="Only what differs").click()
        expect(page.get_by_role("status").filter(has_text="They differ in")).to_be_visible(timeout=PATIENT)
        page.get_by_role("button", name="next place").click()
        expect(page.locator(".two-files .jc-pdf-box.odd")).to_have_count(1)
        page.keyboard.press(".")
        expect(page.get_by_text("has no sheet 2", exact=False)).to_be_visible(timeout=PATIENT)
