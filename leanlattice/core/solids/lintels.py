"""Lintels: the blocks over an opening in courses, joined to one that rests on both sides of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .courses import Laying, Run

__all__ = ["Lintel", "NoBearing", "with_lintels"]

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


def with_lintels(
    laying: Laying, run: Run, inside: Callable[[Array], NDArray[np.bool_]], bearing: float
) -> tuple[Run, list[Lintel]]:
    """A run whose blocks over an opening are one, and how that lies; one lintel wherever the
    opening goes through the shell, none where it leaves no course above it.

    ``inside`` tells of places (n, 3) whether they are in the opening, beyond which the lintel goes
    on by its ``bearing`` (m) and to the next joint. It is in the course the opening's top is in and
    where that leaves less than half of it, in the next as well. Raises ``NoBearing``.
    """
    up = _heights(laying)
    along = np.arange(FINER * run.steps + 1) / (FINER * run.steps)
    covered = _covered(laying, along[None], up[:, None], inside)
    lintels = []
    for columns in _runs_of_columns(laying, np.asarray(covered.any(axis=0))):
        run, lintel = _over(laying, run, (along, up), (covered, columns), bearing)
        lintels += [lintel] if lintel is not None else []
    return run, lintels


def _runs_of_columns(laying: Laying, covered: NDArray[np.bool_]) -> list[Index]:
    """Columns in runs that have some between them which are not ``covered`` (n,); the first and the
    last of a ring are the same."""
    columns = np.flatnonzero(covered).astype(np.int32)
    if not columns.size:
        return []
    runs = list[Index](np.split(columns, np.flatnonzero(np.diff(columns) > FINER) + 1))
    last = len(covered) - 1
    if laying.rise.is_ring and len(runs) > 1 and runs[0][0] == 0 and runs[-1][-1] == last:
        runs = [np.concatenate([runs[-1][:-1], runs[0]]), *runs[1:-1]]
    return runs


def _over(
    laying: Laying,
    run: Run,
    places: tuple[Array, Array],
    opening: tuple[NDArray[np.bool_], Index],
    bearing: float,
) -> tuple[Run, Lintel | None]:
    """The run with a lintel over one opening.

    Parameters
    ----------
    laying, run : blocks as they are
    places : parameters along and up at which it was looked for
    opening : whether it covers each of these (up, along), and the columns along that are its own
    bearing : metres it goes on beyond the opening
    """
    (_, up), (covered, columns) = places, opening
    rows = np.flatnonzero(covered[:, columns].any(axis=1))
    top = np.array([up[rows[-1]]])
    courses = _courses(laying, float(top[0]))
    if courses is None:
        return run, None
    turn, low, high = _reach(laying, np.sort(columns) / FINER, run.steps)
    one, _, _ = laying.rise.ways(np.array([(turn + low) / run.steps]), top)
    step = float(np.linalg.norm(one)) / run.steps
    reach = (low - bearing / step, high + bearing / step)
    joined, span = _joined(run, courses, turn, reach)
    middle = (turn + (span.low + span.high) / 2) / run.steps
    at = middle % 1.0 if laying.rise.is_ring else middle
    place = laying.rise.places(np.array([at]), top).reshape(3)
    return joined, Lintel(span.course, span.upto, step * (span.high - span.low), place)


def _courses(laying: Laying, top: float) -> tuple[int, int] | None:
    """From which to which course a lintel over an opening up to ``top`` goes; ``None`` where there
    is none above it."""
    course = int(np.searchsorted(laying.levels, top - 1e-9, side="right") - 1)
    if course >= len(laying.counts):
        return None
    low, high = laying.levels[course : course + 2]
    upto = course + int((high - top) / (high - low) < DEPTH)
    return None if upto >= len(laying.counts) else (course, upto)


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
) -> tuple[Run, Span]:
    """The run with one block in place of those of some ``courses`` within a ``reach``, which goes
    on to the next joints of the lower one, and where that is; the others there are cut off by it.
    """
    first = (run.first - turn) % run.steps
    rows = np.column_stack([run.course, run.upto, first, first + run.last - run.first])
    low, high = _joints_beyond(rows[rows[:, 0] == courses[0]], reach)
    span, touched = _with_all_touched(rows, Span(*courses, low, high))
    before, after = rows[touched].copy(), rows[touched].copy()
    before[:, 3], after[:, 2] = span.low, span.high
    cut = np.vstack([before, after])
    lintel = np.array([span], np.int32)
    parts = [rows[~touched], cut[cut[:, 3] > cut[:, 2]], lintel]
    course, upto, start, end = np.vstack(parts).astype(np.int32).T
    turned = (start + turn) % run.steps
    joined = Run(course, upto, turned, turned + end - start, run.steps)
    return joined.ordered(), span


class Span(NamedTuple):
    """From which course up to which a block goes, and along them ``low`` to ``high`` in steps."""

    course: int
    upto: int
    low: int
    high: int


def _with_all_touched(rows: Index, span: Span) -> tuple[Span, NDArray[np.bool_]]:
    """A span grown by all lintels it meets, and which ``rows`` (B, 4), like spans, it meets."""
    while True:
        beside = (rows[:, 1] >= span.course) & (rows[:, 0] <= span.upto)
        touched = beside & (rows[:, 2] < span.high) & (rows[:, 3] > span.low)
        beyond = touched & ((rows[:, 0] < span.course) | (rows[:, 1] > span.upto))
        if not beyond.any():
            return span, touched
        every = np.vstack([rows[beyond], [list(span)]])
        low, high = every[:, [0, 2]].min(axis=0), every[:, [1, 3]].max(axis=0)
        span = Span(int(low[0]), int(high[0]), int(low[1]), int(high[1]))


def _joints_beyond(rows: Index, reach: tuple[float, float]) -> tuple[int, int]:
    """The nearest joints at or beyond both ends of a ``reach``, of blocks in ``rows`` (B, 4), whose
    last two columns tell from where to where each goes."""
    before = rows[rows[:, 2] <= reach[0], 2]
    after = rows[rows[:, 3] >= reach[1], 3]
    if not before.size or not after.size:
        raise NoBearing("There is nothing for a lintel to rest on.")
    return int(before.max()), int(after.min())
