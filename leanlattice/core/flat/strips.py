"""Strips: a net parted along seams into pieces of sheet that are cut flat and folded up to it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import CIRCLE
from ..geometry.nets import Net
from ..geometry.unrolled import Unrolled, folded, turns_of
from ..materials import FILMS
from ..panels.panels import Sheet
from ..results import result_type
from .flaps import Flaps, Joint, flaps_along, no_flaps
from .folds import Folds, by_piece, score_lines, told_turns
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from .parting import Parted, Parting, fits, parted, rings_of
from .parts import CutResult, Part
from .seams import Room, lie_of

__all__ = ["Strips", "StripsError", "strips_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
SHARED = 1e-9
"""Square metres of a flap that may lie over something."""
DOUBLE = 1e-6
"""Millimetres within which corners are one."""
BESIDE = np.array([0.4, 0.6, 0.25, 0.75, 0.5])
"""Where along a side a neighbour's name may stand, clear of the tick in its middle."""
ROUGHLY = 10.0
"""Millimetres by which a name may stand beside the widest place."""
MOST_HOLES = 60_000
"""Holes that can be worked with."""
TAGGED = 8
"""Triangles from which a strip bears its name at both ends too."""
TICK = 6.0
"""Length (mm) of the marks that meet across a seam."""


class StripsError(ValueError):
    """Strips that cannot be worked with, in a sentence."""


@result_type("Strips", "strips", "strip", covers=("Net", "Shape"))
@dataclass(frozen=True, eq=False)
class Strips(CutResult):
    """Pieces (S) of a net laid flat, with what they are joined by.

    Parameters
    ----------
    vertices : (V, 3) of the net, in metres
    laid : its triangles as they lie, in metres
    cell : (T,) the cell of the net each triangle is of
    beyond : (3T,) the half-edge beyond each in space; −1 at the net's border
    turns : (T,) by how much each triangle is folded, in degrees away from the outside
    folds : all that is scored
    flaps : along the seams
    parts : (S,) as they are cut
    off : (S,) metres by which one folded up by what is told is off the net, at most
    unlabelled : (k,) those without room for all that is written on them
    large : (k,) those that cannot be parted so that they fit
    lapped : (k,) half-edges whose flaps would have lain over something
    smaller : shares along and across by which they are cut smaller than they stand, as what is
        stretched is; ``laid`` and ``folds`` are as they are cut
    """

    vertices: Array
    laid: Unrolled
    cell: Index
    beyond: Index
    turns: Array
    folds: Folds
    flaps: Flaps
    parts: tuple[Part, ...]
    off: Array
    unlabelled: Index
    large: Index
    lapped: Index
    smaller: tuple[float, float] = (0.0, 0.0)

    @cached_property
    def places(self) -> Array:
        """Where the places (n, 3) of the flat pieces stand, in metres."""
        return np.asarray(self.vertices[self.laid.origin])


def strips_of(
    net: Net,
    way: Parting,
    room: Room,
    joint: Joint,
    sheet: Sheet,
    progress: Callable[[float], None] = lambda share: None,
    smaller: tuple[float, float] = (0.0, 0.0),
) -> Strips:
    """A net parted into strips.

    Parameters
    ----------
    net : of cells that are cut into triangles where they are not plane
    way : by rows of cells, by seams of least cut, or each cell alone
    room : for each strip, flaps counted in
    joint : how they are joined
    sheet : what they are cut from
    progress : told the share done
    smaller : shares along and across by which strips are cut smaller than they stand

    Raises ``RowsError`` where cells are in no such rows, and ``StripsError`` where there would be
    too many holes.
    """
    inner = Room(room.length - 2 * joint.deep, room.width - 2 * joint.deep)
    found = parted(net, way, inner)
    progress(0.3)
    true = _lying_long(found.laid)
    points = net.vertices
    turns, frames = told_turns(turns_of(points, true)), _frames(points, true)
    laid = replace(true, flat=true.flat * (1 - np.array(smaller)))
    beyond = _beyond_seams(laid, found)
    flaps, lapped = _flaps(laid, beyond, joint)
    progress(0.4)
    folds = replace(_folds(points, laid, turns, flaps), limp=sheet.material in FILMS)
    drawn = _Drawing(laid, beyond, folds, flaps, joint)
    stretched = _stretched(frames, smaller)
    parts, complete = drawn.parts(stretched, sheet, lambda share: progress(0.4 + 0.6 * share))
    return Strips(
        vertices=points,
        laid=laid,
        cell=found.cell,
        beyond=beyond,
        turns=turns,
        folds=folds,
        flaps=flaps,
        parts=tuple(parts),
        off=_off(points, true, turns, frames),
        unlabelled=np.flatnonzero(~complete).astype(np.int32),
        large=np.flatnonzero(~fits(laid, inner)).astype(np.int32),
        lapped=lapped,
        smaller=smaller,
    )


def _flaps(laid: Unrolled, beyond: Index, joint: Joint) -> tuple[Flaps, Index]:
    """Flaps that lie over nothing, and the half-edges (k,) of those that would."""
    flaps, lapped = _clear(laid, flaps_along(laid, beyond, joint) if joint.deep else no_flaps())
    if len(flaps.holes) > MOST_HOLES:
        raise StripsError(
            f"There would be {len(flaps.holes):,} holes; at most {MOST_HOLES:,} can be worked with."
        )
    return flaps, lapped


def _stretched(frames: Array, smaller: tuple[float, float]) -> Array:
    """Frames (S, 4, 3) whose axes lead from where pieces lie, cut smaller, to where they stand."""
    share = np.array([1.0, 1 - smaller[0], 1 - smaller[1], 1.0])
    return np.asarray(frames / share[:, None])


def _off(points: Array, laid: Unrolled, turns: Array, frames: Array) -> Array:
    """How far (S,) pieces folded up by their ``turns`` (T,) are off where they were, at most."""
    away = np.linalg.norm(folded(laid, np.radians(turns), frames) - points[laid.origin], axis=1)
    off = np.zeros(laid.count)
    np.maximum.at(off, laid.piece_of_place, away)
    return off


def _lying_long(laid: Unrolled) -> Unrolled:
    """The same pieces, each with its lower left corner at the origin, and along x in the rectangle
    by which it fits."""
    flat = np.empty_like(laid.flat)
    turn = np.array([lie_of(ring) for ring in rings_of(laid)])
    cosine, sine = (f(turn)[laid.piece_of_place] for f in (np.cos, np.sin))
    x, y = laid.flat.T
    flat[:, 0], flat[:, 1] = cosine * x - sine * y, sine * x + cosine * y
    low = np.full((laid.count, 2), np.inf)
    np.minimum.at(low, laid.piece_of_place, flat)
    return replace(laid, flat=flat - low[laid.piece_of_place])


def _beyond_seams(laid: Unrolled, found: Parted) -> Index:
    """The half-edge (3T,) beyond each round a piece; −1 of the others and at borders."""
    out = np.full(len(found.beyond), -1, np.int32)
    out[laid.ring] = found.beyond[laid.ring]
    return out


def _clear(laid: Unrolled, flaps: Flaps) -> tuple[Flaps, Index]:
    """Flaps that lie over nothing in the flat, and the half-edges (k,) of those that would."""
    # Pieces are laid apart, so that one tree knows all.
    step = 2 * float(np.ptp(laid.flat, axis=0).max(initial=0.0)) + 1.0
    shift = laid.piece_of_place * step
    places = laid.flat + np.column_stack([shift, np.zeros(len(shift))])
    corners = flaps.corners + shift[laid.start[flaps.half], None, None] * np.array([1.0, 0.0])
    shapes = shapely.polygons(corners) if len(corners) else np.zeros(0, object)
    rings = np.split(places[laid.start[laid.ring]], laid.ring_offsets[1:-1])
    # One that lies over itself is told of, and parts nothing else.
    wholes = shapely.make_valid(np.array([shapely.Polygon(ring) for ring in rings], object))
    bad = np.zeros(len(shapes), bool)
    for others in (wholes, shapes):
        one, other = shapely.STRtree(others).query(shapes)
        if others is shapes:
            one, other = one[one > other], other[one > other]
        over = shapely.area(shapely.intersection(shapes[one], others[other])) > SHARED
        bad[one[over]] = True
    return flaps.kept(~bad), flaps.half[bad]


def _frames(points: Array, laid: Unrolled) -> Array:
    """Where each piece goes (S, 4, 3): the place of the flat origin, and the three axes, by its
    first triangle."""
    first = np.flatnonzero(laid.parent < 0)
    first = first[np.argsort(laid.piece[first])]
    stands, lies = points[laid.origin[laid.corners[first]]], laid.flat[laid.corners[first]]
    way = stands[:, 1] - stands[:, 0]
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    normal = np.cross(way, stands[:, 2] - stands[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    left = np.cross(normal, way)
    own = lies[:, 1] - lies[:, 0]
    cosine, sine = (own / np.linalg.norm(own, axis=1, keepdims=True)).T[:, :, None]
    x, y = cosine * way - sine * left, sine * way + cosine * left
    at = stands[:, 0] - lies[:, 0, :1] * x - lies[:, 0, 1:] * y
    return np.stack([at, x, y, normal], axis=1)


def _folds(points: Array, laid: Unrolled, turns: Array, flaps: Flaps) -> Folds:
    """Where strips and their flaps are folded."""
    within = laid.order[(laid.parent[laid.order] >= 0) & (turns[laid.order] != 0)]
    inner = laid.parent[within]
    across = np.stack([laid.flat[laid.start[inner]], laid.flat[laid.end[inner]]], axis=1)
    ends = np.concatenate([across, flaps.corners[:, [0, 3]]])
    strip = laid.piece[np.concatenate([inner, flaps.half]) // 3]
    every = np.concatenate([turns[within], _flap_turns(points, laid, flaps)])
    meets = np.concatenate([np.full(len(within), -1), laid.piece[flaps.beyond // 3]])
    order = np.argsort(strip, kind="stable")
    return Folds(strip[order], ends[order], every[order], meets[order].astype(np.int32))


def _flap_turns(points: Array, laid: Unrolled, flaps: Flaps) -> Array:
    """By how much (m,) flaps are folded, in degrees away from the outside."""
    normal = _normals(points, laid)
    one, other = normal[flaps.half // 3], normal[flaps.beyond // 3]
    start, end = (points[laid.origin[at[flaps.half]]] for at in (laid.start, laid.end))
    way = (end - start) / np.linalg.norm(end - start, axis=1, keepdims=True)
    sine = np.einsum("ij,ij->i", np.cross(one, other), way)
    return told_turns(np.arctan2(sine, np.einsum("ij,ij->i", one, other)))


def _normals(points: Array, laid: Unrolled) -> Array:
    p = points[laid.origin[laid.corners]]
    cross = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    return np.asarray(cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-300))


class _Drawing:
    """What of all strips is drawn, piece by piece, in millimetres."""

    def __init__(
        self, laid: Unrolled, beyond: Index, folds: Folds, flaps: Flaps, joint: Joint
    ) -> None:
        self.laid = laid
        self.labels = [f"ST{k + 1}" for k in range(laid.count)]
        self.beyond = beyond
        self.starts = np.searchsorted(laid.piece[laid.order], np.arange(laid.count + 1))
        places = laid.flat * 1000
        self.start, self.end = places[laid.start], places[laid.end]
        self.outers = self._with_flaps(flaps)
        of_flap = laid.piece[flaps.half[flaps.hole_of] // 3]
        of_met = laid.piece[flaps.beyond[flaps.hole_of] // 3]
        holes = np.concatenate([flaps.holes, flaps.met]) * 1000
        circles = holes[:, None] + joint.diameter * 500 * CIRCLE
        self.inner = by_piece(circles, np.concatenate([of_flap, of_met]), laid.count)
        scored = folds.turns * (not folds.limp)
        lines, of = score_lines(folds.ends * 1000, scored, folds.part)
        self.scores = by_piece(lines, of, laid.count)
        self.ticks = by_piece(*self._ticks(), laid.count)

    def _with_flaps(self, flaps: Flaps) -> list[Array]:
        """The outlines (k, 2) of all pieces with their flaps."""
        laid = self.laid
        at = np.full(len(self.beyond), -1)
        at[flaps.half] = np.arange(len(flaps.half))
        flap = at[laid.ring]
        has = flap >= 0
        counts = np.where(has, 5, 1)
        begin = np.cumsum(counts) - counts
        out = np.empty((int(counts.sum()), 2))
        out[begin] = self.start[laid.ring]
        for k in range(4):
            out[begin[has] + 1 + k] = flaps.corners[flap[has], k] * 1000
        rings = np.split(out, np.append(begin, len(out))[laid.ring_offsets[1:-1]])
        return [_without_doubles(ring) for ring in rings]

    def _ticks(self) -> tuple[Array, Index]:
        """Marks (n, 2, 2) that meet those of the neighbour in the middle of each seam."""
        half = self.laid.ring[self.beyond[self.laid.ring] >= 0]
        way = self.end[half] - self.start[half]
        length = np.linalg.norm(way, axis=1, keepdims=True)
        inward = np.column_stack([-way[:, 1], way[:, 0]]) / length
        middle = (self.start[half] + self.end[half]) / 2
        lines = np.stack([middle, middle + np.minimum(TICK, length / 6) * inward], axis=1)
        return lines, self.laid.piece[half // 3]

    def parts(
        self, frames: Array, sheet: Sheet, progress: Callable[[float], None]
    ) -> tuple[list[Part], Flags]:
        """All strips as parts, and whether each has all its names."""
        out, complete = [], np.ones(self.laid.count, bool)
        for k, label in enumerate(self.labels):
            if k % 20 == 0:
                progress(k / self.laid.count)
            names = self._names(k)
            complete[k] = names.complete
            pose = np.eye(4)
            pose[:3, :3], pose[:3, 3] = frames[k, 1:].T / 1000, frames[k, 0]
            part = Part(
                label=label,
                kind="strip",
                outer=self.outers[k],
                inner=tuple(self.inner[k]),
                pose=pose,
                material=sheet.material,
                thickness=sheet.thickness * 1000,
                marks=(*names.strokes, *self.ticks[k]),
                scores=tuple(self.scores[k]),
            )
            out.append(part)
        return out, complete

    def _names(self, k: int) -> Names:
        """A strip's own name in its widest place and at both ends, and its neighbours' along its
        sides."""
        laid = self.laid
        ring = laid.ring[laid.ring_offsets[k] : laid.ring_offsets[k + 1]]
        names = Names(shapely.Polygon(self.start[ring], self.inner[k]))
        names.write(self.labels[k], LABEL_HEIGHT, names.room(ROUGHLY)[0])
        own = laid.order[self.starts[k] : self.starts[k + 1]]
        if len(own) >= TAGGED:
            for end in (own[:4], own[:-5:-1]):
                middles = self.start.reshape(-1, 3, 2)[end].mean(axis=1)
                names.write(self.labels[k], NEIGHBOUR_HEIGHT, middles)
        for half, text in self._runs(ring):
            a, b = self.start[half], self.end[half]
            way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
            inward = np.array([-way[1], way[0]])
            turn = float(np.arctan2(way[1], way[0]))
            at = a + BESIDE[:, None] * (b - a)
            names.write(text, NEIGHBOUR_HEIGHT, at, turn, 1.2 * inward)
        return names

    def _runs(self, ring: Index) -> list[tuple[int, str]]:
        """Of each run of sides beyond which there is one strip the middle one, and its name."""
        beyond = self.beyond[ring]
        strip = np.where(beyond >= 0, self.laid.piece[beyond // 3], -1)
        starts = np.flatnonzero(strip != np.roll(strip, 1))
        if not len(starts):
            starts = np.zeros(1, np.int64)
        ends = np.append(starts[1:], starts[0] + len(ring))
        middle = ring[(starts + ends) // 2 % len(ring)].tolist()
        names = [self.labels[k] if k >= 0 else "" for k in strip[starts].tolist()]
        return [(half, name) for half, name in zip(middle, names, strict=True) if name]


def _without_doubles(ring: Array) -> Array:
    """A ring (n, 2) in mm without corners that are where the one before them is."""
    step = np.linalg.norm(ring - np.roll(ring, 1, axis=0), axis=1)
    return ring[step > DOUBLE]
