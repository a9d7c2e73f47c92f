"""The job itself, as pure functions and plain values: no clock, no file, no database, no network.

Five names are all that a program needs to ask what holds of a case:

- :func:`~jolly_clerk.core.rulebook.compiler.compile_edition` makes a rulebook of an edition, or names every fault in it.
- :class:`~jolly_clerk.core.dossier.model.Dossier` is what an applicant gave: answers, files, declarations, a signature.
- :class:`~jolly_clerk.core.history.History` is what happened since: entries and filed versions, oldest first.
- :class:`~jolly_clerk.core.known.Known` is what is known besides: the calendar, readings of the files, answers of registers.
- :func:`~jolly_clerk.core.assessment.assess` puts them together at one instant and gives an
  :class:`~jolly_clerk.core.assessment.Assessment`: what is left, the checklist with its reasons, fees, clock and moves.

    rulebook = compile_edition(edition)
    found = assess(rulebook, Dossier(answers={"works": {"area": "95.8"}}), History(), Known(calendar), now)
    [line.title for line in found.requirements if line.standing == "wanting"]
    found.fees.total("at filing").low          # Decimal, in the currency of the edition

``assess`` never raises for what an applicant gave: a faulty answer is a line of the checklist. Instants carry a zone; days are those of
the calendar's zone.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import assess
    from jolly_clerk.core.dossier.model import Dossier
    from jolly_clerk.core.history import History
    from jolly_clerk.core.known import Known
    from jolly_clerk.core.rulebook.compiler import compile_edition

__all__ = ["Dossier", "History", "Known", "assess", "compile_edition"]

_FROM = {
    "Dossier": "dossier.model",
    "History": "history",
    "Known": "known",
    "assess": "assessment",
    "compile_edition": "rulebook.compiler",
}


def __getattr__(name: str) -> object:
    """The public five, each loaded when it is first named: a reader of files needs none of them."""
    if name in _FROM:
        return getattr(import_module(f"jolly_clerk.core.{_FROM[name]}"), name)
    raise AttributeError(name)
