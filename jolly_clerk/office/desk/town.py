"""The map of a register: drawn once from its GeoJSON, points on it measured by the core."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.town_map import Measured, TownMap, measured, read_map
from jolly_clerk.office.desk.registers import register_of
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office


def geojson(office: Office, rulebook: Rulebook, name: str) -> bytes:
    """The map of a register as it was given. Raises NotFound if there is none."""
    register_of(rulebook, name)
    found = office.registers.map_of(name)
    if found is None:
        raise NotFound(say("This register has no map here."))
    return found


def town_map(office: Office, rulebook: Rulebook, name: str) -> TownMap:
    """The map of a register, in metres. Raises NotFound if there is none, or it cannot be read."""
    made = geojson(office, rulebook, name)
    return _read(hashlib.sha256(made).hexdigest(), made)


def measure(office: Office, rulebook: Rulebook, name: str, x: float, y: float) -> Measured:
    """What lies at a point of a map, in metres from its north-west corner. Raises NotFound; Invalid beside the map."""
    drawn = town_map(office, rulebook, name)
    if not (0 <= x <= drawn.width and 0 <= y <= drawn.height):
        raise Invalid(say("This point lies beside the map."))
    return measured(drawn, (x, y))


@lru_cache(maxsize=4)
def _read(_sha256: str, made: bytes) -> TownMap:
    try:
        return read_map(json.loads(made))
    except ValueError as fault:
        raise NotFound(say("The map of this register cannot be read: {fault}", fault=fault)) from None
