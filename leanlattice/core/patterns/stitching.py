"""Patterns laid on the charts of one shape, made one along the seams between them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..geometry.charts import Charted
from ..geometry.meshsurface import MeshSurface
from ..geometry.polygons import cleaned
from ..geometry.regions import CORNER
from .flat import FlatPattern, following_corners

__all__ = ["stitched"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Edge = tuple[int, int]
ON_OUTLINE = 1e-5
"""Vertices within this share of a chart's size of its outline lie on it."""


@dataclass(frozen=True, eq=False)
class _Chain:
    """A run of seam from one stop to the next: vertices of the whole mesh and how far along (m)
    each lies."""

    vertices: list[int]
    along: Array


class _Seams:
    """The lines between charts and at borders, in runs between stops: places where seams branch or
    turn a corner."""

    def __init__(self, surface: Charted) -> None:
        self.points = surface.whole.vertices
        self.loops = [
            [of[loop].tolist() for loop in c.mesh.loops]
            for of, c in zip(surface.vertex_of, surface.charts, strict=True)
        ]
        beside: dict[int, set[int]] = defaultdict(set)
        for chart in self.loops:
            for loop in chart:
                for a, b in zip(loop, loop[1:] + loop[:1], strict=True):
                    beside[a].add(b)
                    beside[b].add(a)
        stops = {v for v, near in beside.items() if len(near) != 2} | self._corners(surface)
        self.chains: list[_Chain] = []
        self.of_edge: dict[Edge, tuple[int, int]] = {}
        """Chain and position in it of a seam's edge, written with its lower vertex first."""
        for v in sorted(stops):
            for w in sorted(beside[v]):
                if _edge(v, w) not in self.of_edge:
                    self._walk(v, w, beside, stops)
        for v in sorted(beside):  # runs that close without a stop get one
            for w in sorted(beside[v]):
                if _edge(v, w) not in self.of_edge:
                    stops.add(v)
                    self._walk(v, w, beside, stops)
        self.stops = stops

    @staticmethod
    def _corners(surface: Charted) -> set[int]:
        out = set()
        for of, chart in zip(surface.vertex_of, surface.charts, strict=True):
            for loop in chart.mesh.loops:
                ring = chart.uv[loop] * chart.real
                a, b = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
                turn = np.arctan2(
                    a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], np.einsum("ij,ij->i", a, b)
                )
                out.update(of[loop[np.abs(turn) > CORNER]].tolist())
        return out

    def _walk(self, start: int, second: int, beside: dict[int, set[int]], stops: set[int]) -> None:
        run = [start, second]
        while run[-1] not in stops:
            run.append(next(v for v in beside[run[-1]] if v != run[-2]))
        for k, (a, b) in enumerate(pairwise(run)):
            self.of_edge[_edge(a, b)] = (len(self.chains), k)
        steps = np.linalg.norm(np.diff(self.points[run], axis=0), axis=1)
        self.chains.append(_Chain(run, np.concatenate([[0.0], np.cumsum(steps)])))

    def along(self, a: int, b: int, share: float) -> tuple[int, float]:
        """Chain of the edge from ``a`` to ``b``, and how far along it the place the given share of
        the way lies."""
        chain, k = self.of_edge[_edge(a, b)]
        c = self.chains[chain]
        if c.vertices[k] != a:
            share = 1 - share
        return chain, float(c.along[k] + share * (c.along[k + 1] - c.along[k]))


def _edge(a: int, b: int) -> Edge:
    return (a, b) if a < b else (b, a)


@dataclass(frozen=True, eq=False)
class _Marks:
    """Vertices on a chain: their numbers and how far along, from stop to stop."""

    numbers: list[int]
    along: Array


def stitched(
    surface: Charted, flats: list[FlatPattern], near: float
) -> tuple[Array, Array, Index, Index]:
    """Vertices (n, 3), their parameters (n, 2), corners and offsets of the patterns of all charts
    as one.

    Vertices of either side of a seam that lie within ``near`` (m) of each other along it become
    one; the others become corners of the cells on the other side, so that none hangs on an edge.
    """
    seams = _Seams(surface)
    found = [
        _on_outline(flat, chart, of, seams, near)
        for flat, chart, of in zip(flats, surface.charts, surface.vertex_of, strict=True)
    ]
    wanted: dict[int, list[float]] = defaultdict(list)
    for places in found:
        for c, s in places.values():
            wanted[c].append(s)
    number_of_stop = {v: k for k, v in enumerate(sorted(seams.stops))}
    at_stops = [seams.points[v] for v in number_of_stop]
    vertices: list[Array] = list(at_stops)
    marks = []
    for i, chain in enumerate(seams.chains):
        first, last = number_of_stop[chain.vertices[0]], number_of_stop[chain.vertices[-1]]
        between = _merged(np.sort(wanted[i]), float(chain.along[-1]), near)
        numbers = list(range(len(vertices), len(vertices) + len(between)))
        vertices += _places_along(chain, between, seams.points)
        marks.append(_Marks([first, *numbers, last], np.array([0.0, *between, chain.along[-1]])))
    all_corners: list[int] = []
    counts: list[int] = []
    uv = _SeamParameters(surface, seams, marks, len(vertices))
    blocks, uv_blocks = [np.array(vertices).reshape(-1, 3)], [uv.values]
    start = len(vertices)
    for i, (flat, chart, places) in enumerate(zip(flats, surface.charts, found, strict=True)):
        name = start + np.arange(len(flat.uv))
        for v, (c, s) in places.items():
            m = marks[c]
            name[v] = m.numbers[int(np.argmin(np.abs(m.along - s)))]
        rounds = [_round(loop, seams, marks) for loop in seams.loops[i]]
        _add_cells(flat, name, set(places), rounds, all_corners, counts)
        blocks.append(chart.points(flat.uv))
        uv_blocks.append(flat.uv * surface.scale[i] + surface.low[i])
        start += len(flat.uv)
    offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
    corners, offsets = cleaned(np.array(all_corners, np.int32), offsets)
    used, number = np.unique(corners, return_inverse=True)
    return (
        np.vstack(blocks)[used],
        np.clip(np.vstack(uv_blocks)[used], 0, 1),
        number.astype(np.int32),
        offsets,
    )


def _on_outline(
    flat: FlatPattern, chart: MeshSurface, of: Index, seams: _Seams, near: float
) -> dict[int, tuple[int, float]]:
    """Vertices of a pattern at its open sides that lie on the chart's outline: the chain, and how
    far along."""
    after = following_corners(flat)
    a, b = np.minimum(flat.corners, after), np.maximum(flat.corners, after)
    _, which, times = np.unique(
        a.astype(np.int64) * len(flat.uv) + b, return_inverse=True, return_counts=True
    )
    open_sides = times[which.ravel()] == 1
    loose = np.unique(np.concatenate([flat.corners[open_sides], after[open_sides]]))
    outline = _Outline(chart)
    place = outline.nearest(flat.uv[loose], min(near, ON_OUTLINE * max(chart.real)))
    found = {v: p for v, p in zip(loose.tolist(), place, strict=True) if p is not None}
    _put_in_order(
        found,
        dict(zip(flat.corners[open_sides].tolist(), after[open_sides].tolist(), strict=True)),
        outline,
    )
    return {
        v: seams.along(int(of[outline.start[k]]), int(of[outline.end[k]]), share)
        for v, (k, share) in found.items()
    }


class _Outline:
    """A chart's outlines as segments: their ends ``start`` and ``end`` among its vertices, the loop
    each is of, and how far along it (m) it begins."""

    def __init__(self, chart: MeshSurface) -> None:
        loops = chart.mesh.loops
        self.size = np.array(chart.real)
        self.uv = chart.uv
        self.start = np.concatenate(loops)
        self.end = np.concatenate([np.roll(loop, -1) for loop in loops])
        self.loop = np.repeat(np.arange(len(loops)), [len(loop) for loop in loops])
        p = chart.mesh.vertices
        self.length = np.linalg.norm(p[self.end] - p[self.start], axis=1)
        total = np.bincount(self.loop, self.length)
        self.begins = np.cumsum(self.length) - self.length - (np.cumsum(total) - total)[self.loop]
        self.total = total

    def nearest(self, uv: Array, near: float) -> list[tuple[int, float] | None]:
        """Segment and share along it nearest to each place (n, 2), ``None`` where it is not within
        ``near`` (m)."""
        p, q = self.uv[self.start] * self.size, self.uv[self.end] * self.size
        step = q - p
        length2 = np.maximum(np.einsum("ij,ij->i", step, step), 1e-300)
        out: list[tuple[int, float] | None] = []
        for block in np.array_split(uv * self.size, max(1, len(uv) * len(p) // 2_000_000)):
            share = np.clip(np.einsum("nkd,kd->nk", block[:, None] - p[None], step) / length2, 0, 1)
            away = np.linalg.norm(p[None] + share[..., None] * step[None] - block[:, None], axis=2)
            best = np.argmin(away, axis=1)
            rows = np.arange(len(block))
            for k, t, d in zip(
                best.tolist(), share[rows, best].tolist(), away[rows, best].tolist(), strict=True
            ):
                out.append((k, t) if d < near else None)
        return out

    def along(self, place: tuple[int, float]) -> tuple[int, float]:
        """Loop, and how far along it (m) a place lies."""
        k, share = place
        return int(self.loop[k]), float(self.begins[k] + share * self.length[k])


def _put_in_order(
    found: dict[int, tuple[int, float]], onward: dict[int, int], outline: _Outline
) -> None:
    """Where the next vertex along an outline would come to lie before the last one, both are put in
    one place."""
    for v in sorted(found, key=lambda v: outline.along(found[v])):
        w = onward.get(v, -1)
        if w in found:
            (loop, s), (loop_w, s_w) = outline.along(found[v]), outline.along(found[w])
            if loop == loop_w and (s_w - s) % outline.total[loop] > outline.total[loop] / 2:
                found[w] = found[v]


def _merged(sorted_along: Array, length: float, near: float) -> list[float]:
    """Places within a chain, those near each other as one in their middle and those near its stops
    left out."""
    out: list[list[float]] = []
    for s in sorted_along.tolist():
        if s < near or s > length - near:
            continue
        if out and s - out[-1][-1] < near and s - out[-1][0] < 2 * near:
            out[-1].append(s)
        else:
            out.append([s])
    return [float(np.mean(group)) for group in out]


def _places_along(chain: _Chain, between: list[float], points: Array) -> list[Array]:
    run = points[chain.vertices]
    return list(np.stack([np.interp(between, chain.along, run[:, k]) for k in range(3)], axis=1))


class _SeamParameters:
    """Parameters of the vertices on seams, each in one of the charts beside it."""

    def __init__(self, surface: Charted, seams: _Seams, marks: list[_Marks], count: int) -> None:
        self.values = np.zeros((count, 2))
        for i, (loops, chart) in enumerate(zip(seams.loops, surface.charts, strict=True)):
            local = {v: k for k, v in enumerate(surface.vertex_of[i].tolist())}
            uv = chart.uv * surface.scale[i] + surface.low[i]
            chains = {
                seams.of_edge[_edge(a, b)][0]
                for loop in loops
                for a, b in zip(loop, loop[1:] + loop[:1], strict=True)
            }
            for c in chains:
                chain = seams.chains[c]
                if all(v in local for v in chain.vertices):
                    run = uv[[local[v] for v in chain.vertices]]
                    m = marks[c]
                    self.values[m.numbers] = np.column_stack(
                        [np.interp(m.along, chain.along, run[:, k]) for k in (0, 1)]
                    )


def _round(loop: list[int], seams: _Seams, marks: list[_Marks]) -> list[int]:
    """Numbers of the vertices round a chart's outline, in its order."""
    first = next(k for k, v in enumerate(loop) if v in seams.stops)
    loop = loop[first:] + loop[:first]
    out: list[int] = []
    k = 0
    while k < len(loop):
        chain, position = seams.of_edge[_edge(loop[k], loop[(k + 1) % len(loop)])]
        run = seams.chains[chain].vertices
        forward = position == 0 and run[0] == loop[k] and run[1] == loop[(k + 1) % len(loop)]
        numbers = marks[chain].numbers
        out += (numbers if forward else numbers[::-1])[:-1]
        k += len(run) - 1
    return out


def _add_cells(
    flat: FlatPattern, name: NDArray[np.int64], on_seam: set[int], rounds: list[list[int]], corners: list[int],
    counts: list[int],
) -> None:  # fmt: skip
    """Adds the cells of one chart, with every vertex of the seams beside them as a corner."""
    where: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for r, ring in enumerate(rounds):
        for k, v in enumerate(ring):
            where[v].append((r, k))
    after = following_corners(flat)
    times: dict[Edge, int] = defaultdict(int)
    for a, b in zip(flat.corners.tolist(), after.tolist(), strict=True):
        times[_edge(a, b)] += 1
    a_of, b_of = flat.corners.tolist(), after.tolist()
    for c in range(flat.cell_count):
        begin = len(corners)
        for h in range(flat.offsets[c], flat.offsets[c + 1]):
            a, b = a_of[h], b_of[h]
            corners.append(int(name[a]))
            if a in on_seam and b in on_seam and times[_edge(a, b)] == 1:
                corners += _between(int(name[a]), int(name[b]), where, rounds)
        counts.append(len(corners) - begin)


def _between(
    a: int, b: int, where: dict[int, list[tuple[int, int]]], rounds: list[list[int]]
) -> list[int]:
    """Numbers strictly between two vertices along an outline, the shortest such run."""
    best: list[int] = []
    least = -1
    for r, k in where[a]:
        ring = rounds[r]
        for r2, k2 in where[b]:
            steps = (k2 - k) % len(ring)
            if r == r2 and a != b and (least < 0 or steps < least):
                least = steps
                best = [ring[(k + i) % len(ring)] for i in range(1, steps)]
    return best
