"""Triangles joined across some of their sides, so that none is joined in a ring: laid flat one
after the other, and folded up again."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result

__all__ = ["Unrolled", "folded", "turns_of", "unrolled"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Unrolled(Result):
    """Pieces (S) of triangles (T) laid flat; half-edge 3t + k runs from corner k of triangle t to
    the next.

    Parameters
    ----------
    order : (T,) triangles piece by piece, each after the one it is joined to
    piece : (T,) the piece each triangle is of
    parent : (T,) the half-edge across which each is joined to one before it; −1 of the first
    before : (T,) that triangle; −1 of the first
    corners : (T, 3) places of each triangle's corners
    origin : (n,) the point each place is of
    flat : (n, 2) places in metres
    ring : (r,) half-edges round each piece, counter-clockwise, piece after piece
    ring_offsets : (S + 1,) where those of each begin
    """

    order: Index
    piece: Index
    parent: Index
    before: Index
    corners: Index
    origin: Index
    flat: Array
    ring: Index
    ring_offsets: Index

    @property
    def count(self) -> int:
        return len(self.ring_offsets) - 1

    @cached_property
    def start(self) -> Index:
        """The place (3T,) each half-edge begins at."""
        return self.corners.ravel()

    @cached_property
    def end(self) -> Index:
        """The place (3T,) each half-edge ends at."""
        return np.roll(self.corners, -1, axis=1).ravel()

    @cached_property
    def piece_of_place(self) -> Index:
        """The piece (n,) each place is of."""
        out = np.empty(len(self.flat), np.int32)
        out[self.corners] = self.piece[:, None]
        return out


def unrolled(points: Array, triangles: Index, joined: Index) -> Unrolled:
    """Triangles (T, 3) of ``points`` (V, 3) in metres laid flat, no length changed; ``joined``
    (3T,) is the half-edge beyond each, −1 where nothing is joined.

    Pieces are in the order of their first triangles, which have as few joined to them as any of
    the piece. What would close a ring is parted.
    """
    triangles, joined = triangles.astype(np.int32), joined.astype(np.int32).copy()
    order, piece, parent, before = _trees(joined)
    corners, origin = _placed(triangles, order, parent, before)
    flat = _laid(points, origin, order, parent, corners)
    rings = _rings(order, piece, joined)
    return Unrolled(order, piece, parent, before, corners, origin, flat, *rings)


@compiled
def _trees(joined):  # type: ignore[no-untyped-def]
    """Triangles in their order, piece by piece, with what each is joined to; parts ``joined`` where
    a ring would close."""
    count = len(joined) // 3
    order, piece = np.empty(count, np.int32), np.full(count, -1, np.int32)
    parent, before = np.full(count, -1, np.int32), np.full(count, -1, np.int32)
    done, pieces = 0, 0
    for first in range(count):
        if piece[first] >= 0:
            continue
        root = _an_end(first, joined, piece, pieces, order, done)
        piece[root], order[done] = pieces, root
        at, done = done, done + 1
        while at < done:
            here = order[at]
            at += 1
            for k in range(3):
                there = joined[3 * here + k]
                if there < 0 or parent[here] == 3 * here + k:
                    continue
                new = there // 3
                if piece[new] == pieces:
                    joined[3 * here + k], joined[there] = -1, -1
                    continue
                piece[new], parent[new], before[new], order[done] = pieces, there, here, new
                done += 1
        pieces += 1
    return order, piece, parent, before


@compiled
def _placed(triangles, order, parent, before):  # type: ignore[no-untyped-def]
    """Places of the corners of triangles, two of which each shares with the one it is joined to,
    and the points they are of."""
    corners = np.empty((len(order), 3), np.int32)
    origin = np.empty(3 * len(order), np.int32)
    places = 0
    for t in order:
        new = np.arange(3)
        if parent[t] >= 0:
            m, here = parent[t] % 3, before[t]
            # The half-edge of the other that runs the other way ends where this one begins.
            for n in range(3):
                if triangles[here, (n + 1) % 3] == triangles[t, m] and (
                    triangles[here, n] == triangles[t, (m + 1) % 3]
                ):
                    corners[t, m] = corners[here, (n + 1) % 3]
                    corners[t, (m + 1) % 3] = corners[here, n]
            new = np.arange(m + 2, m + 3) % 3
        for k in new:
            corners[t, k], origin[places] = places, triangles[t, k]
            places += 1
    return corners, origin[:places].copy()


@compiled
def _an_end(first, joined, piece, number, order, done):  # type: ignore[no-untyped-def]
    """Of the triangles joined to the ``first`` one that with the fewest joined to it; what is left
    in ``order`` and ``piece`` is as it was."""
    order[done], piece[first] = first, number
    best, fewest, at, end = first, 4, done, done + 1
    while at < end:
        here = order[at]
        at += 1
        beside = 0
        for k in range(3):
            there = joined[3 * here + k]
            if there < 0:
                continue
            beside += 1
            if piece[there // 3] != number:
                piece[there // 3], order[end] = number, there // 3
                end += 1
        if beside < fewest:
            best, fewest = here, beside
    for k in range(done, end):
        piece[order[k]] = -1
    return best


@compiled
def _beside(p, q, r):  # type: ignore[no-untyped-def]
    """How long the line from p to q is, how far r is along it, and how far beside it."""
    way = q - p
    size = np.sqrt((way * way).sum())
    along = ((r - p) * way).sum() / max(size, 1e-300)
    return size, along, np.sqrt(max(((r - p) ** 2).sum() - along * along, 0.0))


@compiled
def _laid(points, origin, order, parent, corners):  # type: ignore[no-untyped-def]
    flat = np.zeros((len(origin), 2))
    for t in order:
        m = max(parent[t], 0) % 3
        a, b, c = corners[t, m], corners[t, (m + 1) % 3], corners[t, (m + 2) % 3]
        size, along, high = _beside(points[origin[a]], points[origin[b]], points[origin[c]])
        if parent[t] < 0:
            flat[b, 0] = size
        way = (flat[b] - flat[a]) / max(size, 1e-300)
        flat[c, 0] = flat[a, 0] + along * way[0] - high * way[1]
        flat[c, 1] = flat[a, 1] + along * way[1] + high * way[0]
    return flat


@compiled
def _rings(order, piece, joined):  # type: ignore[no-untyped-def]
    """Half-edges round each piece, and where those of each begin."""
    ring, taken = np.empty(len(joined), np.int32), np.zeros(len(joined), np.bool_)
    offsets = np.zeros(piece.max() + 2, np.int32)
    n = 0
    for t in order:
        for k in range(3):
            half = 3 * t + k
            if joined[half] >= 0 or taken[half]:
                continue
            while not taken[half]:
                taken[half], ring[n] = True, half
                n += 1
                half = 3 * (half // 3) + (half + 1) % 3
                while joined[half] >= 0:
                    half = joined[half]
                    half = 3 * (half // 3) + (half + 1) % 3
            offsets[piece[t] + 1] = n
    return ring[:n].copy(), offsets


def turns_of(points: Array, laid: Unrolled) -> Array:
    """By how much (T,) in radians each triangle turns against the one it is joined to, away from
    the outside; 0 of the first ones. ``points`` (V, 3) as they stand."""
    p = points[laid.origin[laid.corners]]
    cross = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    normal = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-300)
    out = np.zeros(len(p))
    on = np.flatnonzero(laid.parent >= 0)
    start, end = (points[laid.origin[at[laid.parent[on]]]] for at in (laid.start, laid.end))
    way = (end - start) / np.linalg.norm(end - start, axis=1, keepdims=True)
    one, other = normal[laid.before[on]], normal[on]
    out[on] = np.arctan2(
        -np.einsum("ij,ij->i", np.cross(one, other), way), np.einsum("ij,ij->i", one, other)
    )
    return out


def folded(laid: Unrolled, turns: Array, frames: Array) -> Array:
    """Places (n, 3) of pieces folded up from the flat.

    Parameters
    ----------
    laid : the pieces
    turns : (T,) as ``turns_of`` tells them
    frames : (S, 4, 3) where each piece goes by its first triangle: the place of the flat origin,
        and three axes
    """
    return np.asarray(
        _folded(
            laid.order, laid.piece, laid.parent, laid.before, laid.corners, laid.flat, turns, frames
        )
    )


@compiled
def _folded(  # type: ignore[no-untyped-def]
    order, piece, parent, before, corners, flat, turns, frames
):
    out, normal = np.empty((len(flat), 3)), np.empty((len(order), 3))
    for t in order:
        if parent[t] < 0:
            at = frames[piece[t]]
            normal[t] = at[3]
            for c in corners[t]:
                out[c] = at[0] + flat[c, 0] * at[1] + flat[c, 1] * at[2]
            continue
        m = parent[t] % 3
        a, b, c = corners[t, m], corners[t, (m + 1) % 3], corners[t, (m + 2) % 3]
        way, up = _unit(out[b] - out[a]), normal[before[t]]
        inward = np.cross(up, way)
        cosine, sine = np.cos(turns[t]), np.sin(turns[t])
        along, high = _beside_line(flat[a], flat[b], flat[c])
        out[c] = out[a] + along * way + high * (cosine * inward - sine * up)
        normal[t] = cosine * up + sine * inward
    return out


@compiled
def _unit(way):  # type: ignore[no-untyped-def]
    return way / np.sqrt((way * way).sum())


@compiled
def _beside_line(a, b, c):  # type: ignore[no-untyped-def]
    """How far c (2,) is along the line from a to b, and how far to the left of it."""
    way, off = _unit(b - a), c - a
    return off[0] * way[0] + off[1] * way[1], off[1] * way[0] - off[0] * way[1]
