"""Border treatments: what becomes of the cells of a flat pattern at the sides of the square of
parameters."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .flat import FlatPattern, following_corners, keep_cells

__all__ = ["BORDERS", "Border", "cut_at_edge", "run_past_edge", "whole_cells_only"]

Array = NDArray[np.float64]

NEAR_SIDE = 1e-5
ON_SIDE = 1e-9
"""Parameters closer to a side than this lie on it."""


def _inward(uv: Array, side: str) -> Array:
    """Signed distance (n,) inward from a side, exactly 0 on it."""
    axis, end = "uv".index(side[0]), side[1]
    d = uv[:, axis] if end == "0" else 1.0 - uv[:, axis]
    return np.where(np.abs(d) < ON_SIDE, 0.0, d)


def cut_at_edge(pattern: FlatPattern, sides: list[str]) -> FlatPattern:
    """Cells clipped to the square, side by side (Sutherland and Hodgman, 1974); cells must be
    convex.

    The two cells at an edge share the vertex where it is cut. The cells that were cut come last.
    """
    if not sides:
        return pattern
    uv = pattern.uv.copy()
    for side in sides:
        # What all but touches a side is put onto it, lest edges come about that are next to
        # nothing.
        uv[np.abs(_inward(uv, side)) < NEAR_SIDE, "uv".index(side[0])] = float(side[1])
    pattern = replace(pattern, uv=uv)
    outside = np.zeros(len(pattern.uv), bool)
    for side in sides:
        outside |= _inward(pattern.uv, side) < 0
    if not outside.any():
        return pattern
    counts = np.diff(pattern.offsets)
    reaching = np.zeros(len(counts), bool)
    reaching[
        np.searchsorted(pattern.offsets, np.flatnonzero(outside[pattern.corners]), side="right") - 1
    ] = True
    whole, part = keep_cells(pattern, ~reaching), keep_cells(pattern, reaching)
    for side in sides:
        part = _cut(part, side)
    corners = np.concatenate([whole.corners, part.corners])
    offsets = np.concatenate([whole.offsets, whole.offsets[-1] + part.offsets[1:]])
    return FlatPattern(part.uv, corners, offsets, pattern.closed)


def _cut(pattern: FlatPattern, side: str) -> FlatPattern:
    uv, corners, offsets = pattern.uv, pattern.corners, pattern.offsets
    d = _inward(uv, side)
    if np.all(d[corners] >= 0) or len(offsets) == 1:
        return pattern
    following = following_corners(pattern)
    da, db = d[corners], d[following]
    touched = np.repeat(np.maximum.reduceat(da, offsets[:-1]) > 0, np.diff(offsets))
    stays = touched & (da >= 0)
    crosses = touched & (da * db < 0)
    low, high = np.minimum(corners, following)[crosses], np.maximum(corners, following)[crosses]
    keys, which = np.unique(low.astype(np.int64) * len(uv) + high, return_inverse=True)
    a, b = keys // len(uv), keys % len(uv)
    share = (d[a] / (d[a] - d[b]))[:, None]
    # Across the seam of a closed direction the short way round is meant.
    step = uv[b] - uv[a]
    for axis in np.flatnonzero(pattern.closed):
        step[:, axis] -= np.round(step[:, axis])
    new = uv[a] + share * step
    new[:, "uv".index(side[0])] = float(side[1])

    emitted = stays.astype(np.int32) + crosses
    ends = np.cumsum(emitted)
    out = np.empty(int(ends[-1]), np.int32)
    at = ends - emitted
    out[at[stays]] = corners[stays]
    out[(at + stays)[crosses]] = len(uv) + which
    counts = np.add.reduceat(emitted, offsets[:-1])
    counts = counts[counts > 0]
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
    return FlatPattern(np.vstack([uv, new]), out, offsets, pattern.closed)


def whole_cells_only(pattern: FlatPattern, sides: list[str]) -> FlatPattern:
    """Only the cells that lie in the square as a whole."""
    kept = np.ones(len(pattern.offsets) - 1, bool)
    for side in sides:
        kept &= (
            np.minimum.reduceat(_inward(pattern.uv, side)[pattern.corners], pattern.offsets[:-1])
            >= 0
        )
    return keep_cells(pattern, kept)


def run_past_edge(pattern: FlatPattern, sides: list[str]) -> FlatPattern:
    """Every cell that reaches into the square, uncut."""
    kept = np.ones(len(pattern.offsets) - 1, bool)
    for side in sides:
        kept &= (
            np.maximum.reduceat(_inward(pattern.uv, side)[pattern.corners], pattern.offsets[:-1])
            > 0
        )
    return keep_cells(pattern, kept)


@dataclass(frozen=True)
class Border:
    """An entry of the table of treatments."""

    title: str
    treat: Callable[[FlatPattern, list[str]], FlatPattern]


BORDERS: dict[str, Border] = {
    "cut": Border("cut at the edge", cut_at_edge),
    "whole": Border("whole cells only", whole_cells_only),
    "past": Border("run past the edge", run_past_edge),
}
