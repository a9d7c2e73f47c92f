"""Run all tests with unittest, on all cores, and say, folder by folder, what ran.

    python tools/run_tests.py                       the small run, as make test does (see tools/reach.py)
    python tools/run_tests.py tests.core            one folder
    python tools/run_tests.py tests.core.test_time  one module, class or test
    python tools/run_tests.py -j 1 ...              in this process, one after the other
    python tools/run_tests.py --engine sqlite ...   without PostgreSQL, with which the tests of the office run as well
    python tools/run_tests.py --whole               everything
    python tools/run_tests.py --left                only what the small run leaves out

Each test class is a unit of work; the longest of the last run come first. A class runs whole in one process, so what it
prepares once serves all its tests. Nothing that changes is shared between processes but the demo data, which are laid before and copied.
A browser test waits on a real clock, so one or two that fail beside the others are tried again alone, and told as such.
"""

from __future__ import annotations

import argparse
import contextlib
import gc
import io
import json
import multiprocessing
import os
import shutil
import sys
import tempfile
import time
import unittest
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, ProcessPoolExecutor, wait
from dataclasses import dataclass, field
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bench.pace import Pace  # noqa: E402
from tests import BETWEEN, at_end, postgres  # noqa: E402
from tools import reach  # noqa: E402

#: seconds that each class took in the last run on this machine; only the order of work hangs on it
TIMES = ROOT / "build" / "test-times.json"
#: bytes that have to be free in memory before temporary folders are put there
ROOM = 4_000_000_000
#: so many classes of browser tests may be tried again by themselves
MOST_AGAIN = 2
#: so many classes that need no demo are taken while it is laid
EARLY = 6
#: seconds after which a run tells how fast the machine was meanwhile
LONG = 60
#: what is not in the list of times yet: browser tests first, for they are the longest
GUESS = {"browser": 60.0, "web": 20.0, "office": 10.0, "demo": 30.0}


@dataclass
class Ran:
    """What came of one test class: how many tests, what failed in words, what was skipped, what it printed, how long it took."""

    unit: str
    count: int = 0
    wrong: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)
    printed: str = ""
    took: float = 0.0


def units(names: Sequence[str]) -> list[str]:
    """The test classes (or single tests) that these names stand for; without names all."""
    loader = unittest.defaultTestLoader
    found: dict[str, None] = {}
    for name in names or ["tests"]:
        path = ROOT / name.replace(".", "/")
        suite = loader.discover(str(path), top_level_dir=str(ROOT)) if path.is_dir() else loader.loadTestsFromName(name)
        for test in flat(suite):
            if isinstance(test, unittest.loader._FailedTest):  # type: ignore[attr-defined]
                raise SystemExit(f"{test.id()}: {test._exception}")
            single = name.endswith(test.id().rpartition(".")[2])
            found[test.id() if single else test.id().rpartition(".")[0]] = None
    return list(found)


def flat(suite: unittest.TestSuite | unittest.TestCase) -> Iterator[unittest.TestCase]:
    """Every test of a suite."""
    if isinstance(suite, unittest.TestCase):
        yield suite
        return
    for inner in suite:
        yield from flat(inner)


#: stands before a class that is tried with PostgreSQL
POSTGRES = reach.POSTGRES
#: tells all processes of a run which tests it takes: ``small`` all but those that are left to the whole run, ``left`` only those
TAKEN = "JOLLY_CLERK_TAKEN"
#: set where everything must run
WHOLE = "JOLLY_CLERK_WHOLE"
#: set where the tests on PostgreSQL must not be left out
NEEDED = "JOLLY_CLERK_NEEDS_POSTGRES"
#: the folders whose tests are tried on both engines
ON_BOTH = ("tests.office.",)


def run(unit: str) -> Ran:
    """Run one class in this process."""
    if not unit.startswith("tests.browser.") and (house := sys.modules.get("tests.browser.house")):
        house.Shared.close()
    began, printed = time.monotonic(), io.StringIO()
    os.environ.pop(postgres.ENGINE, None)
    if unit.startswith(POSTGRES):
        os.environ[postgres.ENGINE] = "postgresql"
    with contextlib.redirect_stdout(printed):
        result = reach.Reached(_mark(unit)) if reach.NOTED in os.environ else unittest.TestResult()
        unittest.TestSuite(taken(unit)).run(result)
        unittest.case.doModuleCleanups()
    if folders := sys.modules.get("tests.folders"):
        folders.clear_folders()
    ran = Ran(unit, result.testsRun, printed=printed.getvalue(), took=time.monotonic() - began)
    ran.wrong = [f"{test.id()}\n{text}" for test, text in (*result.failures, *result.errors)]
    ran.wrong += [f"{test.id()}: succeeded, though it was expected to fail" for test in result.unexpectedSuccesses]
    ran.skipped = [f"{test.id()}: {why}" for test, why in result.skipped]
    return ran


def _mark(unit: str) -> str:
    return POSTGRES if unit.startswith(POSTGRES) else ""


def taken(unit: str) -> list[unittest.TestCase]:
    """The tests of a class that are for its engine and that this run takes."""
    mark = _mark(unit)
    tests = flat(unittest.defaultTestLoader.loadTestsFromName(unit.removeprefix(POSTGRES)))
    own = [test for test in tests if not _is(test, "sqlite_only" if mark else "postgres_only")]
    if not (which := os.environ.get(TAKEN)):
        return own
    left = reach.left()
    return [test for test in own if (mark + unittest.TestCase.id(test) in left) is (which == "left")]


def _has_office(unit: str) -> bool:
    """True if the tests of a class have an office of the engine that is tried."""
    from tests.helpers import OfficeTest

    return any(isinstance(test, OfficeTest) for test in flat(unittest.defaultTestLoader.loadTestsFromName(unit)))


def _is(test: unittest.TestCase, mark: str) -> bool:
    return any(getattr(what, mark, False) for what in (test, getattr(test, test._testMethodName, None)))


def begin() -> None:
    """What each process does first; they are forked once all tests are found, so that what those import is there. Temporary offices lie in
    memory where there is room, since each write of theirs is synced. Rubbish is looked for less often, since there is much that stays."""
    os.environ.setdefault("JOLLY_CLERK_READER_NICE", "0")  # what is read beside busy tests would never come
    os.environ.setdefault("JOLLY_CLERK_READER_WALL", "20")  # and it comes late where the machine has much else to do
    os.environ.setdefault("JOLLY_CLERK_READER_PAGE_SECONDS", "60")
    gc.set_threshold(50_000, 20, 50)
    memory = Path("/dev/shm")  # noqa: S108
    if memory.is_dir() and os.access(memory, os.W_OK) and shutil.disk_usage(memory).free > ROOM:
        os.environ["TMPDIR"] = tempfile.tempdir = str(memory)
    if helpers := sys.modules.get("tests.helpers"):
        at_end(helpers.SHARED_READERS.end)


def all_of(todo: Sequence[str], jobs: int) -> Iterator[Ran]:
    """Run classes on so many processes, each told as soon as it is done."""
    if jobs == 1 or len(todo) == 1:
        yield from map(run, todo)
        return
    gc.collect()
    gc.freeze()  # what the processes have in common stays so
    with ProcessPoolExecutor(jobs, multiprocessing.get_context("fork"), begin) as pool:
        waiting = {pool.submit(run, unit) for unit in todo}
        while waiting:
            done, waiting = wait(waiting, return_when=FIRST_COMPLETED)
            for future in done:
                yield future.result()


def once_more(all_ran: list[Ran]) -> Iterator[Ran]:
    """Browser tests that failed while the machine was full, each by itself; what failed before is printed, and it no longer counts.

    Only if they are few: more is no accident. A test of anything but the browser is never tried twice.
    """
    again = [ran for ran in all_ran if ran.wrong and ran.unit.startswith("tests.browser.")]
    for ran in again if len(again) <= MOST_AGAIN else ():
        all_ran.remove(ran)
        yield run(ran.unit)


def times() -> dict[str, float]:
    """How long each class took in the last run; nothing if it was never run here."""
    try:
        return dict(json.loads(TIMES.read_text("utf-8")))
    except (OSError, ValueError):
        return {}


def in_turn(tried: Sequence[str]) -> list[str]:
    """The order of work: while the first class lays the demo on a fresh machine, the other processes take some that need none."""
    if not tried or (ROOT / "build" / "demo-read").exists():
        return list(tried)
    early = [unit for unit in tried[1:] if unit.startswith("tests.web.")][:EARLY]
    return [tried[0], *early, *(unit for unit in tried[1:] if unit not in early)]


def told(all_ran: Sequence[Ran], seconds: float, slower: float) -> int:
    """Print what ran and what failed, and how much ``slower`` than a quiet one the machine was (0: not known); returns how many failed."""
    folders, modules = Counter[str](), Counter[str]()
    for ran in all_ran:
        parts = ran.unit.removeprefix(POSTGRES).split(".")
        if ran.unit.startswith(POSTGRES):
            parts[1] = f"{parts[1]} on PostgreSQL"
        folders[parts[1] if len(parts) > 1 else "other"] += ran.count
        modules[".".join(parts[1:3])] += ran.took  # type: ignore[assignment]
    for folder, count in sorted(folders.items()):
        print(f"  tests/{folder}: {count}")
    print("  longest: " + ", ".join(f"{module} {took:.0f} s" for module, took in modules.most_common(10)))
    for line in (line for ran in all_ran for line in ran.skipped):
        print(f"  left out: {line}")
    wrong = [line for ran in all_ran for line in ran.wrong]
    for line in wrong:
        print(f"\nFAILED {line}")
    skipped = sum(len(ran.skipped) for ran in all_ran)
    count = sum(ran.count for ran in all_ran)
    print(f"in {seconds:.0f} seconds, {sum(ran.took for ran in all_ran):.0f} seconds of tests")
    if slower:
        print(
            f"  the machine took {slower:.1f} times as long as a quiet one, which needs some {seconds / slower / 60:.0f} minutes"
        )
    failed = len({line.partition("\n")[0].partition(" ")[0] for line in wrong})
    print(f"{count - failed - skipped} passed, {failed} failed, {skipped} skipped")
    return failed


def main() -> int:
    """Run what the arguments name; 0 if all passed and something ran."""
    parser = argparse.ArgumentParser(description="Run the tests.")
    parser.add_argument("-j", "--jobs", type=int, default=(os.cpu_count() or 1) + 1)  # a browser waits now and then
    parser.add_argument("--engine", choices=("both", "sqlite", "postgresql"), default="both")
    some = parser.add_mutually_exclusive_group()
    some.add_argument("--whole", action="store_true", default=WHOLE in os.environ)
    some.add_argument("--left", action="store_true")
    parser.add_argument("names", nargs="*")
    asked = parser.parse_args()
    begin()
    os.environ.pop(TAKEN, None)
    if asked.left or not (asked.whole or asked.names):
        os.environ[TAKEN] = "left" if asked.left else "small"
    os.chdir(ROOT)
    shared = tempfile.TemporaryDirectory(prefix="jolly-clerk-between-")
    os.environ[BETWEEN] = shared.name
    began, before = time.monotonic(), times()
    todo = units(asked.names)
    tried = [] if asked.engine == "postgresql" else list(todo)
    both = [unit for unit in todo if (unit.startswith(ON_BOTH) or asked.engine == "postgresql") and _has_office(unit)]
    all_ran: list[Ran] = []
    pace = Pace()
    with pace, postgres.server() if asked.engine != "sqlite" and both else contextlib.nullcontext("") as socket:
        if socket:
            os.environ[postgres.SOCKET] = socket
            tried += [POSTGRES + unit for unit in both]
        elif asked.engine != "sqlite" and both:
            print(f"  left out: {len(both)} classes on PostgreSQL, which is not installed here (apt-get install postgresql)")
        if TAKEN in os.environ:
            tried = [unit for unit in tried if taken(unit)]
        tried.sort(key=lambda unit: -before.get(unit, GUESS.get(unit.split(".")[1], 1.0)))
        for ran in all_of(in_turn(tried), asked.jobs):
            all_ran.append(ran)
            print(f"{'ok    ' if not ran.wrong else 'FAILED'} {ran.unit} ({ran.count} in {ran.took:.1f} s)", flush=True)
            for wrong in ran.wrong:
                print("    " + wrong.strip().replace("\n", "\n    "), flush=True)
            if ran.printed.strip():
                print("    " + ran.printed.strip().replace("\n", "\n    "), flush=True)
        for ran in once_more(all_ran):
            all_ran.append(ran)
            print(
                f"{'alone ' if not ran.wrong else 'FAILED'} {ran.unit} ({ran.count} in {ran.took:.1f} s, tried again by itself)",
                flush=True,
            )
        took = time.monotonic() - began
        slower = pace.between(began, began + took) if took > LONG else 0.0
    if os.environ.get(TAKEN) == "small":
        on_postgres = sum(test.startswith(POSTGRES) for test in reach.left())
        print(f"  left to make whole: {len(reach.left()) - on_postgres} tests in the browser, {on_postgres} on PostgreSQL")
    failed = told(sorted(all_ran, key=lambda ran: ran.unit), took, slower)
    TIMES.parent.mkdir(exist_ok=True)
    TIMES.write_text(json.dumps(before | {ran.unit: round(ran.took, 2) for ran in all_ran}, indent=0), "utf-8")
    missing = (
        bool(os.environ.get(NEEDED))
        and any(unit.startswith(ON_BOTH) for unit in todo)
        and not any(ran.unit.startswith(POSTGRES) for ran in all_ran)
    )
    if missing and asked.engine != "sqlite":
        print(f"PostgreSQL is not installed, and {NEEDED} asks for it")
    return 1 if failed or not all_ran or (missing and asked.engine != "sqlite") else 0


if __name__ == "__main__":
    sys.exit(main())
