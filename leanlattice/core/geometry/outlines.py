"""Polygons in a plane, their corners (C, 2) one run after the other from ``offsets`` (n + 1,) on,
counter-clockwise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["following_corner", "moved_inward", "still_run_as"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def following_corner(values: Array, offsets: Index, step: int) -> Array:
    """The entry ``step`` (1 or −1) further round each polygon, of ``values`` (C, …)."""
    out = np.roll(values, -step, axis=0)
    if step > 0:
        out[offsets[1:] - 1] = values[offsets[:-1]]
    else:
        out[offsets[:-1]] = values[offsets[1:] - 1]
    return out


def moved_inward(corners: Array, offsets: Index, distance: float) -> Array:
    """Corners with every side moved inward by ``distance``: p + d (m + n) / (1 + m · n), m and n
    inward normals."""
    edge = following_corner(corners, offsets, 1) - corners
    edge /= np.maximum(np.linalg.norm(edge, axis=1, keepdims=True), 1e-300)
    after = np.column_stack([-edge[:, 1], edge[:, 0]])
    before = following_corner(after, offsets, -1)
    share = 1 + np.einsum("ij,ij->i", after, before)
    return corners + distance * (after + before) / np.maximum(share, 1e-9)[:, None]


def still_run_as(corners: Array, moved: Array, offsets: Index) -> NDArray[np.bool_]:
    """Whether (n,) every side of a polygon, its corners ``moved``, still runs the way it did."""
    before = following_corner(corners, offsets, 1) - corners
    after = following_corner(moved, offsets, 1) - moved
    kept = np.einsum("ij,ij->i", before, after) > 0
    return np.asarray(np.minimum.reduceat(kept.astype(np.int8), offsets[:-1]) > 0)
