"""Routes of the calendar feeds: made, listed and taken back by whoever keeps limits; read by a calendar with the link."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel

from jolly_clerk.office.desk import feeds
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api", tags=["office"], responses=RESPONSES)


class MakeFeed(BaseModel):
    """Of one's own cases, or of all of the team."""

    team: bool = False


@router.get("/feeds")
def all_feeds(office: TheOffice, who: Asker) -> list[feeds.Feed]:
    """One's own feeds."""
    return feeds.feeds(office, who)


@router.post("/feeds")
def make_feed(body: MakeFeed, office: TheOffice, who: Asker) -> feeds.NewFeed:
    """Make a feed; its link is told once."""
    return feeds.make_feed(office, who, body.team)


@router.delete("/feeds/{feed}", status_code=204)
def take_back(feed: str, office: TheOffice, who: Asker) -> None:
    """Take a feed back."""
    feeds.take_back(office, who, feed)


@router.get("/calendar/{secret}.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def read_feed(secret: Annotated[str, Path(max_length=80)], office: TheOffice) -> Response:
    """The limits of a feed, for whoever has its link."""
    content = feeds.read_feed(office, secret)
    return Response(content, media_type="text/calendar", headers={"Cache-Control": "no-store"})
