"""How well it is read: passports, portraits, sorting and splitting, on sets made by other code than what reads, disturbed by a dice."""

from __future__ import annotations

import random
import time
from collections import Counter
from pathlib import Path

import numpy as np

from bench.made import passports, piles
from bench.made.disturbed import disturbed
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.mrz import read_mrz
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Slot
from jolly_clerk.core.sorting.parts import parts_of
from jolly_clerk.core.sorting.placing import Spot, offers_for
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.reading.zone import read_zone
from jolly_clerk.shelf.rulebooks import read_rulebook_file

ROOT = Path(__file__).parents[1]
EDITIONS = {"QV": "QV/2026-06-01.yaml", "PL": "PL/2026-01-01.yaml", "BW": "BW/2026-07-01.yaml"}


def read_passports(count: int, seed: int = 40_000) -> dict[str, float]:
    """Share read whole, wrong values told as right, and seconds in the middle and at most. One in ten has a broken check digit."""
    whole, wrong, took = 0, 0, list[float]()
    for n in range(count):
        dice = random.Random(seed + n)
        paper = passports.passport(dice, broken=n % 10 == 9)
        image = np.asarray(disturbed(passports.drawn(paper, dice.choice((150, 200, 250, 300)), dice), dice))
        began = time.process_time()
        found = read_zone(image)
        took.append(time.process_time() - began)
        whole += found is not None and found.lines == paper.lines
        if found is not None and not found.repaired:
            told = read_mrz(list(found.lines), paper.born.replace(year=2026))
            if not isinstance(told, str):
                for name, value, right in (
                    ("number", told.number, paper.number), ("birth", told.born[2:], f"{paper.born:%y-%m-%d}"),
                    ("expiry", told.expires[2:], f"{paper.expires:%y-%m-%d}"),
                ):  # fmt: skip
                    wrong += told.sound(name) and value != right
    took.sort()
    return {"whole": whole / count, "wrong": wrong, "middle": took[count // 2], "most": took[-1]}


def judge_portraits(count: int, seed: int = 50_000) -> dict[str, float]:
    """The share of good portraits of which nothing is said, and of bad ones of which something is."""
    accepts = {"formats": ["jpeg"]}
    told = {"slot": "portrait", "title": "Portrait", "says": "A portrait.", "article": "1", "accepts": accepts}
    slot = Slot.model_validate({**told, "portrait": {"head": "50 to 85"}})
    good = bad = told_good = told_bad = 0
    for n in range(count):
        dice = random.Random(seed + n)
        fault = dice.choice(("nobody", "two", "dark", "small", "blurred", "busy")) if n % 2 else ""
        found = read_bytes(piles.portrait(dice, fault))
        file = Attachment(id="a1", slot="portrait", name="p.jpg", sha256=found.sha256, size=found.size)
        thorough = found.model_copy(update={"scans": "read"})
        said = [f for f in slot_findings(slot, [file], {found.sha256: thorough}) if f.weight != "note"]
        good, bad = good + (not fault), bad + bool(fault)
        told_good, told_bad = told_good + (not fault and not said), told_bad + bool(fault and said)
    return {"good": told_good / max(1, good), "bad": told_bad / max(1, bad)}


def spots(rules: Rulebook, people: list[str]) -> list[Spot]:
    """The places of a filing with these people, as a draft has them."""
    found = list[Spot]()
    for slot_id, compiled in rules.slots.items():
        slot = compiled.slot
        if slot.delivered_by:
            continue
        if slot.for_each == "persons":
            found += [Spot(f"{slot_id}.{n}", slot, slot.title, n, who) for n, who in enumerate(people, 1)]
        elif not slot.for_each:
            found.append(Spot(slot_id, slot, slot.title))
    return found


def sort_piles(count: int, seed: int = 60_000) -> tuple[dict[str, float], Counter[tuple[str, str]]]:
    """First proposals that are right, and wrong ones of which one was surer than 90 %; and which slots were taken for which."""
    rules = {kind: read_rulebook_file(ROOT / "rulebooks" / file).rulebook for kind, file in EDITIONS.items()}
    right = papers = sure_wrong = sure = 0
    confused = Counter[tuple[str, str]]()
    for n in range(count):
        dice = random.Random(seed + n)
        kind = ("QV", "PL", "BW")[n % 3]
        people, made = piles.pile_of(kind, dice)
        there = spots(rules[kind], people)
        for paper in made:
            offers = offers_for(read_bytes(paper.content), paper.name, there)
            best = offers[0] if offers else None
            slot = best.spot.partition(".")[0] if best else ""
            whose = next((s.name for s in there if best and s.id == best.spot), "")
            good = slot == paper.slot and (not paper.who or not whose or whose == paper.who)
            if not paper.slot:  # a stray one is rightly offered nothing, or nothing surely
                good = best is None or best.sure < 0.8
            papers, right = papers + 1, right + good
            if best and best.sure > 0.9:
                sure, sure_wrong = sure + 1, sure_wrong + (not good)
            confused[(paper.slot or "(stray)", (slot if best else "") or "(none)")] += 1
    return {"right": right / papers, "sure": sure / papers, "sure wrong": sure_wrong / max(1, sure), "papers": papers}, confused


def split_scans(count: int, seed: int = 70_000) -> dict[str, float]:
    """First sheets that are found, and cuts where none is."""
    found = first = false = 0
    for n in range(count):
        content, begins = piles.long_scan(("QV", "PL", "BW")[n % 3], random.Random(seed + n))
        told = {part.first for part in parts_of(read_bytes(content))}
        first += len(begins)
        found += len(told & set(begins))
        false += len(told - set(begins))
    return {"found": found / first, "false": false / first}


def main() -> None:
    """Print the figures beside what is asked, and which slots were taken for which."""
    found = read_passports(200)
    told("passports read whole, of 200", f"{found['whole']:.1%}", "at least 98 %", found["whole"] >= 0.98)
    told("wrong values told as right", f"{found['wrong']:.0f}", "none", found["wrong"] == 0)
    told(
        "reading a passport, middle / most",
        f"{found['middle']:.2f} / {found['most']:.2f} s of CPU",
        "0.8 s",
        found["middle"] <= 0.8,
    )
    faces = judge_portraits(200)
    told("good portraits of which nothing is said", f"{faces['good']:.1%}", "all", faces["good"] == 1)
    told("bad portraits that are told", f"{faces['bad']:.1%}", "at least 90 %", faces["bad"] >= 0.9)
    figures, confused = sort_piles(90)
    told(
        "first proposal is right", f"{figures['right']:.1%} of {figures['papers']:.0f}", "at least 90 %", figures["right"] >= 0.9
    )
    told("wrong though surer than 90 %", f"{figures['sure wrong']:.1%}", "at most 1 %", figures["sure wrong"] <= 0.01)
    for (was, taken), count in sorted(confused.items()):
        if was != taken:
            print(f"    {was} taken for {taken}: {count}")
    cuts = split_scans(90)
    told("first sheets found in long scans", f"{cuts['found']:.1%}", "at least 95 %", cuts["found"] >= 0.95)
    told("cuts where no paper begins", f"{cuts['false']:.1%}", "at most 5 %", cuts["false"] <= 0.05)


def told(what: str, figure: str, asked: str, holds: bool) -> None:
    """One line of the figures."""
    print(f"{what:44} {figure:26} {asked:18} {'holds' if holds else 'does not hold'}", flush=True)


if __name__ == "__main__":
    main()
