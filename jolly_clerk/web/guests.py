"""Routes of somebody who comes by the link of an invitation, before there is a session."""

from __future__ import annotations

from fastapi import Response

from jolly_clerk.office.people import guests
from jolly_clerk.web.accounts import Confirm, keep_cookie
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api/invited-by-link/{secret}", "session")


@router.get("")
def at_the_door(secret: str, office: TheOffice) -> guests.AtTheDoor:
    """Who invites whom by this link."""
    return guests.at_the_door(office, secret[:100])


@router.post("/code", status_code=204)
def send_code(secret: str, office: TheOffice) -> None:
    """Mail a code to the invited address."""
    guests.send_code(office, secret[:100])


@router.post("/session", status_code=204)
def come_in(secret: str, body: Confirm, response: Response, office: TheOffice) -> None:
    """Come in by link and code."""
    keep_cookie(response, office, guests.come_in(office, secret[:100], body.code))
