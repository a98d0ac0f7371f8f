"""Border treatments at the outline of a region: for surfaces that cover only part of the square of
parameters."""

from __future__ import annotations

from typing import Any

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ..geometry.regions import Region
from .flat import FlatPattern, first_of_near, following_corners, keep_cells, merged_places

__all__ = ["SLIVER", "trim"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
NEAR = 1e-8
"""Parameters closer than this are one."""
SLIVER = 1e-4
"""Cut cells smaller than this share of the usual cell are usually left out."""


def trim(
    pattern: FlatPattern,
    region: Region,
    treatment: str,
    follow: bool = False,
    speck: float = SLIVER,
) -> FlatPattern:
    """A ``pattern`` treated at the outline of a ``region``; ``treatment`` is ``"cut"``, ``"whole"``
    or ``"past"``.

    Cut cells follow the outline by their chords, and round its corners; with ``follow`` they take
    every point of it. Those smaller than the share ``speck`` of the usual one are left out.
    """
    cells = _polygons(pattern)
    shapely.prepare(region.polygon)
    inside = shapely.covers(region.polygon, cells)
    crossing = ~inside & shapely.intersects(region.polygon, cells)
    if treatment == "whole":
        return keep_cells(pattern, inside)
    rows = np.flatnonzero(crossing)
    parts = shapely.intersection(region.polygon, cells[rows])
    usual = float(np.median(shapely.area(cells))) if len(cells) else 0.0
    if treatment == "past":
        reaching = inside.copy()
        reaching[rows] = shapely.area(parts) > SLIVER * usual
        return keep_cells(pattern, reaching)
    rings = _rings(parts, cells[rows], region, speck * usual, follow)
    whole = keep_cells(pattern, inside)
    return _joined(whole, rings)


def _polygons(pattern: FlatPattern) -> NDArray[np.object_]:
    counts = np.diff(pattern.offsets)
    out = np.empty(len(counts), object)
    for n in np.unique(counts):
        rows = np.flatnonzero(counts == n)
        corners = pattern.corners[pattern.offsets[rows][:, None] + np.arange(n)]
        out[rows] = shapely.polygons(pattern.uv[corners])
    return out


def _rings(
    parts: NDArray[np.object_],
    cells: NDArray[np.object_],
    region: Region,
    least: float,
    follow: bool,
) -> list[Array]:
    """Outlines (k, 2) of the cut cells, counter-clockwise and without their last point."""
    pieces, owner = shapely.get_parts(parts, return_index=True)
    real = (shapely.get_type_id(pieces) == 3) & (shapely.area(pieces) > least)
    pieces, owner = pieces[real], owner[real]
    if not len(pieces):
        return []
    pierced = shapely.get_num_interior_rings(pieces) > 0
    # An opening within one cell: triangles between the two outlines need no new vertices.
    filled = shapely.get_parts(shapely.constrained_delaunay_triangles(pieces[pierced]))
    lines: Any = shapely.get_exterior_ring(np.concatenate([pieces[~pierced], filled]))
    line, of = shapely.get_coordinates(lines, return_index=True)
    kept = np.ones(len(line), bool)
    if not follow:
        within = of < np.count_nonzero(~pierced)
        cells_of = shapely.get_exterior_ring(cells[owner[~pierced]])[of[within]]
        kept[within] = shapely.distance(shapely.points(line[within]), cells_of) < NEAR
        if len(region.corners):
            kept |= scipy.spatial.cKDTree(region.corners).query(line)[0] < NEAR
    kept[np.append(np.flatnonzero(np.diff(of)), len(of) - 1)] = (
        False  # a ring's last point is its first
    )
    rings = np.split(line[kept], np.cumsum(np.bincount(of[kept], minlength=len(lines)))[:-1])
    ccw = shapely.is_ccw(lines)
    return [r if c else r[::-1] for r, c in zip(rings, ccw, strict=True) if len(r) >= 3]


def _joined(whole: FlatPattern, rings: list[Array]) -> FlatPattern:
    """Whole cells and cut ones over common vertices; vertices that lie on another cell's side
    become its corners."""
    if not rings:
        return whole
    sizes = np.array([len(r) for r in rings])
    uv = np.vstack([whole.uv, *rings])
    corners = np.concatenate([whole.corners, len(whole.uv) + np.arange(sizes.sum())]).astype(
        np.int32
    )
    offsets = np.concatenate([whole.offsets, whole.offsets[-1] + np.cumsum(sizes)]).astype(np.int32)
    return _with_corners_on_sides(
        merged_places(FlatPattern(uv, corners, offsets), first_of_near(uv, NEAR))
    )


def _with_corners_on_sides(pattern: FlatPattern) -> FlatPattern:
    """Where a vertex at the border lies within the side of another cell, as where the outline
    touches it from beyond, that cell takes it as a corner."""
    following = following_corners(pattern)
    a, b = np.minimum(pattern.corners, following), np.maximum(pattern.corners, following)
    _, which, times = np.unique(
        a.astype(np.int64) * len(pattern.uv) + b, return_inverse=True, return_counts=True
    )
    open_sides = np.flatnonzero(times[which.ravel()] == 1)
    loose = np.unique(pattern.corners[open_sides])
    lines: Any = shapely.linestrings(
        pattern.uv[np.column_stack([pattern.corners, following])[open_sides]]
    )
    points: Any = shapely.points(pattern.uv[loose])
    side, point = shapely.STRtree(points).query(lines, predicate="dwithin", distance=NEAR)
    inner = (loose[point] != pattern.corners[open_sides][side]) & (
        loose[point] != following[open_sides][side]
    )
    side, point = side[inner], point[inner]
    if not len(side):
        return pattern
    along = shapely.line_locate_point(lines[side], points[point])
    order = np.lexsort((along, side))
    at = open_sides[side[order]] + 1
    corners = np.insert(pattern.corners, at, loose[point[order]])
    cell = np.searchsorted(pattern.offsets, open_sides[side[order]], side="right") - 1
    more = np.bincount(cell, minlength=len(pattern.offsets) - 1)
    offsets = pattern.offsets + np.concatenate([[0], np.cumsum(more)]).astype(np.int32)
    return FlatPattern(pattern.uv, corners, offsets)
