"""How long a page works on a key until it is painted, in time of its own thread: what else the machine does is not in it."""

from __future__ import annotations

from statistics import median

from playwright.sync_api import Locator, Page

#: the key where the focus is, and the frame after it
_PAINTED = """async (key) => {
  const at = document.activeElement ?? window;
  at.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
}"""

#: the same element drawn once more, by hand, and taken away
_DRAWN = """(element) => {
  const copy = document.createElement(element.parentElement.tagName);
  copy.className = element.parentElement.className;
  copy.innerHTML = element.outerHTML;
  element.parentElement.after(copy);
  copy.getBoundingClientRect();
  copy.remove();
}"""


class Painting:
    """A page whose work is measured."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self._measured = page.context.new_cdp_session(page)
        self._measured.send("Performance.enable", {"timeDomain": "threadTicks"})

    def worked(self) -> float:
        """Milliseconds that the page's thread has worked so far."""
        told = self._measured.send("Performance.getMetrics")["metrics"]
        return 1000 * next(float(one["value"]) for one in told if one["name"] == "TaskDuration")

    def drawn(self, element: Locator, times: int = 9) -> float:
        """Milliseconds of work to draw an element from nothing: a measure of the machine and of how much is to be drawn."""
        taken = []
        for _ in range(times):
            before = self.worked()
            element.evaluate(_DRAWN)
            taken.append(self.worked() - before)
            self.page.wait_for_timeout(60)
        return median(taken)

    def key(self, key: str, times: int) -> float:
        """Milliseconds of work from a key to its paint, at the middle of so many."""
        taken = []
        for _ in range(times):
            before = self.worked()
            self.page.evaluate(_PAINTED, key)
            taken.append(self.worked() - before)
            self.page.wait_for_timeout(120)
        return median(taken)

    def letter(self, letter: str, times: int) -> float:
        """The same for a letter that is typed where the focus is."""
        taken = []
        for _ in range(times):
            before = self.worked()
            self.page.keyboard.insert_text(letter)
            self.page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)))")
            taken.append(self.worked() - before)
            self.page.wait_for_timeout(60)
        return median(taken)
