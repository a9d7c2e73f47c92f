"""The least that can be filed, where an edition takes filings with gaps."""

from __future__ import annotations

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.profiles import NAMES


def least_to_file(rulebook: Rulebook) -> frozenset[str]:
    """The places without which nothing is filed: who files, what the case is called after, and the signature."""
    title = (piece for piece in rulebook.case_title.pieces if isinstance(piece, Expression))
    called_after = {ref for piece in title for ref in piece.reads if ref in rulebook.questions}
    who = {ref for ref, asked in rulebook.questions.items() if asked.question.profile in NAMES}
    return frozenset(called_after | who | {"signature"})
