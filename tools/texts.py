"""Bring the catalogues of texts up to date with the messages in the program, and compile them.

    python tools/texts.py            find all messages, update jolly_clerk/texts/*/LC_MESSAGES/jolly_clerk.po, compile
    python tools/texts.py --compile  compile only
    python tools/texts.py --check    say what is not up to date; 1 if anything is

English is written in the program: its text is the message until somebody words it otherwise in the catalogue. In any other
language a message without a text is said in English.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import sys
from pathlib import Path
from typing import get_args

from babel.messages.catalog import Catalog
from babel.messages.extract import extract_from_dir
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
FOLDER = ROOT / "jolly_clerk" / "texts"
LANGUAGES, SOURCE = ("en", "pt"), "en"
KEYWORDS = {"say": None, "_": None, "say_n": (1, 2), "_n": (1, 2)}
NAME = "jolly_clerk"


def template() -> Catalog:
    """Every message in the program, with the modules that say it."""
    from jolly_clerk.core.checklist.requirement import Standing
    from jolly_clerk.core.states import State

    found = Catalog(project="Jolly Clerk", charset="utf-8")
    methods = [("demo/**", "ignore"), ("**.py", "python")]
    with contextlib.redirect_stderr(io.StringIO()):  # it warns of values that are f-strings, which are no messages
        messages = list(extract_from_dir(ROOT / "jolly_clerk", methods, keywords=KEYWORDS, strip_comment_tags=True))
    for file, _, message, _, _ in messages:
        found.add(message, locations=[(file, 0)], flags=["python-brace-format"] if "{" in str(message) else [])
    for name in (*get_args(State), *get_args(Standing)):
        found.add(name, locations=[("core/states.py", 0)])
    return found


def place(language: str, kind: str) -> Path:
    """The file of a language: ``po`` for people, ``mo`` for the program."""
    return FOLDER / language / "LC_MESSAGES" / f"{NAME}.{kind}"


def updated(language: str, messages: Catalog) -> Catalog:
    """The catalogue of a language with exactly these messages: texts are kept, new ones are empty, in English the message itself."""
    file = place(language, "po")
    before = read_po(file.open("rb"), locale=language) if file.exists() else Catalog(locale=language)
    made = Catalog(locale=language, project="Jolly Clerk", charset="utf-8", fuzzy=False)
    for message in messages:
        if not message.id:
            continue
        old = before.get(message.id)
        text = old.string if old else ""
        if language == SOURCE and not (any(text) if isinstance(text, tuple) else text):
            text = message.id
        made.add(message.id, text, locations=message.locations, flags=message.flags)
    return made


def written(catalogue: Catalog) -> bytes:
    """A catalogue as a PO file: the same messages give the same bytes."""
    out = io.BytesIO()
    write_po(out, catalogue, sort_output=True, include_lineno=False, width=130, omit_header=False)
    lines = out.getvalue().splitlines(keepends=True)
    volatile = (
        b'"POT-Creation-Date',
        b'"PO-Revision-Date',
        b'"Last-Translator',
        b'"Language-Team',
        b'"Generated-By',
        b'"Report-Msgid',
    )
    start = next(n for n, line in enumerate(lines) if line.startswith(b"msgid"))
    return b"".join(line for line in lines[start:] if not line.startswith(volatile))


def compile_all() -> None:
    """Write the files that the program reads."""
    for language in LANGUAGES:
        with place(language, "po").open("rb") as text, place(language, "mo").open("wb") as out:
            write_mo(out, read_po(text, locale=language))


def main() -> int:
    """Do what the arguments say."""
    parser = argparse.ArgumentParser(description="The catalogues of texts.")
    parser.add_argument("--check", action="store_true")
    parser.add_argument("--compile", action="store_true")
    asked = parser.parse_args()
    if asked.compile:
        compile_all()
        return 0
    messages, stale = template(), []
    for language in LANGUAGES:
        file, text = place(language, "po"), written(updated(language, messages))
        if file.exists() and file.read_bytes() == text:
            continue
        stale.append(str(file.relative_to(ROOT)))
        if not asked.check:
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(text)
    if asked.check:
        print("\n".join(f"{name} is not up to date: run make texts" for name in stale) or "all texts are up to date")
        return 1 if stale else 0
    compile_all()
    print(f"{len(messages)} messages in {', '.join(LANGUAGES)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
