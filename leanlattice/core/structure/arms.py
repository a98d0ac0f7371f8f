"""Arms: every end and passage of a member at a node, those that meet, and how far they stand back.

The kernels look at pairs of arms at a node. In the plane of a pair's axes a member is a strip as wide
as its section reaches, to which the offset of its axis from the node is added: ``near`` towards
the other, ``far`` away from it. Two ends stop where they are a gap apart (``clear_start``); an end
at a member that passes stops at that one's side, s = (gap + r₂ + r₁ cos θ) / sin θ.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result
from .structure import Structure, tangents

__all__ = [
    "PASSAGE",
    "Arms",
    "Links",
    "arms_of",
    "clear_start",
    "dot",
    "links_of",
    "reach",
    "set_backs",
    "sizes_of",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

PASSAGE = -1
"""In the place of an end's number: the member runs on."""
TOUCHING = 1e-4
"""Metres by which sections have to overlap for their members to meet; less is contact."""


@dataclass(frozen=True, eq=False)
class Arms(Result):
    """Arms (A), node after node, and at a node in the order of their entries.

    ``node``, ``member``, ``entry`` (A,) say where they are; ``end`` (A,) is 0 or 1, or ``PASSAGE``.
    ``away`` (A, 3) is the unit direction in which an arm leaves, for a passage that of its member;
    ``offset`` (A, 3) leads from the node to the axis and ``up`` (A, 3) along the section's height.
    Arms of one ``cluster`` (A,), counted from 0 at each node, meet. ``start`` (N + 1,) parts them
    by nodes.
    """

    node: Index
    member: Index
    entry: Index
    end: Index
    away: Array
    offset: Array
    up: Array
    cluster: Index
    start: Index

    @cached_property
    def side(self) -> Array:
        """Along the section's width (A, 3): side × up = away."""
        return np.cross(self.up, self.away)


def arms_of(structure: Structure, joined: bool = False) -> Arms:
    """All arms of a structure; where all that comes to a node is ``joined`` there, one cluster
    each."""
    path, offsets = structure.path, structure.offsets
    is_first = np.zeros(len(path), bool)
    is_first[offsets[:-1]] = True
    is_last = np.zeros(len(path), bool)
    is_last[offsets[1:] - 1] = True
    away, up = _directions(structure, is_first, is_last)
    end = np.select([is_first, is_last], [0, 1], PASSAGE)
    order = np.argsort(path, kind="stable")
    counts = np.bincount(path, minlength=len(structure.places))
    apart = Arms(
        node=path[order],
        member=structure.member_of_entry[order],
        entry=order.astype(np.int32),
        end=end[order].astype(np.int32),
        away=away[order],
        offset=structure.offset[order],
        up=up[order],
        cluster=np.zeros(len(path), np.int32),
        start=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
    )
    if joined:
        return apart
    sizes = sizes_of(structure, apart)
    cluster = _clusters(apart.start, apart.end, apart.away, apart.up, apart.offset, *sizes)
    return replace(apart, cluster=cluster)


def _directions(
    structure: Structure, is_first: NDArray[np.bool_], is_last: NDArray[np.bool_]
) -> tuple[Array, Array]:
    """Unit directions (P, 3) in which arms leave, entry by entry, and along their heights: of a
    passage those between the segments before and after it."""
    leaving, arriving = tangents(structure.chords, structure.bulge)
    if len(structure.path) == 2 * structure.count:
        away = np.stack([leaving, -arriving], axis=1).reshape(-1, 3)
        return away, np.repeat(structure.up, 2, axis=0)
    after = np.where(is_last, 0, np.cumsum(~is_last) - 1)
    before = np.where(is_first, 0, np.concatenate([[0], after[:-1]]))
    goes_on, came = ~is_last[:, None], ~is_first[:, None]
    onward, arrived = goes_on * leaving[after], came * arriving[before]
    up = goes_on * structure.up[after] + came * structure.up[before]
    return _unit(np.where(goes_on, onward + arrived, -arrived)), _unit(up)


def _unit(vectors: Array) -> Array:
    size = np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
    return np.asarray(vectors / np.maximum(size, 1e-300)[:, None])


def sizes_of(structure: Structure, arms: Arms) -> tuple[Array, NDArray[np.bool_]]:
    """Half the width and height (A, 2) of each arm's section where it is, and whether it is
    round."""
    shapes = [s.shape for s in structure.sections]
    half = np.array([[s.width / 2, s.height / 2] for s in shapes])
    which = structure.section_of[arms.member]
    sizes = half[which] * structure.scale[arms.entry][:, None]
    return sizes, np.array([s.round for s in shapes])[which]


@compiled
def dot(a, b):  # type: ignore[no-untyped-def]
    """Of vectors (3,): the library's is slower than three products."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@compiled
def reach(direction, up, away, half, is_round):  # type: ignore[no-untyped-def]
    """How far a section with half sizes ``half`` (2,) in metres, or a round one (``is_round``),
    reaches along a unit ``direction`` (3,), where the axis leads ``away`` (3,) and the height
    ``up`` (3,)."""
    if is_round:
        return half[1]
    high = abs(dot(direction, up))
    side0 = up[1] * away[2] - up[2] * away[1]
    side1 = up[2] * away[0] - up[0] * away[2]
    side2 = up[0] * away[1] - up[1] * away[0]
    wide = abs(direction[0] * side0 + direction[1] * side1 + direction[2] * side2)
    return wide * half[0] + high * half[1]


@compiled
def _between(p, a, least_a, q, b, least_b, most):  # type: ignore[no-untyped-def]
    """The vector (3,) from the nearest place of the line p + s a, ``least_a`` ≤ s ≤ ``most``, to
    the nearest of q + t b (Ericson, Real-time collision detection, 2005, 5.1.9)."""
    r = p - q
    e, f = dot(a, b), dot(b, r)
    c = dot(a, r)
    square = 1.0 - e * e
    s = (e * f - c) / square if square > 1e-12 else 0.0
    s = min(max(s, least_a), most)
    t = min(max(e * s + f, least_b), most)
    s = min(max(e * t - c, least_a), most)
    return q + t * b - p - s * a


@compiled
def _meet(i, j, end, away, up, offset, half, is_round):  # type: ignore[no-untyped-def]
    """Whether the sections of two arms overlap near their node; of two that run on, at it: laths
    that cross at a slope press on each other beside it, and pass all the same."""
    most = 2.0 * max(half[i].max(), half[j].max())
    least_i = -most if end[i] < 0 else 0.0
    least_j = -most if end[j] < 0 else 0.0
    if end[i] < 0 and end[j] < 0:
        apart = offset[j] - offset[i]
    else:
        apart = _between(offset[i], away[i], least_i, offset[j], away[j], least_j, most)
    size = np.sqrt(dot(apart, apart))
    if size < 1e-9:
        return True
    way = apart / size
    room = reach(way, up[i], away[i], half[i], is_round[i])
    room += reach(way, up[j], away[j], half[j], is_round[j])
    return size < room - TOUCHING


@compiled
def _clusters(start, end, away, up, offset, half, is_round):  # type: ignore[no-untyped-def]
    """Numbers the arms of each node by what they meet, one after the other, in the order in which
    the clusters come."""
    out = np.zeros(len(away), np.int32)
    for n in range(len(start) - 1):
        low, high = start[n], start[n + 1]
        for i in range(low, high):
            out[i] = i - low
        for i in range(low, high):
            for j in range(i + 1, high):
                if out[i] == out[j]:
                    continue
                if _meet(i, j, end, away, up, offset, half, is_round):
                    _renumbered(out, low, high, max(out[i], out[j]), min(out[i], out[j]))
        # Counted without gaps.
        found = 0
        for number in range(high - low):
            if _renumbered(out, low, high, number, found):
                found += 1
    return out


@compiled
def _renumbered(out, low, high, old, new):  # type: ignore[no-untyped-def]
    """Gives all of one number between ``low`` and ``high`` another, and tells whether there were
    any."""
    any_there = False
    for k in range(low, high):
        if out[k] == old:
            out[k] = new
            any_there = True
    return any_there


@dataclass(frozen=True, eq=False)
class Links(Result):
    """Rigid links (L) between clusters at one node: the ``arms`` (L, 2) whose axes they join, and
    the ``way`` (L, 3) from the first's to the second's, in metres."""

    node: Index
    arms: Index
    way: Array


def links_of(arms: Arms) -> Links:
    """What joins the clusters of each node: its first with each of the others, between the arms
    that come first in them."""
    first_of_node = arms.start[arms.node]
    position = np.arange(len(arms.node))
    _, leads = np.unique(np.column_stack([arms.node, arms.cluster]), axis=0, return_index=True)
    others = np.sort(leads[arms.cluster[leads] > 0])
    pairs = np.column_stack([first_of_node[others], position[others]]).astype(np.int32)
    way = arms.offset[pairs[:, 1]] - arms.offset[pairs[:, 0]]
    return Links(arms.node[others], pairs, way)


def set_backs(structure: Structure, arms: Arms, gap: float) -> Array:
    """Set-backs (M, 2) in metres that keep any two members that meet at a node at least ``gap`` (m)
    apart; those that pass are not set back.

    Each pair is looked at in the plane of its axes; each end takes the largest of its pairs.
    """
    half, is_round = sizes_of(structure, arms)
    found = _set_backs(
        arms.start, arms.cluster, arms.end, arms.away, arms.up, arms.offset, half, is_round, gap
    )
    out = np.zeros((structure.count, 2))
    ends = arms.end != PASSAGE
    out[arms.member[ends], arms.end[ends]] = found[ends]
    return out


@compiled
def _set_backs(start, cluster, end, away, up, offset, half, is_round, gap):  # type: ignore[no-untyped-def]
    """Set-backs (A,) of arms; 0 of those that pass."""
    out = np.zeros(len(away))
    to_i, to_j = np.empty(3), np.empty(3)
    for n in range(len(start) - 1):
        for i in range(start[n], start[n + 1]):
            for j in range(i + 1, start[n + 1]):
                if cluster[i] != cluster[j] or (end[i] < 0 and end[j] < 0):
                    continue
                cosine = min(max(dot(away[i], away[j]), -1.0), 1.0)
                sine = max(np.sqrt(1.0 - cosine * cosine), 1e-6)
                for k in range(3):
                    to_j[k] = (away[j, k] - cosine * away[i, k]) / sine
                    to_i[k] = (away[i, k] - cosine * away[j, k]) / sine
                near_i, far_i = _strip(to_j, up[i], away[i], offset[i], half[i], is_round[i])
                near_j, far_j = _strip(to_i, up[j], away[j], offset[j], half[j], is_round[j])
                if end[i] >= 0 and end[j] >= 0:
                    back = clear_start(cosine, sine, near_i, near_j, far_i, far_j, gap)
                    out[i], out[j] = max(out[i], back), max(out[j], back)
                elif end[i] >= 0:
                    out[i] = max(out[i], _at_side(cosine, sine, near_i, far_i, near_j, gap))
                else:
                    out[j] = max(out[j], _at_side(cosine, sine, near_j, far_j, near_i, gap))
    return out


@compiled
def _strip(towards, up, away, offset, half, is_round):  # type: ignore[no-untyped-def]
    """How far an arm reaches from the node ``towards`` another, and away from it."""
    width = reach(towards, up, away, half, is_round)
    lift = dot(towards, offset)
    return max(width + lift, 0.0), max(width - lift, 0.0)


@compiled
def _at_side(cosine, sine, near, far, other, gap):  # type: ignore[no-untyped-def]
    """Where an end stops at the side of a member that passes and reaches ``other`` towards it."""
    side = near if cosine >= 0 else far
    return max((gap + other + side * abs(cosine)) / sine, gap / 2)


@compiled
def clear_start(cosine, sine, near_i, near_j, far_i, far_j, gap):  # type: ignore[no-untyped-def]
    """The least distance from the node at which two ends can start, whose axes meet at an angle of
    that ``cosine`` and ``sine``.

    In the plane of the axes the first is the strip from −``far_i`` to ``near_i`` across its axis,
    ``near_i`` towards the other, cut off square at s, and the second that from −``far_j`` to
    ``near_j``; all in metres. Two convex figures are ``gap`` apart if a strip
    so wide lies between them, and the best strip is square to the line between their nearest
    corners or lies along a side of one. Of what each such strip asks of s the least is enough:

    - along the end of the second: s (1 − cos θ) = gap + r₁ sin θ, for angles of 90° and more;
    - along the side of the second: s sin θ = gap + r₂ + r₁ cos θ, and for angles above 90°, where
      the other corner of the first is nearer, s sin θ = gap + r₂ − f₁ cos θ;
    - between the corners: |s (a₁ − a₂) + r₁ t₁ − r₂ t₂| = gap, where the line between them leaves
      both corners outwards.
    """
    best = np.inf
    for r1, f1, r2 in ((near_i, far_i, near_j), (near_j, far_j, near_i)):
        if cosine <= 0:
            best = min(best, (gap + r1 * sine) / (1 - cosine))
        best = min(best, (gap + r2 + (r1 if cosine > 0 else -f1) * cosine) / sine)
    across, high = -near_j * sine, near_i + near_j * cosine
    middle = (1 - cosine) * across - sine * high
    square = 2 * (1 - cosine)
    root = middle * middle - square * (across * across + high * high - gap * gap)
    if root >= 0 and square > 0:
        s = (-middle + np.sqrt(root)) / square
        x, y = -(s * (1 - cosine) + across), s * sine - high
        if x <= 0 and y >= 0 and x * cosine + y * sine >= 0 and x * sine - y * cosine <= 0:
            best = min(best, s)
    return max(best, gap / 2)
