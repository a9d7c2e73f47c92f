"""Routes of who of the office has what: loads, many cases at once, absences."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import BaseModel, Field

from jolly_clerk.office.desk import owning
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.people import absences
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "office")
Id = Annotated[str, Field(max_length=40)]


class AssignMany(BaseModel):
    """Cases, and to whom they go (nothing for nobody)."""

    references: list[Id] = Field(max_length=owning.MOST_AT_ONCE)
    to: Id
    because: str = Field(default="", max_length=400)


class AssignFrom(BaseModel):
    """All open cases of one officer (nothing for those that nobody has), and to whom they go."""

    officer: Id
    to: Id
    because: str = Field(default="", max_length=400)


class GoAway(BaseModel):
    """Who is away on which days, and who stands in."""

    person: Id
    deputy: Id
    first_day: date
    last_day: date


class Colleague(BaseModel):
    """Somebody to whom a case can be given."""

    id: str
    name: str


class Colleagues(BaseModel):
    """To whom cases can be given: officers who take them on, reviewers to whom complete ones are handed over."""

    officers: list[Colleague]
    reviewers: list[Colleague]


@router.get("/colleagues")
def colleagues(office: TheOffice, who: Asker) -> Colleagues:
    """To whom cases can be given."""
    officers, reviewing = owning.everybody(office, who)
    return Colleagues(
        officers=[Colleague(id=p.id, name=p.name) for p in officers],
        reviewers=[Colleague(id=p.id, name=p.name) for p in reviewing],
    )


@router.get("/load")
def load(office: TheOffice, who: Asker) -> list[owning.Load]:
    """What each officer has, and what nobody has."""
    rows = owning.load(office, who)
    looked(office, who, "list", detail="load")
    return rows


@router.post("/load")
def assign_from(body: AssignFrom, office: TheOffice, who: Asker) -> list[owning.Became]:
    """Give all open cases of one officer to another."""
    return owning.assign_from(office, who, body.officer, body.to, body.because)


@router.post("/cases-assigned")
def assign_many(body: AssignMany, office: TheOffice, who: Asker) -> list[owning.Became]:
    """Give many cases to one officer, each by itself."""
    return owning.assign_all(office, who, body.references, body.to, body.because)


@router.post("/cases-handed-over")
def hand_over_many(body: AssignMany, office: TheOffice, who: Asker) -> list[owning.Became]:
    """Hand many complete cases over to one reviewer, each by itself."""
    return owning.hand_over_all(office, who, body.references, body.to)


@router.get("/absences")
def away(office: TheOffice, who: Asker) -> list[absences.AbsenceView]:
    """Who is away, and who stands in."""
    return absences.absences(office, who)


@router.post("/absences")
def go_away(body: GoAway, office: TheOffice, who: Asker) -> list[absences.AbsenceView]:
    """Note that somebody is away."""
    return absences.go_away(office, who, body.person, body.deputy, body.first_day, body.last_day)


@router.delete("/absences/{absence}")
def come_back(absence: str, office: TheOffice, who: Asker) -> list[absences.AbsenceView]:
    """End an absence."""
    return absences.come_back(office, who, absence)
