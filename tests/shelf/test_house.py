"""The house keeps its own rules: each module says what it does, nothing names a host, every public thing is explained."""

from __future__ import annotations

import ast
import functools
import re
import subprocess
import sys
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import get_args

from jolly_clerk.core import history as h
from jolly_clerk.core.dossier.answers import ANSWER_TYPES
from jolly_clerk.core.lifecycle import _FOLDERS
from jolly_clerk.core.roles import ROLES, Role
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.model import QuestionType
from jolly_clerk.core.states import STATES, State
from tests.helpers import ROOT

SOURCES = sorted((ROOT / "jolly_clerk").rglob("*.py"))


def public(tree: ast.Module) -> list[ast.FunctionDef | ast.ClassDef]:
    kinds = (ast.FunctionDef, ast.ClassDef)
    return [node for node in tree.body if isinstance(node, kinds) and not node.name.startswith("_")]


#: what is neither the core nor its surroundings that only carry values
REST = {"office", "web", "exchange", "letters"}
#: words that stand for money or for days of a case
MONEY = {
    "amount",
    "due",
    "paid",
    "prepaid",
    "over",
    "low",
    "high",
    "open",
    "kept",
    "fee",
    "fees",
    "account",
    "may_prepay",
    "still",
    "spent",
}
DAYS = {"limit_day", "limit_at", "due", "today", "target", "filed_at", "timedelta", "DAY", "calendar", "within"}
RECKONS = {"last_day", "add_working_days", "working_days_between", "applicant_last_day", "timedelta", "add_months"}
#: modules of the screen whose work it is to write values, or to read the names of places
TAKES_APART = {"say.ts", "lines.ts", "place.ts", "language.ts", "RowsField.tsx", "Answering.tsx"}
#: no module may be longer, but for the data of the demo and the migrations
LONGEST = 400
#: and no sheet of styles
LONGEST_STYLES = 250


def names_in(node: ast.AST) -> set[str]:
    """Every name and attribute within a node."""
    return {n.id for n in ast.walk(node) if isinstance(n, ast.Name)} | {
        n.attr for n in ast.walk(node) if isinstance(n, ast.Attribute)
    }


def is_text(node: ast.AST) -> bool:
    return isinstance(node, ast.JoinedStr) or (isinstance(node, ast.Constant) and isinstance(node.value, str))


def reckoned(tree: ast.AST) -> Iterator[str]:
    """Sums of money and arithmetic on dates in a module."""
    for node in ast.walk(tree):
        if isinstance(node, ast.BinOp) and isinstance(node.op, (ast.Add, ast.Sub, ast.Mult, ast.Div)):
            if not (is_text(node.left) or is_text(node.right)) and names_in(node) & (MONEY | DAYS):
                yield ast.unparse(node)
        elif isinstance(node, ast.Call):
            called = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if called in RECKONS or (called == "sum" and names_in(node) & MONEY):
                yield ast.unparse(node)


def compared(tree: ast.AST, attribute: str, words: set[str]) -> Iterator[str]:
    """The words that an attribute is compared with."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare) and any(getattr(n, "attr", "") == attribute for n in (node.left, *node.comparators)):
            inner = [c for other in (node.left, *node.comparators) for c in ast.walk(other) if isinstance(c, ast.Constant)]
            yield from (c.value for c in inner if c.value in words)


def states_compared(tree: ast.AST) -> Iterator[str]:
    """The states that are compared with by name."""
    yield from compared(tree, "state", set(STATES))


def circle(arrows: dict[Path, list[Path]]) -> list[str]:
    """One circle of imports, by file name; nothing if there is none."""
    done: set[Path] = set()

    def walk(at: Path, way: list[Path]) -> list[str]:
        if at in way:
            return [p.name for p in way[way.index(at) :]]
        if at in done:
            return []
        found = next((c for to in arrows[at] if (c := walk(to, [*way, at]))), [])
        done.add(at)
        return found

    return next((c for start in arrows if (c := walk(start, []))), [])


@functools.cache
def modules() -> list[tuple[Path, ast.Module]]:
    return [(p, ast.parse(p.read_text("utf-8"))) for p in SOURCES if p.name != "__init__.py" and "migrations" not in p.parts]


class House(unittest.TestCase):
    def test_every_module_says_in_its_first_line_what_it_does(self) -> None:
        self.assertGreater(len(SOURCES), 50)
        for path, tree in modules():
            with self.subTest(path.name):
                self.assertTrue((ast.get_docstring(tree) or "").strip())

    def test_everything_public_is_explained(self) -> None:
        for path, tree in modules():
            for node in public(tree):
                with self.subTest(f"{path.name}: {node.name}"):
                    self.assertTrue(ast.get_docstring(node))

    def test_the_core_never_asks_the_clock(self) -> None:
        for path, tree in modules():
            if "core" not in path.parts:
                continue
            calls = [n.func for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Attribute)]
            self.assertFalse({f.attr for f in calls} & {"now", "today", "utcnow"}, path)
            self.assertNotIn(
                "open", {n.func.id for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}, path
            )

    def test_money_is_never_a_float(self) -> None:
        for path, tree in modules():
            if "fees" in path.parts:
                self.assertFalse([n for n in ast.walk(tree) if isinstance(n, ast.Name) and n.id == "float"], path)

    def test_every_requirement_is_pinned(self) -> None:
        for name in ("requirements.txt", "requirements-dev.txt"):
            for line in (ROOT / name).read_text("utf-8").splitlines():
                self.assertTrue("==" in line or line.startswith("-r "), line)
                self.assertNotIn("://", line)

    def test_the_lock_file_names_no_host(self) -> None:
        self.assertNotIn('"resolved"', (ROOT / "frontend" / "package-lock.json").read_text("utf-8"))

    def test_no_money_and_no_dates_are_reckoned_outside_the_core(self) -> None:
        for path, tree in modules():
            if not REST & set(path.parts) or path.name in ("lifetimes.py", "calendar_file.py"):
                continue
            with self.subTest(str(path.relative_to(ROOT))):
                self.assertEqual(list(reckoned(tree)), [])

    def test_the_guard_sees_what_it_guards_against(self) -> None:
        for wrong in (
            "still = account.open + prepaid", "due = sum(line.amount for line in lines)", "x = case.limit_at + timedelta(days=3)",
            "d = calendar.add_working_days(day, 3)", "d = within.last_day(day, calendar)", "d = (due - today).days", "x = due * 2",
        ):  # fmt: skip
            self.assertNotEqual(list(reckoned(ast.parse(wrong))), [], wrong)
        for right in ("x = loaded.entries + 1", "t = a + 'text'", "n = 1 + sum(isinstance(e, X) for e in entries)"):
            self.assertEqual(list(reckoned(ast.parse(right))), [], right)

    def test_no_state_is_compared_with_a_literal_outside_the_core(self) -> None:
        for path, tree in modules():
            if not REST & set(path.parts):
                continue
            with self.subTest(str(path.relative_to(ROOT))):
                self.assertEqual(list(states_compared(tree)), [])
        self.assertEqual(list(states_compared(ast.parse("if a.state == 'Complete': pass"))), ["Complete"])
        self.assertEqual(list(states_compared(ast.parse("x = case.state in ('Filed', 'Draft')"))), ["Filed", "Draft"])

    def test_no_role_is_compared_with_a_literal_outside_its_table(self) -> None:
        for path, tree in modules():
            if REST & set(path.parts):
                self.assertEqual(list(compared(tree, "role", set(ROLES))), [], path)

    def test_the_screen_names_no_state_and_takes_no_string_of_a_view_apart(self) -> None:
        names = "|".join(STATES)
        for path in sorted((ROOT / "frontend" / "src").rglob("*.ts*")):
            text = path.read_text("utf-8")
            if path.name == "schema.d.ts":
                continue
            with self.subTest(str(path.relative_to(ROOT))):
                self.assertNotRegex(text, rf"[\"'`]({names})[\"'`]")
                self.assertNotRegex(text, r"role (===|!==) [\"'`]")
                self.assertNotRegex(text, r"Europe/|\.slice\(3\)")
                if path.name not in TAKES_APART:
                    self.assertNotRegex(text, r"\.split\(|\.replace\(|\.replaceAll\(\"[.:]|\.indexOf\(\"")

    def test_no_circle_in_the_front_end(self) -> None:
        base = ROOT / "frontend" / "src"
        arrows = {p: [] for p in base.rglob("*.ts*") if p.name != "schema.d.ts"}
        for path in arrows:
            for found in re.findall(r'(?:from|import) "(\.[^"]+)"', path.read_text("utf-8")):
                target = (path.parent / found).resolve()
                arrows[path] += [p for p in (target.with_suffix(".ts"), target.with_suffix(".tsx")) if p in arrows]
        self.assertGreater(sum(map(len, arrows.values())), 150)
        self.assertEqual(circle(arrows), [])

    def test_every_state_and_role_is_in_its_table(self) -> None:
        self.assertEqual(set(STATES), set(get_args(State)))
        people = set(get_args(Role)) - {"office", "payment terminal", "post room", "clock", "issuer"}
        self.assertEqual(set(ROLES), people)
        self.assertEqual(set(ANSWER_TYPES), set(get_args(QuestionType)))
        self.assertEqual({*types.ANSWER_TYPES, "rows"}, set(get_args(QuestionType)))

    def test_every_entry_of_a_history_is_folded_and_described(self) -> None:
        entries = {get_args(made.model_fields["what"].annotation)[0] for made in get_args(get_args(h.Entry)[0])}
        self.assertGreater(len(entries), 30)
        self.assertEqual(set(_FOLDERS), entries)
        formats = " ".join((ROOT / "docs" / "formats.md").read_text("utf-8").split())
        told = formats.partition("`what` is one of *")[2].partition("*")[0].split(", ")
        self.assertEqual(set(told), entries)

    def test_an_office_is_moved_with_all_its_tables(self) -> None:
        """A table of a module that the move does not load would stay behind."""
        asked = (
            "import jolly_clerk.office.keeping.moving; from jolly_clerk.store.tables import Base; print(*Base.metadata.tables)"
        )
        moved = subprocess.run([sys.executable, "-c", asked], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()
        store = ROOT / "jolly_clerk" / "store"
        named = {name for path in store.glob("*.py") for name in re.findall(r'__tablename__ = "(\w+)"', path.read_text("utf-8"))}
        self.assertGreater(len(named), 40)
        self.assertEqual(set(), named - set(moved))

    def test_no_module_is_too_long(self) -> None:
        for path in SOURCES:
            if "demo" not in path.parts and "migrations" not in path.parts:
                self.assertLessEqual(len(path.read_text("utf-8").splitlines()), LONGEST, path)

    def test_no_sheet_of_styles_is_too_long(self) -> None:
        for path in (ROOT / "frontend" / "src").rglob("*.css"):
            self.assertLessEqual(len(path.read_text("utf-8").splitlines()), LONGEST_STYLES, path.name)

    def test_no_colour_stands_in_a_component(self) -> None:
        for path in (ROOT / "frontend" / "src").rglob("*.tsx"):
            self.assertNotRegex(path.read_text("utf-8"), r"#[0-9a-f]{6}\b", path.name)
