"""Every sentence that a person can read is made by ``say`` and stands in the catalogues."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
import unittest
from collections.abc import Iterator
from pathlib import Path
from string import Formatter
from typing import get_args

from babel.messages.pofile import read_po

from jolly_clerk.core import history
from jolly_clerk.core.checklist.requirement import Standing
from jolly_clerk.core.states import State

ROOT = Path(__file__).resolve().parents[2]
PACKAGE = ROOT / "jolly_clerk"
#: what no person reads as a sentence: the demo's own texts, migrations, the letters' and rules' own language, tables of patterns
ELSEWHERE = ("demo/", "store/migrations/", "core/say.py")
#: texts of single modules that are names, patterns or words for programs, by a piece of them
NAMES = {
    "core/till/table.py": (
        "booking",
        "value da",
        "payer",
        "counterparty",
        "remittance",
        "bank reference",
    ),  # what banks call columns
    "office/cases/paying.py": ("cash",),
    "office/till/drawers.py": ("till closing",),
    "office/till/files.py": ("payment file",),
    "office/till/placing.py": ("money \0",),
    "office/till/statements.py": ("transfer \0",),
    "standins/bank.py": ("<Amt",),
    "web/officer.py": ("beside \0",),
    "web/attached.py": ("attachment",),
    "web/till.py": ("closing \0",),
    "cli/office.py": ("http://",),
    "core/assessment.py": ("due \0",),
    "core/facts/measures.py": ("met(?:re", "all its text", "title block"),  # a pattern, and keys of what is kept of a file
    "core/facts/names.py": ("zh z i",),
    "core/rulebook/checker.py": ("power(",),  # the right rule itself
    "core/rulebook/expressions.py": ("[row_",),
    "core/reference.py": ("case \0 \0",),
    "core/rulebook/mending.py": ("between", "(?i)", " else ", "[xX]"),  # patterns of mistakes
    "core/rulebook/papers.py": ("`at most \0`", "`\0 MB`"),
    "core/rulebook/questions.py": ("fee line",),
    "core/rulebook/types.py": ("list of ", "items of "),
    "core/trying.py": (
        "agenda \0",
        "lane \0",
        "refund \0",
        "due \0",
        "standing \0",
        "value \0",
        "permit \0",
        "fee \0",
        "limit \0",
    ),  # the keys of examples
    "exchange/calendar_file.py": ("-//",),
    "office/cases/ledger.py": ("receipt \0",),  # the name of a counter
    "office/cases/notices.py": ("card \0",),  # the key of money in
    "office/cases/refunding.py": ("money \0",),
    "office/keeping/copying.py": ("drafts/",),
    "office/preparing/reading_queue.py": ("unknown type", "reading \0"),
    "office/settings.py": ("Quillhaven", "Harbour Stairs", "# Settings"),  # the file of settings
    "reading/read.py": ("the quick clerk", "unknown type"),
    "reading/fence.py": ("unknown type",),
    "office/keeping/importing.py": ("case \0", "receipt \0"),  # ids, counters
    "office/keeping/kept_row.py": ("kept as it came",),  # a name in the history
    "store/chain.py": ('"what":"read in"',),  # how an entry of that name is written
    "office/keeping/moving.py": ("select setval",),
    "store/lease.py": ("select",),
    "store/database.py": ("BEGIN", "PRAGMA", "READ COMMITTED"),
    "web/accounts.py": ("attachment;",),
    "web/app.py": ("Jolly Clerk",),
    "web/headers.py": ("default-src", "camera=", "immutable"),
    "web/cases.py": ("The PDF", "filename*"),
    "web/minding.py": ("clock job", "request failed", "select 1", "the vault is missing"),
    "web/moves.py": ("",),  # what the document of the interface says to programmers
    "web/problems.py": ("disk is full", "no space left"),  # what databases say
    "web/public.py": ("immutable",),
}
WORD = re.compile(r"[A-Za-z]{2,}")
MAKERS = ("say", "say_n", "_", "_n")
#: calls whose texts are for programs, logs or the command line's own help
PLAIN_CALLS = {
    "compile", "Field", "Option", "Argument", "Typer", "info", "warning", "error", "debug", "exception", "RuntimeError", "AssertionError", "sub",
    "search", "match", "split", "encode", "strftime", "strptime", "Path", "partition", "removeprefix", "removesuffix", "startswith",
    "endswith", "exec_driver_sql", "StringConstraints", "MoveRoute",
}  # fmt: skip
PLAIN_KEYWORDS = {"description", "help", "summary", "pattern", "prefix", "metavar", "responses"}


def modules() -> Iterator[tuple[str, ast.Module]]:
    """Every module that can say something, by its path within the package."""
    for file in sorted(PACKAGE.rglob("*.py")):
        name = str(file.relative_to(PACKAGE))
        if not name.startswith(ELSEWHERE):
            yield name, ast.parse(file.read_text("utf-8"))


def called(node: ast.Call) -> str:
    return node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")


def apart(tree: ast.Module) -> set[int]:
    """The texts that are no sentences by where they stand: docstrings, types, keys, comparisons, and what a maker was given."""
    found: set[int] = set()

    def leave(*nodes: ast.AST | None) -> None:
        for node in nodes:
            found.update(id(inner) for inner in ast.walk(node)) if node else None

    for node in ast.walk(tree):
        match node:
            case ast.Expr(value=ast.Constant()):
                leave(node)
            case ast.AnnAssign():
                leave(node.annotation)
            case ast.FunctionDef() | ast.AsyncFunctionDef():
                leave(node.returns, *node.decorator_list, *node.args.defaults, *node.args.kw_defaults)
                leave(*(a.annotation for a in (*node.args.args, *node.args.kwonlyargs)))
            case ast.Subscript():
                leave(node.slice)
            case ast.Compare():
                leave(*(side for side in (node.left, *node.comparators)))
            case ast.Dict():
                leave(*node.keys)
            case ast.Call() if called(node) in PLAIN_CALLS:
                leave(node)
            case ast.Call() if called(node) in MAKERS:
                leave(*node.args[:2])
            case ast.keyword() if node.arg in PLAIN_KEYWORDS:
                leave(node)
            case ast.MatchValue():
                leave(node)
    return found


def names_of_things() -> set[str]:
    """Texts that are names in the history, in an interface or in the rule language, and no sentences."""
    found = set(get_args(Standing)) | set(get_args(State))
    found |= {
        kind.model_fields["what"].default
        for kind in vars(history).values()
        if hasattr(kind, "model_fields") and "what" in kind.model_fields
    }
    for _, tree in modules():
        for node in ast.walk(tree):
            if isinstance(node, ast.Subscript) and getattr(node.value, "id", "") == "Literal":
                found |= {c.value for c in ast.walk(node.slice) if isinstance(c, ast.Constant) and isinstance(c.value, str)}
            if isinstance(node, (ast.Compare, ast.MatchValue)):
                found |= {c.value for c in ast.walk(node) if isinstance(c, ast.Constant) and isinstance(c.value, str)}
            if isinstance(node, ast.Dict):
                found |= {k.value for k in node.keys if isinstance(k, ast.Constant) and isinstance(k.value, str)}
    return found


def text_of(node: ast.AST) -> str:
    if isinstance(node, ast.JoinedStr):
        return "".join(v.value if isinstance(v, ast.Constant) else "\0" for v in node.values)
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def sentences_elsewhere(tree: ast.Module, names: set[str]) -> Iterator[tuple[int, str]]:
    """Texts with words that are made without ``say``, by line."""
    known = apart(tree)
    inside = {id(v) for n in ast.walk(tree) if isinstance(n, ast.JoinedStr) for v in n.values if isinstance(v, ast.Constant)}
    for node in ast.walk(tree):
        text = text_of(node)
        if id(node) in known or id(node) in inside or text in names or not WORD.search(text):
            continue
        if isinstance(node, ast.JoinedStr):
            if " " in text.replace("\0", "") and re.search(r"[A-Za-z]{2,}", text):
                yield node.lineno, text
        elif " " in text.strip() and len(WORD.findall(text)) > 1:
            yield node.lineno, text


class Sentences(unittest.TestCase):
    def test_none_is_made_elsewhere(self) -> None:
        names = names_of_things()
        found = [
            f"{name}:{line}: {text!r}"
            for name, tree in modules()
            for line, text in sentences_elsewhere(tree, names)
            if not any(piece in text for piece in NAMES.get(name, ()))
        ]
        self.assertEqual(found, [])

    def test_a_message_is_whole_and_names_its_values(self) -> None:
        """No word is put in as a value, since another language has other words for it; each value has its place."""
        wrong = []
        for name, tree in modules():
            for node in ast.walk(tree):
                if not isinstance(node, ast.Call) or called(node) not in ("say", "say_n"):
                    continue
                messages = node.args[: 2 if called(node) == "say_n" else 1]
                if any(k.arg is None for k in node.keywords):
                    continue  # values that several messages share stand in a mapping
                given = {k.arg for k in node.keywords if k.arg}
                for message in messages:
                    if not isinstance(message, ast.Constant):
                        continue
                    wanted = (
                        {field for _, field, _, _ in Formatter().parse(message.value) if field}
                        if given or called(node) == "say_n"
                        else set()
                    )
                    if (wanted - {"n"} != given and called(node) == "say") or not wanted <= given | {"n"}:
                        wrong.append(f"{name}:{node.lineno}: {message.value!r} is given {sorted(given)}")
                for keyword in node.keywords:
                    if any(
                        WORD.search(text_of(inner)) and not re.search(r"%|\\", text_of(inner)) for inner in spoken(keyword.value)
                    ):
                        wrong.append(f"{name}:{node.lineno}: the value {keyword.arg} holds words")
        self.assertEqual(wrong, [])


class Catalogues(unittest.TestCase):
    def test_they_hold_every_message_and_no_other(self) -> None:
        """``make texts`` was run; and nothing in English is without a text."""
        made = subprocess.run([sys.executable, "tools/texts.py", "--check"], cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(made.stdout.strip(), "all texts are up to date", made.stderr)
        with (PACKAGE / "texts" / "en" / "LC_MESSAGES" / "jolly_clerk.po").open("rb") as file:
            found = [message for message in read_po(file) if message.id]
        self.assertGreater(len(found), 900)
        self.assertEqual([m.id for m in found if not all(m.string if isinstance(m.string, tuple) else (m.string,))], [])

    def test_a_text_names_the_values_of_its_message(self) -> None:
        for file in sorted((PACKAGE / "texts").rglob("*.po")):
            with file.open("rb") as text:
                for message in read_po(text):
                    said = message.string if isinstance(message.string, tuple) else (message.string,)
                    wanted = set(re.findall(r"{(\w+)", str(message.id)))
                    for one in filter(None, said if message.id else ()):
                        self.assertLessEqual(set(re.findall(r"{(\w+)", one)), wanted | {"n"}, f"{file.parent.parent.name}: {one}")


def spoken(value: ast.expr) -> Iterator[ast.AST]:
    """The texts that may come out of an expression: not what it compares, looks up or is given to a call."""
    match value:
        case ast.IfExp():
            yield from spoken(value.body)
            yield from spoken(value.orelse)
        case ast.BoolOp():
            for side in value.values:
                yield from spoken(side)
        case ast.BinOp():
            yield from spoken(value.left)
            yield from spoken(value.right)
        case ast.Constant() | ast.JoinedStr():
            yield value
