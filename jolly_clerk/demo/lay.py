"""The Quillhaven demo: people, registers, editions, and cases of all six kinds in all fourteen states.

Cases come about only by the functions that a person's clicks call, at instants relative to today.
"""

from __future__ import annotations

import shutil
from datetime import UTC, datetime
from pathlib import Path

from jolly_clerk.demo.other_scenes import OTHER_SCENES
from jolly_clerk.demo.scenes import SCENES as BUILDING_SCENES
from jolly_clerk.demo.stage import PEOPLE, Stage
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people import add_person
from jolly_clerk.office.profiles import keep_profile
from jolly_clerk.office.rulebooks import office_calendar, publish
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from jolly_clerk.store.database import writing
from jolly_clerk.store.tables import Counter

SCENES = (*BUILDING_SCENES, *OTHER_SCENES)
REGISTERS = Path(__file__).parent / "registers"
#: what the accounts of the applicants say
PROFILES = (
    ("odalys", "4 Saltern Slip, Quill", "0300 55 12"),
    ("tamsin", "17 Ropewalk, Quill", "0300 55 40"),
    ("corvin", "2 Customs Stairs, Quill", ""),
)


def lay(folder: Path, fresh: bool = False) -> str:
    """Lay the demo data into ``folder``; says what it did."""
    if (folder / "office.db").exists() and not fresh:
        return f"{folder}: the demo data is laid already."
    if folder.exists():
        shutil.rmtree(folder)
    building = folder.with_name(folder.name + ".building")
    shutil.rmtree(building, ignore_errors=True)
    office = open_office(building, demo=True)
    try:
        count = _lay(office)
    finally:
        office.close()
    building.rename(folder)
    return f"{folder}: {count} cases of Quillhaven laid."


def _lay(office: Office) -> int:
    shutil.copytree(REGISTERS, office.folder / "registers", dirs_exist_ok=True)
    for edition in editions_in(SHIPPED):
        publish(office, edition)
    who = {id_: add_person(office, id_, name, role, f"{id_}@post.quillhaven.example") for id_, name, role in PEOPLE}
    for id_, address, telephone in PROFILES:
        keep_profile(office, who[id_], address, telephone)
    calendar = office_calendar(office)
    stage = Stage(office, who, calendar, calendar.local_day(datetime.now(UTC)), datetime.now(UTC))
    office.now = lambda: stage.instant
    with writing(office.engine) as session:
        session.add(Counter(name=f"case BW {stage.today.year}", last=397))
    for scene in SCENES:
        scene(stage)
    return len(SCENES)
