"""What a case package says: the case in words for whoever opens it, and all that another office needs to go on with it.

The format is described in ``docs/formats.md``; its JSON Schema and its XML Schema lie in each package.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field, StringConstraints

from jolly_clerk.core.dossier.model import Plain, Sha256
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.core.values import Json

#: the format that is written, and the only one that is read
FORMAT: Literal["jolly-clerk case 1"] = "jolly-clerk case 1"
Party = Literal["office", "applicant"]
Short = Annotated[str, StringConstraints(max_length=300)]
Kind = Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}$")]
Reference = Annotated[str, StringConstraints(pattern=r"^[A-Z0-9][A-Z0-9/-]{2,19}$")]


class Origin(Plain):
    """Which office the case is of, what it is called there, how many entries its history has and the hash of the last."""

    office: Short
    reference: Reference
    case_id: Annotated[str, StringConstraints(pattern=r"^[0-9a-f-]{16,40}$")]
    entries: int = Field(ge=1)
    last_hash: Sha256


class EditionTold(Plain):
    """The edition that decides the case, by content, with its calendar; both lie in the package."""

    sha256: Sha256
    calendar_sha256: Sha256
    title: Short


class PersonTold(Plain):
    """Somebody whom the history names."""

    id: Annotated[str, StringConstraints(max_length=40)]
    name: Short


class ApplicantTold(Plain):
    """Who applied."""

    id: Annotated[str, StringConstraints(max_length=40)]
    name: Short
    mail: Short = ""


class AnswerTold(Plain):
    """An answer in words."""

    label: str
    value: str


class StepTold(Plain):
    """Something that happened, in words."""

    no: int
    at: AwareDatetime
    text: str
    who: str


class RequirementTold(Plain):
    """A requirement and how it stands; ``judged`` tells that somebody gave the standing."""

    id: str
    title: str
    standing: str
    judged: bool


class FeeTold(Plain):
    """A line of the fee sheet; without an amount while it is open."""

    id: str
    title: str
    amount: Decimal | None


class LimitTold(Plain):
    """A day that counts, and for what."""

    what: str
    day: date


class FileTold(Plain):
    """A file of the package: what it is called, where it lies, its content by SHA-256 and its size in bytes."""

    sha256: Sha256
    name: Short
    path: Annotated[str, StringConstraints(max_length=400)]
    size: int = Field(ge=0)


class ReadingTold(Plain):
    """What a reader of one version read in a file, as it was kept."""

    sha256: Sha256
    reader: Annotated[str, StringConstraints(max_length=40)]
    at: AwareDatetime
    text: str


class VersionTold(Plain):
    """A filed version: its canonical text and the salt under which the history holds its hash."""

    no: int = Field(ge=1)
    at: AwareDatetime
    dossier: str
    salt: Annotated[str, StringConstraints(max_length=32)]


class EntryTold(Plain):
    """An entry of the history as the chain holds it. One that the reader may not see has its hashes alone (``body`` is null)."""

    no: int = Field(ge=1)
    body: str | None
    personal: str | None
    salt: Annotated[str, StringConstraints(max_length=32)] = ""
    previous: Sha256
    hash: Sha256


class CasePackage(Plain):
    """All that is in ``case.json``."""

    format: Literal["jolly-clerk case 1"]
    made_at: AwareDatetime
    made_for: Party
    origin: Origin
    came_from: tuple[Origin, ...] = ()
    kind: Kind
    title: Short
    state: State
    filed_at: AwareDatetime
    changed_at: AwareDatetime
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]
    edition: EditionTold
    applicant: ApplicantTold
    people: tuple[PersonTold, ...]
    answers: tuple[AnswerTold, ...]
    steps: tuple[StepTold, ...]
    requirements: tuple[RequirementTold, ...]
    fees: tuple[FeeTold, ...]
    paid: Decimal
    open: Decimal
    limits: tuple[LimitTold, ...]
    files: tuple[FileTold, ...]
    readings: tuple[ReadingTold, ...] = ()
    versions: tuple[VersionTold, ...]
    history: tuple[EntryTold, ...]


def schema() -> dict[str, Json]:
    """The JSON Schema (2020-12) of ``case.json``."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **CasePackage.model_json_schema(mode="serialization")}


def faults(package: CasePackage) -> Iterator[str]:
    """What does not fit in a package by itself: whether it is whole, and says one thing. Whether its hashes are right is looked at elsewhere."""
    if package.made_for != "office":
        yield say("It was made for the applicant, and leaves out what is the office's own. Ask the other office for theirs.")
        return
    if [e.no for e in package.history] != list(range(1, package.origin.entries + 1)):
        yield say("Its history is not numbered from 1 to {last}.", last=package.origin.entries)
    if any(e.body is None for e in package.history):
        yield say("Entries of its history are withheld.")
    if package.history and package.history[-1].hash != package.origin.last_hash:
        yield say("Its last entry is not the one that its origin names.")
    if [v.no for v in package.versions] != list(range(1, len(package.versions) + 1)) or not package.versions:
        yield say("Its versions are not numbered from 1 on.")
    paths = [f.path for f in package.files]
    if len(set(paths)) < len(paths):
        yield say("Two of its files are said to lie at the same place.")
