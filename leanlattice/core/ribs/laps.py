"""Half-laps where ribs of two sets cross."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

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
    how it clears the inner ones: along the slot, across it, or diagonally; ``chamfer`` widens the mouth; ``wall`` is the
    least that may stay between a slot and an end or another slot."""

    clearance: float = 0.0
    share: float = 0.5
    relief: float = 0.0
    corners: str = "diagonal"
    chamfer: float = 0.0
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

    def box(self, low: float, high: float, extra: float = 0.0) -> shapely.Polygon:
        """The strip between two distances along the way."""
        u, w = self.at, self.width / 2 + extra
        corner = [(u - w, low), (u + w, low), (u + w, high), (u - w, high)]
        return shapely.Polygon([self.place(a, b - self.base) for a, b in corner])

    def place(self, u: float, v: float) -> Array:
        return np.asarray(u * self.across + v * self.along)

    def reach(self, shape: shapely.Polygon) -> tuple[float, float]:
        v = shapely.get_coordinates(shape) @ self.along + self.base
        return float(v.min()), float(v.max())


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
    for i, j in _near(first, second):
        check()
        met = _crossing(ribs, i, j + len(first), slots, up)
        if met is None:
            continue
        crossing, own, others, zone = met
        cuts[i] += own
        cuts[j + len(first)] += others
        zones[i].append(zone[0])
        zones[j + len(first)].append(zone[1])
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


def _strip(rib: Rib, other: Rib, way: Array, through: Array, width: float) -> _Strip:
    along = np.array([way @ rib.x, way @ rib.y])
    across = np.array([along[1], -along[0]])
    off = through - rib.origin
    return _Strip(across, along, float(np.array([off @ rib.x, off @ rib.y]) @ across), width, float(rib.origin @ way))


def _crossing(
    ribs: list[Rib], i: int, j: int, slots: Slots, up: Array
) -> tuple[Crossing, list[Any], list[Any], tuple[shapely.Polygon, shapely.Polygon]] | None:
    a, b = ribs[i], ribs[j]
    cosine = float(a.normal @ b.normal)
    way = np.cross(a.normal, b.normal)
    sine = float(np.linalg.norm(way))
    if sine < LEAST_SINE:
        return None
    way = way / sine
    # Level lines lead outward: along x of the rib that stands more upright.
    outward = up if abs(way @ up) > LEVEL else (a if abs(a.normal @ up) < abs(b.normal @ up) else b).x
    way = way if way @ outward >= 0 else -way
    system = np.stack([a.normal, b.normal, way])
    through = np.linalg.solve(system, np.array([a.normal @ a.origin, b.normal @ b.origin, 0.0]))
    one = _strip(a, b, way, through, slot_width(a.thickness, b.thickness, cosine) + slots.clearance)
    two = _strip(b, a, way, through, slot_width(b.thickness, a.thickness, cosine) + slots.clearance)
    parts = [
        [p for p in shapely.get_parts(r.shape.intersection(s.box(-1e4, 1e4))) if p.area > 0]
        for r, s in ((a, one), (b, two))
    ]
    reach = [[s.reach(p) for p in some] for s, some in zip((one, two), parts, strict=True)]
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
        i, j, through + way * (spans[0][0] + spans[0][1]) / 2, way, spans, tuple(middle[m, n] for m, n, _, _ in pairs),
        _locked(reach, pairs, middle),
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
    """What is taken out of a rib: from the middle to its end, in the sense of the way, with reliefs and chamfers."""
    far = end + sense * PAST
    pieces = [strip.box(min(middle, far), max(middle, far))]
    w = strip.width / 2
    if slots.relief > 0:
        r = slots.relief
        dx, dy = {"diagonal": (-r / np.sqrt(2), r / np.sqrt(2)), "across": (0.0, r), "along": (-r, 0.0)}[slots.corners]
        for side in (-1.0, 1.0):
            centre = strip.place(strip.at + side * (w + dx), middle + sense * dy - strip.base)
            pieces.append(shapely.Point(centre).buffer(r, quad_segs=ARC))
    if slots.chamfer > 0:
        c = slots.chamfer
        corner = [(-w, end - sense * c), (w, end - sense * c), (w + c + PAST, far), (-w - c - PAST, far)]
        pieces.append(shapely.Polygon([strip.place(strip.at + u, v - strip.base) for u, v in corner]))
    return shapely.union_all(pieces)


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
