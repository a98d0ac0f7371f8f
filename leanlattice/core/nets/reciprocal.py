"""Reciprocal frames: edges turned about their middles so that each rests on the next."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, NetError, Weave
from .fans import Fans, fans, ragged
from .piled import Bars, Contacts, piled
from .rebuilt import rebuilt
from .spots import on_shape

__all__ = ["Reciprocal", "reciprocal"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Long = NDArray[np.int64]
ROUNDS = 60
MOST_TURN = 0.6
"""Sine of the largest turn that is tried."""


@dataclass(frozen=True, eq=False)
class Reciprocal:
    """The net of a reciprocal frame, its members being the strands of its weave; ``engagement``
    (n,) is how far (m) each end reaches past the one that rests on it, ``gap`` (n,) how far (m)
    apart the middle lines pass there, or are off the levels at which they rest on each other, and
    ``turn`` (E,) by how much (rad) each edge was turned. ``rise`` (V,) is how far (m) vertices were
    lifted for bars to rest on each other."""

    net: Net
    engagement: Array
    gap: Array
    turn: Array
    rise: Array = field(default_factory=lambda: np.zeros(0))


def reciprocal(
    net: Net,
    turn: float,
    engagement: float | None = None,
    width: float = 0.08,
    thickness: float = 0.08,
    on_top: bool = False,
) -> Reciprocal:
    """Bars ``width`` and ``thickness`` (m) on the edges of a ``net``: every inner edge turned about
    its middle by ``turn`` (rad; below 0 the other way), or by what makes its ends engage by
    ``engagement`` (m), and carried on until it rests on the next about each vertex. Bars lie on one
    level, or ``on_top`` of each other: straight as they are, they lift the net.

    Edges that end at the border are turned about that end by half. About an inner vertex the ends
    form a ring, one corner each (Baverel, 2000); the corners lie on the shape where the two lines
    pass nearest to each other. Raises ``NetError`` where an end reaches past the middle of what it
    rests on.
    """
    ends = _Ends(net, 1 if turn >= 0 else -1)
    if not len(ends.end):
        none = np.zeros(0)
        return Reciprocal(net, none, none, np.zeros(len(net.edges)))
    free = ends.turned_ends.reshape(-1, 2).any(axis=1)
    turns = np.where(free, turn if engagement is None else _solved(ends, engagement), 0.0)
    places, gap, length, room = ends.met(turns)
    if (room <= 0).any():
        at = places[int(np.argmin(room))]
        raise NetError(f"Edges reach past each other near ({at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f}).")
    made = _joined(net, ends, places, width, thickness)
    if on_top:
        lifted, rise, off = piled(made.net, _contacts(net, made, ends), thickness)
        return Reciprocal(lifted, length, off, turns, rise)
    return Reciprocal(made.net, length, gap, turns)


def _solved(ends: _Ends, engagement: float) -> Array:
    """Turns (E,) at which ends engage by ``engagement`` (m) as nearly as can be.

    How far an end engages depends on how far the two edges beside it pass the node, so that each
    edge is moved aside by what those beside it want of it, in turns.
    """
    half = ends.net.edge_lengths / 2
    aside = np.full(len(half), engagement / 2)
    edge = ends.end >> 1
    beside = np.concatenate([edge[ends.previous], edge[ends.next]])
    times = np.maximum(np.bincount(beside, minlength=len(half)), 1)
    turns = np.zeros(len(half))
    for _ in range(ROUNDS):
        turns = ends.hand * np.arcsin(np.clip(aside / half, 0.0, MOST_TURN))
        length = np.maximum(ends.met(turns)[2], 1e-3 * engagement)
        wanted = np.bincount(beside, np.tile(engagement / length, 2), len(half)) / times
        aside *= np.where(wanted > 0, np.clip(wanted, 0.7, 1.4) ** 0.5, 1.0)
    return turns


class _Ends:
    """The ends of edges about inner vertices in counter-clockwise order, and where each comes to
    rest."""

    def __init__(self, net: Net, hand: int) -> None:
        self.net, self.hand = net, hand
        about: Fans = fans(net)
        sizes = np.diff(about.offsets)
        rings = np.flatnonzero(~about.open & (sizes > 2))
        # A vertex at which the net only touches itself stays.
        single = np.bincount(about.vertex, minlength=len(net.vertices)) == 1
        rings = rings[single[about.vertex[rings]]]
        self.ring_sizes = sizes[rings]
        kept = np.zeros(len(sizes), bool)
        kept[rings] = True
        half = about.half[np.repeat(kept, sizes)]
        self.half = half
        self.vertex = net.corners[half]
        edge = net.sides[half].astype(np.int64)
        self.end = 2 * edge + (net.edges[edge, 1] == self.vertex)
        offsets = np.concatenate([[0], np.cumsum(self.ring_sizes)])
        self.offsets = offsets
        k = np.arange(len(half))
        first, size = (
            np.repeat(offsets[:-1], self.ring_sizes),
            np.repeat(self.ring_sizes, self.ring_sizes),
        )
        self.next = first + (k - first + 1) % np.maximum(size, 1)
        self.previous = first + (k - first - 1) % np.maximum(size, 1)
        self.turned_ends = np.zeros(2 * len(net.edges), bool)
        self.turned_ends[self.end] = True
        self.place_of_end = np.full(2 * len(net.edges), -1, np.int64)
        self.place_of_end[self.end] = k

    def met(self, turns: Array) -> tuple[Array, Array, Array, Array]:
        """Where each end comes to rest (n, 3), the gap (n,) between the lines there, the engagement
        (n,), and how much (n,) of each edge is left between what rests on it."""
        net = self.net
        a, b = net.vertices[net.edges[:, 0]], net.vertices[net.edges[:, 1]]
        normal = net.normals[net.edges].sum(axis=1)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
        way = b - a
        length = np.linalg.norm(way, axis=1)
        way = way / length[:, None]
        free = self.turned_ends.reshape(-1, 2)
        whole = np.asarray(free.all(axis=1))
        angle = np.where(whole, turns, turns / 2)[:, None]
        across = np.cross(normal, way)
        turned = np.cos(angle) * way + np.sin(angle) * (
            across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
        )
        pivot = np.where(whole[:, None], (a + b) / 2, np.where(free[:, :1], b, a))
        edge = self.end >> 1
        # Outward from the vertex.
        sign = np.where(self.end % 2 == 0, 1.0, -1.0)[:, None]
        d, p = sign * turned[edge], pivot[edge]
        other = self.previous if self.hand > 0 else self.next
        t, s, gap, places = _nearest(p, d, p[other], d[other])
        rests_on_me = self.next if self.hand > 0 else self.previous
        support = s[rests_on_me]  # along this edge, where the one that rests on it does
        engaged = support - t
        # What is left of the edge between the supports at its two ends, or up to its end at the
        # border.
        far = self.place_of_end[self.end ^ 1]
        reach = np.einsum("ij,ij->i", net.vertices[net.edges.ravel()[self.end ^ 1]] - p, d)
        other_support = np.where(far >= 0, -support[np.maximum(far, 0)], reach)
        return places, gap, engaged, np.minimum(other_support - support, engaged)


def _nearest(p: Array, d: Array, q: Array, e: Array) -> tuple[Array, Array, Array, Array]:
    """How far along lines p + t d and q + s e (n, 3 each, unit directions) they pass nearest to
    each other, how far apart, and the place (n, 3) in between."""
    w = p - q
    b = np.einsum("ij,ij->i", d, e)
    dw, ew = np.einsum("ij,ij->i", d, w), np.einsum("ij,ij->i", e, w)
    det = np.maximum(1 - b * b, 1e-9)
    t, s = (b * ew - dw) / det, (ew - b * dw) / det
    one, two = p + t[:, None] * d, q + s[:, None] * e
    return t, s, np.linalg.norm(one - two, axis=1), (one + two) / 2


@dataclass(frozen=True, eq=False)
class _Joined:
    """The ``net`` of bars, and the vertex (n,) of it at which each end rests."""

    net: Net
    at: Long


def _joined(net: Net, ends: _Ends, places: Array, width: float, thickness: float) -> _Joined:
    """Rings about inner vertices and the cells between, over the places at which ends rest."""
    count = len(net.vertices)
    new = count + np.arange(len(places))
    if on_shape(net):
        uv = net.surface.closest(places)
        places = net.surface.points(uv)
    else:
        uv = net.uv[ends.vertex]
    place_of_half = np.full(len(net.corners), -1, np.int64)
    place_of_half[ends.half] = np.arange(len(ends.half))
    # At each corner, between the edge that leaves and, counter-clockwise, the one that arrives.
    out = place_of_half
    arriving = ends.next[np.maximum(out, 0)]
    if ends.hand > 0:
        first, second = ends.next[arriving], arriving
    else:
        first, second = np.maximum(out, 0), ends.previous[np.maximum(out, 0)]
    inner = out >= 0
    rows = np.where(
        inner[:, None],
        np.column_stack([new[first], new[second]]),
        np.column_stack([net.corners, np.full(len(out), -1)]),
    )
    flat = rows.ravel()
    kept = flat >= 0
    counts = np.add.reduceat(1 + inner.astype(np.int64), net.offsets[:-1])
    corners, offsets = ragged(
        [
            (flat[kept].astype(np.int32), counts.astype(np.int32)),
            (new.astype(np.int32), ends.ring_sizes),
        ]
    )
    made = rebuilt(
        net, np.vstack([net.vertices, places]), np.vstack([net.uv, uv]), corners, offsets
    )
    used = np.zeros(count + len(places), bool)
    used[corners] = True
    strand = _members(net, made, ends, used)
    weave = Weave(strand, np.zeros((len(made.edges), 2)), width, thickness)
    return _Joined(replace(made, weave=weave), (np.cumsum(used) - 1)[new])


def _members(net: Net, made: Net, ends: _Ends, used: NDArray[np.bool_]) -> Index:
    """The members as strands of the new net: each runs from its end past what rests on it to its
    other end."""
    number = np.cumsum(used) - 1
    new = number[len(net.vertices) + np.arange(len(ends.end))]
    rests_on_me = ends.next if ends.hand > 0 else ends.previous
    inmost = number[net.edges.ravel()]
    inmost[ends.end] = new[rests_on_me]
    pairs = np.vstack([np.column_stack([new, new[rests_on_me]]), inmost.reshape(-1, 2)])
    strand = np.concatenate([ends.end >> 1, np.arange(len(net.edges))])
    count = len(made.vertices)
    key = pairs.min(axis=1) * count + pairs.max(axis=1)
    order = np.argsort(key, kind="stable")
    own = made.edges[:, 0].astype(np.int64) * count + made.edges[:, 1]
    found = order[np.searchsorted(key[order], own).clip(max=len(key) - 1)]
    return strand[found].astype(np.int32)


def _contacts(net: Net, made: _Joined, ends: _Ends) -> Contacts:
    """Where bars on a net's edges rest on each other, in the net that is ``made`` of them."""
    edge = ends.end >> 1
    outer = net.edges.ravel()
    places, normals = net.vertices[outer], net.normals[outer]
    places[ends.end], normals[ends.end] = made.net.vertices[made.at], made.net.normals[made.at]
    return Contacts(
        bars=Bars(places[::2], places[1::2], normals.reshape(-1, 2, 3)),
        end=edge,
        bears=edge[ends.previous if ends.hand > 0 else ends.next],
        at=made.at,
        held=np.flatnonzero(~ends.turned_ends),
    )
