"""Looking at a view with axe: nothing serious, and nothing beyond the edge of the window."""

from __future__ import annotations

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

from tests.browser.house import BrowserTest

AXE = Axe().axe_script
#: what passed need not be reported, which halves the time
VIOLATIONS = {"resultTypes": ["violations"]}
#: fonts are there, nothing is being fetched, and two frames were drawn without a new request
SETTLED = """async () => {
  await document.fonts.ready;
  const frame = () => new Promise(requestAnimationFrame);
  for (let quiet = 0, before = -1; quiet < 3; ) {
    await frame(); await frame();
    const now = performance.getEntriesByType("resource").length;
    const busy = document.querySelector("[aria-busy=true]") || document.getAnimations().some((a) => a.playState === "running");
    quiet = now === before && !busy ? quiet + 1 : 0;
    before = now;
  }
}"""


class Looks(BrowserTest):
    def look(self, page: Page, name: str) -> None:
        """axe finds nothing serious or critical, and the page fits its window."""
        page.evaluate(SETTLED)
        if not page.evaluate("'axe' in window"):
            page.evaluate(AXE)
        found = page.evaluate("async (options) => (await axe.run(document, options)).violations", VIOLATIONS)
        serious = [
            f"{v['id']}: {v['nodes'][0]['target']} {v['nodes'][0].get('failureSummary', '')[:200]}"
            for v in found
            if v["impact"] in ("serious", "critical")
        ]
        with self.subTest(view=name):
            self.assertEqual(serious, [])
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            self.assertLessEqual(wide, 1, f"{name} scrolls sideways")
