"""Planes that cut the ends of members which are welded to each other at a node.

Of two arms that meet, the one of the higher rank (the role's precedence, then the size of the
section) goes before the other. An end that meets

- an equal, is cut by the plane half-way between both: square to a₂ − a₁, through the middle of
  their axes;
- a higher arm at no more than a right angle, or a member that passes, stops at that one's side: the
  plane along its axis that touches its section;
- a higher end at more than a right angle and none of the above, is cut as by an equal, and so is
  that one where it has no equal.

At most two planes cut an end: the one that takes most of it, and the one that takes most of what
that leaves.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .arms import PASSAGE, Arms, dot, reach, sizes_of
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


def weld_cuts(structure: Structure, arms: Arms) -> tuple[Cuts, Array]:
    """Planes that cut the ends of all ``arms`` that meet in their clusters, and the set-backs
    (M, 2) in metres of ends that are cut square."""
    half, is_round = sizes_of(structure, arms)
    precedence = np.array([role.precedence for role in ROLES.values()])[structure.role]
    # Sections of one role that differ by less than a tenth of a millimetre are equals.
    size = np.round(2e4 * half.sum(axis=1)).astype(np.int64)
    rank = precedence[arms.member].astype(np.int64) * (1 << 40) + size
    rank[arms.end == PASSAGE] = 1 << 60
    normals, levels = _weld(
        arms.start, arms.cluster, arms.end, arms.away, arms.up, arms.offset, half, is_round, rank
    )
    ends = 2 * arms.member.astype(np.int64) + arms.end
    # One plane that is square to the axis is an ordinary saw cut.
    is_square = np.einsum("ij,ij->i", normals[:, 0], arms.away) < SQUARE - 1
    is_square &= ~normals[:, 1].any(axis=1)
    back = np.zeros(2 * structure.count)
    back[ends[is_square]] = -levels[is_square, 0]
    normals[is_square] = 0.0
    row, slot = np.nonzero((normals != 0).any(axis=2))
    order = np.lexsort((slot, ends[row]))
    row, slot = row[order], slot[order]
    cuts = Cuts(ends[row].astype(np.int32), normals[row, slot], levels[row, slot])
    return cuts, back.reshape(-1, 2)


@compiled
def _weld(  # type: ignore[no-untyped-def]
    start, cluster, end, away, up, offset, half, is_round, rank
):
    """Normals (A, 2, 3) and levels (A, 2) of planes that cut ends."""
    normals, levels = np.zeros((len(away), PLANES, 3)), np.zeros((len(away), PLANES))
    most = (start[1:] - start[:-1]).max() if len(start) > 1 else 0
    found, level, planes = np.empty((most, 3)), np.empty(most), np.empty((most, 3))
    for n in range(len(start) - 1):
        low, high = start[n], start[n + 1]
        for i in range(low, high):
            if end[i] < 0:
                continue
            count = _planes_of(
                i, low, high, cluster, end, away, up, offset, half, is_round, rank, found, level
            )
            _keep_two(i, found, level, count, planes, away, up, half, is_round, normals, levels)
    return normals, levels


@compiled
def _planes_of(  # type: ignore[no-untyped-def]
    i, low, high, cluster, end, away, up, offset, half, is_round, rank, found, level
):
    """Enters all planes that could cut end ``i`` of a node's arms ``low`` to ``high``, and counts
    them."""
    count = 0
    held = _is_held(i, low, high, cluster, away, rank)
    for j in range(low, high):
        if j == i or cluster[i] != cluster[j]:
            continue
        cosine = dot(away[i], away[j])
        if 1.0 - abs(cosine) < PARALLEL**2 / 2 and (cosine > 0 or end[j] < 0):
            continue
        if rank[i] == rank[j]:
            count += _half_way(i, j, away, offset, found, level, count)
        elif rank[j] > rank[i] and (end[j] < 0 or cosine >= -RIGHT):
            count += _at_side(i, j, away, up, offset, half, is_round, found, level, count)
        elif not held and (rank[j] > rank[i] or not _is_held(j, low, high, cluster, away, rank)):
            count += _half_way(i, j, away, offset, found, level, count)
    return count


@compiled
def _is_held(i, low, high, cluster, away, rank):  # type: ignore[no-untyped-def]
    """Whether an end meets an equal, or a higher arm at no more than a right angle."""
    for j in range(low, high):
        if j == i or cluster[i] != cluster[j]:
            continue
        if rank[j] == rank[i]:
            return True
        passes = rank[j] == 1 << 60
        if rank[j] > rank[i] and (passes or dot(away[i], away[j]) >= -RIGHT):
            return True
    return False


@compiled
def _half_way(i, j, away, offset, found, level, k):  # type: ignore[no-untyped-def]
    """Enters the plane half-way between two arms and tells that there is one."""
    for c in range(3):
        found[k, c] = away[j, c] - away[i, c]
    size = np.sqrt(dot(found[k], found[k]))
    for c in range(3):
        found[k, c] /= size
    if dot(found[k], away[i]) > -FLAT:
        return 0
    level[k] = (dot(found[k], offset[j]) - dot(found[k], offset[i])) / 2
    return 1


@compiled
def _at_side(  # type: ignore[no-untyped-def]
    i, j, away, up, offset, half, is_round, found, level, k
):
    """Enters the plane along the side of arm ``j`` that faces arm ``i`` and tells that there is
    one."""
    cosine = dot(away[i], away[j])
    for c in range(3):
        found[k, c] = cosine * away[j, c] - away[i, c]
    size = np.sqrt(dot(found[k], found[k]))
    for c in range(3):
        found[k, c] /= size
    if dot(found[k], away[i]) > -FLAT:
        return 0
    # A section reaches as far either way.
    side = reach(found[k], up[j], away[j], half[j], is_round[j])
    level[k] = dot(found[k], offset[j]) - dot(found[k], offset[i]) - side
    return 1


@compiled
def _keep_two(  # type: ignore[no-untyped-def]
    i, found, level, count, planes, away, up, half, is_round, normals, levels
):
    """Keeps of the planes found for an end the one that takes most of it, and the one that takes
    most of what that leaves. ``planes`` is room for how far they take a section."""
    if count == 0:
        return
    first, second, most = 0, -1, -np.inf
    for k in range(count):
        planes[k, 0], planes[k, 1], planes[k, 2] = plane_over(found[k], level[k], away[i], up[i])
        value = planes[k, 0] + _over(planes[k, 1], planes[k, 2], half[i], is_round[i])
        if value > most + 1e-9:
            first, most = k, value
    most = LEAST_GAIN
    for k in range(count):
        across = _over(
            planes[k, 1] - planes[first, 1], planes[k, 2] - planes[first, 2], half[i], is_round[i]
        )
        value = planes[k, 0] - planes[first, 0] + across
        if k != first and value > most + 1e-9:
            second, most = k, value
    normals[i, 0], levels[i, 0] = found[first], level[first]
    if second >= 0:
        normals[i, 1], levels[i, 1] = found[second], level[second]


@compiled
def _over(wide, high, half, is_round):  # type: ignore[no-untyped-def]
    """Most that a plane adds to its value on the axis, over a section, by what a metre of its
    width and height adds."""
    if is_round:
        return half[1] * np.sqrt(wide * wide + high * high)
    return abs(wide) * half[0] + abs(high) * half[1]
