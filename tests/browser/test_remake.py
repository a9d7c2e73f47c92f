"""Files put into another shape on the screen: several as one PDF, turned, cut, as they came again; a signed one says why not."""

from __future__ import annotations

import io

import pikepdf
from playwright.sync_api import FilePayload, expect

from tests.browser.looks import Looks
from tests.browser.steps import begin, on_to
from tests.reading.test_reading import pdf, picture


def signed() -> bytes:
    """A PDF with a field of a signature that is filled."""
    made = pikepdf.new()
    made.add_blank_page(page_size=(595, 842))
    field = made.make_indirect(pikepdf.Dictionary(FT=pikepdf.Name.Sig, V=pikepdf.Dictionary(Type=pikepdf.Name.Sig), T="s"))
    made.Root.AcroForm = pikepdf.Dictionary(Fields=pikepdf.Array([field]))
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


class Remake(Looks):
    def test_joined_turned_cut_and_back(self) -> None:
        page = self.come_in("Corvin Pell")
        begin(page, "Building works permit")
        on_to(page, "Documents")
        slot = page.locator('[id="documents.sections"]')
        files: list[FilePayload] = [
            {"name": "first.pdf", "mimeType": "application/pdf", "buffer": pdf(text="section A-A", pages=2)},
            {"name": "second.jpg", "mimeType": "image/jpeg", "buffer": picture("JPEG", (900, 700))},
        ]
        slot.locator("input[type=file]").set_input_files(files)
        expect(slot.locator(".remake")).to_have_count(2)
        slot.get_by_role("button", name="Make one PDF of the 2 files").click()
        made = slot.locator(".filing-file")
        expect(made).to_have_count(1)
        expect(made).to_contain_text("3 sheets")
        expect(made).to_contain_text("Made here from “first.pdf”, “second.jpg”.")
        made.get_by_text("Change this file").click()
        self.look(page, "what can be made of a file")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "what can be made of a file, on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        made.get_by_label("Sheet before which it is cut").fill("3")
        made.get_by_role("button", name="Cut it before sheet").click()
        expect(made).to_have_count(2)
        expect(made.nth(0)).to_contain_text("first, sheets 1-2.pdf")
        expect(made.nth(1)).to_contain_text("first, from sheet 3.pdf")
        made.nth(1).get_by_role("button", name="Put back what came").click()
        # what was made names what it came from too: only when that is gone are these the files as they came
        expect(slot.get_by_text("Made here from")).to_have_count(0)
        expect(made).to_have_count(2)
        expect(made.nth(0)).to_contain_text("first.pdf")
        expect(made.nth(1)).to_contain_text("second.jpg")
        made.nth(1).get_by_text("Change this file").click()
        made.nth(1).get_by_role("button", name="Turn right").click()
        expect(made.nth(1)).to_contain_text("700 × 900 pixels")
        files = [{"name": "contract.pdf", "mimeType": "application/pdf", "buffer": signed()}]
        slot.locator("input[type=file]").set_input_files(files)
        expect(made).to_have_count(3)
        made.nth(2).get_by_text("Change this file").click()
        expect(made.nth(2)).to_contain_text("It bears a signature, which a change would break.")
