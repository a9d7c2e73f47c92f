"""What a short filing on a permit does, ready to run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.steps import Moved, Step
from jolly_clerk.core.rulebook.texts import Text


@dataclass(frozen=True, slots=True)
class CompiledStep:
    """A step with its rules and texts compiled; ``asked_by`` is the question that names the permit."""

    step: Step
    asked_by: str
    starts: Expression | None = None
    until: Expression | None = None
    days: Mapping[Moved, Expression] = field(default_factory=dict)
    sets: tuple[tuple[Text, Text], ...] = ()
    back: Expression | None = None
