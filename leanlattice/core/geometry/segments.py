"""Straight pieces in space that come near each other."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

__all__ = ["near_pairs", "nearest_shares"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]


def near_pairs(starts: Array, ends: Array, apart: Array | float) -> Rows:
    """Pairs (k, 2), the lower first, of segments between ``starts`` and ``ends`` (n, 3), whose
    boxes come nearer to each other than ``apart``, for each (n,) or for all, in metres."""
    reach = np.broadcast_to(np.asarray(apart, float) / 2, len(starts))[:, None]
    low, high = np.minimum(starts, ends) - reach, np.maximum(starts, ends) + reach
    # Boxes in the two directions in which they are the most apart from each other.
    first, second, third = np.argsort(-np.ptp(np.vstack([low, high]), axis=0))
    columns = low[:, first], low[:, second], high[:, first], high[:, second]
    boxes = shapely.box(*columns)
    a, b = shapely.STRtree(boxes).query(boxes)
    over = (low[a, third] <= high[b, third]) & (low[b, third] <= high[a, third]) & (a < b)
    return np.column_stack([a[over], b[over]]).astype(np.int64)


def nearest_shares(
    first: tuple[Array, Array], second: tuple[Array, Array]
) -> tuple[Array, Array, Array]:
    """Shares (n,) of the lengths at which n segments come nearest to n others, each given by its
    starts and ends (n, 3), and how far apart (n,) they are there (Ericson, 2005, 5.1.9)."""
    (p, p_end), (q, q_end) = first, second
    u, v, w = p_end - p, q_end - q, p - q
    a, e = (np.maximum(np.einsum("ij,ij->i", d, d), 1e-300) for d in (u, v))
    b, c, f = (np.einsum("ij,ij->i", x, y) for x, y in ((u, v), (u, w), (v, w)))
    bent = a * e - b * b
    parallel = bent <= 1e-12 * a * e
    s = np.where(parallel, 0.0, np.clip((b * f - c * e) / np.where(parallel, 1.0, bent), 0.0, 1.0))
    t = (b * s + f) / e
    clipped = np.clip(t, 0.0, 1.0)
    s = np.where(t == clipped, s, np.clip((b * clipped - c) / a, 0.0, 1.0))
    gap = w + s[:, None] * u - clipped[:, None] * v
    return s, clipped, np.asarray(np.linalg.norm(gap, axis=1))
