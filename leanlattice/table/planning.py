"""The way a tool goes over a sheet: marks first, inner before outer outlines, always the nearest
next."""

from __future__ import annotations

from dataclasses import dataclass
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

    @property
    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.way, axis=0), axis=1).sum())


@dataclass(frozen=True, eq=False)
class Plan:
    """All moves of a sheet in order."""

    moves: list[Move]

    def total(self, kind: str) -> float:
        return sum(m.length for m in self.moves if m.kind == kind)

    @property
    def seconds(self) -> float:
        return sum(m.seconds for m in self.moves)


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
    tabs = shapely.union_all([shapely.LineString(t) for t in file.tabs]) if file.tabs else None

    def go(kind: str, way: Array, seconds: float) -> None:
        nonlocal at
        if np.linalg.norm(way[0] - at) > 1e-9:
            idle = np.stack([at, way[0]])
            moves.append(Move("idle", idle, float(np.linalg.norm(way[0] - at)) / speeds.idle))
        moves.append(Move(kind, way, seconds))
        at = way[-1]

    for mark in _nearest_first(file.marks, at, False):
        go("mark", mark, float(np.linalg.norm(np.diff(mark, axis=0), axis=1).sum()) / speeds.mark)
    for group in _parts(file, tool):
        for way in group:
            ring = _begun_nearest(way, at)
            length = float(np.linalg.norm(np.diff(ring, axis=0), axis=1).sum())
            held = (
                0.0
                if tabs is None
                else float(
                    tabs.intersection(shapely.LineString(ring).buffer(tool / 2 + 0.1)).length
                )
            )
            go(
                "cut",
                ring,
                speeds.start + (length - held) / speeds.cut + held / (speeds.cut * TAB_SLOWER),
            )
    moves.append(Move("idle", np.stack([at, np.zeros(2)]), float(np.linalg.norm(at)) / speeds.idle))
    return Plan(moves)


def _nearest_first(ways: list[Array], at: Array, closed: bool) -> list[Array]:
    """Open ways, the nearest beginning next."""
    left, out = list(range(len(ways))), []
    starts = np.array([w[0] for w in ways]).reshape(-1, 2)
    free = np.ones(len(ways), bool)
    for _ in left:
        k = int(np.argmin(np.where(free, np.linalg.norm(starts - at, axis=1), np.inf)))
        free[k], at = False, ways[k][-1]
        out.append(ways[k])
    return out


def _parts(file: SheetFile, tool: float) -> list[list[Array]]:
    """Ways of the tool part by part, the nearest next: inner outlines, then the outer one. A part
    in an opening of another goes before it, as the sheet still holds it then."""
    outer: list[Any] = [shapely.Polygon(p) for p, _ in file.cuts["CUT_OUTER"]]
    inner: list[Any] = [shapely.Polygon(p) for p, _ in file.cuts["CUT_INNER"]]
    tree = shapely.STRtree(outer)
    holder = [_smallest(outer, tree.query(h, predicate="within")) for h in inner]
    depth = [len(tree.query(o, predicate="within")) for o in outer]
    left, out, at = set(range(len(outer))), [], np.zeros(2)
    middle = np.array([o.centroid.coords[0] for o in outer]).reshape(-1, 2)
    while left:
        deepest = max(depth[k] for k in left)
        k = min(
            (k for k in left if depth[k] == deepest),
            key=lambda k: float(np.linalg.norm(middle[k] - at)),
        )
        left.discard(k)
        at = middle[k]
        holes = [
            _way(inner[h], -tool / 2 if not file.tool else 0.0)
            for h in range(len(inner))
            if holder[h] == k
        ]
        out.append(
            [w for ways in holes for w in ways] + _way(outer[k], tool / 2 if not file.tool else 0.0)
        )
    return out


def _smallest(outer: list[Any], among: NDArray[np.int64]) -> int:
    return int(min(among.tolist(), key=lambda k: float(outer[k].area))) if len(among) else -1


def _way(ring: Any, by: float) -> list[Array]:
    shape = ring if by == 0 else ring.buffer(by, quad_segs=12)
    return [np.asarray(p.exterior.coords) for p in shapely.get_parts(shape) if not p.is_empty]


def _begun_nearest(ring: Array, at: Array) -> Array:
    k = int(np.argmin(np.linalg.norm(ring[:-1] - at, axis=1)))
    return np.vstack([ring[k:-1], ring[: k + 1]])
