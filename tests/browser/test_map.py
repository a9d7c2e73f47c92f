"""A place found on the map: by its address, by a press, by the arrow keys; plot, owner and distance come into the form."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.looks import Looks
from tests.browser.steps import begin, field, kept, on_to


def metres(said: Locator) -> float:
    """The distance that the map tells."""
    found = re.search(r"lies ([\d.]+) m from high water", said.inner_text())
    assert found, said.inner_text()
    return float(found[1])


class OnTheMap(Looks):
    def opened(self, page: Page) -> Locator:
        begin(page, "Building works permit")
        page.get_by_label("On which island?").select_option(label="Quill")
        on_to(page, "The place")
        page.get_by_role("button", name="Find it on the map").click()
        dialog = page.get_by_role("dialog", name="Where is it?")
        expect(dialog.get_by_role("button", name="Q-114/2")).to_be_visible()
        return dialog

    def test_a_plot_is_found_measured_and_taken(self) -> None:
        page = self.come_in("Odalys Renn")
        dialog = self.opened(page)
        self.look(page, "the map")
        dialog.get_by_label("Plot number or address").fill("saltern")
        expect(dialog.locator(".map-list li")).to_have_count(1)
        dialog.get_by_role("button", name="Q-114/2").click()
        said = dialog.get_by_role("status")
        expect(said).to_contain_text("Q-114/2, 4 Saltern Slip: this point lies 11.2 m from high water.")
        self.look(page, "a plot on the map")
        drawing = dialog.get_by_role("application")
        drawing.focus()
        for _ in range(4):  # two metres inland, whichever way that is
            page.keyboard.press("ArrowLeft")
        expect(said).not_to_contain_text("11.2 m")
        self.assertLess(abs(metres(said) - 11.2), 2.1)
        page.set_viewport_size({"width": 360, "height": 780})
        self.look(page, "the map on a narrow screen")
        page.set_viewport_size({"width": 1280, "height": 800})
        dialog.get_by_role("button", name="Q-114/2").click()
        expect(said).to_contain_text("11.2 m")
        dialog.get_by_role("button", name="Take the plot and the distance").click()
        expect(dialog).to_have_count(0)
        expect(field(page, "place.plot")).to_have_value("Q-114/2")
        expect(field(page, "place.owner")).to_have_value("Odalys Renn")
        kept(page)
        on_to(page, "The works")
        expect(field(page, "works.distance")).to_have_value("11.2")

    def test_a_press_beside_all_plots_and_in_the_water(self) -> None:
        page = self.come_in("Odalys Renn")
        dialog = self.opened(page)
        drawing, said = dialog.get_by_role("application"), dialog.get_by_role("status")
        frame = drawing.bounding_box()
        assert frame
        drawing.click(position={"x": frame["width"] / 2 - 30, "y": frame["height"] / 2})
        expect(said).to_contain_text("No plot is here.")
        self.assertGreater(metres(said), 300)
        expect(dialog.get_by_role("button", name="Take the plot and the distance")).to_be_disabled()
        drawing.click(position={"x": 6, "y": 6})
        expect(said).to_contain_text("This lies below high water")
        dialog.get_by_label("Plot number or address").fill("nowhere")
        expect(dialog.get_by_text("No plot of the map is called that.")).to_be_visible()
