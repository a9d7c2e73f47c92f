"""Routes of paying several cases at once."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from jolly_clerk.office.cases import baskets
from jolly_clerk.web.applicant import Applicant, TerminalOut, at_terminal
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api/basket", "applicant")


class Chosen(BaseModel):
    """The references of the cases that are paid at once."""

    references: list[Annotated[str, Field(max_length=40)]] = Field(max_length=200)


@router.get("")
def payable(office: TheOffice, who: Applicant) -> list[baskets.Payable]:
    """The cases on which something is to be paid now."""
    return baskets.payable(office, who)


@router.post("/sum")
def together(body: Chosen, office: TheOffice, who: Applicant) -> baskets.Together:
    """What several cases come to."""
    return baskets.together(office, who, body.references)


@router.post("", status_code=201)
def ask_together(body: Chosen, office: TheOffice, who: Applicant) -> TerminalOut:
    """Ask the terminal for what is open on several cases at once."""
    return at_terminal(baskets.ask_together(office, who, body.references))
