"""Flat polygons raised to solids, and the triangles of their sides."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .triangulation import polygon_triangles

__all__ = ["prism", "ring_between"]

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
