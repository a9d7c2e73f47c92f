"""What was read from one file, as a plain value; made by ``jolly_clerk.reading``, used by the core."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import cached_property
from typing import Literal, TypeVar, cast

from pydantic import Field

from jolly_clerk.core.dossier.model import Plain, Sha256
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.rulebook.model import SHEETS
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things

Found = TypeVar("Found")
Opens = Literal["yes", "damaged", "password", "empty", "not read", "being read"]


Box = tuple[float, float, float, float]


class TextLine(Plain):
    """A run of text and where it stands: left, top, right, bottom as shares of the page as it is seen (0 to 1)."""

    page: int = Field(ge=1)
    text: str
    box: Box


class Page(Plain):
    """One page: size in millimetres as it is seen (rotation applied), what is on it, the dots of a picture, and the language
    of its text where it is plain."""

    no: int = Field(ge=1)
    width_mm: float
    height_mm: float
    content: Literal["text", "scan", "drawing", "blank"]
    words: int = 0
    pixels: tuple[int, int] = (0, 0)
    language: str = ""

    @property
    def sheet(self) -> str | None:
        """The standard sheet this page is, within 3 mm, whichever way it lies."""
        short, long = sorted((self.width_mm, self.height_mm))
        return next((n for n, (a, b) in SHEETS.items() if abs(short - a) <= 3 and abs(long - b) <= 3), None)

    @property
    def landscape(self) -> bool:
        """True if it is wider than high."""
        return self.width_mm > self.height_mm

    def said(self) -> str:
        """``A3 landscape`` or ``250 × 300 mm``."""
        name = self.sheet or say(
            "{width_mm} × {height_mm} mm", width_mm=f"{self.width_mm:.0f}", height_mm=f"{self.height_mm:.0f}"
        )
        return f"{name} {'landscape' if self.landscape else 'portrait'}"


class ClaimsRead(Plain):
    """Claims counted in a text, and what is wrong with them in words."""

    count: int
    independent: int
    multiple: int
    faults: tuple[str, ...] = ()


class Reading(Plain):
    """All that was read from a file. ``type`` is the true type by content.

    ``lines`` is its text with places, ``signatures`` counts embedded ones, ``scripts`` tells that it can
    run something, ``embedded`` names the files inside it, ``claims`` are counted where its paragraphs are numbered from 1.
    """

    sha256: Sha256
    reader: str
    size: int
    type: str
    opens: Opens
    trouble: str = ""
    pages: tuple[Page, ...] = ()
    encrypted: bool = False
    lines: tuple[TextLine, ...] = ()
    signatures: int = 0
    scripts: bool = False
    embedded: tuple[str, ...] = ()
    claims: ClaimsRead | None = None

    @cached_property
    def found(self) -> dict[Hashable, object]:
        """Facts found in it, by what was looked for: a reading never changes, so each is looked for once."""
        return {}

    def once(self, key: Hashable, look: Callable[[], Found]) -> Found:
        """What ``look`` found for ``key``, looked for the first time only."""
        if key not in self.found:
            self.found[key] = look()
        return cast(Found, self.found[key])

    @property
    def words(self) -> int:
        """How many words it has."""
        return sum(page.words for page in self.pages)

    def said(self) -> str:
        """One line about the file: ``A4 landscape, 2 sheets, text``."""
        if self.opens != "yes":
            return {
                "damaged": say("cannot be opened"),
                "password": say("locked by a password"),
                "empty": "empty",
                "not read": "not read",
                "being read": say("is being read"),
            }[self.opens]
        if not self.pages:
            return self.type
        kinds = {p.said() for p in self.pages}
        count = things(len(self.pages), "sheet")
        contents = {p.content for p in self.pages}
        size = kinds.pop() if len(kinds) == 1 else say("several sheet sizes")
        return f"{size}, {count}, {all_of(sorted(contents))}"
