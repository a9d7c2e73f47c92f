"""The figures of the design, each as a ratio within one run where a ratio is asked: ``make bench``."""

from __future__ import annotations

import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

from bench import by_hand, clients, kills, replaying, sizes, trials
from jolly_clerk.core.assessment import assess
from jolly_clerk.core.assessment_view import ASSESSMENT, assessment_view
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.rulebook.expressions import compile_expression
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.lists import tray
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import person

ROOT = Path(__file__).resolve().parents[1]


def median_ms(work: Callable[[], Any], rounds: int = 300, inner: int = 1) -> float:
    """The median time of ``work`` in milliseconds."""
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        for _ in range(inner):
            work()
        times.append((time.perf_counter() - began) / inner * 1000)
    return statistics.median(times)


def line(name: str, figure: str, reach: str, well: bool) -> None:
    """Print one figure beside what is to be reached."""
    print(f"{name:46} {figure:>28}   {reach:32} {'reached' if well else 'NOT REACHED'}", flush=True)


def case_of(office: Office, kind: str) -> Loaded:
    """The demo case of a kind with the longest checklist."""
    officer = person(office, "imre")
    rows = [r for r in tray(office, officer, "everyone's").rows if r.kind == kind]
    return max((load_case(office, officer, r.reference) for r in rows), key=lambda loaded: len(loaded.assessment.requirements))


def together(*works: Callable[[], Any], rounds: int = 300, inner: int = 1) -> list[float]:
    """The median time of each in milliseconds, taken in turns, so that what slows the machine slows all alike."""
    times: list[list[float]] = [[] for _ in works]
    for _ in range(rounds):
        for work, own in zip(works, times, strict=True):
            began = time.perf_counter()
            for _ in range(inner):
                work()
            own.append((time.perf_counter() - began) / inner * 1000)
    return [statistics.median(own) for own in times]


def core(office: Office) -> None:
    """assess, the fee sheet alone, one expression."""
    trial(office)
    c = case_of(office, "BW")
    a = c.assessment
    whole = median_ms(lambda: trials.by_core(c))
    line(f"  a building works case, {len(a.requirements)} requirements", f"{whole:.3f} ms", "(no figure asked)", True)
    shown = median_ms(
        lambda: ASSESSMENT.dump_json(assessment_view(assess(c.rulebook, c.dossier, c.history, c.known, c.now))), 100
    )
    line("  with every working told, as JSON", f"{shown:.3f} ms", "(no figure asked)", True)
    sheet = read_answers(c.rulebook, c.dossier.answers, a.filing_day, a.filing_day)
    by_core = {x.id: x.amount for x in fee_sheet(sheet).lines}
    if by_core != by_hand.fees(c.dossier.answers, a.filing_day):
        raise SystemExit(f"the hand-written fees differ: {by_core}")
    alone, hand_fees = together(lambda: fee_sheet(sheet), lambda: by_hand.fees(c.dossier.answers, a.filing_day), inner=10)
    line("fee sheet alone", f"{alone:.3f} ms, {alone / hand_fees:.1f} times by hand", "at most 0.3 ms", alone <= 0.3)
    rule = compile_expression("works.area * 465.00 > works.estimate and works.distance <= 30.0", c.rulebook.scope)
    rate, near = Decimal("465.00"), Decimal("30.0")

    def plain(v: Any) -> bool:
        return v["works.area"] * rate > v["works.estimate"] and v["works.distance"] <= near

    ours, theirs = together(lambda: rule.value(sheet.values), lambda: plain(sheet.values), inner=500)
    fast, bare = ours * 1000, theirs * 1000
    line("one expression", f"{fast:.3f} µs, {fast / bare:.1f} times", "at most 3 times a plain function", fast <= 3 * bare)


def trial(office: Office) -> None:
    """assess of the largest demo case, a trial with three sites, beside a hand-written function that gives the same for any trial."""
    officer = person(office, "imre")
    references = [r.reference for r in tray(office, officer, "everyone's").rows if r.kind == "CT"]
    cases = [load_case(office, officer, reference) for reference in references]
    tried, differ = trials.compared(cases)
    if differ:
        raise SystemExit("the hand-written standings or fees differ: " + "; ".join(differ))
    c = max(cases, key=lambda loaded: len(loaded.assessment.requirements))
    whole, hand = together(lambda: trials.by_core(c), lambda: trials.by_plain(c))
    name = f"assess, {c.case.reference}, {len(c.assessment.requirements)} requirements"
    line(name, f"{whole:.3f} ms", "at most 3 ms", whole <= 3)
    name = f"  by hand, the same over {tried} dossiers"
    line(name, f"{hand:.3f} ms, {whole / hand:.1f} times", "at most 3 times", whole <= 3 * hand)
    fresh = trials.unjudged(c)
    whole, hand = together(lambda: trials.by_core(fresh), lambda: trials.by_plain(fresh))
    line(
        "  the same, nobody has judged yet",
        f"{whole:.3f} ms, {whole / hand:.1f} times",
        "(no figure asked)",
        True,
    )


def replays(folder: Path) -> None:
    """Stored cases under another edition."""
    speed, count, differ, growth = replaying.measure(folder)
    line(f"replay of {count} stored cases", f"{speed:.0f} a second, {differ} differ", "at least 1000 a second", speed >= 1000)
    line("  memory of the largest worker, end to first tenth", f"{growth:.2f} times", "flat", growth < 1.2)


#: from the double click, as the page gets it, to the frame in which the first line of the checklist is drawn
OPENED = """() => {
    document.addEventListener('dblclick', () => { window.opened = performance.now(); }, {capture: true, once: true});
    new MutationObserver((_, watch) => {
        if (!document.querySelector('.desk-check')) return;
        watch.disconnect();
        requestAnimationFrame(() => { window.shown = performance.now(); });
    }).observe(document.body, {childList: true, subtree: true});
}"""


def serving(folder: Path) -> None:
    """Start to ready, and a page's first load in a browser."""
    sys.path.insert(0, str(ROOT))
    from playwright.sync_api import sync_playwright

    from tests.browser.house import CHROMIUM, FLAGS, Server

    times = []
    for n in range(3):
        began = time.perf_counter()
        server = Server(folder)
        times.append(time.perf_counter() - began)
        if n < 2:
            server.stop()
    ready = statistics.median(times)
    line("start to ready, demo data laid", f"{ready:.2f} s", "at most 2.5 s", ready <= 2.5)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        began = time.perf_counter()
        page.goto(server.address)
        page.get_by_role("button", name="Imre Holt").wait_for()
        first = time.perf_counter() - began
        scripts = page.evaluate(
            "performance.getEntriesByType('resource').filter(r => r.initiatorType === 'script' || r.name.endsWith('.js'))"
            ".reduce((sum, r) => sum + r.encodedBodySize, 0)"
        )
        page.get_by_role("button", name="Imre Holt").click()
        page.locator(".tray-row").first.wait_for()
        page.evaluate(OPENED)
        page.locator(".tray-row", has_text="Compass Close").dblclick()
        page.locator(".desk-check").first.wait_for()
        following = page.evaluate("window.shown - window.opened") / 1000
        browser.close()
    server.stop()
    line("first load", f"{first:.2f} s", "at most 1.5 s", first <= 1.5)
    line("  scripts of the first load, gzipped", f"{scripts / 1000:.0f} kB", "at most 300 kB", 0 < scripts <= 300_000)
    line("next page (in-tray to desk)", f"{following * 1000:.0f} ms", "at most 200 ms", following <= 0.2)


def reading() -> None:
    """A text PDF of 20 pages against opening and extracting with the libraries alone."""
    import io

    import pikepdf
    import pypdfium2
    from reportlab.pdfgen.canvas import Canvas

    from jolly_clerk.reading.read import read_bytes

    buffer = io.BytesIO()
    canvas = Canvas(buffer)
    for no in range(20):
        for row in range(50):
            canvas.drawString(50, 780 - 14 * row, f"Page {no}, line {row}: the quick clerk stamps the lazy letter once more.")
        canvas.showPage()
    canvas.save()
    content = buffer.getvalue()

    def bare() -> None:
        with pikepdf.open(io.BytesIO(content)) as pdf:
            len(pdf.pages)
        document = pypdfium2.PdfDocument(content)
        for page in document:
            page.get_textpage().get_text_bounded()
        document.close()

    ours, alone = median_ms(lambda: read_bytes(content), 30), median_ms(bare, 30)
    line(
        "reading a text PDF of 20 pages",
        f"{ours:.1f} ms, {ours / alone:.2f} times",
        "at most 1.5 times the libraries",
        ours <= 1.5 * alone,
    )


def answers(copy: Path, folder: Path) -> None:
    """The bytes of what is sent back: to one judgement in every case that is being checked, and to one answer kept in every draft."""
    shutil.copytree(folder, copy)
    judged, kept = sizes.run(copy)
    groups = [pair for pair in kept if ", 30 " in pair[0]]
    for name, found, most in (
        ("answer to a judgement, the largest of the demo", judged, 15_000),
        ("answer to a kept answer, the largest", kept, 15_000),
        ("the same, 30 persons or 30 sites", groups, 60_000),
    ):
        largest = found[0][1]
        line(name, f"{largest} bytes of {len(found)}", f"at most {most:,} bytes", bool(found) and largest <= most)


def crowd() -> None:
    """Sixty clients for a minute: nobody is told that the server failed."""
    statuses, middle, slowest = clients.run(60, float(os.environ.get("JOLLY_CLERK_CROWD", "60")))
    failed = sum(n for status, n in statuses.items() if status >= 500)
    told = f"{sum(statuses.values())} answers, {middle:.2f} / {slowest:.1f} s"
    line("60 clients at once, median / slowest", told, "no answer from 500 on", failed == 0)


def main() -> None:
    """Lay the demo, measure, print."""
    folder = Path(tempfile.mkdtemp(prefix="jolly-clerk-bench-")) / "demo"
    subprocess.run(
        [sys.executable, "-m", "jolly_clerk.cli", "demo", "--data", str(folder)], check=True, stdout=subprocess.DEVNULL
    )
    office = open_office(folder, now=lambda: datetime.now(UTC))
    core(office)
    office.close()
    replays(folder)
    reading()
    serving(folder)
    answers(folder.with_name("copy"), folder)
    crowd()
    count = int(os.environ.get("JOLLY_CLERK_KILLS", "200"))
    total, _, wrong = kills.run(count, int(time.time()))
    line(f"{count} kills of the server", f"{total} acknowledged, {len(wrong)} lost", "nothing lost", not wrong)
    print("\n".join(wrong))


if __name__ == "__main__":
    main()
