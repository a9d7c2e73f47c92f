"""Run all tests with unittest and say, folder by folder, what ran."""

from __future__ import annotations

import sys
import time
import unittest
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


class Counted(unittest.TextTestResult):
    """Counts the tests of each folder, and how long each module took, what a class sets up included."""

    ran: Counter[str] = Counter()
    took: Counter[str] = Counter()
    latest = time.monotonic()

    def startTest(self, test: unittest.TestCase) -> None:
        super().startTest(test)
        parts = type(test).__module__.split(".")
        Counted.ran[parts[1] if len(parts) > 1 else "other"] += 1

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        now = time.monotonic()
        Counted.took[type(test).__module__] += now - Counted.latest
        Counted.latest = now


def main() -> int:
    sys.path.insert(0, str(ROOT))
    names = sys.argv[1:]
    loader = unittest.defaultTestLoader
    suite = loader.loadTestsFromNames(names) if names else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    began = time.monotonic()
    result = unittest.TextTestRunner(resultclass=Counted, verbosity=1).run(suite)
    for folder, count in sorted(Counted.ran.items()):
        print(f"  tests/{folder}: {count}")
    slowest = ", ".join(f"{module.removeprefix('tests.')} {seconds:.0f} s" for module, seconds in Counted.took.most_common(8))
    print(f"  longest: {slowest}")
    wrong = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"in {time.monotonic() - began:.0f} seconds")
    print(f"{result.testsRun - wrong - len(result.skipped)} passed, {wrong} failed, {len(result.skipped)} skipped")
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
