"""Voronoi cells of points that are scattered, or moved off a grid."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from .flat import FlatPattern, first_of_near, local_places, merged_places, used_places
from .layout import Layout

__all__ = ["cells_of_points", "nudged_grid", "scattered"]

Array = NDArray[np.float64]
NEAR = 1e-7


def scattered(layout: Layout) -> FlatPattern:
    """Cells of as many points as there are bays, scattered by the seed and drawn apart in
    ``rounds`` of Lloyd (1982)."""
    rng = np.random.default_rng(layout.seed)
    points = rng.random((max(layout.bays[0] * layout.bays[1], 1), 2))
    return _drawn_apart(points, layout)


def nudged_grid(layout: Layout) -> FlatPattern:
    """Cells of a grid's points, each moved within its bay by the seed; rounds draw them back
    towards even cells."""
    rng = np.random.default_rng(layout.seed)
    i, j = np.meshgrid(np.arange(layout.bays[0]), np.arange(layout.bays[1]))
    grid = np.column_stack([i.ravel(), j.ravel()])
    points = (grid + 0.5 + 0.8 * (rng.random(grid.shape) - 0.5)) / np.array(layout.bays)
    return _drawn_apart(points, layout)


def _drawn_apart(points: Array, layout: Layout) -> FlatPattern:
    size = np.array(layout.lengths)
    flat = cells_of_points(points * size, size, layout.closed)
    for _ in range(layout.rounds):
        points = _centroids(flat)
        for axis in (0, 1):
            if layout.closed[axis]:
                points[:, axis] %= 1.0
        flat = cells_of_points(points * size, size, layout.closed)
    return flat


def _centroids(flat: FlatPattern) -> Array:
    """Centres of area (n, 2) of convex cells, in parameters."""
    p = local_places(flat)
    counts = np.diff(flat.offsets)
    anchor = np.repeat(p[flat.offsets[:-1]], counts, axis=0)
    after = np.arange(1, len(p) + 1)
    after[flat.offsets[1:] - 1] = flat.offsets[:-1]
    a, b = p - anchor, p[after] - anchor
    cross = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    area = np.add.reduceat(cross, flat.offsets[:-1])
    moment = np.add.reduceat(cross[:, None] * (a + b), flat.offsets[:-1], axis=0)
    return p[flat.offsets[:-1]] + moment / (3 * np.maximum(area, 1e-300))[:, None]


def _with_images(points: Array, size: Array, closed: tuple[bool, bool]) -> Array:
    """The points, and after them their images about the sides: moved on by a turn where closed,
    else mirrored."""
    out = points
    usual = np.sqrt(size.prod() / len(points))
    for axis in (0, 1):
        reach = min(5 * usual, size[axis])
        low, high = out[out[:, axis] < reach].copy(), out[out[:, axis] > size[axis] - reach].copy()
        if closed[axis]:
            low[:, axis] += size[axis]
            high[:, axis] -= size[axis]
        else:
            low[:, axis] = -low[:, axis]
            high[:, axis] = 2 * size[axis] - high[:, axis]
        out = np.vstack([out, low, high])
    return out


def _circumcentres(points: Array, triangles: NDArray[np.int32]) -> Array:
    """Middles (t, 2) of the circles through the corners of ``triangles`` (t, 3)."""
    a, b, c = np.moveaxis(points[triangles], 1, 0)
    p, q = b - a, c - a
    twice = 2 * (p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0])
    pp, qq = np.einsum("ij,ij->i", p, p), np.einsum("ij,ij->i", q, q)
    x = q[:, 1] * pp - p[:, 1] * qq
    y = p[:, 0] * qq - q[:, 0] * pp
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(a + np.stack([x, y], axis=1) / twice[:, None])


def cells_of_points(points: Array, size: Array, closed: tuple[bool, bool]) -> FlatPattern:
    """Voronoi cells (Voronoi, 1908) of points (n, 2) in a rectangle of the given ``size`` (2,), one
    cell each in their order, as parameters. Open sides are borders of cells themselves.

    A cell's corners are the middles of the circles about the triangles at its point, in the
    triangulation of Delaunay (1934; by Qhull); those of points on one circle are one place.
    """
    count = len(points)
    every = _with_images(points, size, closed)
    triangles = scipy.spatial.Delaunay(every).simplices
    middles = _circumcentres(every, triangles)
    vertex, place = np.nonzero(triangles < count)
    cell = triangles[vertex, place]
    away = middles[vertex] - points[cell]
    order = np.lexsort((np.arctan2(away[:, 1], away[:, 0]), cell))
    cell, vertex = cell[order], vertex[order]
    offsets = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=count))]).astype(np.int32)
    uv = middles / size
    for axis in (0, 1):
        if closed[axis]:
            uv[:, axis] %= 1.0
            uv[uv[:, axis] > 1 - 1e-9, axis] = 0.0
        else:
            for end in (0.0, 1.0):
                uv[np.abs(uv[:, axis] - end) < 1e-9, axis] = end
    flat = used_places(FlatPattern(uv, vertex.astype(np.int32), offsets, closed))
    flat = used_places(merged_places(flat, first_of_near(flat.uv, NEAR, closed)))
    if flat.cell_count or any(closed):
        return flat
    # In so narrow a place there is one cell.
    square = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
    return FlatPattern(square, np.arange(4, dtype=np.int32), np.array([0, 4], np.int32))
