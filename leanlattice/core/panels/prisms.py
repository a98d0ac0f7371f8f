"""Solids of panels, for models and for drawing."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.triangulation import polygon_triangles
from ..structure.solids import ring_between

__all__ = ["prism"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def prism(polygon: Array, normal: Array, thickness: float) -> tuple[Array, Index]:
    """Closed solid of a flat ``polygon`` (n, 3), counter-clockwise about ``normal``, raised along
    it."""
    n = len(polygon)
    face, _ = polygon_triangles(polygon, np.arange(n, dtype=np.int32), np.array([0, n], np.int32))
    faces = np.concatenate([face[:, ::-1], face + n, ring_between(0, n, n)])
    return np.concatenate([polygon, polygon + thickness * normal]), faces.astype(np.int32)
