"""The way a tool goes over a sheet: marks first, inner before outer outlines, always the nearest
next."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .reading import SheetFile

__all__ = ["Move", "Plan", "planned"]

Array = NDArray[np.float64]
TAB_SLOWER = 0.5
"""Speed over a tab, where the tool lifts, against that of a cut."""


@dataclass(frozen=True, eq=False)
class Move:
    """A way (n, 2) in mm of a ``kind``: idle, mark or cut; how long it takes (s)."""

    kind: str
    way: Array
    seconds: float

    @cached_property
    def length(self) -> float:
        return _length(self.way)


@dataclass(frozen=True, eq=False)
class Plan:
    """All moves of a sheet in order."""

    moves: list[Move]

    @cached_property
    def totals(self) -> dict[str, float]:
        """Lengths of all moves in mm, by kind."""
        out = dict.fromkeys(("idle", "mark", "cut"), 0.0)
        for move in self.moves:
            out[move.kind] += move.length
        return out

    @cached_property
    def ends(self) -> Array:
        """Seconds (n,) after which each move has been made."""
        return np.cumsum([m.seconds for m in self.moves])

    @property
    def seconds(self) -> float:
        return float(self.ends[-1])

    @cached_property
    def starts(self) -> int:
        """How often the tool begins a cut."""
        return sum(m.kind == "cut" for m in self.moves)

    def at(self, done: float) -> tuple[int, float, float]:
        """The move that is made after so many seconds, and where the tool is then."""
        k = min(int(np.searchsorted(self.ends, done)), len(self.moves) - 1)
        move = self.moves[k]
        step = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(move.way, axis=0).T))])
        share = min((done - self.ends[k]) / max(move.seconds, 1e-9) + 1, 1.0)
        x, y = (float(np.interp(share * step[-1], step, move.way[:, c])) for c in (0, 1))
        return k, x, y


def _length(way: Array) -> float:
    return float(np.hypot(*np.diff(way, axis=0).T).sum())


@dataclass(frozen=True)
class Speeds:
    """Of cuts, marks and idle moves (mm/s), and how long (s) it takes to begin a cut."""

    cut: float = 50.0
    mark: float = 120.0
    idle: float = 400.0
    start: float = 1.5


def planned(file: SheetFile, tool: float, speeds: Speeds | None = None) -> Plan:
    """Moves over a sheet without faults. Of outlines of parts the tool keeps half its width away,
    on the waste side."""
    speeds = speeds or Speeds()
    moves: list[Move] = []
    at = np.zeros(2)

    def go(kind: str, way: Array, seconds: float) -> None:
        nonlocal at
        away = float(np.hypot(*(way[0] - at)))
        if away > 1e-9:
            moves.append(Move("idle", np.stack([at, way[0]]), away / speeds.idle))
        moves.append(Move(kind, way, seconds))
        at = way[-1]

    for k in _nearest_first(file.marks, at):
        go("mark", file.marks[k], _length(file.marks[k]) / speeds.mark)
    ways = _parts(file, tool)
    for way, held in zip(ways, _held(ways, file.tabs, tool), strict=True):
        ring = _begun_nearest(way, at)
        slow = held / (speeds.cut * TAB_SLOWER)
        go("cut", ring, speeds.start + (_length(ring) - held) / speeds.cut + slow)
    home = float(np.hypot(*at))
    moves.append(Move("idle", np.stack([at, np.zeros(2)]), home / speeds.idle))
    return Plan(moves)


def _held(ways: list[Array], tabs: list[Array], tool: float) -> list[float]:
    """Lengths in mm that ways run over tabs."""
    held: Array = np.zeros(len(ways))
    if tabs and ways:
        lines: Any = np.array([shapely.LineString(t) for t in tabs], object)
        about: Any = shapely.buffer([shapely.LineString(w) for w in ways], tool / 2 + 0.1)
        way, tab = shapely.STRtree(lines).query(about, predicate="intersects")
        over = shapely.length(shapely.intersection(lines[tab], about[way]))
        held += np.bincount(way, over, len(ways))
    return held.tolist()


def _nearest_first(ways: list[Array], at: Array) -> list[int]:
    """Open ways in the order in which they are gone, the nearest beginning next."""
    starts = np.array([w[0] for w in ways]).reshape(-1, 2)
    ends = np.array([w[-1] for w in ways]).reshape(-1, 2)
    return _in_turn(starts, ends, at)


def _in_turn(starts: Array, ends: Array, at: Array) -> list[int]:
    """Things in the order in which the nearest start (n, 2) from where the last one ended is
    next."""
    free, out = np.zeros(len(starts)), []
    for _ in range(len(starts)):
        off = starts - at
        k = int(np.argmin(off[:, 0] ** 2 + off[:, 1] ** 2 + free))
        free[k] = np.inf
        at = ends[k]
        out.append(k)
    return out


def _parts(file: SheetFile, tool: float) -> list[Array]:
    """Ways of the tool part by part, the nearest next: inner outlines, then the outer one. A part
    in an opening of another goes before it, as the sheet still holds it then."""
    outer, inner = (
        np.array([shapely.Polygon(p) for p, _ in file.cuts[layer]], object)
        for layer in ("CUT_OUTER", "CUT_INNER")
    )
    tree = shapely.STRtree(outer)
    depth = np.bincount(tree.query(outer, predicate="within")[0], minlength=len(outer))
    holes = _holes(inner, outer, tree)
    by = 0.0 if file.tool else tool / 2
    outer_ways, inner_ways = _beside(outer, by), _beside(inner, -by)
    middle = shapely.get_coordinates(shapely.centroid(outer))
    at, out = np.zeros(2), []
    for level in np.unique(depth)[::-1].tolist():
        of = np.flatnonzero(depth == level)
        for k in of[_in_turn(middle[of], middle[of], at)].tolist():
            out += [way for h in holes[k] for way in inner_ways[h]] + outer_ways[k]
            at = middle[k]
    return out


def _holes(inner: Any, outer: Any, tree: shapely.STRtree) -> list[list[int]]:
    """The inner outlines of each outer one: those of which it is the smallest about."""
    out: list[list[int]] = [[] for _ in range(len(outer))]
    hole, part = tree.query(inner, predicate="within")
    order = np.lexsort((shapely.area(outer[part]), hole))
    hole, part = hole[order], part[order]
    first = np.concatenate([[True], np.diff(hole) > 0])[: len(hole)]
    for h, p in zip(hole[first].tolist(), part[first].tolist(), strict=True):
        out[p].append(h)
    return out


def _beside(shapes: Any, by: float) -> list[list[Array]]:
    """Rings (n, 2) so far (mm) outside of each shape."""
    moved: Any = shapes if by == 0 else shapely.buffer(shapes, by, quad_segs=12)
    out: list[list[Array]] = [[] for _ in range(len(shapes))]
    parts, of = shapely.get_parts(moved, return_index=True)
    for part, k in zip(parts, of.tolist(), strict=True):
        if not part.is_empty:
            out[k].append(np.asarray(part.exterior.coords))
    return out


def _begun_nearest(ring: Array, at: Array) -> Array:
    k = int(np.argmin(((ring[:-1] - at) ** 2).sum(axis=1)))
    return np.vstack([ring[k:-1], ring[: k + 1]])
