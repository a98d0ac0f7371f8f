"""Lintels: the blocks over an opening in courses, joined to one that rests on both sides of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .courses import Laying, Run

__all__ = ["Lintel", "NoBearing", "with_lintel"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
LEVELS = 9
"""Places in the height of each course at which an opening is looked for."""
FINER = 4
"""Places a step along each course at which it is."""
DEPTH = 0.5
"""Share of a course that has to be left above an opening for the lintel to be in it alone."""


class NoBearing(ValueError):
    """An opening leaves nothing on both sides for a lintel to rest on."""


class Lintel(NamedTuple):
    """How one lies: the courses it goes through, its ``width`` in metres along its course, and the
    ``top`` (3,) of the opening."""

    course: int
    upto: int
    width: float
    top: Array


def with_lintel(
    laying: Laying, run: Run, inside: Callable[[Array], NDArray[np.bool_]], bearing: float
) -> tuple[Run, Lintel | None]:
    """A run whose blocks over an opening are one, and how that lies; the same and ``None`` where
    the opening meets nothing, or leaves no course above it.

    ``inside`` tells of places (n, 3) whether they are in the opening, beyond which the lintel goes
    on by its ``bearing`` (m) and to the next joint. It is in the course the opening's top is in and
    where that leaves less than half of it, in the next as well. Raises ``NoBearing``.
    """
    up = _heights(laying)
    along = np.arange(FINER * run.steps + 1) / (FINER * run.steps)
    covered = _covered(laying, along[None], up[:, None], inside)
    if not covered.any():
        return run, None
    rows, columns = np.flatnonzero(covered.any(axis=1)), np.flatnonzero(covered.any(axis=0))
    top = float(up[rows[-1]])
    course = int(np.searchsorted(laying.levels, top - 1e-9, side="right") - 1)
    if course >= len(laying.counts):
        return run, None
    left = (laying.levels[course + 1] - top) / (laying.levels[course + 1] - laying.levels[course])
    upto = course + int(left < DEPTH)
    if upto >= len(laying.counts):
        return run, None
    turn, low, high = _reach(laying, columns / FINER, run.steps)
    one, _, _ = laying.rise.ways(np.array([(turn + low) / run.steps]), np.array([top]))
    spare = bearing / float(np.linalg.norm(one)) * run.steps
    joined, low, high = _joined(run, (course, upto), turn, (low - spare, high + spare))
    middle = ((turn + (low + high) / 2) / run.steps) % 1.0 if laying.rise.is_ring else None
    at = (low + high) / 2 / run.steps if middle is None else middle
    place = laying.rise.places(np.array([at]), np.array([top])).reshape(3)
    width = float(np.linalg.norm(one)) * (high - low) / run.steps
    return joined, Lintel(course, upto, width, place)


def _heights(laying: Laying) -> Array:
    """Parameters (n,) at which openings are looked for, from below."""
    share = np.arange(LEVELS) / LEVELS
    steps = laying.levels[:-1, None] + np.diff(laying.levels)[:, None] * share
    return np.append(steps.ravel(), laying.levels[-1])


def _covered(
    laying: Laying, along: Array, up: Array, inside: Callable[[Array], NDArray[np.bool_]]
) -> NDArray[np.bool_]:
    """Whether an opening takes something of either face at parameters (…)."""
    places, normals = laying.rise.places(along, up), laying.rise.ways(along, up)[2]
    out = np.zeros(places.shape[:-1], bool)
    for distance in (laying.outside, 0.0, -laying.inside):
        out |= inside((places + distance * normals).reshape(-1, 3)).reshape(out.shape)
    return out


def _reach(laying: Laying, found: Array, steps: int) -> tuple[int, float, float]:
    """From where steps are counted, which is on the far side in a ring, and from which to which an
    opening goes that was ``found`` at these."""
    spare = 1 / FINER
    if not laying.rise.is_ring:
        return 0, max(float(found[0]) - spare, 0.0), min(float(found[-1]) + spare, float(steps))
    different = np.unique(found % steps)
    gaps = np.diff(np.append(different, different[0] + steps))
    widest = int(np.argmax(gaps))
    if gaps[widest] < 2:
        raise NoBearing("An opening goes all round.")
    turn = int(different[widest] + gaps[widest] / 2) % steps
    rel = (different - turn) % steps
    return turn, float(rel.min()) - spare, float(rel.max()) + spare


def _joined(
    run: Run, courses: tuple[int, int], turn: int, reach: tuple[float, float]
) -> tuple[Run, float, float]:
    """The run with one block in place of those of some ``courses`` within a ``reach``, which goes
    on to the next joints of the lower one, and that reach; the others there are cut off by it."""
    first = (run.first - turn) % run.steps
    last = first + run.last - run.first
    in_lower = run.course == courses[0]
    starts, ends = first[in_lower], last[in_lower]
    before, after = starts[starts <= reach[0]], ends[ends >= reach[1]]
    if not before.size or not after.size:
        raise NoBearing("There is nothing for a lintel to rest on.")
    low, high = int(before.max()), int(after.min())
    beside = (run.course >= courses[0]) & (run.course <= courses[1])
    touched = beside & (first < high) & (last > low)
    rows = [
        (c, u, f, t)
        for c, u, f, t in zip(run.course, run.upto, first, last, strict=True)
        if not (courses[0] <= c <= courses[1] and f < high and t > low)
    ]
    for k in np.flatnonzero(touched):
        c, u, f, t = (int(of[k]) for of in (run.course, run.upto, first, last))
        rows += [(c, u, a, b) for a, b in ((f, low), (high, t)) if b > a]
    rows.append((courses[0], courses[1], low, high))
    table = np.array(rows, np.int64)
    table[:, 2:] += turn
    over = table[:, 2] >= run.steps
    table[over, 2:] -= run.steps
    course, upto, start, end = table.T.astype(np.int32)
    return Run(course, upto, start, end, run.steps).ordered(), float(low), float(high)
