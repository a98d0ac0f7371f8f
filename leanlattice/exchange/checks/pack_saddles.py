"""Cuts as cuts.csv tells of them, worked out by lines that meet planes and tubes.

A cut (9,) is the unit normal out of the member, the level in metres of a plane, and of a saddle the
direction of the axis of the tube it fits, its radius and how far aside it passes in metres, all 0
of a plane.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.sections import find
from .pack_files import Found, Pack, Row, number_in, vector_in
from .pack_members import Members

__all__ = [
    "EMPTY",
    "beyond_cuts",
    "cut_in",
    "lines_met",
    "moved_to",
    "radii_of",
    "saddle_left",
    "tubes_fitted",
]

Array = NDArray[np.float64]
EMPTY = ("saddle_radius_mm", "saddle_x", "saddle_y", "saddle_z", "saddle_aside_mm")
"""Columns of cuts.csv with nothing in them of planes."""
RINGS, AROUND, RIM = 8, 720, 7200
"""Rings of a tube, places in each by which it is weighed, and by which its rim is looked at."""
NEAR_MM, TURNED = 0.02, 1e-5
"""Within which a saddle lies on the tube it fits, and is turned as that is (rad)."""


def cut_in(row: Row) -> Array:
    """A cut as a row of cuts.csv has it; raises what reading numbers does."""
    level = number_in(row, "level_mm", "cuts") / 1000
    tube = np.zeros(5)
    if row["saddle_radius_mm"]:
        tube[:3] = vector_in(row, "cuts", "saddle_{}")
        tube[3] = number_in(row, "saddle_radius_mm", "cuts") / 1000
        tube[4] = number_in(row, "saddle_aside_mm", "cuts") / 1000
    return np.concatenate([vector_in(row, "cuts", "normal_{}"), [level], tube])


def lines_met(cuts: Array, into: Array, places: Array) -> Array:
    """How far (k, n) in metres along the unit direction ``into`` a member ``cuts`` (k, 9) are met
    by lines through ``places`` (n, 3), all seen from where its axis ends: planes where these lie,
    tubes where a line from within the member comes to them first."""
    out = []
    for cut in cuts:
        normal, along, radius = cut[:3], cut[4:7], cut[7]
        if radius == 0:
            out.append((cut[3] - places @ normal) / (normal @ into))
            continue
        middle = (cut[3] + radius) * normal + cut[8] * np.cross(along, normal)
        way = into - (into @ along) * along
        off = places - middle
        off = off - np.outer(off @ along, along)
        # |off + s way| = radius, of which the larger s comes first from within.
        a, b = way @ way, off @ way
        c = np.einsum("ij,ij->i", off, off) - radius**2
        out.append((-b + np.sqrt(np.maximum(b * b - a * c, 0.0))) / a)
    return np.array(out)


def moved_to(cuts: Array, place: Array) -> Array:
    """The ``cuts`` (k, 9) seen from nothing, whose axis ends at a ``place`` (3,)."""
    out = cuts.copy()
    out[:, 3] += cuts[:, :3] @ place
    out[:, 8] += np.cross(cuts[:, 4:7], cuts[:, :3]) @ place
    return out


def beyond_cuts(cuts: Array, places: Array) -> Array:
    """How far (n, k) in metres along their normals ``places`` (n, 3) lie beyond ``cuts`` (k, 9),
    seen from nothing."""
    over = places @ cuts[:, :3].T - cuts[:, 3]
    aside = places @ np.cross(cuts[:, 4:7], cuts[:, :3]).T - cuts[:, 8]
    radius = cuts[:, 7]
    return np.asarray(over - radius + np.sqrt(np.maximum(radius**2 - aside**2, 0.0)))


def saddle_left(cuts: Array, frame: Array, radii: tuple[float, float]) -> tuple[Array, float]:
    """How far back each of the ``cuts`` (k, 9) takes the rim of a tube (k, RIM), and the mean over
    its wall of what the farthest takes, in metres.

    Parameters
    ----------
    cuts : of an end
    frame : (3, 3) its width, height and way into the member, in rows
    radii : outside and inside in metres
    """
    outer, inner = radii
    rim = lines_met(cuts, frame[2], outer * _circle(RIM) @ frame[:2])
    shares, weights = np.polynomial.legendre.leggauss(RINGS)
    mean = 0.0
    for share, weight in zip((1 + shares) / 2, weights / 2, strict=True):
        radius = np.sqrt(inner**2 + share * (outer**2 - inner**2))
        met = lines_met(cuts, frame[2], radius * _circle(AROUND) @ frame[:2])
        mean += float(weight * met.max(axis=0).mean())
    return rim, mean


def _circle(places: int) -> Array:
    turn = 2 * np.pi / places * np.arange(places)
    return np.stack([np.cos(turn), np.sin(turn)], axis=1)


def tubes_fitted(pack: Pack, m: Members) -> Found:
    """How far (mm) saddles are off the tubes they fit: each is to lie on one whose axis comes to
    its node; and planes fit none."""
    row_of = {r["label"]: k for k, r in enumerate(m.rows)}
    at: dict[str, list[tuple[int, int]]] = {}
    for piece, nodes in enumerate(m.nodes):
        for end, node in enumerate(nodes):
            at.setdefault(node, []).append((piece, end))
    for row in pack.rows("cuts"):
        where = f"{row['member']}, {row['end']} in cuts.csv: saddle"
        told = [bool(row[name]) for name in EMPTY]
        k = row_of.get(row["member"])
        if any(told) != all(told) or k is None or row["end"] not in ("start", "end"):
            yield np.inf, where
        elif all(told):
            end = ("start", "end").index(row["end"])
            piece = m.first[k] + (m.count[k] - 1 if end else 0)
            place = (m.end if end else m.start)[piece]
            others = [(p, e) for p, e in at.get(row["node"], []) if m.row[p] != k]
            off = [_off_tube(m, p, e, cut_in(row), place) for p, e in others]
            yield max(min(off, default=np.inf) - NEAR_MM, 0.0), where


def _off_tube(m: Members, piece: int, end: int, cut: Array, place: Array) -> float:
    """How far (mm) a cut whose own axis ends at a ``place`` is off a piece of another member."""
    if not m.round[piece]:
        return np.inf
    shape = find(m.rows[m.row[piece]]["section"]).shape
    along, radius = cut[4:7], cut[7]
    middle = place + (cut[3] + radius) * cut[:3] + cut[8] * np.cross(along, cut[:3])
    way = m.ways[piece, end]
    off = (m.end if end else m.start)[piece] - middle
    apart = np.linalg.norm(off - (off @ way) * way)
    turned = np.linalg.norm(np.cross(way, along)) + abs(np.linalg.norm(along) - 1)
    if turned > TURNED:
        return np.inf
    return float(1000 * max(apart, abs(shape.height / 2 - radius)))


def radii_of(name: str, scale: float) -> tuple[float, float]:
    """Outside and inside of a round section in metres, as large as a ``scale`` makes it."""
    shape = find(name).shape
    outer = shape.height / 2
    return outer * scale, max(outer - shape.wall, 0.0) * scale if shape.wall else 0.0
