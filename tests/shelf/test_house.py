"""The house keeps its own rules: each module says what it does, nothing names a host, every public thing is explained."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path

from tests.helpers import ROOT

SOURCES = sorted((ROOT / "jolly_clerk").rglob("*.py"))


def public(tree: ast.Module) -> list[ast.FunctionDef | ast.ClassDef]:
    kinds = (ast.FunctionDef, ast.ClassDef)
    return [node for node in tree.body if isinstance(node, kinds) and not node.name.startswith("_")]


class House(unittest.TestCase):
    def modules(self) -> list[tuple[Path, ast.Module]]:
        return [(p, ast.parse(p.read_text("utf-8"))) for p in SOURCES if p.name != "__init__.py" and "migrations" not in p.parts]

    def test_every_module_says_in_its_first_line_what_it_does(self) -> None:
        self.assertGreater(len(SOURCES), 50)
        for path, tree in self.modules():
            with self.subTest(path.name):
                self.assertTrue((ast.get_docstring(tree) or "").strip())

    def test_everything_public_is_explained(self) -> None:
        for path, tree in self.modules():
            for node in public(tree):
                with self.subTest(f"{path.name}: {node.name}"):
                    self.assertTrue(ast.get_docstring(node))

    def test_the_core_never_asks_the_clock(self) -> None:
        for path, tree in self.modules():
            if "core" not in path.parts:
                continue
            calls = [n.func for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Attribute)]
            self.assertFalse({f.attr for f in calls} & {"now", "today", "utcnow"}, path)
            self.assertNotIn(
                "open", {n.func.id for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}, path
            )

    def test_money_is_never_a_float(self) -> None:
        for path, tree in self.modules():
            if "fees" in path.parts:
                self.assertFalse([n for n in ast.walk(tree) if isinstance(n, ast.Name) and n.id == "float"], path)

    def test_every_requirement_is_pinned(self) -> None:
        for name in ("requirements.txt", "requirements-dev.txt"):
            for line in (ROOT / name).read_text("utf-8").splitlines():
                self.assertTrue("==" in line or line.startswith("-r "), line)
                self.assertNotIn("://", line)

    def test_the_lock_file_names_no_host(self) -> None:
        self.assertNotIn('"resolved"', (ROOT / "frontend" / "package-lock.json").read_text("utf-8"))

    def test_no_colour_stands_in_a_component(self) -> None:
        for path in (ROOT / "frontend" / "src").rglob("*.tsx"):
            self.assertNotRegex(path.read_text("utf-8"), r"#[0-9a-f]{6}\b", path.name)
