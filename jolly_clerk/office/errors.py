"""Errors that a person can meet, each with the exact place and the way on."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core.moves import WhyNot
from jolly_clerk.core.say import _, say


class OfficeError(Exception):
    """Base: ``detail`` is a sentence for the person, ``place`` a ref like ``works.area``, ``reference`` a case that leads on."""

    title = _("This did not work")

    def __init__(self, detail: str, place: str = "", reasons: Sequence[WhyNot] = (), reference: str = "") -> None:
        super().__init__(detail)
        self.detail, self.place, self.reasons, self.reference = detail, place, tuple(reasons), reference


class NotAllowed(OfficeError):
    """Not this person's to do."""

    title = _("You may not do this")


class NotRecognised(NotAllowed):
    """A password that is not the one of this account."""

    title = _("This is not right")


class NotFound(OfficeError):
    """Nothing there, or nothing that this person may see."""

    title = _("Nothing is here")


class Stale(OfficeError):
    """Somebody else was faster; look again, then decide."""

    title = _("Somebody else changed this")


class NotReady(OfficeError):
    """Something stands in the way; ``reasons`` say what, each with its place."""

    title = _("Not yet")


class CodeWanted(NotReady):
    """A code was sent by text message and is asked for."""

    title = _("One more step")


class Leaving(OfficeError):
    """A step is ready and would fall with this one: it has to be taken back first; ``step`` is its number."""

    title = _("Something is about to leave")

    def __init__(self, step: int, what: str) -> None:
        super().__init__(say("{what} is ready and leaves soon. It has to be taken back before anything is changed.", what=what))
        self.step = step


class Invalid(OfficeError):
    """What was sent cannot be taken as it is."""

    title = _("This is not right yet")


class TooLarge(OfficeError):
    """More than can be taken at once."""

    title = _("This is too large")


class TooOften(OfficeError):
    """Tried too often of late; ``wait`` are the seconds until the next try."""

    title = _("Too many tries")

    def __init__(self, detail: str, wait: int) -> None:
        super().__init__(detail)
        self.wait = wait
