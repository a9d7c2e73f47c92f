"""The text of a scanned page, by Tesseract: its lines with their places, on whichever side the sheet lies."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
import pytesseract
from PIL import Image

from jolly_clerk.core.facts.reading import PageText, TextLine
from jolly_clerk.reading.language import language_of
from jolly_clerk.reading.scans import page_of

#: the languages that are read, by the code of Tesseract's files
LANGUAGES = {"en": "eng", "pt": "por", "fr": "fra", "de": "deu", "es": "spa"}
#: words of which the reader is less sure (of 100) are not told, and pages of which it is that little sure are read in another language
SURE, DOUBTED = 35, 70
MOST_LETTERS = 240


@lru_cache(maxsize=1)
def installed() -> frozenset[str]:
    """The languages that can be read here; none without Tesseract."""
    if not shutil.which("tesseract"):
        return frozenset()
    try:
        there = set(pytesseract.get_languages())
    except (OSError, RuntimeError):
        return frozenset()
    return frozenset(code for code, name in LANGUAGES.items() if name in there)


def read_page(path: Path, kind: str, no: int, step: float) -> PageText:
    """Read one page of a file (``kind`` is its true type). Each step has ``step`` seconds on the wall; of one that takes longer nothing is told."""
    os.environ["OMP_THREAD_LIMIT"] = "1"
    grey = level(page_of(path.read_bytes(), kind, no))
    turn = _turn(grey, step)
    if turn:
        grey = np.ascontiguousarray(np.rot90(grey, -turn // 90))
    found, sure = _words(grey, step, "en")
    text = " ".join(word.text for word in found)
    language = language_of(text)
    others = [code for code in ([language] if language else LANGUAGES) if code in installed() and code != "en"]
    if language != "en" and others and (language or sure < DOUBTED):
        again, how_sure = _words(grey, step, *(["en", *others] if not language else others))
        if how_sure >= sure:
            found = again
            text = " ".join(word.text for word in found)
            language = language_of(text) or language
    lines = [
        TextLine(page=no, text=said[:MOST_LETTERS], box=_seen(box, grey.shape, turn))
        for said, box in _lines(found)
        if said.strip()
    ]
    return PageText(lines=tuple(lines), words=len(found), language=language, turn=turn)


def _turn(grey: Any, step: float) -> Literal[0, 90, 180, 270]:
    """By how many degrees clockwise the sheet has to be turned to stand upright."""
    if "en" not in installed():
        return 0
    try:
        told = pytesseract.image_to_osd(
            Image.fromarray(grey),
            timeout=step,
            config=" ".join(("--dpi", "300", "-c", "min_characters_to_try=20")),
            output_type="dict",
        )
    except (pytesseract.TesseractError, RuntimeError, ValueError, OSError):
        return 0
    quarters: tuple[Literal[0, 90, 180, 270], ...] = (0, 90, 180, 270)
    return quarters[int(told["rotate"]) // 90 % 4] if float(told["orientation_conf"]) > 1.0 else 0


class _Word(NamedTuple):
    text: str
    box: tuple[int, int, int, int]
    line: tuple[int, int, int]


def _words(grey: Any, step: float, *languages: str) -> tuple[list[_Word], float]:
    """The words of a page with their places in dots, and how sure the reader is of them in the middle (of 100)."""
    names = "+".join(LANGUAGES[code] for code in languages if code in installed()) or "eng"
    try:
        told = pytesseract.image_to_data(
            Image.fromarray(grey),
            lang=names,
            timeout=step,
            config=" ".join(("--dpi", "300", "--psm", "3")),
            output_type="dict",
        )
    except (pytesseract.TesseractError, RuntimeError, OSError):
        return [], 0.0
    found, sure = list[_Word](), list[float]()
    for n, text in enumerate(told["text"]):
        if not text.strip() or float(told["conf"][n]) < SURE:
            continue
        left, top, wide, high = (int(told[key][n]) for key in ("left", "top", "width", "height"))
        line = (told["block_num"][n], told["par_num"][n], told["line_num"][n])
        found.append(_Word(text.strip(), (left, top, left + wide, top + high), line))
        sure.append(float(told["conf"][n]))
    return found, float(np.median(sure)) if sure else 0.0


def _lines(words: list[_Word]) -> Iterator[tuple[str, tuple[int, int, int, int]]]:
    """Words of a line that stand near one another, with the box around them."""
    run = list[_Word]()
    for word in words:
        if run:
            high = max(run[-1].box[3] - run[-1].box[1], word.box[3] - word.box[1])
            if word.line != run[-1].line or word.box[0] - run[-1].box[2] > 2 * high:
                yield _run(run)
                run = []
        run.append(word)
    if run:
        yield _run(run)


def _run(run: list[_Word]) -> tuple[str, tuple[int, int, int, int]]:
    boxes = [word.box for word in run]
    box = (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
    return " ".join(word.text for word in run), box


def _seen(box: tuple[int, int, int, int], shape: tuple[int, ...], turn: int) -> tuple[float, float, float, float]:
    """A box of the page as it was turned for reading, in shares of the page as it lies."""
    high, wide = shape[:2]
    corners = [(box[0] / wide, box[1] / high), (box[2] / wide, box[3] / high)]
    for _ in range((-turn // 90) % 4):  # turned back: a quarter clockwise moves the top edge to the right
        corners = [(1 - y, x) for x, y in corners]
    (x1, y1), (x2, y2) = corners
    kept = [round(min(1.0, max(0.0, v)), 4) for v in (min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2))]
    return (kept[0], kept[1], kept[2], kept[3])


def level(grey: Any) -> Any:
    """A page with its ground made white, for reading."""
    ground = cv2.GaussianBlur(cv2.morphologyEx(grey, cv2.MORPH_CLOSE, np.ones((25, 25), np.uint8)), (0, 0), 11)
    return cv2.divide(grey, ground, scale=255)
