"""What a rule may name, and the complaint when it may not."""

from __future__ import annotations

import ast
from collections.abc import Mapping
from dataclasses import dataclass, field

from jolly_clerk.core.rulebook.functions import BUILT_IN, Function
from jolly_clerk.core.rulebook.mending import NO_HINTS, Hints


class ExpressionError(ValueError):
    """An expression that may not stand in a rulebook: what is wrong and what would be right.

    ``column`` counts from 1 within the expression's own text.
    """

    def __init__(self, message: str, column: int = 1) -> None:
        super().__init__(message)
        self.column = column


@dataclass(frozen=True, slots=True)
class Scope:
    """What an expression may name.

    ``names`` maps a dotted name to its type; ``items`` maps a repeating part to the types of its
    questions; ``functions`` are the rulebook's tables, beside the built-in functions; ``hints`` is for
    messages alone.
    """

    names: Mapping[str, str]
    items: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    functions: Mapping[str, Function] = field(default_factory=dict)
    hints: Hints = NO_HINTS

    def function(self, name: str) -> Function | None:
        """The function called ``name``, if there is one."""
        return self.functions.get(name) or BUILT_IN.get(name)


def dotted(node: ast.expr) -> str | None:
    """``a.b.c`` for a chain of attributes on a name, else None."""
    parts: list[str] = []
    while isinstance(node, ast.Attribute):
        parts.append(node.attr)
        node = node.value
    if not isinstance(node, ast.Name):
        return None
    return ".".join([node.id, *reversed(parts)])
