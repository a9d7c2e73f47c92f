"""Routes of the public register: anybody searches it and takes it along; a lead strikes and corrects."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from fastapi import Depends, Query, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field, TypeAdapter

from jolly_clerk.exchange.spreadsheet import csv_file
from jolly_clerk.office.views import public_register
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.changed import CaseChanged, case_changed
from jolly_clerk.web.turns import router_of

router = router_of("/api", "public")
_LINES = TypeAdapter(list[public_register.RegisterLine])
MEDIA = {"json": "application/json", "csv": "text/csv", "geojson": "application/geo+json"}


def wanted(
    words: Annotated[str, Query(max_length=200)] = "",
    kind: Annotated[str, Query(pattern="^([A-Z]{2})?$")] = "",
    since: date | None = None,
    until: date | None = None,
) -> public_register.Wanted:
    """What is looked for."""
    return public_register.Wanted(words, kind, since, until)


Looked = Annotated[public_register.Wanted, Depends(wanted)]


class ChangeEntry(BaseModel):
    """A decision on an entry: ``struck``, or ``corrected`` answers by label; neither takes one that was struck in again."""

    struck: bool = False
    corrected: dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=400)]] = Field(
        default={}, max_length=40
    )
    because: Annotated[str, Field(max_length=1000)]


@router.get("/register")
def search(office: TheOffice, looked: Looked, after: Annotated[str, Query(max_length=60)] = "") -> public_register.RegisterPage:
    """A page of the public register, the latest decided first."""
    return public_register.search(office, looked, after)


@router.get("/register/map", response_class=Response, responses={200: {"content": {MEDIA["geojson"]: {}}}})
def on_map(office: TheOffice, looked: Looked) -> Response:
    """What was looked for on the town's map, as GeoJSON."""
    return Response(public_register.on_map(office, looked), media_type=MEDIA["geojson"])


@router.get("/register/file.{form}", response_class=Response)
def take_along(form: Literal["json", "csv", "geojson"], office: TheOffice, looked: Looked) -> Response:
    """What was looked for as JSON, CSV or GeoJSON."""
    lines = public_register.everything(office, looked)
    if form == "json":
        content = _LINES.dump_json(lines)
    elif form == "geojson":
        content = public_register.geojson(lines).encode()
    else:
        content = csv_file(public_register.table(lines))
    return attached(content, MEDIA[form], f"register.{form}")


@router.post("/cases/{reference}/register", response_model=CaseChanged)
def change(reference: str, body: ChangeEntry, office: TheOffice, who: Asker, seen: Seen) -> JSONResponse:
    """A lead decides what the register says of a case."""
    done = public_register.change(office, who, reference, body.struck, body.corrected, body.because, seen)
    return case_changed(office, who, seen, done)
