"""Half-laps where ribs of two sets cross."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result
from .plates import FINER, Rib
from .polygons import polygons_of
from .strips import clear_beside, close_boxes, halved, pieces_in_strips

__all__ = ["Crossing", "Laps", "Passing", "Slots", "lapped", "slot_width"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
PAST = 0.05
"""A slot is cut so far (m) past the edge it opens at, which may slope."""
LEAST_SINE = np.sin(np.radians(10.0))
"""Ribs at a smaller angle lie all but on each other and cannot be lapped."""
LEVEL = 0.1
"""Lines that rise by less are level."""
ARC = 12
"""Corners of a relief's half circle."""
RELIEFS = {
    "diagonal": (np.pi / 4, -np.pi / 4),
    "across": (np.pi / 2, -np.pi / 2),
    "along": (0.0, 0.0),
}
"""Where, as angles from across the slot, a relief's half circle ends towards the opening, and where
the slot's corner is."""
FAULTS = ("", "entwined", "caught", "three", "slot", "end")
"""What can be wrong with a crossing: nothing; one rib lies above the other and below it at once, or
more of the first lies above the slot, so that they lock each other; three ribs meet in one place;
or less than the least wall is left to another slot, or at an end."""
LOCKS = FAULTS[1:3]


@dataclass(frozen=True)
class Slots:
    """How half-laps are cut, in metres: ``clearance`` is added to the widths, ``share`` of the
    common length is cut from the set that is slotted from above (the second set gets the rest), and
    where ``turn`` is true this is turned round at crossings that would lock otherwise; ``relief``
    is the radius of a round tool and ``corners`` how it clears the inner ones: along the slot,
    across it, or diagonally; ``wall`` is the least that may stay between a slot and an end or
    another slot; ``chamfer`` widens the entry on both sides, at 45°."""

    clearance: float = 0.0
    share: float = 0.5
    relief: float = 0.0
    corners: str = "diagonal"
    wall: float = 0.0
    chamfer: float = 0.0
    turn: bool = False


def slot_width(own: Any, other: Any, cosine: Any) -> Any:
    """Width of slots in plates ``own`` thick for others ``other`` thick crossing at angles of those
    cosines: (b + a |cos θ|) / sin θ."""
    return (other + own * np.abs(cosine)) / np.sqrt(np.maximum(1 - cosine * cosine, 1e-12))


@dataclass(frozen=True, eq=False, slots=True)
class Crossing(Result):
    """Ribs ``first`` and ``second`` (positions) that cross through ``place`` (3,) along ``way``
    (3,), which points to the side the first is slotted from; their common lengths ``spans`` (n, 2)
    and where each is parted, ``middles`` (n,), as distances along the way; and its ``fault``, one
    of ``FAULTS``."""

    first: int
    second: int
    place: Array
    way: Array
    spans: Array
    middles: Array
    fault: str = ""

    @property
    def locked(self) -> bool:
        """Whether its ribs lock each other."""
        return self.fault in LOCKS


@dataclass(frozen=True, eq=False, slots=True)
class Passing:
    """Ribs ``first`` and ``second`` (positions) that share nothing on the line in which their
    planes meet, so that, along its ``way`` (3,), some of the first lies ``above`` some of the
    second, ``below`` it, or both."""

    first: int
    second: int
    way: Array
    above: bool
    below: bool


@dataclass(frozen=True, eq=False)
class Laps:
    """Ribs with their slots, the crossings, zones (polygons in the plane of each rib) where it is
    met by others, positions of ribs that ``fell`` apart, with the pieces kept, and ribs that lie in
    each other's way without crossing."""

    ribs: list[Rib]
    crossings: list[Crossing]
    zones: list[list[shapely.Polygon]]
    fell: list[int] = field(default_factory=list)
    passing: list[Passing] = field(default_factory=list)


@dataclass(frozen=True, eq=False)
class _Strips:
    """Where lines of crossings lie in the planes of ``rib`` (n,): ``across`` and ``along`` (n, 2)
    unit, their place across and the width to clear (n,), and ``base`` (n,), the distance along the
    way of the plane's origin.

    Strip 2k is that of line k in its first rib and 2k + 1 that in its second."""

    rib: Index
    across: Array
    along: Array
    at: Array
    width: Array
    base: Array

    def of(self, which: Any) -> _Strips:
        return _Strips(
            *(getattr(self, n)[which] for n in ("rib", "across", "along", "at", "width", "base"))
        )

    def places(self, u: Array, v: Array) -> Array:
        """Places (n, k, 2) in the planes: ``u`` (n, k) past the middle across, heights ``v`` (n,
        k)."""
        u, v = u + self.at[:, None], v - self.base[:, None]
        return np.asarray(u[..., None] * self.across[:, None] + v[..., None] * self.along[:, None])

    def boxes(self, low: Array, high: Array) -> Array:
        """Corners (n, 4, 2), counter-clockwise, of the strips between two heights."""
        w = self.width / 2
        return self.places(
            np.stack([-w, w, w, -w], axis=1), np.stack([low, low, high, high], axis=1)
        )


def lapped(
    first: list[Rib],
    second: list[Rib],
    slots: Slots,
    up: Array,
    check: Callable[[], None] = lambda: None,
) -> Laps:
    """Ribs of two sets cut with ``slots`` so that they go into each other: the ``first`` are
    slotted from the side ``up`` (3,) points to, or on level lines from outside, the ``second`` from
    the other, along the lines in which their planes meet. ``check`` is called now and then and may
    raise.

    All material of both within the width of the slot counts, so that plates that only touch beside
    the line are parted too, and several common lengths on one line are halved each. Where more of
    one piece meets several of the other, the first keeps what lies below the lowest middle and the
    second what lies above the highest, so that no two overlap.
    """
    ribs = [*first, *second]
    none: list[list[shapely.Polygon]] = [[] for _ in ribs]
    frames = _Frames.of(ribs)
    way, through, strips = _lines(ribs, frames, _near(frames, ribs, len(first)), slots, up)
    if not len(way):
        return Laps(ribs, [], none)
    check()
    packed = _packed(ribs)
    low, high = strips.at - strips.width / 2, strips.at + strips.width / 2
    offsets, pieces = pieces_in_strips(
        *packed, strips.rib, strips.across, strips.along, low, high, strips.base
    )
    check()
    sense, locks, spans, span_at, cuts, cut_strip, reach, passing = halved(
        offsets, pieces, np.ones(len(way)), slots.share, slots.turn
    )
    crossings = _crossings(strips.rib.reshape(-1, 2), way, through, sense, locks, spans, span_at)
    met = np.flatnonzero(reach[:, 0] < reach[:, 1])
    corners = strips.of(met).boxes(*reach[met].T)
    boxes: Any = shapely.polygons(corners)
    zones = list(boxes)
    by_rib = list(none)
    for k, zone in zip(strips.rib[met].tolist(), zones, strict=True):
        by_rib[k].append(zone)
    check()
    shapes, fell = _without(
        ribs, strips.rib[cut_strip], _outlines(strips.of(cut_strip), cuts, slots), check
    )
    crossings = _crowded(
        crossings, strips.of(met), zones, corners, reach[met].mean(axis=1), packed, slots
    )
    of = strips.rib.reshape(-1, 2)
    beside = [
        Passing(int(of[k, 0]), int(of[k, 1]), way[k], bool(passing[k] & 1), bool(passing[k] & 2))
        for k in np.flatnonzero(passing).tolist()
    ]
    return Laps(
        [replace(r, shape=s) for r, s in zip(ribs, shapes, strict=True)],
        crossings,
        by_rib,
        fell,
        beside,
    )


@dataclass(frozen=True, eq=False)
class _Frames:
    """Plane pieces of ribs: the ``rib`` (n,) each is of, its ``origin``, ``x`` and ``y`` (n, 3),
    and between which flat x, ``ends`` (n, 2), it lies."""

    rib: Index
    origin: Array
    x: Array
    y: Array
    ends: Array

    @classmethod
    def of(cls, ribs: list[Rib]) -> _Frames:
        each = [r.frames for r in ribs]
        rib = np.repeat(np.arange(len(ribs)), [len(e[0]) for e in each])
        none = np.zeros((0, 3))
        origin, x, y = (np.concatenate([none, *(e[k] for e in each)]) for k in range(3))
        return cls(rib, origin, x, y, np.concatenate([none[:, :2], *(e[3] for e in each)]))

    def boxes(self, ribs: list[Rib]) -> tuple[Array, Array]:
        """Least and greatest corners (n, 3) in space of what lies on each, with half its thickness
        to spare."""
        flat: Any = shapely.bounds(np.array([r.shape for r in ribs], object))
        flat = flat[self.rib]
        low, high = np.maximum(flat[:, 0], self.ends[:, 0]), np.minimum(flat[:, 2], self.ends[:, 1])
        corner = np.stack(
            [
                np.stack([u, v], 1)
                for u, v in (
                    (low, flat[:, 1]),
                    (high, flat[:, 1]),
                    (high, flat[:, 3]),
                    (low, flat[:, 3]),
                )
            ],
            axis=1,
        )
        places = self.origin[:, None] + corner @ np.stack([self.x, self.y], axis=1)
        grow = np.array([r.thickness for r in ribs])[self.rib][:, None]
        # Those on which nothing lies meet nothing.
        grow = np.where((low > high)[:, None], -np.inf, grow)
        return places.min(axis=1) - grow, places.max(axis=1) + grow


def _near(frames: _Frames, ribs: list[Rib], count: int) -> Index:
    """Pairs (n, 2) of plane pieces whose boxes in space meet, of the first ``count`` ribs and of
    the others."""
    if not ribs:
        return np.zeros((0, 2), np.int64)
    low, high = frames.boxes(ribs)
    parted = int(np.searchsorted(frames.rib, count))
    a, b = slice(0, parted), slice(parted, None)
    meet = ((low[a][:, None] <= high[b][None]) & (high[a][:, None] >= low[b][None])).all(axis=2)
    return np.argwhere(meet) + np.array([0, parted])


def _lines(
    ribs: list[Rib], frames: _Frames, pairs: Index, slots: Slots, up: Array
) -> tuple[Array, Array, _Strips]:
    """Ways (n, 3) of the lines in which planes of pairs meet, places (n, 3) on them nearest to the
    origin, and their strips; pairs that lie all but on each other have none, nor have those that
    meet beyond what is plane of a bent rib."""
    x, origin, y = frames.x, frames.origin, frames.y
    thick = np.array([r.thickness for r in ribs])[frames.rib]
    normal = np.cross(x, y)
    i, j = pairs.T
    cosine = np.einsum("ij,ij->i", normal[i], normal[j])
    sine = np.sqrt(np.maximum(1 - cosine * cosine, 0.0))
    clear = sine >= LEAST_SINE
    i, j, cosine, sine = i[clear], j[clear], cosine[clear], sine[clear]
    n, m = normal[i], normal[j]
    way = np.cross(n, m) / sine[:, None]
    # Level lines lead outward: along x of the rib that stands more upright.
    upright = np.where((np.abs(n @ up) < np.abs(m @ up))[:, None], x[i], x[j])
    outward = np.where((np.abs(way @ up) > LEVEL)[:, None], up, upright)
    way *= np.where(np.einsum("ij,ij->i", way, outward) >= 0, 1.0, -1.0)[:, None]
    p, q = np.einsum("ij,ij->i", n, origin[i]), np.einsum("ij,ij->i", m, origin[j])
    squared = (sine * sine)[:, None]
    through = ((p - q * cosine)[:, None] * n + (q - p * cosine)[:, None] * m) / squared
    frame = np.stack([i, j], axis=1).ravel()
    other = np.stack([j, i], axis=1).ravel()
    ways, at = np.repeat(way, 2, axis=0), np.repeat(through, 2, axis=0)
    along = np.stack(
        [np.einsum("ij,ij->i", ways, x[frame]), np.einsum("ij,ij->i", ways, y[frame])], axis=1
    )
    across = np.stack([along[:, 1], -along[:, 0]], axis=1)
    off = at - origin[frame]
    flat = np.stack(
        [np.einsum("ij,ij->i", off, x[frame]), np.einsum("ij,ij->i", off, y[frame])], axis=1
    )
    width = slot_width(thick[frame], thick[other], np.repeat(cosine, 2)) + slots.clearance
    place, base = np.einsum("ij,ij->i", flat, across), np.einsum("ij,ij->i", origin[frame], ways)
    strips = _Strips(frames.rib[frame], across, along, place, width, base)
    # Bent ribs are bent about upright lines, and what crosses them stands upright.
    ends = frames.ends[frame]
    on = ((flat[:, 0] >= ends[:, 0]) & (flat[:, 0] < ends[:, 1])).reshape(-1, 2).all(axis=1)
    return (
        (way, through, strips) if on.all() else (way[on], through[on], strips.of(np.repeat(on, 2)))
    )


def _packed(ribs: list[Rib]) -> tuple[Array, Index, Index]:
    """Corners of all rings without their closing one, offsets of rings, and offsets of ribs among
    rings."""
    rings: Any = shapely.get_rings(np.array([r.shape for r in ribs], object), return_index=True)
    places, of = shapely.get_coordinates(rings[0], return_index=True)
    last = np.append(np.diff(of) > 0, True)
    count = np.bincount(of, minlength=len(rings[0])) - 1
    of_rib = np.concatenate([[0], np.cumsum(np.bincount(rings[1], minlength=len(ribs)))])
    return places[~last], np.concatenate([[0], np.cumsum(count)]), of_rib


def _crossings(
    of: Index, way: Array, through: Array, sense: Array, locks: Index, spans: Array, span_at: Index
) -> list[Crossing]:
    """Crossings of the lines on which ribs have something in common, ways and distances turned to
    their sense."""
    some = np.flatnonzero(np.diff(span_at) > 0)
    turned = way * sense[:, None]
    first = spans[span_at[some]]
    place = through[some] + way[some] * ((first[:, 0] + first[:, 1]) / 2)[:, None]
    ends, middles = spans[:, :2], spans[:, 2]
    of, codes, up = of[some].tolist(), locks[some].tolist(), (sense[some] > 0).tolist()
    out = []
    for n, (a, b) in enumerate(
        zip(span_at[some].tolist(), span_at[some + 1].tolist(), strict=True)
    ):
        own, parted = (ends[a:b], middles[a:b]) if up[n] else (-ends[a:b, ::-1], -middles[a:b])
        out.append(
            Crossing(of[n][0], of[n][1], place[n], turned[some[n]], own, parted, FAULTS[codes[n]])
        )
    return out


def _relief(radius: float, kind: str) -> tuple[Array, Array]:
    """Corners of the half circle with which a tool clears an inner corner of a slot: distances past
    its side, and from its end towards its opening. The circle passes through the slot's corner and
    lies within its own corners."""
    end, corner = RELIEFS[kind]
    step = np.pi / ARC
    turn = end - np.pi + np.concatenate([[0.0], step * (np.arange(ARC) + 0.5), [np.pi]])
    size = np.concatenate([[radius], np.full(ARC, radius / np.cos(step / 2)), [radius]])
    return size * np.cos(turn) - radius * np.cos(corner), size * np.sin(turn) - radius * np.sin(
        corner
    )


def _outlines(strips: _Strips, cuts: Array, slots: Slots) -> list[Array]:
    """What is taken out, counter-clockwise, as arrays (cuts, corners, 2): from the middle past the
    end, with reliefs and chamfers."""
    middle, end, sense = cuts[:, 0], cuts[:, 1], cuts[:, 2]
    far = end + sense * PAST
    if slots.relief > 0:
        w = (strips.width / 2)[:, None]
        past, ahead = _relief(slots.relief, slots.corners)
        u = np.concatenate([-w - past[::-1], w + past, w, -w], axis=1)
        inner = middle[:, None] + sense[:, None] * np.concatenate([ahead[::-1], ahead])
        slot = strips.places(u, np.concatenate([inner, far[:, None], far[:, None]], axis=1))
        slot[sense < 0] = slot[sense < 0][:, ::-1]
    else:
        slot = strips.boxes(np.minimum(middle, far), np.maximum(middle, far))
    made = [slot]
    if slots.chamfer > 0:
        for side, open_at in ((-1.0, cuts[:, 3]), (1.0, cuts[:, 4])):
            edge = np.where(np.isnan(open_at), end, open_at)
            inner = np.where(
                sense > 0,
                np.maximum(edge - slots.chamfer, middle),
                np.minimum(edge + slots.chamfer, middle),
            )
            w, c = side * strips.width / 2, side * slots.chamfer
            heights = np.stack([inner, inner + sense * slots.chamfer, far, far], axis=1)
            corner = strips.places(np.stack([w, w + c, w + c, w], axis=1), heights)
            turned = (side * sense) < 0
            corner[turned] = corner[turned][:, ::-1]
            made.append(corner)
    return made


def _without(
    ribs: list[Rib], cut_rib: Index, outlines: list[Array], check: Callable[[], None]
) -> tuple[list[shapely.Polygon], list[int]]:
    """Plates less what is taken out of them, and positions of those of which more than chips came
    off; then the largest piece is kept."""
    taken: list[list[Array]] = [[] for _ in ribs]
    for outline in outlines:
        for k, ring in zip(cut_rib.tolist(), outline[:, ::-1] * FINER, strict=True):
            taken[k].append(ring)
    sections, cut = [], [k for k, t in enumerate(taken) if t]
    plates: Any = shapely.orient_polygons(np.array([ribs[k].shape for k in cut], object))
    for k, shape in zip(cut, plates, strict=True):
        check()
        # What is taken out winds the other way, so that one pass leaves what winds about once more
        # than it is taken from.
        rings = [
            shapely.get_coordinates(r)[:-1] * FINER for r in (shape.exterior, *shape.interiors)
        ]
        sections.append(manifold3d.CrossSection(rings + taken[k], manifold3d.FillRule.Positive))
    shapes, fell = [r.shape for r in ribs], []
    for k, pieces in zip(cut, polygons_of(sections, scale=1 / FINER), strict=True):
        shapes[k] = pieces[0] if pieces else shapely.Polygon()
        if not pieces or sum(p.area for p in pieces[1:]) > 0.02 * pieces[0].area:
            fell.append(k)
    return shapes, fell


def _crowded(
    crossings: list[Crossing],
    strips: _Strips,
    zones: list[shapely.Polygon],
    corners: Array,
    heights: Array,
    packed: Any,
    slots: Slots,
) -> list[Crossing]:
    """Crossings with the faults of those at which three ribs meet in one place, and of those whose
    slots leave less than the least wall to an end or to another slot. Strips and zones are those of
    the crossings, first and second in turn."""
    a, b = close_boxes(corners, strips.rib, slots.wall).T
    distance = np.full(len(zones), np.inf)
    if len(a):
        boxes: Any = np.array(zones, object)
        between = np.asarray(shapely.distance(boxes[a], boxes[b]))
        np.minimum.at(distance, a, between)
        np.minimum.at(distance, b, between)
    clear = np.ones(len(zones), bool)
    if slots.wall > 0:
        low, high = strips.at - strips.width / 2, strips.at + strips.width / 2
        clear = clear_beside(
            *packed,
            strips.rib,
            strips.across,
            strips.along,
            low,
            high,
            strips.base,
            heights,
            0.98 * slots.wall,
        )
    faults = np.select([distance <= 0, distance < slots.wall, ~clear], FAULTS[3:], "")
    out = []
    for crossing, first, second in zip(crossings, faults[::2], faults[1::2], strict=True):
        fault = crossing.fault or str(first) or str(second)
        out.append(crossing if fault == crossing.fault else replace(crossing, fault=fault))
    return out
