"""What a rule looks at, in words: for the cell of a table."""

from __future__ import annotations

import ast
from datetime import date, datetime

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.in_words import short_day
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.reasons import Reasoner
from jolly_clerk.core.rulebook.telling import Glossary
from jolly_clerk.core.values import Value


def left_side(rule: Expression, values: Value, words: Glossary) -> str:
    """What a rule looks at, in words: the left side of its comparison, the first of several; nothing if it compares nothing."""
    compared = next((node for node in ast.walk(rule.tree) if isinstance(node, ast.Compare)), None)
    if compared is None:
        return ""
    reasoner = Reasoner(values, rule.functions, words)
    for side in (compared.left, *compared.comparators):
        value = reasoner.visit(side)
        if is_absent(value) or isinstance(side, ast.Constant):
            continue
        named = words.names.get(reasoner.key_of(side))
        if named and isinstance(value, str):
            return named.choices.get(value, value)
        if isinstance(value, date) and not isinstance(value, datetime):
            return short_day(value)
        return reasoner.plain(value, named.unit if named else "")
    return ""
