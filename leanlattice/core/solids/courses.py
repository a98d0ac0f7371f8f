"""Blocks of a shell: courses one on top of the other, parted by joints square to its surface."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..geometry.surfaces import Surface
from .grids import skin_of_disc, skin_of_grid
from .skins import Skins, joined
from .solids import Solids

__all__ = [
    "Laying",
    "NoRoom",
    "Rise",
    "Run",
    "blocks_of",
    "halved_counts",
    "runs_of",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
LINES, STEPS = 17, 129
"""Lines of a surface, and places on each, by which it is measured."""
ROOM = 0.05
"""Share of a block that joints have to leave of it."""
MOST_PARTS = 64
"""Into which the skin of a block is divided one way, at most."""


class NoRoom(ValueError):
    """Joints leave nothing of a block of a ``course``, which has a ``size`` (m) there."""

    def __init__(self, course: int, size: float, at: Array) -> None:
        super().__init__("Joints leave nothing of a block.")
        self.course, self.size, self.at = course, size, at


@dataclass(frozen=True, eq=False)
class Rise:
    """A ``surface`` as courses see it, by parameters along them and up: these are stacked along the
    parameter ``axis``, 0 for u and 1 for v, and from its end where it is ``turned``."""

    surface: Surface
    axis: int
    turned: bool = False

    @property
    def is_ring(self) -> bool:
        """Whether courses close."""
        return self.surface.closed_v if self.axis == 0 else self.surface.closed_u

    def ends_in_point(self, end: int) -> bool:
        """Whether the side below (0) or above (1) all courses is a point."""
        side = 1 - end if self.turned else end
        return f"{'uv'[self.axis]}{side}" in self.surface.degenerate

    def uv(self, along: Array, up: Array) -> Array:
        """Parameters (n, 2) of the surface by those along courses and up (…)."""
        along, up = np.broadcast_arrays(along, up)
        up = 1 - up if self.turned else up
        pair = (up, along) if self.axis == 0 else (along, up)
        return self.surface.wrapped(np.stack(pair, axis=-1).reshape(-1, 2).astype(float))

    def places(self, along: Array, up: Array) -> Array:
        """Places (…, 3) on the surface."""
        shape = np.broadcast_shapes(np.shape(along), np.shape(up))
        return self.surface.points(self.uv(along, up)).reshape(*shape, 3)

    def ways(self, along: Array, up: Array) -> tuple[Array, Array, Array]:
        """Derivatives (…, 3) along courses and up, and unit normals (…, 3)."""
        shape = np.broadcast_shapes(np.shape(along), np.shape(up))
        uv = self.uv(along, up)
        first, second = self.surface.derivatives(uv, 1, 0), self.surface.derivatives(uv, 0, 1)
        one, other = (second, first) if self.axis == 0 else (first, second)
        other = -other if self.turned else other
        normal = self.surface.normals(uv)
        return one.reshape(*shape, 3), other.reshape(*shape, 3), normal.reshape(*shape, 3)

    @cached_property
    def _lengths(self) -> tuple[Array, Array]:
        """Parameters up and the mean length (STEPS,) of lines from below up to them."""
        up = np.linspace(0.0, 1.0, STEPS)
        places = self.places(np.linspace(0.0, 1.0, LINES)[:, None], up)
        each = np.linalg.norm(np.diff(places, axis=1), axis=2).mean(axis=0)
        return up, np.concatenate([[0.0], np.cumsum(each)])

    @property
    def height(self) -> float:
        """Mean length in metres of the lines up the surface."""
        return float(self._lengths[1][-1])

    def levels(self, number: int, spared: float = 0.0) -> Array:
        """Parameters (number + 1,) between courses of one height; ``spared`` (m) is left free at
        the upper end."""
        up, length = self._lengths
        return np.interp(np.linspace(0.0, max(length[-1] - spared, 0.0), number + 1), length, up)

    def lengths_of_courses(self, levels: Array) -> Array:
        """Lengths (n,) in metres of courses between ``levels`` (n + 1,), half way up."""
        middle = (levels[:-1] + levels[1:]) / 2
        places = self.places(np.linspace(0.0, 1.0, STEPS)[:, None], middle)
        return np.asarray(np.linalg.norm(np.diff(places, axis=0), axis=2).sum(axis=0))


@dataclass(frozen=True, eq=False)
class Laying:
    """How blocks lie in a surface.

    Parameters
    ----------
    rise : the surface
    outside, inside : metres from the surface to the two faces of blocks
    levels : (n + 1,) parameters between which courses lie
    counts : (n,) blocks in each course, each a divisor of the largest
    staggered : whether every other course begins with half a block
    joint : metres between blocks, on the surface
    within : metres that faces of blocks, which are made of triangles, may be off the surface
    closed_by_key : whether what is left above the last course is one block
    """

    rise: Rise
    outside: float
    inside: float
    levels: Array
    counts: Index
    staggered: bool
    joint: float
    within: float
    closed_by_key: bool = False

    def faces(self, along: Array, up: Array) -> tuple[Array, Array]:
        """Places (…, 3) of the outer and the inner face of the shell."""
        places, (_, _, normals) = self.rise.places(along, up), self.rise.ways(along, up)
        return places + self.outside * normals, places - self.inside * normals


class Run(NamedTuple):
    """Blocks (B): the ``course`` of each, the course it goes up through, mostly the same one, and
    from where to where it goes along it, ``first`` to ``last``, in steps of which ``steps`` go
    along all of a course."""

    course: Index
    upto: Index
    first: Index
    last: Index
    steps: int

    def ordered(self) -> Run:
        """Course by course, and along each."""
        order = np.lexsort((self.first, self.course))
        course, upto = self.course[order], self.upto[order]
        return Run(course, upto, self.first[order], self.last[order], self.steps)


def halved_counts(lengths: Array, count: int, least: float) -> Index:
    """Blocks (n,) of courses of so many ``lengths`` (m): ``count`` in the longest, and half as many
    wherever they would be shorter than ``least`` (m), as long as that is a whole number."""
    out = np.full(len(lengths), count, np.int32)
    while True:
        half = (lengths / out < least) & (out % 2 == 0) & (out > 3)
        if not half.any():
            return out
        out[half] //= 2


def runs_of(laying: Laying) -> Run:
    """All blocks of all courses, but for the one that closes them."""
    most = int(laying.counts.max())
    steps = 2 * most * _parts(laying, most)
    course, first, last = [], [], []
    for k, count in enumerate(laying.counts.tolist()):
        size = steps // count
        begins = size // 2 if laying.staggered and k % 2 else 0
        starts = begins + size * np.arange(count)
        ends = starts + size
        if not laying.rise.is_ring and begins:
            # The last one has its second half at the other end.
            starts, ends = np.concatenate([[0], starts]), np.concatenate([starts[:1], ends])
            ends[-1] = steps
        course.append(np.full(len(starts), k))
        first.append(starts)
        last.append(ends)
    of, begin, end = (np.concatenate(x).astype(np.int32) for x in (course, first, last))
    return Run(of, of, begin, end, steps)


def _parts(laying: Laying, count: int) -> int:
    """In how many parts each half of a block is divided along its course."""
    along, up = np.meshgrid(
        np.linspace(0, 1, 49), np.linspace(laying.levels[0], laying.levels[-1], 25)
    )
    return _divided(laying, along.ravel(), up.ravel(), 0, 1 / (2 * count))


def _rows(laying: Laying) -> int:
    """In how many rows each course is divided."""
    along, up = np.meshgrid(
        np.linspace(0, 1, 49), np.linspace(laying.levels[0], laying.levels[-1], 25)
    )
    return _divided(laying, along.ravel(), up.ravel(), 1, float(np.diff(laying.levels).max()))


def _divided(laying: Laying, along: Array, up: Array, axis: int, step: float) -> int:
    """Parts of a ``step`` in one parameter whose chords stay near enough to the faces: the height
    of an arc over its chord is c² κ / 8."""
    rise = laying.rise
    uv = rise.surface._off_points(rise.uv(along, up), 1e-3)
    order = [0, 0]
    order[rise.axis if axis == 1 else 1 - rise.axis] = 1
    way = rise.surface.derivatives(uv, *order)
    bend = rise.surface.derivatives(uv, 2 * order[0], 2 * order[1])
    curved = np.abs(np.einsum("ij,ij->i", bend, rise.surface.normals(uv)))
    size = np.einsum("ij,ij->i", way, way)
    # κ c² = (S″ · n) step²; faces outside of the surface are larger by 1 + κ t.
    thick = max(laying.outside, laying.inside)
    grown = 1 + curved / np.maximum(size, 1e-12) * thick
    height = float((curved * grown).max()) * step**2 / 8
    return int(np.clip(np.ceil(np.sqrt(height / laying.within)), 1, MOST_PARTS))


def blocks_of(laying: Laying, run: Run, material: str) -> Solids:
    """Blocks as solids in the order of the run, the one that closes them last; grouped by courses.

    Raises ``NoRoom`` where joints leave nothing of a block.
    """
    rows = _rows(laying)
    form = np.column_stack([run.last - run.first, run.upto - run.course])
    _, of = np.unique(form, axis=0, return_inverse=True)
    of = of.ravel()
    alike = [np.flatnonzero(of == k).astype(np.int32) for k in range(int(of.max()) + 1)]
    forms = [_alike(laying, run, which, rows) for which in alike]
    course, names = run.course, [f"course {k + 1}" for k in range(len(laying.counts))]
    count = len(course)
    if laying.closed_by_key:
        forms.append(_key(laying, run.steps, count))
        course, names = np.append(course, len(names)), [*names, "key"]
    solids = joined(forms, len(course))
    return Solids(
        vertices=solids[0],
        triangles=solids[1],
        offsets=solids[2],
        materials=(material,),
        material_of=np.zeros(len(course), np.int32),
        groups=tuple(names),
        group=course.astype(np.int32),
        frames=_frames(laying, run),
    )


def _alike(laying: Laying, run: Run, which: Index, rows: int) -> Skins:
    """Blocks ``which`` (B,) of a run, all of one width and height, in ``rows`` a course."""
    along, up = _lines(laying, run, which, rows)
    _check_room(laying, run, which, along, up)
    left, right, below, above = _held_back(laying, run, which, along, up)
    columns, rows = along.shape[1] - 1, up.shape[1] - 1
    s, t = np.arange(columns + 1)[:, None] / columns, np.arange(rows + 1) / rows
    apart = along[:, :, None] + (1 - s) * left[:, None] - s * right[:, None]
    stacked = up[:, None] + (1 - t) * below[:, :, None] - t * above[:, :, None]
    faces = laying.faces(apart, stacked)
    vertices = np.concatenate([x.reshape(len(which), -1, 3) for x in faces], axis=1)
    return Skins(vertices, skin_of_grid(columns, rows), which)


def _lines(laying: Laying, run: Run, which: Index, rows: int) -> tuple[Array, Array]:
    """Parameters along (B, columns + 1) and up (B, rows + 1) of blocks without joints."""
    columns = int(run.last[which[0]] - run.first[which[0]])
    course, upto = run.course[which], run.upto[which]
    rows *= int(upto[0] - course[0]) + 1
    along = (run.first[which, None] + np.arange(columns + 1)) / run.steps
    low, high = laying.levels[course, None], laying.levels[upto + 1, None]
    return along, low + (high - low) * np.arange(rows + 1) / rows


def _held_back(
    laying: Laying, run: Run, which: Index, along: Array, up: Array
) -> tuple[Array, Array, Array, Array]:
    """By how much in parameters blocks are held back for their joints: at their two ends (B, rows
    + 1), and below and above (B, columns + 1). Free borders are not.

    Parameters
    ----------
    laying, run : how blocks lie
    which : (B,) blocks of one form
    along, up : (B, columns + 1) and (B, rows + 1) parameters of their lines
    """
    half, course = laying.joint / 2, run.course[which]
    ends = []
    for line in (along[:, :1], along[:, -1:]):
        one, other, _ = laying.rise.ways(line, up)
        free = (not laying.rise.is_ring) & ((line < 1e-9) | (line > 1 - 1e-9))
        ends.append(np.where(free, 0.0, half * _steepness(one, other)))
    beds = []
    last = len(laying.counts) - 1
    for line, is_free in (
        (up[:, :1], course == 0),
        (up[:, -1:], (run.upto[which] == last) & (not laying.closed_by_key)),
    ):
        one, other, _ = laying.rise.ways(along, line)
        beds.append(np.where(is_free[:, None], 0.0, half * _steepness(other, one)))
    return ends[0], ends[1], beds[0], beds[1]


def _steepness(across: Array, along: Array) -> Array:
    """By how much a parameter changes a metre square to a line, by the derivatives (…, 3)
    ``across`` it and ``along`` it: √G / √(E G − F²)."""
    length = np.linalg.norm(along, axis=-1)
    area = np.linalg.norm(np.cross(across, along), axis=-1)
    return np.asarray(length / np.maximum(area, 1e-12))


def _check_room(laying: Laying, run: Run, which: Index, along: Array, up: Array) -> None:
    """Raises ``NoRoom`` where joints leave nothing of a block.

    Parameters
    ----------
    laying, run : how blocks lie
    which : (B,) blocks of one form
    along, up : (B, columns + 1) and (B, rows + 1) parameters of their lines
    """
    if laying.joint <= 0:
        return
    one, other, _ = laying.rise.ways(along[:, :, None], up[:, None])
    wide = np.linalg.norm(one, axis=-1).mean(axis=1) * (along[:, -1:] - along[:, :1])
    tall = np.linalg.norm(other, axis=-1).mean(axis=2) * (up[:, -1:] - up[:, :1])
    least = np.minimum(wide.min(axis=1), tall.min(axis=1))
    k = int(np.argmin(least))
    if least[k] * (1 - ROOM) <= laying.joint:
        at = laying.rise.places(along[k, :1], up[k, -1:])
        raise NoRoom(int(run.course[which[k]]), float(least[k]), at.reshape(3))


def _key(laying: Laying, steps: int, number: int) -> Skins:
    """What is above the last course as one block, a disc."""
    low, rows = float(laying.levels[-1]), max(_rows(laying), 2)
    along = np.arange(steps) / steps
    one, other, _ = laying.rise.ways(along, np.array(low))
    begins = low + laying.joint / 2 * _steepness(other, one)
    if (begins >= 1 - ROOM * (1 - low)).any():
        at = laying.rise.places(np.zeros(1), np.array([low])).reshape(3)
        raise NoRoom(len(laying.counts), laying.joint, at)
    up = begins[:, None] + (1 - begins[:, None]) * np.arange(rows) / rows
    rings = laying.faces(along[:, None], up)
    middle = laying.faces(np.zeros((1, 1)), np.ones((1, 1)))
    vertices = [x.reshape(-1, 3) for pair in zip(rings, middle, strict=True) for x in pair]
    own = np.array([number], np.int32)
    return Skins(np.vstack(vertices)[None], skin_of_disc(steps, rows), own)


def _frames(laying: Laying, run: Run) -> Array:
    """Unit vectors (B, 3, 3) along blocks, up and through them, at their middles."""
    along = (run.first + run.last) / 2 / run.steps
    up = (laying.levels[run.course] + laying.levels[run.upto + 1]) / 2
    if laying.closed_by_key:
        along, up = np.append(along, 0.0), np.append(up, (laying.levels[-1] + 1) / 2)
    one, _, normal = laying.rise.ways(along, up)
    along_it = unit(one)
    return np.stack([along_it, np.cross(normal, along_it), normal], axis=1)
