"""What all entries of a history have in common: when, who, in which role, and in which lane."""

from __future__ import annotations

from typing import Literal

from pydantic import AwareDatetime, Field, model_validator

from jolly_clerk.core.dossier.model import Plain, Sha256
from jolly_clerk.core.roles import Role
from jolly_clerk.core.say import Sentence
from jolly_clerk.core.values import Raw

GivenStanding = Literal["met", "wanting", "in doubt", "waived"]


class Message(Plain):
    """What a sentence was made from, so that it can be told again in another language."""

    message: str
    values: dict[str, str] = {}


class Worded(Plain):
    """Base of what keeps sentences: beside the text as it was told stand its message and values, by the name of the field."""

    messages: dict[str, Message] = Field(default={}, exclude_if=lambda kept: not kept)

    @model_validator(mode="before")
    @classmethod
    def _keep_messages(cls, given: Raw) -> Raw:
        if not isinstance(given, dict):
            return given
        said = {name: value for name, value in given.items() if isinstance(value, Sentence)}
        if not said:
            return given
        values = {name: {key: str(value) for key, value in sentence.values.items()} for name, sentence in said.items()}
        return given | {"messages": {name: Message(message=said[name].message, values=values[name]) for name in said}}


class Attached(Plain):
    """A file that belongs to an entry: sent with a message, taken at an inspection."""

    name: str
    sha256: Sha256
    size: int


class Happened(Worded):
    """Base of all entries: when, who (a person's id, or a stand-in's name) and in which role."""

    at: AwareDatetime
    who: str
    role: Role


class InLane(Happened):
    """Base of what happens in one lane: nothing for the common one, ``sites.2`` for that of the second site."""

    lane: str = ""
