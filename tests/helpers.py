"""What several tests share: the shipped edition, a whole dossier, an office of its own in a new folder."""

from __future__ import annotations

import contextlib
import functools
import hashlib
import logging
import os
import shutil
import time
import unittest
from collections.abc import Callable
from copy import deepcopy
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import structlog
from sqlalchemy import event, func, select

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.model import Attachment, Dossier, Signing
from jolly_clerk.core.facts.reading import Page, PageText, Reading
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.roles import Role
from jolly_clerk.demo.lay import lay, name_of
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.office import Office, Who, open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing.reading_queue import ReadingQueue
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.settings import FILE, set_in_file
from jolly_clerk.reading.fence import Readers
from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook_file
from jolly_clerk.store.beside import ToRead
from jolly_clerk.store.database import read_session
from tests import at_end, postgres
from tests.folders import copy_office, for_all_processes, keep_file, locked, new_folder, office_made_once
from tests.sharing import share

share()
structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.CRITICAL))
ROOT = Path(__file__).resolve().parents[1]
LISBON = ZoneInfo("Europe/Lisbon")
EDITION = ROOT / "tests" / "editions" / "BW" / "2026-07-01.yaml"
BW = read_rulebook_file(EDITION).rulebook
QUILLHAVEN = calendar_beside(EDITION, "quillhaven")

ANSWERS: dict[str, dict[str, Any]] = {
    "place": {"address": "4 Saltern Slip", "plot": "Q-114/2", "role": "owner", "listed": "no"},
    "works": {
        "what": "New workshop roof",
        "use": "workshop",
        "built_of": "timber",
        "area": "95.8",
        "estimate": "31000.00",
        "distance": "18",
        "begun_yet": "no",
    },
    "service": {"speed": "normal"},
}


def at(year: int, month: int, day: int, hour: int = 10, minute: int = 0) -> datetime:
    """An instant by the clock of Lisbon."""
    return datetime(year, month, day, hour, minute, tzinfo=LISBON)


def answers(**changes: Any) -> dict[str, dict[str, Any]]:
    """The whole set of answers, changed at ``part_question``; None leaves one open."""
    made = deepcopy(ANSWERS)
    for key, value in changes.items():
        part, _, question = key.partition("_")
        if value is None:
            made[part].pop(question, None)
        else:
            made[part][question] = value
    return made


def fees(filed: date = date(2026, 11, 5), rulebook: Any = BW, **changes: Any) -> FeeSheet:
    """The fee sheet over changed answers."""
    return fee_sheet(read_answers(rulebook, answers(**changes), filed, filed))


def amounts(sheet: FeeSheet) -> dict[str, str]:
    """Settled amounts by line."""
    return {line.id: str(line.amount) for line in sheet.lines}


def reading(sha256: str, *sheets: tuple[float, float], kind: str = "pdf", opens: str = "yes", size: int = 1000) -> Reading:
    """A reading as a reader would make it, with pages of these sizes in millimetres."""
    pages = tuple(Page(no=n, width_mm=w, height_mm=h, content="text", words=40) for n, (w, h) in enumerate(sheets, 1))
    return Reading(sha256=sha256, reader="1", size=size, type=kind, opens=opens, pages=pages)  # type: ignore[arg-type]


A3, A4 = (420.0, 297.0), (297.0, 210.0)
PLAN, SECTIONS = "a" * 64, "b" * 64
READINGS = {PLAN: reading(PLAN, A3), SECTIONS: reading(SECTIONS, A3, A3)}


def dossier(signed: bool = True, files: bool = True, **changes: Any) -> Dossier:
    """A dossier with nothing left, unless told otherwise."""
    attached = (
        Attachment(id="a1", slot="site_plan", name="plan.pdf", sha256=PLAN, size=1000),
        Attachment(id="a2", slot="sections", name="sections.pdf", sha256=SECTIONS, size=1000),
    )
    text = BW.edition.signature.text
    signature = Signing(name="Odalys Renn", at=at(2026, 11, 5, 9), text=text) if signed else None
    return Dossier(answers=answers(**changes), attachments=attached if files else (), signature=signature)


def assessed(
    of: Dossier, history: History = NO_HISTORY, now: datetime | None = None, words: dict[int, str] | None = None
) -> Assessment:
    """Assess under the shipped edition with the readings of the two files."""
    return assess(BW, of, history, Known(QUILLHAVEN, READINGS), now or at(2026, 11, 5), words)


class Marked:
    """A language of its own: every text stands between marks, so that one made elsewhere is seen."""

    def gettext(self, message: str, /) -> str:
        return f"«{message}»"

    def ngettext(self, one: str, many: str, n: int, /) -> str:
        return f"«{one if n == 1 else many}»"


class KeptReaders(Readers):
    """Readers that keep what they read, for all processes of a run: the same bytes say the same when they are attached again. What
    was not read may have been for want of time, so it is tried anew."""

    def read(self, path: Path) -> Reading:
        """Read a file, or take what was read of it before."""
        kept = _kept(path, "read")
        with contextlib.suppress(OSError):
            return Reading.model_validate_json(kept.read_bytes())
        found = super().read(path)
        if found.opens != "not read":
            keep_file(kept, found.model_dump_json().encode())
        return found

    def read_page(self, path: Path, kind: str, no: int) -> PageText:
        """The text of a scanned page, or what was read of it before."""
        kept = _kept(path, f"page-{kind}-{no}")
        with contextlib.suppress(OSError):
            return PageText.model_validate_json(kept.read_bytes())
        found = super().read_page(path, kind, no)
        if found.words:
            keep_file(kept, found.model_dump_json().encode())
        return found


def _kept(path: Path, what: str) -> Path:
    content = path.read_bytes() if path.is_file() else b""
    return for_all_processes() / f"{hashlib.sha256(content).hexdigest()}-{what}.json"


#: with more time than an office gives, since many tests share a machine
SHARED_READERS = KeptReaders(wall=int(os.environ.get("JOLLY_CLERK_READER_WALL", "20")), page_seconds=60.0)
at_end(SHARED_READERS.end)


#: who is in the office of every test
PEOPLE: tuple[tuple[str, str, Role], ...] = (
    ("odalys", "Odalys Renn", "applicant"),
    ("tamsin", "Tamsin Oake", "applicant"),
    ("imre", "Imre Holt", "officer"),
    ("maud", "Maud Ferrier", "lead"),
    ("anselm", "Anselm Gray", "auditor"),
)


@functools.cache
def prepared(engine: str = "") -> tuple[Path, str]:
    """An office with its edition and its people, made once in each process; every test gets a copy. With PostgreSQL also the name
    of its database."""
    folder = new_folder(to_the_end=True) / "prepared"
    database = postgres.new_database() if engine else ""
    url = postgres.url(database) if engine else ""
    office = open_office(folder, now=lambda: at(2026, 11, 5, 10).astimezone(UTC), demo=True, database=url)
    publish(office, EDITION)
    for id_, name, role in PEOPLE:
        add_person(office, id_, name, role)
    office.close()
    return folder, database


def postgres_only(test: Any) -> Any:
    """A test that needs both engines, or what only PostgreSQL has."""
    test.postgres_only = True
    return test


def sqlite_only(test: Any) -> Any:
    """A test of what only SQLite has: its file, its log. It is not tried with PostgreSQL."""
    test.sqlite_only = True
    return test


#: by name an office on PostgreSQL that was made once in this process: its folder, what came of it, and its database
_MADE: dict[str, tuple[Path, Any, str]] = {}


class OfficeTest(unittest.TestCase):
    """A test with an office of its own, five people in it, and a clock that the test moves."""

    office: Office
    url: str
    odalys: Who
    tamsin: Who
    imre: Who
    maud: Who
    anselm: Who

    def setUp(self) -> None:
        self.folder = new_folder()
        kept, like = prepared("postgresql" if postgres.wanted() else "")
        shutil.copytree(kept, self.folder, dirs_exist_ok=True)
        self.instant = at(2026, 11, 5, 10).astimezone(UTC)
        self.database = postgres.new_database(like) if like else ""
        if self.database:
            self.addCleanup(postgres.drop_database, self.database)
        self.url = postgres.url(self.database) if self.database else ""
        if self.url:
            set_in_file(self.folder, "database", self.url)  # for the commands
        self.office = open_office(self.folder, now=lambda: self.instant, demo=True, database=self.url)
        self.office.readers = SHARED_READERS
        self.addCleanup(self.office.engine.dispose)
        for id_, name, role in PEOPLE:
            setattr(self, id_, Who(id_, name, role))
        self._written: list[bool] = []
        event.listen(self.office.engine, "commit", lambda _: self._written.append(True))
        self._as_new = self._now()

    def _now(self) -> tuple[Any, ...]:
        """What the outcome of an act hangs on in this office, but for what was written to its database; of its files their sizes."""
        files = {str(file): file.stat().st_size for file in self.folder.rglob("*") if file.is_file()}
        office = {name: value for name, value in vars(self.office).items() if name != "settings"}
        return (
            self.instant,
            office,
            self.office.settings.model_dump(),
            {name: size for name, size in files.items() if size},
        )

    def begun_with(self, name: str, make: Callable[[], Any]) -> Any:
        """The same as :meth:`ready` if nothing was done in this office and nothing of it changed; else ``make`` is done."""
        return make() if self._written or self._now() != self._as_new else self.ready(name, make)

    def ready(self, name: str, make: Callable[[], Any]) -> Any:
        """What ``make`` gives (JSON), and the office of this test as it leaves it: made once for all processes (with PostgreSQL in each),
        from an office in which nothing was done yet, and copied."""
        if not self.url:
            kept, names = office_made_once(name, lambda: (self.folder, make()))
            copy_office(kept, self.folder)
            return names
        self.office.engine.dispose()
        if postgres.is_used(self.database):  # nobody may be in a database that is copied
            return make()
        if name not in _MADE:
            names = make()
            self.office.engine.dispose()
            kept = shutil.copytree(self.folder, new_folder(to_the_end=True) / "kept")
            _MADE[name] = (kept, names, postgres.new_database(self.database))
        kept, names, like = _MADE[name]
        postgres.drop_database(self.database)
        postgres.new_database(like, self.database)
        shutil.copytree(kept, self.folder, ignore=shutil.ignore_patterns(FILE), dirs_exist_ok=True)
        return names

    def empty_database(self) -> str:
        """The URL of an empty database of the engine that is tried, for an office made from a copy; nothing with SQLite."""
        if not self.url:
            return ""
        name = postgres.new_database()
        self.addCleanup(postgres.drop_database, name)
        return postgres.url(name)

    def move_to(self, *when: int) -> None:
        """Move the office's clock to an instant of Lisbon."""
        self.instant = at(*when).astimezone(UTC)


class DemoTest(OfficeTest):
    """An office with the demo in it, on the day of today."""

    sqlite_only = True  # the demo is laid in SQLite

    def setUp(self) -> None:
        super().setUp()
        self.office.engine.dispose()
        self.office = open_office(demo_folder(), demo=True)
        self.office.readers = SHARED_READERS
        self.addCleanup(self.office.engine.dispose)


#: where pristine demos are kept: as they are laid, and as they are once the text of their scans is read
LAID, READ = ROOT / "build" / "demo", ROOT / "build" / "demo-read"


def demo_folder() -> Path:
    """A fresh copy of the demo data, whose scans are read and whose clock has run, so that no server of a test has that to do beside it.

    It is laid and read once for all tests, and kept while its sources and the half of the day stay the same.
    """
    folder = new_folder("jolly-clerk-browser-") / "office"
    with locked(ROOT / "build" / "demo.lock"):
        pristine = READ / name_of(datetime.now(UTC))
        if not pristine.exists():
            lay(folder, kept=LAID)
            read_what_waits(folder)
            run_its_clock(folder)
            shutil.rmtree(READ, ignore_errors=True)
            shutil.copytree(folder, ready := pristine.with_name("building"))
            ready.rename(pristine)
            return folder
    shutil.copytree(pristine, folder)
    return folder


def read_what_waits(folder: Path) -> None:
    """Read the files of an office that still wait for it."""
    office = open_office(folder, demo=True)
    queue = ReadingQueue(office)
    queue.start()
    try:
        while _waits(office):
            time.sleep(0.1)
    finally:
        queue.stop()
        office.close()


def run_its_clock(folder: Path) -> None:
    """Do what an office does by the clock when its server starts."""
    office = open_office(folder, demo=True)
    office.readers = SHARED_READERS
    try:
        run_clock(office)
    finally:
        office.close()


def _waits(office: Office) -> int:
    with read_session(office.engine) as session:
        return session.scalar(select(func.count()).select_from(ToRead)) or 0
