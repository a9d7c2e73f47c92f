"""A clinical trial in plain Python, written by hand for the comparison: the same standings and fees, no working, no words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

D = Decimal
CENT = D("0.01")
BASE = {"low": D(1200), "standard": D(3400), "high": D(5900)}
YES = (True, "yes")
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}|\d{1,2} [A-Z][a-z]+ \d{4}")
_NAMES = "January February March April May June July August September October November December"
_MONTHS = {month: n for n, month in enumerate(_NAMES.split(), 1)}


def risk(need: Mapping[str, Any]) -> str:
    """The class of risk by the eight questions."""
    if any(need[q] in YES for q in ("first_time", "children", "living")):
        return "high"
    signs = sum(need[q] in YES for q in ("other_use", "higher_dose", "overnight", "cuts", "dummy"))
    return "standard" if signs >= 2 else "low"


def fees(answers: Mapping[str, Any]) -> dict[str, Decimal]:
    """The lines that are asked."""
    base, change = BASE[risk(answers["need"])], answers["need"]["change"] in YES
    if change:
        lines = {"change": base * D("0.40")}
    else:
        sites, arms = len(answers["sites"]), int(answers["trial"]["arms"])
        lines = {"base": base, "further_sites": D(260) * max(0, sites - 1), "further_arms": D(150) * max(0, arms - 2)}
    share = D("0.30") if answers["sponsor"]["sort"] == "academic" else D(1)
    return {line: (amount * share).quantize(CENT, ROUND_HALF_UP) for line, amount in lines.items()}


def standings(
    answers: Mapping[str, Any], files: Mapping[str, list[Any]], given: Mapping[str, str], paid: Decimal, filed: date, product: str
) -> dict[str, str]:
    """The standing of each requirement: the given one, else what a rule would propose."""
    need, trial, cover = answers["need"], answers["trial"], answers["insurance"]
    first, last = date.fromisoformat(trial["first_day"]), date.fromisoformat(trial["last_visit"])
    persons = int(trial["persons"])
    found = {
        "days-follow": "met" if filed <= first <= last else "wanting",
        "board-watches": "not asked" if risk(need) != "high" else "met" if trial["board"] in YES else "wanting",
        "purpose-clear": "to read",
        "product-file": "met" if product in ("Complete", "Under review", "Granted") else "wanting",
        "insured-enough": "met" if D(str(cover["sum"])) >= persons * 50000 else "wanting",
        "persons-add-up": "met" if sum(int(s["persons"]) for s in answers["sites"]) == persons else "in doubt",
        "substance-agrees": "met",
        "signature": "met",
        "fee.at_filing": "met" if paid >= sum(fees(answers).values()) else "wanting",
    }
    until = date(last.year + 2, last.month, min(last.day, 28 if last.month == 2 else 31))
    whole = date.fromisoformat(cover["starts"]) <= first and date.fromisoformat(cover["ends"]) >= until
    found["insured-long"] = "met" if whole else "wanting"
    found["persons-agree"] = _agree(str(persons), files.get("protocol"), r"Number of persons: (\d+)")
    found["sum-agrees"] = _agree(str(cover["sum"]), files.get("certificate"), r"Sum insured: ([\d.]+)")
    found["end-agrees"] = _same_day(date.fromisoformat(cover["ends"]), files.get("certificate"))
    asked = {"protocol": True, "certificate": True, "declaration": True, "ethics": True, "children_plan": need["children"] in YES,
             "dummy_reasons": need["dummy"] in YES, "board_rules": trial["board"] in YES, "changes_marked": need["change"] in YES}  # fmt: skip
    for slot, wanted in asked.items():
        found[f"documents.{slot}"] = _slot(files.get(slot), wanted)
    for site in answers["sites"]:
        no = site["id"]
        found[f"trained.{no}"] = "met" if date.fromisoformat(site["trained_until"]) >= first else "wanting"
        found[f"language-spoken.{no}"] = "met" if site["spoken"] != "other" else "wanting"
        found[f"site-suits.{no}"] = "to read"
        found[f"investigator-agrees.{no}"] = _agree(site["investigator"], files.get(f"cv.{no}"), r"Name: (.+)")
        found[f"training-agrees.{no}"] = _same_day(date.fromisoformat(site["trained_until"]), files.get(f"training.{no}"))
        for slot in ("cv", "training", "suitability", "consent_form", "contract"):
            found[f"documents.{slot}.{no}"] = _slot(files.get(f"{slot}.{no}"), True)
    return {**found, **{key: standing for key, standing in given.items() if key in found}}


def _slot(readings: list[Any] | None, asked: bool) -> str:
    if not asked:
        return "not asked"
    if not readings:
        return "wanting"
    return "to read" if all(r.opens == "yes" for r in readings) else "wanting"


def _agree(said: str, readings: list[Any] | None, pattern: str) -> str:
    for reading in readings or ():
        for line in reading.lines:
            if found := re.search(pattern, line.text):
                return "met" if found[1].strip() == said else "in doubt"
    return "to read"


def _same_day(day: date, readings: list[Any] | None) -> str:
    for reading in readings or ():
        for line in reading.lines:
            if "until" in line.text and (found := _DAY.search(line.text)):
                d, month, year = found[0].split()
                return "met" if date(int(year), _MONTHS[month], int(d)) == day else "in doubt"
    return "to read"
