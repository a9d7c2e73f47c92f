"""The public register: anybody finds what was decided and takes it along; a lead corrects and strikes an entry."""

from __future__ import annotations

import json

from playwright.sync_api import Page, expect

from tests.browser.house import go
from tests.browser.looks import Looks


class PublicRegister(Looks):
    def test_anybody_finds_what_was_decided(self) -> None:
        page = self.come_in("Odalys Renn")
        page.get_by_role("button", name="Sign out").click()
        page.get_by_role("link", name="Look into the public register").click()
        expect(page.get_by_role("heading", name="Public register")).to_be_visible()
        entries = page.locator(".register-lines > li")
        expect(entries.first).to_be_visible()
        every = entries.count()
        self.assertGreater(every, 3)
        self.look(page, "the public register")
        told = page.request.get(f"{self.server.address}/api/register/file.geojson").json()["features"]
        place = next(f["properties"]["place"] for f in told if f["geometry"])  # not every address is on the map
        page.get_by_label("Place, name or number").fill(place)
        expect(entries).to_have_count(1)
        expect(entries.first).to_contain_text(place)
        with page.expect_download() as taken:
            page.get_by_role("link", name="GeoJSON").click()
        feature = json.loads(taken.value.path().read_text("utf-8"))["features"][0]
        self.assertEqual((feature["properties"]["place"], feature["geometry"]["type"]), (place, "Point"))
        page.get_by_role("button", name="on the map").click()
        pin = page.locator(".town-pin")
        expect(pin).to_have_count(1)
        pin.focus()
        page.keyboard.press("Enter")
        page.locator(".leaflet-popup").get_by_role("button", name="Building works permit").click()
        expect(page.locator(".register-lines > li.chosen")).to_contain_text(place)
        self.look(page, "the public register on the map")
        page.get_by_role("button", name="without the map").click()
        expect(page.locator(".town")).to_have_count(0)
        page.get_by_label("Place, name or number").fill("zzqx")
        expect(page.get_by_text("Nothing in the register matches.")).to_be_visible()
        page.get_by_label("Place, name or number").fill("")
        page.get_by_label("Kind").select_option(label="Pavement stall licence")
        expect(entries.first).to_contain_text("Pavement stall licence")
        self.assertLess(entries.count(), every)
        expect(page.get_by_role("button", name="correct or strike it")).to_have_count(0)
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "the public register at 360 px")

    def test_a_lead_corrects_and_strikes(self) -> None:
        page = self.come_in("Maud Ferrier")
        self.to_the_office(page, "Public register")
        entry = page.locator(".register-lines > li", has_text="Building works permit").first
        reference = entry.locator(".mono").inner_text()
        entry.get_by_role("button", name="correct or strike it").click()
        form = page.get_by_role("form", name=f"Decide on {reference}")
        expect(form.get_by_role("button", name="Correct it")).to_be_disabled()
        form.get_by_label("Place", exact=True).fill("9 Corrected Quay")
        form.get_by_label("By which decision, and why").fill("Decision 7: the number was wrong.")
        self.look(page, "a decision on an entry")
        form.get_by_role("button", name="Correct it").click()
        again = page.locator(".register-lines > li", has_text=reference)
        expect(again.get_by_role("heading", name="9 Corrected Quay")).to_be_visible()
        again.get_by_role("button", name="correct or strike it").click()
        form.get_by_label("By which decision, and why").fill("Decision 8: it is not public.")
        form.get_by_role("button", name="Strike it from the register").click()
        expect(again).to_have_count(0)
        page.get_by_text("An entry was struck and is to stand again").click()
        page.get_by_label("Reference of the case").fill(reference.lower())
        page.get_by_label("By which decision, and why").fill("Decision 9: it is public after all.")
        page.get_by_role("button", name="Take it in again").click()
        expect(again).to_have_count(1)
        self.told_in_the_history(page, reference)

    def told_in_the_history(self, page: Page, reference: str) -> None:
        go(page, f"{self.server.address}/desk/{reference}")
        page.get_by_role("button", name="History").click()
        expect(page.get_by_text("struck it from the public register: Decision 8: it is not public.")).to_be_visible()
