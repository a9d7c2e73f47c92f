"""What was read from one file, as a plain value; made by ``jolly_clerk.reading``, used by the core."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from jolly_clerk.core.dossier.model import Plain, Sha256
from jolly_clerk.core.rulebook.model import SHEETS

Opens = Literal["yes", "damaged", "password", "empty", "not read"]


class Page(Plain):
    """One page: size in millimetres as it is seen (rotation applied), and what is on it."""

    no: int = Field(ge=1)
    width_mm: float
    height_mm: float
    content: Literal["text", "scan", "drawing", "blank"]
    words: int = 0

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
        name = self.sheet or f"{self.width_mm:.0f} × {self.height_mm:.0f} mm"
        return f"{name} {'landscape' if self.landscape else 'portrait'}"


class Reading(Plain):
    """All that was read from a file. ``type`` is the true type by content, ``named`` the one its name claims."""

    sha256: Sha256
    reader: str
    size: int
    type: str
    opens: Opens
    trouble: str = ""
    pages: tuple[Page, ...] = ()
    encrypted: bool = False

    def said(self) -> str:
        """One line about the file: ``A4 landscape, 2 sheets, text``."""
        if self.opens != "yes":
            return {
                "damaged": "cannot be opened",
                "password": "locked by a password",
                "empty": "empty",
                "not read": "not read",
            }[self.opens]
        if not self.pages:
            return self.type
        kinds = {p.said() for p in self.pages}
        count = f"{len(self.pages)} sheet{'s' if len(self.pages) > 1 else ''}"
        contents = {p.content for p in self.pages}
        return f"{kinds.pop() if len(kinds) == 1 else 'several sheet sizes'}, {count}, {' and '.join(sorted(contents))}"
