"""Templates of tube ends, wrapped about members again, against the planes that cut these."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .flat import flat_of
from .pack_cuts import cuts_of
from .pack_files import Found, Pack, Row, beyond, number_in, tolerance_of
from .pack_members import Members, members_of
from .pack_saddles import lines_met
from .panels import outline_in_pose, pose_of

__all__ = ["wraps_as_cut"]

Array = NDArray[np.float64]
ENDS = {"start": 0, "end": 1}
LEAST_PLACES = 60
"""Corners that an edge has to have, for it to be cut by."""
ROUND_MM = 0.003
FINE = 20.0
"""Times that the first place of a tube is looked at more closely than an edge that is drawn."""
AROUND = np.linspace(0, 2 * np.pi, 3601)
"""Angles at which it is looked for, and again between two of them."""
STANDS_MM = 0.02
"""Within which a template stands where it is drawn of."""


class _End(NamedTuple):
    """An end of a tube: where its axis ``at`` begins to have a template (3,), in mm, its ``frame``
    (3, 3; rows right, along, outward), and how far in mm along from there it is cut at angles."""

    at: Array
    frame: Array
    radius: float
    cuts: Array

    def cut(self, turn: Array) -> Array:
        """How far (n,) along the tube its cut is, at angles (n,) to the right of its height."""
        out, along = self.frame[2], self.frame[1]
        rim = self.radius * (np.cos(turn)[:, None] * out + np.sin(turn)[:, None] * self.frame[0])
        return np.asarray(lines_met(self.cuts, along, rim).max(axis=0))

    def first(self) -> float:
        """How far along it the tube's first place is."""
        near = AROUND[int(self.cut(AROUND).argmin())]
        return float(self.cut(near + (AROUND - np.pi) / 1000).min())


def wraps_as_cut(pack: Pack) -> Found:
    """How far (mm) the edges of templates, wrapped about their tubes, are off the planes these are
    cut by, and whether every cut end of a tube has its template."""
    m, rows = members_of(pack), pack.rows("wraps")
    if m is None or not rows:
        return
    row_of = {r["label"]: k for k, r in enumerate(m.rows)}
    of: dict[str, list[tuple[Row, _End]]] = {row["label"]: [] for row in rows}
    told = set()
    for row in pack.rows("tube_ends"):
        where = f"{row['member']} in tube_ends.csv"
        key = (row_of.get(row["member"], -1), ENDS.get(row["end"], -1))
        if row["wrap"] not in of or key not in cuts_of(pack) or key in told:
            yield np.inf, f"{where}: template, member or end"
            continue
        told.add(key)
        of[row["wrap"]].append((row, _end(pack, m, *key)))
    wanted = {key for key in cuts_of(pack) if _is_tube(m, *key)}
    yield beyond(told != wanted), "ends of tubes in tube_ends.csv and cuts.csv"
    for row in rows:
        yield from _template(pack, row, of[row["label"]])


def _is_tube(m: Members, k: int, end: int) -> bool:
    """Whether an end is round, straight and does not swell."""
    piece = m.first[k] + (m.count[k] - 1 if end else 0)
    even = abs(m.scale[piece, 2 if end else 0] - 1) < 1e-6
    return bool(m.round[piece] and m.turn[piece] == 0 and even)


def _end(pack: Pack, m: Members, k: int, end: int) -> _End:
    piece = m.first[k] + (m.count[k] - 1 if end else 0)
    _, up, way = m.frame(piece, end)
    along = -way if end else way
    cuts = cuts_of(pack)[k, end].cuts * [1, 1, 1, 1000, 1, 1, 1, 1000, 1000]
    at = (m.end if end else m.start)[piece] * 1000
    return _End(at, np.stack([np.cross(along, up), along, up]), m.height[piece] * 500, cuts)


def _template(pack: Pack, row: Row, ends: list[tuple[Row, _End]]) -> Found:
    """What is told of a template, and how it is drawn."""
    label = row["label"]
    where = f"{label} in wraps.csv"
    yield abs(number_in(row, "pieces", "wraps") - len(ends)), f"{where}: pieces"
    part = pack.part_rows.get(label)
    if not ends or part is None or label not in flat_of(pack).parts:
        return
    off = number_in(row, "area_m2", "wraps") - number_in(part, "area_m2", "parts")
    yield abs(off) * 1e6, f"{where}: area"
    yield from _drawn(pack, row, ends)


def _drawn(pack: Pack, row: Row, ends: list[tuple[Row, _End]]) -> Found:
    """The outline of a template against all ends that it is for, and where it stands."""
    label = row["label"]
    where = f"{label} in wraps.csv"
    flat = outline_in_pose(pack, label)
    radius = number_in(row, "radius_mm", "wraps")
    bend = radius + number_in(row, "thickness_mm", "wraps") / 2
    around = np.ptp(flat[:, 0]) - number_in(row, "overlap_mm", "wraps")
    yield abs(float(around - 2 * np.pi * bend)), f"{where}: way round"
    edge = flat[flat[:, 1] < flat[:, 1].max() - ROUND_MM]
    yield beyond(len(edge) < LEAST_PLACES), f"{where}: edge"
    pose = next((r for r in pack.rows("poses") if r["label"] == label), None)
    stood = []
    for told, end in ends:
        own = f"{told['member']} in tube_ends.csv: {label}"
        yield abs(end.radius - radius), own
        stood.append(0.0 if pose is None else _stands(pose, end, _lower(told)))
        # The one it is drawn of is cut as it is; others are alike within the tolerance.
        room = tolerance_of(pack) if stood[-1] > STANDS_MM else 0.0
        yield from _wrapped(told, end, edge / [bend, 1], room, own)
    yield min(stood), f"{label} in poses.csv"


def _lower(told: Row) -> float:
    return number_in(told, "from_mm", "tube_ends")


def _wrapped(told: Row, end: _End, edge: Array, room: float, where: str) -> Found:
    """How far (mm) an ``edge`` (n, 2), by angles and ways along, is off where a tube is cut, beyond
    a ``room``; and its lower side from the tube's first place."""
    lower = _lower(told)
    yield FINE * max(abs(end.first() - lower) - ROUND_MM / 2, 0.0), f"{where}: from"
    off = float(np.abs(end.cut(edge[:, 0]) - lower - edge[:, 1]).max())
    yield max(off - room - ROUND_MM, 0.0), where


def _stands(pose: Row, end: _End, lower: float) -> float:
    """How far (mm) a template is from standing on a tube, at the height of its section, its lower
    edge level with the first of the tube."""
    place, right, up = pose_of(pose)
    wanted = end.at + lower * end.frame[1] + end.radius * end.frame[2]
    turned = max(np.abs(right - end.frame[0]).max(), np.abs(up - end.frame[1]).max())
    return float(max(np.abs(place * 1000 - wanted).max(), turned * end.radius))
