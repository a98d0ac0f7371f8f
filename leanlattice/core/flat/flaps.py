"""Joint flaps along the seams of pieces laid flat, with holes that meet the neighbour's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.unrolled import Unrolled

__all__ = ["Flaps", "Joint", "flaps_along", "no_flaps"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
STEEPEST = np.radians(60)
"""Angle at a flap's ends where nothing is near; where there is less, a flap begins further in, so
that its corners are not sharp."""
KEPT = 0.94
"""Share of the room at a corner that one flap takes."""
HIGHEST = 0.8
"""Share of the height at which a flap's ends would meet that it may have."""
EDGE, PITCH = 1.2, 2.2
"""Least distances of holes from edges and from each other, in their diameters (EN 1993-1-8, table
3.3)."""
LEAST = 0.003
"""Metres below which a flap is none."""
WIDER = 1.25
"""By how much more room there has to be on the later side for the flap to be there."""


@dataclass(frozen=True)
class Joint:
    """How pieces are joined: by flaps so ``deep``, with holes of a ``diameter`` no further apart
    than ``every``, in metres; without holes where there is no diameter, without flaps where they
    have no depth."""

    deep: float
    diameter: float
    every: float

    @property
    def least(self) -> float:
        """The least depth of a flap that takes a hole."""
        return 2 * EDGE * self.diameter


@dataclass(frozen=True, eq=False)
class Flaps:
    """Flaps (m) on half-edges, and what lies beyond each.

    Parameters
    ----------
    half : (m,) half-edges they are on
    beyond : (m,) those they are joined to
    corners : (m, 4, 2) of each, from the one on the half-edge near its start on: two on that, two
        beyond it
    holes : (h, 2) middles of the holes in flaps
    met : (h, 2) middles of those they meet, in their neighbours
    hole_of : (h,) the flap each is in
    without : (k,) half-edges of seams that have no room for a flap
    """

    half: Index
    beyond: Index
    corners: Array
    holes: Array
    met: Array
    hole_of: Index
    without: Index

    def kept(self, which: Flags) -> Flaps:
        """Some of them (m,); those left out are without room."""
        number = np.cumsum(which) - 1
        held = which[self.hole_of]
        return Flaps(
            half=self.half[which],
            beyond=self.beyond[which],
            corners=self.corners[which],
            holes=self.holes[held],
            met=self.met[held],
            hole_of=number[self.hole_of[held]].astype(np.int32),
            without=np.concatenate([self.without, self.half[~which]]),
        )


def no_flaps() -> Flaps:
    """None at all."""
    none, places = np.zeros(0, np.int32), np.zeros((0, 2))
    return Flaps(none, none, np.zeros((0, 4, 2)), places, places, none, none)


def flaps_along(laid: Unrolled, beyond: Index, joint: Joint) -> Flaps:
    """Flaps on one side of each seam, on that of the earlier piece unless there is more room on the
    other: they lie on the triangle beyond once they are folded, clear of its other sides.

    Parameters
    ----------
    laid : the pieces
    beyond : (3T,) the half-edge that runs the other way along each in space; −1 at a border
    joint : how they are joined
    """
    ring = laid.ring[beyond[laid.ring] >= 0]
    ends = _end_angles(laid, beyond)[ring]
    length = np.linalg.norm(laid.flat[laid.end[ring]] - laid.flat[laid.start[ring]], axis=1)
    spread = (1 / np.tan(ends)).sum(axis=1)
    depth = np.zeros(len(beyond))
    depth[ring] = np.minimum(joint.deep, HIGHEST * length / spread)
    other = beyond[ring]
    rank = laid.piece[ring // 3].astype(np.int64) * len(beyond) + ring
    rank_beyond = laid.piece[other // 3].astype(np.int64) * len(beyond) + other
    prefer = np.where(rank < rank_beyond, WIDER, 1.0)
    prefer_beyond = np.where(rank < rank_beyond, 1.0, WIDER)
    mine, theirs = depth[ring] * prefer, depth[other] * prefer_beyond
    own = (mine > theirs) | ((mine == theirs) & (rank < rank_beyond))
    deep = depth[ring] >= LEAST
    made, without = own & deep, own & ~deep
    return _shaped(laid, beyond, ring[made], ends[made], depth[ring[made]], joint, ring[without])


def _end_angles(laid: Unrolled, beyond: Index) -> Array:
    """Angles (3T, 2) of flaps' ends on each half-edge, at its start and at its end: no more than
    half of the corner of the triangle beyond, and of what is free beside the piece."""
    corner = _corner_angles(laid)
    after = 3 * (np.arange(len(beyond)) // 3) + (np.arange(len(beyond)) + 1) % 3
    other = np.maximum(beyond, 0)
    there = np.stack([corner[after[other]], corner[other]], axis=1)
    free = _free_angles(laid)
    here = np.stack([free[laid.start], free[laid.end]], axis=1)
    return np.minimum(STEEPEST, KEPT / 2 * np.minimum(there, here))


def _corner_angles(laid: Unrolled) -> Array:
    """Angles (3T,) of triangles at the start of each half-edge."""
    p = laid.flat[laid.corners]
    one, other = np.roll(p, -1, axis=1) - p, np.roll(p, 1, axis=1) - p
    cross = one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0]
    return np.arctan2(np.abs(cross), (one * other).sum(axis=2)).ravel()


def _free_angles(laid: Unrolled) -> Array:
    """The angle (n,) that is free beside the piece at each place."""
    inside = np.bincount(laid.start, _corner_angles(laid), minlength=len(laid.flat))
    return np.maximum(2 * np.pi - inside, 1e-3)


def _shaped(
    laid: Unrolled,
    beyond: Index,
    half: Index,
    ends: Array,
    depth: Array,
    joint: Joint,
    without: Index,
) -> Flaps:
    """Flaps of a ``depth`` (m,) on half-edges (m,) with ``ends`` at these angles (m, 2), and their
    holes."""
    start, way, length = _lines(laid, half)
    tip = depth[:, None] / np.tan(ends)
    base = np.maximum(tip - depth[:, None], 0.0)
    along = np.stack([base[:, 0], tip[:, 0], length - tip[:, 1], length - base[:, 1]], axis=1)
    off = depth[:, None] * np.array([0.0, 1.0, 1.0, 0.0])
    corners = (
        start[:, None] + along[..., None] * way[:, None] - off[..., None] * _left(way)[:, None]
    )
    of, at = _holes(length, base, tip, depth, joint)
    deep = depth[of] / 2
    holes = _beside((start[of], way[of]), at, -deep)
    there = beyond[half]
    first, back, _ = _lines(laid, there)
    met = _beside((first[of], back[of]), length[of] - at, deep)
    return Flaps(half, there, corners, holes, met, of, without)


def _lines(laid: Unrolled, half: Index) -> tuple[Array, Array, Array]:
    """Starts (m, 2), directions (m, 2) and lengths (m,) of half-edges."""
    start, end = laid.flat[laid.start[half]], laid.flat[laid.end[half]]
    length = np.linalg.norm(end - start, axis=1)
    return start, (end - start) / length[:, None], length


def _left(way: Array) -> Array:
    return np.column_stack([-way[:, 1], way[:, 0]])


def _beside(lines: tuple[Array, Array], along: Array, off: Array) -> Array:
    """Places (h, 2) so far along lines, by starts and directions, and so far to their left."""
    start, way = lines
    return np.asarray(start + along[:, None] * way + off[:, None] * _left(way))


def _holes(
    length: Array, base: Array, tip: Array, depth: Array, joint: Joint
) -> tuple[Index, Array]:
    """The flap (h,) each hole is in, and how far (h,) it is along the half-edge, of flaps whose
    corners are so far (m, 2) from its ends, on it and beyond it."""
    slant = np.hypot(tip - base, depth[:, None]) / depth[:, None]
    keep = (base + tip) / 2 + EDGE * joint.diameter * slant
    low, clear = keep[:, 0], length - keep.sum(axis=1)
    fits = (joint.diameter > 0) & (depth >= joint.least) & (clear >= 0)
    apart = max(joint.every, PITCH * joint.diameter, 1e-9)
    number = np.where(fits, 1 + np.floor(clear / apart), 0).astype(np.int64)
    of = np.repeat(np.arange(len(length)), number)
    rank = np.arange(len(of)) - np.repeat(np.cumsum(number) - number, number)
    share = np.where(number[of] > 1, rank / np.maximum(number[of] - 1, 1), 0.5)
    return of.astype(np.int32), low[of] + share * clear[of]
