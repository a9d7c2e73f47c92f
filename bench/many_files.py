"""Twenty-five files of 20 MB dropped at once, with the network cut twice while they are on their way.

``python -m bench.many_files [files] [megabytes]`` prints how long it took, how often the line was cut, and that every file arrived
with the content that was sent.
"""

from __future__ import annotations

import hashlib
import io
import os
import sys
import tempfile
import time
from pathlib import Path

import pikepdf
from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.house import CHROMIUM, FLAGS, Server
from tests.browser.steps import new_visa
from tests.helpers import demo_folder

FILES, MEGABYTES = 25, 20
#: milliseconds that all of them may take on a busy machine
PATIENCE = 900_000


def heavy(megabytes: int) -> bytes:
    """A PDF of one sheet with an attachment that cannot be made smaller, so large in all."""
    with pikepdf.new() as made:
        made.add_blank_page(page_size=(595, 842))
        made.attachments["noise.bin"] = pikepdf.AttachedFileSpec(made, os.urandom(megabytes * 1_000_000 - 20_000))
        out = io.BytesIO()
        made.save(out)
        return out.getvalue()


def arrived(page: Page, draft: str) -> list[dict[str, object]]:
    """The papers of the pile."""
    return list(page.evaluate("async (draft) => (await (await fetch(`/api/drafts/${draft}/pile`)).json()).pieces", draft))


def main() -> int:
    """Drop them, cut the line twice, and compare what arrived."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else FILES
    megabytes = int(sys.argv[2]) if len(sys.argv) > 2 else MEGABYTES
    folder = demo_folder()
    server = Server(folder, settings={"most_upload_mb": str(megabytes + 5)})
    with tempfile.TemporaryDirectory() as here, sync_playwright() as playwright:
        paths, sent = list[Path](), set[str]()
        for n in range(count):
            content = heavy(megabytes)
            sent.add(hashlib.sha256(content).hexdigest())
            paths.append(Path(here) / f"paper-{n + 1:02}.pdf")
            paths[-1].write_bytes(content)
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        try:
            page = browser.new_page()
            page.set_default_timeout(PATIENCE)
            page.goto(server.address)
            page.get_by_role("button", name="Odalys Renn").click()
            page.get_by_role("button", name="Sign out").wait_for()
            draft = new_visa(page)
            page.goto(f"{server.address}/filing/{draft}/documents")
            began, cuts, away = time.monotonic(), 0, 0.0
            page.get_by_label("Files of all papers").set_input_files(paths)
            link = page.get_by_role("link", name=f"{count} papers")
            marks = [count // 4, count // 2]
            while not link.is_visible():
                there = server.folder.glob("vault/*/*")
                got = sum(1 for file in there if file.stat().st_size > megabytes * 900_000)
                if cuts < len(marks) and got >= marks[cuts]:
                    cuts += 1
                    page.context.set_offline(True)
                    page.wait_for_timeout(4000)
                    page.context.set_offline(False)
                    away += 4
                page.wait_for_timeout(300)
                if time.monotonic() - began > PATIENCE / 1000:
                    raise TimeoutError("they did not all arrive")
            took = time.monotonic() - began
            expect(link).to_be_visible()
            held = {path.name for path in server.folder.glob("vault/*/*")}
            missing = len(sent - {name.partition(".")[0] for name in held})
        finally:
            browser.close()
            server.stop()
    print(
        f"{count} files of {megabytes} MB, the line cut {cuts} times for {away:.0f} s in all: all there after {took:.0f} s, {missing} missing"
    )
    return 1 if missing or cuts < 2 else 0


if __name__ == "__main__":
    sys.exit(main())
