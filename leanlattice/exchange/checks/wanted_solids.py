"""What solids in models are to be, by the schedules, and how far a mesh is from that."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.sections import find
from .flat import flat_of, polygon_of
from .pack_files import Pack, number_in
from .pack_members import Members, members_of
from .panels import pose_of

__all__ = ["Wanted", "mesh_differs", "mesh_volume", "wanted_solids"]

Array = NDArray[np.float64]
ROUNDED_SHARE = 1e-4
SIDES = 24
"""Of circles in models."""
GROWN = float(np.sqrt(2 * np.pi / SIDES / np.sin(2 * np.pi / SIDES)))
"""How much larger than a circle a polygon of so many sides is about, that has its area."""
ROUNDED_M = 1e-6
"""What coordinates of models are rounded by, which tells on thin plates."""


@dataclass(frozen=True)
class Wanted:
    """What a solid with a label is to be: within a frame (origin and axes, rows) its extent ``low``
    to ``high`` (3,) in metres, and where it is known its ``volume`` in m³. Of one along a ``line``
    (k, 3) no place is further from it than it can ``reach``, and it stands about all of it."""

    origin: Array
    axes: Array
    low: Array
    high: Array
    volume: float | None
    line: Array | None = None
    reach: float = 0.0
    twisted: float = 0.0
    """Share of the volume that a twist on its way may take."""


def wanted_solids(pack: Pack) -> dict[str, Wanted]:
    """Members, panels and plane ribs by label."""
    if "wanted" not in pack.kept:
        pack.kept["wanted"] = _wanted_members(pack) | _wanted_plates(pack)
    found: dict[str, Wanted] = pack.kept["wanted"]
    return found


def _wanted_members(pack: Pack) -> dict[str, Wanted]:
    m = members_of(pack)
    if m is None:
        return {}
    out = {}
    axes = np.stack([m.side, m.up, m.axis], axis=1)
    for k, row in enumerate(m.rows):
        pieces = np.arange(m.first[k], m.first[k] + m.count[k])
        left = float(m.whole[k] - m.back[pieces].sum())
        if left <= 0:
            continue
        if len(pieces) > 1:
            out[row["label"]] = _along_pieces(m, pieces, _outline_area(row["section"]) * left)
            continue
        p = pieces[0]
        half = np.array([m.width[p], m.height[p]]) / 2
        low = np.append(-half, m.back[p, 0])
        high = np.append(half, m.lengths[p] - m.back[p, 1])
        out[row["label"]] = Wanted(m.start[p], axes[p], low, high, None)
    return out


def _along_pieces(m: Members, pieces: NDArray[np.integer], volume: float) -> Wanted:
    """What a member that runs on is to be: somewhere about the line between its saw cuts."""
    first, last = pieces[0], pieces[-1]
    line = np.vstack([m.start[pieces], m.end[pieces[-1:]]])
    line[0] += m.back[first, 0] * m.axis[first]
    line[-1] -= m.back[last, 1] * m.axis[last]
    half = np.hypot(m.width[first], m.height[first]) / 2
    reach = float(m.width[first] / 2 * GROWN if m.round[first] else half)
    # Between ends turned by an angle the middle is cos² of half of it as large; mitres take as
    # much again.
    turn = float(np.einsum("ij,ij->i", m.up[pieces[1:]], m.up[pieces[:-1]]).min())
    twisted = ROUNDED_SHARE + 1 - min(max(turn, -1.0), 1.0)
    unknown = np.full(3, np.nan)
    return Wanted(line[0], np.eye(3), unknown, unknown, volume, line, reach, twisted)


def _outline_area(name: str) -> float:
    """Area (m²) between the outlines of a section as models draw it: with sharp corners, and its
    circles as polygons that are as large."""
    shape = find(name).shape
    rings = [shapely.Polygon(ring).area for ring in shape.outline(SIDES) if ring is not None]
    return float((rings[0] - sum(rings[1:])) * (GROWN**2 if shape.round else 1.0))


def _wanted_plates(pack: Pack) -> dict[str, Wanted]:
    """Panels rise from their plane, ribs lie about theirs."""
    poses = {r["label"]: r for r in pack.rows("poses")}
    flat = flat_of(pack)
    out = {}
    for table in ("panels", "ribs"):
        for row in pack.rows(table):
            label, thickness = row["label"], number_in(row, "thickness_mm", table) / 1000
            if label not in poses:
                continue
            place, x, y = pose_of(poses[label])
            low = -thickness / 2 if table == "ribs" else 0.0
            if label in flat.parts:
                _, outer, inner = flat.parts[label]
                shape = polygon_of(outer, inner, pack.tool(label))
                turn = -np.radians(number_in(pack.part_rows[label], "rotation_deg", "parts"))
                c, s = np.cos(turn), np.sin(turn)
                turned = shapely.affinity.affine_transform(shape, [c, -s, s, c, 0, 0])
                low_x, low_y, high_x, high_y = turned.bounds
                size = np.array([high_x - low_x, high_y - low_y]) / 1000
                volume: float | None = float(shape.area) / 1e6 * thickness
            else:
                size, volume = np.full(2, np.nan), None
            extent = np.append(size, low + thickness)
            out[label] = Wanted(
                place, np.stack([x, y, np.cross(x, y)]), np.array([0, 0, low]), extent, volume
            )
    return out


def mesh_differs(wanted: Wanted, vertices: Array, triangles: NDArray[np.integer]) -> float:
    """How far (mm) a mesh's extent is from what is wanted; by its volume, the same as a share of
    its size."""
    local = (vertices - wanted.origin) @ wanted.axes.T
    if wanted.line is not None:
        worst = _off_line(wanted.line, wanted.reach, vertices) * 1000
    else:
        ends = [local.min(axis=0) - wanted.low, local.max(axis=0) - wanted.high]
        worst = float(np.nanmax(np.abs(np.concatenate(ends)))) * 1000
    volume = mesh_volume(local, triangles)
    if volume <= 0:
        return np.inf
    if wanted.volume is not None:
        sides = local[triangles[:, 1:]] - local[triangles[:, :1]]
        area = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1).sum() / 2
        slack = ROUNDED_M * area + wanted.twisted * wanted.volume
        off_by = max(abs(volume - wanted.volume) - slack, 0.0)
        worst = max(worst, off_by / wanted.volume * 1000)
    return worst


def _off_line(line: Array, reach: float, vertices: Array) -> float:
    """How far (m) corners of a solid lie beyond what it can reach from a line, or a place of the
    line beyond that from all of them. Mitres reach further by their turns, which are small."""
    starts, ways = line[:-1], np.diff(line, axis=0)
    square = np.maximum(np.einsum("ij,ij->i", ways, ways), 1e-12)
    to = vertices[:, None] - starts
    share = np.clip(np.einsum("nkj,kj->nk", to, ways) / square, 0.0, 1.0)
    away = np.linalg.norm(to - share[:, :, None] * ways, axis=2).min(axis=1)
    turn = np.einsum("ij,ij->i", ways[1:], ways[:-1]) / np.sqrt(square[1:] * square[:-1])
    mitre = 1 / float(np.sqrt((1 + min(float(turn.min(initial=1.0)), 1.0)) / 2))
    bare = np.linalg.norm(line[:, None] - vertices, axis=2).min(axis=1)
    return max(float(away.max()) - reach * mitre, float(bare.max()) - reach * mitre, 0.0)


def mesh_volume(vertices: Array, triangles: NDArray[np.integer]) -> float:
    p = vertices[triangles]
    return float(np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6)
