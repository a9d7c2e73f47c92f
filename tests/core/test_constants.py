"""Every constant of the shipped editions, moved by one unit of its last written place up and down, makes an example fail."""

from __future__ import annotations

import contextlib
import copy
import re
import unittest
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from typing import Any
from unittest.mock import patch

from pydantic import ValidationError

from jolly_clerk.core.rulebook import checked, texts, types
from jolly_clerk.core.rulebook.compiled import Rulebook, RulebookFaults
from jolly_clerk.core.rulebook.compiler import compile_edition
from jolly_clerk.core.rulebook.examples import Gives
from jolly_clerk.core.rulebook.expressions import Expression, compile_expression
from jolly_clerk.core.rulebook.model import SHEETS, Edition
from jolly_clerk.core.rulebook.scope import Scope
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.trying import asserted, said_in, try_example, try_examples
from jolly_clerk.shelf.nodes import read_nodes
from jolly_clerk.shelf.rulebooks import SHIPPED, calendar_beside, editions_in, read_rulebook_file

#: where an edition writes constants, and which keys under them are words, not rules
PLACES = (
    "fees", "changes", "clock", "way_in", "pathways", "documents", "either", "must", "agree", "values", "tables", "scales",
    "curves", "lists", "refunds", "parts",
    "prerequisites", "lanes", "declarations", "after_grant",
)  # fmt: skip
WORDS = {"title", "says", "help", "article", "because", "ask", "otherwise", "id", "slot", "line", "near", "withdrawn_article"}
WORDS |= {"out_of_scope_article", "text", "declare", "beside", "at", "places", "unit", "options", "register"}
#: how a blank form is laid out on paper
WORDS |= {"form"}
#: bounds of what may be typed are no rule of the job
BOUNDS = {"at_most", "at_least", "decimals", "default"}
#: what rules look up: a number that is moved there changes them, though not a word of theirs
LOOKED_UP = {"tables", "scales", "curves"}
NUMBER = re.compile(r"(?<![\w.\-])\d+(?:\.\d+)?(?![\w.])|(?<=\d:)\d+(?!\w)")
Path_ = tuple[str | int, ...]


def constants(value: Any, path: Path_ = ()) -> Iterator[tuple[Path_, str, tuple[int, int]]]:
    """Every number in the rules of an edition: its path, the text it stands in, and where in the text."""
    if isinstance(value, dict):
        for key, inner in value.items():
            typed_bound = path[:1] == ("parts",) and key in BOUNDS
            if key not in WORDS and not typed_bound and (path or key in PLACES):
                yield from constants(inner, (*path, key))
    elif isinstance(value, list):
        for n, inner in enumerate(value):
            yield from constants(inner, (*path, n))
    elif isinstance(value, str):
        if path[-1] == "sheet":
            yield path, value, (1, len(value))
        for found in NUMBER.finditer(value):
            yield path, value, found.span()


def moved(text: str, span: tuple[int, int], by: int) -> str:
    """The text with one number moved by one unit of its last place."""
    number = Decimal(text[span[0] : span[1]])
    unit = Decimal(1).scaleb(int(number.as_tuple().exponent))
    return f"{text[: span[0]]}{number + by * unit}{text[span[1] :]}"


def put(whole: Any, path: Path_, text: str) -> Any:
    """A copy of an edition with another text at one place; what is not on the way is shared."""
    made = copy.copy(whole)
    made[path[0]] = put(made[path[0]], path[1:], text) if len(path) > 1 else text  # type: ignore[index]
    return made


#: what gives a thing of an edition its name
NAMES = ("id", "slot", "line", "declare")


def words_of(gives: Gives) -> set[str]:
    """All names in what an example says must come out."""
    return {word for what in said_in(gives) for word in (*re.split(r"[ .]", what), what.rpartition(" ")[2])}


class Shaken:
    """One edition with its examples and their variants. Those are tried first that say something about what a constant belongs to, and
    of these the example that caught something last, since the next constant lies near."""

    def __init__(self, file: Path) -> None:
        self.nodes = read_nodes(file.read_text("utf-8"), str(file))
        self.calendar: Calendar = calendar_beside(file, "quillhaven")
        examples = Edition.model_validate(self.nodes.value).examples
        self.said = {
            (e.id, n): words_of(gives) for e in examples for n, gives in enumerate((e.gives, *(v.gives for v in e.also)))
        }
        self.order = list(self.said)
        self.caught, self.refused, self.survived = 0, 0, [""][:0]
        self.compiled: dict[tuple[object, ...], Expression] = {}

    def shake(self) -> None:
        free = not self.nodes.value.get("fees")  # nothing is paid there, so no example can tell of the time to pay
        for path, text, span in constants(self.nodes.value):
            if free and path[:2] == ("clock", "pay"):
                continue
            for by in (1, -1):
                other = moved(text, span, by)
                with contextlib.nullcontext() if path[0] in LOOKED_UP else self.compiling_once():
                    how = self.fails(put(self.nodes.value, path, other), self.names_on(path))
                self.note(how, f"{'.'.join(map(str, path))}: {text} as {other}")

    @contextlib.contextmanager
    def compiling_once(self) -> Iterator[None]:
        """Meanwhile a rule that was compiled before, over the same names, is not compiled again: one number moved leaves the others."""

        def compiled(source: str, scope: Scope, wanted: str = types.ANY) -> Expression:
            key = (source, wanted, frozenset(scope.names.items()), repr(scope.items))
            if key not in self.compiled:
                self.compiled[key] = compile_expression(source, scope, wanted)
            return self.compiled[key]

        with patch.object(checked, "compile_expression", compiled), patch.object(texts, "compile_expression", compiled):
            yield

    def note(self, how: str, what: str) -> None:
        self.caught += how == "caught"
        self.refused += how == "refused"
        if not how:
            self.survived.append(what)

    def names_on(self, path: Path_) -> set[str]:
        """The keys on the way to a constant and the names of what lies there."""
        at, found = self.nodes.value, {step for step in path if isinstance(step, str)}
        for step in path:
            at = at[step]
            found |= {at[name] for name in NAMES if isinstance(at.get(name), str)} if isinstance(at, dict) else set()
        return found

    def fails(self, whole: Any, names: set[str]) -> str:
        try:
            rulebook = compile_edition(Edition.model_validate(whole))
        except (ValidationError, RulebookFaults, KeyError):
            return "refused"
        examples = {e.id: e for e in rulebook.edition.examples}
        for id_, variant in sorted(self.order, key=lambda one: -len(self.said[one] & names)):
            if next(iter(try_example(rulebook, self.calendar, examples[id_], variant)), None):
                self.order.sort(key=lambda one: (one[0] != id_, one != (id_, variant)))
                return "caught"
        return ""


class OneEdition(unittest.TestCase):
    """One edition shaken; each shipped one has a class of its own below, so that they run beside each other."""

    file: Path

    def test_each_moved_by_one_unit_makes_an_example_fail(self) -> None:
        edition = Shaken(self.file)
        edition.shake()
        print(f"{self.file.parent.name} {self.file.stem}: {edition.caught} constants moved made an example fail, ", end="")
        print(f"{edition.refused} were refused by the check, {len(edition.survived)} went unseen")
        self.assertEqual(edition.survived, [], self.file.name)
        short = edition.nodes.value.get("on") == "permit"
        self.assertGreater(edition.caught, 10 if short else 30 if self.file.parent.name == "CP" else 90)


for _file in editions_in(SHIPPED):
    _name = f"Constants{_file.parent.name}{_file.stem.replace('-', '')}"
    globals()[_name] = type(_name, (OneEdition,), {"file": _file, "__module__": __name__})
del OneEdition


class Moving(unittest.TestCase):
    def test_a_number_is_moved_in_its_last_place(self) -> None:
        self.assertEqual(moved("works.distance <= 30.0", (18, 22), 1), "works.distance <= 30.1")
        self.assertEqual(moved("10 working days", (0, 2), -1), "9 working days")
        self.assertEqual(moved("60.00", (0, 5), -1), "59.99")
        self.assertEqual(sorted(SHEETS)[3], "A3")


def everything(rulebook: Rulebook) -> set[str]:
    """All that an example must say something about."""
    e = rulebook.edition
    found = {f"fee {line.line}" for line in e.fees} | {f"standing {m.id}" for m in e.must} | {f"standing {a.id}" for a in e.agree}
    found |= {f"standing documents.{s.slot}" for s in e.documents} | {f"way in {b.id}" for b in e.way_in}
    found |= (
        {f"standing {p.id}" for p in e.prerequisites}
        | {f"standing declarations.{d.declare}" for d in e.declarations}
        | {f"standing {group.id}" for group in e.either}
    )
    found |= {f"pathway {p.id}" for p in e.pathways} | {"standing signature", "reminders"}
    found |= {f"limit {step}" for step in ("check", "answers", "decision")}
    if e.step:
        found |= {"does does", "does by itself", *(["does back"] if e.step.back else []), *(f"does {day}" for day in e.step.days)}
        found |= {f"does {day}" for day, said in (("starts", e.step.from_), ("until", e.step.until)) if said}
    if not e.fees:
        return found
    return found | {"standing fee.at_filing", "lapses", "limit payment", "refund withdrawn", "refund out of scope"}


class Examples(unittest.TestCase):
    def test_all_come_out(self) -> None:
        for file in editions_in(SHIPPED):
            rulebook = read_rulebook_file(file).rulebook
            found = [str(miss) for miss in try_examples(rulebook, calendar_beside(file, "quillhaven"))]
            self.assertEqual(found, [], file.name)

    def test_everything_that_a_rule_decides_is_asserted(self) -> None:
        for file in editions_in(SHIPPED):
            rulebook = read_rulebook_file(file).rulebook
            told = {re.sub(r"\.\d+$", "", what) for what in asserted(rulebook)}
            self.assertEqual(everything(rulebook) - told, set(), file.name)

    def test_a_wrong_example_is_named_with_what_was_found(self) -> None:
        file = SHIPPED / "BW" / "2026-07-01.yaml"
        text = file.read_text("utf-8").replace("permit: 489.50", "permit: 489.51", 1)
        rulebook = compile_edition(Edition.model_validate(read_nodes(text, "x").value))
        told = [str(miss) for miss in try_examples(rulebook, calendar_beside(file, "quillhaven"))]
        self.assertEqual(told, ["workshop-roof: fee permit should be 489.51, and is 489.50"])
