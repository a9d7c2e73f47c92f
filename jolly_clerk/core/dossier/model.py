"""What was filed: answers, attachments, signature; and the versions of it.

These are the inputs of :func:`jolly_clerk.core.assessment.assess`; their JSON Schemas are printed by
``jolly-clerk schema dossier``.
"""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints

Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Answers = dict[str, Any]


class Plain(BaseModel):
    """Base of the plain values: immutable, no unknown keys."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class MadeFrom(Plain):
    """A file of which another was made here; ``checksum`` is its SHA-256, ``size`` in bytes. It is kept until this is filed, then only told."""

    name: str
    checksum: Sha256
    size: int = Field(ge=0)


class FromIssuer(Plain):
    """Who sent a file straight to the office, and when. Unless ``shown`` it is sealed: whoever applied never sees what it says."""

    name: str
    firm: str
    at: AwareDatetime
    shown: bool = False


class FileTold(Plain):
    """What is told of a file besides its name. ``language`` is a code, ``volume`` its number where a document comes in several files,
    ``translates`` the id of the file of which it is the translation."""

    description: str = ""
    dated: date | None = None
    language: str = ""
    volume: int = Field(default=0, ge=0)
    translates: str = ""


class Attachment(Plain):
    """A file in a slot. ``id`` is stable within the case; ``size`` in bytes; ``version`` counts files of the same name. ``made_from`` are
    the files of which it was made here, before it was filed; ``issuer`` sent it straight to the office; ``told`` is what whoever attached
    it says of it."""

    id: str
    slot: str
    name: str
    sha256: Sha256
    size: int = Field(ge=0)
    version: int = Field(default=1, ge=1)
    made_from: tuple[MadeFrom, ...] = Field(default=(), exclude_if=lambda kept: not kept)
    issuer: FromIssuer | None = Field(default=None, exclude_if=lambda kept: kept is None)
    told: FileTold | None = Field(default=None, exclude_if=lambda kept: kept is None)

    @property
    def sealed(self) -> bool:
        """True if whoever applied may not see what it says."""
        return self.issuer is not None and not self.issuer.shown


class Prefilled(Plain):
    """An answer that a register gave, and when; an answer that differs from it is flagged."""

    place: str
    source: str
    key: str
    value: str
    at: AwareDatetime


#: the id and the slot of the sheet that was signed by hand
SIGNED = "signature"


class SignedSheet(Plain):
    """The scan of a sheet that was signed by hand; ``size`` in bytes."""

    name: str
    sha256: Sha256
    size: int = Field(ge=0)


class Signing(Plain):
    """A typed signature: who, when, the exact text that was signed, and a digest of each part, slot and tick that it covers; or one by
    hand, on a ``sheet``. Where the office recorded the filing, ``witness`` is whoever of the office saw the person say so, and
    ``on_paper`` tells that it stands on the paper that came."""

    name: str
    at: AwareDatetime
    text: str
    covers: dict[str, str] = Field(default={}, exclude_if=lambda kept: not kept)
    sheet: SignedSheet | None = Field(default=None, exclude_if=lambda kept: kept is None)
    witness: str = Field(default="", exclude_if=lambda kept: not kept)
    on_paper: bool = Field(default=False, exclude_if=lambda kept: not kept)


class Declared(Plain):
    """A declaration that was ticked: which, when, and its exact text."""

    id: str
    at: AwareDatetime
    text: str


class Corrected(Plain):
    """An answer in which the office put a clerical error right, with what stood there: a signature goes on covering that."""

    place: str
    was: Any = None


class Docket(Plain):
    """Something that comes by post: the number of its docket, the slot it belongs to, and what it is."""

    no: str
    slot: str
    what: str


class Dossier(Plain):
    """One version, or a draft of one.

    ``answers`` maps a part to its answers by question (or, for a part that repeats, to a list of
    such maps, each with an ``id``); a date is ``YYYY-MM-DD``, an amount a number or its text, yes or
    no a boolean or the word. ``by_hand`` are the registers that could not be asked, so that a person must look.
    ``numbered`` is the highest number that an item of each part ever had. ``insists`` is why it is filed though it is not needed.
    ``corrected`` are answers in which the office put a clerical error right since it was signed. ``dockets`` are what comes by post.
    """

    answers: Answers = {}
    attachments: tuple[Attachment, ...] = ()
    signature: Signing | None = None
    declared: tuple[Declared, ...] = ()
    note: str = ""
    prefilled: tuple[Prefilled, ...] = ()
    by_hand: tuple[str, ...] = ()
    numbered: dict[str, int] = {}
    insists: str = Field(default="", exclude_if=lambda kept: not kept)
    corrected: tuple[Corrected, ...] = Field(default=(), exclude_if=lambda kept: not kept)
    dockets: tuple[Docket, ...] = Field(default=(), exclude_if=lambda kept: not kept)

    @property
    def papers(self) -> tuple[Attachment, ...]:
        """All files: those in slots, and the sheet that was signed by hand, as the file ``signature``."""
        sheet = self.signature.sheet if self.signature else None
        if sheet is None:
            return self.attachments
        return (*self.attachments, Attachment(id=SIGNED, slot=SIGNED, name=sheet.name, sha256=sheet.sha256, size=sheet.size))


class Version(Plain):
    """A filed version: immutable, whole."""

    no: int = Field(ge=1)
    at: AwareDatetime
    dossier: Dossier
