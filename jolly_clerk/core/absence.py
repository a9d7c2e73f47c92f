"""The two kinds of absence a value can have: *none* (not asked) and *unknown* (asked, still open).

Both refuse every operation by raising :class:`Absent`. That lets a compiled rule run as plain
Python while everything is known, and fall back to the three-valued evaluator only when it is not.
"""

from __future__ import annotations

from typing import Any, NoReturn

from jolly_clerk.core.values import Value


class Absent(Exception):
    """An operation met a value that is not there; the slow evaluator decides what that means."""


class Absence:
    """One of the two absent values. Compare with ``is``, never with ``==``."""

    __slots__ = ("word",)

    def __init__(self, word: str) -> None:
        self.word = word

    def _refuse(self, *_: object) -> NoReturn:
        raise Absent(self.word)

    __bool__ = __len__ = __iter__ = __hash__ = _refuse
    __eq__ = __ne__ = __lt__ = __le__ = __gt__ = __ge__ = __contains__ = __getitem__ = _refuse
    __add__ = __radd__ = __sub__ = __rsub__ = __mul__ = __rmul__ = __neg__ = _refuse
    __truediv__ = __rtruediv__ = __floordiv__ = __rfloordiv__ = __mod__ = __rmod__ = _refuse

    def __getattr__(self, name: str) -> NoReturn:
        if name.startswith("_"):
            raise AttributeError(name)
        raise Absent(self.word)

    def __repr__(self) -> str:
        return f"<{self.word}>"

    def __copy__(self) -> Absence:
        return self

    def __deepcopy__(self, memo: object) -> Absence:
        return self


NONE: Any = Absence("none")
UNKNOWN: Any = Absence("unknown")


def is_absent(value: object) -> bool:
    """True for *none* and *unknown*."""
    return value is NONE or value is UNKNOWN


def truth(value: Value) -> Value:
    """Reduce a value to True, False or UNKNOWN: a bare *none* counts as false."""
    if value is True or value is False or value is UNKNOWN:
        return value
    return False if value is NONE else bool(value)
