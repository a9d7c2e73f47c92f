"""The reviewers beside the leading one, and whether they have signed off."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_clerk.office.cases.casework import Loaded


@dataclass(frozen=True, slots=True)
class BesideView:
    """A reviewer beside the leading one: whether and with which words they signed off."""

    name: str
    signed: bool
    words: str
    mine: bool


def beside_view(loaded: Loaded, known_names: dict[str, str], me: str) -> tuple[BesideView, ...]:
    """The reviewers beside the leading one, as ``me`` (an id) sees them."""
    handed, signed = loaded.so_far.handed, loaded.so_far.signed_off
    return tuple(
        BesideView(known_names.get(id_, id_), id_ in signed, signed[id_].words if id_ in signed else "", id_ == me)
        for id_ in (handed.beside if handed else ())
    )
