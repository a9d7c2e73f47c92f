"""What all entries of a history have in common: when, who, in which role, and in which lane."""

from __future__ import annotations

from typing import Literal

from pydantic import AwareDatetime

from jolly_clerk.core.dossier.model import Plain
from jolly_clerk.core.roles import Role

GivenStanding = Literal["met", "wanting", "in doubt", "waived"]


class Happened(Plain):
    """Base of all entries: when, who (a person's id, or a stand-in's name) and in which role."""

    at: AwareDatetime
    who: str
    role: Role


class InLane(Happened):
    """Base of what happens in one lane: nothing for the common one, ``sites.2`` for that of the second site."""

    lane: str = ""
