"""Hubs: their seats and holes in the model against the axes of members."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .likeness import kinds_counted
from .models import element_material, elements_in, meshes_in
from .pack_files import Found, Pack, Row, beyond, number_in, tolerance_of, vector_in
from .pack_members import Axis, Members, axes_at_ends, ends_at, members_of
from .steps import step_in
from .wanted_solids import mesh_volume

__all__ = ["hubs_as_listed", "hubs_in_step", "seats_at_members"]

Array = NDArray[np.float64]
ROUNDED_KG, ROUND_MM = 5.1e-5, 0.002
TURNED = 2e-6
"""What directions are rounded by."""
FLAT = 0.03
"""Share of its radius by which corners of a hole with flat sides are beyond it."""
FACETED, AIRY = 0.06, 0.13
"""Shares by which a ball with flat sides, and a hollow, may be smaller than a round one."""
DRILLS = {"M8": 6.8, "M10": 8.5, "M12": 10.2, "M16": 14.0, "M20": 17.5}
DRILLS |= {"M24": 21.0, "M27": 24.0, "M30": 26.5}
"""Diameters (mm) drilled for coarse threads (ISO 2306)."""


def _seats_of(pack: Pack) -> dict[str, list[Row]]:
    """Rows of hub_seats.csv by hub."""
    out: dict[str, list[Row]] = {}
    for row in pack.rows("hub_seats"):
        out.setdefault(row["hub"], []).append(row)
    return out


def hubs_as_listed(pack: Pack) -> Found:
    """Nodes, numbers of seats and masses (thousandths) of hubs.csv, how many kinds there are,
    and what the building model tells of them."""
    rows, seats = pack.rows("hubs"), _seats_of(pack)
    for name in sorted(seats.keys() - {row["label"] for row in rows}):
        yield np.inf, f"{name} of hub_seats.csv is not in hubs.csv"
    for row in rows:
        where = f"{row['label']} in hubs.csv"
        own = seats.get(row["label"], [])
        yield abs(number_in(row, "seats", "hubs") - len(own)), f"{where}: seats"
        yield beyond(row["label"] != f"{row['node']}-H"), f"{where}: node {row['node']}"
        yield beyond(row["node"] not in pack.nodes), f"{where}: node {row['node']}"
        yield _weighs(row, own), f"{where}: mass"
    yield from kinds_counted(pack, "hubs", "hub_kinds")
    if pack.has("model.ifc"):
        elements = elements_in(pack)
        for row in (row for row in rows if row["label"] in elements):
            yield from _built(row, elements[row["label"]])


def _built(row: Row, element: Any) -> Found:
    """Class, kind and material in the building model."""
    where = f"{row['label']} in model.ifc"
    yield beyond(not element.is_a("IfcDiscreteAccessory")), f"{where}: class"
    yield beyond(element.ObjectType != row["kind"]), f"{where}: kind"
    yield beyond(element_material(element) != row["material"]), f"{where}: material"


def _volume(row: Row, seats: list[Row]) -> float:
    """Of a ball (mm³) less its hollow, what is beyond its seats and in their holes."""
    radius, hollow = (number_in(row, name, "hubs") for name in ("radius_mm", "hollow_mm"))
    volume = 4 / 3 * np.pi * (radius**3 - hollow**3)
    for seat in seats:
        high = radius - number_in(seat, "from_middle_mm", "hub_seats")
        hole, deep = (number_in(seat, name, "hub_seats") for name in ("hole_mm", "deep_mm"))
        volume -= np.pi * high**2 * (3 * radius - high) / 3 + np.pi * hole**2 / 4 * deep
    return float(volume)


def _weighs(row: Row, seats: list[Row]) -> float:
    """How far (thousandths) the mass is off."""
    if row["material"] not in MATERIALS:
        return np.inf
    mass = number_in(row, "mass_kg", "hubs")
    wanted = _volume(row, seats) / 1e9 * MATERIALS[row["material"]].density
    return max(abs(mass - wanted) - ROUNDED_KG - 2e-6 * mass, 0.0) / max(mass, 1e-3) * 1000


def seats_at_members(pack: Pack) -> Found:
    """How far (mm) seats are from where their members begin and from being faces of the hubs in
    model.glb, and holes from being there as they are told."""
    m = members_of(pack)
    rows = pack.rows("hubs")
    if m is None or not rows:
        return
    axes, seats = axes_at_ends(m), _seats_of(pack)
    yield from _alike(pack, rows, seats)
    meshes = meshes_in(pack, "model.glb") if pack.has("model.glb") else {}
    for row in rows:
        own = seats.get(row["label"], [])
        yield from _as_told(m, row, own)
        middle = vector_in(row, "hubs", "{}_m") * 1000
        held = ends_at(m, row["node"])
        ends = [axes[end][0] for end in held]
        if ends:
            off = float(np.abs(np.mean(ends, axis=0) * 1000 - middle).max())
            yield max(off - ROUND_MM, 0.0), f"{row['label']} in hubs.csv: middle"
        mesh = meshes.get(row["label"])
        if mesh is not None:
            yield from _ball(row, own, middle, mesh[0] * 1000, mesh_volume(*mesh) * 1e9)
        for seat in own:
            where = f"{seat['member']} at {row['label']} in hub_seats.csv"
            key = (seat["member"], seat["end"])
            if key not in held:
                yield np.inf, f"{where}: member or end"
                continue
            yield from _at_member(row, seat, axes[key], where)
            yield from _seat(row, seat, middle, where)
            if mesh is not None:
                yield from _in_model(seat, middle, mesh[0] * 1000, where)


def _alike(pack: Pack, rows: list[Row], seats: dict[str, list[Row]]) -> Found:
    """How far (mm) sizes and the distances of seats of hubs of one kind differ beyond the
    tolerance; those made alike do not."""
    leads: dict[str, tuple[str, Array]] = {}
    for row in rows:
        room = ROUND_MM + (0.0 if row["made"] == "alike" else 2 * tolerance_of(pack))
        held = seats.get(row["label"], [])
        places = np.array([_place(seat) for seat in held]).reshape(-1, 3)
        i, j = np.triu_indices(len(places), 1)
        sizes = [number_in(row, name, "hubs") for name in ("radius_mm", "hollow_mm")]
        own = np.append(np.sort(np.linalg.norm(places[i] - places[j], axis=1)), sizes)
        name, lead = leads.setdefault(row["kind"], (row["label"], own))
        where = f"{row['label']} and {name} of kind {row['kind']} in hubs.csv"
        off = np.abs(own - lead).max() if len(own) == len(lead) else np.inf
        yield max(float(off) - room, 0.0), where


def _as_told(m: Members, row: Row, seats: list[Row]) -> Found:
    """Whether every member that ends at the node has its seat."""
    told = {(seat["member"], seat["end"]) for seat in seats}
    yield beyond(len(told) != len(seats)), f"{row['label']}: a member has two seats"
    missing = ends_at(m, row["node"]) - told
    yield beyond(bool(missing)), f"{row['label']} in hub_seats.csv: a member has no seat"


def _place(seat: Row) -> Array:
    """Where (3,) the axis meets a seat, in mm."""
    return vector_in(seat, "hub_seats", "{}_m") * 1000


def _way(seat: Row) -> Array:
    """The direction (3,) in which what is on a seat leads away."""
    return vector_in(seat, "hub_seats", "way_{}")


def _at_member(row: Row, seat: Row, axis: Axis, where: str) -> Found:
    """How far (mm) a seat is off where its member begins otherwise than it is told to be, and its
    direction from that of its member where hubs are made each to their own."""
    place, way, back = axis
    away = float(np.linalg.norm(_place(seat) - (place + back * way) * 1000))
    told = number_in(seat, "off_mm", "hub_seats")
    yield max(abs(away - told) - ROUND_MM, 0.0), f"{where}: off its member"
    turned = float(np.linalg.norm(_way(seat) - way))
    is_own = row["made"] == "own"
    yield max(turned - TURNED, 0.0) * 1000 if is_own else 0.0, f"{where}: way"
    yield beyond(is_own and told != 0), f"{where}: off its member"
    yield beyond(row["made"] not in ("own", "alike")), f"{row['label']} in hubs.csv: made"


def _seat(row: Row, seat: Row, middle: Array, where: str) -> Found:
    """A seat against the ball, and its hole against its bolt."""
    level, way = number_in(seat, "from_middle_mm", "hub_seats"), _way(seat)
    yield max(abs(float(np.linalg.norm(way)) - 1) - TURNED, 0.0) * 1000, f"{where}: way"
    yield (
        max(abs(level - float((_place(seat) - middle) @ way)) - ROUND_MM, 0.0),
        (f"{where}: from the middle"),
    )
    wide, radius = number_in(seat, "seat_mm", "hub_seats"), number_in(row, "radius_mm", "hubs")
    yield max(abs(np.hypot(level, wide / 2) - radius) - ROUND_MM, 0.0), f"{where}: seat"
    hole, deep = (number_in(seat, name, "hub_seats") for name in ("hole_mm", "deep_mm"))
    bolt = seat["bolt"]
    off = abs(hole - DRILLS.get(bolt, np.inf)) if bolt else hole
    yield off, f"{where}: hole for “{bolt}”"
    yield beyond((hole > 0) != (deep > 0)), f"{where}: depth of hole"


def _ball(row: Row, seats: list[Row], middle: Array, places: Array, volume: float) -> Found:
    """How far (mm) the model's places are beyond the ball, and whether it is as large."""
    where = f"{row['label']} in model.glb"
    radius = number_in(row, "radius_mm", "hubs")
    far = np.linalg.norm(places - middle, axis=1).max()
    room = ROUND_MM + 2e-7 * float(np.abs(places).max())
    yield max(abs(float(far) - radius) - room - 1e-4 * radius, 0.0), f"{where}: radius"
    hollow = number_in(row, "hollow_mm", "hubs")
    near = float(np.linalg.norm(places - middle, axis=1).min())
    yield max(abs(near - hollow) - room, 0.0) if hollow else 0.0, f"{where}: hollow"
    wanted, ball, air = _volume(row, seats), 4 / 3 * np.pi * radius**3, 4 / 3 * np.pi * hollow**3
    low, high = wanted - FACETED * ball, wanted + 1e-3 * ball + AIRY * air
    off = max(low - volume, volume - high, 0.0)
    yield float(np.cbrt(off)), f"{where}: volume"


def _in_model(seat: Row, middle: Array, places: Array, where: str) -> Found:
    """How far (mm) the model's places are beyond a seat, its rim from being there, and its hole
    from being as wide and as deep as it is told."""
    way = _way(seat)
    level, reach = number_in(seat, "from_middle_mm", "hub_seats"), _half(seat, "seat_mm")
    room = ROUND_MM + 3e-7 * float(np.abs(places).max())
    high = (places - middle) @ way - level
    yield max(float(high.max()) - room, 0.0), f"{where}: beyond the seat"
    aside = _aside(places, middle, way)[np.abs(high) < room]
    rim = np.abs(aside - reach).min(initial=np.inf)
    yield max(float(rim) - room - 1e-4 * reach, 0.0), f"{where}: rim"
    yield max(float((aside - reach).max(initial=0.0)) - room, 0.0), f"{where}: rim"
    if _half(seat, "hole_mm"):
        yield from _hole(seat, high, _aside(places, _place(seat), way), room, where)


def _hole(seat: Row, high: Array, aside: Array, room: float, where: str) -> Found:
    """How far (mm) a hole's mouth and floor are from being as wide as it is told.

    Parameters
    ----------
    seat : its row
    high, aside : (n,) of places of the model, over the seat and from the member's axis, in mm
    room : what these are exact to, in mm
    where : what is spoken of
    """
    half, deep = _half(seat, "hole_mm"), number_in(seat, "deep_mm", "hub_seats")
    near = aside < 2 * half
    mouth = aside[near & (np.abs(high) < room)].min(initial=np.inf)
    floor = aside[near & (np.abs(high + deep) < room)].max(initial=-np.inf)
    for name, radius in (("mouth", mouth), ("floor", floor)):
        off = abs(float(radius) - half) - room - FLAT * half
        yield max(off, 0.0), f"{where}: {name}"


def _half(seat: Row, column: str) -> float:
    """A radius in mm, of the diameter in a ``column``."""
    return number_in(seat, column, "hub_seats") / 2


def _aside(places: Array, at: Array, way: Array) -> Array:
    """How far (n,) places (n, 3) are from a line."""
    off = places - at
    return np.asarray(np.linalg.norm(off - np.outer(off @ way, way), axis=1))


def hubs_in_step(pack: Pack) -> Found:
    """Volumes of hubs.step against the masses in hubs.csv of the hubs that it has (thousandths),
    which are one of each kind."""
    told = step_in(pack, "hubs.step")
    if told is None:
        return
    names, found = told
    rows = {row["label"]: row for row in pack.rows("hubs")}
    if not rows:
        yield 0.0, "hubs.step"
        return
    own = [rows[name] for name in names if name in rows]
    yield beyond(len(own) != len(names)), "hubs.step has a hub that is not in hubs.csv"
    kinds = [row["kind"] for row in own]
    yield beyond(len(set(kinds)) != len(kinds)), "hubs.step has two hubs of one kind"
    yield beyond(set(kinds) != {row["kind"] for row in rows.values()}), "kinds in hubs.step"
    known = all(row["material"] in MATERIALS for row in own)
    yield beyond(not known), "material of hubs in hubs.step"
    if not known:
        return
    volume = sum(
        number_in(row, "mass_kg", "hubs") / MATERIALS[row["material"]].density for row in own
    )
    yield abs(found.volume / max(volume, 1e-12) - 1) * 1000, "volume of hubs.step"
