"""Why a condition holds, or why it does not, in the words of the form; and amounts, whose branches have their reasons."""

from __future__ import annotations

import ast
from collections.abc import Mapping
from datetime import date, datetime
from typing import Any, Final

from jolly_clerk.core.absence import NONE, is_absent, truth
from jolly_clerk.core.in_words import all_of, in_words, one_of
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.evaluate import EACH
from jolly_clerk.core.rulebook.scope import dotted
from jolly_clerk.core.rulebook.telling import NO_WORDS, ORDER, Glossary, Named, Teller
from jolly_clerk.core.say import _, say

_OF_DAYS: Final[dict[str, str]] = {
    "=": _("{a} is {b}"), "≠": _("{a} is not {b}"), "<": _("{a} is before {b}"), "≤": _("{a} is not after {b}"),
    ">": _("{a} is after {b}"), "≥": _("{a} is not before {b}"),
}  # fmt: skip


def formula(tree: ast.expr, values: Mapping[str, Any], functions: Mapping[str, Function], words: Glossary = NO_WORDS) -> str:
    """An amount with its values put in."""
    return Reasoner(values, functions, words).tell(tree)


def reason(
    tree: ast.expr, values: Mapping[str, Any], functions: Mapping[str, Function], holds: bool, words: Glossary = NO_WORDS
) -> str:
    """Why a condition holds, or why it does not."""
    return Reasoner(values, functions, words).why(tree, holds)


class Reasoner(Teller):
    """Tells amounts and, for conditions, only what decides them."""

    def why(self, node: ast.expr, holds: bool) -> str:
        """Why a condition holds (or does not): only what decides it is told."""
        if isinstance(node, ast.BoolOp):
            return self.why_joined(node, holds)
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            return self.why(node.operand, not holds)
        if isinstance(node, ast.Compare):
            return self.why_compared(node, holds)
        if isinstance(node, ast.IfExp):
            test = truth(self.visit(node.test))
            return self.why(node.body if test is True else node.orelse, holds)
        if isinstance(node, ast.Call):
            return self.why_called(node, holds)
        if isinstance(node, (ast.Name, ast.Attribute)):
            return self.why_named(node, holds)
        return in_words(self.visit(node))

    def why_joined(self, node: ast.BoolOp, holds: bool) -> str:
        deciding = [n for n in node.values if (truth(self.visit(n)) is True) == holds]
        whole = isinstance(node.op, ast.And) == holds
        deciding = deciding if whole else deciding[:1]
        told = [self.none_of_them(deciding)] if holds is False and len(deciding) > 1 else []
        told = told if told and told[0] else [self.why(n, holds) for n in deciding]
        return all_of(list(dict.fromkeys(told))) if told else in_words(self.visit(node))

    def none_of_them(self, deciding: list[ast.expr]) -> str:
        """One sentence where an answer was compared with several choices and is none of them."""
        pairs = [n for n in deciding if isinstance(n, ast.Compare) and len(n.ops) == 1 and isinstance(n.ops[0], ast.Eq)]
        keys = {self.key_of(n.left) for n in pairs}
        named = self.words.names.get(next(iter(keys), ""))
        if len(pairs) != len(deciding) or len(keys) != 1 or named is None:
            return ""
        own = self.visit(pairs[0].left)
        others = [self.side_of(n.comparators[0], n.left) for n in pairs]
        return self.chosen(named, own, others) if isinstance(own, str) else ""

    def why_named(self, node: ast.expr, holds: bool) -> str:
        key, value = self.key_of(node), self.visit(node)
        named = self.words.names.get(key)
        if named is None:
            return in_words(value)
        if value is NONE:
            return say("“{label}” is not asked", label=named.label)
        if named.rule is not None and not is_absent(value):
            inner = Reasoner(self.values, {**named.functions, **self.functions}, self.words)  # its rule may call others
            inner.loops = self.loops
            return inner.why(named.rule, holds)
        return say("“{label}” is answered {value}", label=named.label, value=in_words(value))

    def why_compared(self, node: ast.Compare, holds: bool) -> str:
        told = []
        sides = [node.left, *node.comparators]
        for op, left, right in zip(node.ops, sides, sides[1:], strict=False):
            true = self.compared(op, self.visit(left), self.visit(right)) is True
            if true == holds:
                told.append(self.pair(op, left, right, true))
        return all_of(told if holds else told[:1]) or in_words(self.visit(node))

    def pair(self, op: ast.cmpop, left: ast.expr, right: ast.expr, true: bool) -> str:
        for side in (left, right):
            if self.visit(side) is NONE:
                return say("{what} is not asked", what=self.label_of(side) if dotted(side) else self.tell(side))
        if isinstance(op, (ast.In, ast.NotIn)):
            return self.membership(left, right, isinstance(op, ast.In) == true)
        own, other = self.visit(left), self.visit(right)
        named = self.words.names.get(self.key_of(left))
        equal = isinstance(op, (ast.Eq, ast.NotEq))
        if equal and named and isinstance(own, str):
            is_it = isinstance(op, ast.Eq) == true
            return self.chosen(named, own, [self.side_of(right, left)] if not is_it else [])
        sign = ORDER[type(op)][0 if true else 1]
        a, b = self.side(left), self.side(right, left)
        if isinstance(own, (date, datetime)) and isinstance(other, (date, datetime)):
            return say(_OF_DAYS[sign], a=a, b=b)
        return f"{a} {sign} {b}"

    def chosen(self, named: Named, own: str, others: list[str]) -> str:
        is_ = named.choices.get(own, own)
        if not others:
            return say("“{label}” is “{value}”", label=named.label, value=is_)
        return say("“{label}” is “{value}”, not {others}", label=named.label, value=is_, others=one_of(others))

    def membership(self, left: ast.expr, right: ast.expr, inside: bool) -> str:
        own, named = self.visit(left), self.words.names.get(self.key_of(left))
        listed = self.words.names.get(self.key_of(right))
        if listed is not None:  # a choice among several that were ticked
            said = listed.choices.get(str(own), in_words(own))
            if inside:
                return say("“{label}” names “{value}”", label=listed.label, value=said)
            return say("“{label}” does not name “{value}”", label=listed.label, value=said)
        if named and isinstance(own, str):
            others = [] if inside else [self.side_of(n, left) for n in getattr(right, "elts", [])]
            return self.chosen(named, own, others)
        word = say("is one of") if inside else say("is none of")
        return f"{self.side(left)} {word} {self.argument(right, self.visit(right))}"

    def side(self, node: ast.expr, other: ast.expr | None = None) -> str:
        """One side of a comparison: ``“Length over all” 9.2 m``."""
        key, value = self.key_of(node), self.visit(node)
        named = self.words.names.get(key)
        if named and dotted(node) and not is_absent(value):
            shown = f"“{named.choices.get(value, value)}”" if isinstance(value, str) else self.plain(value, named.unit)
            return f"“{named.label}” {shown}"
        if isinstance(node, ast.Constant) and other is not None:
            beside = self.words.names.get(self.key_of(other))
            return self.plain(value, beside.unit if beside else "")
        return self.tell(node, 1)

    def why_called(self, node: ast.Call, holds: bool) -> str:
        name = ast.unparse(node.func)
        if name == "asked":
            key = self.label_of(node.args[0])
            return say("{what} is asked", what=key) if holds else say("{what} is not asked", what=key)
        if name in ("any", "all") and len(node.args) == 1:
            return self.why_all(name, node.args[0], holds)
        told = self.call(node, 0)
        text = told.partition(" [")[2].removesuffix("]") or told
        return text if holds else say("not: {what}", what=text)

    def why_all(self, name: str, only: ast.expr, holds: bool) -> str:
        if isinstance(only, (ast.List, ast.Tuple)):
            join: ast.boolop = ast.Or() if name == "any" else ast.And()
            return self.why_joined(ast.BoolOp(join, list(only.elts)), holds)
        if isinstance(only, EACH):
            outer, loop = dict(self.part_of), only.generators[0]
            self.part_of[loop.target.id] = dotted(loop.iter) or ""  # type: ignore[attr-defined]
            what, where = self.described(only.elt), self.listed(loop.iter)
            if loop.ifs:
                where = f"{where} ({all_of([self.described(t) for t in loop.ifs])})"
            self.part_of = outer
        else:
            what, where = (
                say("{what} yes", what=self.label_of(only)),
                self.words.parts.get((dotted(only) or "").partition(".")[0], ""),
            )
            where = where or self.listed(only)
        told = {
            ("any", True): say("at least one of {where}: {what}", where=where, what=what),
            ("any", False): say("none of {where}: {what}", where=where, what=what),
            ("all", True): say("each of {where}: {what}", where=where, what=what),
            ("all", False): say("not each of {where}: {what}", where=where, what=what),
        }
        return told[(name, holds)]
