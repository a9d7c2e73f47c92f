"""Routes of a pile: what came together, where each piece may belong, and the answers that papers state."""

from __future__ import annotations

from typing import Annotated

from fastapi import Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.office.preparing import attaching, pile, placing, taking
from jolly_clerk.web.applicant import Applicant, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.cases import file_answer
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api/drafts/{draft}", "applicant")


class PlacedPiece(BaseModel):
    """A piece and the place that it is put into; ``passport.new`` makes an item of what the paper says."""

    piece: str = Field(max_length=80)
    spot: str = Field(max_length=80)


class PlacedPieces(BaseModel):
    """Pieces that are placed at one go."""

    placed: list[PlacedPiece] = Field(min_length=1, max_length=pile.MOST_ITEMS)


class Cut(BaseModel):
    """Before which sheet a piece is cut."""

    before: int = Field(ge=2, le=10_000)


class Taken(BaseModel):
    """Places whose answers are taken from papers; without any, all that are still open."""

    places: list[Annotated[str, Field(max_length=120)]] = Field(default=[], max_length=2000)


class Exchanged(BaseModel):
    """Two files, by their ids, that change places."""

    first: str = Field(max_length=40)
    second: str = Field(max_length=40)


@router.post("/exchanged", response_model=DraftChanged)
def exchange(draft: str, body: Exchanged, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Put two files into each other's slots."""
    return changed(office, who, draft, seen, lambda: attaching.exchange(office, who, draft, body.first, body.second, seen))


@router.get("/pile")
def look(draft: str, office: TheOffice, who: Applicant) -> pile.PileView:
    """What lies in the pile, each piece with the places that it may belong to."""
    return pile.pile_view(office, who, draft)


@router.post("/pile", response_model=DraftChanged)
def place(draft: str, body: PlacedPieces, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Place pieces in their slots."""
    placed = [placing.Placed(p.piece, p.spot) for p in body.placed]
    return changed(office, who, draft, seen, lambda: placing.place(office, who, draft, placed, seen))


@router.post("/pile/{piece}/cut", status_code=204)
def cut(draft: str, piece: str, body: Cut, office: TheOffice, who: Applicant) -> None:
    """Cut a piece before one of its sheets."""
    placing.cut(office, who, draft, piece, body.before)


@router.post("/pile/{piece}/joined", status_code=204)
def join(draft: str, piece: str, office: TheOffice, who: Applicant) -> None:
    """Join a piece to the one before it of the same file."""
    placing.join(office, who, draft, piece)


@router.delete("/pile/{piece}", status_code=204)
def drop(draft: str, piece: str, office: TheOffice, who: Applicant) -> None:
    """Take a piece out of the pile for good."""
    placing.drop(office, who, draft, [piece])


@router.get("/pile/{item}/content", response_class=Response)
def content(draft: str, item: str, office: TheOffice, who: Applicant) -> Response:
    """The file of an item of the pile."""
    return file_answer(*placing.content_of(office, who, draft, item))


@router.post("/taken", response_model=DraftChanged)
def take(draft: str, body: Taken, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take answers from the papers that state them."""
    return changed(office, who, draft, seen, lambda: taking.take(office, who, draft, body.places, seen))
