"""An issuer is asked by whoever applies, sends by the one-time link with the keyboard alone, and the office sees it come."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.looks import Looks
from tests.browser.steps import typed_plan

TRIAL = "CT-26-00003-R"
BOARD = "board@ethics.example"


class Issuers(Looks):
    def test_an_opinion_comes_to_a_trial_that_is_being_checked(self) -> None:
        page = self.come_in("Tamsin Oake", at=f"/cases/{TRIAL}")
        there = page.locator(".issuers-all")
        there.get_by_role("button", name="Ask them to send it").click()
        form = there.get_by_role("form", name="Who sends it: Opinion of the ethics board")
        form.get_by_label("Name of the person or the office").fill("Ethics board")
        form.get_by_label("Mail address").fill("no address")
        self.look(page, "asking an issuer")
        form.get_by_label("Mail address").fill(BOARD)
        form.get_by_label("A few words to them").fill("Our number with you is E-118.")
        form.get_by_role("button", name="Send the link").click()
        row = there.locator(".issuers li")
        expect(row).to_contain_text("not opened yet")
        desk = self.come_in("Imre Holt", at=f"/desk/{TRIAL}")
        desk.get_by_text("The trial itself").click()
        desk.get_by_role("button", name=re.compile("judged, .* not asked: show")).click()
        desk.get_by_text("Opinion of the ethics board").first.click()
        expect(desk.get_by_text("Asked of Ethics board on")).to_be_visible()

        issuer = self.stranger()
        issuer.goto(re.sub("^https?://[^/]*", self.server.address, self.mailed(BOARD, r"\S*/deliver/[\w-]+")))
        expect(issuer.get_by_role("heading", name="Opinion of the ethics board")).to_be_visible()
        expect(issuer.get_by_text("Our number with you is E-118.")).to_be_visible()
        send = issuer.get_by_role("button", name="Send it to the office")
        expect(send).to_be_disabled()
        self.look(issuer, "the page of an issuer")
        issuer.set_viewport_size({"width": 360, "height": 780})
        self.look(issuer, "the page of an issuer on a narrow screen")
        # from here on the keyboard alone
        issuer.get_by_label("Your name").focus()
        issuer.keyboard.press("Control+A")
        issuer.keyboard.type("Maren Tull")
        issuer.keyboard.press("Tab")
        issuer.keyboard.type("Ethics board of Quill")
        issuer.keyboard.press("Tab")
        issuer.keyboard.press("Tab")
        issuer.keyboard.type("The board has no objection.")
        issuer.keyboard.press("Tab")
        issuer.keyboard.press("Tab")
        expect(send).to_be_focused()
        issuer.keyboard.press("Enter")
        expect(issuer.get_by_role("heading", name="It has arrived")).to_be_visible()
        self.look(issuer, "the receipt of an issuer")
        address = issuer.url
        issuer.goto(address)
        expect(issuer.get_by_text("This link was used", exact=False)).to_be_visible()

        expect(desk.get_by_text("came from Maren Tull, Ethics board of Quill", exact=False).first).to_be_visible()
        expect(desk.get_by_text("It was judged met by Jonas Wick; what was looked at has changed since.")).to_be_visible()
        page.reload()
        expect(row).to_contain_text("Came on")
        filed = page.locator(".filed-files li", has_text="Opinion of the ethics board.pdf")
        expect(filed).to_contain_text("sealed for the office")
        expect(filed.get_by_role("link")).to_have_count(0)
        self.look(page, "a case to which an issuer sent something")

    def test_a_plan_comes_to_a_draft_and_is_doubted_first(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_text("Glass lean-to, 17 Ropewalk").click()
        page.wait_for_url(re.compile("/filing/"))
        page.goto(page.url.partition("/filing/")[0] + "/filing/" + page.url.partition("/filing/")[2][:32] + "/documents")
        slot = page.locator('[id="documents.sections"]')
        for old in slot.get_by_role("button", name=re.compile("^remove")).all():
            old.click()
        expect(slot.locator(".filing-file")).to_have_count(0)
        slot.get_by_role("button", name="Ask whoever issues it").click()
        slot.get_by_label("Name of the person or the office").fill("Ross Hale")
        slot.get_by_label("Mail address").fill("ross@survey.example")
        slot.get_by_role("button", name="Send the link").click()
        expect(slot.locator(".issuers li")).to_contain_text("not opened yet")
        issuer = self.browser.new_context(viewport={"width": 1280, "height": 800}, locale="pt-PT").new_page()
        self.addCleanup(issuer.context.close)
        issuer.goto(re.sub("^https?://[^/]*", self.server.address, self.mailed("ross@survey.example", r"\S*/deliver/[\w-]+")))
        issuer.get_by_label("Your office or firm").fill("Hale Surveys")
        files = {"name": "notes.txt", "mimeType": "text/plain", "buffer": b"not a drawing"}
        with issuer.expect_file_chooser() as chooser:
            issuer.get_by_role("button", name="The document").or_(issuer.get_by_text("choose a file")).first.click()
        chooser.value.set_files(files)  # type: ignore[arg-type]
        issuer.get_by_role("button", name="Send it to the office").click()
        expect(issuer.get_by_role("button", name="Send it all the same")).to_be_visible()
        self.look(issuer, "what an issuer is told of a file that is not asked")
        issuer.get_by_role("button", name="remove").click()
        plan = {"name": "sections.pdf", "mimeType": "application/pdf", "buffer": typed_plan((80, 700, "Section A-A"))}
        with issuer.expect_file_chooser() as chooser:
            issuer.get_by_role("button", name="The document").or_(issuer.get_by_text("choose a file")).first.click()
        chooser.value.set_files(plan)  # type: ignore[arg-type]
        issuer.get_by_label("Odalys Renn may see it as well").check()
        issuer.get_by_role("button", name="Send it to the office").click()
        again = issuer.get_by_role("button", name="Send it all the same")
        arrived = issuer.get_by_role("heading", name="It has arrived")
        expect(again.or_(arrived)).to_be_visible()
        if again.count():
            again.click()
        expect(arrived).to_be_visible()
        # the applicant's page shows it by itself, and may open it, for the issuer allowed that
        file = slot.locator(".filing-file", has_text="sections.pdf")
        expect(file.get_by_role("link")).to_be_visible()
        expect(file.get_by_role("button", name=re.compile("^remove"))).to_have_count(0)
        expect(slot.locator(".issuers li")).to_contain_text("Ross Hale, Hale Surveys")
        self.look(page, "a draft to which an issuer sent something")
