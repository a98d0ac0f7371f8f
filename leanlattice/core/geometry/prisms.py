"""Flat polygons raised to solids, and the triangles of their sides."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray

from .triangulation import polygon_triangles

__all__ = ["pierced_prism", "prism", "ring_between"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def ring_between(a: int, b: int, n: int) -> Index:
    """Triangles between two loops of n points that start at ``a`` and ``b``; outside to the right
    of a → b."""
    k = np.arange(n)
    m = (k + 1) % n
    return np.concatenate(
        [np.column_stack([a + k, a + m, b + m]), np.column_stack([a + k, b + m, b + k])]
    )


def prism(polygon: Array, normal: Array, thickness: float) -> tuple[Array, Index]:
    """Closed solid of a flat ``polygon`` (n, 3), counter-clockwise about ``normal``, raised along
    it."""
    n = len(polygon)
    face, _ = polygon_triangles(polygon, np.arange(n, dtype=np.int32), np.array([0, n], np.int32))
    faces = np.concatenate([face[:, ::-1], face + n, ring_between(0, n, n)])
    return np.concatenate([polygon, polygon + thickness * normal]), faces.astype(np.int32)


def pierced_prism(rings: Sequence[Array], frame: Array, thickness: float) -> tuple[Array, Index]:
    """Closed solid of a flat polygon with openings, raised along its normal.

    Parameters
    ----------
    rings : (k, 2) each, its outline counter-clockwise and then its openings clockwise
    frame : (3, 4) that takes (x, y, 0, 1) to places, its third column the unit normal
    thickness : in the unit of places
    """
    flat = np.concatenate(rings)
    face = np.asarray(manifold3d.triangulate(list(rings)), np.int32).reshape(-1, 3)
    low = flat @ frame[:, :2].T + frame[:, 3]
    count, walls, start = len(flat), [], 0
    for ring in rings:
        walls.append(ring_between(start, count + start, len(ring)))
        start += len(ring)
    faces = np.concatenate([face[:, ::-1], face + count, *walls]).astype(np.int32)
    return np.concatenate([low, low + thickness * frame[:, 2]]), faces
