"""The form of a clinical trial in plain Python, written by hand for the comparison: its questions, what each takes, its slots."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from typing import Any

D = Decimal
WORDS = {True: True, False: False, "yes": True, "no": False, "true": True, "false": False}
SIGNS = ("other_use", "higher_dose", "overnight", "cuts", "dummy")
LISTS = {"need.tries": ("medicine", "appliance", "nothing"), "sponsor.sort": ("firm", "academic"),
         "sponsor.language": ("en", "pt", "fr"), "sponsor.post": ("mail", "print"), "sites.spoken": ("en", "pt", "other")}  # fmt: skip
TEXTS = {"sponsor.name": 200, "sponsor.address": 300, "sponsor.answers": 200, "trial.title": 120, "trial.code": 20,
         "trial.purpose": 2000, "trial.changed": 2000, "product.file": 20, "product.substance": 80, "insurance.insurer": 80,
         "sites.name": 80, "sites.address": 300, "sites.investigator": 200}  # fmt: skip
NUMBERS = {"trial.arms": (1, 20, 0), "trial.persons": (1, 100000, 0), "product.dose": (0, None, 3), "insurance.sum": (0, None, 2),
           "sites.persons": (0, 100000, 0)}  # fmt: skip
DATES = ("trial.first_day", "trial.last_visit", "insurance.starts", "insurance.ends", "sites.trained_until")
YES_NO = ("need.change", "need.first_time", "need.children", "need.living", *(f"need.{sign}" for sign in SIGNS), "trial.board")
WHOLE = [q for q in (*YES_NO, *LISTS, *TEXTS, *NUMBERS, *DATES) if not q.startswith("sites.")]
EACH = [q for q in (*LISTS, *TEXTS, *NUMBERS, *DATES) if q.startswith("sites.")]
PDF, PAPER = ("pdf",), ("pdf", "png", "jpeg")
#: formats, most files, bytes
SLOTS = {"protocol": (PDF, 5, 20_000_000), "certificate": (PDF, 2, 8_000_000), "declaration": (PAPER, 1, 8_000_000),
         "ethics": (PDF, 3, 8_000_000), "children_plan": (PDF, 3, 20_000_000), "dummy_reasons": (PDF, 3, 20_000_000),
         "board_rules": (PDF, 2, 8_000_000), "changes_marked": (PDF, 5, 20_000_000), "cv": (PDF, 1, 8_000_000),
         "training": (PAPER, 2, 8_000_000), "suitability": (PDF, 3, 20_000_000), "consent_form": (PDF, 3, 8_000_000),
         "contract": (PDF, 1, 8_000_000)}  # fmt: skip
SITE_SLOTS = ("cv", "training", "suitability", "consent_form", "contract")
ENDINGS = {"pdf": "pdf", "png": "png", "jpg": "jpeg", "jpeg": "jpeg", "tif": "tiff", "tiff": "tiff", "txt": "txt"}
_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
_HIDDEN = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")
_DAY = re.compile(r"(\d{1,2}) ([A-Z][a-z]+) (\d{4})")
_NAMES = "January February March April May June July August September October November December"
_MONTHS = {month: n for n, month in enumerate(_NAMES.split(), 1)}
_ASKED: dict[tuple[str, ...], re.Pattern[str]] = {}


def typed(question: str, raw: Any) -> Any:
    """The value of an answer; ValueError if it cannot be taken."""
    if question in TEXTS:
        if not isinstance(raw, str) or len(raw.strip()) > TEXTS[question] or _HIDDEN.search(raw):
            raise ValueError
        return raw.strip()
    if question in LISTS:
        if raw not in LISTS[question]:
            raise ValueError
        return raw
    if question in NUMBERS:
        least, most, places = NUMBERS[question]
        if isinstance(raw, bool) or not _NUMBER.fullmatch(str(raw)) or len(str(raw)) > 20:
            raise ValueError
        value = D(str(raw))
        if value < least or (most is not None and value > most) or value != round(value, places):
            raise ValueError
        return value
    if question in DATES:
        day = date.fromisoformat(raw)
        if not 1900 <= day.year <= 2200:
            raise ValueError
        return day
    if isinstance(raw, str):
        raw = raw.strip().lower()
    if raw not in WORDS:
        raise ValueError
    return WORDS[raw]
