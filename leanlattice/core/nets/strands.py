"""Strands: edges that run on through vertices, and how they pass over and under each other."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, Weave
from .fans import fans, preceding

__all__ = [
    "Families",
    "Strands",
    "Woven",
    "families_of",
    "ribbons",
    "strand_ends",
    "strands_of",
    "woven",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Long = NDArray[np.int64]
STRAIGHT = np.cos(np.radians(145))


@dataclass(frozen=True, eq=False)
class Strands:
    """End ``2e + k`` is that of edge e at its vertex ``net.edges[e, k]``. ``partner`` (2E,) is the
    end with which the strand runs on there, −1 where it ends; ``strand`` (E,) numbers the strands.
    """

    partner: Long
    strand: Index

    @property
    def count(self) -> int:
        return int(self.strand.max(initial=-1)) + 1


def _around(net: Net) -> list[tuple[Long, Index, NDArray[np.bool_]]]:
    """Ends (n, k) about vertices (n,) in counter-clockwise order, those of one number k together,
    and whether the border passes there: then the first and the last end are those of border edges.
    """
    about, before = fans(net), preceding(net)
    start, stop = about.offsets[:-1], about.offsets[1:]
    sizes = stop - start + about.open
    out = []
    for k in np.unique(sizes):
        for is_open in (False, True):
            rows = np.flatnonzero((sizes == k) & (about.open == is_open))
            if not len(rows):
                continue
            halves = about.half[start[rows][:, None] + np.arange(k - is_open)]
            edge = net.sides[halves]
            if is_open:
                edge = np.column_stack([edge, net.sides[before[halves[:, -1]]]])
            vertex = about.vertex[rows]
            end = 2 * edge.astype(np.int64) + (net.edges[edge, 1] == vertex[:, None])
            out.append((end, vertex, np.full(len(rows), is_open)))
    return out


def strands_of(net: Net) -> Strands:
    """Strands of a net. At an inner vertex with an even number of edges each runs on into the
    opposite one; elsewhere the two run on that are straightest, if they bend by less than 35°.
    Border edges run on into border edges alone."""
    partner = np.full(2 * len(net.edges), -1, np.int64)
    leaving = _leaving(net)
    for ends, _, at_border in _around(net):
        k = ends.shape[1]
        if not at_border[0] and k % 2 == 0:
            partner[ends] = np.roll(ends, k // 2, axis=1)
            continue
        cosine = np.einsum("nid,njd->nij", leaving[ends], leaving[ends])
        cosine[:, np.arange(k), np.arange(k)] = 2.0
        if at_border[0]:
            cosine[:, [0, -1], 1:-1] = cosine[:, 1:-1, [0, -1]] = 2.0
        rows = np.arange(len(ends))
        for _ in range(k // 2):
            best = np.argmin(cosine.reshape(len(ends), -1), axis=1)
            i, j = np.divmod(best, k)
            good = cosine[rows, i, j] < STRAIGHT
            a, b = ends[rows, i][good], ends[rows, j][good]
            partner[a], partner[b] = b, a
            cosine[rows, i], cosine[rows, j] = 2.0, 2.0
            cosine[rows, :, i], cosine[rows, :, j] = 2.0, 2.0
    return Strands(partner, _numbered(partner))


def _leaving(net: Net) -> Array:
    """Unit directions (2E, 3) in which edges leave their ends."""
    step = net.vertices[net.edges[:, 1]] - net.vertices[net.edges[:, 0]]
    step /= np.maximum(np.linalg.norm(step, axis=1, keepdims=True), 1e-300)
    return np.stack([step, -step], axis=1).reshape(-1, 3)


def _numbered(partner: Long) -> Index:
    strand = np.full(len(partner) // 2, -1, np.int32)
    to = partner.tolist()
    number = 0
    for e in range(len(strand)):
        if strand[e] >= 0:
            continue
        strand[e] = number
        for first in (2 * e, 2 * e + 1):
            end = to[first]
            while end >= 0 and strand[end >> 1] < 0:
                strand[end >> 1] = number
                end = to[end ^ 1]
        number += 1
    return strand


@dataclass(frozen=True, eq=False)
class Woven:
    """A net with its weave, how many levels its strands lie on or pass between, the number of
    crossings, and the vertices at which strands cannot be parted as asked for."""

    net: Net
    levels: int
    crossings: int
    unsolved: Long


def woven(net: Net, way: str, width: float, thickness: float) -> Woven:
    """Strands that keep to a level each (``"levels"``) or pass over and under in turns
    (``"alternate"``).

    Levels: as few as a greedy colouring of the strands that cross needs. In turns: one choice at
    each crossing decides the next ones along both its strands; where rings of crossings do not
    agree, the vertices are listed as unsolved.
    """
    found = strands_of(net)
    passes = _passes(net, found)
    # Only the lower of the two ends that meet stands for a pass.
    crossing = {v: p for v, p in passes.items() if len(p) > 1}
    if way == "levels":
        level, count, unsolved = _levels(found, crossing)
    else:
        level, count, unsolved = _in_turns(found, crossing)
    made = Weave(found.strand, level.reshape(-1, 2), width, thickness)
    return Woven(
        replace(net, weave=made), count, len(crossing), np.array(sorted(unsolved), np.int64)
    )


def _passes(net: Net, found: Strands) -> dict[int, list[int]]:
    """At every vertex the strands' passes through it, each by its lower end."""
    ends = np.flatnonzero(found.partner > np.arange(len(found.partner)))
    inner = ~net.border[ends >> 1]
    ends = ends[inner]
    vertex = net.edges.ravel()[ends]
    out: dict[int, list[int]] = {}
    for v, end in zip(vertex.tolist(), ends.tolist(), strict=True):
        out.setdefault(v, []).append(end)
    return out


@dataclass(frozen=True, eq=False)
class Families:
    """Strands of a net of which none crosses another make up a family: the ``level`` (2E,) of each
    end, their ``count``, for each vertex the lower ends of the ``passes`` that may run through it,
    for each end the ``partner`` (2E,) it runs on into, and the ``strand`` (E,) of each edge."""

    level: Array
    count: int
    passes: dict[int, list[int]]
    partner: Long
    strand: Index

    def passing_ends(self, family: int) -> Long:
        """For each end (2E,) the other one with which its strand runs on through their vertex,
        where of all strands that cross there but one does; −1 elsewhere. That of the ``family``
        passes, or else that of the first one; of a strand that crosses itself its first pass."""
        wanted = family - (self.count - 1) / 2
        out = np.full(len(self.partner), -1, np.int64)
        for here in self.passes.values():
            end = min(here, key=lambda e: (self.level[e] != wanted, self.level[e]))
            other = self.partner[end]
            out[end], out[other] = other, end
        return out


def families_of(net: Net) -> Families:
    """The strands of a net in as few families as a greedy colouring needs. Passes that bend by 35°
    or more are none."""
    found = strands_of(net)
    leaving, to = _leaving(net), found.partner
    bent = np.einsum("ij,ij->i", leaving, leaving[to]) >= STRAIGHT
    passes = _passes(net, replace(found, partner=np.where(bent, -1, to)))
    level, count, _ = _levels(found, passes)
    return Families(level, count, passes, to, found.strand)


def _levels(found: Strands, crossing: dict[int, list[int]]) -> tuple[Array, int, set[int]]:
    beside: list[set[int]] = [set() for _ in range(found.count)]
    unsolved = set()
    for v, passes in crossing.items():
        here = [int(found.strand[end >> 1]) for end in passes]
        if len(set(here)) < len(here):
            unsolved.add(v)
        for s in here:
            beside[s].update(t for t in here if t != s)
    colour = np.full(found.count, -1)
    for first in range(found.count):
        if colour[first] >= 0:
            continue
        line = deque([first])
        while line:
            s = line.popleft()
            if colour[s] >= 0:
                continue
            taken = {int(colour[t]) for t in beside[s]}
            colour[s] = next(c for c in range(len(taken) + 1) if c not in taken)
            line.extend(t for t in sorted(beside[s]) if colour[t] < 0)
    count = int(colour.max(initial=0)) + 1
    level = colour[found.strand] - (count - 1) / 2
    return np.repeat(level.astype(float), 2), count, unsolved


def _in_turns(found: Strands, crossing: dict[int, list[int]]) -> tuple[Array, int, set[int]]:
    level = np.zeros(len(found.partner))
    to = found.partner.tolist()
    vertex_of: dict[int, tuple[int, int]] = {}
    for v, passes in crossing.items():
        for k, end in enumerate(passes):
            vertex_of[end] = vertex_of[to[end]] = (v, k)

    def onward(end: int) -> int:
        """The end at the next crossing along the strand that leaves through ``end``, −1 where there
        is none."""
        start = end
        while True:
            end ^= 1
            if end in vertex_of:
                return end
            end = to[end]
            if end < 0 or end == start:
                return -1

    over: dict[int, int] = {}
    unsolved: set[int] = set()
    for first in crossing:
        if first in over:
            continue
        over[first] = 0
        line = deque([first])
        while line:
            v = line.popleft()
            for k, end in enumerate(crossing[v]):
                for leaving in (end, to[end]):
                    reached = onward(leaving)
                    if reached < 0:
                        continue
                    w, j = vertex_of[reached]
                    wanted = (over[v] + k + j + 1) % 2
                    if w not in over:
                        over[w] = wanted
                        line.append(w)
                    elif over[w] != wanted and len(crossing[v]) == len(crossing[w]) == 2:
                        unsolved.add(w)
    most = max((len(p) for p in crossing.values()), default=1)
    for v, passes in crossing.items():
        for k, end in enumerate(passes):
            at = (k + over[v]) % len(passes) - (len(passes) - 1) / 2
            level[end] = level[to[end]] = at
    return level, most, unsolved


def ribbons(net: Net) -> tuple[Array, Index]:
    """The strands of a weave as bands: points (4E, 3) and triangles (2E, 3)."""
    weave = net.weave
    assert weave is not None
    # Where a strand runs on, both edges meet in the mean of their directions.
    ends = _leaving(net)
    step = ends[::2]
    partner = strand_ends(net, weave)
    on = partner >= 0
    way = np.repeat(step, 2, axis=0)
    onward = np.where(np.arange(len(ends))[:, None] % 2 == 0, -ends[partner], ends[partner])
    way = way + np.where(on[:, None], onward, 0.0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    normal = net.normals[net.edges.ravel()]
    side = np.cross(normal, way)
    side *= weave.width / 2 / np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-300)
    middle = (
        net.vertices[net.edges.ravel()] + normal * (weave.level.ravel() * weave.thickness)[:, None]
    )
    points = np.stack([middle - side, middle + side], axis=1).reshape(-1, 3)
    first = 4 * np.arange(len(net.edges))[:, None]
    triangles = np.vstack([first + [0, 2, 1], first + [1, 2, 3]])
    return points, triangles.astype(np.int32)


def strand_ends(net: Net, weave: Weave) -> Long:
    """For each end the other end of its strand at the same vertex and level, −1 where there is
    none."""
    count = 2 * len(net.edges)
    vertex = net.edges.ravel().astype(np.int64)
    strand = np.repeat(weave.strand, 2).astype(np.int64)
    level = np.round(weave.level.ravel() * 8).astype(np.int64) + 512
    key = (vertex * (int(strand.max(initial=0)) + 1) + strand) * 1024 + level
    order = np.argsort(key, kind="stable")
    same = np.flatnonzero(key[order][1:] == key[order][:-1])
    out = np.full(count, -1, np.int64)
    out[order[same]], out[order[same + 1]] = order[same + 1], order[same]
    return out
