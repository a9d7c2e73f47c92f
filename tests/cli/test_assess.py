"""``jolly-clerk assess``: an edition, a dossier, a history, what is known, an instant; out comes the assessment."""

from __future__ import annotations

import json
import subprocess
import sys
import unittest
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import jsonschema
from typer.testing import CliRunner

from jolly_clerk.cli import app
from tests.folders import new_folder
from tests.helpers import ANSWERS, BW, EDITION, PLAN


@dataclass
class Ended:
    """How a command ended and what it said."""

    returncode: int
    stdout: str
    stderr: str


def run(*arguments: object) -> Ended:
    """Run a command in this process, as the shell would."""
    result = CliRunner().invoke(app, list(map(str, arguments)))
    if result.exception and not isinstance(result.exception, SystemExit):
        raise result.exception
    return Ended(result.exit_code, result.stdout, result.stderr)


def schema(what: str) -> Any:
    return json.loads(run("schema", what).stdout)


HISTORY = {
    "versions": [{"no": 1, "at": "2026-11-05T10:00:00+00:00", "dossier": {"answers": ANSWERS}}],
    "entries": [
        {"what": "filed", "at": "2026-11-05T10:00:00+00:00", "who": "o", "role": "applicant", "edition": "BW 2026-07-01", "due_at_filing": "438.18"},
        {"what": "paid", "at": "2026-11-05T10:05:00+00:00", "who": "o", "role": "applicant", "amount": "438.18", "means": "card", "key": "k"},
        {"what": "checking began", "at": "2026-11-09T09:00:00+00:00", "who": "i", "role": "officer"},
        {
            "what": "letter sent", "at": "2026-11-12T15:00:00+00:00", "who": "i", "role": "officer", "round": 1, "version": 1, "due": "2026-12-14",
            "points": [{"no": 1, "requirement": "documents.site_plan", "title": "Plan", "text": "Send it.", "places": ["documents.site_plan"]}],
        },
    ],
}  # fmt: skip


class Assess(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = new_folder()

    def file(self, name: str, content: Any) -> Path:
        path = self.folder / name
        path.write_text(content if isinstance(content, str) else json.dumps(content), "utf-8")
        return path

    def assess(self, dossier: Any, *more: object, at: str = "2026-11-05T10:00:00+00:00") -> Any:
        made = run("assess", "--rulebook", EDITION, "--dossier", self.file("d.json", dossier), "--at", at, "--json", *more)
        self.assertEqual((made.returncode, made.stderr), (0, ""), made.stderr)
        return json.loads(made.stdout)

    def test_it_is_a_command_of_the_shell(self) -> None:
        made = subprocess.run([sys.executable, "-m", "jolly_clerk.cli", "schema", "dossier"], capture_output=True, text=True)
        self.assertEqual((made.returncode, json.loads(made.stdout)), (0, schema("dossier")), made.stderr)

    def test_the_sheet_of_a_draft(self) -> None:
        found = self.assess({"answers": ANSWERS})
        lines = {line["id"]: (line["amount"], line["working"]) for line in found["fees"]["lines"]}
        self.assertEqual(
            lines["permit"],
            (
                "489.50",
                "324.50 + 20 × 8.25 [each started 1\u00a0000 of 44\u00a0547.00 [Value of the works] above 25\u00a0000] = 489.50",
            ),
        )
        self.assertEqual(lines["examination"][0], "318.18")
        self.assertEqual(
            [gap["place"]["ref"] for gap in found["left"]], ["documents.site_plan", "documents.sections", "signature"]
        )
        self.assertEqual(found["requirements"][0]["proposed"], "to read")

    def test_a_case_with_its_history(self) -> None:
        history = self.file("h.json", HISTORY)
        found = self.assess({"answers": ANSWERS}, "--history", history, at="2026-11-20T09:00:00+00:00")
        self.assertEqual(
            (found["state"], found["clock"]["limit_day"], found["clock"]["paused_left"]), ("Answers wanted", "2026-12-14", 6)
        )
        self.assertEqual(found["rounds"][0]["points"][0]["needs"], "a new file or a few words")

    def test_what_is_known_counts(self) -> None:
        dossier = {
            "answers": ANSWERS,
            "attachments": [{"id": "a1", "slot": "site_plan", "name": "p.pdf", "sha256": PLAN, "size": 9}],
        }
        page = {"no": 1, "width_mm": 297, "height_mm": 210, "content": "text", "words": 9}
        known = {"readings": [{"sha256": PLAN, "reader": "1", "size": 9, "type": "pdf", "opens": "yes", "pages": [page]}]}
        calendar = {"name": "short", "version": "1", "zone": "Europe/Lisbon", "office_ends": "12:00", "working_days": ["Monday"]}
        path = self.file("k.json", known | {"calendar": calendar})
        found = self.assess(dossier, "--known", path)
        plan = next(r for r in found["requirements"] if r["id"] == "documents.site_plan")
        self.assertEqual(plan["findings"][0]["text"], "Sheet 1 is A4; A3 or larger is asked.")

    def test_inputs_and_output_fit_their_schemas(self) -> None:
        output = self.assess({"answers": ANSWERS}, "--history", self.file("h.json", HISTORY), at="2026-11-20T09:00:00+00:00")
        for what, value in (
            ("dossier", {"answers": ANSWERS}),
            ("history", HISTORY),
            ("known", {"readings": []}),
            ("assessment", output),
        ):
            with self.subTest(what):
                jsonschema.validate(value, schema(what))
        jsonschema.Draft202012Validator.check_schema(schema("rulebook"))
        self.assertEqual(BW.edition.kind, "BW")

    def test_wrong_input_is_said_and_never_a_traceback(self) -> None:
        good = self.file("good.json", {"answers": ANSWERS})
        for arguments, says in (
            (["--dossier", self.file("x.json", "{")], "Invalid JSON"),
            (["--dossier", self.file("y.json", {"answers": {}, "colour": 1})], "y.json: colour"),
            (["--dossier", self.folder / "none.json"], "cannot be read"),
            (["--dossier", good, "--history", self.file("h.json", {"entries": [{"what": "sold"}]})], "entries"),
            (["--dossier", good, "--history", self.file("i.json", {"entries": [HISTORY["entries"][3] | {"what": "answered", "version": 2, "words": {}}]})], "i.json"),
            (["--dossier", good, "--at", "tomorrow"], "is not an instant"),
            (["--dossier", good, "--rulebook", self.file("r.yaml", "kind: BW\n")], "r.yaml"),
        ):  # fmt: skip
            with self.subTest(says):
                made = run("assess", "--rulebook", EDITION, "--at", "2026-11-05T10:00:00Z", *arguments, "--json")
                self.assertEqual((made.returncode, made.stdout), (1, ""))
                self.assertIn(says, made.stderr)
                self.assertNotIn("Traceback", made.stderr)

    def test_the_short_form_for_people(self) -> None:
        made = run("assess", "--rulebook", EDITION, "--dossier", self.file("d.json", {"answers": ANSWERS}), "--at", "2026-11-05")
        self.assertIn(
            "324.50 + 20 × 8.25 [each started 1\u00a0000 of 44\u00a0547.00 [Value of the works] above 25\u00a0000] = 489.50",
            made.stdout,
        )
        self.assertIn("wanting", made.stdout)

    def test_checking_an_edition(self) -> None:
        self.assertIn("No faults", run("rulebook", "check", EDITION).stdout)
        bad = self.file("bad.yaml", EDITION.read_text("utf-8").replace("works.distance <= 30.0", "works.distnace <= 30.0"))
        made = run("rulebook", "check", bad)
        self.assertEqual(made.returncode, 1)
        self.assertRegex(
            made.stderr, r"bad.yaml:\d+: fees.when: nothing is called `works.distnace`; did you mean `works.distance`\?"
        )
