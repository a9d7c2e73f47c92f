"""Who asks: the session behind a request, and the token that every change must carry."""

from __future__ import annotations

import base64
import hmac
import re
from typing import Annotated

from fastapi import Depends, Header, HTTPException, Request

from jolly_clerk.core.say import say
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import SignedIn, signed_in
from jolly_clerk.office.people.tokens import by_token, is_bearer, why_not

COOKIE = "jolly_clerk"
CSRF_HEADER = "X-Jolly-Clerk"


async def the_office(request: Request) -> Office:
    """The office that this application serves."""
    office: Office = request.app.state.office
    return office


TheOffice = Annotated[Office, Depends(the_office)]


def the_session(request: Request, office: TheOffice) -> SignedIn:
    """The session of a request, or whom its token stands for; 401 if there is neither, 403 if a change lacks its token, or the token its
    scope."""
    told = request.headers.get("Authorization", "")
    if is_bearer(told):
        known = by_token(office, told)
        if known is None:
            raise HTTPException(401, say("This token is none of ours, or it is over."), {"WWW-Authenticate": "Bearer"})
        if why := why_not(known.scope, request.method, request.url.path):
            raise HTTPException(403, why)
        return known.session
    found = signed_in(office, request.cookies.get(COOKIE, ""))
    if found is None:
        raise HTTPException(401, say("Please sign in."))
    if request.method not in ("GET", "HEAD") and not hmac.compare_digest(
        request.headers.get(CSRF_HEADER, "").encode(), found.csrf.encode()
    ):
        raise HTTPException(403, say("This request did not come from our own pages."))
    return found


TheSession = Annotated[SignedIn, Depends(the_session)]


async def the_sender(request: Request) -> str:
    """The address that a request came from, which slows down who tries too often; that of the web server's client, if one stands
    before this one on the same machine."""
    return request.client.host if request.client else ""


Sender = Annotated[str, Depends(the_sender)]


async def the_cookie(request: Request) -> str:
    """The secret of the session behind a request."""
    return request.cookies.get(COOKIE, "")


Cookie = Annotated[str, Depends(the_cookie)]


async def the_asker(session: TheSession) -> Who:
    """Who asks."""
    return session.who


Asker = Annotated[Who, Depends(the_asker)]

_TAG = re.compile(r'\s*(?:W/)?"?(\d{1,9})"?\s*')


async def the_revision(
    if_match: Annotated[str | None, Header(description="The revision last seen, as its ETag; * for any")] = None,
) -> int | None:
    """The revision that a person had before the eyes, from ``If-Match``; None for ``*``, which stands for any.

    Raises 428 without the header and 422 for what is no revision.
    """
    if if_match is None:
        raise HTTPException(428, say("Say which state you have seen: send its revision in If-Match."))
    if if_match.strip() == "*":
        return None
    found = _TAG.fullmatch(if_match)
    if found is None:
        raise HTTPException(422, say('If-Match is the revision last seen, as in "12".'))
    return int(found[1])


Seen = Annotated[int | None, Depends(the_revision)]


def asked_of(request: Request) -> dict[str, str]:
    """The draft or the upload that a request is about; a new upload names its draft in its metadata."""
    told = request.headers.get("Upload-Metadata", "") if request.method == "POST" else ""
    named = (pair.partition(" ")[2] for pair in told.split(",") if pair.strip().startswith("draft "))
    try:
        draft = base64.b64decode(next(named, "")).decode()
    except ValueError:
        draft = ""
    return {"draft": request.path_params.get("draft", "") or draft, "upload": request.path_params.get("upload", "")}
