"""Texts with answers in braces: ``The consent is dated {consent.issued}.``"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from jolly_clerk.core.currency import CENT
from jolly_clerk.core.in_words import in_words, money_in
from jolly_clerk.core.rulebook.expressions import Expression, compile_expression
from jolly_clerk.core.rulebook.scope import Scope

_BRACE = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True, slots=True)
class Text:
    """A compiled text. ``fill`` puts the values in, in the words of :func:`jolly_clerk.core.in_words.say`; a choice is told by its title."""

    source: str
    pieces: tuple[str | Expression, ...]
    money_names: frozenset[str]
    choices: Mapping[str, Mapping[str, str]]
    coin: Decimal = CENT

    def fill(self, values: Mapping[str, Any]) -> str:
        """The text with its values; money has two decimals."""
        return "".join(p if isinstance(p, str) else self.said(p, values) for p in self.pieces)

    def said(self, piece: Expression, values: Mapping[str, Any]) -> str:
        """One answer in words."""
        value = piece.value(values)
        if isinstance(value, str) and piece.source in self.choices:
            return self.choices[piece.source].get(value, value)
        if piece.source in self.money_names and isinstance(value, Decimal):
            return money_in(value, self.coin)
        return in_words(value)


def compile_text(
    source: str,
    scope: Scope,
    money_names: frozenset[str] = frozenset(),
    choices: Mapping[str, Mapping[str, str]] | None = None,
    coin: Decimal = CENT,
) -> Text:
    """Compile a text; ``choices`` are the titles of the choices by question. Raises ExpressionError for a brace that names nothing."""
    pieces: list[str | Expression] = []
    at = 0
    for found in _BRACE.finditer(source):
        pieces += [source[at : found.start()], compile_expression(found[1], scope)]
        at = found.end()
    pieces.append(source[at:])
    return Text(source, tuple(p for p in pieces if p != ""), money_names, choices or {}, coin)
