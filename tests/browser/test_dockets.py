"""What is told of a file, what comes by post, and the office's own forms: described, numbered, printed, read back."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import expect

from jolly_clerk.reading.read import read_bytes
from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import attach, begin, choose, field, kept, new_visa, on_to, typed_plan
from tests.photographs import photograph


class Dockets(Looks):
    def test_specimens_by_post_and_volumes(self) -> None:
        page = self.come_in("Tamsin Oake")
        begin(page, "Invention patent")
        on_to(page, "The invention")
        choose(page, "Will you send specimens?", "Yes")
        on_to(page, "Documents")
        slot = page.locator("[id='documents.docket']")
        slot.get_by_role("button", name="Send it by post").click()
        make = slot.get_by_role("button", name="Make a docket")
        expect(make).to_be_disabled()
        slot.get_by_label("What do you send?").fill("Two winches, one taken apart")
        make.click()
        link = slot.get_by_role("link", name="docket D-")
        expect(link).to_be_visible()
        expect(page.locator(".filing-bring", has_text="It comes by post")).to_contain_text("It comes by post: docket")
        number = link.inner_text().split()[1]
        draft = page.url.split("/filing/")[1].split("/")[0]
        pdf = page.request.get(f"{self.server.address}/api/drafts/{draft}/dockets/{number}")
        self.assertEqual((pdf.status, pdf.body()[:5]), (200, b"%PDF-"))
        self.look(page, "something that comes by post")
        self.photographed(number)
        attach(page, "Description", "description vol 1.pdf", typed_plan((80, 700, "What was known")))
        attach(page, "Description", "description vol 3.pdf", typed_plan((80, 700, "What is new")))
        described = page.locator("[id='documents.description']")
        expect(described).to_contain_text("Some volumes have not come: 2. Here are 1 and 3.")
        described.get_by_role("button", name="change what is told of it description vol 3.pdf").click()
        form = page.get_by_role("form", name="What is told of “description vol 3.pdf”")
        form.get_by_label("Volume").fill("2")
        form.get_by_label("Description").fill("What is new, and the claims")
        form.get_by_label("Its language").select_option("pt")
        self.look(page, "telling something of a file")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "telling something of a file on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        form.get_by_role("button", name="Keep it").click()
        expect(described).to_contain_text("volume 2, in Portuguese, “What is new, and the claims”")
        expect(described).not_to_contain_text("Some volumes have not come")
        slot.get_by_role("button", name="not by post after all").click()
        expect(slot.get_by_role("link", name="docket D-")).to_have_count(0)

    def photographed(self, number: str) -> None:
        """At the counter a camera reads the code of the docket; its filing is still being prepared."""
        imre = self.come_in("Imre Holt", at="/counter")
        camera, things = imre.get_by_label("A photograph of the code"), imre.get_by_role("region", name="Something came by post")
        expect(things.get_by_role("button", name="Photograph its code")).to_be_visible()
        for code, said in (
            ("", "No code can be read in the photograph"),
            (f"JC-DOCKET {number}", f"Docket {number} is of a filing"),
        ):
            camera.set_input_files({"name": "docket.jpg", "mimeType": "image/jpeg", "buffer": photograph(code)})
            expect(things.get_by_role("alert")).to_contain_text(said)
        self.look(imre, "a docket photographed")

    def test_the_offices_form_is_filled_in(self) -> None:
        page = self.come_in("Odalys Renn")
        draft = new_visa(page)
        go(page, f"{self.server.address}/filing/{draft}/persons")
        page.get_by_role("button", name="Add the first").click()
        for place, typed in (
            ("name", "Ben Marrow"),
            ("born", "5 May 2015"),
            ("arrival", "1 Mar 2027"),
            ("departure", "20 Mar 2027"),
        ):
            field(page, f"persons.1.{place}").fill(typed)
        kept(page)
        on_to(page, "Documents")
        slot = page.locator("[id='documents.child_form.1']")
        with page.expect_download() as download:
            slot.get_by_role("link", name="The office's form, filled in as far as is known (PDF)").click()
        form = Path(download.value.path()).read_bytes()
        self.assertEqual({f.name: f.text for f in read_bytes(form).fields}["child"], "Ben Marrow")
        file = {"name": "form.pdf", "mimeType": "application/pdf", "buffer": form}
        slot.locator("input[type=file]").set_input_files(file)  # type: ignore[arg-type]
        expect(slot).to_contain_text("“Who minds the child?” is empty in the form.")
        self.look(page, "a form of the office that came back")
