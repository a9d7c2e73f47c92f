"""At the counter by keyboard: a scan of three filings, a ZIP and a mail become cases; what was proposed wrong is put right and learnt from."""

from __future__ import annotations

import io
import re
import zipfile
from email.message import EmailMessage

import pikepdf
from playwright.sync_api import Page, expect
from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.demo.drawings import sections, site_plan
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import fill_in

PLACES = (("4 Saltern Slip", "workshop"), ("9 Gull Street", "shed"), ("2 Mizzen Court", "store"))
SHEETS = 7


def statement(place: str) -> bytes:
    """A structural statement of some sheets, numbered."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4)
    for n in range(1, SHEETS + 1):
        if n == 1:
            canvas.setFont("Helvetica-Bold", 22)
            canvas.drawString(60, 780, "Structural statement")
        canvas.setFont("Helvetica", 11)
        canvas.drawString(60, 740, f"The roof at {place} carries its loads. Calculation of beam {n}.")
        canvas.drawString(60, 60, f"sheet {n} of {SHEETS}")
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def scan() -> bytes:
    """Thirty sheets of three filings."""
    whole, out = pikepdf.new(), io.BytesIO()
    for place, what in PLACES:
        for content in (site_plan(place, what, 13.3, 7.2, 18), sections(place), statement(place)):
            whole.pages.extend(pikepdf.open(io.BytesIO(content)).pages)
    assert len(whole.pages) == 30
    whole.save(out)
    return out.getvalue()


class Counter(Looks):
    def begin(self, page: Page, name: str, came: str = "by post") -> str:
        go(page, f"{self.server.address}/counter")
        page.get_by_label("What is applied for?").select_option(label="Building works permit")
        page.get_by_role("radio", name=came).check()
        page.get_by_label("Who applies?").fill(name)
        page.get_by_label("Postal address").fill("3 Mizzen Court, Quill")
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_label("Files of all papers")).to_be_attached()
        return page.url.split("/")[-2]

    def drop(self, page: Page, name: str, media: str, content: bytes) -> None:
        page.get_by_label("Files of all papers").set_input_files({"name": name, "mimeType": media, "buffer": content})

    def pieces(self, page: Page, count: int) -> None:
        expect(page.locator(".pile-piece")).to_have_count(count, timeout=120_000)
        expect(page.locator(".pile-piece", has_text="is being read")).to_have_count(0, timeout=120_000)

    def test_a_scan_of_three_filings(self) -> None:
        page = self.come_in("Imre Holt")
        page.get_by_role("link", name="Counter").click()
        self.look(page, "the counter")
        first = self.begin(page, "Ann Holt")
        self.drop(page, "scan.pdf", "application/pdf", scan())
        self.pieces(page, 9)
        drafts = [first]
        for who, there in (("Bea Holt", 9), ("Cy Holt", 6)):
            self.pieces(page, there)
            self.apart(page, who)
            drafts.append(page.url.split("/")[-2])
            go(page, f"{self.server.address}/filing/{first}/pile")
        for n, draft in enumerate(drafts):
            go(page, f"{self.server.address}/filing/{draft}/pile")
            self.pieces(page, 3)
            self.place_by_keys(page, learnt=n > 0)
        go(page, f"{self.server.address}/counter")
        for name in ("Ann Holt", "Bea Holt", "Cy Holt"):
            expect(page.locator(".counter-list li", has_text=name)).to_contain_text("no consent noted")
        self.file_it(page, first)

    def apart(self, page: Page, who: str) -> None:
        """The sheets of the next place are picked by keys and become a filing of their own."""
        names = [text.split("\n")[0] for text in page.locator(".pile-piece b").all_inner_texts()]
        own = sorted(names, key=lambda name: int(re.findall(r"\d+", name.rpartition("sheet")[2])[0]))[3:6]
        self.assertEqual(len(own), 3)
        for name in own:
            page.locator(".pile-piece", has=page.get_by_text(name, exact=True)).click()
            page.keyboard.press("p")
        page.keyboard.press("m")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("3 papers for another filing")
        expect(dialog).to_contain_text("Proposed:")
        expect(dialog.get_by_label("What is applied for?")).to_have_value("BW")
        page.keyboard.type(who)
        page.keyboard.press("Tab")
        page.keyboard.type("5 Bell Rope Lane, Quill")
        if who.startswith("Bea"):
            self.look(page, "papers of another filing")
        page.keyboard.press("Enter")
        dialog.get_by_role("link", name="Go on there").click()
        expect(page.locator(".pile-piece")).to_have_count(3)

    def place_by_keys(self, page: Page, learnt: bool) -> None:
        """The sections are taken for something else and put right once; then they are offered there."""
        sections_row = page.locator(".pile-piece", has=page.get_by_text(re.compile(r"sheets (2|12|22) to")))
        sections_row.click()
        offer = page.locator(".pile-offer.marked")
        expect(offer).to_be_visible()
        if learnt:
            expect(page.locator(".pile-where")).to_contain_text("was put here by hand")
        page.get_by_label("Another place").select_option(label="Plan of the street")
        page.get_by_role("button", name="Confirm, on to the next").click()
        expect(page.locator(".pile-piece")).to_have_count(2)
        for left in (1, 0):
            page.get_by_role("button", name="Confirm, on to the next").click()
            expect(page.locator(".pile-piece")).to_have_count(left)

    def file_it(self, page: Page, draft: str) -> None:
        """It is filled in, the consent is noted, and it is filed: a case that the office recorded."""
        go(page, f"{self.server.address}/filing/{draft}")
        fill_in(page, "4 Saltern Slip", "New workshop roof", own="Ann Holt")
        go(page, f"{self.server.address}/filing/{draft}/sign")
        expect(page.get_by_text("The office never signs for anybody.")).to_be_visible()
        page.get_by_label("Name of the applicant").fill("Ann Holt")
        self.look(page, "consent")
        page.get_by_role("button", name="Note the consent").click()
        expect(page.get_by_text("The signature stands on the paper that came; noted by Imre Holt.")).to_be_visible()
        go(page, f"{self.server.address}/filing/{draft}/read-over")
        gaps = page.get_by_label(re.compile("I have read what is missing"))
        page.get_by_role("button", name="File this application").wait_for()
        if gaps.count():
            gaps.check()
        page.get_by_role("button", name="File this application").click()
        expect(page).to_have_url(re.compile(r"/desk/BW-"))
        told = page.evaluate("async (case_) => (await fetch(`/api/cases/${case_}`)).text()", page.url.rpartition("/")[2])
        self.assertIn("Recorded by Imre Holt: it came by post", told)

    def test_a_zip_and_a_mail_with_attachments(self) -> None:
        page = self.come_in("Brisa Quay")
        self.begin(page, "Dee Holt", "by mail")
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("plan.pdf", site_plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18))
        self.drop(page, "all.zip", "application/zip", packed.getvalue())
        self.pieces(page, 1)
        page.keyboard.press("g")
        expect(page.locator(".pile-piece")).to_have_count(0)
        mail = EmailMessage()
        mail["From"], mail["Subject"] = "dee@post.quillhaven.example", "my application"
        mail.set_content("Here are the sections.")
        mail.add_attachment(sections("4 Saltern Slip"), maintype="application", subtype="pdf", filename="sections.pdf")
        self.drop(page, "mail.eml", "message/rfc822", bytes(mail))
        row = page.locator(".pile-piece", has_text="sections.pdf")
        expect(row).to_be_visible(timeout=60_000)
        page.set_viewport_size({"width": 360, "height": 740})
        self.look(page, "the pile of a recorded filing at 360 px")
        go(page, f"{self.server.address}/counter")
        expect(page.locator(".counter-list li", has_text="Dee Holt")).to_contain_text("came by mail")
        self.look(page, "the counter at 360 px")

    def test_the_code_of_a_letter_makes_an_account(self) -> None:
        page = self.stranger()
        go(page, f"{self.server.address}/claim")
        page.get_by_label("Code on the letter").fill("AAAAA-BBBBB")
        page.get_by_label("Mail").first.fill("ann@post.quillhaven.example")
        page.get_by_label("Password").first.fill("a long pass phrase")
        page.get_by_role("button", name="Make the account").click()
        expect(page.get_by_role("alert")).to_contain_text("This code is not right")
        self.look(page, "the code of a letter")
