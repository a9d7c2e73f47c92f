"""Routes of the office: the in-tray, the search, a letter before it is sent."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from jolly_clerk.core.urgency import Group
from jolly_clerk.office.cases import lists, notices
from jolly_clerk.office.desk import checking
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.cases import PDF
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api", tags=["office"], responses=RESPONSES)


@router.get("/tray")
def tray(
    office: TheOffice,
    who: Asker,
    whose: lists.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: lists.KeptView = "",
) -> lists.Tray:
    """The in-tray, the first page of each group; a reviewer's holds what was handed over."""
    return lists.tray(office, who, whose, kind, view)


@router.get("/tray/more")
def more_of_tray(
    office: TheOffice,
    who: Asker,
    group: Group,
    after: Annotated[str, Query(max_length=80)],
    whose: lists.Whose = "mine",
    kind: Annotated[str, Query(max_length=2)] = "",
    view: lists.KeptView = "",
) -> lists.GroupPage:
    """The next page of a group of the in-tray, from where the one before ended."""
    return lists.more_of_tray(office, who, lists.Shown(whose, kind, view), group, after)


@router.get("/search")
def search(office: TheOffice, who: Asker, words: Annotated[str, Query(max_length=100)] = "") -> list[lists.Row]:
    """Find a case by reference, person or place."""
    return list(lists.search(office, who, words))


@router.get("/cases/{reference}/letter", response_class=Response, responses=PDF)
def preview(reference: str, office: TheOffice, who: Asker, lane: Annotated[str, Query(max_length=60)] = "") -> Response:
    """The correction letter of a lane as it would be sent now."""
    content = checking.preview_letter(office, who, reference, lane)
    return Response(content, media_type="application/pdf", headers={"Cache-Control": "no-store"})


@router.get("/money/not-placed")
def not_placed(office: TheOffice, who: Asker) -> list[notices.NotPlaced]:
    """What payment terminals told and could not be booked, for the leads."""
    return list(notices.not_placed(office, who))
