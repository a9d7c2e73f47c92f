"""Files of a dossier in another shape, in the place of those that they were made from; and those again."""

from __future__ import annotations

from collections.abc import Sequence, Set
from typing import NamedTuple

from jolly_clerk.core.dossier.changing import AlreadyThere, highest_file
from jolly_clerk.core.dossier.model import Attachment, Dossier, MadeFrom, Version


class NewFile(NamedTuple):
    """A file that comes into a dossier: its name, content (SHA-256) and size in bytes."""

    name: str
    sha256: str
    size: int


def remade(dossier: Dossier, versions: Sequence[Version], gone: Sequence[str], made: Sequence[NewFile]) -> Dossier | None:
    """With files made of others of one slot in their place; what they were made from goes with them. None if one of them is not there.

    What was made of a file that was made itself comes from the first ones. Raises AlreadyThere.
    """
    old = [a for a in dossier.attachments if a.id in gone]
    if len(old) < len(set(gone)) or not old:
        return None
    before = [MadeFrom(name=a.name, checksum=a.sha256, size=a.size) for a in old if not a.made_from]
    sources = tuple(dict.fromkeys([*(source for a in old for source in a.made_from), *before]))
    return _in_place(dossier, versions, {a.id for a in old}, old[0].slot, made, sources)


def unmade(dossier: Dossier, versions: Sequence[Version], attachment: str) -> Dossier | None:
    """With the files again of which one was made; what else was made of the same goes too. None if it was made of nothing."""
    one = next((a for a in dossier.attachments if a.id == attachment and a.made_from), None)
    if one is None:
        return None
    mates = {a.id for a in dossier.attachments if a.slot == one.slot and set(a.made_from) & set(one.made_from)}
    sources = dict.fromkeys(source for a in dossier.attachments if a.id in mates for source in a.made_from)
    return _in_place(dossier, versions, mates, one.slot, [NewFile(s.name, s.checksum, s.size) for s in sources], ())


def _in_place(
    dossier: Dossier,
    versions: Sequence[Version],
    gone: Set[str],
    slot: str,
    new: Sequence[NewFile],
    sources: tuple[MadeFrom, ...],
) -> Dossier:
    """Files in the place of others of a slot, under ids that were never given before."""
    used, at = highest_file(dossier, versions), next(n for n, a in enumerate(dossier.attachments) if a.id in gone)
    left = [a for a in dossier.attachments if a.id not in gone]
    if any(a.slot == slot and a.sha256 in {one.sha256 for one in new} for a in left):
        raise AlreadyThere(new[0].name)
    fresh = [
        Attachment(id=f"a{used + n}", slot=slot, name=one.name, sha256=one.sha256, size=one.size, made_from=sources)
        for n, one in enumerate(new, 1)
    ]
    kept = sum(1 for a in dossier.attachments[:at] if a.id not in gone)
    return dossier.model_copy(update={"attachments": (*left[:kept], *fresh, *left[kept:])})
