"""Conditions and amounts of a rulebook: parsed once, checked, typed, compiled.

The language is a small subset of Python's expression syntax (house rules, *Expressions in
rulebooks*). An :class:`Expression` runs as plain compiled Python while every value it meets is
known; when one is absent it is evaluated again by :mod:`jolly_clerk.core.rulebook.evaluate`,
which knows *none* and *unknown*.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from jolly_clerk.core.absence import NONE, Absent, truth
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.checker import Checker
from jolly_clerk.core.rulebook.complaints import other_type
from jolly_clerk.core.rulebook.evaluate import evaluate, trouble
from jolly_clerk.core.rulebook.functions import Function, count_of, sum_of
from jolly_clerk.core.rulebook.mending import before_reading, several_numbers, unreadable
from jolly_clerk.core.rulebook.scope import ExpressionError, Scope, dotted
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value

MOST_CHARACTERS = 4000


@dataclass(frozen=True, slots=True)
class Expression:
    """A compiled rule. ``reads`` are the dotted names it can look at, found without running it."""

    source: str
    gives: str
    reads: frozenset[str]
    tree: ast.expr
    fast: Callable[[Mapping[str, Any]], Any]
    functions: Mapping[str, Function]

    def value(self, values: Mapping[str, Any]) -> Value:
        """The value, or NONE or UNKNOWN. What cannot be computed (a division by zero) is UNKNOWN."""
        try:
            return self.fast(values)
        except (Absent, ArithmeticError, ValueError, TypeError, AttributeError):
            return evaluate(self.tree, values, self.functions)

    def trouble(self, values: Mapping[str, Any]) -> str:
        """Why it cannot be worked out though all is known; nothing if it can."""
        return trouble(self.tree, values, self.functions)

    def holds(self, values: Mapping[str, Any]) -> Value:
        """True, False or UNKNOWN: a bare *none* counts as false."""
        value = self.value(values)
        return value if value is True or value is False else truth(value)


class _WholeColumns(ast.NodeTransformer):
    """Takes ``stay.offers.price``, a column of a question with rows, for the list of its cells."""

    def __init__(self, scope: Scope) -> None:
        self.scope = scope

    def visit_Attribute(self, node: ast.Attribute) -> ast.expr:
        name = dotted(node)
        rows, _, column = (name or "").rpartition(".")
        if name in self.scope.names or rows not in self.scope.names or column not in self.scope.items.get(rows, {}):
            return node
        cells = ast.parse(f"[row_.{column} for row_ in {rows}]", mode="eval").body
        for inner in ast.walk(cells):
            if isinstance(inner, ast.expr):
                ast.copy_location(inner, node)
        return cells


def compile_expression(source: str, scope: Scope, wanted: str = types.ANY) -> Expression:
    """Parse, check and compile ``source``.

    ``wanted`` is the type that the place needs. Raises :class:`ExpressionError` with the column.
    """
    text = " ".join(source.split())
    if not text:
        raise ExpressionError(say("there is no rule here; write a condition or an amount"))
    if len(text) > MOST_CHARACTERS:
        raise ExpressionError(
            say(
                "this rule has {count} characters; at most {most_characters} may stand here",
                count=len(text),
                most_characters=MOST_CHARACTERS,
            )
        )
    if odd := before_reading(text):
        raise ExpressionError(odd)
    try:
        tree = ast.parse(text, mode="eval").body
    except (SyntaxError, ValueError, MemoryError, RecursionError) as error:
        raise ExpressionError(unreadable(text, scope.hints), getattr(error, "offset", 1) or 1) from None
    if isinstance(tree, ast.Tuple) and not text.startswith("("):
        raise ExpressionError(several_numbers(text))
    tree = _WholeColumns(scope).visit(tree)
    checker = Checker(text, scope)
    fast, gives = checker.visit(tree)
    if not types.fits(gives, wanted):
        raise ExpressionError(other_type(tree, wanted, gives))
    called = {n.func.id for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}
    functions = {name: f for name in called if (f := scope.function(name))}
    arguments = ast.arguments(args=[ast.arg("v")], posonlyargs=[], kwonlyargs=[], kw_defaults=[], defaults=[])
    program = ast.fix_missing_locations(ast.Expression(ast.Lambda(arguments, fast)))
    surroundings = {
        "__builtins__": {},
        "_NONE": NONE,
        "_a_sum": sum_of,
        "_a_count": count_of,
        "_a_min": min,
        "_a_max": max,
        "_a_any": any,
        "_a_all": all,
        "_tuple": tuple,
        **{f"_f_{name}": function.call for name, function in functions.items()},
        **checker.constants,
    }
    compiled = eval(compile(program, "<rule>", "eval"), surroundings)  # noqa: S307 - a tree of our own making
    return Expression(text, gives, frozenset(checker.reads), tree, compiled, functions)
