"""Planes and saddles that cut the ends of members which are welded to each other at a node.

Of two arms that meet, the one of the higher rank (the role's precedence, then the size of the
section) goes before the other. An end that meets

- an equal, is cut by the plane half-way between both: square to a₂ − a₁, through the middle of
  their axes;
- a higher arm at no more than a right angle, or a member that passes, stops at that one's side: the
  plane along its axis that touches its section, or both planes of two legs that bend towards it;
- a higher end at more than a right angle and none of the above, is cut as by an equal, and so is
  that one where it has no equal.

Where saddles are wanted, a tube that stops at the side of one which is no thinner is cut to fit it,
and a column ends under two equals that part over it. At most two planes or saddles cut an end: the
one that takes most of it, and the one that takes most of what that leaves.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .arms import PASSAGE, ArmArrays, Arms, arm_arrays, dot, reach, stretch
from .cuts import ASIDE, CUT, LEVEL, NORMAL, OVER, PLANES, RADIUS, Cuts, cut_over, over_at
from .roles import ROLES, role_number
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
"""Metres that a second cut has to take off somewhere."""
FLUSH = 1e-3
"""Share of its radius by which a tube may reach past the side of the one it fits: those that are
flush with it on one side just fit."""
FLAT = 0.02
"""Of a plane's normal, what has to lie along the axis it cuts: 1.1°."""
PARTS = 0.5
"""Cosine between two ends below which they part from each other, and a column carries both."""
PASSING = 1 << 60
"""Rank of members that pass; all others give way to them."""


AROUND = 24
"""Places round a tube at which it is looked at what a cut leaves."""


def weld_cuts(structure: Structure, arms: Arms, saddles: bool = False) -> tuple[Cuts, Array]:
    """Planes, and where they are wanted ``saddles``, that cut the ends of all ``arms`` that meet in
    their clusters, and the set-backs (M, 2) in metres of ends that are cut square."""
    arrays = arm_arrays(structure, arms)
    rank = _ranks(structure, arms, arrays)
    if saddles:
        _lower_columns(arrays, rank, structure.role[arms.member] == role_number("column"))
    ends = 2 * arms.member.astype(np.int64) + arms.end
    fits = _may_fit(structure, arms, ends) & saddles & arrays.is_round
    found = _weld(arrays, rank, fits)
    # One plane that is square to the axis is an ordinary saw cut, where that is straight.
    is_square = np.einsum("ij,ij->i", found[:, 0, NORMAL], arms.away) < SQUARE - 1
    is_square &= ~found[:, 1].any(axis=1) & (found[:, 0, RADIUS] == 0)
    is_square &= structure.straight_ends[ends]
    back = np.zeros(2 * structure.count)
    back[ends[is_square]] = -found[is_square, 0, LEVEL]
    found[is_square] = 0.0
    row, slot = np.nonzero(found.any(axis=2))
    order = np.lexsort((slot, ends[row]))
    row, slot = row[order], slot[order]
    return Cuts.of_rows(ends[row].astype(np.int32), found[row, slot]), back.reshape(-1, 2)


def _ranks(structure: Structure, arms: Arms, arrays: ArmArrays) -> NDArray[np.int64]:
    """By which arms (A,) go before others; those that pass before all."""
    precedence = np.array([role.precedence for role in ROLES.values()])[structure.role]
    # Sections of one role that differ by less than a tenth of a millimetre are equals.
    size = np.round(2e4 * arrays.half.sum(axis=1)).astype(np.int64)
    rank = precedence[arms.member].astype(np.int64) * (1 << 40) + size
    rank[arms.end == PASSAGE] = PASSING
    return np.asarray(rank, np.int64)


def _may_fit(structure: Structure, arms: Arms, ends: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which arms (A,) are straight and do not swell, so that a saddle fits them."""
    bent = np.abs(structure.bulge).any(axis=1)
    has_arc = np.bincount(structure.member_of_segment, bent, minlength=structure.count) > 0
    straight = np.where(arms.end == PASSAGE, ~has_arc[arms.member], structure.straight_ends[ends])
    return np.asarray(straight & ~structure.is_uneven[arms.member])


@compiled
def _lower_columns(arms, rank, is_column):  # type: ignore[no-untyped-def]
    """Puts the rank of columns that end at a node below that of two equals that part there."""
    for n in range(len(arms.start) - 1):
        low, high = arms.start[n], arms.start[n + 1]
        for i in range(low, high):
            if not is_column[i] or arms.end[i] < 0:
                continue
            for j in range(low, high):
                for k in range(j + 1, high):
                    equal = rank[j] == rank[k] and not (is_column[j] or is_column[k])
                    if equal and dot(arms.away[j], arms.away[k]) < PARTS:
                        rank[i] = min(rank[i], rank[j] - 1)


@compiled
def _weld(arms, rank, fits):  # type: ignore[no-untyped-def]
    """What cuts ends (A, 2, CUT), of tubes that a saddle ``fits`` (A,) with saddles."""
    start, count = arms.start, len(arms.away)
    out = np.zeros((count, PLANES, CUT))
    # Of each other arm a cut, and of one that passes two.
    most = 2 * (start[1:] - start[:-1]).max() if len(start) > 1 else 0
    found, over = np.empty((most, CUT)), np.empty((most, OVER))
    for n in range(len(start) - 1):
        for i in range(start[n], start[n + 1]):
            if arms.end[i] >= 0:
                found[:] = 0.0
                several = _cuts_of(arms, rank, fits, i, start[n], start[n + 1], found)
                _keep_two(arms, i, found, several, over, out[i])
    return out


@compiled
def _cuts_of(arms, rank, fits, i, low, high, found):  # type: ignore[no-untyped-def]
    """Enters all that could cut end ``i`` of a node's arms ``low`` to ``high``, and counts it."""
    count = 0
    held = _is_held(arms, rank, i, low, high)
    for j in range(low, high):
        if j == i or arms.cluster[i] != arms.cluster[j]:
            continue
        if arms.end[j] < 0:
            count += _beside(arms, fits, i, j, found[count:])
            continue
        cosine = dot(arms.away[i], arms.away[j])
        if cosine > 1.0 - PARALLEL**2 / 2:
            continue
        if rank[i] == rank[j]:
            count += _half_way(arms, i, j, found[count])
        elif rank[j] > rank[i] and cosine >= -RIGHT:
            away, up = arms.away[j], arms.up[j]
            count += _at_side(arms, fits, i, j, away, up, 1.0, found[count])
        elif not held and (rank[j] > rank[i] or not _is_held(arms, rank, j, low, high)):
            count += _half_way(arms, i, j, found[count])
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
def _half_way(arms, i, j, found):  # type: ignore[no-untyped-def]
    """Enters the plane half-way between two arms and tells that there is one."""
    for c in range(3):
        found[c] = arms.away[j, c] - arms.away[i, c]
    size = np.sqrt(dot(found, found))
    for c in range(3):
        found[c] /= size
    if dot(found, arms.away[i]) > -FLAT:
        return 0
    found[LEVEL] = (dot(found, arms.offset[j]) - dot(found, arms.offset[i])) / 2
    return 1


@compiled
def _beside(arms, fits, i, j, found):  # type: ignore[no-untyped-def]
    """Enters the planes along the sides of arm ``j``, which passes: those of the legs that arm
    ``i`` leans to, or one at the corner between both. Tells how many there are."""
    count, leans = 0, False
    for leg in range(2):
        away = arms.legs[j, leg]
        if dot(arms.away[i], away) < -RIGHT:
            continue
        leans = True
        up = arms.leg_up[j, leg]
        count += _at_side(arms, fits, i, j, away, up, 1.0, found[count])
    if leans:
        return count
    further = stretch(arms.legs[j])
    return _at_side(arms, fits, i, j, arms.away[j], arms.up[j], further, found[0])


@compiled
def _at_side(arms, fits, i, j, away, up, further, found):  # type: ignore[no-untyped-def]
    """Enters the plane along the side of arm ``j`` that faces arm ``i``, or the saddle on it, and
    tells that there is one; arm ``j`` leads ``away`` with its height ``up``, and reaches so many
    times ``further``."""
    cosine = dot(arms.away[i], away)
    if 1.0 - abs(cosine) < PARALLEL**2 / 2:
        return 0
    for c in range(3):
        found[c] = cosine * away[c] - arms.away[i, c]
    size = np.sqrt(dot(found, found))
    for c in range(3):
        found[c] /= size
    if dot(found, arms.away[i]) > -FLAT:
        return 0
    # A section reaches as far either way.
    side = further * reach(found, up, away, arms.half[j], arms.is_round[j])
    found[LEVEL] = dot(found, arms.offset[j]) - dot(found, arms.offset[i]) - side
    if fits[i] and fits[j] and further == 1.0:
        _fit(arms, i, j, away, found)
    return 1


@compiled
def _fit(arms, i, j, away, found):  # type: ignore[no-untyped-def]
    """Makes the plane along the side of tube ``j``, which leads ``away``, a saddle, where all of
    tube ``i`` meets it."""
    x = away[1] * found[2] - away[2] * found[1]
    y = away[2] * found[0] - away[0] * found[2]
    z = away[0] * found[1] - away[1] * found[0]
    apart = arms.offset[j] - arms.offset[i]
    aside = x * apart[0] + y * apart[1] + z * apart[2]
    if arms.half[i, 1] + abs(aside) <= arms.half[j, 1] * (1 + FLUSH):
        found[4], found[5], found[6] = away[0], away[1], away[2]
        found[RADIUS], found[ASIDE] = arms.half[j, 1], aside


@compiled
def _keep_two(arms, i, found, count, over, out):  # type: ignore[no-untyped-def]
    """Keeps of all ``found`` for an end what takes most of it, and what takes most of what that
    leaves. ``over`` is room for how far they take a section."""
    if count == 0:
        return
    half, is_round = arms.half[i], arms.is_round[i]
    away, up = arms.away[i], arms.up[i]
    first, second, most = 0, -1, -np.inf
    for k in range(count):
        cut_over(found[k], away, up, over[k])
        value = _most(over[k], half, is_round)
        if value > most + 1e-9:
            first, most = k, value
    most = LEAST_GAIN
    for k in range(count):
        value = _gain(over[first], over[k], half, is_round)
        if k != first and value > most + 1e-9:
            second, most = k, value
    out[0] = found[first]
    if second >= 0:
        out[1] = found[second]


@compiled
def _most(over, half, is_round):  # type: ignore[no-untyped-def]
    """Most that a cut takes of a section."""
    if over[3] > 0:
        return _around(over, np.zeros(OVER), half[1])
    return over[0] + _beyond(over[1], over[2], half, is_round)


@compiled
def _gain(first, other, half, is_round):  # type: ignore[no-untyped-def]
    """Most that another cut takes of what the ``first`` leaves of a section."""
    if first[3] > 0 or other[3] > 0:
        return _around(other, first, half[1])
    wide, high = other[1] - first[1], other[2] - first[2]
    return other[0] - first[0] + _beyond(wide, high, half, is_round)


@compiled
def _around(over, less, radius):  # type: ignore[no-untyped-def]
    """Most that a cut takes of a tube's rim, ``less`` what another does."""
    most = -np.inf
    for k in range(AROUND):
        wide = radius * np.sin(2 * np.pi * k / AROUND)
        high = radius * np.cos(2 * np.pi * k / AROUND)
        most = max(most, over_at(over, wide, high) - over_at(less, wide, high))
    return most


@compiled
def _beyond(wide, high, half, is_round):  # type: ignore[no-untyped-def]
    """Most that a plane adds to its value on the axis, over a section, by what a metre of its
    width and height adds."""
    if is_round:
        return half[1] * np.sqrt(wide * wide + high * high)
    return abs(wide) * half[0] + abs(high) * half[1]
