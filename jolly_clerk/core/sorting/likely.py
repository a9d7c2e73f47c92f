"""Of which kind of filing papers may be: how well the places of each kind could take them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jolly_clerk.core.say import say_n
from jolly_clerk.core.sorting.placing import Offer

#: from so sure on a place counts as one that fits
FITS = 0.5


@dataclass(frozen=True, slots=True)
class Likely:
    """A kind of which papers may be: how many of them fit a place of it, and how sure that makes one, from 0 to 1."""

    kind: str
    title: str
    sure: float
    because: str


def likeliest(offers: Mapping[str, Sequence[Sequence[Offer]]], titles: Mapping[str, str]) -> list[Likely]:
    """The kinds, the likeliest first. ``offers`` are, by kind, those of each paper, the likeliest first."""
    found = []
    for kind, papers in offers.items():
        best = [paper[0].sure if paper else 0.0 for paper in papers]
        fits = sum(sure >= FITS for sure in best)
        sure = round(sum(best) / len(best), 2) if best else 0.0
        because = say_n("{n} paper fits a place of it", "{n} papers fit a place of it", fits)
        found.append(Likely(kind, titles.get(kind, kind), sure, because))
    return sorted(found, key=lambda one: (-one.sure, one.kind))
