"""Ten random drafts in the browser: every sentence of the engine about them stands on the page of its place."""

from __future__ import annotations

import random
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.house import BrowserTest, go
from tests.demo.test_told_before import Told, spoilt

PUT = """async ([kind, answers]) => {
    const session = await (await fetch("/api/session")).json();
    const send = (method, path, body, more) => fetch(path, {
        method, body: JSON.stringify(body),
        headers: { "Content-Type": "application/json", "X-Jolly-Clerk": session.csrf, ...more },
    });
    const { id } = await (await send("POST", "/api/drafts", { kind })).json();
    await send("PUT", `/api/drafts/${id}`, { answers }, { "If-Match": '"1"' });
    return await (await fetch(`/api/drafts/${id}`)).json();
}"""


class ToldEverywhere(BrowserTest):
    def test_ten_random_drafts(self) -> None:
        Told.setUpClass()
        self.addCleanup(Told.doClassCleanups)
        chance, told = random.Random(7), 0
        page = self.come_in("Odalys Renn")
        for n in range(10):
            kind = sorted(Told.good)[n % len(Told.good)]
            dossier = spoilt(chance.choice(Told.good[kind]), chance)
            told += self.look(page, page.evaluate(PUT, [kind, dossier.answers]))
        self.assertGreater(told, 10)

    def look(self, page: Page, view: dict[str, Any]) -> int:
        """Go to each page on which something is to be said; returns how many sentences were found there."""
        wanted: dict[str, list[tuple[str, str]]] = {}
        parts = {p["id"]: {q["place"]: q for q in p["questions"]} for p in view["assessment"]["parts"] if p["asked"]}
        for r in view["assessment"]["requirements"]:
            if r["proposed"] not in ("wanting", "in doubt") or r["kind"] not in ("rule", "agreement", "prerequisite", "answer"):
                continue
            for place in (p["ref"] for p in r["places"]):
                part = place.partition(".")[0]
                state = parts.get(part, {}).get(place)
                if r["kind"] == "prerequisite" and not (state or {}).get("raw"):
                    continue  # asked for like any question, as long as no case is named
                says = (state or {}).get("fault", "") if r["kind"] == "answer" else r["because"]
                if says and part in parts and (state is None or state["asked"] == "yes"):
                    wanted.setdefault(part, []).append((place, says))
        for part, sentences in wanted.items():
            go(page, f"{self.server.address}/filing/{view['id']}/{part}")
            main = page.locator(".filing-main")
            expect(main.get_by_role("heading", level=1)).to_be_visible()
            table = main.get_by_role("grid").count() > 0
            for n, (place, says) in enumerate(sentences):
                if table:  # it stands below the cell that is marked
                    go(page, f"{self.server.address}/filing/{view['id']}/{part}?look={n}#{place}")
                expect(main).to_contain_text(says.replace("\u00a0", " "))
        return sum(len(sentences) for sentences in wanted.values())
