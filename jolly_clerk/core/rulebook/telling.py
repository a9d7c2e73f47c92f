"""Workings: a rule with its values put in, in the words of the form, so that the printed sum is the sum.

An amount is told as a formula that can be worked out again: numbers with their units, ``+ − × ÷``, brackets, *the higher of*, *the
lower of*, ``% of``. What a number is stands after it in square brackets: ``9.2 m [Length over all] × 4.20 [Rate for each metre: Inner
quay, Leisure; art. 7(1)]``. A condition is told as the reason why it holds, or why it does not.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from typing import Any, Final

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent, truth
from jolly_clerk.core.in_words import all_of, in_words, number, one_of
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.evaluate import EACH, Evaluator
from jolly_clerk.core.rulebook.functions import AGGREGATES
from jolly_clerk.core.rulebook.said_functions import SAID
from jolly_clerk.core.rulebook.scope import dotted
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things
from jolly_clerk.core.values import Value


@dataclass(frozen=True, slots=True)
class Named:
    """What a name is in words: its label, its unit, the titles of its choices, and for a computed answer its own rule, with the functions
    that it calls."""

    label: str
    unit: str = ""
    choices: Mapping[str, str] = field(default_factory=dict)
    rule: ast.expr | None = None
    functions: Mapping[str, Function] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Glossary:
    """The words of an edition for a working: names by their dotted form, parts by their id, and how a looked-up value is told.

    ``lookups`` maps a table, scale or curve to a function of the values it was asked with.
    """

    names: Mapping[str, Named] = field(default_factory=dict)
    parts: Mapping[str, str] = field(default_factory=dict)
    lookups: Mapping[str, Callable[[list[Any], list[str]], str]] = field(default_factory=dict)


NO_WORDS: Final = Glossary()
_SIGNS: Final[dict[type, tuple[str, int]]] = {ast.Add: ("+", 1), ast.Sub: ("−", 1), ast.Mult: ("×", 2), ast.Div: ("÷", 2)}
#: how two values compare, and how they do if that does not hold
ORDER: Final[dict[type, tuple[str, str]]] = {
    ast.Eq: ("=", "≠"), ast.NotEq: ("≠", "="), ast.Lt: ("<", "≥"), ast.LtE: ("≤", ">"), ast.Gt: (">", "≤"), ast.GtE: ("≥", "<"),
}  # fmt: skip
_OF_CASE: Final[dict[str, str]] = {
    "case.filed": _("the filing day"), "case.today": _("today"), "case.issued": _("the day of issue"),
    "case.extensions": _("times that more time was given"),
}  # fmt: skip


class Teller(Evaluator):
    """Says an expression with values instead of names; each name is explained where it first stands."""

    def __init__(self, values: Mapping[str, Any], functions: Mapping[str, Function], words: Glossary) -> None:
        super().__init__(values, functions)
        self.words = words
        self.explained: set[str] = set()
        self.part_of: dict[str, str] = {}

    def why(self, node: ast.expr, holds: bool) -> str:
        """Why a condition holds, or why it does not."""
        raise NotImplementedError

    def tell(self, node: ast.expr, above: int = 0) -> str:
        """An amount or a day; ``above`` is the rank of the operation around it, for brackets."""
        if isinstance(node, ast.BinOp):
            return self.joined_by(node, above)
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
            return f"−{self.tell(node.operand, 3)}"
        if isinstance(node, ast.IfExp):
            return self.branch(node, above)
        if isinstance(node, ast.Call):
            return self.call(node, above)
        if isinstance(node, (ast.Name, ast.Attribute)):
            return self.name(node)
        if isinstance(node, (ast.List, ast.Tuple)):
            return ", ".join(self.tell(n) for n in node.elts)
        if isinstance(node, (ast.Compare, ast.BoolOp, ast.UnaryOp)):
            return in_words(self.visit(node))
        return self.plain(self.visit(node))

    def plain(self, value: Value, unit: str = "") -> str:
        """A value by itself, with its unit."""
        text = in_words(value)
        return f"{text} {unit}" if unit and isinstance(value, Decimal) else text

    def joined_by(self, node: ast.BinOp, above: int) -> str:
        value = self.visit(node)
        if type(node.op) not in _SIGNS:
            told = say("{a} ÷ {b}, whole ones") if isinstance(node.op, ast.FloorDiv) else say("rest of {a} ÷ {b}")
            return self.noted(value, told.format(a=self.tell(node.left, 2), b=self.tell(node.right, 3)))
        sign, rank = _SIGNS[type(node.op)]
        left, right = self.tell(node.left, rank), self.tell(node.right, rank + 1)
        if right.startswith("−") and rank == 1:
            sign, right = ("−" if sign == "+" else "+"), right[1:]
        text = f"{left} {sign} {right}"
        return f"({text})" if rank < above else text

    def branch(self, node: ast.IfExp, above: int) -> str:
        test = truth(self.visit(node.test))
        if test is UNKNOWN:
            return in_words(UNKNOWN)
        told = self.tell(node.body if test else node.orelse, above)
        return f"{told} [{say('since {why}', why=self.why(node.test, bool(test)))}]"

    def noted(self, value: Value, note: str, unit: str = "") -> str:
        """A value and, in square brackets, what it is."""
        text = self.plain(value, unit)
        return f"{text} [{note}]" if note and note != text else text

    def name(self, node: ast.expr) -> str:
        value, key = self.visit(node), self.key_of(node)
        if key in _OF_CASE:
            return say("{what} {value}", what=say(_OF_CASE[key]), value=in_words(value))
        named = self.words.names.get(key)
        if named is None:
            return self.plain(value)
        if isinstance(value, str) and value in named.choices:
            return f"“{named.choices[value]}”"
        if key in self.explained or isinstance(value, (date, str)):
            return self.plain(value, named.unit)
        self.explained.add(key)
        return self.noted(value, named.label, named.unit)

    def key_of(self, node: ast.expr) -> str:
        """The name of the edition that is meant: ``owners.share`` for ``o.share`` within a loop over the owners."""
        name = dotted(node) or ""
        head, point, rest = name.partition(".")
        return f"{self.part_of[head]}{point}{rest}" if head in self.part_of else name

    def call(self, node: ast.Call, above: int) -> str:
        name, value = ast.unparse(node.func), self.visit(node)
        if is_absent(value):
            return in_words(value)
        if name == "asked":
            return in_words(value)
        if name in ("min", "max", "sum", "count") or name in AGGREGATES:
            return self.aggregated(name, node, value, above)
        given = [self.visit(argument) for argument in node.args]
        told = [self.argument(argument, v) for argument, v in zip(node.args, given, strict=True)]
        if name in self.words.lookups:
            titles = [self.title_of(argument, v) for argument, v in zip(node.args, given, strict=True)]
            return self.noted(value, self.words.lookups[name](given, titles))
        if name in self.functions and name not in SAID:
            return self.noted(value, f"{name.replace('_', ' ')}: {', '.join(told)}")
        said = SAID[name]
        said = said[min(len(told), len(said)) - 1] if isinstance(said, tuple) else said
        return self.noted(value, say(said, **{"abc"[n]: text for n, text in enumerate(told[:3])})) if said else in_words(value)

    def argument(self, node: ast.expr, value: Value) -> str:
        """What stands in the brackets of a function."""
        if isinstance(value, (list, tuple)):
            shown = ", ".join(in_words(v) for v in value[:60] if not isinstance(v, dict))
            return shown or things(len(value), "row")
        named = self.words.names.get(self.key_of(node))
        if named and isinstance(value, (date, datetime)):
            return f"“{named.label}” {in_words(value)}"
        return self.tell(node)

    def title_of(self, node: ast.expr, value: Value) -> str:
        """What a table was asked with: the title of a choice, or the value with its unit."""
        named = self.words.names.get(self.key_of(node))
        if named and isinstance(value, str):
            return named.choices.get(value, value)
        return self.tell(node)

    def aggregated(self, name: str, node: ast.Call, value: Value, above: int) -> str:
        if name in ("any", "all"):
            return in_words(value)
        if name == "count":
            return self.noted(value, self.counted(node.args[0]))
        told = self.told_members(node)
        if len(told) == 1:
            return told[0]
        if not told:
            return self.plain(value)
        if name == "sum":
            added = told[0] + "".join(f" − {t[1:]}" if t.startswith("−") else f" + {t}" for t in told[1:])
            return f"({added})" if above > 1 or (above and len(told) > 1) else added
        ends = {"max": (say("the higher of"), say("the highest of")), "min": (say("the lower of"), say("the lowest of"))}[name]
        return f"({ends[len(told) > 2]} {all_of(told)})" if above else f"{ends[len(told) > 2]} {all_of(told)}"

    def told_members(self, node: ast.Call) -> list[str]:
        """What is added up or compared, each told by itself; what is not asked is left out."""
        only = node.args[0]
        if len(node.args) > 1:
            return [self.tell(a, 1) for a in node.args if self.visit(a) is not NONE]
        if isinstance(only, (ast.List, ast.Tuple)):
            return [self.tell(a, 1) for a in only.elts if self.visit(a) is not NONE]
        if isinstance(only, EACH):
            return self.over_each(only)
        key, members = self.key_of(only), self.visit(only)
        if is_absent(members):
            return []
        named = self.words.names.get(key)
        unit = named.unit if named else ""
        told = [self.plain(v, unit) for v in members if not is_absent(v)]
        if named and told and isinstance(next(iter(members)), Decimal) and key not in self.explained:
            self.explained.add(key)
            told[0] = f"{told[0]} [{named.label}]"
        return told

    def over_each(self, node: ast.GeneratorExp | ast.ListComp) -> list[str]:
        """The members of ``expression for letter in list``, each with its own values put in."""
        found: list[str] = []
        outer, parts = dict(self.loops), dict(self.part_of)
        self.walk(node, 0, found)
        self.loops, self.part_of = outer, parts
        return found

    def walk(self, node: ast.GeneratorExp | ast.ListComp, depth: int, found: list[str]) -> None:
        if depth == len(node.generators):
            if not is_absent(self.visit(node.elt)):
                found.append(self.tell(node.elt, 1))
            return
        loop = node.generators[depth]
        items = self.visit(loop.iter)
        letter = loop.target.id  # type: ignore[attr-defined]
        self.part_of[letter] = dotted(loop.iter) or letter
        for item in () if is_absent(items) else items:
            if is_absent(item):
                continue
            self.loops[letter] = item
            if all(truth(self.visit(t)) is True for t in loop.ifs):
                self.walk(node, depth + 1, found)

    def counted(self, node: ast.expr) -> str:
        """What is counted: ``The owners``, ``The owners: “Is a minor” yes``."""
        if isinstance(node, EACH):
            outer = dict(self.part_of)
            loop = node.generators[0]
            self.part_of[loop.target.id] = dotted(loop.iter) or ""  # type: ignore[attr-defined]
            tests = [self.described(t) for t in loop.ifs]
            said = self.listed(loop.iter)
            self.part_of = outer
            return f"{said}: {all_of(tests)}" if tests else said
        return self.listed(node)

    def listed(self, node: ast.expr) -> str:
        name = dotted(node) or ""
        named = self.words.names.get(name)
        return self.words.parts.get(name) or (named.label if named else say("how many there are"))

    def described(self, node: ast.expr) -> str:
        """A condition on each of several, without its values: ``“Length” > 7 m``."""
        if isinstance(node, ast.BoolOp):
            parts = [self.described(n) for n in node.values]
            return all_of(parts) if isinstance(node.op, ast.And) else one_of(parts)
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            return say("not {what}", what=self.described(node.operand))
        if isinstance(node, ast.Compare) and len(node.ops) == 1:
            left, right = node.left, node.comparators[0]
            if isinstance(node.ops[0], (ast.In, ast.NotIn)):
                word = say("one of") if isinstance(node.ops[0], ast.In) else say("none of")
                return f"{self.label_of(left)} {word} {self.side_of(right, left)}"
            return f"{self.label_of(left)} {ORDER[type(node.ops[0])][0]} {self.side_of(right, left)}"
        if isinstance(node, (ast.Name, ast.Attribute)):
            return say("{what} yes", what=self.label_of(node))
        return say("what is asked of each holds")

    def label_of(self, node: ast.expr) -> str:
        named = self.words.names.get(self.key_of(node))
        return f"“{named.label}”" if named else say("it")

    def side_of(self, node: ast.expr, other: ast.expr) -> str:
        named = self.words.names.get(self.key_of(other))
        if isinstance(node, ast.Constant) and named:
            return (
                f"“{named.choices.get(str(node.value), node.value)}”"
                if isinstance(node.value, str)
                else self.plain(self.visit(node), named.unit)
            )
        if isinstance(node, (ast.List, ast.Tuple)) and named:
            return ", ".join(self.side_of(n, other) for n in node.elts)
        return self.label_of(node) if dotted(node) else self.tell(node)


def shown(value: Decimal, decimals: int) -> str:
    """A number for a working: with its decimals, but not with more than four beyond the coin; a cut one ends in *…*."""
    most = decimals + 4
    exponent = value.normalize().as_tuple().exponent
    if isinstance(exponent, int) and -exponent > most:
        return f"{number(value.quantize(Decimal(1).scaleb(-most), 'ROUND_DOWN'))}…"
    return number(
        value.normalize() if isinstance(exponent, int) and -exponent > decimals else value.quantize(Decimal(1).scaleb(-decimals))
    )
