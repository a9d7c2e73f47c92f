"""Forty cases of all kinds with planted faults, made from a seed: half of the faults the machine finds, half only a person can see."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from jolly_clerk.demo import dossiers, drawings, papers
from jolly_clerk.demo.stage import PEOPLE, Stage, answers, draft_of, file_and_pay, prepare, roof
from jolly_clerk.office.desk import checking
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.rules.rulebooks import office_calendar
from tests.helpers import SHARED_READERS

Files = list[tuple[str, str, bytes]]
OFFICER, OFFICER_NAME = "nell", "Nell Amory"


@dataclass
class Planted:
    """A case: what is wrong in it, by the requirement, and whether the machine sees it."""

    reference: str
    faults: dict[str, str] = field(default_factory=dict)
    seen: set[str] = field(default_factory=set)


def _swap(files: Files, slot: str, title: str, *lines: str, pages: int = 1) -> Files:
    """A file of a slot that a machine reads without a finding and that is not what it should be."""
    other = papers.paper(title, *lines, pages=pages)
    return [(s, n, (papers.scanned(other, 3) if n.endswith(".jpg") else other) if s == slot else c) for s, n, c in files]


def _works(s: Stage, n: int, fault: str) -> tuple[str, dict[str, str], set[str]]:
    distance, area, estimate, sheet = 200 + n, 40, "24000.00", "A3"
    drawn_distance, drawn_sheet = distance, sheet
    place = f"{n} Netmaker Lane"
    if fault == "sheet":
        drawn_sheet = "A4"
    if fault == "distance":
        drawn_distance = distance - 60
    if fault == "value":
        estimate = "900.00"
    plan = drawings.site_plan(place, "building", area / 5, 5, float(drawn_distance), drawn_sheet, scale_bar=drawn_sheet == "A3")
    sections = roof(place)
    if fault == "sections":
        sections = ("sections", "sections.pdf", drawings.sections("another house, 99 Far Lane"))
    given = answers(
        place_address=place,
        place_plot=f"Q-{1000 + n}",
        place_owner=s.who["odalys"].name,
        works_what="Timber store",
        works_area=str(area),
        works_distance=str(distance),
        works_estimate=estimate,
    )
    draft = prepare(s, "odalys", given, [("site_plan", "plan.pdf", plan), sections])
    at = {
        "sheet": "documents.site_plan",
        "distance": "distance-agrees",
        "value": "value-plausible",
        "sections": "documents.sections",
    }
    return draft, ({at[fault]: fault} if fault else {}), ({at[fault]} if fault in ("sheet", "distance", "value") else set())


def _other(kind: str, make: Callable[[Stage, int, str], tuple[Any, Files]], at: dict[str, str], machine: tuple[str, ...]):  # type: ignore[no-untyped-def]
    def made(s: Stage, n: int, fault: str) -> tuple[str, dict[str, str], set[str]]:
        given, files = make(s, n, fault)
        draft = draft_of(s, "odalys", kind, given, files)
        return draft, ({at[fault]: fault} if fault else {}), ({at[fault]} if fault in machine else set())

    return made


def _stall(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    given, files = dossiers.stall(s.today, "Odalys Renn", ("fish_quay",), goods="cold")
    if fault == "front":
        files = _swap(files, "sketch.1", "Sketch of the stall", "Fish Quay", "Frontage 5.5 m")
    if fault == "food":
        files = _swap(files, "food", "Food inspector", "Corvin Pell may sell cold food.")
    if fault == "identity":
        files = _swap(files, "identity", "Identity", "Tamsin Oake")
    return given, files


def _surveyor(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    given, files = dossiers.surveyor(s.today, "Odalys Renn", qualifications=1)
    if fault == "credits":
        files = _swap(files, "credit_list", "Credit points", "Another person, 12 points")
    if fault == "degree":
        files = _swap(files, "degree", "Degree", "A degree in music")
    return given, files


def _tour(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    more = {"broken": {"broken": (1,)}}.get(fault, {})
    given, files = dossiers.tour(
        s.today, "Odalys Renn", f"The {n} Fiddles", (("Basil Rook", 28), ("Odo Fenn", 40)), roll="P-91", **more
    )
    if fault == "name":
        other = papers.passport("Tom Ashby", "M7654321", date(1990, 5, 2), date(2031, 2, 3))
        files = [(slot, name, other if slot == "passport.1" else content) for slot, name, content in files]
    if fault == "venue":
        files = _swap(files, "venue_letters", "Old Hall", "They play here in another year.")
    return given, files


def _patent(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    more: dict[str, Any] = {"claims": {"stated": 14}, "gap": {"skip": 3}}.get(fault, {})
    given, files = dossiers.patent("Odalys Renn", f"Pawl number {n}", 8, 1, **more)
    if fault == "description":
        files = _swap(files, "description", "Description", "A poem about the sea.", pages=12)
    return given, files


def _product(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    given, files = dossiers.product("Odalys Renn", f"Tidazol {n}")
    if fault == "batches":
        files = _swap(files, "batch_papers", "Batches", "Four batches of another substance.")
    return given, files


def _trial(s: Stage, n: int, fault: str) -> tuple[Any, Files]:
    more: dict[str, Any] = {"insured": 50_000} if fault == "insured" else {}
    site = (("Quill Infirmary", "Ines Marrow", 20),)
    given, files = dossiers.trial(s.today, "Odalys Renn", f"TR-{n}", f"Trial {n}", "CP-26-00002-S", "Ondrelin", site, **more)
    return given, files


KINDS: dict[str, Any] = {
    "BW": _works,
    "TL": _other(
        "TL", _stall, {"front": "front-agrees.1", "food": "documents.food", "identity": "documents.identity"}, ("front",)
    ),
    "PL": _other("PL", _surveyor, {"credits": "documents.credit_list", "degree": "documents.degree"}, ()),
    "QV": _other(
        "QV",
        _tour,
        {"broken": "lines-right.1", "name": "holder-agrees.1", "venue": "documents.venue_letters"},
        ("broken", "name"),
    ),
    "IP": _other(
        "IP",
        _patent,
        {"claims": "claims-agree", "gap": "documents.claims", "description": "documents.description"},
        ("claims", "gap"),
    ),
    "CP": _other("CP", _product, {"batches": "documents.batch_papers"}, ()),
    "CT": _other("CT", _trial, {"insured": "insured-enough"}, ("insured",)),
}
#: how many cases of each kind, and the faults that are planted in them, one a case
PLAN: tuple[tuple[str, int, tuple[str, ...]], ...] = (
    ("BW", 12, ("sheet", "distance", "value", "sections", "sheet", "distance", "sections", "value")),
    ("TL", 8, ("front", "food", "identity", "food", "front", "identity", "front")),
    ("CP", 2, ("batches", "batches")),
    ("IP", 5, ("claims", "gap", "description", "description")),
    ("PL", 5, ("credits", "degree", "degree")),
    ("QV", 6, ("broken", "name", "venue", "broken", "venue")),
    ("CT", 2, ("insured",)),
)


def lay(folder: Path, seed: int, cases: int = 40) -> list[Planted]:
    """File so many of the forty cases into an office and hand them to an officer of their own, each begun; gives what was planted."""
    office = open_office(folder, demo=True)
    office.readers = SHARED_READERS
    add_person(office, OFFICER, OFFICER_NAME, "officer")
    who = {id_: person(office, id_) for id_, *_ in PEOPLE}
    calendar = office_calendar(office)
    stage = Stage(office, who, calendar, calendar.local_day(datetime.now(UTC)), datetime.now(UTC))
    office.now = lambda: min(stage.instant, datetime.now(UTC) - timedelta(minutes=1))
    dice, made = random.Random(seed), list[Planted]()
    planned = [(kind, faults[n] if n < len(faults) else "") for kind, count, faults in PLAN for n in range(count)]
    dice.shuffle(planned)
    for n, (kind, fault) in enumerate(planned[:cases], 1):
        stage.back(20 + n)
        draft, faults, seen = KINDS[kind](stage, n, fault)
        reference = file_and_pay(stage, "odalys", draft)
        checking.begin_checking(office, person(office, OFFICER), reference)
        made.append(Planted(reference, faults, seen))
    office.engine.dispose()
    return made
