"""Building works in plain Python, written by hand for the comparison: the same standings and fees, no working, no words."""

from __future__ import annotations

from datetime import date
from decimal import ROUND_CEILING, ROUND_HALF_UP, Decimal
from typing import Any

D = Decimal
CENT = D("0.01")
RATES = {
    ("workshop", "timber"): D("465.00"), ("workshop", "masonry"): D("612.00"), ("workshop", "steel"): D("538.00"),
    ("workshop", "glass"): D("497.00"), ("dwelling", "timber"): D("1180.00"), ("dwelling", "masonry"): D("1390.00"),
    ("dwelling", "steel"): D("1265.00"), ("dwelling", "glass"): D("1210.00"), ("store", "timber"): D("255.00"),
    ("store", "masonry"): D("348.00"), ("store", "steel"): D("310.00"), ("store", "glass"): D("290.00"),
    ("boathouse", "timber"): D("520.00"), ("boathouse", "masonry"): D("684.00"), ("boathouse", "steel"): D("598.00"),
    ("boathouse", "glass"): D("560.00"),
}  # fmt: skip
BANDS = (
    (D(2000), D(25000), D("60.00"), D("11.50")), (D(25000), D(50000), D("324.50"), D("8.25")), (D(50000), D(100000), D("530.75"), D("5.75")),
    (D(100000), D(500000), D("818.25"), D("4.60")), (D(500000), D(1000000), D("2658.25"), D("3.90")), (D(1000000), None, D("4608.25"), D("2.60")),
)  # fmt: skip


def fees(answers: dict[str, dict[str, Any]], filed: date) -> dict[str, Decimal]:
    """The four lines for a whole set of answers."""
    works, place = answers["works"], answers["place"]
    value = max(D(str(works["estimate"])), D(str(works["area"])) * RATES[works["use"], works["built_of"]])
    permit = D("60.00")
    for low, high, start, adds in BANDS:
        if value > low and (high is None or value <= high):
            permit = start + adds * ((value - low) / 1000).to_integral_value(ROUND_CEILING)
    permit = permit.quantize(CENT, ROUND_HALF_UP)
    examination = max((permit * 65 / 100).quantize(CENT, ROUND_HALF_UP), D("45.00"))
    if answers["service"]["speed"] == "fast":
        examination *= 2
    begun = works["begun_yet"] in (True, "yes") and date.fromisoformat(works["begun"]) < filed
    if place["listed"] in (True, "yes") and works.get("repair") in (True, "yes"):
        permit = D("0.00")
    elif begun:
        permit *= 2
    shoreline = D("120.00") if D(str(works["distance"])) <= 30 else D("0.00")
    levy = max((value / 25000).to_integral_value(ROUND_CEILING) * D("1.00"), D("1.00"))
    return {"permit": permit, "examination": examination, "shoreline": shoreline, "levy": levy}


def standings(
    answers: dict[str, dict[str, Any]], files: dict[str, list[Any]], given: dict[str, str], paid: Decimal, filed: date
) -> dict[str, str]:
    """The standing of each requirement: the given one, else what a rule would propose."""
    works, sheet = answers["works"], fees(answers, filed)
    reference = D(str(works["area"])) * RATES[works["use"], works["built_of"]]
    found = {"may-act": "to read", "plot-number": "to read", "distance-stated": "to read"}
    found["value-plausible"] = "met" if D(str(works["estimate"])) >= reference / 2 else "in doubt"
    for slot, asked in (("site_plan", True), ("sections", True), ("consent", answers["place"]["role"] != "owner")):
        pages = [p for reading in files.get(slot, []) for p in reading.pages]
        small = slot == "site_plan" and any(
            min(p.width_mm, p.height_mm) < 294 or max(p.width_mm, p.height_mm) < 417 for p in pages
        )
        found[slot] = "not asked" if not asked else "wanting" if not pages or small else "to read"
    found |= _full(answers, files, filed) if "site" in answers else {}
    found["signature"] = "met"
    found["fee"] = "met" if paid >= sheet["examination"] + sheet["shoreline"] else "wanting"
    return {**found, **{key: standing for key, standing in given.items() if key in found}}


def _full(answers: dict[str, Any], files: dict[str, list[Any]], filed: date) -> dict[str, str]:
    """What the full edition asks besides: the shore, the people, the site, six more slots."""
    works, place, site = answers["works"], answers["place"], answers["site"]
    shore, found = answers.get("shore", {}), dict[str, str]()
    near = D(str(works["distance"])) <= 30
    found["floor-above-flood"] = "not asked" if not near else "met" if D(str(shore["floor"])) >= D("0.60") else "wanting"
    loose = near and shore["fuel"] in (True, "yes") and shore["anchored"] not in (True, "yes")
    found["fuel-anchored"] = "not asked" if not near else "wanting" if loose else "met"
    found["designer-named"] = "met" if any(p["task"] == "designer" for p in answers["people"]) else "wanting"
    street = site["street"] in (True, "yes")
    found["street-short"] = "not asked" if not street else "met" if int(site["street_days"]) <= 20 else "in doubt"
    begun = works["begun_yet"] in (True, "yes")
    found["start-later"] = "not asked" if begun else "met" if date.fromisoformat(site["start"]) > filed else "in doubt"
    asked = {
        "power": place["role"] == "agent",
        "structure": D(str(works["span"])) > 6 or int(works["storeys"]) >= 3,
        "shore_declaration": near,
        "heritage": place["listed"] in (True, "yes"),
        "street_plan": street,
    }
    for slot, wanted in asked.items():
        found[slot] = "not asked" if not wanted else "to read" if files.get(slot) else "wanting"
    found["photographs"] = "to read" if files.get("photographs") else "not asked"
    return found
