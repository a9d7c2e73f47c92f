"""What ``make test`` leaves to the whole run: tests that are there, none that must always run, and all that is reached is reached without."""

from __future__ import annotations

import ast
import os
import unittest
from unittest import mock

from tests.helpers import ROOT
from tools import reach, run_tests


def named() -> set[str]:
    """Every test class with each of the tests of its module, as they are written: ``tests.core.test_time.Days.test_x``."""
    found = set()
    for path in (ROOT / "tests").rglob("test_*.py"):
        tree = ast.parse(path.read_text("utf-8"))
        module = ".".join(path.relative_to(ROOT).with_suffix("").parts)
        tests = [node.name for node in ast.walk(tree) if isinstance(node, ast.FunctionDef) and node.name.startswith("test")]
        found |= {f"{module}.{node.name}.{test}" for node in tree.body if isinstance(node, ast.ClassDef) for test in tests}
    return found


class Left(unittest.TestCase):
    def test_each_is_there_once_and_may_be_left(self) -> None:
        lines, there = reach.LEFT.read_text("utf-8").split(), named()
        self.assertEqual(len(lines), len(set(lines)))
        self.assertEqual([line for line in lines if line.removeprefix(reach.POSTGRES) not in there], [])
        self.assertEqual([line for line in lines if reach.ALWAYS.search(line)], [])
        folders = {line.rpartition(".test_")[0].rpartition(".test_")[0] for line in lines}
        self.assertEqual(folders, {"tests.browser", "postgresql:tests.office"})

    def test_a_run_takes_all_the_left_or_the_others(self) -> None:
        own = f"{__name__}.{type(self).__qualname__}"
        left = frozenset({f"{own}.test_each_is_there_once_and_may_be_left", f"postgresql:{own}.test_the_fewest_reach_all"})

        def taken(which: str, engine: str = "") -> set[str]:
            wanted = {run_tests.TAKEN: which} if which else {}
            with mock.patch.object(reach, "left", return_value=left), mock.patch.dict(os.environ, wanted):
                if not which:
                    os.environ.pop(run_tests.TAKEN, None)
                return {test.id() for test in run_tests.taken(engine + own)}

        self.assertEqual(taken("left"), {f"{own}.test_each_is_there_once_and_may_be_left"})
        self.assertEqual(taken("left", reach.POSTGRES), {f"{own}.test_the_fewest_reach_all"})
        for engine in ("", reach.POSTGRES):
            self.assertEqual(taken("small", engine) | taken("left", engine), taken("", engine))
            self.assertFalse(taken("small", engine) & taken("left", engine))

    def test_the_fewest_reach_all(self) -> None:
        reached = {"long": frozenset("abcd"), "short": frozenset("abc"), "other": frozenset("cd"), "same": frozenset("c")}
        took = {"long": 60.0, "short": 5.0, "other": 4.0, "same": 1.0}
        self.assertEqual(reach.fewest(reached, took), {"short", "other"})
        self.assertEqual(reach.fewest(reached, took, ("long",)), {"long"})
        self.assertEqual(reach.fewest(reached, took | {"short": 100.0, "other": 70.0}), {"long"})
        more = reached | {"alone": frozenset("x")}
        self.assertEqual(reach.fewest(more, took | {"alone": 900.0}), {"short", "other", "alone"})
        self.assertEqual(reach.fewest(more, took | {"alone": 900.0}, share=0.8), {"short", "other"})
        self.assertEqual(reach.fewest(reached, took, share=0.75), {"short"})
