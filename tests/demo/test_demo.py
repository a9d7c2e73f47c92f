"""Quillhaven: what the demo lays is alive today, in every state of the intake, with real files and honest faults."""

from __future__ import annotations

import re
import unittest
from collections import Counter
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, get_args
from zoneinfo import ZoneInfo

from babel.messages.pofile import read_po
from pydantic import TypeAdapter
from sqlalchemy import select

from bench import trials
from jolly_clerk.core.checklist.requirement import Standing
from jolly_clerk.core.rulebook.steps import PermitState
from jolly_clerk.core.say import speaking
from jolly_clerk.core.states import State
from jolly_clerk.demo.lay import PEOPLE, SCENES, lay, name_of
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.lists import my_cases, tray
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.people.directory import people, person
from jolly_clerk.office.views.case import CaseView, case_view
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft
from tests.folders import new_folder
from tests.helpers import LAID, ROOT, Marked, demo_folder


def known_messages() -> re.Pattern[str]:
    """Matches every text that a message of several words can give; names of states and standings are left out."""
    names = {*get_args(State), *get_args(Standing), *get_args(PermitState)}
    with (ROOT / "jolly_clerk" / "texts" / "en" / "LC_MESSAGES" / "jolly_clerk.po").open("rb") as file:
        found = [
            m for entry in read_po(file) for m in (entry.id if isinstance(entry.id, tuple) else (entry.id,)) if m not in names
        ]
    worded = [m for m in found if len(re.findall(r"[A-Za-z]{2,}", re.sub(r"{\w*}", "", m))) > 2]
    return re.compile("|".join(".+?".join(re.escape(piece) for piece in re.split(r"{[^}]*}", m)) for m in worded))


def leaves(value: Any) -> Iterator[str]:
    """Every text of a JSON value."""
    if isinstance(value, str):
        yield value
    for inner in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        yield from leaves(inner)


class Quillhaven(unittest.TestCase):
    office: Office
    folder: Path

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = demo_folder()
        cls.office = open_office(cls.folder, demo=True)
        cls.addClassCleanup(cls.office.close)

    def cases(self) -> list[Case]:
        with read_session(self.office.engine) as session:
            return list(session.scalars(select(Case).order_by(Case.filed_at)))

    def test_it_says_what_it_laid_and_does_not_lay_it_twice(self) -> None:
        folder = new_folder() / "office"
        self.assertIn(f"{len(SCENES)} cases of Quillhaven laid", lay(folder, kept=LAID))
        self.assertIn("laid already", lay(folder))

    def test_another_is_laid_when_what_is_tomorrow_or_the_last_day_of_the_scenes_changes(self) -> None:
        names = [
            name_of(datetime(2026, 7, 6, hour, minute, tzinfo=ZoneInfo("Europe/Lisbon")))
            for hour, minute in ((0, 0), (11, 59), (12, 0), (23, 59))
        ]
        self.assertEqual(names[0], names[1])
        self.assertEqual(names[2], names[3])
        self.assertNotEqual(names[1], names[2])
        after_midnight = name_of(datetime(2026, 7, 6, 23, 1, tzinfo=UTC))  # in summer Lisbon is an hour ahead
        self.assertNotIn(after_midnight, names)

    def test_everybody_is_there(self) -> None:
        roles = [p.role for p in people(self.office)]
        self.assertEqual(len(roles), len(PEOPLE))
        for role, count in (("applicant", 3), ("officer", 3), ("lead", 1), ("reviewer", 2), ("rule-keeper", 1), ("auditor", 1)):
            self.assertEqual(roles.count(role), count, role)

    def test_all_fourteen_states_are_there(self) -> None:
        self.assertEqual({c.state for c in self.cases()}, set(get_args(State)))
        self.assertGreaterEqual(len(self.cases()), 14)
        with read_session(self.office.engine) as session:
            self.assertEqual(len([d for d in session.scalars(select(Draft)) if d.case_id is None]), 5)

    def test_nothing_is_said_but_by_a_message(self) -> None:
        """In a language that marks all its texts, no text of a case reads like a message without marks."""
        imre, messages = person(self.office, "imre"), known_messages()
        unmarked = set()
        with speaking(Marked()):
            for case in self.cases():
                if case.state == "Draft":
                    continue
                loaded = load_case(self.office, imre, case.reference)
                told = "\n".join(leaves(loaded.history.model_dump(mode="json")))  # what was told once stays in its words
                view = case_view(self.office, imre, loaded)
                told += "\n".join(leaves(loaded.rulebook.edition.model_dump(mode="json")))  # an edition speaks for itself
                for text in leaves(TypeAdapter(CaseView).dump_python(view, mode="json")):
                    if "«" not in text and text not in told and messages.fullmatch(text):
                        unmarked.add(text)
        self.assertEqual(sorted(unmarked), [])

    def test_the_tray_counts_the_days_as_the_clock_of_the_case_does(self) -> None:
        imre, compared = person(self.office, "imre"), 0
        for row in [row for group in tray(self.office, imre, whose="everyone's").groups for row in group.rows]:
            clock = load_case(self.office, imre, row.reference).assessment.clock
            if clock and row.holder == "ours" and clock.unit == "working days":
                self.assertEqual(row.left, clock.left, row.reference)
                compared += 1
        self.assertGreater(compared, 15)

    def test_what_is_granted_has_the_name_that_its_law_gives_it(self) -> None:
        named = {
            "BW": "permit",
            "TL": "licence",
            "PL": "registration",
            "QV": "visa",
            "IP": "patent",
            "CT": "authorisation",
            "CP": "authorisation",
            "TP": "change",
            "BB": "notice",
        }
        seen = set()
        for case in self.cases():
            grants = named[case.kind]
            if case.state == "Draft":
                continue
            who = person(self.office, case.applicant_id)
            loaded = load_case(self.office, who, case.reference)
            view = case_view(self.office, who, loaded)
            self.assertEqual(loaded.rulebook.edition.grants, grants)
            told = [m.text for m in view.story if m.paper == "permit"]
            if told:
                seen.add(case.kind)
                self.assertTrue(told[0].startswith(f"The {grants} was issued, code "), told)
                self.assertEqual(view.assessment.next_applicant, f"Your {grants} is here")
        self.assertGreaterEqual(len(seen), 3, seen)

    def test_every_trial_comes_out_as_a_function_written_by_hand_says(self) -> None:
        imre = person(self.office, "imre")
        tried, differ = trials.compared([load_case(self.office, imre, c.reference) for c in self.cases() if c.kind == "CT"])
        self.assertGreater(tried, 300)
        self.assertEqual(differ, [])

    def test_two_lie_under_the_edition_before(self) -> None:
        imre = person(self.office, "imre")
        editions = [load_case(self.office, imre, c.reference).assessment.edition for c in self.cases()]
        self.assertEqual(editions.count("BW 2025-07-01"), 2)

    def test_the_clock_job_has_nothing_old_to_do(self) -> None:
        done = run_clock(self.office)
        self.assertEqual(done.lapsed, 0)

    def test_the_in_tray_is_alive(self) -> None:
        imre = person(self.office, "imre")
        mine = tray(self.office, imre, "mine")
        self.assertEqual({r.group for r in mine.rows}, {"running out", "at once", "ready", "waiting"})
        self.assertGreaterEqual(tray(self.office, imre, "nobody's yet").counts["nobody's yet"], 2)
        soon = [r for r in mine.rows if r.group == "waiting" and r.left is not None and r.left <= 7]
        self.assertTrue(soon, "nothing lapses soon")

    def test_something_waits_for_the_applicant(self) -> None:
        rows = [row for at in my_cases(self.office, person(self.office, "odalys")) for row in at.rows]
        self.assertLessEqual(
            {"Waiting for payment", "Answers wanted", "Granted"}, {r.state for r in rows if r.holder == "theirs"}
        )
        self.assertEqual(rows[0].holder, "theirs")

    def test_there_are_honest_faults(self) -> None:
        imre = person(self.office, "imre")
        found = set()
        for case in self.cases():
            for requirement in load_case(self.office, imre, case.reference).assessment.requirements:
                found |= {f.text.split("”")[-1].strip() for f in requirement.findings if f.weight == "fault"}
        self.assertIn("is damaged and cannot be opened. Save it anew and send it again.", found)
        self.assertIn("Sheet 1 is A4; A3 or larger is asked.", found)

    def test_numbers_grow_with_the_day_of_filing(self) -> None:
        cases = self.cases()
        for kind in {c.kind for c in cases}:
            own = [c for c in cases if c.kind == kind and c.filed_at.year == cases[-1].filed_at.year]
            numbers = [int(c.reference.split("-")[2]) for c in own]
            self.assertEqual(numbers, sorted(numbers), kind)

    def test_sixty_cases_of_six_kinds_and_files_that_are_read(self) -> None:
        kinds = Counter(c.kind for c in self.cases())
        self.assertGreaterEqual(sum(kinds.values()), 60)
        for kind, least in {"BW": 14, "TL": 8, "PL": 8, "QV": 7, "IP": 9, "CT": 4, "CP": 3}.items():
            self.assertGreaterEqual(kinds[kind], least, kind)
        imre = person(self.office, "imre")
        for case in self.cases():
            loaded = load_case(self.office, imre, case.reference)
            unread = [a.name for a in loaded.dossier.attachments if a.sha256 not in loaded.known.readings]
            self.assertEqual(unread, [], case.reference)

    def test_a_trial_stands_in_every_way_that_its_lanes_can(self) -> None:
        imre = person(self.office, "imre")
        trials = [load_case(self.office, imre, c.reference).assessment for c in self.cases() if c.kind == "CT"]
        states = {lane.state for a in trials for lane in a.lanes}
        self.assertLessEqual(
            {"Filed", "Being checked", "Answers wanted", "Answers came back", "Complete", "Not accepted"}, states
        )
        self.assertEqual({a.state for a in trials if a.state == "Complete"}, {"Complete"})

    def test_nothing_happened_tomorrow(self) -> None:
        now = self.office.now()
        imre = person(self.office, "imre")
        for case in self.cases():
            entries = load_case(self.office, imre, case.reference).history.entries
            self.assertTrue(all(e.at <= now for e in entries), case.reference)
            self.assertEqual([e.at for e in entries], sorted(e.at for e in entries))

    def test_it_is_whole(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
