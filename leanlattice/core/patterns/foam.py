"""Points whose cells fill space: a foam of two kinds of cells of equal volume, or scattered
ones."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

__all__ = ["equal_foam", "equal_weight", "power_cell_volume", "scattered_foam", "turned_points"]

Array = NDArray[np.float64]
EIGHT = np.array([
    [0, 0, 0], [2, 2, 2],
    [1, 0, 2], [3, 0, 2], [2, 1, 0], [2, 3, 0], [0, 2, 1], [0, 2, 3],
]) / 4  # fmt: skip
"""Middles of the cells in a cube of side 1: two of twelve faces, then six of fourteen."""
SAMPLES = 60


def power_cell_volume(points: Array, weights: Array, which: int) -> float:
    """Volume of the power cell (Aurenhammer, 1987) of point ``which`` among ``points`` (n, 3); it
    must be bounded."""
    p, w = points[which], weights[which]
    others = np.delete(np.arange(len(points)), which)
    step = points[others] - p
    # |x − p|² − w ≤ |x − q|² − v, with x counted from p.
    bound = ((step**2).sum(axis=1) - weights[others] + w) / 2
    cell = scipy.spatial.HalfspaceIntersection(np.column_stack([step, -bound]), np.zeros(3))
    return float(scipy.spatial.ConvexHull(cell.intersections).volume)


@lru_cache(maxsize=1)
def equal_weight() -> float:
    """Weight of the two twelve-faced cells of a cube of side 1 for which all eight have equal
    volume; that of the others is 0."""
    steps = np.stack(np.meshgrid(*[np.arange(-1, 2)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    points = (EIGHT[None] + steps[:, None]).reshape(-1, 3)
    first = np.tile(np.arange(8) < 2, len(steps))
    centre = int(np.flatnonzero((points == 0).all(axis=1))[0])
    low, high = -0.1, 0.1
    for _ in range(50):
        middle = (low + high) / 2
        if power_cell_volume(points, np.where(first, middle, 0.0), centre) < 1 / 8:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def equal_foam(low: Array, high: Array, size: float) -> tuple[Array, Array]:
    """Points (n, 3) and weights (n,) of a foam whose cells all have the volume ``size``³ (m³) and
    are of two kinds, one of the second for every third (after Weaire and Phelan, 1994), over the
    box from ``low`` to ``high`` (3,)."""
    cube = 2 * size
    first, last = np.floor(low / cube).astype(int) - 1, np.ceil(high / cube).astype(int) + 1
    steps = np.stack(
        np.meshgrid(*[np.arange(a, b) for a, b in zip(first, last, strict=True)], indexing="ij"),
        axis=-1,
    )
    points = (steps.reshape(-1, 1, 3) + EIGHT[None]) * cube
    weights = np.where(np.arange(8) < 2, equal_weight() * cube**2, 0.0)
    return points.reshape(-1, 3), np.tile(weights, len(points))


def scattered_foam(low: Array, high: Array, size: float, seed: int, rounds: int) -> Array:
    """Points (n, 3) in the box from ``low`` to ``high`` (3,), scattered by ``seed`` so that their
    cells measure ``size``³ (m³) on average, drawn apart in ``rounds`` after Lloyd (1982), with
    places of the box standing for its whole."""
    rng = np.random.default_rng(seed)
    low, high = low - 2 * size, high + 2 * size
    count = max(int(np.prod((high - low) / size)), 4)
    points = low + rng.random((count, 3)) * (high - low)
    if rounds:
        places = low + rng.random((count * SAMPLES, 3)) * (high - low)
    for _ in range(rounds):
        nearest = np.asarray(scipy.spatial.cKDTree(points).query(places)[1])
        held = np.bincount(nearest, minlength=count)
        middle = np.stack([np.bincount(nearest, places[:, k], count) for k in range(3)], axis=1)
        points = np.where(held[:, None] > 0, middle / np.maximum(held, 1)[:, None], points)
    return points


def turned_points(points: Array, turn: float, tilt: float) -> Array:
    """Points (n, 3) tilted by ``tilt`` (rad) about x, then turned by ``turn`` (rad) about the
    vertical."""
    a, b = np.array([np.cos(tilt), np.sin(tilt)]), np.array([np.cos(turn), np.sin(turn)])
    tilted = points @ np.array([[1, 0, 0], [0, a[0], a[1]], [0, -a[1], a[0]]])
    return np.asarray(tilted @ np.array([[b[0], b[1], 0], [-b[1], b[0], 0], [0, 0, 1]]))
