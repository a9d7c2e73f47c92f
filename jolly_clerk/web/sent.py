"""What was sent of cases and drafts lately: the state from which the answer to the next change differs is at hand, and is not worked out again."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from typing import Final
from weakref import WeakKeyDictionary

from fastapi.responses import JSONResponse
from pydantic_core import from_json
from sqlalchemy import Engine

from jolly_clerk.core.values import Json
from jolly_clerk.office.office import Office

#: so many states are kept for an office, some 40 kB each
MOST = 300


class SentView:
    """A view of a revision as it was sent: JSON in bytes, with its ``digest``, which tells one state of a view from any other."""

    def __init__(self, revision: int, view: bytes) -> None:
        """``view`` is a JSON object without a digest."""
        self.revision = revision
        self.digest = hashlib.sha256(view).hexdigest()[:16]
        self.content = b'{"digest":"%b",%b' % (self.digest.encode(), view[1:])

    def read(self) -> Json:
        """The view as plain values; they are not kept, for they take ten times the room."""
        return from_json(self.content)


class Written(JSONResponse):
    """An answer that is JSON already."""

    def render(self, content: bytes) -> bytes:
        """As it is."""
        return content


class Lately:
    """The states that were sent last, by who saw what of which revision, for each office of this process."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._of: WeakKeyDictionary[Engine, OrderedDict[tuple[str, ...], SentView]] = WeakKeyDictionary()

    def keep(self, office: Office, what: tuple[str, ...], shown: SentView) -> None:
        """Keep a state; the one that was not asked for the longest goes."""
        with self._lock:
            kept = self._of.setdefault(office.engine, OrderedDict())
            kept[what] = shown
            kept.move_to_end(what)
            if len(kept) > MOST:
                kept.popitem(last=False)

    def find(self, office: Office, what: tuple[str, ...]) -> SentView | None:
        """The state that was sent last, None if it is not kept."""
        with self._lock:
            return self._of.get(office.engine, OrderedDict()).get(what)


LATELY: Final = Lately()
