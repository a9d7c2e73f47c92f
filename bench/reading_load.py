"""How quick the office answers while it reads much: 42 intricate drawings and 12 scans of 30 pages dropped at once, text of scans on.

``python -m bench.reading_load [seconds]`` prints p95 of ``/health`` and of the in-tray while they are read, the same with nothing to
read, and how far the reading came.
"""

from __future__ import annotations

import io
import random
import statistics
import sys
import threading
import time

import pikepdf
from reportlab.pdfgen.canvas import Canvas

from bench.kills import Client
from jolly_clerk.demo import papers
from tests.browser.house import Server
from tests.helpers import demo_folder

DRAWINGS, SCANS, PAGES = 42, 12, 30
#: what the answers may take while all of it is read, in milliseconds
MOST = 100.0


def intricate(seed: int) -> bytes:
    """A drawing of many thousand lines and some hundred words."""
    dice = random.Random(seed)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(1190, 842))
    for _ in range(30_000):
        x, y = dice.uniform(0, 1190), dice.uniform(0, 842)
        canvas.line(x, y, x + dice.uniform(-30, 30), y + dice.uniform(-30, 30))
    canvas.setFont("Helvetica", 6)
    for n in range(400):
        canvas.drawString(dice.uniform(0, 1100), dice.uniform(0, 830), f"Part {n} of {seed}")
    canvas.save()
    return out.getvalue()


def long_scan(seed: int) -> bytes:
    """Sheets of typed words as a scanner gives them."""
    dice = random.Random(seed)
    said = """the owner of the house agrees that the roof is made new and the gutter led into the yard before winter"""
    words = said.split()
    with pikepdf.new() as whole:
        for no in range(PAGES):
            lines = tuple(" ".join(dice.choices(words, k=11)) for _ in range(24))
            picture = papers.scanned(papers.paper(f"Sheet {no} of {seed}", *lines), seed * 100 + no)
            canvas = Canvas(out := io.BytesIO(), pagesize=(595, 842))
            from reportlab.lib.utils import ImageReader

            canvas.drawImage(ImageReader(io.BytesIO(picture)), 0, 0, 595, 842)
            canvas.save()
            with pikepdf.open(io.BytesIO(out.getvalue())) as page:
                whole.pages.extend(page.pages)
        whole.save(out := io.BytesIO())
    return out.getvalue()


def sent(client: Client, draft: str, name: str, content: bytes) -> None:
    """Attach a file; one that is refused for the crowd is sent again, as a browser does."""
    for _ in range(20):
        try:
            client.upload(draft, "sections", content, name)
            break
        except OSError:
            time.sleep(1)


def asked(client: Client, path: str, until: float) -> list[float]:
    """How long each answer took, in milliseconds, asked ten times a second."""
    times = list[float]()
    while time.monotonic() < until:
        began = time.monotonic()
        client.ask("GET", path)
        times.append((time.monotonic() - began) * 1000)
        time.sleep(0.1)
    return times


def both(server: Server, seconds: float) -> dict[str, list[float]]:
    """``/health`` and the in-tray side by side."""
    found = dict[str, list[float]]()
    until = time.monotonic() + seconds
    paths = ("/health", "/api/tray")
    clients = [Client(server.address, "imre") for _ in paths]

    def ask(path: str, client: Client) -> None:
        found[path] = asked(client, path, until)

    threads = [threading.Thread(target=ask, args=pair) for pair in zip(paths, clients, strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def told(name: str, times: dict[str, list[float]]) -> bool:
    """Print p50 and p95 of each; True if all are within reach."""
    well = True
    for path, took in times.items():
        p95 = statistics.quantiles(took, n=20)[-1]
        well = well and p95 <= MOST
        print(f"{name:28} {path:10} middle {statistics.median(took):6.1f} ms, p95 {p95:6.1f} ms of {len(took)}")
    return well


def main() -> None:
    """Drop everything at once and look."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    files = [(f"drawing-{n}.pdf", intricate(n)) for n in range(DRAWINGS)]
    files += [(f"scan-{n}.pdf", long_scan(n)) for n in range(SCANS)]
    server = Server(demo_folder())
    try:
        applicant = Client(server.address, "tamsin")
        told("with nothing to read", both(server, 10.0))
        draft = applicant.ask("POST", "/api/drafts", {"kind": "BW"})["id"]
        senders = [threading.Thread(target=sent, args=(applicant, draft, *file)) for file in files]
        began = time.monotonic()
        for sender in senders:
            sender.start()
        times = both(server, seconds)
        for sender in senders:
            sender.join()
        well = told(f"while {len(files)} files are read", times)
        there = applicant.ask("GET", f"/api/drafts/{draft}")["files"]
        read = sum(file["opens"] != "being read" for file in there)
        waiting = sum("is being read" in finding["text"] for file in there for finding in file["findings"])
        took = time.monotonic() - began
        print(f"{took:.0f} s later {len(there)} files are there, {read} read, {waiting} of them wait for the text of their scans")
    finally:
        server.stop()
    sys.exit(0 if well else 1)


if __name__ == "__main__":
    main()
