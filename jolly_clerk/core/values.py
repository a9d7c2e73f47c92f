"""Names for what has no one type: answers as they came, values of the rule language, plain JSON.

Each is read, once, where it comes in: :mod:`jolly_clerk.core.dossier.answers` makes values of raw answers, and
:mod:`jolly_clerk.core.rulebook.expressions` computes with values.
"""

from __future__ import annotations

from typing import Any, TypeAlias

#: an answer as a browser, a register or a rulebook gave it: text, a number, yes or no, a list of texts, rows; nothing is checked yet
Raw: TypeAlias = Any
#: a value of the rule language: bool, Decimal, date, datetime, text, a tuple, an item of a part, or one of the absent values
Value: TypeAlias = Any
#: what JSON can hold
Json: TypeAlias = Any
