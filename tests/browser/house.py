"""The real server over a real SQLite file in a process of its own, and a browser that a person would use."""

from __future__ import annotations

import contextlib
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

from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Error, Page, Playwright, expect, sync_playwright

from tests.browser.cheaply import wait_cheaply
from tests.folders import new_folder
from tests.helpers import demo_folder

CHROMIUM = os.environ.get("JOLLY_CLERK_CHROMIUM", "/usr/bin/chromium")
#: switched off: what the driver of the browser asks for itself, since the last list is the one that counts, and the pages that a browser
#: keeps ready in each window for its own address line, which work at each page that is opened, though nobody types there
OFF = (
    "AvoidCorsURLLoaderRestartOnRedirect", "AvoidUnnecessaryBeforeUnloadCheckSync", "DestroyProfileOnBrowserClose", "HttpsUpgrades",
    "HttpsFirstBalancedModeAutoEnable", "MediaRouter", "NetworkTimeServiceQuerying", "OptimizationHints", "PaintHolding",
    "PreconnectToSearch", "ThirdPartyStoragePartitioning", "WebUIOmniboxAimPopup", "WebUIOmniboxFullPopup", "WebUIOmniboxPopup",
)  # fmt: skip
FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
    "--process-per-site",  # pages of one window share what they have compiled
    f"--disable-features={','.join(OFF)}",
)  # fmt: skip
ROOT = Path(__file__).resolve().parents[2]
#: how long a busy machine is waited for, in milliseconds
PATIENCE = 60_000
expect.set_options(timeout=PATIENCE)
wait_cheaply()
T = TypeVar("T")


def free_port() -> int:
    """The first free port of this process: mostly the same one, so that a browser keeps what it has compiled from there. It lies below
    those that the system gives to whoever calls out."""
    first = 21_000 + os.getpid() % 1_000 * 10
    for port in range(first, first + 5_000):
        with socket.socket() as tried, contextlib.suppress(OSError):
            tried.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            tried.bind(("127.0.0.1", port))
            return port
    raise RuntimeError("no port is free")


class Server:
    """``jolly-clerk serve`` on a free port of this machine."""

    process: Any

    def __init__(self, folder: Path, *options: str, demo: bool = True, settings: dict[str, str] | None = None) -> None:
        self.port = free_port()
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


#: a process that has done what each server does first (see :mod:`tests.browser.warm`) and forks one when it is asked for
FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(["tests.browser.warm"])


def _serve(words: list[str], environment: dict[str, str], said: str, leads: bool) -> None:
    if leads:
        os.setsid()
    os.chdir(ROOT)
    os.environ |= environment
    with Path(said).open("ab", 0) as file:
        os.dup2(file.fileno(), 1)
        os.dup2(file.fileno(), 2)
    from tests.browser.warm import COMMAND

    COMMAND(words)


class Forked(Server):
    """The same, forked from a process in which the program is imported already; what it says is kept."""

    #: whether it leads a group of processes, which can be killed with its readers
    leads = False

    def _begin(self, words: list[str], environment: dict[str, str]) -> None:
        self._said = new_folder() / "said"
        self.process = FORKS.Process(target=_serve, args=(words, environment, str(self._said), self.leads))
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


#: forgets what pages of an office kept in the browser
_EMPTY = """async () => {
  localStorage.clear();
  sessionStorage.clear();
  for (const { name } of await indexedDB.databases())
    await new Promise((done) => { indexedDB.deleteDatabase(name).onsuccess = done; });
}"""

#: signs in as the person of this name, and says whether that was done
_SIGN_IN = """async (name) => {
  const { people } = await (await fetch("/api/session")).json();
  const person = people.find((one) => one.name.includes(name)).id;
  const [headers, body] = [{ "Content-Type": "application/json" }, JSON.stringify({ person })];
  return (await fetch("/api/session/by-click", { method: "POST", headers, body })).ok;
}"""
#: goes to another place of the same office, and says whether it could
_GO = """(address) => {
  if (!address.startsWith(location.origin + "/") || address === location.href || !document.getElementById("root")) return false;
  history.pushState({ idx: (history.state?.idx ?? 0) + 1 }, "", address);
  dispatchEvent(new PopStateEvent("popstate", { state: history.state }));
  return true;
}"""


class Shared:
    """One browser for all browser tests that a process runs one after the other; each window of a test is a profile of its own."""

    playwright: Playwright | None = None
    browser: Browser | None = None
    #: windows that no test has, by width, height and scheme; the first page of each stays open, with nothing but a picture of its office,
    #: so that what was compiled of the front end is there for the next, and the second is the one that is used
    free: ClassVar[dict[tuple[int, int, str], list[BrowserContext]]] = {}

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
        cls.free = {}

    @classmethod
    def window(cls, width: int, height: int, scheme: str, address: str) -> Page:
        """The page of a window in which nobody is signed in. It may have been another test's before; nothing is left of that but the
        files of the front end, which the browser may keep for ever."""
        kept = cls.free.get((width, height, scheme))
        if kept:
            context = kept.pop()
        else:
            context = cls.open().new_context(
                viewport={"width": width, "height": height},
                color_scheme=scheme,  # type: ignore[arg-type]
                accept_downloads=True,
                reduced_motion="reduce",  # nothing is waited for that only moves
            )
            context.set_default_timeout(PATIENCE)
            context.new_page().goto(f"{address}/favicon.svg")
        page = context.pages[1] if len(context.pages) > 1 else context.new_page()
        if not page.url.startswith(f"{address}/"):
            page.goto(f"{address}/favicon.svg")
            page.evaluate(_EMPTY)
        return page

    @classmethod
    def give_back(cls, page: Page, width: int, height: int, scheme: str, address: str) -> None:
        """Keep its window for the next test. Whoever changes more of a page than is set back here closes it."""
        context = page.context
        context.set_offline(False)
        for other in context.pages[1:]:
            if other is not page:
                other.close()
        if not page.is_closed():
            page.unroute_all()
            cls._empty(page, address)
            if page.viewport_size != {"width": width, "height": height}:
                page.set_viewport_size({"width": width, "height": height})
        context.unroute_all()
        context.clear_cookies()
        cls.free.setdefault((width, height, scheme), []).append(context)

    @staticmethod
    def _empty(page: Page, address: str) -> None:
        """Forget what pages of an office kept in the browser; a page whose office is not there any more goes."""
        try:
            page.goto(f"{address}/favicon.svg")
            page.evaluate(_EMPTY)
        except Error:
            page.close()


def go(page: Page, address: str) -> None:
    """Show another place of the office on a page that shows one, as a link to it would: the page is not loaded anew."""
    if not page.evaluate(_GO, address):
        page.goto(address)


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

    def stranger(self, width: int = 1280, height: int = 800, scheme: str = "light", address: str = "") -> Page:
        """A new window of this office, or of the one at ``address``, in which nobody is signed in."""
        address = address or self.server.address
        page = Shared.window(width, height, scheme, address)
        self.addCleanup(Shared.give_back, page, width, height, scheme, address)
        for event, heard in (("pageerror", self._hear_error), ("console", self._hear_console)):
            page.on(event, heard)  # type: ignore[call-overload]
            self.addCleanup(page.remove_listener, event, heard)
        return page

    def _hear_error(self, error: Error) -> None:
        self.troubles.append(str(error))

    def _hear_console(self, said: ConsoleMessage) -> None:
        if self._matters(said.type, said.text):
            self.troubles.append(said.text)

    def come_in(
        self, name: str, width: int = 1280, height: int = 800, scheme: str = "light", by_click: bool = False, at: str = ""
    ) -> Page:
        """A new window in which this person is signed in: before it opens ``at`` a path, which spares a page, or ``by_click`` as a
        person would."""
        page = self.stranger(width, height, scheme)
        if not by_click:
            self.assertTrue(page.evaluate(_SIGN_IN, name))
        page.goto(self.server.address + at)
        if by_click:
            page.get_by_role("button", name=name).click()
        expect(page.get_by_role("button", name="Sign out", exact=True)).to_be_visible()
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
