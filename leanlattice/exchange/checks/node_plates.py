"""Node plates: their arms, folded up from the drawings, against the axes of members."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.materials import MATERIALS
from .flat import flat_of
from .folded import Folded, face_at, folded_up, holes_of, on_mesh
from .likeness import kinds_alike
from .models import meshes_in
from .pack_files import Found, Pack, Row, beyond, number_in
from .pack_members import Axis, axes_at_ends, ends_at, members_of

__all__ = ["arms_on_axes", "plates_as_listed"]

Array = NDArray[np.float64]
ROUNDED_KG, ROUNDED_M2 = 5.1e-5, 5.1e-7
ROUND_MM = 0.002
WIDE_MM = 0.02
"""What sides of outlines are looked for within that are as wide as arms."""


def plates_as_listed(pack: Pack) -> Found:
    """Arms and masses of node_plates.csv, whether plates of a kind are alike in model.glb, and
    whether folded ones lie in it as they do when folded up (mm)."""
    rows = pack.rows("node_plates")
    counts: dict[str, int] = {}
    for row in pack.rows("plate_arms"):
        counts[row["plate"]] = counts.get(row["plate"], 0) + 1
    for name in sorted(set(counts) - {row["label"] for row in rows}):
        yield np.inf, f"{name} of plate_arms.csv is not in node_plates.csv"
    for row in rows:
        where = f"{row['label']} in node_plates.csv"
        off = abs(number_in(row, "arms", "node_plates") - counts.get(row["label"], 0))
        yield off, f"{where}: arms"
        yield beyond(row["label"] != f"{row['node']}-P"), f"{where}: node {row['node']}"
        yield beyond(row["node"] not in pack.nodes), f"{where}: node {row['node']}"
        yield beyond(row["cut"] not in ("own", "alike")), f"{where}: cut"
        yield _weighs(row), f"{where}: mass"
    yield from kinds_alike(pack, "node_plates", "plate_kinds")
    yield from _as_modelled(pack)


def _weighs(row: Row) -> float:
    """How far (%) the mass is off."""
    if row["material"] not in MATERIALS:
        return np.inf
    thickness = number_in(row, "thickness_mm", "node_plates") / 1000
    each = thickness * MATERIALS[row["material"]].density
    mass = number_in(row, "mass_kg", "node_plates")
    off = abs(number_in(row, "area_m2", "node_plates") * each - mass)
    # Plates are mitred at folds, which are as much longer outside as they are shorter inside.
    return max(off - ROUNDED_KG - ROUNDED_M2 * each - 1e-3 * mass, 0.0) / max(mass, 1e-3) * 100


def _as_modelled(pack: Pack) -> Found:
    """How far (mm) corners of plates that are folded up are from the bodies in model.glb, and these
    from the corners beyond their thickness."""
    if not pack.has("model.glb"):
        return
    meshes = meshes_in(pack, "model.glb")
    rows = {row["label"]: row for row in pack.rows("node_plates")}
    for label, plate in folded_up(pack, "node_plates").items():
        if label not in meshes:
            continue
        where = f"{label} folded up and in model.glb"
        vertices, triangles = meshes[label][0] * 1000, meshes[label][1]
        room = ROUND_MM + 2e-7 * float(np.abs(vertices).max())
        stand = np.vstack([plate.corners(k) for k in range(len(plate.faces))])
        yield max(float(on_mesh(stand, (vertices, triangles)).max()) - room, 0.0), where
        half = number_in(rows[label], "thickness_mm", "node_plates") / 2
        away = np.abs(_off_faces(plate, vertices) - half).min(axis=1)
        yield max(float(away.max()) - room, 0.0), f"{where}: thickness"


def _off_faces(plate: Folded, places: Array) -> Array:
    """Distances (n, f) of places (n, 3) from the planes of all faces."""
    frames = np.array(plate.frames)
    return np.abs(np.einsum("nfj,fj->nf", places[:, None] - frames[:, 0], frames[:, 3]))


def arms_on_axes(pack: Pack) -> Found:
    """How far (mm) arms that are folded up are from the axes of their members where these hold
    them, their sides from half their width beside these, and holes from where they are to be."""
    m = members_of(pack)
    rows = pack.rows("plate_arms")
    if m is None or not rows:
        return
    axes, plates = axes_at_ends(m), folded_up(pack, "node_plates")
    held: dict[str, list[_Held]] = {}
    alike = {r["label"] for r in pack.rows("node_plates") if r["cut"] == "alike"}
    for row in rows:
        where = f"{row['member']} at {row['plate']} in plate_arms.csv"
        axis = axes.get((row["member"], row["end"]))
        node = row["plate"].rpartition("-")[0]
        if axis is None or (row["member"], row["end"]) not in ends_at(m, node):
            yield np.inf, f"{where}: member or end"
            continue
        arm = _held(row, axis)
        off = arm.number("to") - arm.number("enters") - axis[2] * 1000
        yield max(abs(off) - ROUND_MM, 0.0), f"{where}: enters"
        if row["plate"] not in plates:
            continue
        plate = plates[row["plate"]]
        if row["plate"] in alike:
            arm, off = _as_moved(plate, arm)
            yield off, where
        else:
            yield from _on_axis(plate, arm, where)
        held.setdefault(row["plate"], []).append(arm)
    for label, own in held.items():
        yield from _holes(pack, label, plates[label], own)


class _Held(NamedTuple):
    """An arm by its ``row`` of plate_arms.csv, and where (2, 3) it begins and ends, in mm."""

    row: Row
    on: Array

    def number(self, name: str) -> float:
        """What is told of it in mm."""
        return number_in(self.row, f"{name}_mm", "plate_arms")

    @property
    def half(self) -> float:
        """Half its width in mm."""
        return self.number("width") / 2

    @property
    def way(self) -> Array:
        """The unit direction in which it goes."""
        way = self.on[1] - self.on[0]
        return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9))


def _held(row: Row, axis: Axis) -> _Held:
    """An arm that lies on an ``axis``."""
    place, way, _ = axis
    ends = np.array([number_in(row, f"{name}_mm", "plate_arms") for name in ("from", "to")])
    return _Held(row, place * 1000 + ends[:, None] * way)


class _Laid(NamedTuple):
    """Where (2, 3) an arm begins and ends as it is laid, and how far (mm) its corners at its last
    fold are off being there."""

    on: Array
    off: float


def _on_axis(plate: Folded, arm: _Held, where: str) -> Found:
    """How far (mm) an arm is off its axis, in the face that fits best."""
    yield beyond(arm.half <= 0), f"{where}: width"
    yield min(_off_face(plate, k, arm.on, arm.half) for k in range(len(plate.faces))), where
    yield beyond(arm.number("off") != 0), f"{where}: off"


def _as_moved(plate: Folded, arm: _Held) -> tuple[_Held, float]:
    """An arm of a plate that is cut alike where it is, in the face that fits best, and how far (mm)
    it is off its axis otherwise than it is told to be, or off being as long."""
    best, least = arm, np.inf
    if arm.half <= 0:
        return best, least
    for face in range(len(plate.faces)):
        for laid in _laid_in(plate, face, arm):
            moved = float(np.linalg.norm(laid.on - arm.on, axis=1).max())
            off = max(abs(moved - arm.number("off")), laid.off)
            if off < least:
                best, least = _Held(arm.row, laid.on), off
    return best, least


def _laid_in(plate: Folded, face: int, arm: _Held) -> Iterator[_Laid]:
    """Where an arm may be in a face: back from each side that is as wide."""
    outline = plate.faces[face].exterior
    corners = np.asarray(outline.coords)
    sides = np.diff(corners, axis=0)
    length = arm.number("to") - arm.number("from")
    inward = sides[:, ::-1] * ([-1.0, 1.0] if outline.is_ccw else [1.0, -1.0]) / (2 * arm.half)
    is_end = np.abs(np.linalg.norm(sides, axis=1) - 2 * arm.half) < WIDE_MM
    for side in np.flatnonzero(is_end).tolist():
        ends = corners[side : side + 2]
        begins = ends + length * inward[side]
        away = np.linalg.norm(begins[:, None] - corners, axis=2).min(axis=1)
        # A plate that is not folded has no corners where its arms begin to be on their axes.
        off = float(away.max()) if len(plate.faces) > 1 else 0.0
        flat = np.stack([begins.mean(axis=0), ends.mean(axis=0)])
        yield _Laid(plate.stand(face, flat), off)


def _off_face(plate: Folded, face: int, on: Array, half: float) -> float:
    """How far (mm) a face is off two places (2, 3) on an axis, and its corners from being
    ``half`` a width beside these."""
    at, x, y, normal = plate.frames[face]
    flat = np.column_stack([(on - at) @ x, (on - at) @ y])
    along = flat[1] - flat[0]
    across = half * np.array([-along[1], along[0]]) / max(float(np.linalg.norm(along)), 1e-9)
    outline = np.asarray(plate.faces[face].exterior.coords)
    # A plate that is not folded has no corners where its arms begin to be on their axes.
    wanted = flat if len(plate.faces) > 1 else flat[1:]
    corners = np.concatenate([wanted + across, wanted - across])
    off = np.linalg.norm(corners[:, None] - outline, axis=2).min(axis=1)
    return float(max(np.abs((on - at) @ normal).max(), off.max()))


def _holes(pack: Pack, label: str, plate: Folded, arms: list[_Held]) -> Found:
    """How far (mm) holes of a plate are from where its arms have them, and their diameters from
    those told."""
    wanted, sizes = [], []
    for arm in arms:
        size, row = arm.number("hole"), arm.row
        stations = [float(at) for at in row["holes_at_mm"].split()]
        wanted += [arm.on[1] + (at - arm.number("to")) * arm.way for at in stations]
        sizes += [size] * len(stations)
        is_odd = (size > 0) != bool(stations)
        yield beyond(is_odd), f"{row['member']} at {label} in plate_arms.csv: hole"
    inner = flat_of(pack).parts[label][2]
    yield beyond(len(wanted) != len(inner)), f"{label} has {len(inner)} holes for {len(wanted)}"
    if wanted and len(wanted) == len(inner):
        drawn = [
            float(np.ptp(np.asarray(h.points), axis=0).max()) + pack.tool(label) for h in inner
        ]
        yield from _each_hole(pack, label, plate, np.array(wanted), np.array(sizes), drawn)


def _each_hole(
    pack: Pack, label: str, plate: Folded, wanted: Array, sizes: Array, drawn: list[float]
) -> Found:
    """Holes of a plate as they are ``drawn`` against where they are ``wanted`` (n, 3) in mm, and
    their ``sizes`` (n,)."""
    tree, middles = shapely.STRtree(plate.faces), holes_of(pack, label)
    stand = [plate.stand(face_at(tree, at, label), at[None])[0] for at in middles]
    away = np.linalg.norm(np.array(stand)[:, None] - wanted, axis=2)
    nearest = away.argmin(axis=1)
    yield float(away.min(axis=1).max()), f"{label}: holes against plate_arms.csv"
    yield beyond(len(np.unique(nearest)) != len(wanted)), f"{label}: two holes in one place"
    off = np.abs(np.array(drawn) - sizes[nearest]) - 0.01 * sizes[nearest] - ROUND_MM
    yield max(float(off.max()), 0.0), f"{label}: hole"
