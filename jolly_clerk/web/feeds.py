"""Routes of calendar feeds (made, taken back; read by a calendar with the link) and of one's own views of the in-tray."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Response
from pydantic import BaseModel, Field

from jolly_clerk.office.desk import feeds, own_views
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "office")


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


class KeepView(BaseModel):
    """A view of the in-tray under a name."""

    name: str = Field(max_length=40)
    whose: str = Field(default="", max_length=20)
    kind: str = Field(default="", max_length=2)
    view: str = Field(default="", max_length=30)


@router.get("/views")
def all_views(office: TheOffice, who: Asker) -> list[own_views.View]:
    """One's own views of the in-tray."""
    return own_views.views(office, who)


@router.post("/views")
def keep_view(body: KeepView, office: TheOffice, who: Asker) -> list[own_views.View]:
    """Keep a view; one of the same name is replaced."""
    return own_views.keep(office, who, body.name, body.whose, body.kind, body.view)


@router.delete("/views/{view}")
def drop_view(view: str, office: TheOffice, who: Asker) -> list[own_views.View]:
    """Drop a view."""
    return own_views.drop(office, who, view)


@router.get("/calendar/{secret}.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def read_feed(secret: Annotated[str, Path(max_length=80)], office: TheOffice) -> Response:
    """The limits of a feed, for whoever has its link."""
    content = feeds.read_feed(office, secret)
    return Response(content, media_type="text/calendar", headers={"Cache-Control": "no-store"})
