"""Ribs too long for a sheet, parted into lengths that are joined end to end in their own plane."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .laps import Crossing
from .parts import Ribs, Splice
from .plates import Rib

__all__ = ["Joints", "Spliced", "long_side", "spliced"]

Array = NDArray[np.float64]
MOST_PLACES = 400
"""Places a rib is tried to be parted at, at most."""
NARROWEST = 0.01
"""Least width (m) of a finger, or four times the radius of the tool that clears its corners."""
FAR = 1e4
ARC = 8
"""Corners of the circle that clears an inner corner, a quarter."""
ASIDE = 0.03
"""How far (m) from a joint the name of the length beyond it stands."""
TOUCHING, LEAST_JOINT = 0.0005, 0.01
"""Lengths that lie nearer (m) than the first along as much as the second are joined there."""


@dataclass(frozen=True)
class Joints:
    """How ribs are parted, in metres: no length is longer than ``longest`` or taller than
    ``tallest``; joints are of ``fingers`` that reach ``length`` into each other, with a ``gap``
    between them and inner corners cleared by a tool of radius ``relief``; they keep ``clear`` of
    slots and openings and, along a set, ``apart`` from those of the rib beside."""

    longest: float
    tallest: float
    fingers: int
    length: float
    gap: float
    relief: float
    clear: float
    apart: float


@dataclass(frozen=True, eq=False)
class Spliced:
    """``ribs`` with their lengths, labels of those that are ``too_long`` and have no place for a
    joint, of those whose joints lie ``beside`` their neighbours', and of those that are parted
    ``through`` openings, in the arms beside these."""

    ribs: Ribs
    too_long: list[str]
    beside: list[str]
    through: list[str]


def spliced(ribs: Ribs, joints: Joints, check: Callable[[], None] = lambda: None) -> Spliced:
    """Every rib longer than ``joints.longest`` as lengths with fingers between them, and what is
    taller than ``tallest`` parted across as well.

    Of all places where a joint has room those are taken that give the fewest lengths, and of these
    the most even ones. Joints are cut along the plate, so that all is cut from one side.
    """
    out: list[Rib] = []
    of_whole: list[int] = []
    splices: list[Splice] = []
    beyond: list[Any] = []
    too_long: list[str] = []
    beside: list[str] = []
    through: list[str] = []
    last: dict[str, list[Array]] = {}
    for k, rib in enumerate(ribs.ribs):
        check()
        parted = _Parted.of(rib, ribs.zones[k] if ribs.zones else (), joints, last)
        if parted.too_long:
            too_long.append(rib.label)
        if parted.beside:
            beside.append(rib.label)
        if parted.openings:
            through.append(rib.label)
        first, several = len(out), len(parted.lengths) > 1
        for n, shape in enumerate(parted.lengths):
            out.append(replace(rib, shape=shape, splice=n + 1) if several else rib)
            of_whole.append(k)
            edges = [ribs.beyond[k]] if ribs.beyond else []
            beyond.append(shapely.union_all([*edges, *parted.lines, *parted.openings]))
        splices += [
            Splice(first + a, first + b, names) for a, b, names in parted.joined(joints.gap)
        ]
        last[rib.series] = [rib.places(at[None])[0] for at in parted.at]
    made = replace(
        ribs,
        ribs=tuple(out),
        crossings=tuple(_crossings(ribs, out, of_whole)),
        zones=tuple(ribs.zones[k] for k in of_whole) if ribs.zones else (),
        passing=(),
        beyond=tuple(beyond),
        unslotted=(),
        splices=tuple(splices),
        gap=joints.gap * 1000,
        whole=ribs,
        of_whole=tuple(of_whole),
    )
    return Spliced(made, too_long, beside, through)


@dataclass
class _Parted:
    """Lengths of a rib; its joints' ``lines`` and the rings of ``openings`` they lead through, with
    some room about them; where (2,) along it its joints are; and whether it is ``too_long`` still,
    or has joints ``beside`` those of its neighbour."""

    rib: Rib
    lengths: list[shapely.Polygon]
    lines: list[Any]
    openings: list[Any]
    at: list[Array]
    too_long: bool = False
    beside: bool = False

    @classmethod
    def of(
        cls,
        rib: Rib,
        taken: Sequence[shapely.Polygon],
        joints: Joints,
        last: dict[str, list[Array]],
    ) -> _Parted:
        """The rib parted along where it is too long, and what is left across where that is too
        tall."""
        along = np.array([1.0, 0.0]) if rib.bend is not None else _longest(rib.shape)
        out = cls(rib, [rib.shape], [], [], [])
        for way, most in (
            (along, joints.longest),
            (np.array([-along[1], along[0]]), joints.tallest),
        ):
            lengths = []
            for shape in out.lengths:
                row = _Row(shape, way, most, taken, joints)
                lengths += out._parted(row, last.get(rib.series, []) if way is along else [])
            out.lengths = lengths
        out.lengths.sort(key=lambda p: (round(p.bounds[0], 6), p.bounds[1]))
        return out

    def _parted(self, row: _Row, neighbours: Sequence[Array]) -> list[shapely.Polygon]:
        if not row.too_long:
            return [row.whole]
        flat = self.rib.flattened(np.array(neighbours).reshape(-1, 3))
        cuts = row.cuts(flat) if len(flat) else None
        if cuts is None:
            cuts = row.cuts(np.zeros((0, 2)))
            self.beside |= bool(len(flat)) and cuts is not None
        if cuts is None:
            self.too_long = True
            return [row.whole]
        self.lines += [row.back(e) for e in row.lines(cuts.joints)]
        self.openings += [row.back(e) for e in row.openings(cuts.joints)]
        self.at += [np.array([j.x, 0.0]) @ row.frame for j in cuts.joints]
        return [row.back(p) for p in cuts.lengths]

    def joined(self, gap: float) -> list[tuple[int, int, Array]]:
        """Pairs of lengths with a ``gap`` between them, and where in space the name of each stands
        on the other (2, 3)."""
        every: Any = np.array(self.lengths, object)
        grown: Any = shapely.buffer(every, gap / 2 + TOUCHING)
        inner: Any = shapely.buffer(every, -ASIDE)
        inner = np.where(shapely.is_empty(inner), every, inner)
        out = []
        for a, b in itertools.combinations(range(len(every)), 2):
            shared = grown[a].intersection(grown[b])
            if shared.area < LEAST_JOINT * TOUCHING:
                continue
            middle = shared.centroid
            at = [
                shapely.get_coordinates(shapely.shortest_line(inner[k], middle))[0] for k in (a, b)
            ]
            out.append((a, b, self.rib.places(np.array(at))))
        return out


@dataclass(frozen=True, eq=False)
class _Cuts:
    """Lengths of a row, and the joints between them."""

    lengths: list[shapely.Polygon]
    joints: list[_Joint]


class _Row:
    """A shape turned so that the ``way`` (2,) it is to be parted along is x, no longer than
    ``most`` (m)."""

    def __init__(
        self,
        shape: shapely.Polygon,
        way: Array,
        most: float,
        taken: Sequence[shapely.Polygon],
        joints: Joints,
    ) -> None:
        self.frame = np.array([way, [-way[1], way[0]]])
        self.most, self.joints = most, joints
        self.whole, self.shape = shape, self._turned(shape)
        self.low, _, self.high, _ = self.shape.bounds
        near = [z for z in taken if z.intersects(shape)] if self.too_long else []
        self.taken = [self._turned(z).bounds for z in near]

    @property
    def too_long(self) -> bool:
        return self.high - self.low > self.most + 1e-9

    def _turned(self, shape: Any) -> Any:
        return shapely.transform(shape, lambda p: p @ self.frame.T)

    def back(self, shape: Any) -> Any:
        return shapely.transform(shape, lambda p: p @ self.frame)

    def cuts(self, neighbours: Array) -> _Cuts | None:
        """The shape in lengths, with no joint beside the places (n, 2) of ``neighbours``; ``None``
        where there is no room for the joints."""
        places = self._places()
        for x in neighbours @ self.frame[0]:
            places = places[np.abs(places - x) >= self.joints.apart]
        arms = self._arms(places)
        room = {float(x): a for x, a in zip(places, arms, strict=True) if a is not None}
        places = np.array(list(room))
        count = np.array([len(a) for a in room.values()])
        while len(places):
            chosen = self._fewest(places, count)
            if chosen is None:
                return None
            made, wrong = self._cut([(x, room[x]) for x in places[chosen].tolist()])
            if made is not None:
                return made
            places, count = places[places != wrong], count[places != wrong]
        return None

    def lines(self, joints: Sequence[_Joint]) -> list[Any]:
        """Where the edges of its lengths are those of joints."""
        room = max(2 * self.joints.relief, 0.001) + self.joints.gap
        return [j.line.intersection(self.shape).buffer(room) for j in joints]

    def openings(self, joints: Sequence[_Joint]) -> list[Any]:
        """Rings of openings that joints lead through."""
        crossed = [r for r in self.shape.interiors if any(j.line.intersects(r) for j in joints)]
        return [r.buffer(0.001) for r in crossed]

    def _places(self) -> Array:
        """Places along it where a joint keeps clear of what is taken by others."""
        half = self.joints.length / 2 + self.joints.gap
        ends = self.low + 2 * half, self.high - 2 * half
        if ends[1] <= ends[0]:
            return np.zeros(0)
        places = np.linspace(*ends, MOST_PLACES)
        for low, _, high, _ in self.taken:
            off = self.joints.clear + half
            places = places[(places < low - off) | (places > high + off)]
        return places

    def _arms(self, places: Array) -> list[Array | None]:
        """Between which heights (arms, 2) there is material all along a joint at each place, where
        it is wide enough for two fingers at least and nothing begins or ends there."""
        if not len(places):
            return []
        half = self.joints.length / 2 + self.joints.gap + self.joints.clear
        at = places[:, None] + np.array([-half, -half / 2, 0.0, half / 2, half])
        spans = _upright_spans(self.shape, at.ravel())
        least = 2 * max(NARROWEST, 4 * self.joints.relief)
        out: list[Array | None] = []
        for k in range(0, len(spans), at.shape[1]):
            row = spans[k : k + at.shape[1]]
            if len({len(s) for s in row}) > 1 or not len(row[0]):
                out.append(None)
                continue
            every = np.stack(row)
            common = np.column_stack([every[:, :, 0].max(axis=0), every[:, :, 1].min(axis=0)])
            out.append(common if (np.diff(common, axis=1) >= least).all() else None)
        return out

    def _fewest(self, places: Array, arms: Any) -> Any:
        """Which places part it into the fewest lengths that are short enough, of these through the
        fewest arms, and of these into the most even ones; ``None`` where none do."""
        reach, longest = self.joints.length + 2 * self.joints.gap, self.most
        at = np.concatenate([[self.low], places, [self.high]])
        through = np.concatenate([arms, [0.0]])
        # Fingers reach half the joint past where it is; the ends are where they are.
        more = np.concatenate([[0.0], np.full(len(places), reach / 2), [0.0]])
        size = at[None] - at[:, None]
        whole = size + more[None] + more[:, None]
        fits = (size >= reach) & (whole <= longest)
        count = len(at)
        cost, before = np.full(count, np.inf), np.zeros(count, np.int64)
        cost[0] = 0.0
        for k in range(1, count):
            # A length more costs more than any arms, and these more than any unevenness.
            step = 1e6 + 1e3 * through[k - 1] + (whole[:, k] / longest) ** 2
            tried = np.where(fits[:, k], cost + step, np.inf)
            before[k] = int(np.argmin(tried))
            cost[k] = tried[before[k]]
        if not np.isfinite(cost[-1]):
            return None
        chosen = []
        k = int(before[-1])
        while k:
            chosen.append(k - 1)
            k = int(before[k])
        return np.array(chosen[::-1])

    def _cut(self, cuts: Sequence[tuple[float, Array]]) -> tuple[_Cuts | None, float]:
        """The rib parted at places with their arms; where a joint leaves loose pieces, nothing and
        its place."""
        joints = [_Joint.of(x, arms, self.joints) for x, arms in cuts]
        rest = [self.shape]
        lengths: list[shapely.Polygon] = []
        for joint in joints:
            left = [p for piece in rest for p in _polygons(joint.left_of(piece))]
            right = [p for piece in rest for p in _polygons(joint.right_of(piece))]
            straight = shapely.box(-FAR, -FAR, joint.x, FAR)
            sides = (
                sum(len(_polygons(piece.intersection(straight))) for piece in rest),
                sum(len(_polygons(piece.difference(straight))) for piece in rest),
            )
            if (len(left), len(right)) != sides:
                return None, joint.x
            lengths += left
            rest = right
        return _Cuts([*lengths, *rest], joints), 0.0


@dataclass(frozen=True, eq=False)
class _Joint:
    """A joint at ``x``: what lies to its left, its ``line`` and the circles that clear inner
    corners of what is on either side."""

    x: float
    left: Any
    line: Any
    gap: float
    cleared: tuple[Any, Any]

    @classmethod
    def of(cls, x: float, arms: Array, joints: Joints) -> _Joint:
        half, side = joints.length / 2, 1.0
        line: list[Any] = [np.array([x + half, -FAR])]
        for low, high in arms:
            most = int((high - low) / max(NARROWEST, 4 * joints.relief))
            steps = np.linspace(low, high, min(joints.fingers, most) + 1)[1:-1]
            for y in steps:
                line += [np.array([x + side * half, y]), np.array([x - side * half, y])]
                side = -side
        line.append(np.array([x + side * half, FAR]))
        left = shapely.Polygon([*line, [-FAR, FAR], [-FAR, -FAR]])
        circles: tuple[list[Any], list[Any]] = ([], [])
        if joints.relief > 0:
            for a, b, c in zip(line, line[1:], line[2:], strict=False):
                ahead, after = (b - a) / np.linalg.norm(b - a), (c - b) / np.linalg.norm(c - b)
                towards = (after - ahead) / np.sqrt(2)
                middle = b + towards * (joints.relief - joints.gap / np.sqrt(2))
                turns_left = ahead[0] * after[1] - ahead[1] * after[0] > 0
                # What lies on the outer side of a turn has its inner corner there.
                size = joints.relief / np.cos(np.pi / 4 / ARC)
                circles[int(turns_left)].append(shapely.Point(middle).buffer(size, quad_segs=ARC))
        cleared = (shapely.union_all(circles[0]), shapely.union_all(circles[1]))
        return cls(x, left, shapely.LineString(line), joints.gap, cleared)

    def left_of(self, shape: Any) -> Any:
        return self._without_gap(shape.intersection(self.left)).difference(self.cleared[0])

    def right_of(self, shape: Any) -> Any:
        return self._without_gap(shape.difference(self.left)).difference(self.cleared[1])

    def _without_gap(self, shape: Any) -> Any:
        if self.gap <= 0:
            return shape
        return shape.difference(self.line.buffer(self.gap / 2, join_style="mitre"))


def _longest(shape: Any) -> Array:
    """The way (2,) along which a shape is longest, by the smallest rectangle about it; along +x."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shape))
    sides = np.diff(corners[:3], axis=0)
    way = sides[int(np.argmax(np.linalg.norm(sides, axis=1)))]
    way = way / np.linalg.norm(way)
    return np.asarray(way if (way[0], way[1]) > (0, 0) else -way)


def long_side(shape: Any) -> float:
    """Length (m) of the smallest rectangle about a shape."""
    along = shapely.get_coordinates(shape) @ _longest(shape)
    return float(np.ptp(along))


def _upright_spans(shape: shapely.Polygon, at: Array) -> list[Array]:
    """Between which heights (spans, 2), from below, an upright line at each x (n,) lies within a
    shape."""
    rings = [shapely.get_coordinates(r) for r in (shape.exterior, *shape.interiors)]
    a, b = (np.concatenate([r[k : len(r) - 1 + k] for r in rings]) for k in (0, 1))
    order = np.argsort(at, kind="stable")
    low, high = np.minimum(a[:, 0], b[:, 0]), np.maximum(a[:, 0], b[:, 0])
    # A side has its lower end and not its higher one, so that every line passes an even number.
    first, last = (np.searchsorted(at[order], x, side="left") for x in (low, high))
    count = last - first
    side = np.repeat(np.arange(len(a)), count)
    step = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    line = order[first[side] + step]
    share = (at[line] - a[side, 0]) / (b[side, 0] - a[side, 0])
    y = a[side, 1] + share * (b[side, 1] - a[side, 1])
    sorted_by = np.lexsort((y, line))
    ends = np.cumsum(np.bincount(line, minlength=len(at)))
    return [s.reshape(-1, 2) for s in np.split(y[sorted_by], ends[:-1])]


def _polygons(shape: Any) -> list[shapely.Polygon]:
    return [p for p in shapely.get_parts(shape) if isinstance(p, shapely.Polygon) and p.area > 0]


def _crossings(ribs: Ribs, lengths: Sequence[Rib], of_whole: Sequence[int]) -> list[Crossing]:
    """Crossings of whole ribs as those of their lengths: each common length is of that which has
    material beside its slot."""
    mine: dict[int, list[int]] = {}
    for length, whole in enumerate(of_whole):
        mine.setdefault(whole, []).append(length)

    def of(rib: int, at: Array) -> int:
        own = mine[rib]
        if len(own) == 1:
            return own[0]
        place = shapely.Point(ribs.ribs[rib].flattened(at[None])[0])
        return own[int(np.argmin([shapely.distance(lengths[k].shape, place) for k in own]))]

    out = []
    for c in ribs.crossings:
        middle = c.spans[0].mean()
        found: dict[tuple[int, int], list[int]] = {}
        for n, ((low, high), parted) in enumerate(zip(c.spans, c.middles, strict=True)):
            below, above = (c.place + c.way * ((parted + end) / 2 - middle) for end in (low, high))
            found.setdefault((of(c.first, below), of(c.second, above)), []).append(n)
        for (first, second), spans in found.items():
            own = c.spans[spans]
            place = c.place + c.way * (own[0].mean() - middle)
            out.append(
                replace(
                    c, first=first, second=second, place=place, spans=own, middles=c.middles[spans]
                )
            )
    return out
