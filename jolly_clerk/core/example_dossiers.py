"""What an example of an edition lays before the office: a dossier, and what would be read in its files."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from jolly_clerk.core.dossier.model import Attachment, Declared, Dossier, Signing
from jolly_clerk.core.facts.reading import THOROUGH_FROM, ClaimsRead, Face, Page, Reading, TextLine
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.examples import Example, ExampleFile, Variant
from jolly_clerk.core.rulebook.model import SHEETS, bytes_of


def variants_of(example: Example) -> tuple[Variant, ...]:
    """The example itself, as the first of them, and its variants."""
    whole = Variant(files=example.files, as_of=example.as_of, now=example.now, happened=example.happened, gives=example.gives)
    return whole, *example.also


def laid_out(rulebook: Rulebook, example: Example, variant: Variant) -> tuple[Dossier, dict[str, Reading]]:
    """The dossier of a variant, and the readings of its files by their SHA-256."""
    answers: dict[str, Any] = {
        part: dict(given) if isinstance(given, dict) else list(given) for part, given in example.dossier.items()
    }
    for place, value in variant.say.items():
        part, _, question = place.partition(".")
        if question:
            answers.setdefault(part, {})[question] = value
        else:
            answers[part] = value
    files = example.files if variant.files is None else variant.files
    attachments, readings = _files(files)
    text = rulebook.edition.signature.text
    signed = Signing(name="A. N. Example", at=datetime.fromisoformat("2026-01-01T00:00:00+00:00"), text=text)
    left_out = example.not_declared if variant.not_declared is None else variant.not_declared
    said = [d for d in rulebook.edition.declarations if d.declare not in left_out]
    declared = tuple(Declared(id=d.declare, at=signed.at, text=d.text) for d in said)
    signature = signed if example.signed else None
    return Dossier(answers=answers, attachments=attachments, signature=signature, declared=declared), readings


def _files(files: Sequence[ExampleFile]) -> tuple[tuple[Attachment, ...], dict[str, Reading]]:
    made, readings = [], {}
    for n, file in enumerate(files, 1):
        sha256 = hashlib.sha256(f"{n} {file.model_dump_json()}".encode()).hexdigest()
        size = bytes_of(file.size)
        pages = tuple(_page(no, sheet, file) for no, sheet in enumerate(file.sheets, 1))
        lines = tuple(
            TextLine(page=1, text=text, box=(0.5, min(0.9, 0.1 * m), 0.9, min(0.95, 0.1 * m + 0.05)))
            for m, text in enumerate(file.text, 1)
        )
        made.append(Attachment(id=f"a{n}", slot=file.slot, name=file.name or f"file{n}.{file.type}", sha256=sha256, size=size))
        opens: Any = file.opens
        readings[sha256] = Reading(
            sha256=sha256,
            reader="example" if file.head is None else str(THOROUGH_FROM),
            size=size,
            type=file.type,
            opens=opens,
            pages=pages,
            lines=lines,
            claims=_claims(file),
            face=None if file.head is None else Face(count=1, height=file.head / 100, ground=1.0, even=1.0),
        )
    return tuple(made), readings


def _page(no: int, sheet: str, file: ExampleFile) -> Page:
    name, _, upright = sheet.partition(" ")
    short, long = SHEETS[name]
    width, height = (short, long) if upright else (long, short)
    across, _, down = file.pixels.partition(" x ")
    pixels, words = (int(across or 0), int(down or 0)), file.words if no == 1 else 0
    language = file.languages[no - 1] if no <= len(file.languages) else ""
    ink = None
    if file.free:
        top, left, right, bottom = (int(side) for side in file.free.split(", "))
        ink = (left / width, top / height, 1 - right / width, 1 - bottom / height)
    told = {"content": "text", "words": words, "pixels": pixels, "language": language, "ink": ink}
    return Page.model_validate({"no": no, "width_mm": width, "height_mm": height, **told})


def _claims(file: ExampleFile) -> ClaimsRead | None:
    if not file.claims:
        return None
    count, independent, multiple = (int(said.split()[0]) for said in file.claims.split(", "))
    return ClaimsRead(count=count, independent=independent, multiple=multiple)
