"""The lines of an import, one case each; the format stands in ``docs/formats.md``."""

from __future__ import annotations

import json
from decimal import Decimal
from pathlib import Path
from typing import IO, Annotated, Any

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.office.errors import Invalid

#: so much is repeated of a reference that is none
MOST_NAMED = 40
Text = Annotated[str, StringConstraints(max_length=20_000)]
Short = Annotated[str, StringConstraints(max_length=300)]


class Came(BaseModel):
    """Somebody who came with a case: the applicant."""

    model_config = ConfigDict(extra="forbid")
    name: Short
    mail: Short = ""


class CameFile(BaseModel):
    """A file beside the lines, by its path from there."""

    model_config = ConfigDict(extra="forbid")
    name: Short
    path: Short


class CameAnswer(BaseModel):
    """An answer as it was shown: its label and its value in words."""

    model_config = ConfigDict(extra="forbid")
    label: Short
    value: Text


class CameStep(BaseModel):
    """Something that happened, in words."""

    model_config = ConfigDict(extra="forbid")
    at: AwareDatetime
    text: Text
    who: Short = ""


class CameVersion(BaseModel):
    """A filed version of a case that lives: our own dossier."""

    model_config = ConfigDict(extra="forbid")
    no: int = Field(ge=1)
    at: AwareDatetime
    dossier: Dossier


class Line(BaseModel):
    """One case. ``kept`` ones give ``answers``, ``steps`` and ``files``; others ``versions``, ``entries``, ``paid`` and ``open``."""

    model_config = ConfigDict(extra="forbid")
    reference: Annotated[str, StringConstraints(pattern=r"^[A-Z0-9][A-Z0-9/-]{2,19}$")]
    kind: Annotated[str, StringConstraints(pattern="^[A-Z]{2}$")]
    title: Short
    state: State
    filed_at: AwareDatetime
    changed_at: AwareDatetime
    applicant: Came
    officer: Short = ""
    kept: bool = False
    answers: list[CameAnswer] = Field(default=[], max_length=2_000)
    steps: list[CameStep] = Field(default=[], max_length=5_000)
    files: list[CameFile] = Field(default=[], max_length=500)
    versions: list[CameVersion] = Field(default=[], max_length=100)
    entries: list[dict[str, Any]] = Field(default=[], max_length=5_000)
    paid: Decimal = Decimal(0)
    open: Decimal = Decimal(0)


def reference_in(text: str) -> str:
    """The reference that a line names which is not taken; empty if it names none."""
    try:
        line = json.loads(text)
    except (ValueError, RecursionError):
        return ""
    named = line.get("reference") if isinstance(line, dict) else ""
    return named[:MOST_NAMED] if isinstance(named, str) else ""


def read_lines(file: Path) -> IO[str]:
    """The lines of a file. Raises Invalid if it cannot be read."""
    try:
        return file.open(encoding="utf-8")
    except OSError as error:
        raise Invalid(say("{file} cannot be read: {error}", file=file, error=error)) from None
