"""Arms: every end and passage of a member at a node, those that meet, and how far they stand back.

The kernels look at pairs of arms at a node. In the plane of a pair's axes a member is a strip as wide
as its section reaches, to which the offset of its axis from the node is added: ``near`` towards
the other, ``far`` away from it. Two ends stop where they are a gap apart (``clear_start``); an end
at a member that passes stops at that one's side, s = (gap + r₂ + r₁ cos θ) / sin θ. What passes may
bend at the node: the side is that of each of its two legs which the end leans to, and where it
leans to neither, of both legs' mean, r₂ from its axis divided by the cosine of half the bend, as
far as the corner between them reaches.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.arcs import tangents, unit
from ..results import Result
from .structure import Structure

__all__ = [
    "PASSAGE",
    "ArmArrays",
    "Arms",
    "Links",
    "arm_arrays",
    "arms_of",
    "between",
    "clear_start",
    "dot",
    "links_of",
    "reach",
    "set_backs",
    "sizes_of",
    "stretch",
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
    A passage leaves both ways: ``legs`` and ``leg_up`` (A, 2, 3) are its directions onward and
    back, and the heights there; of ends 0, and without rows where nothing passes anywhere.
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
    legs: Array
    leg_up: Array
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
    legs, leg_up = _legs(structure, is_first | is_last)
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
        legs=legs[order] if len(legs) else legs,
        leg_up=leg_up[order] if len(legs) else leg_up,
        cluster=np.zeros(len(path), np.int32),
        start=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
    )
    if joined:
        return apart
    return replace(apart, cluster=_clusters(arm_arrays(structure, apart)))


def _directions(
    structure: Structure, is_first: NDArray[np.bool_], is_last: NDArray[np.bool_]
) -> tuple[Array, Array]:
    """Unit directions (P, 3) in which arms leave, entry by entry, and along their heights: of a
    passage those between the segments before and after it."""
    leaving, arriving = tangents(structure.chords, structure.bulge)
    if len(structure.path) == 2 * structure.count:
        away = np.stack([leaving, -arriving], axis=1).reshape(-1, 3)
        return away, np.stack(structure.heights, axis=1).reshape(-1, 3)
    after = np.where(is_last, 0, np.cumsum(~is_last) - 1)
    before = np.where(is_first, 0, np.concatenate([[0], after[:-1]]))
    goes_on, came = ~is_last[:, None], ~is_first[:, None]
    onward, arrived = goes_on * leaving[after], came * arriving[before]
    starts, ends = structure.heights
    up = unit(goes_on * starts[after] + came * ends[before])
    return unit(np.where(goes_on, onward + arrived, -arrived)), up


def _legs(structure: Structure, is_end: NDArray[np.bool_]) -> tuple[Array, Array]:
    """Unit directions (P, 2, 3) in which members run on from their inner entries and back, and
    their heights there; 0 at ends, and no rows where no entry is an inner one."""
    inner = np.flatnonzero(~is_end)
    legs, leg_up = np.zeros((2, len(is_end) if len(inner) else 0, 2, 3))
    if len(inner):
        leaving, arriving = tangents(structure.chords, structure.bulge)
        after = np.searchsorted(structure.first_entry, inner)
        legs[inner] = np.stack([leaving[after], -arriving[after - 1]], axis=1)
        starts, ends = structure.heights
        leg_up[inner] = np.stack([starts[after], ends[after - 1]], axis=1)
    return legs, leg_up


def sizes_of(structure: Structure, arms: Arms) -> tuple[Array, NDArray[np.bool_]]:
    """Half the width and height (A, 2) of each arm's section where it is, and whether it is
    round."""
    shapes = [s.shape for s in structure.sections]
    half = np.array([[s.width / 2, s.height / 2] for s in shapes])
    which = structure.section_of[arms.member]
    sizes = half[which] * structure.scale[arms.entry][:, None]
    return sizes, np.array([s.round for s in shapes])[which]


class ArmArrays(NamedTuple):
    """What kernels look at of arms (A): the fields of ``Arms``, and of the sections there half the
    width and height, ``half`` (A, 2) in metres, and whether they are round."""

    start: Index
    cluster: Index
    end: Index
    away: Array
    up: Array
    legs: Array
    leg_up: Array
    offset: Array
    half: Array
    is_round: NDArray[np.bool_]


def arm_arrays(structure: Structure, arms: Arms) -> ArmArrays:
    """The ``arms`` of a structure as kernels take them."""
    half, is_round = sizes_of(structure, arms)
    return ArmArrays(
        arms.start,
        arms.cluster,
        arms.end,
        arms.away,
        arms.up,
        arms.legs,
        arms.leg_up,
        arms.offset,
        half,
        is_round,
    )


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
def between(p, a, least_a, q, b, least_b, most):  # type: ignore[no-untyped-def]
    """The vector (3,) from the nearest place of one line to the nearest of another (Ericson,
    Real-time collision detection, 2005, 5.1.9).

    Parameters
    ----------
    p, a, q, b : (3,) places and unit directions of the lines p + s a and q + t b
    least_a, least_b, most : least_a ≤ s ≤ most, and least_b ≤ t ≤ most
    """
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
def _meet(arms, i, j):  # type: ignore[no-untyped-def]
    """Whether the sections of two arms overlap near their node; of two that run on, at it: laths
    that cross at a slope press on each other beside it, and pass all the same."""
    if arms.end[i] < 0 and arms.end[j] < 0:
        apart = arms.offset[j] - arms.offset[i]
        return _overlap(arms, i, arms.away[i], arms.up[i], j, arms.away[j], arms.up[j], apart)
    if arms.end[i] < 0:
        i, j = j, i
    if arms.end[j] >= 0:
        return _near(arms, i, j, arms.away[j], arms.up[j])
    onward = _near(arms, i, j, arms.legs[j, 0], arms.leg_up[j, 0])
    return onward or _near(arms, i, j, arms.legs[j, 1], arms.leg_up[j, 1])


@compiled
def _near(arms, i, j, away, up):  # type: ignore[no-untyped-def]
    """Whether the section of end ``i`` overlaps near its node that of arm ``j``, which leads
    ``away`` with its height ``up``."""
    most = 2.0 * max(arms.half[i].max(), arms.half[j].max())
    apart = between(arms.offset[i], arms.away[i], 0.0, arms.offset[j], away, 0.0, most)
    return _overlap(arms, i, arms.away[i], arms.up[i], j, away, up, apart)


@compiled
def _overlap(arms, i, away_i, up_i, j, away_j, up_j, apart):  # type: ignore[no-untyped-def]
    """Whether sections overlap whose axes lie ``apart`` (3,)."""
    size = np.sqrt(dot(apart, apart))
    if size < 1e-9:
        return True
    way = apart / size
    room = reach(way, up_i, away_i, arms.half[i], arms.is_round[i])
    room += reach(way, up_j, away_j, arms.half[j], arms.is_round[j])
    return size < room - TOUCHING


@compiled
def _clusters(arms):  # type: ignore[no-untyped-def]
    """Numbers the arms of each node by what they meet, one after the other, in the order in which
    the clusters come."""
    out = np.zeros(len(arms.away), np.int32)
    for n in range(len(arms.start) - 1):
        low, high = arms.start[n], arms.start[n + 1]
        for i in range(low, high):
            out[i] = i - low
        for i in range(low, high):
            for j in range(i + 1, high):
                if out[i] != out[j] and _meet(arms, i, j):
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
    found = _set_backs(arm_arrays(structure, arms), gap)
    out = np.zeros((structure.count, 2))
    ends = arms.end != PASSAGE
    out[arms.member[ends], arms.end[ends]] = found[ends]
    return out


@compiled
def _set_backs(arms, gap):  # type: ignore[no-untyped-def]
    """Set-backs (A,) of arms; 0 of those that pass."""
    out = np.zeros(len(arms.away))
    to_i, to_j = np.empty(3), np.empty(3)
    for n in range(len(arms.start) - 1):
        for i in range(arms.start[n], arms.start[n + 1]):
            for j in range(i + 1, arms.start[n + 1]):
                if arms.cluster[i] != arms.cluster[j]:
                    continue
                if arms.end[i] >= 0 and arms.end[j] >= 0:
                    back = _apart(arms, i, j, gap, to_i, to_j)
                    out[i], out[j] = max(out[i], back), max(out[j], back)
                elif arms.end[i] >= 0:
                    out[i] = max(out[i], _beside(arms, i, j, gap, to_i, to_j))
                elif arms.end[j] >= 0:
                    out[j] = max(out[j], _beside(arms, j, i, gap, to_j, to_i))
    return out


@compiled
def _apart(arms, i, j, gap, to_i, to_j):  # type: ignore[no-untyped-def]
    """Where two ends stop; the last two are room for the directions towards each."""
    cosine, sine = _towards(arms.away[i], arms.away[j], to_i, to_j)
    near_i, far_i = _strip(arms, i, to_j, arms.away[i], arms.up[i])
    near_j, far_j = _strip(arms, j, to_i, arms.away[j], arms.up[j])
    return clear_start(cosine, sine, near_i, near_j, far_i, far_j, gap)


@compiled
def _beside(arms, i, j, gap, to_i, to_j):  # type: ignore[no-untyped-def]
    """Where end ``i`` stops beside arm ``j``, which passes: clear of each leg that it leans to, or
    of the corner between both."""
    back, leans = 0.0, False
    for leg in range(2):
        away = arms.legs[j, leg]
        if dot(arms.away[i], away) < 0:
            continue
        leans = True
        cosine, sine = _towards(arms.away[i], away, to_i, to_j)
        near_i, far_i = _strip(arms, i, to_j, arms.away[i], arms.up[i])
        near_j, _ = _strip(arms, j, to_i, away, arms.leg_up[j, leg])
        back = max(back, _at_side(cosine, sine, near_i, far_i, near_j, gap))
    if leans:
        return back
    cosine, sine = _towards(arms.away[i], arms.away[j], to_i, to_j)
    near_i, far_i = _strip(arms, i, to_j, arms.away[i], arms.up[i])
    near_j, _ = _strip(arms, j, to_i, arms.away[j], arms.up[j])
    return _at_side(cosine, sine, near_i, far_i, near_j * stretch(arms.legs[j]), gap)


@compiled
def stretch(legs):  # type: ignore[no-untyped-def]
    """How much further than its side the outer corner of a member is that bends between its
    ``legs`` (2, 3): 1 / cos of half the bend."""
    along = legs[0] - legs[1]
    return 2.0 / max(np.sqrt(dot(along, along)), 1e-6)


@compiled
def _towards(a, b, to_a, to_b):  # type: ignore[no-untyped-def]
    """Cosine and sine of the angle between two unit directions; fills in which way each of them
    leads off the other."""
    cosine = min(max(dot(a, b), -1.0), 1.0)
    sine = max(np.sqrt(1.0 - cosine * cosine), 1e-6)
    for k in range(3):
        to_b[k] = (b[k] - cosine * a[k]) / sine
        to_a[k] = (a[k] - cosine * b[k]) / sine
    return cosine, sine


@compiled
def _strip(arms, i, towards, away, up):  # type: ignore[no-untyped-def]
    """How far an arm that leads ``away`` reaches from the node ``towards`` another, and from
    that."""
    width = reach(towards, up, away, arms.half[i], arms.is_round[i])
    lift = dot(towards, arms.offset[i])
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
