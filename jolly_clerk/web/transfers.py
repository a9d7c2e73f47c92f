"""Routes of a draft that is transferred to somebody else."""

from __future__ import annotations

from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.office.preparing import transferring
from jolly_clerk.web.applicant import Applicant, Started, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api", "applicant")


class OfferTo(BaseModel):
    """The mail address of whom a draft is offered to."""

    mail: str = Field(max_length=200)


@router.post("/drafts/{draft}/offer", response_model=DraftChanged)
def offer(draft: str, body: OfferTo, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Offer a draft to somebody, who has to accept it."""
    return changed(office, who, draft, seen, lambda: transferring.offer(office, who, draft, body.mail))


@router.delete("/drafts/{draft}/offer", response_model=DraftChanged)
def take_back(draft: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take the offer back."""
    return changed(office, who, draft, seen, lambda: transferring.take_back(office, who, draft))


@router.get("/offered-drafts")
def offered(office: TheOffice, who: Applicant) -> list[transferring.Offered]:
    """The drafts that are offered to oneself."""
    return transferring.offered(office, who)


@router.post("/offered-drafts/{draft}")
def accept(draft: str, office: TheOffice, who: Applicant) -> Started:
    """Take a draft over."""
    return Started(id=transferring.accept(office, who, draft).draft.id)


@router.delete("/offered-drafts/{draft}", status_code=204)
def decline(draft: str, office: TheOffice, who: Applicant) -> None:
    """Decline a draft."""
    transferring.decline(office, who, draft)
