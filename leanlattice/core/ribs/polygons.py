"""Polygons of rings, and of the boolean package's sections."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

__all__ = ["polygons_of", "polygons_of_rings", "with_corners_at"]

Array = NDArray[np.float64]


def polygons_of(
    sections: Sequence[manifold3d.CrossSection], shifts: Array | None = None, scale: float = 1.0
) -> list[list[shapely.Polygon]]:
    """Pieces of sections with their openings, the largest first, scaled and each section moved by
    its shift (n, 2)."""
    rings: list[Array] = []
    piece_of: list[int] = []
    section_of: list[int] = []
    for k, section in enumerate(sections):
        pieces = [section] if section.num_contour() <= 1 else section.decompose()
        for piece in pieces:
            kept = [np.asarray(r) for r in piece.to_polygons() if len(r) >= 3]
            if kept:
                rings += [r * scale if shifts is None else r * scale + shifts[k] for r in kept]
                piece_of += [len(section_of)] * len(kept)
                section_of.append(k)
    out: list[list[shapely.Polygon]] = [[] for _ in sections]
    if not rings:
        return out
    made = polygons_of_rings(rings, np.array(piece_of))
    for k in np.flatnonzero(~shapely.is_valid(made)).tolist():
        made[k] = shapely.make_valid(made[k])
    parts, of = shapely.get_parts(made, return_index=True)
    areas = shapely.area(parts)
    for n in np.argsort(-areas, kind="stable").tolist():
        if areas[n] > 0:
            out[section_of[of[n]]].append(parts[n])
    return out


def polygons_of_rings(rings: Sequence[Array], piece_of: NDArray[np.int64]) -> Any:
    """A polygon of the rings of each piece, of which the largest is the outer one; ``piece_of``
    (n,) counts from 0 upward."""
    count = np.array([len(r) for r in rings])
    flat = np.concatenate(rings)
    start = np.concatenate([[0], np.cumsum(count)[:-1]])
    ahead = np.roll(flat, -1, axis=0)
    ahead[start + count - 1] = flat[start]
    size = np.abs(np.add.reduceat(flat[:, 0] * ahead[:, 1] - flat[:, 1] * ahead[:, 0], start))
    order = np.lexsort((-size, piece_of))
    first = np.concatenate([[True], np.diff(piece_of[order]) > 0])
    lines: Any = shapely.linearrings(flat, indices=np.repeat(np.arange(len(rings)), count))
    made: Any = shapely.polygons(lines[order[first]])
    if not first.all():
        holes: Any = lines[order[~first]]
        of = piece_of[order[~first]]
        for k in np.unique(of).tolist():
            made[k] = shapely.Polygon(made[k].exterior, list(holes[of == k]))
    return made


def with_corners_at(polygon: shapely.Polygon, at: Array) -> shapely.Polygon:
    """The same polygon with corners wherever its edges pass one of the rising x ``at`` (m,)."""

    def ring(line: shapely.LinearRing) -> Array:
        corner = np.asarray(line.coords)
        start, stop = corner[:-1], corner[1:]
        low, high = np.minimum(start[:, 0], stop[:, 0]), np.maximum(start[:, 0], stop[:, 0])
        first = np.searchsorted(at, low, side="right")
        count = np.maximum(np.searchsorted(at, high, side="left") - first, 0)
        edge = np.repeat(np.arange(len(start)), count)
        nth = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
        x = at[first[edge] + nth]
        share = (x - start[edge, 0]) / (stop - start)[edge, 0]
        y = start[edge, 1] + share * (stop - start)[edge, 1]
        of = np.concatenate([np.arange(len(start)), edge])
        order = np.lexsort((np.concatenate([np.zeros(len(start)), share]), of))
        return np.concatenate([start, np.column_stack([x, y])])[order]

    return shapely.Polygon(ring(polygon.exterior), [ring(r) for r in polygon.interiors])
