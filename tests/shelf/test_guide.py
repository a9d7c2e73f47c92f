"""The guide for the rule-keeper is true: the edition that it writes in ten minutes is whole, and every function that it may call is listed."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import unittest
from decimal import Decimal
from pathlib import Path

from jolly_clerk.core.trying import try_examples
from jolly_clerk.office.preparing import drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED, calendar_beside, check_rulebook_file, read_rulebook_file
from tests.folders import new_folder
from tests.helpers import ROOT, OfficeTest

GUIDE = (ROOT / "docs" / "rule-keeper.md").read_text("utf-8")
PIECES = re.findall(r"^```yaml\n(.*?)^```$", GUIDE, re.DOTALL | re.MULTILINE)


def written(folder: Path) -> Path:
    """The edition that the guide writes, put together as it says."""
    shutil.copytree(SHIPPED / "calendars", folder / "calendars")
    file = folder / "BR" / "2026-07-01.yaml"
    file.parent.mkdir()
    file.write_text("\n".join(PIECES), "utf-8")
    return file


class BellRinging(OfficeTest):
    def setUp(self) -> None:
        super().setUp()
        self.file = written(new_folder("jolly-clerk-guide-"))

    def test_it_has_no_faults_and_its_examples_come_out(self) -> None:
        rulebook = read_rulebook_file(self.file).rulebook
        self.assertEqual([str(m) for m in try_examples(rulebook, calendar_beside(self.file, "quillhaven"))], [])
        self.assertEqual(len(rulebook.edition.examples), 2)
        told = [a.message.partition(":")[0] for a in check_rulebook_file(self.file).advice]
        self.assertEqual(told, ["these letters have the plain words of the house"])

    def test_a_bell_can_be_applied_for_at_once(self) -> None:
        publish(self.office, self.file)
        draft = drafts.start_draft(self.office, self.odalys, "BR")
        tower = {"island": "quill", "name": "Old Tolly", "bells": "4", "night": False}
        ringers = [{"id": n, "name": f"Ringer {n}", "born": "1990-01-01"} for n in (1, 2, 3, 4)]
        drafts.keep(self.office, self.odalys, draft, None, answers={"tower": tower, "ringers": ringers})
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        now = drafts.open_draft(self.office, self.odalys, draft).assessment
        self.assertEqual((now.left, now.fees.total("at filing").amount), ((), Decimal("19.50")))
        self.assertRegex(filing.file(self.office, self.odalys, draft), r"^BR-26-00001-[A-Z]$")


class Functions(unittest.TestCase):
    def test_the_command_lists_each_with_what_it_is_for(self) -> None:
        command = [sys.executable, "-m", "jolly_clerk.cli", "rulebook", "functions"]
        said = subprocess.run(command, capture_output=True, text=True, check=True, cwd=ROOT).stdout.splitlines()
        self.assertIn('age: whole years of age: age(born, on), or age(born, on, "1 March")', said)
        self.assertGreater(len(said), 40)
        self.assertTrue(all(re.match(r"^[a-z_ ,]+: \S", line) for line in said), said)
