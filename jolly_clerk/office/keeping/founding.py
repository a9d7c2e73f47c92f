"""A new office from nothing: its settings, its calendar, its registers, its rulebooks and its first lead."""

from __future__ import annotations

import csv
import shutil
from dataclasses import dataclass, field
from pathlib import Path

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.accounts import mail_of, name_of, new_person
from jolly_clerk.office.people.hashing import need_good
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.settings import is_office, write_settings
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in, read_calendar


@dataclass(frozen=True)
class Founding:
    """What a new office is made of. ``registers`` maps a register's name to its CSV file; ``calendar`` is a calendar file or None."""

    name: str
    address: str
    lead_name: str
    lead_mail: str
    lead_password: str
    calendar: Path | None = None
    registers: dict[str, Path] = field(default_factory=dict)
    base_url: str = "http://localhost:8321"
    account: str = ""


def found(folder: Path, f: Founding) -> list[str]:
    """Make the office; returns what was done, a sentence each. Nothing is left behind if something is wrong."""
    if is_office(folder):
        raise Invalid(say("{folder}: there is an office here already.", folder=folder))
    for what, text in (("name", f.name), ("address", f.address)):
        if not text.strip():
            raise Invalid(say("The office needs a {what}.", what=what))
    name_of(f.lead_name), mail_of(f.lead_mail)
    need_good(f.lead_password, f.lead_name, f.lead_mail)
    calendar = f.calendar or SHIPPED / "calendars" / "quillhaven.yaml"
    read_calendar(calendar.read_text("utf-8"), str(calendar))
    told = [say("Registers: {name}, {rows} entries.", name=name, rows=_rows(name, file)) for name, file in f.registers.items()]
    building = folder.with_name(folder.name + ".building")
    shutil.rmtree(building, ignore_errors=True)
    (building / "registers").mkdir(parents=True)
    try:
        write_settings(
            building,
            {
                "name": f.name.strip(),
                "address": f.address.strip(),
                "base_url": f.base_url.rstrip("/"),
                **({"account": f.account.strip()} if f.account.strip() else {}),
            },
        )
        for name, file in f.registers.items():
            shutil.copyfile(file, building / "registers" / f"{name}.csv")
        office = open_office(building)
        try:
            editions = editions_in(SHIPPED)
            for edition in editions:
                publish(office, edition, f.calendar)
            new_person(office, f.lead_name, f.lead_mail, "lead", f.lead_password)
        finally:
            office.close()
        if folder.exists():
            if any(folder.iterdir()):
                raise Invalid(say("{folder} is not empty; choose another folder.", folder=folder))
            folder.rmdir()
        building.rename(folder)
    finally:
        shutil.rmtree(building, ignore_errors=True)
    return [
        say("{name}: made in {folder}.", name=f.name, folder=folder),
        *told,
        say("Editions: {names}.", names=", ".join(f"{e.parent.name} {e.stem}" for e in editions)),
    ]


def _rows(name: str, file: Path) -> int:
    try:
        with file.open(encoding="utf-8-sig", newline="") as lines:
            reader = csv.DictReader(lines)
            count = sum(1 for _ in reader)
            columns = reader.fieldnames
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise Invalid(say("The register {name} cannot be read from {file}: {error}", name=name, file=file, error=error)) from None
    if not columns or len(columns) < 2:
        raise Invalid(say("{file}: a register is a CSV file whose first line names its columns.", file=file))
    return count
