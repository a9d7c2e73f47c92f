"""Where a document belongs: points for what speaks for each place of a filing, each with its reason, and how sure that makes one."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jolly_clerk.core.facts.file_findings import a_kind
from jolly_clerk.core.facts.findings import LARGE_HEAD, PICTURES
from jolly_clerk.core.facts.measures import any_scale, has_title_block, label_of, scale_words
from jolly_clerk.core.facts.names import compared, words
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.facts.zone_signs import read_zone, seen_on
from jolly_clerk.core.rulebook.model import SHEETS, Slot
from jolly_clerk.core.say import say
from jolly_clerk.core.sorting.parts import UPPER, begins_with, head_of, heading_of, roots

#: how many places are offered
MOST_OFFERS = 5
#: what it counts that a paper with the same head was put there by hand, how much of the shorter of two heads is
#: the same then, and how many words at least
LEARNT, ALIKE, LEAST_ALIKE = 7.0, 0.5, 2
#: letters of a document in which words are looked for
MOST_LETTERS = 6000


@dataclass(frozen=True, slots=True)
class Spot:
    """A place of the filing that can take a file: the slot, for which item (``no`` 0 for none, its ``name`` and ``number`` as far as they
    are known), how many files are there, and whether it is asked for. ``fresh`` stands for an item that is not there yet, ``everybody`` for all
    items that the document names, whose own spots have the same slot. ``learnt`` are the heads of papers that were put here by hand."""

    id: str
    slot: Slot
    title: str
    no: int = 0
    name: str = ""
    number: str = ""
    files: int = 0
    asked: bool = True
    fresh: bool = False
    everybody: bool = False
    learnt: tuple[frozenset[str], ...] = ()


@dataclass(frozen=True, slots=True)
class Offer:
    """A place that is offered: ``sure`` is from 0 to 1, ``because`` what speaks for it, ``but`` what speaks against."""

    spot: str
    title: str
    sure: float
    because: tuple[str, ...]
    but: tuple[str, ...]
    fresh: bool = False


class _Points:
    def __init__(self) -> None:
        self.sum, self.because, self.but = 0.0, list[tuple[float, str]](), list[tuple[float, str]]()

    def add(self, points: float, why: str = "") -> None:
        self.sum += points
        if why:
            (self.because if points > 0 else self.but).append((abs(points), why))

    def said(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        told = [tuple(why for _, why in sorted(side, reverse=True)[:3]) for side in (self.because, self.but)]
        return told[0], told[1]


def offers_for(reading: Reading, name: str, spots: Sequence[Spot], near: str = "") -> tuple[Offer, ...]:
    """The places that a document may belong to, the likeliest first. ``name`` is that of its file, ``near`` whose passport it lay next to."""
    if not spots or reading.opens != "yes":
        return ()
    doc = _Doc(reading, name, near)
    rare = _rarity(spots)
    told = sorted(((spot, doc.points(spot, spots, rare)) for spot in spots), key=lambda pair: -pair[1].sum)
    best = told[0][1].sum
    rest = [points.sum for _, points in told[1:]]
    found = []
    for n, (spot, points) in enumerate(told[:MOST_OFFERS]):
        other = max(rest[:1], default=0.0) if n == 0 else best
        sure = _sure(points.sum, other)
        if points.sum <= 0.5:
            break
        because, but = points.said()
        found.append(Offer(spot.id, spot.title, round(sure, 2), because, but, spot.fresh))
    return tuple(found)


def _sure(points: float, other: float) -> float:
    """How sure one may be: by the points themselves, and by how far the next one is behind."""
    if points <= 0:
        return 0.0
    enough = 1 - math.exp(-points / 3.2)
    apart = 1 / (1 + math.exp(-(points - other - 0.6) * 1.15))
    return min(0.99, enough * apart)


def _rarity(spots: Sequence[Spot]) -> Mapping[str, float]:
    """How much a word says: less if it stands in the titles or sentences of many slots."""
    slots = {spot.slot.slot: spot.slot for spot in spots}
    count = Counter(root for slot in slots.values() for root in roots(f"{slot.title} {slot.says} {' '.join(slot.known_by)}"))
    return {root: 1 / n for root, n in count.items()}


class _Doc:
    """A document, looked at once for all places."""

    def __init__(self, reading: Reading, name: str, near: str) -> None:
        self.reading, self.near = reading, near
        self.heading = heading_of(reading)
        self.head, self.begins = roots(head_of(reading)), begins_with(reading)
        self.text = "\n".join(line.text for line in reading.lines)[:MOST_LETTERS]
        self.body = roots(self.text)
        self.file = roots(name.rpartition(".")[0].replace("_", " ").replace("-", " "))
        self.called = set(words(name.rpartition(".")[0].replace("_", " ").replace("-", " ")))
        self.names = set(words(self.text))
        self.zone = read_zone(reading, seen_on(reading))
        face = reading.face
        self.portrait = (
            reading.type in PICTURES and face is not None and face.count == 1 and face.height >= LARGE_HEAD and not self.zone
        )
        self.short = reading.words < 12

    def named(self, slot: Slot, spots: Sequence[Spot]) -> list[Spot]:
        """The places of a slot whose item the document names."""
        own = [(s, [w for w in words(s.name) if len(w) > 1]) for s in spots if s.slot is slot and s.no]
        return [s for s, name in own if name and all(w in self.names for w in name)]

    def points(self, spot: Spot, spots: Sequence[Spot], rare: Mapping[str, float]) -> _Points:
        points = _Points()
        self._by_looks(spot.slot, points)
        self._by_words(spot.slot, rare, points)
        self._by_item(spot, spots, points)
        if self.reading.type not in spot.slot.accepts.formats:
            wanted = ", ".join(f.upper() for f in spot.slot.accepts.formats)
            points.add(-1.5, say("it is {kind}; {wanted} is asked", kind=a_kind(self.reading.type), wanted=wanted))
        if spot.files >= spot.slot.accepts.file_range[1]:
            points.add(-2, say("this place is full"))
        if not spot.asked:
            points.add(-3, say("it is not asked for by what is answered so far"))
        if spot.slot.delivered_by:
            points.add(-6)
        if self.learnt_from(spot):
            points.add(LEARNT, say("a paper that begins like this was put here by hand"))
        return points

    def learnt_from(self, spot: Spot) -> bool:
        """True if a paper with nearly the same head was put into this place by hand, against what was offered."""
        return any(
            len(both := self.begins & words) >= LEAST_ALIKE and len(both) >= ALIKE * min(len(self.begins), len(words))
            for words in spot.learnt
        )

    def _by_looks(self, slot: Slot, points: _Points) -> None:
        """A passport, a portrait, claims, a drawing: known by what they are."""
        if any(f.type.startswith("passport ") for f in slot.facts):
            if self.zone:
                points.add(9, say("it bears the machine-readable lines of a passport"))
            else:
                points.add(-5)
        if slot.portrait:
            if self.portrait and self.short:
                points.add(9, say("it is a picture of one face"))
            else:
                points.add(-6)
        elif self.portrait and self.short:
            points.add(-2)
        if any(f.type == "claims" for f in slot.facts):
            points.add(8 if self.reading.claims else -2, say("its paragraphs are numbered claims") if self.reading.claims else "")
        self._by_sheet(slot, points)

    def _by_sheet(self, slot: Slot, points: _Points) -> None:
        pages = self.reading.pages
        if not pages or not (slot.accepts.sheet or slot.scales or slot.title_block):
            return
        if slot.scales and scale_words(self.reading, slot.scales):
            points.add(2.5, say("it is drawn at {scale}", scale=any_scale(self.reading)))
        if slot.title_block and has_title_block(self.reading):
            points.add(0.8, say("it has a title block"))
        if slot.accepts.sheet:
            short, long = SHEETS[slot.accepts.sheet]
            a, b = sorted((pages[0].width_mm, pages[0].height_mm))
            large = a >= short - 3 and b >= long - 3
            points.add(1.5 if large else -1.5 if a else 0, say("its sheets are large enough") if large and short > 210 else "")

    def _by_words(self, slot: Slot, rare: Mapping[str, float], points: _Points) -> None:
        """Words of its heading, of its text and of its name that the slot has, too."""
        title = roots(slot.title)
        known = [(said, roots(said)) for said in slot.known_by]
        hit = next((said for said, own in known if own and own <= self.head), "")
        shared = self.head & title
        if hit:
            points.add(5.5, say("“{heading}” stands at its head", heading=self._shown(hit)))
        elif shared and title:
            weight = sum(rare.get(r, 1) for r in shared) / max(0.6, sum(rare.get(r, 1) for r in title))
            points.add(5.5 * min(1.0, weight), say("“{heading}” stands at its head", heading=self._shown(slot.title)))
        for said, own in known:
            if own and own <= self.body and said != hit:
                points.add(1.6, say("it speaks of “{words}”", words=said))
                break
        inside = self.body & title
        if inside and title:
            points.add(1.8 * sum(rare.get(r, 1) for r in inside) / max(0.6, sum(rare.get(r, 1) for r in title)))
        says = roots(slot.says) - title
        common = self.body & says
        if common:
            points.add(min(1.6, 0.5 * sum(rare.get(r, 1) for r in common)))
        called = self.file & (title | roots(slot.slot.replace("_", " ")) | {r for _, own in known for r in own})
        if called:
            points.add(min(3.0, 2.6 * sum(rare.get(r, 1) for r in called)), say("its name says so"))
        labels = [near for f in slot.facts for near in f.near if label_of(near).search(self.text)]
        if labels:
            points.add(min(2.0, 1.0 * len(labels)), say("it has “{label}”", label=labels[0]))

    def _shown(self, said: str) -> str:
        """The line at the head that has most of these words."""
        upper = [line.text for line in self.reading.lines if line.box[1] < UPPER and len(line.text.split()) <= 8]
        return max(upper, key=lambda text: len(roots(text) & roots(said)) - len(text) / 1000, default=self.heading)[:60]

    def _by_item(self, spot: Spot, spots: Sequence[Spot], points: _Points) -> None:
        """Whose it is: the person, the stall, the site that it names."""
        if not spot.slot.for_each:
            return
        if spot.everybody:
            named = self.named(spot.slot, spots)
            of = sum(1 for s in spots if s.slot is spot.slot and s.no)
            points.add(6 if len(named) > 1 else -6, say("it names {named} of {of}", named=len(named), of=of) if named else "")
            return
        holder = self.zone[1].holder if self.zone else ""
        number = self.zone[1].number if self.zone else ""
        if spot.fresh:
            known = [s.name for s in spots if s.slot is spot.slot and s.name and not s.fresh]
            is_new = bool(holder) and not any(compared(holder, name).verdict != "other" for name in known)
            points.add(
                3.5 if is_new else -4, say("nobody of this name stands in the filing yet: {name}", name=holder) if is_new else ""
            )
            return
        if holder and spot.name:
            verdict = compared(holder, spot.name).verdict
            other = say("it bears another name: {name}", name=holder)
            why = other if verdict == "other" else say("it bears the name {name}", name=holder)
            points.add({"same": 5.0, "look": 2.5}.get(verdict, -5.0), why)
            if number and number == spot.number:
                points.add(2, say("it bears the number {number}", number=number))
            return
        own = [w for w in words(spot.name) if len(w) > 1]
        if own and all(w in self.names for w in own):
            points.add(3.5, say("it names {name}", name=spot.name))
            return
        others = [s for s in spots if s.slot is spot.slot and s is not spot and s.name]
        called, best = len(set(own) & self.called), max((len(set(words(s.name)) & self.called) for s in others), default=0)
        if called > best:
            points.add(3.2, say("its name says {name}", name=spot.name))
            return
        if best > called:
            points.add(-2)
        if any(all(w in self.names for w in words(s.name) if len(w) > 1) for s in others):
            points.add(-3)
        elif self.near and spot.name and compared(self.near, spot.name).verdict == "same":
            points.add(1.8, say("it lay next to the passport of {name}", name=spot.name))
        elif own and any(len(w) > 3 and w in self.names for w in own):
            points.add(0.8)
        if spot.files == 0 and not self.reading.lines and not self.near:
            points.add(0.2 / max(1, spot.no))


def named_in(reading: Reading, slot: Slot, spots: Sequence[Spot]) -> list[Spot]:
    """The places of a slot whose item a document names."""
    return _Doc(reading, "", "").named(slot, spots)


def holder_of(reading: Reading) -> str:
    """Whose passport this is, as its lines say; empty for anything else."""
    found = read_zone(reading, seen_on(reading))
    return found[1].holder if found else ""


def answers_of(slot: Slot, agrees: Mapping[str, str], reading: Reading) -> dict[str, object]:
    """What a document states of the questions that have to agree with it: the value by question. ``agrees`` gives the fact of the slot for
    each question."""
    facts = {f.id: f for f in slot.facts}
    told = {question: stated(facts[fact], reading) for question, fact in agrees.items() if fact in facts}
    return {question: fact.value for question, fact in told.items() if fact is not None}
