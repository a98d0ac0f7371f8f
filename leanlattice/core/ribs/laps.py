"""Half-laps where ribs of two sets cross."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, cast

import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import Rib

__all__ = ["Crossing", "Laps", "Slots", "lapped", "slot_width"]

Array = NDArray[np.float64]
PAST = 0.05
"""A slot is cut so far (m) past the edge it opens at, which may slope."""
LEAST_SINE = np.sin(np.radians(10.0))
"""Ribs at a smaller angle lie all but on each other and cannot be lapped."""
LEVEL = 0.1
"""Lines that rise by less are level."""
ARC = 12
"""Segments of a quarter of a relief's circle."""


@dataclass(frozen=True)
class Slots:
    """How half-laps are cut, in metres: ``clearance`` is added to the widths, ``share`` of the common length is cut from the
    set that is slotted from above (the second set gets the rest), ``relief`` is the radius of a round tool and ``corners``
    how it clears the inner ones: along the slot, across it, or diagonally; ``wall`` is the
    least that may stay between a slot and an end or another slot."""

    clearance: float = 0.0
    share: float = 0.5
    relief: float = 0.0
    corners: str = "diagonal"
    wall: float = 0.0


def slot_width(own: float, other: float, cosine: float) -> float:
    """Width of a slot in a plate ``own`` thick for one ``other`` thick crossing at an angle of that cosine:
    (b + a |cos θ|) / sin θ."""
    return float((other + own * abs(cosine)) / np.sqrt(max(1 - cosine * cosine, 1e-12)))


@dataclass(frozen=True, eq=False)
class Crossing:
    """Ribs ``first`` and ``second`` (positions) that cross along ``way`` (3,) through ``place`` (3,); their common lengths
    and where each is halved, as distances along the way; and what is ``wrong``, in words, if anything."""

    first: int
    second: int
    place: Array
    way: Array
    spans: tuple[tuple[float, float], ...]
    middles: tuple[float, ...]
    wrong: str = ""


@dataclass(frozen=True, eq=False)
class Laps:
    """Ribs with their slots, the crossings, zones (polygons in the plane of each rib) where it is met by others, and
    positions of ribs that ``fell`` apart, with the pieces kept."""

    ribs: list[Rib]
    crossings: list[Crossing]
    zones: list[list[shapely.Polygon]]
    fell: list[int] = field(default_factory=list)


@dataclass(frozen=True, eq=False)
class _Strip:
    """Where the line of a crossing lies in a rib's plane: ``across`` and ``along`` (2,) unit, its place across and the width
    to clear, and ``base``, the distance along the way of the plane's origin."""

    across: Array
    along: Array
    at: float
    width: float
    base: float

    def box(self, low: float, high: float) -> shapely.Polygon:
        """The strip between two distances along the way."""
        box: Any = shapely.polygons(self.corners(low, high))
        return cast(shapely.Polygon, box)

    def corners(self, low: float, high: float) -> Array:
        """Those of its box (4, 2)."""
        u, w = self.at, self.width / 2
        sides = np.array([u - w, u + w, u + w, u - w])
        ends = np.array([low, low, high, high]) - self.base
        return np.asarray(sides[:, None] * self.across + ends[:, None] * self.along)

    def place(self, u: float, v: float) -> Array:
        return np.asarray(u * self.across + v * self.along)


def lapped(
    first: list[Rib], second: list[Rib], slots: Slots, up: Array, check: Callable[[], None] = lambda: None
) -> Laps:
    """Ribs of two sets cut so that they go into each other: the first is slotted from the side ``up`` (3,) points to, or
    on level lines from outside, the second from the other, along the lines in which their planes meet.

    All material of both within the width of the slot counts, so that plates that only touch beside the line are parted
    too, and several common lengths on one line are halved each. Where more of one piece meets several of the other, the
    first keeps what lies below the lowest middle and the second what lies above the highest, so that no two overlap.
    """
    ribs = [*first, *second]
    cuts: list[list[Any]] = [[] for _ in ribs]
    zones: list[list[shapely.Polygon]] = [[] for _ in ribs]
    crossings = []
    lines = [_line(ribs, i, j + len(first), slots, up) for i, j in _near(first, second)]
    met = [line for line in lines if line is not None]
    check()
    reach = _reaches(ribs, met)
    for k, line in enumerate(met):
        check()
        made = _crossing(line, reach[k], slots)
        if made is None:
            continue
        crossing, own, others, zone = made
        cuts[line.first] += own
        cuts[line.second] += others
        zones[line.first].append(zone[0])
        zones[line.second].append(zone[1])
        crossings.append(crossing)
    out, fell = [], []
    for k, rib in enumerate(ribs):
        check()
        shape, apart = _without(rib.shape, cuts[k])
        if apart:
            fell.append(k)
        out.append(replace(rib, shape=shape))
    return Laps(out, _crowded(ribs, crossings, zones, slots), zones, fell)


def _near(first: list[Rib], second: list[Rib]) -> list[tuple[int, int]]:
    """Pairs whose boxes in space meet."""

    def boxes(ribs: list[Rib]) -> tuple[Array, Array]:
        corner = [r.places(shapely.get_coordinates(r.shape)) for r in ribs]
        grow = np.array([[r.thickness] for r in ribs])
        return np.array([c.min(axis=0) for c in corner]) - grow, np.array([c.max(axis=0) for c in corner]) + grow

    if not first or not second:
        return []
    (a0, a1), (b0, b1) = boxes(first), boxes(second)
    meet = ((a0[:, None] <= b1[None]) & (a1[:, None] >= b0[None])).all(axis=2)
    return [(int(i), int(j)) for i, j in np.argwhere(meet)]


@dataclass(frozen=True, eq=False)
class _Line:
    """The line ``through`` a place along ``way`` in which the planes of two ribs (positions) meet, as a strip in each."""

    first: int
    second: int
    way: Array
    through: Array
    strips: tuple[_Strip, _Strip]


def _strip(rib: Rib, way: Array, through: Array, width: float) -> _Strip:
    along = np.array([way @ rib.x, way @ rib.y])
    across = np.array([along[1], -along[0]])
    off = through - rib.origin
    return _Strip(across, along, float(np.array([off @ rib.x, off @ rib.y]) @ across), width, float(rib.origin @ way))


def _line(ribs: list[Rib], i: int, j: int, slots: Slots, up: Array) -> _Line | None:
    """Where two planes meet, or ``None`` where they lie all but on each other."""
    a, b = ribs[i], ribs[j]
    n, m = a.normal, b.normal
    cosine = float(n @ m)
    sine = float(np.sqrt(max(1 - cosine * cosine, 0.0)))
    if sine < LEAST_SINE:
        return None
    way = np.array([n[1] * m[2] - n[2] * m[1], n[2] * m[0] - n[0] * m[2], n[0] * m[1] - n[1] * m[0]]) / sine
    # Level lines lead outward: along x of the rib that stands more upright.
    outward = up if abs(way @ up) > LEVEL else (a if abs(n @ up) < abs(m @ up) else b).x
    way = way if way @ outward >= 0 else -way
    # The place on both planes that is nearest to the origin.
    p, q = float(n @ a.origin), float(m @ b.origin)
    through = ((p - q * cosine) * n + (q - p * cosine) * m) / (sine * sine)
    one = _strip(a, way, through, slot_width(a.thickness, b.thickness, cosine) + slots.clearance)
    two = _strip(b, way, through, slot_width(b.thickness, a.thickness, cosine) + slots.clearance)
    return _Line(i, j, way, through, (one, two))


Reach = list[tuple[float, float]]


def _reaches(ribs: list[Rib], lines: list[_Line]) -> list[tuple[Reach, Reach]]:
    """From where to where, along each line, the material of both ribs goes within their strips, piece by piece."""
    out: list[tuple[Reach, Reach]] = [([], []) for _ in lines]
    if not lines:
        return out
    for side in (0, 1):
        of = [ribs[line.second if side else line.first] for line in lines]
        strips = [line.strips[side] for line in lines]
        far = 10.0 * max(
            float(np.abs(shapely.get_coordinates(r.shape)).max(initial=1.0)) for r in {id(r): r for r in of}.values()
        )
        boxes = shapely.polygons(np.stack([s.corners(s.base - far, s.base + far) for s in strips]))
        pieces, line = shapely.get_parts(
            shapely.intersection(np.array([r.shape for r in of], object), boxes), return_index=True
        )
        kept = shapely.area(pieces) > 0
        pieces, line = pieces[kept], line[kept]
        if not len(pieces):
            continue
        places, piece = shapely.get_coordinates(pieces, return_index=True)
        along = np.array([s.along for s in strips])[line[piece]]
        v = np.einsum("ij,ij->i", places, along) + np.array([s.base for s in strips])[line[piece]]
        starts = np.flatnonzero(np.diff(piece, prepend=-1))
        low, high = np.minimum.reduceat(v, starts), np.maximum.reduceat(v, starts)
        for k, a, b in zip(line.tolist(), low.tolist(), high.tolist(), strict=True):
            out[k][side].append((a, b))
    return out


def _crossing(
    line: _Line, reach: tuple[Reach, Reach], slots: Slots
) -> tuple[Crossing, list[Any], list[Any], tuple[shapely.Polygon, shapely.Polygon]] | None:
    one, two = line.strips
    pairs = [(m, n, max(lo, p), min(hi, q)) for m, (lo, hi) in enumerate(reach[0]) for n, (p, q) in enumerate(reach[1])]
    pairs = [(m, n, lo, hi) for m, n, lo, hi in pairs if hi > lo + 1e-9]
    if not pairs:
        return None
    middle = {(m, n): lo + (1 - slots.share) * (hi - lo) for m, n, lo, hi in pairs}
    own = [
        _slot(one, min(v for (p, _), v in middle.items() if p == m), reach[0][m][1], 1.0, slots)
        for m in {p[0] for p in pairs}
    ]
    other = [
        _slot(two, max(v for (_, q), v in middle.items() if q == n), reach[1][n][0], -1.0, slots)
        for n in {p[1] for p in pairs}
    ]
    spans = tuple((lo, hi) for _, _, lo, hi in pairs)
    crossing = Crossing(
        line.first, line.second, line.through + line.way * (spans[0][0] + spans[0][1]) / 2, line.way, spans,
        tuple(middle[m, n] for m, n, _, _ in pairs), _locked(reach, pairs, middle),
    )  # fmt: skip
    met = {p[0] for p in pairs}, {p[1] for p in pairs}
    zone = (
        one.box(min(reach[0][m][0] for m in met[0]), max(reach[0][m][1] for m in met[0])),
        two.box(min(reach[1][n][0] for n in met[1]), max(reach[1][n][1] for n in met[1])),
    )
    return crossing, own, other, zone


def _locked(reach: Any, pairs: Any, middle: dict[tuple[int, int], float]) -> str:
    """Whether what is left of the second rib would have to pass through what is left of the first on its way in."""
    below = {m: min(v for (p, _), v in middle.items() if p == m) for m in {p[0] for p in pairs}}
    above = {n: max(v for (_, q), v in middle.items() if q == n) for n in {p[1] for p in pairs}}
    for low in above.values():
        for m, high in below.items():
            if reach[0][m][0] > low + 1e-9 and high > reach[0][m][0] + 1e-9:
                return "lock each other: one lies above the other and below it at once"
        if any(reach[0][m][0] > low + 1e-9 for m in range(len(reach[0])) if m not in below):
            return "lock each other: more of the first lies above the slot"
    return ""


def _slot(strip: _Strip, middle: float, end: float, sense: float, slots: Slots) -> Any:
    """What is taken out of a rib: from the middle to its end, in the sense of the way, with reliefs."""
    far = end + sense * PAST
    pieces = [strip.box(min(middle, far), max(middle, far))]
    w = strip.width / 2
    if slots.relief > 0:
        r = slots.relief
        dx, dy = {"diagonal": (-r / np.sqrt(2), r / np.sqrt(2)), "across": (0.0, r), "along": (-r, 0.0)}[slots.corners]
        for side in (-1.0, 1.0):
            centre = strip.place(strip.at + side * (w + dx), middle + sense * dy - strip.base)
            pieces.append(shapely.Point(centre).buffer(r, quad_segs=ARC))
    return shapely.union_all(pieces) if len(pieces) > 1 else pieces[0]


def _without(shape: shapely.Polygon, cuts: list[Any]) -> tuple[shapely.Polygon, bool]:
    """A plate less its slots, and whether more than chips came off with them; then the largest piece is kept."""
    if not cuts:
        return shape, False
    left = [p for p in shapely.get_parts(shape.difference(shapely.union_all(cuts))) if isinstance(p, shapely.Polygon)]
    if not left:
        return shapely.Polygon(), True
    left.sort(key=lambda p: -p.area)
    return left[0], sum(p.area for p in left[1:]) > 0.02 * left[0].area


def _crowded(ribs: list[Rib], crossings: list[Crossing], zones: list[list[Any]], slots: Slots) -> list[Crossing]:
    """Crossings with a word for those whose slots leave less than the least wall to an end or to another slot."""
    if slots.wall <= 0:
        return crossings
    out = []
    order: list[int] = [0] * len(ribs)
    for crossing in crossings:
        wrong = crossing.wrong
        for k in (crossing.first, crossing.second):
            zone = zones[k][order[k]]
            order[k] += 1
            if wrong:
                continue
            others = [z for z in zones[k] if z is not zone]
            if others and float(shapely.distance(np.array(others, object), zone).min()) < slots.wall:
                wrong = f"leave less than {slots.wall * 1000:g} mm to another slot in {ribs[k].label}"
            elif _thin(ribs[k].shape, zone, slots.wall):
                wrong = f"leave less than {slots.wall * 1000:g} mm at an end of {ribs[k].label}"
        out.append(replace(crossing, wrong=wrong))
    return out


def _thin(shape: shapely.Polygon, zone: shapely.Polygon, wall: float) -> bool:
    """Whether half way along a zone the plate beside it is not as wide as a wall on one of its sides."""
    ring = np.asarray(zone.exterior.coords)[:4]
    across = (ring[1] - ring[0]) / np.linalg.norm(ring[1] - ring[0]) * wall
    for a, b, way in ((ring[0], ring[3], -across), (ring[1], ring[2], across)):
        beside = shapely.LineString([(a + b) / 2, (a + b) / 2 + way])
        if shape.intersection(beside).length < 0.98 * wall:
            return True
    return False
