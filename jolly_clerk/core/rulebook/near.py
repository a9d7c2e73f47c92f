"""What somebody may have meant by a name that is not there."""

from __future__ import annotations

from collections.abc import Iterable

from jolly_clerk.core.say import say


def nearest(name: str, among: Iterable[str], least: int = 70) -> str | None:
    """The name most like this one; None if none is like it enough (``least`` of 100)."""
    from rapidfuzz import fuzz, process, utils

    best = process.extractOne(name, list(among), scorer=fuzz.ratio, score_cutoff=least, processor=utils.default_process)
    return str(best[0]) if best else None


def did_you_mean(name: str, among: Iterable[str], least: int = 70) -> str:
    """``; did you mean `length`?``, or nothing."""
    best = nearest(name, among, least)
    return say("; did you mean `{best}`?", best=best) if best else ""
