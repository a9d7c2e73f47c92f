"""What each test reaches, and which tests may wait for the whole run since the others reach nearly the same.

    JOLLY_CLERK_REACH=build/reach python tools/run_tests.py tests.browser tests.office
    python tools/reach.py build/reach

The first notes what each test reaches, the second writes the list anew.

A browser test reaches functions of the front end that ran, requests by route and status, and views that axe looked at. An office
test on PostgreSQL reaches statements, by their text without values. ``make test`` runs, in few seconds, tests that together reach
three quarters of the one and nearly all of the other, and every test that is not known here yet; those in :data:`LEFT` run in the whole run,
as CI makes it. Tests of the core, of the office on SQLite, of routes, reading and rulebooks all run each time.
"""

from __future__ import annotations

import json
import os
import re
import sys
import time
import unittest
from collections.abc import Iterable, Mapping
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

ROOT = Path(__file__).resolve().parents[1]
#: names the folder in which each process notes what its tests reach
NOTED = "JOLLY_CLERK_REACH"
#: tests that ``make test`` leaves to the whole run, a line each; ``postgresql:`` stands before one that is left on that engine only
LEFT = ROOT / "tests" / "left.txt"
POSTGRES = "postgresql:"
#: of all that these tests reach ``make test`` reaches this share; the rest takes most of the time
SHARES = {"tests.browser.": 0.75, POSTGRES: 0.985}
#: never left: one filing from a blank form to its end, one by keyboard, one on a phone, a day's work by keyboard, and every main view
#: once, the officer's wide and light, the applicant's narrow and dark
ALWAYS = re.compile(
    r"journey\.WholeJourney|keyboard_and_phone|forty_cases|test_the_officers_places$|places_on_a_narrow_phone_in_the_dark$|"
    r"test_views.*(places_of|door)"
)
#: chunks of the front end that hold nothing but libraries
LIBRARIES = re.compile(r"/(library|pdf|Figures|TextField|TownMap|DatePickerInput|TimeInput|rolldown)[^/]*\.m?js$")
#: the values of a statement, several rows of them, and what an update sets
VALUES, ROWS, COLUMNS = re.compile(r"(%\(\w+\)s(::\w+)?(, )?)+"), re.compile(r"(\(\?\)(, )?)+"), re.compile(r"SET .*(?= WHERE)")
#: a name or number in a path, which stands for any other
NAMES = re.compile(r"/(?=[^/]*(\d|%|-[A-Z]$))[^/]+")


def left() -> frozenset[str]:
    """The tests that ``make test`` leaves out."""
    return frozenset(LEFT.read_text("utf-8").split()) if LEFT.exists() else frozenset()


class Reached(unittest.TestResult):
    """A result that notes what each test reaches."""

    def __init__(self, mark: str) -> None:
        super().__init__()
        self.mark = mark
        _listen()

    def startTest(self, test: unittest.TestCase) -> None:
        super().startTest(test)
        REACHED.clear()
        self.began = time.monotonic()

    def addSubTest(self, test: unittest.TestCase, subtest: unittest.TestCase, err: Any) -> None:
        super().addSubTest(test, subtest, err)
        if "tests.browser." in unittest.TestCase.id(test):
            REACHED.add(f"view {subtest._subDescription()}")  # type: ignore[attr-defined]

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        took = round(time.monotonic() - self.began, 2)
        line = {"test": self.mark + unittest.TestCase.id(test), "took": took, "reached": sorted(REACHED)}
        folder = Path(os.environ[NOTED])
        folder.mkdir(parents=True, exist_ok=True)
        with (folder / f"{os.getpid()}.jsonl").open("a", encoding="utf-8") as file:
            file.write(json.dumps(line) + "\n")


#: what the test that runs has reached
REACHED: set[str] = set()
_LISTENS: list[bool] = []


def _listen() -> None:
    """Hear, once in a process, what statements are sent to PostgreSQL and what runs in pages of the browser."""
    if _LISTENS:
        return
    _LISTENS.append(True)
    from playwright.sync_api import BrowserContext, Page
    from sqlalchemy import event
    from sqlalchemy.engine import Engine

    def statement(connection: Any, _cursor: object, text: str, *_: object) -> None:
        if connection.dialect.name == "postgresql" and " database " not in text:  # those of the tests have names of their own
            REACHED.add(COLUMNS.sub("SET", ROWS.sub("(?)", VALUES.sub("?", text))))

    event.listen(Engine, "before_cursor_execute", statement)

    opened = BrowserContext.new_page

    def new_page(self: BrowserContext) -> Page:
        page = opened(self)
        page.on("response", lambda answer: _answered(answer.request.method, answer.url, answer.status))
        session = self.new_cdp_session(page)
        session.send("Profiler.enable")
        session.send("Profiler.startPreciseCoverage", {"callCount": True, "detailed": False})
        for name in ("goto", "reload", "close"):
            setattr(page, name, partial(_before, page, session, getattr(page, name)))
        return page

    BrowserContext.new_page = new_page  # type: ignore[method-assign]


def _answered(method: str, url: str, status: int) -> None:
    path = urlsplit(url).path
    if path.startswith("/api/"):
        REACHED.add(f"{method} {NAMES.sub('/?', path)} {status}")


def _before(page: Any, session: Any, act: Any, *given: Any, **named: Any) -> Any:
    """Note which functions ran in a page, before it goes to another one."""
    if not page.is_closed():
        for script in session.send("Profiler.takePreciseCoverage")["result"]:
            if "/assets/" in script["url"] and not LIBRARIES.search(script["url"]):
                name = script["url"].rpartition("/")[2]
                ran = (f["ranges"][0] for f in script["functions"] if f["ranges"][0]["count"])
                REACHED.update(f"{name}:{function['startOffset']}" for function in ran)
    return act(*given, **named)


def fewest(
    reached: Mapping[str, frozenset[str]], took: Mapping[str, float], always: Iterable[str] = (), share: float = 1.0
) -> set[str]:
    """Tests that together reach so large a share of all that any of them reaches, in few seconds.

    The one that reaches most of what is missing for its time comes first; at the end each goes, the longest first, that is not needed.
    """

    def of(tests: Iterable[str]) -> frozenset[str]:
        return frozenset[str]().union(*(reached[test] for test in tests))

    everything = of(reached)
    chosen = kept = set(always)
    while len(there := of(chosen)) < share * len(everything):
        best = max(reached, key=lambda test: (len(reached[test] - there) / (took[test] + 0.1), test))
        chosen = chosen | {best}
    for test in sorted(chosen - kept, key=lambda test: -took[test]):
        if len(of(chosen - {test})) >= share * len(everything):
            chosen = chosen - {test}
    return chosen


def main() -> None:
    """Write the list of tests that are left to the whole run."""
    noted = [json.loads(line) for file in Path(sys.argv[1]).glob("*.jsonl") for line in file.read_text("utf-8").splitlines()]
    reached = {one["test"]: frozenset(one["reached"]) for one in noted}
    took = {one["test"]: one["took"] for one in noted}
    out: list[str] = []
    for mark, share in SHARES.items():
        some = {test: what for test, what in reached.items() if test.startswith(mark)}
        if some:
            chosen = fewest(some, took, filter(ALWAYS.search, some), share)
            out += sorted(some.keys() - chosen)
            what = [len(frozenset().union(*(some[test] for test in tests))) for tests in (chosen, some)]
            print(f"{mark} {len(chosen)} of {len(some)} tests reach {what[0]} of {what[1]} things,", end=" ")
            print(f"in {sum(took[test] for test in chosen):.0f} of {sum(took[test] for test in some):.0f} seconds")
    LEFT.write_text("\n".join(out) + "\n", "utf-8")


if __name__ == "__main__":
    main()
