"""Crossings on levels: an account of their own from the pieces of members."""

from __future__ import annotations

from collections import defaultdict
from itertools import combinations

import numpy as np
import shapely
from numpy.typing import NDArray

from .pack_files import Found, Pack, Row, beyond, number_in, vector_in
from .pack_members import Members, members_of

__all__ = ["Pass", "crossings_as_pieces", "passes_of"]

Array = NDArray[np.float64]
ROUNDED_CM2 = 1e-4
LEVELS_MM = 0.01
"""Axes that are written to a micrometre and nearer than this meet."""
SLIM = 0.025
"""Sine of an angle below which members run beside each other, and what rounding may add."""
FAR = 1e3
TOUCHES_MM = 0.5
CLOSE_MM = 0.02
"""Within which of a limit a kind may be told either way."""


class Pass:
    """A member at a node: where its axis is and how far along it that is in metres, its direction,
    and its section there."""

    def __init__(self, m: Members, pieces: list[tuple[int, int]]) -> None:
        # The piece that begins at the node says how the section stands.
        piece, end = min(pieces, key=lambda p: p[1])
        self.place = (m.start, m.end)[end][piece]
        self.label = m.rows[m.row[piece]]["label"]
        first = m.first[m.row[piece]]
        self.along = float(m.lengths[first : piece + end].sum())
        ways = np.array([m.ways[p, e] for p, e in pieces]).sum(axis=0)
        self.way = ways / np.linalg.norm(ways)
        up = m.up[piece] - (m.up[piece] @ self.way) * self.way
        up /= np.linalg.norm(up)
        side = np.cross(up, self.way)
        self.frame = np.stack([self.way, side, up])
        self.corners = _corners(m, piece, self.frame)
        self.ends_here = len(pieces) == 1

    def placed(self, local: Array) -> Array:
        """Places (n, 3) of those along the axis, the width and the height from where it passes."""
        return np.asarray(self.place + local @ self.frame)

    def reach(self, way: Array) -> float:
        """How far the section reaches along a direction, from side to side."""
        return float(np.ptp(self.corners @ way))


def _corners(m: Members, piece: int, frame: Array) -> Array:
    """Corners (n, 3) of a piece's section from its axis on; of a round one places about it."""
    _, side, up = frame
    if m.round[piece]:
        turn = np.linspace(0, 2 * np.pi, 720, endpoint=False)[:, None]
        return np.asarray(m.height[piece] / 2 * (np.cos(turn) * up + np.sin(turn) * side))
    signs = np.array([(a, b) for a in (-1, 1) for b in (-1, 1)])
    half = np.array([m.height[piece], m.width[piece]]) / 2
    return np.asarray(signs * half @ np.stack([up, side]))


def passes_of(m: Members) -> dict[str, dict[str, Pass]]:
    """What there is at each node, by member."""
    found: dict[tuple[str, str], list[tuple[int, int]]] = defaultdict(list)
    for piece, (row, ends) in enumerate(zip(m.row.tolist(), m.nodes, strict=True)):
        for end, node in enumerate(ends):
            found[node, m.rows[row]["label"]].append((piece, end))
    out: dict[str, dict[str, Pass]] = defaultdict(dict)
    for (node, label), pieces in found.items():
        out[node][label] = Pass(m, pieces)
    return out


def crossings_as_pieces(pack: Pack) -> Found:
    """Angles (°), levels and what is between (mm), and areas (cm²) of crossings.csv."""
    m = members_of(pack)
    if m is None:
        return
    passes = passes_of(m)
    listed: set[tuple[str, frozenset[str]]] = set()
    normals = {r["label"]: vector_in(r, "nodes", "normal_{}") for r in pack.rows("nodes")}
    for row in pack.rows("crossings"):
        where = f"{row['over']} over {row['under']} at {row['node']} in crossings.csv"
        here = passes.get(row["node"], {})
        if row["over"] not in here or row["under"] not in here:
            yield np.inf, f"{where}: they are not both there"
            continue
        key = (row["node"], frozenset((row["over"], row["under"])))
        yield beyond(key in listed), f"{where}: told twice"
        listed.add(key)
        yield from _as_listed(row, here[row["over"]], here[row["under"]], normals, where)
    for node, here in passes.items():
        for one, other in combinations(sorted(here), 2):
            if _cross(here[one], here[other]) and (node, frozenset((one, other))) not in listed:
                yield (
                    np.inf,
                    f"{one} and {other} cross at {node}, which crossings.csv does not tell",
                )


def _cross(one: Pass, other: Pass) -> bool:
    """Whether two members surely pass each other on levels."""
    if one.ends_here and other.ends_here:
        return False
    across = np.cross(one.way, other.way)
    sine = float(np.linalg.norm(across))
    if sine < SLIM:
        return False
    return abs(float((one.place - other.place) @ across) / sine) * 1000 > LEVELS_MM


def _as_listed(row: Row, over: Pass, under: Pass, normals: dict[str, Array], where: str) -> Found:
    across = np.cross(over.way, under.way)
    sine = float(np.linalg.norm(across))
    if sine < SLIM / 2 or (over.ends_here and under.ends_here):
        yield np.inf, f"{where}: they do not cross"
        return
    normal = across / sine
    normal = normal if normal @ normals[row["node"]] > 0 else -normal
    apart = float((over.place - under.place) @ normal) * 1000
    clear = apart - (over.reach(normal) + under.reach(normal)) * 500
    angle = np.degrees(np.arcsin(min(sine, 1.0)))
    told = {k: number_in(row, k, "crossings") for k in ("angle_deg", "axes_apart_mm", "clear_mm")}
    yield abs(angle - told["angle_deg"]), f"{where}: angle"
    yield abs(apart - told["axes_apart_mm"]), f"{where}: levels"
    yield abs(clear - told["clear_mm"]), f"{where}: between"
    area = _covered(over, under, normal) * 1e4
    off = abs(area - number_in(row, "area_cm2", "crossings"))
    yield max(off - ROUNDED_CM2 - 1e-5 * area, 0.0), f"{where}: area"
    yield beyond(not _is_kind(row["kind"], clear)), f"{where}: kind"


def _is_kind(kind: str, clear: float) -> bool:
    """Whether what is so far apart (mm) is of a kind, or all but so."""
    return {
        "notch": clear < -TOUCHES_MM + CLOSE_MM,
        "contact": abs(clear) < TOUCHES_MM + CLOSE_MM,
        "block": clear > TOUCHES_MM - CLOSE_MM,
    }.get(kind, False)


def _covered(one: Pass, other: Pass, normal: Array) -> float:
    """Square metres over which two strips cover each other, seen along a direction."""
    across = np.cross(normal, one.way)
    strips = []
    for member in (one, other):
        way = np.array([member.way @ one.way, member.way @ across])
        way /= np.linalg.norm(way)
        aside = np.cross(normal, member.way)
        half = member.reach(aside / np.linalg.norm(aside)) / 2
        left = half * np.array([-way[1], way[0]])
        strips.append(
            shapely.Polygon(
                [-FAR * way - left, FAR * way - left, FAR * way + left, left - FAR * way]
            )
        )
    return float(strips[0].intersection(strips[1]).area)
