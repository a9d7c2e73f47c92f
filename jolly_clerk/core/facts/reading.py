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
#: the first version of the reader that keeps the words of every page and looks at pictures
THOROUGH_FROM = 5


class TextLine(Plain):
    """A run of text and where it stands: left, top, right, bottom as shares of the page as it is seen (0 to 1)."""

    page: int = Field(ge=1)
    text: str
    box: Box


class Hidden(TextLine):
    """Words that nobody sees on the page, and why: they are not drawn (hidden, covered, of the colour of the ground, on a layer that
    is switched off), off the sheet, or too small to be read."""

    why: Literal["not drawn", "off the sheet", "too small"]


class FormField(TextLine):
    """A field of a form that is filled in: ``text`` is its value, ``name`` what it is called; ``says`` is its own hint."""

    name: str
    says: str = ""
    kind: Literal["text", "choice", "tick"] = "text"


class Signed(Plain):
    """An embedded signature: who and when by its own word, and whether it covers the whole file as it is now."""

    who: str = ""
    at: str = ""
    covers: bool


class Comment(Plain):
    """Something that was written onto a page as a comment."""

    page: int
    text: str


class Zone(Plain):
    """Machine-readable lines of a travel document: as they were found, in which way, and which signs the check digits put right."""

    page: int
    box: Box
    lines: tuple[str, ...]
    source: Literal["text", "picture"]
    repaired: tuple[str, ...] = ()


class Face(Plain):
    """The faces in a picture. ``height`` is that of the head (chin to crown) as a share of the picture, ``box`` where the largest face
    is, ``ground`` how light the ground beside it is (0 to 1), ``even`` how even it is (0 to 1), ``sharp`` whether it is sharp."""

    count: int
    height: float = 0.0
    box: Box = (0.0, 0.0, 0.0, 0.0)
    ground: float = 0.0
    even: float = 0.0
    sharp: bool = True


class Look(Plain):
    """How a scanned page looks: dots an inch (0: not known), how far its lines are off the level in degrees, how it has to be turned
    to stand upright in degrees clockwise, and whether it is sharp."""

    dpi: int = 0
    skew: float = 0.0
    turn: Literal[0, 90, 180, 270] = 0
    sharp: bool = True


class Page(Plain):
    """One page: size in millimetres as it is seen (rotation applied; 0 where a picture does not say it), what is on it, the dots of a
    picture, and the language of its text where it is plain. ``trouble`` tells why this page alone cannot be read; ``bits`` is a hash
    of how it looks (256 bits and 16 levels of grey, hexadecimal), nearly the same for pages that look nearly the same. ``code`` is
    what a printed code (QR) on it says; ``ink`` is around all that is drawn, on a page of few words, where it was looked at."""

    no: int = Field(ge=1)
    width_mm: float
    height_mm: float
    content: Literal["text", "scan", "drawing", "blank"]
    words: int = 0
    pixels: tuple[int, int] = (0, 0)
    language: str = ""
    trouble: str = ""
    look: Look | None = None
    bits: str = ""
    code: str = ""
    ink: Box | None = None

    @property
    def sheet(self) -> str | None:
        """The standard sheet this page is, within 3 mm, whichever way it lies."""
        short, long = sorted((self.width_mm, self.height_mm))
        return next((n for n, (a, b) in SHEETS.items() if abs(short - a) <= 3 and abs(long - b) <= 3), None)

    @property
    def landscape(self) -> bool:
        """True if it is wider than high."""
        return self.width_mm > self.height_mm if self.width_mm else self.pixels[0] > self.pixels[1]

    def said(self) -> str:
        """``A3 landscape``, ``250 × 300 mm portrait``, or the dots of a picture whose size is not known."""
        if not self.width_mm:
            return say("{across} × {down} pixels", across=self.pixels[0], down=self.pixels[1])
        name = self.sheet or say(
            "{width_mm} × {height_mm} mm", width_mm=f"{self.width_mm:.0f}", height_mm=f"{self.height_mm:.0f}"
        )
        return f"{name} {'landscape' if self.landscape else 'portrait'}"


class PageText(Plain):
    """The text of one scanned page: its lines, how many words, its language where it is plain, and by how many degrees clockwise the
    sheet has to be turned to be read."""

    lines: tuple[TextLine, ...]
    words: int
    language: str
    turn: Literal[0, 90, 180, 270]


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
    ``hidden`` is text that nobody sees, ``fields`` are those of a form, ``xfa`` tells of a form that only its own program shows,
    ``launches`` that it can start a program, ``bounds`` are the sentences about what was left unread. ``scans`` tells how far the
    text of its scanned pages is: nothing to read, waiting, read, or no reader for it is installed; ``zones_unread`` that the
    glyphs are not installed by which passport lines in pictures are read. ``made`` and ``changed`` are instants
    by the word of ``program``.
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
    hidden: tuple[Hidden, ...] = ()
    fields: tuple[FormField, ...] = ()
    xfa: bool = False
    launches: bool = False
    bounds: tuple[str, ...] = ()
    signed: tuple[Signed, ...] = ()
    comments: tuple[Comment, ...] = ()
    made: str = ""
    changed: str = ""
    program: str = ""
    zones: tuple[Zone, ...] = ()
    face: Face | None = None
    scans: Literal["", "waiting", "read", "not installed"] = ""
    zones_unread: bool = False

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
    def thorough(self) -> bool:
        """True if its reader kept the words of every page and looked at pictures: only then is what was not found not there."""
        return self.reader.isdigit() and int(self.reader) >= THOROUGH_FROM and self.opens == "yes" and self.scans != "waiting"

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
