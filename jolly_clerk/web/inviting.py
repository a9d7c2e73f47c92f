"""Routes of invitations: others who work in a filing or a case of one's own, and what one was invited to."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.office.preparing import drafts, inviting
from jolly_clerk.web.applicant import Applicant, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api", "applicant")
Of = Annotated[str, Field(max_length=40)]


class Invite(BaseModel):
    """Who is invited to what: ``of`` is the id of a draft or the reference of a case; ``parts`` are those that may be filled in, all
    without any."""

    of: Of
    mail: str = Field(max_length=300)
    name: str = Field(max_length=200)
    rights: list[Annotated[str, Field(max_length=10)]] = Field(max_length=10)
    parts: list[Annotated[str, Field(max_length=60)]] = Field(default=[], max_length=60)


@router.get("/invitations")
def invitations(office: TheOffice, who: Applicant, of: Annotated[str, Query(max_length=40)]) -> list[inviting.Invited]:
    """Who was invited to a draft or a case, and what each did with it."""
    return inviting.invitations(office, who, of)


@router.post("/invitations")
def invite(body: Invite, office: TheOffice, who: Applicant) -> list[inviting.Invited]:
    """Invite somebody, or give somebody who was invited other rights."""
    return inviting.invite(office, who, body.of, body.mail, body.name, body.rights, body.parts)


@router.delete("/invitations/{invitation}", status_code=204)
def end(invitation: str, office: TheOffice, who: Applicant) -> None:
    """End an invitation that one made, or leave a filing to which one was invited."""
    inviting.end(office, who, invitation)


@router.get("/invited")
def invited_to(office: TheOffice, who: Applicant) -> list[inviting.InvitedTo]:
    """What one was invited to."""
    return inviting.invited_to(office, who)


@router.put("/drafts/{draft}/parts/{part}/writer", response_model=DraftChanged)
def take_over(draft: str, part: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take a part over from whoever is writing it."""
    return changed(office, who, draft, seen, lambda: drafts.take_part_over(office, who, draft, part))
