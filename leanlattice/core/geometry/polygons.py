"""Measures of many polygons in space at once.

Polygons are given as flat corner indices with offsets: polygon ``i`` has the corners
``corners[offsets[i]:offsets[i + 1]]``, in order.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = [
    "areas",
    "best_plane",
    "best_planes",
    "cleaned",
    "corner_angles",
    "flatness",
    "vector_areas",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def _following(corners: Index, offsets: Index) -> Index:
    following = np.roll(corners, -1)
    following[offsets[1:] - 1] = corners[offsets[:-1]]
    return following


def vector_areas(points: Array, corners: Index, offsets: Index) -> Array:
    """Vector areas (n, 3) in m² of polygons, by Newell's formula; their direction is the mean
    normal."""
    first = np.repeat(points[corners[offsets[:-1]]], np.diff(offsets), axis=0)
    a, b = points[corners] - first, points[_following(corners, offsets)] - first
    return np.add.reduceat(np.cross(a, b), offsets[:-1], axis=0) / 2


def areas(points: Array, corners: Index, offsets: Index) -> Array:
    """Areas (n,) in m² of the polygons projected along their mean normal."""
    return np.linalg.norm(vector_areas(points, corners, offsets), axis=1)


@compiled
def _flattest(
    c00: float, c11: float, c22: float, c01: float, c02: float, c12: float
) -> tuple[float, float, float]:
    """Unit eigenvector of the smallest eigenvalue of a symmetric 3 × 3 matrix (Smith, 1961; Eberly,
    2014)."""
    mean = (c00 + c11 + c22) / 3
    off = c01 * c01 + c02 * c02 + c12 * c12
    spread = np.sqrt(((c00 - mean) ** 2 + (c11 - mean) ** 2 + (c22 - mean) ** 2 + 2 * off) / 6)
    if spread <= 1e-300:
        return 0.0, 0.0, 1.0
    a, b, c = (c00 - mean) / spread, (c11 - mean) / spread, (c22 - mean) / spread
    d, e, f = c01 / spread, c02 / spread, c12 / spread
    half = (a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)) / 2
    angle = np.arccos(min(1.0, max(-1.0, half))) / 3
    least = mean + 2 * spread * np.cos(angle + 2 * np.pi / 3)
    r0, r1, r2 = (c00 - least, c01, c02), (c01, c11 - least, c12), (c02, c12, c22 - least)
    best, x, y, z = 0.0, 0.0, 0.0, 1.0
    for p, q in ((r0, r1), (r0, r2), (r1, r2)):
        u, v, w = p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]
        size = u * u + v * v + w * w
        if size > best:
            best, x, y, z = size, u, v, w
    if best <= 0.0:
        return 0.0, 0.0, 1.0
    size = np.sqrt(best)
    return x / size, y / size, z / size


@compiled
def best_plane(points: Array, polygon: Index) -> tuple[float, float, float, float, float, float]:
    """Centre and unit normal, on either side, of the least-squares plane of a polygon's corners
    (Pearson, 1901)."""
    n = len(polygon)
    mx = my = mz = 0.0
    for v in polygon:
        mx += points[v, 0]
        my += points[v, 1]
        mz += points[v, 2]
    mx, my, mz = mx / n, my / n, mz / n
    c00 = c11 = c22 = c01 = c02 = c12 = 0.0
    for v in polygon:
        dx, dy, dz = points[v, 0] - mx, points[v, 1] - my, points[v, 2] - mz
        c00 += dx * dx
        c11 += dy * dy
        c22 += dz * dz
        c01 += dx * dy
        c02 += dx * dz
        c12 += dy * dz
    nx, ny, nz = _flattest(c00, c11, c22, c01, c02, c12)
    return mx, my, mz, nx, ny, nz


@compiled
def _best_planes(
    points: Array, corners: Index, offsets: Index, centres: Array, normals: Array
) -> None:
    for i in range(len(offsets) - 1):
        mx, my, mz, nx, ny, nz = best_plane(points, corners[offsets[i] : offsets[i + 1]])
        centres[i, 0], centres[i, 1], centres[i, 2] = mx, my, mz
        normals[i, 0], normals[i, 1], normals[i, 2] = nx, ny, nz


def best_planes(points: Array, corners: Index, offsets: Index) -> tuple[Array, Array]:
    """Centres (n, 3) and unit normals (n, 3) of the least-squares planes, on the side of the mean
    normal."""
    centres, normals = np.empty((len(offsets) - 1, 3)), np.empty((len(offsets) - 1, 3))
    _best_planes(np.ascontiguousarray(points, dtype=float), corners, offsets, centres, normals)
    facing = np.einsum("ij,ij->i", normals, vector_areas(points, corners, offsets))
    return centres, np.where(facing[:, None] < 0, -normals, normals)


def flatness(points: Array, corners: Index, offsets: Index) -> Array:
    """Largest distance (n,) in metres of a polygon's corner from its best plane; exactly 0 for
    triangles."""
    counts = np.diff(offsets)
    centres, normals = best_planes(points, corners, offsets)
    d = points[corners] - np.repeat(centres, counts, axis=0)
    away = np.abs(np.einsum("ij,ij->i", d, np.repeat(normals, counts, axis=0)))
    return np.where(counts == 3, 0.0, np.maximum.reduceat(away, offsets[:-1]))


def corner_angles(points: Array, corners: Index, offsets: Index) -> Array:
    """Angle (len(corners),) in radians between the two sides at every corner."""
    after = points[_following(corners, offsets)] - points[corners]
    before = np.roll(after, 1, axis=0)
    before[offsets[:-1]] = after[offsets[1:] - 1]
    size = np.linalg.norm(after, axis=1) * np.linalg.norm(before, axis=1)
    return np.arccos(
        np.clip(-np.einsum("ij,ij->i", after, before) / np.maximum(size, 1e-300), -1.0, 1.0)
    )


def _next_place(offsets: Index) -> Index:
    """For each corner where the next one of its cell stands."""
    out = np.arange(1, offsets[-1] + 1, dtype=np.int32)
    out[offsets[1:] - 1] = offsets[:-1]
    return out


def cleaned(corners: Index, offsets: Index) -> tuple[Index, Index]:
    """Polygons without corners that repeat the one before, without spikes that run out to a corner
    and straight back, and without cells left with fewer than three corners."""
    while len(offsets) > 1:
        following = _following(corners, offsets)
        kept = corners != following
        if kept.all():
            # A corner after which the one before it comes again; of spikes that touch each other
            # the first goes first.
            spike = corners == _following(following, offsets)
            tip = np.zeros(len(corners), bool)
            tip[_next_place(offsets)[spike]] = True
            kept = ~tip | tip[_next_place(offsets)]
        counts = np.add.reduceat(kept.astype(np.int32), offsets[:-1])
        enough = counts >= 3
        if kept.all() and enough.all():
            break
        kept &= np.repeat(enough, np.diff(offsets))
        corners, offsets = (
            corners[kept],
            np.concatenate([[0], np.cumsum(counts[enough])]).astype(np.int32),
        )
    return corners, offsets
