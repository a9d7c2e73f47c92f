"""What requirements, lines, registers and questions of a case are called, so that nothing is told by its name in the rulebook."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment


@dataclass(frozen=True, slots=True)
class Called:
    """Titles by the names of the rulebook; what has none is called by its name. ``label`` gives that of a question or a slot."""

    requirements: Mapping[str, str] = field(default_factory=dict)
    lines: Mapping[str, str] = field(default_factory=dict)
    registers: Mapping[str, str] = field(default_factory=dict)
    label: Callable[[str], str] = str

    def requirement(self, id_: str) -> str:
        """What a requirement is called."""
        return self.requirements.get(id_) or id_

    def place(self, ref: str) -> str:
        """What a question or a slot is called."""
        return self.label(ref)


NOTHING_CALLED = Called()


def called_in(a: Assessment) -> Called:
    """What everything in a case is called; requirements and lines that are no longer there by their names."""
    edition = a.rulebook.edition
    return Called(
        {r.id: r.title for r in a.requirements},
        {line.id: line.title for line in a.fees.lines},
        {name: register.title for name, register in edition.registers.items()},
        a.rulebook.label,
    )
