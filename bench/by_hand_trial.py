"""A clinical trial in plain Python, written by hand for the comparison: the same standings and fees, no working, no words.

It takes what :func:`jolly_clerk.core.assessment.assess` takes, for this one kind, and holds nothing but plain comparisons.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from bench.by_hand_form import _ASKED, _DAY, _MONTHS, EACH, ENDINGS, SIGNS, SITE_SLOTS, SLOTS, WHOLE, D, typed
from jolly_clerk.core.facts.names import same_name

CENT = D("0.01")
BASE = {"low": D(1200), "standard": D(3400), "high": D(5900)}
KEPT = "What is found is kept for 15 years, and nobody's name leaves the site."


class Case:
    """One trial: what was filed, what happened to it, what is known."""

    def __init__(self, dossier: Any, entries: Sequence[Any], readings: Mapping[str, Any], filed: date, text: str) -> None:
        self.dossier, self.readings, self.filed, self.text = dossier, readings, filed, text
        self.given: dict[str, Any] = {}
        self.pointed: set[str] = set()
        self.paid, self.back = D(0), D(0)
        self.register: Any = None
        self.happened(entries)
        self.faults: set[str] = set()
        self.v: dict[str, Any] = {}
        self.sites: list[dict[str, Any]] = []
        self.found: dict[str, str] = {}
        self.files: dict[str, list[Any]] = {}
        self.same: dict[str, int] = {}
        for a in dossier.attachments:
            self.files.setdefault(a.slot, []).append(a)
            self.same[a.sha256] = self.same.get(a.sha256, 0) + 1

    def happened(self, entries: Sequence[Any]) -> None:
        """What the history says: judgements that stand, money, the register."""
        undone = {no for e in entries if e.what == "undone" for no in e.of}
        points: dict[tuple[str, int], list[str]] = {}
        keys = set()
        for no, e in enumerate(entries, 1):
            if no in undone:
                continue
            if e.what == "judged":
                if e.standing is None:
                    self.given.pop(e.requirement, None)
                else:
                    self.given[e.requirement] = e
            elif e.what == "paid" and e.key not in keys:
                keys.add(e.key)
                self.paid += e.amount - e.prepaid
            elif e.what in ("paid back", "refund due") and not e.key.endswith("-acceptance"):
                self.back += e.amount - e.prepaid
            elif e.what == "register asked":
                self.register = e
            elif e.what == "letter sent":
                asked = [r for p in e.points for r in (p.requirement, *p.also)]
                points[e.lane, e.round] = asked
                self.pointed.update(p.requirement for p in e.points)
            elif e.what == "answered":
                for requirement in points.get((e.lane, e.round), ()):
                    self.given.pop(requirement, None)

    def read(self) -> None:
        """Every answer, typed; what is open or wrong is None and has a line of its own."""
        answers = self.dossier.answers
        for question in WHOLE:
            part, _, q = question.partition(".")
            self.v[question] = self.one(question, question, (answers.get(part) or {}).get(q))
        for n, item in enumerate(answers.get("sites") or (), 1):
            no = str(item.get("id", n))
            own = {q: self.one(q, f"sites.{no}.{q[6:]}", item.get(q[6:])) for q in EACH}
            self.sites.append({**own, "id": no})
        if not 1 <= len(self.sites) <= 30:
            self.found["answer.sites"] = "wanting"

    def one(self, question: str, place: str, raw: Any) -> Any:
        """One answer; it counts only where it is asked."""
        asked = self.v.get("need.change") if question == "trial.changed" else True
        is_open = raw is None or raw == "" or raw == [] or (isinstance(raw, str) and raw.isspace())
        value = None
        if not is_open and asked is not False:
            try:
                value = typed(question, raw)
            except (ValueError, TypeError):
                self.faults.add(place)
        if asked is True and value is None:
            self.found[f"answer.{place}"] = "wanting"
        elif asked is not False and (f"answer.{place}" in self.given or f"answer.{place}" in self.pointed):
            self.found[f"answer.{place}"] = "met"
        return value if asked is True else None

    def risk(self) -> tuple[bool | None, str | None]:
        """Whether the risk is high, and its class; None where that hangs on an open question."""
        v = self.v
        first = (v["need.first_time"], v["need.children"], v["need.living"])
        high = True if True in first else None if None in first else False
        signs = [v[f"need.{sign}"] for sign in SIGNS]
        count = None if None in signs else signs.count(True)
        if high:
            return high, "high"
        return high, None if high is None or count is None else "standard" if count >= 2 else "low"

    def fees(self) -> dict[str, Decimal | None]:
        """The lines that are asked, None for an amount that is not known yet."""
        v, (_, risk) = self.v, self.risk()
        base, change, sort = BASE.get(risk or ""), v["need.change"], v["sponsor.sort"]
        share = None if sort is None else D("0.30") if sort == "academic" else D(1)
        if change is None:
            return {"base": None}
        arms = v["trial.arms"]
        if change:
            lines = {"change": None if base is None else base * D("0.40")}
        else:
            lines = {"base": base, "further_sites": D(260) * max(0, len(self.sites) - 1)}
            lines["further_arms"] = None if arms is None else D(150) * max(D(0), arms - 2)
        done: dict[str, Decimal | None] = {}
        for line, amount in lines.items():
            cut = D(1) if amount == 0 else share
            done[line] = None if amount is None or cut is None else (amount * cut).quantize(CENT, ROUND_HALF_UP)
        return done

    def standings(self) -> dict[str, str]:
        """The standing of each requirement: the given one while what it looked at is the same, else what a rule would propose."""
        self.read()
        v, found, (high, _) = self.v, self.found, self.risk()
        first, last, persons = v["trial.first_day"], v["trial.last_visit"], v["trial.persons"]
        starts, ends, total = v["insurance.starts"], v["insurance.ends"], v["insurance.sum"]
        until = None if last is None else date(last.year + 2, last.month, min(last.day, 28 if last.month == 2 else 31))
        found["days-follow"] = _rule(_and(_le(self.filed, first), _le(first, last)))
        found["board-watches"] = _unknown(high) or ("not asked" if not high else _rule(v["trial.board"]))
        found["purpose-clear"] = "to read"
        found["product-file"] = self.product()
        found["insured-enough"] = _rule(None if total is None or persons is None else total >= persons * 50000)
        found["insured-long"] = _rule(_and(_le(starts, first), _le(until, ends)))
        each = [site["sites.persons"] for site in self.sites]
        adds = None if persons is None or None in each else sum(each) == persons
        found["persons-add-up"] = "in doubt" if adds is False else _rule(adds)
        found["substance-agrees"] = self.substance()
        found["signature"] = "met" if self.dossier.signature and self.dossier.signature.text == self.text else "wanting"
        ticked = {d.id: d.text for d in self.dossier.declared}.get("data_kept")
        found["declarations.data_kept"] = "met" if ticked == KEPT else "wanting"
        fees = self.fees()
        due = None if None in fees.values() else sum(fees.values())  # type: ignore[arg-type]
        found["fee.at_filing"] = "not known yet" if due is None else "met" if self.paid - self.back >= due else "wanting"
        found["persons-agree"] = self.agree(persons, "protocol", "number of persons", "persons")
        found["sum-agrees"] = self.agree(total, "certificate", "sum insured")
        found["end-agrees"] = self.agree(ends, "certificate", "in force until", "valid until", like=date.min)
        wanted = {"children_plan": v["need.children"], "dummy_reasons": v["need.dummy"], "board_rules": v["trial.board"],
                  "changes_marked": v["need.change"]}  # fmt: skip
        for slot in ("protocol", "declaration", "ethics", *wanted):
            found[f"documents.{slot}"] = _unknown(wanted.get(slot, True)) or self.slot(slot, slot, wanted.get(slot, True))
        found["documents.certificate"] = self.slot("certificate", "certificate", True, until, "in force until", "valid until")
        for site in self.sites:
            self.at_site(site, first)
        self.judged(due)
        return found

    def at_site(self, site: dict[str, Any], first: date | None) -> None:
        """What is asked of one site."""
        found, no, trained, spoken = self.found, site["id"], site["sites.trained_until"], site["sites.spoken"]
        found[f"trained.{no}"] = _rule(_le(first, trained))
        found[f"language-spoken.{no}"] = _rule(None if spoken is None else spoken != "other")
        found[f"site-suits.{no}"] = "to read"
        found[f"investigator-agrees.{no}"] = self.agree(site["sites.investigator"], f"cv.{no}", "name", "investigator", like="")
        found[f"training-agrees.{no}"] = self.agree(trained, f"training.{no}", "valid until", like=date.min)
        for slot in SITE_SLOTS:
            on = first if slot == "training" else None
            told = self.slot(slot, f"{slot}.{no}", True, on, "valid until")
            nameless = slot == "training" and told == "to read" and not self.names(f"{slot}.{no}", site["sites.investigator"])
            found[f"documents.{slot}.{no}"] = "in doubt" if nameless else told
        borrowed = f"suitability.{no}" not in self.files and f"contract.{no}" in self.files
        if borrowed and found[f"documents.suitability.{no}"] == "wanting":
            found[f"documents.suitability.{no}"] = "to read"

    def product(self) -> str:
        """The product file has to be complete."""
        reference, told = str((self.dossier.answers.get("product") or {}).get("file") or "").strip(), self.register
        if not reference:
            return "wanting"
        if told is None or told.key.casefold() != reference.casefold() or told.trouble:
            return "in doubt"
        return "met" if told.row and told.row.get("state") in ("Complete", "Under review", "Granted") else "wanting"

    def substance(self) -> str:
        """Trial and product file name the same substance."""
        own, row = self.v["product.substance"], self.register.row if self.register else None
        said = (row or {}).get("substance", "").strip()
        if own is None or not said:
            return "to read"
        plain = [re.sub(r"[\s.,]+", " ", t).strip().casefold() for t in (own, said)]
        return "met" if plain[0] == plain[1] else "in doubt"

    def slot(self, slot: str, name: str, asked: bool, on: date | None = None, *words: str) -> str:
        """What is to be said of the files of a slot."""
        if not asked:
            return "not asked"
        files = self.files.get(name, ())
        formats, most, size = SLOTS[slot]
        if not files or len(files) > most:
            return "wanting"
        standing = "to read"
        for a in files:
            r = self.readings.get(a.sha256)
            if a.size > size or (r and (r.opens in ("empty", "password", "damaged"))):
                return "wanting"
            if r is None or r.opens == "not read":
                standing = "in doubt"
                continue
            if r.type not in formats or (slot == "cv" and len(r.pages) > 3):
                return "wanting"
            until = self.fact(r, words) if on else None
            if on and isinstance(until, date) and until < on:
                return "wanting"
            right = ENDINGS.get(a.name.rpartition(".")[2].lower()) == r.type
            unstated = on is not None and until is None and r.opens == "yes" and r.scans != "waiting"
            if not right or r.scripts or r.embedded or unstated or self.elsewhere(a, name):
                standing = "in doubt"
        return standing

    def names(self, slot: str, name: str | None) -> bool:
        """Whether the files of a slot that could be read name somebody, by the first and the last word of the name."""
        wanted = re.findall(r"\w+", (name or "").lower())
        for a in self.files.get(slot, ()):
            r = self.readings.get(a.sha256)
            if r is None or r.opens != "yes" or r.scans == "waiting" or not r.lines or not wanted:
                continue
            written = re.findall(r"\w+", " ".join(line.text for line in r.lines).lower())
            if wanted[0] not in written or wanted[-1] not in written:
                return False
        return True

    def elsewhere(self, a: Any, name: str) -> bool:
        """True if the same content stands in another slot."""
        if self.same[a.sha256] == 1:
            return False
        return any(o.sha256 == a.sha256 and o.slot != name for o in self.dossier.attachments)

    def agree(self, value: Any, slot: str, *words: str, like: Any = D(0)) -> str:
        """Form and paper state the same. A paper that was read and does not state it is looked at."""
        read = [r for a in self.files.get(slot, ()) if (r := self.readings.get(a.sha256))]
        for reading in read:
            told = self.fact(reading, words, like if value is None else value)
            if told is not None:
                same = value is not None and (same_name(value, told) if isinstance(value, str) else value == told)
                return "to read" if value is None else "met" if same else "in doubt"
        whole = any(r.opens == "yes" and r.scans != "waiting" for r in read)
        return "in doubt" if whole else "to read"

    def fact(self, reading: Any, words: tuple[str, ...], like: Any = None) -> Any:
        """What stands after a word in a file: a day, a number or a name, as the value that it is compared with. Looked for once."""
        return reading.once(("by hand", type(like), words), lambda: self.look(reading, words, like))

    def look(self, reading: Any, words: tuple[str, ...], like: Any) -> Any:
        """Search the lines of a file."""
        if words not in _ASKED:
            _ASKED[words] = re.compile(rf"\b(?:{'|'.join(words)})\b(.*)", re.I)
        for line in reading.lines:
            if not (after := _ASKED[words].search(line.text)):
                continue
            if isinstance(like, str):
                return after[1].strip(" :.-–")
            if isinstance(like, D):
                if number := re.search(r"\d{1,3}(?:[ \u00a0\u202f]\d{3})+(?:\.\d+)?|\d+(?:\.\d+)?", after[1]):
                    return D(re.sub(r"\s", "", number[0]))
            elif found := _DAY.search(after[1]):
                return date(int(found[3]), _MONTHS[found[2]], int(found[1]))
        return None

    def judged(self, due: Decimal | None) -> None:
        """Put the given standings over the proposed ones, as long as nothing changed at their places."""
        answers = self.dossier.answers
        for id_, e in self.given.items():
            if id_ not in self.found:
                continue
            if e.evidence and e.evidence != self.mark(self.places(id_), answers, due):
                continue
            self.found[id_] = e.standing

    def places(self, id_: str) -> Iterable[str]:
        """The places that belong to a requirement."""
        if id_.startswith(("documents.", "declarations.")):
            return (id_,)
        if id_.startswith("answer."):
            return (id_.removeprefix("answer."),)
        head, _, no = id_.partition(".")
        return [f"{part}.{no}.{q}".rstrip(".") for part, q in _AT[head]] if head in _AT else _PLACES[id_]

    def mark(self, places: Iterable[str], answers: Mapping[str, Any], due: Decimal | None) -> str:
        """A hash of what stands at some places."""
        told = []
        for place in places:
            told.append(place)
            part, _, rest = place.partition(".")
            if part == "documents":
                told += sorted(f"{a.sha256} {a.name}" for a in self.files.get(rest, ()))
            elif part == "declarations":
                told.append(next((d.text for d in self.dossier.declared if d.id == rest), ""))
            elif place == "signature":
                s = self.dossier.signature
                told.append(f"{s.name}\n{s.at.isoformat()}\n{s.text}" if s else "")
            elif place == "fee":
                told += [str(due), str(self.paid)]
            elif part == "sites":
                no, _, q = rest.partition(".")
                item = next((i for i in answers.get("sites", ()) if str(i.get("id")) == no), {})
                told.append(str(item.get(q, "")))
            else:
                told.append(str(answers.get(part, {}).get(rest, "")))
        return hashlib.sha256("\0".join(told).encode()).hexdigest()[:16]


_PLACES = {
    "days-follow": ("trial.first_day", "trial.last_visit"), "board-watches": ("trial.board",), "signature": ("signature",),
    "purpose-clear": ("trial.purpose", "documents.protocol"), "persons-add-up": ("trial.persons", "sites"), "fee.at_filing": ("fee",),
    "insured-enough": ("insurance.sum", "trial.persons"), "insured-long": ("insurance.starts", "insurance.ends"),
    "product-file": ("product.file",), "substance-agrees": ("product.substance",), "persons-agree": ("trial.persons", "documents.protocol"),
    "sum-agrees": ("insurance.sum", "documents.certificate"), "end-agrees": ("insurance.ends", "documents.certificate"),
}  # fmt: skip
_AT: dict[str, tuple[tuple[str, str], ...]] = {
    "trained": (("sites", "trained_until"), ("documents.training", "")), "language-spoken": (("sites", "spoken"), ("documents.consent_form", "")),
    "site-suits": (("sites", "name"), ("documents.suitability", "")), "investigator-agrees": (("sites", "investigator"), ("documents.cv", "")),
    "training-agrees": (("sites", "trained_until"), ("documents.training", "")),
}  # fmt: skip


def _le(one: Any, other: Any) -> bool | None:
    return None if one is None or other is None else bool(one <= other)


def _and(one: bool | None, other: bool | None) -> bool | None:
    return False if one is False or other is False else None if one is None or other is None else True


def _unknown(asked: bool | None) -> str:
    return "not known yet" if asked is None else ""


def _rule(holds: bool | None) -> str:
    return "not known yet" if holds is None else "met" if holds else "wanting"
