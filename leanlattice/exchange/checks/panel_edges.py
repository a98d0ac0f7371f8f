"""Edges of panels: where their holes are and how large."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ..dxf import Outline
from .flat import flat_of, polygon_of
from .pack_files import Found, Pack, Row, number_in
from .panels import MOVED, corners_of, held_back, panels_at_nodes, places_in_pose, pose_of

__all__ = ["holes_of_panels", "rings_within"]

Array = NDArray[np.float64]
ON_LINE_MM = 0.1
"""How near a hole's middle is to the line it stands on."""


def holes_of_panels(pack: Pack) -> Found:
    """Holes (mm) of panels as panels.csv tells them: how large, how far from the edges between
    nodes less the joint, one in every corner and those between evenly apart."""
    parts = flat_of(pack).parts
    poses = {r["label"]: r for r in pack.rows("poses")}
    for row in panels_at_nodes(pack):
        label = row["label"]
        if label not in parts:
            continue
        number, outer, inner = parts[label]
        where = f"{label} on sheet {number}: holes in panels.csv"
        yield abs(number_in(row, "holes", "panels") - len(inner)), where
        if not inner:
            yield abs(number_in(row, "hole_mm", "panels")), f"{where}: size"
            yield abs(number_in(row, "rim_mm", "panels")), f"{where}: rim"
            continue
        rings = rings_within(outer, inner, pack.tool(label))
        middles = np.array([ring.mean(axis=0) for ring in rings])
        for ring, middle in zip(rings, middles, strict=True):
            across = 2 * float(np.linalg.norm(ring - middle, axis=1).mean())
            yield abs(across - number_in(row, "hole_mm", "panels")), f"{where}: size"
        if label in poses:
            here = _in_space(poses[label], places_in_pose(pack, label, middles))
            room = MOVED * number_in(row, "off_mm", "panels")
            yield max(_off_sides(pack, row, here, room) - room, 0.0), where


def rings_within(outer: Outline, inner: Sequence[Outline], tool: float) -> list[Array]:
    """Corners (k, 2) of a part's openings themselves, whatever tool runs within them."""
    shape: shapely.Polygon = polygon_of(outer, list(inner), tool)
    return [np.asarray(ring.coords)[:-1] for ring in shape.interiors]


def _in_space(pose: Row, flat: Array) -> Array:
    """Places (k, 3) in mm of those (k, 2) in a part's own frame."""
    place, x, y = pose_of(pose)
    return np.asarray(place * 1000 + flat[:, :1] * x + flat[:, 1:] * y)


def _off_sides(pack: Pack, row: Row, middles: Array, room: float) -> float:
    """How far (mm) middles (k, 3) of holes are from standing evenly on lines along the sides of a
    panel, one of them where two of these meet; looked for within a ``room`` in mm."""
    joint = number_in(pack.part_rows[row["label"]], "joint_mm", "parts")
    within = joint + 2 * number_in(row, "rim_mm", "panels")
    line, middle, axes, _ = held_back(corners_of(pack, row), within)
    at, worst, taken = (middles - middle) @ axes.T, 0.0, 0
    near = ON_LINE_MM + room
    for start, end in zip(line, np.roll(line, -1, axis=0), strict=True):
        length = float(np.linalg.norm(end - start))
        way = (end - start) / length
        along, across = (at - start) @ way, (at - start) @ [-way[1], way[0]]
        on = (np.abs(across) < near) & (along > -near) & (along < length + near)
        if on.sum() < 2:
            return float("inf")
        even = np.linspace(0.0, length, int(on.sum()))
        worst = max(worst, float(np.abs(np.sort(along[on]) - even).max()))
        worst = max(worst, float(np.abs(across[on]).max()))
        taken += int(on.sum()) - 1
    return worst if taken == len(at) else float("inf")
