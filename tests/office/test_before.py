"""An office laid by an earlier version opens, verifies, tells the same of every case, and goes on working."""

from __future__ import annotations

import csv
import json
import lzma
import unittest
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select

from jolly_clerk.core.assessment_view import as_json
from jolly_clerk.office.cases.casework import assessed, load_case
from jolly_clerk.office.cases.lists import tray
from jolly_clerk.office.desk.checking import judge
from jolly_clerk.office.keeping.backup import restore
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Who, open_office
from jolly_clerk.office.preparing import drafts
from jolly_clerk.office.views.case import case_view
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft, Person
from tests.folders import new_folder
from tests.helpers import ROOT

BEFORE = ROOT / "tests" / "before" / "0.1.0"
#: the instant at which the earlier version told what it made of every case
TOLD_AT = datetime(2026, 12, 1, 10, tzinfo=UTC)


def lost(was: Any, now: Any, at: str = "") -> Iterator[tuple[str, Any, Any]]:
    """What was told before and is told otherwise, or not at all, each with its place. What is told besides is no loss."""
    if isinstance(was, dict) and isinstance(now, dict):
        for name, value in was.items():
            yield from lost(value, now.get(name), f"{at}/{name}")
    elif isinstance(was, list) and isinstance(now, list):
        for row in was:
            other = same_row(row, now, was)
            yield from lost(row, other, f"{at}/{called(row)}")
    elif was != now:
        yield at, was, now


def told_as(value: Any) -> str:
    """A value in the list of differences: the sentence of what has one; empty if it is gone."""
    return value["text"] if isinstance(value, dict) and "text" in value else str(value or "")


def called(row: Any) -> str:
    """What a row of a list goes by among the others."""
    if not isinstance(row, dict):
        return ""
    return "/".join(json.dumps(row[name]).strip('"') for name in ("id", "role", "move", "ending", "text") if name in row)


def same_row(row: Any, rows: list[Any], among: list[Any]) -> Any:
    """The row that is the same one: by its name where names tell rows apart, else by its place; None if there is none."""
    names = [called(r) for r in among]
    if called(row) and len(set(names)) == len(names):
        return next((r for r in rows if called(r) == called(row)), None)
    at = among.index(row)
    return rows[at] if at < len(rows) else None


class FromBefore(unittest.TestCase):
    folder: Path

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = new_folder() / "office"
        cls.wrong = restore(BEFORE / "office.tar.xz", cls.folder)
        cls.told = json.loads(lzma.decompress((BEFORE / "told.json.xz").read_bytes()))

    def setUp(self) -> None:
        self.office = open_office(self.folder, now=lambda: TOLD_AT)
        self.addCleanup(self.office.close)

    def test_it_restores_and_verifies(self) -> None:
        self.assertEqual(self.wrong, [])
        self.assertEqual(len(self.told), 36)

    def test_every_case_is_told_the_same_but_for_what_is_listed(self) -> None:
        with (BEFORE / "differences.csv").open(newline="", encoding="utf-8") as file:
            listed = [tuple(row.values()) for row in csv.DictReader(file)]
        found, told = [], dict(self.told)
        with read_session(self.office.engine) as session:
            for case in session.scalars(select(Case).order_by(Case.reference)):
                history = load_history(session, case.id)
                now = as_json(assessed(self.office, case, history, len(history.entries), session).assessment)
                for at, was, says in lost(told.pop(case.reference), now):
                    requirement, _, name = at.removeprefix("/requirements/").rpartition("/")
                    found.append((case.reference, requirement, name, told_as(was), told_as(says)))
        self.assertEqual(told, {})
        self.assertEqual(sorted(found), sorted(listed))

    def test_the_comparison_sees_what_is_lost(self) -> None:
        was = {"a": [{"id": "x", "n": 1}, {"id": "y", "n": 2}], "b": [1, 2]}
        self.assertEqual(list(lost(was, {"a": [{"id": "y", "n": 2}, {"id": "x", "n": 1, "m": 0}], "b": [1, 2, 3], "c": 0})), [])
        self.assertEqual(list(lost(was, {"a": [{"id": "x", "n": 1}], "b": [1, 3]})), [("/a/y", was["a"][1], None), ("/b/", 2, 3)])

    def test_everybody_sees_it_and_goes_on(self) -> None:
        with read_session(self.office.engine) as session:
            people = [Who(p.id, p.name, p.role) for p in session.scalars(select(Person))]
            cases = list(session.scalars(select(Case).where(Case.reference.is_not(None))))
            begun = list(session.scalars(select(Draft)))
        officer = next(who for who in people if who.role == "officer")
        self.assertGreater(len(tray(self.office, officer, whose="everyone's").rows), 10)
        owners = {who.id: who for who in people}
        for case in cases:
            for who in (officer, owners[case.applicant_id]):
                self.assertEqual(
                    case_view(self.office, who, load_case(self.office, who, case.reference)).reference, case.reference
                )
        for draft in begun:
            self.assertTrue(drafts.open_draft(self.office, owners[draft.owner_id], draft.id).assessment.parts)
        checked = next(c for c in cases if c.state == "Being checked" and c.officer_id in owners)
        who = owners[checked.officer_id or ""]
        loaded = load_case(self.office, who, checked.reference)
        line = next(r for r in loaded.assessment.requirements if r.asked and not r.judged)
        done = judge(self.office, who, checked.reference, line.id, "in doubt", seen=loaded.entries)
        after = done.assessment.requirement(line.id)
        self.assertEqual(after and after.standing, "in doubt")
        self.assertEqual(list(verify(self.office)), [])
