"""The real server over a real SQLite file in a process of its own, and a browser that a person would use."""

from __future__ import annotations

import multiprocessing
import os
import re
import signal
import socket
import subprocess
import sys
import time
import unittest
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any, ClassVar, TypeVar

from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from tests.helpers import demo_folder, new_folder

CHROMIUM = os.environ.get("JOLLY_CLERK_CHROMIUM", "/usr/bin/chromium")
FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
)  # fmt: skip
ROOT = Path(__file__).resolve().parents[2]
#: how long a busy machine is waited for, in milliseconds
PATIENCE = 60_000
expect.set_options(timeout=PATIENCE)
T = TypeVar("T")


class Server:
    """``jolly-clerk serve`` on a free port of this machine."""

    process: Any

    def __init__(self, folder: Path, *options: str, demo: bool = True, settings: dict[str, str] | None = None) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.folder = folder
        self.address = f"http://127.0.0.1:{self.port}"
        words = ["serve", "--data", str(folder), "--port", str(self.port), *(["--demo"] if demo else []), *options]
        own = {f"JOLLY_CLERK_{name.upper()}": value for name, value in (settings or {}).items()}
        self._begin(words, {**os.environ, **own})
        try:
            self._wait()
        except RuntimeError:
            self.stop()  # or whoever made it would wait for its end
            raise

    def _begin(self, words: list[str], environment: dict[str, str]) -> None:
        command = [sys.executable, "-m", "jolly_clerk.cli", *words]
        self.process = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

    def _lives(self) -> bool:
        return self.process.poll() is None

    def _wait(self) -> None:
        for _ in range(1200):
            if not self._lives():
                raise RuntimeError("the server ended")
            try:
                urllib.request.urlopen(f"{self.address}/health", timeout=1)
                return
            except (urllib.error.URLError, OSError):
                time.sleep(0.05)
        raise RuntimeError("the server did not come up")

    def stop(self) -> None:
        """Ask it to stop, and wait."""
        if self._lives():
            self.process.send_signal(signal.SIGTERM)
            self.process.wait(timeout=20)


#: a process that has the program imported already and forks a server when one is asked for: 3 s sooner than from nothing
FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(["jolly_clerk.web.app", "jolly_clerk.cli"])


def _serve(words: list[str], environment: dict[str, str], said: str) -> None:
    os.chdir(ROOT)
    os.environ |= environment
    with Path(said).open("ab", 0) as file:
        os.dup2(file.fileno(), 1)
        os.dup2(file.fileno(), 2)
    from jolly_clerk.cli import app

    app(words)


class Forked(Server):
    """The same, forked from a process in which the program is imported already; what it says is kept."""

    def _begin(self, words: list[str], environment: dict[str, str]) -> None:
        self._said = new_folder() / "said"
        self.process = FORKS.Process(target=_serve, args=(words, environment, str(self._said)))
        self.process.start()

    def _lives(self) -> bool:
        return bool(self.process.is_alive())

    def said(self, most: int = 6000) -> str:
        """The end of what it wrote, at most so many characters."""
        return self._said.read_text("utf-8", "replace")[-most:] if self._said.exists() else ""

    def stop(self) -> None:
        """Ask it to stop, and wait."""
        self.process.terminate()
        self.process.join(20)


class Shared:
    """One browser for all browser tests that a process runs one after the other; each window of a test is a profile of its own."""

    playwright: Playwright | None = None
    browser: Browser | None = None

    @classmethod
    def open(cls) -> Browser:
        """The browser, started if none is there."""
        if cls.playwright is None or cls.browser is None or not cls.browser.is_connected():
            cls.close()
            cls.playwright = sync_playwright().start()
            cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        return cls.browser

    @classmethod
    def close(cls) -> None:
        """End it; before tests that have an event loop of their own, and at the end."""
        if cls.browser is not None and cls.browser.is_connected():
            cls.browser.close()
        if cls.playwright is not None:
            cls.playwright.stop()
        cls.playwright = cls.browser = None


class BrowserTest(unittest.TestCase):
    """A test with a server of its own and one browser for the class; ``settings`` are those of its office that differ."""

    settings: ClassVar[dict[str, str]] = {}

    browser: Browser
    server: Forked

    @classmethod
    def setUpClass(cls) -> None:
        folder = demo_folder()
        cls.lay(folder)
        cls.server = Forked(folder, settings=cls.settings)
        cls.addClassCleanup(cls.server.stop)
        cls.browser = Shared.open()

    @classmethod
    def lay(cls, folder: Path) -> None:
        """Put more into the office than the demo has, before it is served."""

    def setUp(self) -> None:
        self.troubles: list[str] = []

    def tearDown(self) -> None:
        self.assertEqual(self.troubles, [], self.troubles and f"the browser complained; the server said: {self.server.said()}")

    def come_in(self, name: str, width: int = 1280, height: int = 800, scheme: str = "light", by_click: bool = False) -> Page:
        """A new window in which this person is signed in: before it opens, which spares a page, or ``by_click`` as a person would."""
        context = self.browser.new_context(
            viewport={"width": width, "height": height},
            color_scheme=scheme,  # type: ignore[arg-type]
            accept_downloads=True,
            reduced_motion="reduce",  # nothing is waited for that only moves
        )
        self.addCleanup(context.close)
        context.set_default_timeout(PATIENCE)
        page = context.new_page()
        page.on("pageerror", lambda error: self.troubles.append(str(error)))
        page.on("console", lambda said: self.troubles.append(said.text) if self._matters(said.type, said.text) else None)
        if not by_click:
            session = f"{self.server.address}/api/session"
            people = context.request.get(session).json()["people"]
            id_ = next(person["id"] for person in people if name in person["name"])
            context.request.post(f"{session}/by-click", data={"person": id_})
        page.goto(self.server.address)
        if by_click:
            page.get_by_role("button", name=name).click()
        expect(page.get_by_role("button", name="Sign out")).to_be_visible()
        return page

    @staticmethod
    def to_the_office(page: Page, name: str) -> None:
        """Go to a place that stands behind the button *Office* at the top."""
        page.locator(".jc-office").click()
        page.locator(".jc-office-places").get_by_role("link", name=name).click()

    def until(self, holds: Callable[[], T | None], page: Page | None = None) -> T:
        """Wait until something holds that no expectation of the browser can say; gives it.

        With a ``page``, what it asks for on the way is passed on meanwhile (``page.route``)."""
        for _ in range(PATIENCE // 50):
            if found := holds():
                return found
            page.wait_for_timeout(50) if page else time.sleep(0.05)
        raise AssertionError("it never held")

    def mailed(self, to: str, pattern: str) -> str:
        """What stands in the newest mail to an address that has it."""

        def found() -> str:
            mails = sorted(self.server.folder.glob("post-room/*.eml"), key=lambda f: -f.stat().st_mtime)
            for mail in mails:
                text = mail.read_text("utf-8").replace("=\n", "").replace("=3D", "=")
                if to in text and (found := re.search(pattern, text.partition("\n\n")[2])):
                    return found[0]
            return ""

        return self.until(found)

    @staticmethod
    def _matters(kind: str, text: str) -> bool:
        """Errors matter, but for the answers that a test provokes on purpose (the browser logs every 4xx)."""
        return kind == "error" and "status of 4" not in text
