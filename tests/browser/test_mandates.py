"""Somebody acts for another by a mandate: asked, accepted, files in the owner's name, and reads what was sent after the end."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.house import go
from tests.browser.looks import Looks
from tests.browser.steps import field, kept, on_to

CORVIN = "corvin@post.quillhaven.example"


class Mandates(Looks):
    def test_a_mandate_from_its_asking_to_after_its_end(self) -> None:
        page = self.come_in("Odalys Renn", at="/account")
        page.get_by_role("button", name="Let somebody act for you").click()
        form = page.get_by_role("form", name="Let somebody act for you")
        form.get_by_label("Name").fill("Corvin Pell")
        form.get_by_label("Mail address").fill(CORVIN)
        form.get_by_label("Sign, file and send the answers").check()
        self.look(page, "giving a mandate")
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "giving a mandate on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        form.get_by_label("Mail address").press("Enter")
        row = page.get_by_role("region", name="Mandates").locator("li", has_text="Corvin Pell")
        expect(row).to_contain_text("not accepted yet")

        agent = self.come_in("Corvin Pell")
        expect(agent.get_by_role("heading", name="You act for others")).to_have_count(0)
        go(agent, f"{self.server.address}/account")
        agent.get_by_role("button", name="Accept it").click()
        expect(agent.locator(".mandates-state")).to_have_text("in force")
        agent.get_by_role("link", name="My cases").click()
        expect(agent.get_by_role("region", name="You act for others")).to_contain_text("New workshop roof, 4 Saltern Slip")
        self.look(agent, "the first page of somebody who acts for another")
        agent.get_by_role("link", name="New filing").click()
        agent.get_by_label("For whom?").select_option(label="for Odalys Renn")
        self.look(agent, "a new filing for somebody else")
        agent.get_by_role("button", name="Begin: Building works permit").click()
        agent.get_by_role("button", name="I know that I need it").click()
        agent.wait_for_url("**/filing/**")
        expect(agent.get_by_text("This is a filing of Odalys Renn, for whom you act by a mandate.")).to_be_visible()
        on_to(agent, "Who is filing")
        expect(agent.get_by_label("Your name or the name of your firm")).to_have_value("Odalys Renn")
        on_to(agent, "The works")
        field(agent, "works.what").fill("Net loft")
        kept(agent)
        draft = agent.url.partition("/filing/")[2][:32]
        go(agent, f"{self.server.address}/filing/{draft}/read-over")
        expect(agent.get_by_text("You file it for Odalys Renn, whose case it will be.")).to_be_visible()
        expect(agent.get_by_role("button", name="File this application")).to_be_visible()
        go(page, f"{self.server.address}/filing/{draft}/works")
        expect(field(page, "works.what")).to_have_value("Net loft")

        go(page, f"{self.server.address}/account")
        row.get_by_role("button", name=re.compile("End it now")).click()
        page.get_by_role("button", name="End it", exact=True).click()
        expect(row).to_contain_text("ended on")
        agent.goto(f"{self.server.address}/filing/{draft}")  # looked at anew, as by a link
        expect(agent.get_by_text("There is no such draft of yours.")).to_be_visible()
        go(agent, f"{self.server.address}/account")
        agent.get_by_text("What was sent until then").click()
        sent = agent.locator(".mandates details li")
        expect(sent.first).to_be_visible()
        self.look(agent, "what was sent until a mandate ended")
        answer = agent.request.get(self.server.address + (sent.first.get_by_role("link").get_attribute("href") or ""))
        self.assertEqual(answer.headers["content-type"], "application/pdf")
