"""Routes of tokens: one's own, made and taken back in the browser; programs then send them as ``Authorization: Bearer``."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, Field

from jolly_clerk.office.people import tokens
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api/tokens", "session")


class MakeToken(BaseModel):
    """What a token is for, what it may do, and the last day on which it works."""

    name: str = Field(min_length=1, max_length=60)
    scope: tokens.Scope = "look"
    last_day: date


@router.get("")
def own(office: TheOffice, who: Asker) -> list[tokens.Token]:
    """One's own tokens."""
    return tokens.tokens(office, who)


@router.post("", status_code=201)
def make(given: MakeToken, office: TheOffice, who: Asker) -> tokens.NewToken:
    """Make a token; its secret is told once."""
    return tokens.make(office, who, given.name, given.scope, given.last_day)


@router.delete("/{token}", status_code=204)
def take_back(token: str, office: TheOffice, who: Asker) -> None:
    """Take a token back."""
    tokens.take_back(office, who, token)
