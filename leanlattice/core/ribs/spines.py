"""Ribs along a spine: planes square to it, and surfaces that follow it at an offset."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.bends import Bend
from ..results import Result
from .planes import Planes

__all__ = ["Bends", "FoldError", "Spine"]

Array = NDArray[np.float64]
SAG = 4e-4
"""Plane pieces of a bent plate lie at most so far (m) off its curve."""
STEPS = 8
"""Places looked at between corners of a spine, and those where it is extended."""

STRETCH = 0.05
"""Share of a spine within which it is one and the same stretch."""
SMOOTH = np.cos(np.radians(5.0))
"""Segments of a curve turn by less from one to the next."""

ONE = 1e-6
"""Planes that cross a spine nearer (m) to each other do so in one place."""


class FoldError(Exception):
    """An offset larger than the radius of the spine, ``radius`` (m), or one that crosses itself,
    where it is none."""

    def __init__(self, radius: float | None) -> None:
        super().__init__("the offset crosses itself or folds over")
        self.radius = radius


@dataclass(frozen=True, eq=False)
class Bends:
    """Upright surfaces that ribs are bent to."""

    bends: tuple[Bend, ...]

    def __len__(self) -> int:
        return len(self.bends)

    def lifted(self, flat: Array, which: NDArray[np.int64]) -> tuple[Array, Array]:
        """Places (n, 3) in space of flat places (n, 2) of surfaces ``which`` (n,), and the unit
        vectors (n, 2, 3) there along x and upward; none along x where they are bent, so that a
        place there stays there."""
        places, ways = np.empty((len(flat), 3)), np.zeros((len(flat), 2, 3))
        ways[:, 1, 2] = 1.0
        for k, bend in enumerate(self.bends):
            own = np.flatnonzero(which == k)
            x = flat[own, 0]
            places[own] = bend.places(flat[own])
            free = own[~np.isin(x, bend.at[1:-1])]
            ways[free, 0, :2] = bend.ways[bend.piece_at(flat[free, 0])]
        return places, ways


@dataclass(frozen=True, eq=False)
class Spine(Result):
    """A spine by its polyline (m, 3), whose first place comes again at the end where it is closed.
    Its true tangent runs evenly between the middles of the segments."""

    line: Array

    @cached_property
    def _steps(self) -> tuple[Array, Array, Array]:
        """Places (n, 3), distances along it in plan (n,), and unit directions (n − 1, 2), of
        segments that have a length."""
        step = np.diff(self.line[:, :2], axis=0)
        length = np.linalg.norm(step, axis=1)
        kept = length > 1e-12
        at = np.concatenate([[0.0], np.cumsum(length[kept])])
        return self.line[np.append(kept, True)], at, step[kept] / length[kept][:, None]

    @property
    def length(self) -> float:
        """Length in plan, in metres."""
        return float(self._steps[1][-1])

    @property
    def closed(self) -> bool:
        return bool(np.linalg.norm(self.line[0, :2] - self.line[-1, :2]) < 1e-9 and self.length > 0)

    def _ways(self, u: Array) -> Array:
        """Unit tangents (n, 2) in plan at distances along it."""
        _, at, unit = self._steps
        middle = (at[1:] + at[:-1]) / 2
        if self.closed:
            middle = np.concatenate([[middle[-1] - at[-1]], middle, [middle[0] + at[-1]]])
            unit = np.vstack([unit[-1:], unit, unit[:1]])
        elif len(unit) > 1:
            ends = []
            for a, b, way, after in (
                (at[0], middle[:2], unit[0], unit[1]),
                (at[-1], middle[:-3:-1], unit[-1], unit[-2]),
            ):
                # A curve goes on turning towards its end; a corner does not.
                smooth = way @ after > SMOOTH
                ends.append(way + (way - after) * (a - b[0]) / (b[0] - b[1]) if smooth else way)
            middle = np.concatenate([at[:1], middle, at[-1:]])
            unit = np.vstack([ends[0], unit, ends[1]])
        way = np.column_stack([np.interp(u, middle, unit[:, k]) for k in range(2)])
        return np.asarray(way / np.linalg.norm(way, axis=1, keepdims=True))

    def _places(self, u: Array) -> Array:
        """Places (n, 3) at distances along it; beyond its ends it runs straight on."""
        line, at, _ = self._steps
        out = np.column_stack([np.interp(u, at, line[:, k]) for k in range(3)])
        ends = self._ways(np.array([0.0, at[-1]]))
        for past, way in ((np.minimum(u, 0.0), ends[0]), (np.maximum(u - at[-1], 0.0), ends[1])):
            out[:, :2] += past[:, None] * way
        return out

    def planes(self, places: Array) -> Planes:
        """Upright planes square to its plan at distances (n,) along it; what lies nearer to another
        stretch of it, as in the other leg of a hall that turns back, is not of them."""
        way, origin = self._ways(places), self._places(places)
        x = np.column_stack([-way[:, 1], way[:, 0], np.zeros(len(way))])
        line, at, _ = self._steps
        away = np.abs(at - places[:, None])
        away = np.minimum(away, at[-1] - away) if self.closed else away
        off = line[None, :, :2] - origin[:, None, :2]
        # A ball that touches the spine at one place and passes through another has this radius.
        across = np.einsum("ijk,ik->ij", off, x[:, :2])
        size = np.einsum("ijk,ijk->ij", off, off) / (2 * np.where(across == 0, 1e-300, across))
        other = away > STRETCH * at[-1]
        high = np.where(other & (across > 0), size, np.inf).min(axis=1)
        low = np.where(other & (across < 0), size, -np.inf).max(axis=1)
        return Planes(
            origin, x, np.tile([0.0, 0, 1.0], (len(way), 1)), near=np.column_stack([low, high])
        )

    def aside(self, places: Array) -> tuple[float, float]:
        """How far (m) places (n, 3) beside it lie from it in plan, at least and at most, to the
        left positive."""
        line, at, _ = self._steps
        drawn = shapely.LineString(line[:, :2])
        points = shapely.points(places[:, :2])
        u = np.asarray(shapely.line_locate_point(drawn, points))
        beside = (u > 1e-9) & (u < at[-1] - 1e-9) | self.closed
        if not beside.any():
            beside[:] = True
        way, off = self._ways(u[beside]), places[beside, :2] - self._places(u[beside])[:, :2]
        left = way[:, 0] * off[:, 1] - way[:, 1] * off[:, 0]
        return float(left.min()), float(left.max())

    def beyond(self, places: Array) -> tuple[float, float]:
        """How far (m) places (n, 3) in plan that no part of it but an end is nearest to lie past
        its start and its end."""
        line, at, _ = self._steps
        if self.closed:
            return 0.0, 0.0
        u = np.asarray(
            shapely.line_locate_point(
                shapely.LineString(line[:, :2]), shapely.points(places[:, :2])
            )
        )
        ways = self._ways(np.array([0.0, at[-1]]))
        first = (line[0, :2] - places[u < 1e-9, :2]) @ ways[0]
        last = (places[u > at[-1] - 1e-9, :2] - line[-1, :2]) @ ways[1]
        return float(first.max(initial=0.0)), float(last.max(initial=0.0))

    def follow(
        self, offset: float, planes: Planes, beyond: tuple[float, float], flat: float
    ) -> Bend:
        """What runs ``offset`` metres to its left, straight on by so much ``beyond`` its start and
        its end.

        It is in plane pieces: one ``flat`` metres to both sides of every place where one of the
        ``planes`` crosses it, so that slots are cut in plane plates, and between these as many as
        keep within ``SAG`` of the curve. Raises ``FoldError`` where it would fold over.
        """
        u, track, along = self._track(offset)
        beyond = (0.0, 0.0) if self.closed else beyond
        crossed = _crossed(track, along, planes, beyond)
        stops = _stops(
            crossed, flat, np.unique([-beyond[0], 0.0, along[-1], along[-1] + beyond[1]])
        )
        way = self._ways(u)
        heading = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
        low, high = stops[:-1], stops[1:]
        turn = np.abs(np.interp(high, along, heading) - np.interp(low, along, heading))
        # A chord of length l that turns by t lies l t / 8 off its arc.
        inside = np.clip(high, 0, along[-1]) - np.clip(low, 0, along[-1])
        pieces = np.maximum(np.ceil(np.sqrt(inside * turn / 8 / SAG)), 1).astype(int)
        pieces[np.searchsorted(crossed, low) < np.searchsorted(crossed, high)] = 1
        at = np.concatenate(
            [
                np.linspace(a, b, n, endpoint=False)
                for a, b, n in zip(low, high, pieces, strict=True)
            ]
        )
        at = np.append(at, high[-1])
        line = np.column_stack([np.interp(at, along, track[:, k]) for k in range(2)])
        line += (
            np.minimum(at, 0.0)[:, None] * way[0]
            + np.maximum(at - along[-1], 0.0)[:, None] * way[-1]
        )
        bent = np.abs(np.diff(heading)) / np.diff(along)
        if self.closed:
            line[-1] = line[0]
        if not shapely.LineString(line).is_simple:
            raise FoldError(None)
        return Bend(line, float(1 / max(bent.max(initial=0.0), 1e-9)))

    def _track(self, offset: float) -> tuple[Array, Array, Array]:
        """Distances along the spine (n,), places (n, 2) so far to its left, and the distances along
        these."""
        _, at, _ = self._steps
        u = np.unique(
            np.concatenate(
                [np.linspace(a, b, STEPS, endpoint=False) for a, b in itertools.pairwise(at)]
                + [at[-1:]]
            )
        )
        way = self._ways(u)
        left = np.column_stack([-way[:, 1], way[:, 0]])
        track = self._places(u)[:, :2] + offset * left
        step = np.diff(track, axis=0)
        ahead = np.einsum("ij,ij->i", step, way[1:] + way[:-1]) / 2
        folded = np.flatnonzero(ahead <= 1e-9 * np.diff(u))
        if len(folded):
            k = int(folded[np.argmin(ahead[folded] / np.diff(u)[folded])])
            turned = np.linalg.norm(way[k + 1] - way[k])
            raise FoldError(float(np.diff(u)[k] / max(turned, 1e-12)))
        return u, track, np.concatenate([[0.0], np.cumsum(np.linalg.norm(step, axis=1))])


def _crossed(track: Array, along: Array, planes: Planes, beyond: tuple[float, float]) -> Array:
    """Distances along a track (n, 2), carried straight on ``beyond`` its ends, at which planes
    cross it."""
    first, last = track[0] - track[1], track[-1] - track[-2]
    if any(beyond):
        ends = [
            track[0] + first / np.linalg.norm(first) * beyond[0],
            track[-1] + last / np.linalg.norm(last) * beyond[1],
        ]
        track = np.vstack([ends[0], track, ends[1]])
        along = np.concatenate([[-beyond[0]], along, [along[-1] + beyond[1]]])
    normal = planes.normals[:, :2]
    off = track @ normal.T - np.einsum("ij,ij->i", planes.origins[:, :2], normal)
    k, which = np.nonzero((off[:-1] < 0) != (off[1:] < 0))
    a, b = off[k, which], off[k + 1, which]
    at = np.sort(along[k] + (along[k + 1] - along[k]) * a / (a - b))
    return at[np.diff(at, prepend=-np.inf) > ONE]


def _stops(crossed: Array, flat: float, ends: Array) -> Array:
    """Ends of the pieces that are plane about each crossing, each shorter where two would run into
    each other, and ``ends`` (k,) that are in none of them."""
    half = np.full(len(crossed), flat)
    if len(crossed) > 1:
        room = np.diff(crossed) / 2
        half = np.minimum(half, np.minimum(np.append(room, np.inf), np.insert(room, 0, np.inf)))
    half = np.minimum(half, np.minimum(crossed - ends[0], ends[-1] - crossed))
    inside = (np.abs(ends[:, None] - crossed) < half).any(axis=1)
    stops = np.unique(np.concatenate([crossed - half, crossed + half, ends[~inside]]))
    kept = [stops[0]]
    for stop in stops[1:-1]:
        if min(stop - kept[-1], stops[-1] - stop) > SHORTEST:
            kept.append(stop)
    return np.array([*kept, stops[-1]])


SHORTEST = 5e-4
"""Plane pieces of a bent rib are not shorter than this (m)."""
