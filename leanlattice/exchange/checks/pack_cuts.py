"""Ends of members that planes cut, as cuts.csv tells of them: worked out anew with polygons."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray

from ...core.sections import find
from .pack_files import Found, Pack, beyond, number_in, vector_in
from .pack_members import Members, members_of
from .pack_saddles import cut_in, radii_of, saddle_left, tubes_fitted

__all__ = ["EndCut", "cuts_as_listed", "cuts_of", "lengths_weighed", "section_polygon"]

Array = NDArray[np.float64]

SIDES = 96
"""Of circles, which their polygons are as large as."""
ENDS = ("start", "end")
LINES = 4, 200
"""Rings of a swelling tube, and lines in each, that are taken for it where planes cut it."""
TILT = 1e-3
"""Radians by which a plane may be turned otherwise than it is said to be."""
REACHED = 1e-9
"""Metres by which one cut may take less than another where both take as much."""
ROUND_SHARE = 1e-3
"""Of the radius, by which a polygon's corners may reach further than its circle."""


@dataclass(frozen=True)
class EndCut:
    """What the ``cuts`` (k, 9) leave of an end, as ``pack_saddles`` has them, with levels from where
    its axis ends: from ``far`` on there is something of it, and from ``mean`` on a
    square end would leave as much, in metres along the axis. ``steep`` is how much further a metre
    across takes them at most, and ``reached`` (k,) tells which of them are: where two share an end,
    all of an open section may lie to one side of where they meet."""

    cuts: Array
    reached: NDArray[np.bool_]
    far: float
    mean: float
    steep: float

    @property
    def planes(self) -> Array:
        """Normals and levels (k, 4) of planes, and of those at the sides of tubes that fit."""
        return self.cuts[:, :4]


def section_polygon(name: str, sides: int = SIDES) -> shapely.MultiPolygon:
    """A section as (width, height) in metres, with sharp corners."""
    shape = find(name).shape
    turn = 2 * np.pi / sides
    scale = float(np.sqrt(turn / np.sin(turn))) if shape.round else 1.0
    return shapely.MultiPolygon(
        [
            (outer * scale, [] if inner is None else [inner * scale])
            for outer, inner in shape.pieces(sides)
        ]
    )


def cuts_of(pack: Pack) -> dict[tuple[int, int], EndCut]:
    """By row of members.csv and end; empty where nothing is cut by planes."""
    if "cuts" not in pack.kept:
        m = members_of(pack)
        pack.kept["cuts"] = {} if m is None else _cuts_of(pack, m)
    found: dict[tuple[int, int], EndCut] = pack.kept["cuts"]
    return found


def _cuts_of(pack: Pack, m: Members) -> dict[tuple[int, int], EndCut]:
    cuts = _rows_of(pack, m)
    polygons: dict[str, shapely.MultiPolygon] = {}
    out = {}
    for (k, end), own in cuts.items():
        name = m.rows[k]["section"]
        if name not in polygons:
            polygons[name] = section_polygon(name)
        piece = m.first[k] + (m.count[k] - 1 if end else 0)
        frame = m.frame(piece, end) * np.array([[1], [1], [-1 if end else 1]])
        scale = m.scale[piece, 2 if end else 0]
        if any(cut[7] for cut in own) and m.round[piece]:
            out[k, end] = _fitted(np.array(own), frame, radii_of(name, scale))
            continue
        polygon = shapely.affinity.scale(polygons[name], scale, scale, origin=(0, 0))
        out[k, end] = _end_cut(np.array(own), frame, polygon)
    return out


def _rows_of(pack: Pack, m: Members) -> dict[tuple[int, int], list[Array]]:
    """Cuts (9,) of each end that is there."""
    row_of = {r["label"]: k for k, r in enumerate(m.rows)}
    out: dict[tuple[int, int], list[Array]] = {}
    for row in pack.rows("cuts"):
        if row["member"] in row_of and row["end"] in ENDS:
            key = (row_of[row["member"]], ENDS.index(row["end"]))
            out.setdefault(key, []).append(cut_in(row))
    return out


def _fitted(cuts: Array, frame: Array, radii: tuple[float, float]) -> EndCut:
    """What cuts, of which saddles are some, leave of a tube's end, as ``_end_cut`` has it."""
    rim, mean = saddle_left(cuts, frame, radii)
    farther = rim.max(axis=0)
    reached = (rim >= farther - REACHED).any(axis=1)
    return EndCut(cuts, reached, float(farther.min()), mean, 0.0)


def _end_cut(cuts: Array, frame: Array, polygon: shapely.MultiPolygon) -> EndCut:
    """What planes leave of an end whose width, height and way in are the rows of ``frame``."""
    planes = cuts[:, :4]
    into = planes[:, :3] @ frame[2]
    # How far along the axis each plane lies: a value on the axis, and what a metre adds.
    over = np.column_stack([planes[:, 3], -planes[:, :3] @ frame[:2].T]) / into[:, None]
    steep = float(np.abs(over[:, 1:]).sum(axis=1).max())
    sides = [_polygons(polygon)]
    if len(over) == 2:
        further = (_half_plane(way * (over[0] - over[1])) for way in (1, -1))
        sides = [_polygons(polygon.intersection(half)) for half in further]
    parts = [part for side in sides for part in side]
    far, whole = np.inf, 0.0
    for part in parts:
        corners = shapely.get_coordinates(part)
        value = over[:, :1] + over[:, 1:] @ corners.T
        far = min(far, float(value.max(axis=0).min()))
        middle = np.array(part.centroid.coords[0])
        whole += part.area * float((over[:, 0] + over[:, 1:] @ middle).max())
    reached = np.array([bool(side) for side in sides])
    return EndCut(cuts, reached, far, whole / polygon.area, steep)


def _polygons(shape: shapely.Geometry) -> list[shapely.Polygon]:
    parts = shapely.get_parts(shape)
    return [p for p in parts if isinstance(p, shapely.Polygon) and not p.is_empty]


def _half_plane(value: Array) -> shapely.Polygon:
    """Where a linear value, (on the axis, of a metre across, of a metre up), is above nothing, as
    far as sections reach."""
    slope = float(np.hypot(*value[1:]))
    if slope < 1e-12:
        return shapely.box(-10, -10, 10, 10) if value[0] >= 0 else shapely.Polygon()
    way = value[1:] / slope
    across, foot = np.array([-way[1], way[0]]), -value[0] / slope * way
    corners = [foot - 10 * across, foot + 10 * across]
    return shapely.Polygon([*corners, corners[1] + 10 * way, corners[0] + 10 * way])


def lengths_weighed(pack: Pack, m: Members) -> Array:
    """Lengths (n,) in metres of straight and even members with square ends that are as heavy."""
    last = m.first + m.count - 1
    back = np.column_stack([m.back[m.first, 0], m.back[last, 1]])
    for (k, end), cut in cuts_of(pack).items():
        back[k, end] = cut.mean
    out = m.of_centroids - back.sum(axis=1)
    for k in np.flatnonzero(~m.is_even & (out > 0)).tolist():
        out[k] = _swollen(pack, m, k)
    return np.asarray(out)


def _swollen(pack: Pack, m: Members, k: int) -> float:
    """Metres of an even section that weigh as much as what is left of a swelling tube: the mean
    over lines along it of what the cones weigh, each a frustum, from where cuts meet a line on."""
    run, size = m.knots(k)
    lines, weights = _lines_along(m, k)
    low = _met(pack, m, (k, 0), lines, run, size)
    high = run[-1] - _met(pack, m, (k, 1), lines, run[-1] - run[::-1], size[::-1])
    left = np.maximum(_weighed(high, run, size) - _weighed(low, run, size), 0.0)
    return float(weights @ left.reshape(LINES).mean(axis=1))


def _lines_along(m: Members, k: int) -> tuple[Array, Array]:
    """Lines (n, 2) along a tube, by where they lie in its section in metres, in rings about it, and
    the weights of these (Gauss' rule over the area)."""
    outer, wall = m.width[m.first[k]] / 2, find(m.rows[k]["section"]).shape.wall
    inner = max(outer - wall, 0.0) if wall else 0.0
    rule, weights = np.polynomial.legendre.leggauss(LINES[0])
    radius = np.sqrt(inner**2 + (1 + rule) / 2 * (outer**2 - inner**2))
    angle = 2 * np.pi * np.arange(LINES[1]) / LINES[1]
    around = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    return (radius[:, None, None] * around).reshape(-1, 2), weights / 2


def _met(
    pack: Pack, m: Members, end: tuple[int, int], lines: Array, run: Array, size: Array
) -> Array:
    """How far (n,) from an end of a member its last cut meets each of the ``lines`` (n, 2) along
    it."""
    cut = cuts_of(pack).get(end)
    piece = m.first[end[0]] + (m.count[end[0]] - 1 if end[1] else 0)
    if cut is None:
        return np.full(len(lines), m.back[piece, end[1]])
    frame = m.frame(piece, end[1])
    into = cut.planes[:, :3] @ frame[2] * (-1 if end[1] else 1)
    slope = -(cut.planes[:, :3] @ frame[:2].T @ lines.T) / into[:, None]
    met = np.full(len(lines), -np.inf)
    for on_axis, slopes in zip(cut.planes[:, 3] / into, slope, strict=True):
        # What a place lies beyond the plane changes evenly along each cone.
        beyond_it = run - on_axis - slopes[:, None] * size
        before = on_axis + slopes * size[0]
        at = np.where(beyond_it[:, 0] >= 0, before, _first_beyond(beyond_it, run))
        met = np.maximum(met, at)
    return met


def _first_beyond(values: Array, run: Array) -> Array:
    """Where (n,) values (n, r) at places ``run`` along lines, evenly between these, first come to
    be more than nothing; of those that never do, the last place."""
    most = np.maximum.accumulate(values, axis=1)
    last = np.clip((most <= 0).sum(axis=1) - 1, 0, None)
    after = np.minimum(last + 1, values.shape[1] - 1)
    rows = np.arange(len(values))
    low, high = most[rows, last], most[rows, after]
    share = np.clip(-low / np.where(high > low, high - low, 1.0), 0.0, 1.0)
    return np.asarray(run[last] + share * (run[after] - run[last]))


def _weighed(at: Array, run: Array, size: Array) -> Array:
    """What cones weigh up to places ``at`` (n,) along them."""
    a, b = size[:-1], size[1:]
    done = np.concatenate([[0.0], np.cumsum(np.diff(run) * (a * a + a * b + b * b) / 3)])
    k = np.clip(np.searchsorted(run, at, "right") - 1, 0, len(run) - 2)
    height, a = at - run[k], size[k]
    within = np.clip(at, run[0], run[-1])
    b = np.interp(at, run, size)
    cone = (within - run[k]) * (a * a + a * b + b * b) / 3
    return np.asarray(done[k] + cone + (height - (within - run[k])) * b * b)


def cuts_as_listed(pack: Pack) -> Found:
    """Planes point out of members that are there, two an end at most, and take as much as the
    set-backs say (mm)."""
    m = members_of(pack)
    if m is None or not pack.rows("cuts"):
        return
    yield from _rows_in_order(pack, m)
    for (k, end), cut in cuts_of(pack).items():
        where = f"{m.rows[k]['label']}, {ENDS[end]} in cuts.csv"
        piece = m.first[k] + (m.count[k] - 1 if end else 0)
        into = cut.planes[:, :3] @ m.ways[piece, end] * (-1 if end else 1)
        yield beyond(len(cut.planes) > 2 or bool((into > -1e-3).any())), f"{where}: planes"
        width = m.width[piece] * m.scale[piece, 2 if end else 0]
        slack = ROUND_SHARE * width * 500 * cut.steep if m.round[piece] else 0.0
        off = abs(cut.far * 1000 - number_in(m.rows[k], f"{ENDS[end]}_setback_mm", "members"))
        yield max(off - slack, 0.0), f"{where}: set-back in members.csv"
    yield from _angles(pack, m)
    yield from tubes_fitted(pack, m)


def _rows_in_order(pack: Pack, m: Members) -> Found:
    """Ends that are there, their nodes, and their planes counted from 1."""
    rows = {r["label"]: r for r in m.rows}
    counted: dict[tuple[str, str], int] = {}
    for row in pack.rows("cuts"):
        key = (row["member"], row["end"])
        where = f"{row['member']}, {row['end']} in cuts.csv"
        member = rows.get(row["member"])
        if member is None or row["end"] not in ENDS:
            yield np.inf, f"{where}: there is no such end"
            continue
        counted[key] = counted.get(key, 0) + 1
        yield beyond(row["cut"] != str(counted[key])), f"{where}: cut {row['cut']}"
        yield beyond(member[row["end"]] != row["node"]), f"{where}: node"
        size = float(np.linalg.norm(vector_in(row, "cuts", "normal_{}")))
        yield abs(size - 1) * 1000, f"{where}: normal"


def _angles(pack: Pack, m: Members) -> Found:
    """Angles between planes and square cuts, and the sides at which members are longest."""
    row_of = {r["label"]: k for k, r in enumerate(m.rows)}
    for row in pack.rows("cuts"):
        k = row_of.get(row["member"])
        if k is None or row["end"] not in ENDS:
            continue
        end = ENDS.index(row["end"])
        piece = m.first[k] + (m.count[k] - 1 if end else 0)
        where = f"{row['member']}, {row['end']} in cuts.csv"
        normal, (across, up, way) = vector_in(row, "cuts", "normal_{}"), m.frame(piece, end)
        cosine = float(normal @ way) * (1 if end else -1)
        angle = float(np.degrees(np.arccos(np.clip(cosine, -1, 1))))
        off = abs(angle - number_in(row, "angle_deg", "cuts"))
        yield max(off - 0.01, 0.0), f"{where}: angle"
        # The height turned so far is to be where the plane lies farthest out.
        turn = np.radians(number_in(row, "turn_deg", "cuts") if row["turn_deg"] else 0.0)
        tilt = np.sin(np.radians(angle)) if row["turn_deg"] else 0.0
        high, wide = float(normal @ up), float(normal @ across)
        off = np.hypot(high + tilt * np.cos(turn), wide - tilt * np.sin(turn))
        yield beyond(off > TILT), f"{where}: turn"
