"""How edges of panels are worked: corners rounded, and holes for what holds the panels."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import CIRCLE
from ..geometry.outlines import following_corner, moved_inward, still_run_as

__all__ = ["APART", "BESIDE", "SHARP", "Edges", "Worked", "worked"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
BESIDE, APART = 1.2, 2.2
"""Times its diameter that a hole's middle keeps from an edge, and from that of another, at least
(EN 1993-1-8, table 3.3)."""
ARC_OFF = 1e-5
"""What (m) chords of rounded corners are off these at most."""
LONGEST_TURN = np.pi / 18
"""What a chord turns by at most."""
ROUNDING = 1e-6
"""Share of a least distance that may be lacking."""
SPARE = 5e-3
"""What (m) of a side has to be left between two rounded corners, and twice a chord beyond it."""


class Edges(NamedTuple):
    """What edges of panels are worked to, in metres: corners that turn outward get a ``radius``;
    holes of a diameter ``hole`` stand ``rim`` from the edges, in every corner and between these no
    further than ``spacing`` apart, 0 for corners alone. 0 stands for none of each."""

    radius: float = 0.0
    hole: float = 0.0
    rim: float = 0.0
    spacing: float = 0.0

    @property
    def are_worked(self) -> bool:
        """Whether there is anything to do."""
        return self.radius > 0 or self.hole > 0


SHARP = Edges()
"""Edges that nothing is done to."""


@dataclass(frozen=True, eq=False)
class Worked:
    """Polygons (n) as they are cut: ``outer`` outlines (k, 2) and their ``holes``, each (24, 2), in
    the unit of what was given; ``done`` (n,) tells which had room for what was wanted."""

    outer: tuple[Array, ...]
    holes: tuple[tuple[Array, ...], ...]
    done: NDArray[np.bool_]


def worked(corners: Array, offsets: Index, edges: Edges, metre: float = 1.0) -> Worked:
    """Works the edges of polygons; those without room for it stay as they are.

    Parameters
    ----------
    corners : (C, 2) of all polygons, counter-clockwise
    offsets : (n + 1,) where each begins
    edges : what is wanted
    metre : how many units of ``corners`` a metre is
    """
    sharp = [corners[a:b] for a, b in pairwise(offsets.tolist())]
    bare: tuple[tuple[Array, ...], ...] = ((),) * len(sharp)
    if not edges.are_worked:
        return Worked(tuple(sharp), bare, np.ones(len(sharp), bool))
    edges = Edges(*(metre * value for value in edges))
    outer, has_room = _rounded(corners, offsets, edges.radius, metre)
    middles, fits = _hole_middles(corners, offsets, edges)
    done = has_room & fits & _stand_clear(outer, middles, edges.hole)
    circle = edges.hole / 2 * CIRCLE
    holes = [
        tuple(at + circle for at in own) if ok else ()
        for own, ok in zip(middles, done, strict=True)
    ]
    cut = [own if ok else plain for own, plain, ok in zip(outer, sharp, done, strict=True)]
    return Worked(tuple(cut), tuple(holes), done)


def _rounded(
    corners: Array, offsets: Index, radius: float, metre: float
) -> tuple[list[Array], NDArray[np.bool_]]:
    """Polygons with chords for their outward corners, and which of them had room for these."""
    length, before, turn = _turns(corners, offsets)
    taken = radius * np.tan(np.maximum(turn, 0.0) / 2)
    step = _turn_of_chord(radius, ARC_OFF * metre)
    spare = SPARE * metre + 2 * radius * step if radius else -np.inf
    left = length - taken - following_corner(taken, offsets, 1)
    has_room = np.minimum.reduceat(left, offsets[:-1]) > spare
    chords = max(int(np.ceil(turn.max(initial=0.0) / step)), 1)
    arcs = _arcs(corners - taken[:, None] * before, before, turn, radius, chords)
    pieces = [arcs[k] if taken[k] > 0 else corners[k : k + 1] for k in range(len(corners))]
    return [np.concatenate(pieces[a:b]) for a, b in pairwise(offsets.tolist())], has_room


def _turns(corners: Array, offsets: Index) -> tuple[Array, Array, Array]:
    """Lengths (C,) of the sides after corners, unit directions (C, 2) of those before, and by how
    much (C,), in radians to the left, the one turns to the other."""
    after = following_corner(corners, offsets, 1) - corners
    length = np.linalg.norm(after, axis=1)
    way = after / np.maximum(length, 1e-300)[:, None]
    before = following_corner(way, offsets, -1)
    sine = before[:, 0] * way[:, 1] - before[:, 1] * way[:, 0]
    return length, before, np.arctan2(sine, np.einsum("ij,ij->i", before, way))


def _arcs(starts: Array, before: Array, turn: Array, radius: float, chords: int) -> Array:
    """Corners (C, chords + 1, 2) along arcs that leave ``starts`` (C, 2) the way sides ``before``
    (C, 2) run, and ``turn`` (C,) to the left."""
    inward = np.column_stack([-before[:, 1], before[:, 0]])
    first = np.arctan2(-inward[:, 1], -inward[:, 0])
    angles = first[:, None] + turn[:, None] * np.arange(chords + 1) / chords
    circle = np.stack([np.cos(angles), np.sin(angles)], axis=2)
    return np.asarray((starts + radius * inward)[:, None] + radius * circle)


def _turn_of_chord(radius: float, off: float) -> float:
    """By how much (rad) a chord may turn that is ``off`` its arc at most."""
    if radius <= off:
        return LONGEST_TURN
    return float(min(2 * np.arccos(1 - off / radius), LONGEST_TURN))


def _hole_middles(
    corners: Array, offsets: Index, edges: Edges
) -> tuple[list[Array], NDArray[np.bool_]]:
    """Middles (k, 2) of each polygon's holes, side after side, and which of the polygons are wide
    enough for them."""
    count = len(offsets) - 1
    if not edges.hole:
        return [np.zeros((0, 2))] * count, np.ones(count, bool)
    within = moved_inward(corners, offsets, edges.rim)
    fits = still_run_as(corners, within, offsets)
    along = following_corner(within, offsets, 1) - within
    length = np.linalg.norm(along, axis=1)
    gaps = np.ones(len(corners), np.int64)
    if edges.spacing:
        gaps = np.maximum(np.ceil(length / edges.spacing - 1e-9), 1).astype(np.int64)
    first = np.concatenate([[0], np.cumsum(gaps)])
    side = np.repeat(np.arange(len(corners)), gaps)
    share = (np.arange(first[-1]) - first[side]) / gaps[side]
    places = within[side] + share[:, None] * along[side]
    starts = first[offsets].tolist()
    return [places[a:b] for a, b in pairwise(starts)], fits


def _stand_clear(outer: list[Array], middles: list[Array], hole: float) -> NDArray[np.bool_]:
    """Whether holes keep far enough from their own outline (n,) and from each other."""
    out = np.ones(len(outer), bool)
    of = np.repeat(np.arange(len(outer)), [len(own) for own in middles])
    if not len(of):
        return out
    places, sizes = np.concatenate(middles), [len(ring) for ring in outer]
    rings: Any = shapely.linearrings(
        np.concatenate(outer), indices=np.repeat(np.arange(len(outer)), sizes)
    )
    beside = shapely.distance(shapely.points(places), rings[of])
    out[of[beside < BESIDE * hole * (1 - ROUNDING)]] = False
    # Polygons are moved apart, so that one tree knows all.
    step = 2 * (float(np.ptp(places[:, 0])) + APART * hole)
    points: Any = shapely.points(places + np.column_stack([of * step, np.zeros(len(of))]))
    least = APART * hole * (1 - ROUNDING)
    one, other = shapely.STRtree(points).query(points, predicate="dwithin", distance=least)
    out[of[one[one != other]]] = False
    return out
