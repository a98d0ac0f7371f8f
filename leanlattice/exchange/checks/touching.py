"""How deep solids run into each other: members at nodes that are not welded, and bodies.

All are convex. How deep two of them overlap is the least, over all directions, of how far both
reach past each other along it; where it is not above nothing they are apart. The directions are
first those of their sides and axes (Gottschalk et al., 1996), then the best of these is turned in
ever smaller steps.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from .node_bodies import NodeBody, bodies_of
from .pack_cuts import cuts_of
from .pack_files import Found, Pack
from .pack_members import Members, members_of

__all__ = ["Convex", "clear_at_nodes", "depths"]

Array = NDArray[np.float64]
Pairs = NDArray[np.int64]

LOOKED_AT = 2e-5
"""Metres of overlap along the first directions, beyond which more are tried."""
STEPS = 0.3 * 0.6 ** np.arange(18)
"""By which directions are turned (rad), one after the other."""
TURNS = 8
CHUNK = 4000
ARC_OFF_M = 2e-5
"""What pieces of arcs are off these."""


@dataclass(frozen=True, eq=False)
class Convex:
    """Solids (p): prisms from ``low`` to ``high`` (p, 3) with ``corners`` (p, k, 2) along ``side``
    and ``up`` (p, 3), or of a ``radius`` (p,) where that is not 0; and balls of that."""

    low: Array
    high: Array
    side: Array
    up: Array
    corners: Array
    radius: Array
    is_ball: NDArray[np.bool_]

    @classmethod
    def joined(cls, solids: list[Convex]) -> Convex:
        """Several one after the other; of the fewer corners the last is repeated."""
        most = max(s.corners.shape[1] for s in solids)
        padded = [
            np.pad(s.corners, ((0, 0), (0, most - s.corners.shape[1]), (0, 0)), mode="edge")
            for s in solids
        ]
        arrays = [
            padded if f.name == "corners" else [getattr(s, f.name) for s in solids]
            for f in fields(cls)
        ]
        return cls(*(np.concatenate(a) for a in arrays))

    def reach(self, which: Pairs, way: Array) -> Array:
        """How far (n,) solids reach along directions (n, 3)."""
        ends = [np.einsum("ij,ij->i", at[which], way) for at in (self.low, self.high)]
        flat = np.stack([np.einsum("ij,ij->i", k[which], way) for k in (self.side, self.up)], 1)
        across = self.radius[which] * np.linalg.norm(flat, axis=1)
        polygon = np.einsum("nkd,nd->nk", self.corners[which], flat).max(axis=1)
        across = np.where(self.radius[which] > 0, across, polygon)
        return np.maximum(*ends) + np.where(self.is_ball[which], self.radius[which], across)

    def directions(self, which: Pairs) -> Array:
        """Those (k, n, 3) of axes, sides and between these, and square to the sides of outlines."""
        side, up = self.side[which], self.up[which]
        turn = np.pi * np.arange(8) / 8
        around = np.cos(turn)[:, None, None] * side + np.sin(turn)[:, None, None] * up
        corners = self.corners[which]
        edges = np.moveaxis(np.roll(corners, -1, axis=1) - corners, 1, 0)
        square = edges[:, :, 1:] * side - edges[:, :, :1] * up
        return np.concatenate([np.cross(side, up)[None], around, square])


def clear_at_nodes(pack: Pack) -> Found:
    """How deep (mm) solids at a node run into each other, but for those that are welded there and
    members that pass."""
    m = members_of(pack)
    if m is None:
        return
    bodies = bodies_of(pack)
    m = m.straight(ARC_OFF_M)
    solids, names = _solids(m, list(bodies.values()))
    for (a, b), value in _deep(solids, _pairs(pack, m, list(bodies))):
        yield value, f"{names[a]} and {names[b]} in members.csv"


def _deep(solids: Convex, pairs: list[tuple[int, int]]) -> Iterator[tuple[tuple[int, int], float]]:
    """Pairs with how deep (mm) they run into each other."""
    every = np.array(pairs, int).reshape(-1, 2)
    for chunk in np.array_split(every, max(1, len(every) // CHUNK)) if len(every) else []:
        for (a, b), value in zip(chunk.tolist(), depths(solids, chunk).tolist(), strict=True):
            yield (a, b), max(value * 1000, 0.0)


def _solids(m: Members, bodies: list[NodeBody]) -> tuple[Convex, list[str]]:
    """Pieces of members between their set-backs, and behind them bodies, with their labels."""
    square = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])
    members = Convex(
        low=m.start + m.back[:, :1] * m.axis,
        high=m.end - m.back[:, 1:] * m.axis,
        side=m.side,
        up=m.up,
        corners=square * np.column_stack([m.width, m.height])[:, None],
        radius=np.where(m.round, m.height / 2, 0.0),
        is_ball=np.zeros(len(m.row), bool),
    )
    names = [m.rows[k]["label"] for k in m.row]
    return (
        Convex.joined([members, *map(_convex_body, bodies)]),
        names + [body.row["node"] for body in bodies],
    )


def _convex_body(body: NodeBody) -> Convex:
    is_ball = body.row["form"] == "ball"
    half = 0.0 if is_ball else body.height / 2
    outline = np.zeros((1, 2)) if body.outline is None else body.outline
    return Convex(
        low=(body.middle - half * body.axes[2])[None],
        high=(body.middle + half * body.axes[2])[None],
        side=body.axes[:1],
        up=body.axes[1:2],
        corners=outline[None],
        radius=np.array([0.0 if body.outline is not None else body.radius]),
        is_ball=np.array([is_ball]),
    )


def _pairs(pack: Pack, m: Members, bodies: list[str]) -> list[tuple[int, int]]:
    """Pieces of different members at one node, of which at least one ends there, and that are not
    welded: laths that pass each other lie on each other, and how they are notched is not told
    here. And all pieces at a node with its body."""
    gone = m.whole <= np.bincount(m.row, m.back.sum(axis=1), minlength=len(m.rows))
    welded = set(cuts_of(pack))
    body_at = {node: len(m.row) + k for k, node in enumerate(bodies)}
    here: dict[str, list[tuple[int, bool, bool]]] = {}
    for p, k in enumerate(m.row.tolist()):
        if gone[k]:
            continue
        for end in (0, 1):
            last = p == m.first[k] + (m.count[k] - 1 if end else 0)
            is_welded = last and (k, end) in welded
            here.setdefault(m.nodes[p][end], []).append((p, last, is_welded))
    # Within an arc chords come together at no node.
    here.pop("", None)
    out = []
    for node, at in here.items():
        for (a, a_ends, a_welded), (b, b_ends, b_welded) in itertools.combinations(at, 2):
            free = not (a_welded or b_welded)
            if m.row[a] != m.row[b] and (a_ends or b_ends) and free:
                out.append((a, b))
        if node in body_at:
            out += [(p, body_at[node]) for p, _, _ in at]
    return out


def depths(solids: Convex, pairs: Pairs) -> Array:
    """The least overlap (n,) of pairs along any direction that was tried; below 0 where it parts
    them."""
    ways = _first_directions(solids, pairs)
    overlap = np.stack([_overlap(solids, pairs, way) for way in ways])
    best = overlap.argmin(axis=0)
    depth, way = overlap.min(axis=0), ways[best, np.arange(len(pairs))]
    left = np.flatnonzero(depth > LOOKED_AT)
    if len(left):
        depth[left] = _turned(solids, pairs[left], way[left], depth[left])
    return depth


def _first_directions(solids: Convex, pairs: Pairs) -> Array:
    """Unit directions (k, n, 3) along which pairs (n,) may part: those of each, and of both."""
    a, b = pairs.T
    one, two = solids.directions(a), solids.directions(b)
    crossed = np.array([np.cross(x, y) for x in one[[0, 1, 5]] for y in two[[0, 1, 5]]])
    between = (solids.low[b] + solids.high[b] - solids.low[a] - solids.high[a])[None]
    # A side of a cylinder parts it from what stands up beside it.
    along = np.einsum("ij,ij->i", one[0], two[0])[:, None]
    level = np.stack([two[0] - along * one[0], one[0] - along * two[0]])
    ways = np.concatenate([one, two, crossed, level, between])
    size = np.linalg.norm(ways, axis=2, keepdims=True)
    ways = np.where(size > 1e-6, ways / np.maximum(size, 1e-12), one[:1])
    return np.concatenate([ways, -ways])


def _overlap(solids: Convex, pairs: Pairs, way: Array) -> Array:
    """How far (n,) the first of pairs reaches past the second along directions (n, 3)."""
    return solids.reach(pairs[:, 0], way) + solids.reach(pairs[:, 1], -way)


def _turned(solids: Convex, pairs: Pairs, way: Array, depth: Array) -> Array:
    """The least overlap (n,) found by turning the directions (n, 3) towards less."""
    for step in STEPS:
        least = np.eye(3)[np.abs(way).argmin(axis=1)]
        x = np.cross(way, least)
        x /= np.linalg.norm(x, axis=1, keepdims=True)
        y = np.cross(way, x)
        for _ in range(2):
            tried = way
            for k in range(TURNS):
                angle = 2 * np.pi * k / TURNS
                turned = way + np.tan(step) * (np.cos(angle) * x + np.sin(angle) * y)
                turned /= np.linalg.norm(turned, axis=1, keepdims=True)
                value = _overlap(solids, pairs, turned)
                better = value < depth
                depth = np.where(better, value, depth)
                tried = np.where(better[:, None], turned, tried)
            way = tried
    return depth
