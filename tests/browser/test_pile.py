"""Papers dropped together: six passports make a group of six, a mixed pile is sorted by confirming, a long scan is split by keys."""

from __future__ import annotations

import io
import random
import re

import pikepdf
from playwright.sync_api import Page, expect

from jolly_clerk.demo import papers
from tests.browser.house import BrowserTest, go
from tests.browser.steps import new_visa, on_to
from tests.office.test_pile import scanned

NAMES = ("Ada Marek", "Ivo Thorne", "Zoe Quay", "Otto Brandt", "Marta Nowak", "Leila Bibo")
PICTURE, PDF = "image/jpeg", "application/pdf"


def file(name: str, kind: str, content: bytes) -> dict[str, object]:
    return {"name": name, "mimeType": kind, "buffer": content}


def long_scan() -> bytes:
    """Thirty sheets: ten papers of three, each counted on its own, two of them behind a blank sheet."""
    dice = random.Random(30)
    with pikepdf.new() as whole:
        for n in range(9):
            title = ("Contract", "Health cover", "List of instruments", "Old Hall")[n % 4]
            part = papers.sheets(
                *((title if no == 0 else f"{title}, continued", (f"Line {dice.randint(1, 99)}",)) for no in range(3))
            )
            with pikepdf.open(io.BytesIO(part)) as opened:
                whole.pages.extend(opened.pages)
            if n in (2, 5, 7):
                whole.add_blank_page(page_size=(595, 842))
        out = io.BytesIO()
        whole.save(out)
        return out.getvalue()


class Pile(BrowserTest):
    def begin(self) -> Page:
        page = self.come_in("Odalys Renn")
        go(page, f"{self.server.address}/filing/{new_visa(page)}/documents")
        return page

    def drop(self, page: Page, *files: dict[str, object]) -> None:
        page.get_by_label("Files of all papers").set_input_files(list(files))
        expect(page.get_by_role("link", name=f"{len(files)} paper")).to_be_visible(timeout=60_000)

    def sort(self, page: Page, read: int) -> None:
        """To the pile, once so many papers in it are read."""
        page.get_by_role("link", name=re.compile("to place: sort them")).click()
        expect(page.get_by_role("heading", name="Sort what came")).to_be_visible()
        expect(page.locator(".pile-piece")).to_have_count(read, timeout=60_000)
        expect(page.locator(".pile-piece", has_text="is being read")).to_have_count(0, timeout=60_000)

    def test_six_passports_make_six_persons_and_a_mixed_pile_is_confirmed(self) -> None:
        page = self.begin()
        self.drop(page, *(file(f"IMG_{n}.jpg", PICTURE, scanned(name, f"M76543{20 + n}")) for n, name in enumerate(NAMES)))
        self.sort(page, 6)
        expect(page.get_by_role("region", name="Placed, confirm at one go").locator("h2")).to_contain_text("6")
        expect(page.locator(".pile-where")).to_contain_text("it bears the machine-readable lines of a passport")
        page.keyboard.press("g")
        expect(page.get_by_text("Everything is placed.")).to_be_visible()
        page.get_by_role("link", name="Back to the documents").click()
        for name in NAMES:
            expect(page.get_by_role("region", name=re.compile(name))).to_be_visible()
        # fourteen papers of all sorts
        contracts = {f"c{n}.pdf": papers.contract("The Salt Choir", name) for n, name in enumerate(NAMES)}
        mixed = [
            *(file(name, PDF, content) for name, content in contracts.items()),
            *(file(f"portrait {name.split()[0].lower()}.jpg", PICTURE, papers.portrait(n)) for n, name in enumerate(NAMES[:4])),
            file(
                "cover.pdf", PDF, papers.paper("Health cover", "6 persons, every day of the tour.", letterhead="Harbour Mutual")
            ),
            file(
                "hall.pdf",
                PDF,
                papers.paper("Letter of the Old Hall", "The venue is yours for three days.", letterhead="Old Hall"),
            ),
            file("fare.pdf", PDF, papers.paper("Bill of fare", "Soup, fish, cheese")),
            file("again.jpg", PICTURE, scanned(NAMES[0], "M7654320")),
        ]
        self.drop(page, *mixed)
        self.sort(page, 14)
        expect(page.get_by_role("region", name="Not kept twice")).to_contain_text("the same as IMG_0.jpg")
        page.keyboard.press("g")
        expect(page.get_by_role("region", name="Placed, confirm at one go")).to_have_count(0)
        expect(page.get_by_role("region", name="Not kept twice")).to_be_visible()
        left = page.locator(".pile-piece").all_inner_texts()
        self.assertLessEqual(len(left), 4, left)
        self.assertTrue(any("fare.pdf" in text for text in left), left)
        for _ in left:
            page.keyboard.press("x")  # as quick as keys are: each means the paper that is marked then
            page.evaluate("() => new Promise(requestAnimationFrame)")
        expect(page.get_by_text("Everything is placed.")).to_be_visible()
        page.get_by_role("link", name="Back to the documents").click()
        one = page.get_by_role("region", name=re.compile("Ivo Thorne"))
        expect(one.get_by_role("link", name="c1.pdf")).to_be_visible()
        expect(one.get_by_role("link", name="portrait ivo.jpg")).to_be_visible()

    def test_a_scan_of_thirty_sheets_is_split_cut_and_joined_by_keys(self) -> None:
        page = self.begin()
        page.get_by_label("Files of all papers").set_input_files(file("scan.pdf", PDF, long_scan()))
        expect(page.get_by_role("link", name=re.compile("to place: sort them"))).to_be_visible(timeout=60_000)
        page.get_by_role("link", name=re.compile("to place: sort them")).click()
        pieces = page.locator(".pile-piece")
        expect(pieces).to_have_count(9, timeout=60_000)
        expect(pieces.filter(has_text="scan.pdf, sheets 1 to 3")).to_have_count(1)
        pieces.filter(has_text="scan.pdf, sheets 1 to 3").click()
        page.keyboard.press(".")
        page.keyboard.press("s")
        expect(pieces.filter(has_text="scan.pdf, sheet 1")).not_to_have_count(0)
        expect(pieces).to_have_count(10)
        pieces.filter(has_text="scan.pdf, sheets 2 to 3").click()
        page.keyboard.press("j")
        expect(pieces).to_have_count(9)
        expect(pieces.filter(has_text="scan.pdf, sheets 1 to 3")).to_have_count(1)
        cover = pieces.filter(has_text="Health cover of the group").first
        cover.click()
        page.keyboard.press("Enter")
        expect(pieces).to_have_count(8)
        page.get_by_role("link", name="Back to the documents").click()
        expect(page.get_by_role("link", name=re.compile(r"scan, sheets \d+-\d+\.pdf"))).to_be_visible()

    def test_what_papers_state_is_taken_at_once(self) -> None:
        page = self.begin()
        on_to(page, "Documents")
        self.drop(page, file("ada.jpg", PICTURE, scanned("Ada Marek", "M7654321")))
        self.sort(page, 1)
        page.keyboard.press("Enter")
        expect(page.get_by_text("Everything is placed.")).to_be_visible()
        on_to_persons = page.url.replace("/pile", "/persons")
        go(page, on_to_persons)
        expect(page.get_by_label("Name as in the passport")).to_have_value("Ada Marek")
        expect(page.get_by_label("Passport number", exact=True)).to_have_value("M7654321")
        expect(page.get_by_text("from your paper: Passport").first).to_be_visible()
        page.get_by_label("Passport number", exact=True).fill("M0000000")
        expect(page.get_by_role("button", name="Use M7654321")).to_be_visible()
        page.get_by_role("button", name="Use M7654321").click()
        expect(page.get_by_label("Passport number", exact=True)).to_have_value("M7654321")
