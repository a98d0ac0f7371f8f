"""Planes that cut the ends of members which are welded to each other at a node.

Of two arms that meet, the one of the higher rank (the role's precedence, then the size of the
section) goes before the other. An end that meets

- an equal, is cut by the plane half-way between both: square to a₂ − a₁, through the middle of
  their axes;
- a higher arm at no more than a right angle, or a member that passes, stops at that one's side: the
  plane along its axis that touches its section, or both planes of two legs that bend towards it;
- a higher end at more than a right angle and none of the above, is cut as by an equal, and so is
  that one where it has no equal.

At most two planes cut an end: the one that takes most of it, and the one that takes most of what
that leaves.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .arms import PASSAGE, Arms, arm_arrays, dot, reach, stretch
from .cuts import PLANES, Cuts, plane_over
from .roles import ROLES
from .structure import Structure

__all__ = ["weld_cuts"]

Array = NDArray[np.float64]

RIGHT = 1e-6
"""Cosine below which an angle counts as a right one."""
PARALLEL = 1e-4
"""Sine below which two arms are of one direction and no plane lies between them."""
SQUARE = 1e-10
"""By which the cosine to an axis may be less than 1 for a plane to be square to it."""
LEAST_GAIN = 1e-4
"""Metres that a second plane has to take off somewhere."""
FLAT = 0.02
"""Of a plane's normal, what has to lie along the axis it cuts: 1.1°."""
PASSING = 1 << 60
"""Rank of members that pass; all others give way to them."""


def weld_cuts(structure: Structure, arms: Arms) -> tuple[Cuts, Array]:
    """Planes that cut the ends of all ``arms`` that meet in their clusters, and the set-backs
    (M, 2) in metres of ends that are cut square."""
    arrays = arm_arrays(structure, arms)
    precedence = np.array([role.precedence for role in ROLES.values()])[structure.role]
    # Sections of one role that differ by less than a tenth of a millimetre are equals.
    size = np.round(2e4 * arrays.half.sum(axis=1)).astype(np.int64)
    rank = precedence[arms.member].astype(np.int64) * (1 << 40) + size
    rank[arms.end == PASSAGE] = PASSING
    normals, levels = _weld(arrays, rank)
    ends = 2 * arms.member.astype(np.int64) + arms.end
    # One plane that is square to the axis is an ordinary saw cut, where that is straight.
    is_square = np.einsum("ij,ij->i", normals[:, 0], arms.away) < SQUARE - 1
    is_square &= ~normals[:, 1].any(axis=1) & structure.straight_ends[ends]
    back = np.zeros(2 * structure.count)
    back[ends[is_square]] = -levels[is_square, 0]
    normals[is_square] = 0.0
    row, slot = np.nonzero((normals != 0).any(axis=2))
    order = np.lexsort((slot, ends[row]))
    row, slot = row[order], slot[order]
    cuts = Cuts(ends[row].astype(np.int32), normals[row, slot], levels[row, slot])
    return cuts, back.reshape(-1, 2)


@compiled
def _weld(arms, rank):  # type: ignore[no-untyped-def]
    """Normals (A, 2, 3) and levels (A, 2) of planes that cut ends."""
    start, count = arms.start, len(arms.away)
    normals, levels = np.zeros((count, PLANES, 3)), np.zeros((count, PLANES))
    # Of each other arm a plane, and of one that passes two.
    most = 2 * (start[1:] - start[:-1]).max() if len(start) > 1 else 0
    found, level, planes = np.empty((most, 3)), np.empty(most), np.empty((most, 3))
    for n in range(len(start) - 1):
        for i in range(start[n], start[n + 1]):
            if arms.end[i] >= 0:
                several = _planes_of(arms, rank, i, start[n], start[n + 1], found, level)
                _keep_two(arms, i, found, level, several, planes, normals[i], levels[i])
    return normals, levels


@compiled
def _planes_of(arms, rank, i, low, high, found, level):  # type: ignore[no-untyped-def]
    """Enters all planes that could cut end ``i`` of a node's arms ``low`` to ``high``, and counts
    them."""
    count = 0
    held = _is_held(arms, rank, i, low, high)
    for j in range(low, high):
        if j == i or arms.cluster[i] != arms.cluster[j]:
            continue
        if arms.end[j] < 0:
            count += _beside(arms, i, j, found, level, count)
            continue
        cosine = dot(arms.away[i], arms.away[j])
        if cosine > 1.0 - PARALLEL**2 / 2:
            continue
        if rank[i] == rank[j]:
            count += _half_way(arms, i, j, found, level, count)
        elif rank[j] > rank[i] and cosine >= -RIGHT:
            away, up = arms.away[j], arms.up[j]
            count += _at_side(arms, i, j, away, up, 1.0, found, level, count)
        elif not held and (rank[j] > rank[i] or not _is_held(arms, rank, j, low, high)):
            count += _half_way(arms, i, j, found, level, count)
    return count


@compiled
def _is_held(arms, rank, i, low, high):  # type: ignore[no-untyped-def]
    """Whether an end meets an equal, or a higher arm at no more than a right angle."""
    for j in range(low, high):
        if j == i or arms.cluster[i] != arms.cluster[j]:
            continue
        if rank[j] == rank[i]:
            return True
        passes = rank[j] == PASSING
        if rank[j] > rank[i] and (passes or dot(arms.away[i], arms.away[j]) >= -RIGHT):
            return True
    return False


@compiled
def _half_way(arms, i, j, found, level, k):  # type: ignore[no-untyped-def]
    """Enters the plane half-way between two arms and tells that there is one."""
    for c in range(3):
        found[k, c] = arms.away[j, c] - arms.away[i, c]
    size = np.sqrt(dot(found[k], found[k]))
    for c in range(3):
        found[k, c] /= size
    if dot(found[k], arms.away[i]) > -FLAT:
        return 0
    level[k] = (dot(found[k], arms.offset[j]) - dot(found[k], arms.offset[i])) / 2
    return 1


@compiled
def _beside(arms, i, j, found, level, k):  # type: ignore[no-untyped-def]
    """Enters the planes along the sides of arm ``j``, which passes: those of the legs that arm
    ``i`` leans to, or one at the corner between both. Tells how many there are."""
    count, leans = 0, False
    for leg in range(2):
        away = arms.legs[j, leg]
        if dot(arms.away[i], away) < -RIGHT:
            continue
        leans = True
        up = arms.leg_up[j, leg]
        count += _at_side(arms, i, j, away, up, 1.0, found, level, k + count)
    if leans:
        return count
    further = stretch(arms.legs[j])
    return _at_side(arms, i, j, arms.away[j], arms.up[j], further, found, level, k)


@compiled
def _at_side(arms, i, j, away, up, further, found, level, k):  # type: ignore[no-untyped-def]
    """Enters the plane along the side of arm ``j`` that faces arm ``i`` and tells that there is
    one; arm ``j`` leads ``away`` with its height ``up``, and reaches so many times ``further``."""
    cosine = dot(arms.away[i], away)
    if 1.0 - abs(cosine) < PARALLEL**2 / 2:
        return 0
    for c in range(3):
        found[k, c] = cosine * away[c] - arms.away[i, c]
    size = np.sqrt(dot(found[k], found[k]))
    for c in range(3):
        found[k, c] /= size
    if dot(found[k], arms.away[i]) > -FLAT:
        return 0
    # A section reaches as far either way.
    side = further * reach(found[k], up, away, arms.half[j], arms.is_round[j])
    level[k] = dot(found[k], arms.offset[j]) - dot(found[k], arms.offset[i]) - side
    return 1


@compiled
def _keep_two(arms, i, found, level, count, planes, normals, levels):  # type: ignore[no-untyped-def]
    """Keeps of the planes found for an end the one that takes most of it, and the one that takes
    most of what that leaves. ``planes`` is room for how far they take a section."""
    if count == 0:
        return
    half, is_round = arms.half[i], arms.is_round[i]
    away, up = arms.away[i], arms.up[i]
    first, second, most = 0, -1, -np.inf
    for k in range(count):
        planes[k] = plane_over(found[k], level[k], away, up)
        value = planes[k, 0] + _over(planes[k, 1], planes[k, 2], half, is_round)
        if value > most + 1e-9:
            first, most = k, value
    most = LEAST_GAIN
    for k in range(count):
        wide, high = planes[k, 1] - planes[first, 1], planes[k, 2] - planes[first, 2]
        value = planes[k, 0] - planes[first, 0] + _over(wide, high, half, is_round)
        if k != first and value > most + 1e-9:
            second, most = k, value
    normals[0], levels[0] = found[first], level[first]
    if second >= 0:
        normals[1], levels[1] = found[second], level[second]


@compiled
def _over(wide, high, half, is_round):  # type: ignore[no-untyped-def]
    """Most that a plane adds to its value on the axis, over a section, by what a metre of its
    width and height adds."""
    if is_round:
        return half[1] * np.sqrt(wide * wide + high * high)
    return abs(wide) * half[0] + abs(high) * half[1]
