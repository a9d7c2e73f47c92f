"""The Quillhaven demo: people, registers, editions, and cases of all six kinds in all fourteen states.

Cases come about only by the functions that a person's clicks call, at instants relative to today.
"""

from __future__ import annotations

import gc
import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

from jolly_clerk.demo.other_scenes import OTHER_SCENES
from jolly_clerk.demo.permit_scenes import life_of_permits, meeting_to_come
from jolly_clerk.demo.scenes import SCENES as BUILDING_SCENES
from jolly_clerk.demo.stage import PEOPLE, Stage
from jolly_clerk.demo.till_scene import ACCOUNT, till_of_today
from jolly_clerk.demo.trial_scenes import TRIALS
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing.profiles import Kept, keep_profile
from jolly_clerk.office.rules.rulebooks import office_calendar, publish
from jolly_clerk.office.settings import set_in_file
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Counter

#: where files live in memory, and the bytes that have to be free there
MEMORY, ROOM = Path("/dev/shm"), 500_000_000  # noqa: S108 - a folder of its own is made in it
SCENES: tuple[Callable[[Stage], None], ...] = (*BUILDING_SCENES, *OTHER_SCENES, *TRIALS)
REGISTERS = Path(__file__).parent / "registers"
#: what the accounts of the applicants say
PROFILES = (
    ("odalys", "4 Saltern Slip, Quill", "0300 55 12"),
    ("tamsin", "17 Ropewalk, Quill", "0300 55 40"),
    ("corvin", "2 Customs Stairs, Quill", ""),
)


#: how many laid demos are kept for copying; older ones go
MOST_KEPT = 3
HOUR = timedelta(hours=1)
MORNING = 12 * HOUR
ZONE = ZoneInfo("Europe/Lisbon")


def lay(folder: Path, fresh: bool = False, kept: Path | None = None) -> str:
    """Lay the demo data into ``folder``; says what it did.

    What is there already stays, unless ``fresh``. ``kept`` is a folder in which a pristine demo is kept and copied from as long
    as the program, its rulebooks and the half of the day are the same.
    """
    if (folder / "office.db").exists() and not fresh:
        return f"{folder}: the demo data is laid already."
    if folder.exists():
        shutil.rmtree(folder)
    if kept is None:
        count = _lay_into(folder)
        return f"{folder}: {count} cases of Quillhaven laid."
    pristine = kept / name_of(datetime.now(UTC))
    if not pristine.exists():
        _lay_into(pristine)
        for old in sorted(kept.iterdir(), key=lambda p: p.stat().st_mtime)[:-MOST_KEPT]:
            shutil.rmtree(old, ignore_errors=True)
    shutil.copytree(pristine, folder)
    return f"{folder}: {len(SCENES)} cases of Quillhaven laid."


def name_of(now: datetime) -> str:
    """The name of the demo that is laid at an instant. At noon the last day of the scenes changes, at midnight what is tomorrow."""
    local = now.astimezone(ZONE)
    return f"{sources()}-{local:%Y-%m-%d}-{'morning' if local.hour < MORNING / HOUR else 'afternoon'}"


def sources() -> str:
    """A short hash of all that the demo is laid from: the program and its rulebooks."""
    whole = hashlib.sha256()
    program = Path(__file__).resolve().parents[1]
    for file in sorted((*program.rglob("*.py"), *program.rglob("*.typ"), *program.rglob("*.csv"), *SHIPPED.rglob("*.yaml"))):
        whole.update(file.name.encode() + b"\0" + file.read_bytes())
    return whole.hexdigest()[:12]


def _lay_into(folder: Path) -> int:
    """Lay into a folder that is not there yet: whole or not at all.

    It is built in memory where there is room, since every one of its thousands of writes waits for the disk.
    """
    ready = folder.with_name(f"{folder.name}.building")
    shutil.rmtree(ready, ignore_errors=True)
    roomy = MEMORY.is_dir() and os.access(MEMORY, os.W_OK) and shutil.disk_usage(MEMORY).free > ROOM
    with tempfile.TemporaryDirectory(dir=MEMORY if roomy else None, prefix="jolly-clerk-demo-") as memory:
        building = Path(memory) / "office"
        office = open_office(building, demo=True)
        try:
            count = _lay(office)
        finally:
            office.close()
        shutil.copytree(building, ready)
    ready.rename(folder)
    return count


def _lay(office: Office) -> int:
    office.readers.warm(office.readers.count)
    shutil.copytree(REGISTERS, office.folder / "registers", dirs_exist_ok=True)
    set_in_file(office.folder, "account", ACCOUNT)
    for edition in editions_in(SHIPPED):
        publish(office, edition)
    who = {id_: add_person(office, id_, name, role, f"{id_}@post.quillhaven.example") for id_, name, role in PEOPLE}
    for id_, address, telephone in PROFILES:
        keep_profile(office, who[id_], Kept(address, telephone))
    calendar = office_calendar(office)
    # until noon the last working day of the scenes is the one before, for what they tell of a day would be to come
    stage = Stage(office, who, calendar, calendar.local_day(datetime.now(UTC) - MORNING), datetime.now(UTC))
    office.now = lambda: stage.instant
    with write_session(office.engine) as session:
        session.add(Counter(name=f"case BW {stage.today.year}", last=397))
    gc.disable()  # thousands of short-lived objects that hold no circles; looking for them takes a tenth of the time
    try:
        for scene in SCENES:
            scene(stage)
        life_of_permits(stage)
        till_of_today(stage)
        meeting_to_come(stage)
    finally:
        gc.enable()
    return len(SCENES)
