"""The map of a register, brought in as GeoJSON: what it changes is shown before it is taken."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from decimal import Decimal

from jolly_clerk.core.in_words import number
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.core.town_map import PlotOnMap, TownMap, distance, read_map
from jolly_clerk.core.values import Raw
from jolly_clerk.office.errors import Invalid, NotFound, Stale
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.running.changes import need_lead
from jolly_clerk.office.running.registers import MOST_BYTES, NAMED, RegisterChange, RowChanged, folder_of, put_in_place

#: so many points has a map on which places are measured
MOST_POINTS = 200_000
#: so many kilometres wide is a map at most
MOST_WIDE = 100
#: an outline that moves less than so many metres is the same
SAME = 0.01


def look_over_map(office: Office, who: Who, name: str, content: bytes) -> RegisterChange:
    """What a map in GeoJSON (RFC 7946) would change: plots by their number, and the area that it shows. Nothing is written.

    Raises NotAllowed for everybody but a lead, NotFound for a register that is not there, Invalid for what is no such map.
    """
    need_lead(who)
    folder = folder_of(office).folder
    if not (folder / f"{name}.csv").is_file():
        raise NotFound(say("There is no such register."))
    new, file = _read(content), folder / f"{name}.geojson"
    old = _read(file.read_bytes()) if file.is_file() else None
    before = {p.plot: p for p in old.plots} if old else {}
    now = {p.plot: p for p in new.plots}
    came, gone = [k for k in now if k not in before], [k for k in before if k not in now]
    differ = [k for k in now if k in before and _differs(before[k], now[k])]
    return RegisterChange(
        name=name,
        sha256=hashlib.sha256(content).hexdigest(),
        rows=len(now),
        came=len(came),
        gone=len(gone),
        differ=len(differ),
        some_came=tuple(f"{k} · {now[k].address}" for k in came[:NAMED]),
        some_gone=tuple(f"{k} · {before[k].address}" for k in gone[:NAMED]),
        some_differ=tuple(RowChanged(k, _differs(before[k], now[k])) for k in differ[:NAMED]),
        lost=(),
    )


def take_map(office: Office, who: Who, name: str, content: bytes, sha256: str) -> RegisterChange:
    """Take a map, as it was looked over (``sha256``). The one before is kept among the office's files.

    Raises as :func:`look_over_map` does; Stale for another file.
    """
    change = look_over_map(office, who, name, content)
    if change.sha256 != sha256:
        raise Stale(say("This is another file than the one that was looked over."))
    file = folder_of(office).folder / f"{name}.geojson"
    told = {"name": name, "plots": things(change.rows, "plot")}
    said = say("Map of register {name}: {plots}.", **told)
    if file.is_file():
        before = office.vault.put(file.read_bytes())
        said = say("Map of register {name}: {plots}. The one before is kept as {before}…", **told, before=before[:12])
    put_in_place(office, who, name, file, content, said)
    return change


def _read(content: bytes) -> TownMap:
    """A map that can be measured on. Raises Invalid with what is wrong."""
    if len(content) > MOST_BYTES:
        raise Invalid(say("It has more than {most} MB.", most=MOST_BYTES // 1_000_000))
    try:
        made = json.loads(content, parse_constant=_no_number)
        _check_points(made)
        drawn = read_map(made)
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        where = f"{error.lineno}:{error.colno}" if isinstance(error, json.JSONDecodeError) else str(error.start)
        raise Invalid(say("This is no JSON: it breaks at {where}.", where=where)) from None
    except RecursionError:
        raise Invalid(say("This is nested too deeply.")) from None
    except ValueError as fault:
        raise Invalid(str(fault)) from None
    wide = max(drawn.width, drawn.height) / 1000
    if wide > MOST_WIDE:
        raise Invalid(say("It is {wide} km wide; distances on it are right up to {most} km.", wide=round(wide), most=MOST_WIDE))
    seen = set[str]()
    for plot in drawn.plots:
        if not plot.plot:
            raise Invalid(say("A plot on it has no number."))
        if plot.plot in seen:
            raise Invalid(say("The plot {plot} is drawn twice.", plot=plot.plot))
        seen.add(plot.plot)
    return drawn


def _no_number(told: str) -> float:
    raise ValueError(say("{told} is no number.", told=told))


def _check_points(made: Raw) -> None:
    """Raise ValueError for too many points, and for one that is not in degrees; what is no feature is left to whoever reads the map."""
    features = made.get("features") if isinstance(made, dict) else None
    count = 0
    for feature in features if isinstance(features, list) else ():
        shape = feature.get("geometry") if isinstance(feature, dict) else None
        for point in _positions(shape.get("coordinates") if isinstance(shape, dict) else None):
            count += 1
            x, y = point[0], point[1]
            if not (isinstance(x, int | float) and isinstance(y, int | float) and abs(x) <= 180 and abs(y) <= 90):
                raise ValueError(say("{x}, {y} is no longitude and latitude in degrees (WGS 84).", x=str(x)[:20], y=str(y)[:20]))
    if count > MOST_POINTS:
        told = {"count": number(Decimal(count)), "most": number(Decimal(MOST_POINTS))}
        raise ValueError(
            say("It has {count} points; a map on which places are measured has at most {most}. Simplify its lines.", **told)
        )


def _positions(coordinates: Raw) -> Iterator[list[Raw]]:
    """The points of a line or of the rings of a polygon."""
    for one in coordinates if isinstance(coordinates, list) else ():
        if isinstance(one, list) and one and isinstance(one[0], list):
            yield from (point for point in one if isinstance(point, list) and len(point) > 1)
        elif isinstance(one, list) and len(one) > 1:
            yield one


def _differs(old: PlotOnMap, new: PlotOnMap) -> tuple[str, ...]:
    told = (f"{old.address} → {new.address}",) if old.address != new.address else ()
    same = len(old.outline) == len(new.outline) and all(
        distance(a, b) < SAME for a, b in zip(old.outline, new.outline, strict=True)
    )
    return told if same else (*told, say("another outline"))
