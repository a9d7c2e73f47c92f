"""What the tests of one process share, since each has an office of its own: statements are compiled once for all engines of a kind, and an
edition once for all offices. Both depend on nothing but what they are made of."""

from __future__ import annotations

import functools
from typing import Any

from sqlalchemy import Engine

from jolly_clerk.office.rules import rulebooks
from jolly_clerk.store import database

_FIRST: dict[str, Engine] = {}
_create_engine = database.create_engine


def _like_the_first(*args: Any, **settings: Any) -> Engine:
    """An engine with the dialect of the first of its kind, and with what was compiled for that."""
    engine = _create_engine(*args, **settings)
    first = _FIRST.setdefault(engine.dialect.name, engine)
    engine.dialect = engine.pool._dialect = first.dialect  # type: ignore[assignment]
    engine._compiled_cache = first._compiled_cache
    return engine


def share() -> None:
    """Share from now on; calling it again changes nothing."""
    if database.create_engine is not _like_the_first:  # type: ignore[comparison-overlap]
        database.create_engine = _like_the_first  # type: ignore[assignment]
        rulebooks.read_rulebook = functools.lru_cache(200)(rulebooks.read_rulebook)
