"""Where rays meet triangles: first, and at all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["all_hits", "first_hits"]

Array = NDArray[np.float64]
EVEN = 1e-9
"""Shares by which a ray may pass beside a triangle and still meet it."""
SAME = 1e-7
"""Metres between hits that are one."""
ROOM = 4_000_000
"""So many pairs of rays and triangles are looked at together."""


def first_hits(
    vertices: Array, triangles: NDArray[np.integer], starts: Array, ways: Array
) -> Array:
    """How far (n,) in metres rays go from their ``starts`` (n, 3) along unit ``ways`` (n, 3) until
    they meet one of the triangles (T, 3) of ``vertices`` (V, 3); without end where they meet none
    (Möller and Trumbore, 1997)."""
    out = np.full(len(starts), np.inf)
    a, b, c = (vertices[triangles[:, k]] for k in range(3))
    first, second = b - a, c - a
    step = max(ROOM // max(len(a), 1), 1)
    for low in range(0, len(starts), step):
        rays = slice(low, low + step)
        far = _distances(starts[rays, None], ways[rays, None], a, first, second)
        out[rays] = far.min(axis=1, initial=np.inf)
    return out


def all_hits(
    vertices: Array, triangles: NDArray[np.integer], start: Array, way: Array
) -> tuple[Array, NDArray[np.int64]]:
    """How far (k,) in metres a ray goes from its ``start`` (3,) along a unit ``way`` (3,) to each of
    the triangles (T, 3) of ``vertices`` (V, 3) it meets, in their order along it, and these
    triangles (k,); an edge that two share is met once."""
    a, b, c = (vertices[triangles[:, k]] for k in range(3))
    far = _distances(start[None, None], way[None, None], a, b - a, c - a)[0]
    met = np.flatnonzero(np.isfinite(far))
    met = met[np.argsort(far[met])]
    apart = np.append(True, np.diff(far[met]) > SAME) if len(met) else np.zeros(0, bool)
    return far[met][apart], met[apart]


def _distances(start: Array, way: Array, a: Array, first: Array, second: Array) -> Array:
    """Distances (n, T) from ``start`` along ``way`` (n, 1, 3) to triangles (T, 3) given by a corner
    and two sides; without end where they are not met."""
    across = np.cross(way, second)
    size = np.einsum("ntk,tk->nt", across, first)
    facing = np.abs(size) > 1e-14
    inverse = np.where(facing, 1.0, 0.0) / np.where(facing, size, 1.0)
    to = start - a
    u = np.einsum("ntk,ntk->nt", to, across) * inverse
    turned = np.cross(to, first)
    v = np.einsum("ntk,ntk->nt", np.broadcast_to(way, turned.shape), turned) * inverse
    far = np.einsum("ntk,tk->nt", turned, second) * inverse
    met = facing & (u >= -EVEN) & (v >= -EVEN) & (u + v <= 1 + EVEN) & (far > EVEN)
    return np.where(met, far, np.inf)
