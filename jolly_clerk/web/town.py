"""Routes of the map on which a place is found and measured."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response

from jolly_clerk.core.town_map import Measured, TownMap
from jolly_clerk.office.desk import town
from jolly_clerk.office.preparing import drafts
from jolly_clerk.web.applicant import Applicant
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.cases import served
from jolly_clerk.web.turns import router_of

router = router_of("/api/drafts/{draft}/registers/{name}/map", "applicant")
GEOJSON = "application/geo+json"
Metres = Annotated[float, Query(ge=-1e6, le=1e6)]


@router.get("")
def town_map(draft: str, name: str, office: TheOffice, who: Applicant) -> TownMap:
    """The map of a register that the form is filled in from, in metres."""
    return town.town_map(office, drafts.open_draft(office, who, draft).rulebook, name)


@router.get(".geojson", response_class=Response, responses={200: {"content": {GEOJSON: {}}}})
def geojson(draft: str, name: str, office: TheOffice, who: Applicant) -> Response:
    """The same map as GeoJSON."""
    return served(town.geojson(office, drafts.open_draft(office, who, draft).rulebook, name), GEOJSON, f"{name}.geojson")


@router.get("/point")
def point(draft: str, name: str, office: TheOffice, who: Applicant, x: Metres, y: Metres) -> Measured:
    """What lies at a point of the map, and how far it is from high water."""
    return town.measure(office, drafts.open_draft(office, who, draft).rulebook, name, x, y)
