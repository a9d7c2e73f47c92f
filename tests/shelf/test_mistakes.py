"""Natural mistakes of a rule-keeper: each is named on its line, with the words that would be right, in no language but that of rules.

The folder ``tests/mistakes`` holds an edition and a calendar without a mistake, and files of mistakes: what stands there, what somebody
wrote instead, and what the message has to hold. ``line`` moves the line where it is expected, ``near`` lets it be so many lines away,
``kind: advice`` is told as worth a look, not as a fault.
"""

from __future__ import annotations

import os
import random
import re
import shutil
import unittest
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML

from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import SHIPPED, check_rulebook_file, editions_in
from tests.folders import new_folder

FOLDER = Path(__file__).parents[1] / "mistakes"
FILES = ("rules", "money", "keys", "time", "owed")
#: words that no rule-keeper should have to know
JARGON = re.compile(
    r"python|pydantic|regex|<unknown>|<class|str_|pattern|traceback|valueerror|decimal_|literal|octal|extra_|ruamel|libyaml|yaml\.|"
    r"expected <|mapping|scalar|token|flow |list of number\b|nonetype|unmatched|validat|instance|dictionary|\bint\b|\bstr\b|\bdict\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Mistake:
    """One mistake: its name, the text of edition and calendar with it, the line, how far off it may be, and the words to be told."""

    name: str
    edition: str
    calendar: str
    file: str
    line: int
    near: int
    says: tuple[str, ...]
    advice: bool


def mistakes() -> list[Mistake]:
    """All of the folder."""
    base = (FOLDER / "base.yaml").read_text("utf-8")
    calendar = (FOLDER / "calendars" / "harbour.yaml").read_text("utf-8")
    found = []
    for file in FILES:
        for said in YAML(typ="safe", pure=True).load((FOLDER / f"{file}.yaml").read_text("utf-8")):
            there = calendar if said.get("file") == "calendar" else base
            assert there.count(said["was"]) == 1, f"{said['name']}: {said['was']!r} stands {there.count(said['was'])} times"
            at = there.index(said["was"])
            same = next((n for n, (a, b) in enumerate(zip(said["was"], said["is"], strict=False)) if a != b), 0)
            line = said.get("line", 0) + there.count("\n", 0, at + same) + 1 if said.get("line", 0) < 40 else said["line"]
            changed = there.replace(said["was"], said["is"])
            is_calendar = there is calendar
            found.append(
                Mistake(
                    said["name"], base if is_calendar else changed, changed if is_calendar else calendar,
                    "harbour.yaml" if is_calendar else "MO.yaml", line, said.get("near", 0), tuple(map(str, said["says"])),
                    said.get("kind") == "advice",
                )
            )  # fmt: skip
    return found


def told_of(folder: Path, mistake: Mistake) -> list[tuple[str, int, str]]:
    """What the check tells of a mistake: file, line and message."""
    (folder / "calendars").mkdir(exist_ok=True)
    (folder / "MO.yaml").write_text(mistake.edition, "utf-8")
    (folder / "calendars" / "harbour.yaml").write_text(mistake.calendar, "utf-8")
    try:
        told = check_rulebook_file(folder / "MO.yaml")
    except UnreadableRulebook as error:
        return [(Path(f.file).name, f.line, str(f.message)) for f in error.faults] if not mistake.advice else []
    return [(Path(f.file).name, f.line, str(f.message)) for f in told.advice] if mistake.advice else []


def judged(mistake: Mistake, told: list[tuple[str, int, str]]) -> str:
    """What is wrong with what was told; nothing if it is well said."""
    if not told:
        return "nothing was told"
    jargon = [message for _, _, message in told if JARGON.search(message)]
    if jargon:
        return f"jargon: {jargon[0]}"
    here = [(file, line, m) for file, line, m in told if file == mistake.file and abs(line - mistake.line) <= mistake.near]
    if not here:
        return f"not on line {mistake.line}: {told[:2]}"
    if not any(all(word in m for word in mistake.says) for _, _, m in here):
        return f"without {mistake.says}: {[m for _, _, m in here]}"
    return ""


class Mistakes(unittest.TestCase):
    def test_each_is_named_on_its_line_with_what_would_be_right(self) -> None:
        folder, all_of_them = new_folder(), mistakes()
        for mistake in all_of_them:
            with self.subTest(mistake.name):
                wrong = judged(mistake, told_of(folder, mistake))
                self.assertEqual(wrong, "", f"{mistake.name}: {wrong}")
        self.assertGreaterEqual(len(all_of_them), 120)

    def test_without_a_mistake_nothing_is_told(self) -> None:
        folder = new_folder()
        shutil.copytree(FOLDER, folder / "there")
        told = [f.message.partition(":")[0] for f in check_rulebook_file(folder / "there" / "base.yaml").advice]
        wanted = [
            "mooring has changes",
            "notice is read by no rule and shown beside no question",
            "these letters have the plain words of the house",
        ]
        self.assertEqual(told, wanted)

    def test_a_message_without_what_would_be_right_is_seen(self) -> None:
        one = mistakes()[0]
        self.assertIn("without", judged(one, [(one.file, one.line, "this cannot be read as a rule")]))
        self.assertIn("jargon", judged(one, [(one.file, one.line, "invalid syntax (<unknown>, line 1) `==`")]))
        self.assertIn("not on line", judged(one, [(one.file, one.line + 1, "write `==`")]))


def mutated(text: str, chance: random.Random) -> tuple[str, int]:
    """A text with one letter, quote, comma, indent, colon, name, unit or figure changed, and the line of it."""
    lines = text.split("\n")
    kind = chance.choice(("letter", "quote", "comma", "indent", "colon", "name", "unit", "figure"))
    patterns = {
        "letter": r"[a-z]", "quote": r"[\"']", "comma": r",", "indent": r"^ +", "colon": r":", "name": r"\b[a-z_]+\.[a-z_]+\b",
        "unit": r"\b(days|weeks|months|years|hours|MB)\b", "figure": r"\d+(\.\d+)?",
    }  # fmt: skip
    fitting = [n for n, line in enumerate(lines) if re.search(patterns[kind], line) and not line.lstrip().startswith("#")]
    at = chance.choice(fitting)
    found = chance.choice(list(re.finditer(patterns[kind], lines[at])))
    new = {
        "letter": chance.choice(["", found[0] * 2, chance.choice("abcdefghijklmnopqrstuvwxyz")]),
        "quote": "", "comma": chance.choice(["", ";", " "]), "indent": found[0] + " " if chance.random() < 0.5 else found[0][:-1],
        "colon": chance.choice(["", " ", ";"]), "name": found[0][:-1], "unit": chance.choice(["dais", "", "wks"]),
        "figure": chance.choice([found[0].replace(".", ","), "O" + found[0], found[0] + "x", "-" + found[0]]),
    }[kind]  # fmt: skip
    lines[at] = lines[at][: found.start()] + new + lines[at][found.end() :]
    return "\n".join(lines), at + 1


class Mutations(unittest.TestCase):
    def test_changes_of_the_editions(self) -> None:
        """Never a traceback; of those that are faults 95 % name the line or the next. ``make bench`` makes 600."""
        told, near, odd = 0, 0, list[Any]()
        folder, chance = new_folder(), random.Random(2026)
        shutil.copytree(SHIPPED / "calendars", folder / "calendars")
        texts = [path.read_text("utf-8").partition("\nexamples:\n")[0] + "\n" for path in editions_in(SHIPPED)]
        count = int(os.environ.get("JOLLY_CLERK_CHANGES", "120"))
        for n in range(count):
            changed, line = mutated(texts[n % len(texts)], chance)
            (folder / "X.yaml").write_text(changed, "utf-8")
            try:
                check_rulebook_file(folder / "X.yaml")
            except UnreadableRulebook as error:
                told += 1
                lines = [f.line for f in error.faults]
                is_near = any(line <= at <= line + 1 for at in lines)
                near += is_near
                odd += [] if is_near else [(line, error.faults[:2])]
                for fault in error.faults:
                    self.assertIsNone(JARGON.search(str(fault.message)), fault)
        print(f"{told} of {count} changes are faults, {near} named on the line or the next")
        self.assertGreaterEqual(near / told, 0.95, odd[:12])
