"""What was filed: answers, attachments, signature; and the versions of it.

These are the inputs of :func:`jolly_clerk.core.assessment.assess`; their JSON Schemas are printed by
``jolly-clerk schema dossier``.
"""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints

Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Answers = dict[str, Any]


class Plain(BaseModel):
    """Base of the plain values: immutable, no unknown keys."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Attachment(Plain):
    """A file in a slot. ``id`` is stable within the case; ``size`` in bytes; ``version`` counts files of the same name."""

    id: str
    slot: str
    name: str
    sha256: Sha256
    size: int = Field(ge=0)
    version: int = Field(default=1, ge=1)


class Prefilled(Plain):
    """An answer that a register gave, and when; an answer that differs from it is flagged."""

    place: str
    source: str
    key: str
    value: str
    at: AwareDatetime


class Signing(Plain):
    """A typed signature: who, when, the exact text that was signed, and a digest of each part, slot and tick that it covers."""

    name: str
    at: AwareDatetime
    text: str
    covers: dict[str, str] = Field(default={}, exclude_if=lambda kept: not kept)


class Declared(Plain):
    """A declaration that was ticked: which, when, and its exact text."""

    id: str
    at: AwareDatetime
    text: str


class Dossier(Plain):
    """One version, or a draft of one.

    ``answers`` maps a part to its answers by question (or, for a part that repeats, to a list of
    such maps, each with an ``id``); a date is ``YYYY-MM-DD``, an amount a number or its text, yes or
    no a boolean or the word. ``by_hand`` are the registers that could not be asked, so that a person must look.
    ``numbered`` is the highest number that an item of each part ever had. ``insists`` is why it is filed though it is not needed.
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


class Version(Plain):
    """A filed version: immutable, whole."""

    no: int = Field(ge=1)
    at: AwareDatetime
    dossier: Dossier
