"""What solids in models are to be, by the schedules, and how far a mesh is from that."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from .flat import flat_of, polygon_of
from .node_bodies import bodies_of
from .pack_cuts import EndCut, cuts_of, lengths_weighed, section_polygon
from .pack_files import Pack, Row, number_in
from .pack_members import Members, members_of
from .pack_saddles import beyond_cuts, lines_met, moved_to
from .panel_twists import heights_of_twisted
from .panels import pose_of

__all__ = ["Wanted", "mesh_differs", "mesh_volume", "wanted_solids"]

Array = NDArray[np.float64]
ROUNDED_SHARE = 1e-4
SIDES = 24
"""Of circles in models."""
GROWN = float(np.sqrt(2 * np.pi / SIDES / np.sin(2 * np.pi / SIDES)))
"""How much larger than a circle a polygon of so many sides is about, that has its area."""
CUT_SHARE = 1e-4
"""Of the volume of a member cut by planes, what polygons of its circles may be off."""
TWISTED_SHARE = 1e-4
"""The same of a twisted panel, whose faces are triangles."""
SWELLING_SHARE = 4e-3
"""The same of a swelling one, whose cuts are weighed as if it were even about them."""
ROUNDED_M = 1e-6
"""What coordinates of models are rounded by, which tells on thin plates."""


CHORDS_OFF_M = 1e-3
"""What chords that are taken for arcs are off these."""
ARC_OFF_M, ARC_SHARE = 1.2e-3, 6e-4
"""What chords of arcs in models may be off these, in metres, and by which share shorter."""


@dataclass(frozen=True)
class Wanted:
    """What a solid with a label is to be: within a frame (origin and axes, rows) its extent ``low``
    to ``high`` (3,) in metres, and where it is known its ``volume`` in m³. Of one along a ``line``
    (k, 3) no place is further from it than it can ``reach``, and it stands about all of it."""

    origin: Array
    axes: Array
    low: Array
    high: Array
    volume: float | None
    line: Array | None = None
    reach: float = 0.0
    apart: float = 0.0
    """How far from a place of the line the next ring of corners may be, along it."""
    spare: float = 0.0
    """Share of its volume by which it may be off."""
    grown: float = 1.0
    """How much further than circles polygons of them reach in meshes."""
    extruded: Array | None = None
    """From where to where (2,) in metres along the last of its axes its profile is extruded, where
    planes clip it."""
    middle: Array | None = None
    """Where its centre of mass is, in metres, if it is known."""
    planes: Array | None = None
    """Planes and saddles (k, 9) that it does not reach beyond, as ``pack_saddles`` has them."""
    reached: NDArray[np.bool_] | None = None
    """Which of the planes (k,) it touches; all where nothing is said."""
    crossed: bool = False
    """Whether its cuts reach into each other, so that its profile is nowhere whole."""
    plane_ends: Array | None = None
    """Which end (k,) of the line each of the planes cuts: of a member that runs on, and may turn
    back, only its first and its last piece do not reach beyond them."""


def wanted_solids(pack: Pack) -> dict[str, Wanted]:
    """Members, panels, plane ribs and bodies at nodes by label."""
    if "wanted" not in pack.kept:
        pack.kept["wanted"] = _wanted_members(pack) | _wanted_plates(pack) | _wanted_bodies(pack)
    found: dict[str, Wanted] = pack.kept["wanted"]
    return found


def _wanted_members(pack: Pack) -> dict[str, Wanted]:
    m = members_of(pack)
    if m is None:
        return {}
    out, bent = {}, _largest_radii(m)
    lengths, cuts = lengths_weighed(pack, m), cuts_of(pack)
    m = m.straight(CHORDS_OFF_M)
    for k, row in enumerate(m.rows):
        left = float(lengths[k])
        if left > 0:
            ends = [(end, cuts[k, end]) for end in (0, 1) if (k, end) in cuts]
            volume = _outline_area(row["section"]) * left
            out[row["label"]] = _bent(_wanted_member(m, k, ends, volume), float(bent[k]))
    return out


def _wanted_member(m: Members, k: int, ends: list[tuple[int, EndCut]], volume: float) -> Wanted:
    """What the member in row ``k`` is to be, of a ``volume``, of which planes cut ``ends``."""
    pieces = np.arange(m.first[k], m.first[k] + m.count[k])
    planes = _planes(m, pieces, ends) if ends else None
    reached = np.concatenate([cut.reached for _, cut in ends]) if ends else None
    if len(pieces) > 1 or not m.is_even[k]:
        which = np.repeat([end for end, _ in ends], [len(cut.planes) for _, cut in ends])
        wanted = _along_pieces(m, pieces, volume)
        if planes is not None and not m.is_even[k]:
            wanted = replace(wanted, spare=SWELLING_SHARE)
        return replace(wanted, planes=planes, plane_ends=which, reached=reached)
    wanted = _along_one(m, int(pieces[0]))
    if planes is None:
        return wanted
    wanted = _between_planes(wanted, [end for end, _ in ends])
    spare = CUT_SHARE + _chords_off(m, k, [cut for _, cut in ends])
    wanted = replace(wanted, volume=volume, spare=spare, planes=planes, reached=reached)
    if len(ends) == 2 and _cross(m, k, [cut for _, cut in ends]):
        # What the one takes the other does not reach: it is only known where nothing is.
        return replace(wanted, volume=None, reached=np.zeros(len(planes), bool), crossed=True)
    return wanted


def _chords_off(m: Members, k: int, cuts: list[EndCut]) -> float:
    """By which share of its volume a straight member may be off whose ends fit tubes, along which
    models go by chords: at most by a twelfth of a radius times the square of a chord's angle."""
    radius, length = m.height[m.first[k]] / 2, float(m.lengths[m.first[k]])
    into = np.abs(np.vstack([cut.cuts for cut in cuts])[:, :3] @ m.axis[m.first[k]])
    fits = np.concatenate([cut.cuts[:, 7] > 0 for cut in cuts])
    off = radius * (2 * np.pi / SIDES) ** 2 / 12 / np.maximum(into, 1e-3)
    return float(off[fits].sum() / max(length, 1e-6))


def _cross(m: Members, k: int, cuts: list[EndCut]) -> bool:
    """Whether the planes that cut both ends of a straight member leave nothing of some of the lines
    along it."""
    piece = int(m.first[k])
    polygon = section_polygon(m.rows[k]["section"], SIDES)
    corners = shapely.get_coordinates(polygon) @ np.stack([m.side[piece], m.up[piece]])
    taken = np.zeros(len(corners))
    for cut, into in zip(cuts, (m.axis[piece], -m.axis[piece]), strict=True):
        taken += lines_met(cut.cuts, into, corners).max(axis=0)
    return bool((taken > m.lengths[piece]).any())


def _bent(wanted: Wanted, radius: float) -> Wanted:
    """The same of a member with arcs of no more than a ``radius`` (m), 0 for none: chords stand for
    them."""
    if not radius:
        return wanted
    apart = 1.05 * float(np.sqrt(2 * radius * ARC_OFF_M))
    return replace(wanted, reach=wanted.reach + ARC_OFF_M, spare=ARC_SHARE, apart=apart)


def _largest_radii(m: Members) -> Array:
    """Of the arcs of each member (n,), in metres; 0 where it has none."""
    out = np.zeros(len(m.rows))
    np.maximum.at(out, m.row, np.where(m.turn > 0, m.lengths / np.maximum(m.turn, 1e-12), 0.0))
    return out


def _along_one(m: Members, piece: int) -> Wanted:
    """What a member of one piece is to be, between square ends."""
    half = np.array([m.width[piece], m.height[piece]]) / 2
    low = np.append(-half, m.back[piece, 0])
    high = np.append(half, m.lengths[piece] - m.back[piece, 1])
    axes = np.stack([m.side[piece], m.up[piece], m.axis[piece]])
    grown = GROWN if m.round[piece] else 1.0
    return Wanted(m.start[piece], axes, low, high, None, grown=grown)


def _between_planes(wanted: Wanted, ends: list[int]) -> Wanted:
    """The same where planes cut some ``ends``: how far along its axis it goes is told by these."""
    low, high = wanted.low.copy(), wanted.high.copy()
    # A profile is extruded by its larger side beyond the far edges of cuts, and clipped.
    over, extruded = float((wanted.high - wanted.low)[:2].max()), np.array([low[2], high[2]])
    for end in ends:
        (high if end else low)[2] = np.nan
        extruded[end] += over if end else -over
    return replace(wanted, low=low, high=high, extruded=extruded)


def _planes(m: Members, pieces: NDArray[np.integer], ends: list[tuple[int, EndCut]]) -> Array:
    """Cuts (k, 9) of a member's ends, from nothing on."""
    out = []
    for end, cut in ends:
        place = m.end[pieces[-1]] if end else m.start[pieces[0]]
        out.append(moved_to(cut.cuts, place))
    return np.vstack(out)


def _wanted_bodies(pack: Pack) -> dict[str, Wanted]:
    """Of round ones the extent along the normal of their node, the middle and the volume."""
    unknown, out = np.full(2, np.nan), {}
    for node, body in bodies_of(pack).items():
        half = np.nan if body.row["form"] == "ball" else body.height / 2
        middle = None if body.row["form"] == "plate" else body.middle
        low, high = np.append(unknown, -half), np.append(unknown, half)
        out[node] = Wanted(body.middle, body.axes, low, high, body.volume, middle=middle)
    return out


def _along_pieces(m: Members, pieces: NDArray[np.integer], volume: float) -> Wanted:
    """What a member that runs on is to be: somewhere about the line between its saw cuts."""
    first, last = pieces[0], pieces[-1]
    line = np.vstack([m.start[pieces], m.end[pieces[-1:]]])
    line[0] += m.back[first, 0] * m.axis[first]
    line[-1] -= m.back[last, 1] * m.axis[last]
    half = np.hypot(m.width[first], m.height[first]) / 2
    reach = float(m.width[first] / 2 * GROWN if m.round[first] else half)
    reach *= _largest_scale(m.scale[pieces])
    unknown = np.full(3, np.nan)
    return Wanted(line[0], np.eye(3), unknown, unknown, volume, line, reach, ROUNDED_SHARE)


def _largest_scale(scale: Array) -> float:
    """The largest of pieces' scales (p, 3) at their starts, in their middles and at their ends; the
    parabola through them is above all of these by a quarter of its waist at most."""
    waist = np.abs(scale[:, 1] - (scale[:, 0] + scale[:, 2]) / 2)
    return float((scale.max(axis=1) + waist / 4).max())


def _outline_area(name: str) -> float:
    """Area (m²) between the outlines of a section as models draw it: with sharp corners, and its
    circles as polygons that are as large."""
    return float(section_polygon(name, SIDES).area)


def _wanted_plates(pack: Pack) -> dict[str, Wanted]:
    """Panels rise from their plane, ribs lie about theirs."""
    poses = {r["label"]: r for r in pack.rows("poses")}
    out = {}
    for table in ("panels", "ribs"):
        for row in pack.rows(table):
            label, thickness = row["label"], number_in(row, "thickness_mm", table) / 1000
            if label not in poses:
                continue
            place, x, y = pose_of(poses[label])
            low = -thickness / 2 if table == "ribs" else 0.0
            size, area = _size_in_flat(pack, label)
            volume = None if area is None else area * thickness
            high = low + thickness
            spare = 0.0
            if table == "panels" and number_in(row, "twist_mm", table):
                low, high, spare = *_twisted(pack, row, poses[label]), TWISTED_SHARE
            axes = np.stack([x, y, np.cross(x, y)])
            ends = np.array([0, 0, low]), np.append(size, high)
            out[label] = Wanted(place, axes, *ends, volume, spare=spare)
    return out


def _size_in_flat(pack: Pack, label: str) -> tuple[Array, float | None]:
    """Extent (2,) in metres of a part in its own frame, and its area in m², where it is drawn."""
    found = flat_of(pack).parts.get(label)
    if found is None:
        return np.full(2, np.nan), None
    _, outer, inner = found
    shape = polygon_of(outer, inner, pack.tool(label))
    turn = -np.radians(number_in(pack.part_rows[label], "rotation_deg", "parts"))
    c, s = np.cos(turn), np.sin(turn)
    turned = shapely.affinity.affine_transform(shape, [c, -s, s, c, 0, 0])
    low_x, low_y, high_x, high_y = turned.bounds
    return np.array([high_x - low_x, high_y - low_y]) / 1000, float(shape.area) / 1e6


def _twisted(pack: Pack, row: Row, pose: Row) -> tuple[float, float]:
    """From where to where (m) above its plane a twisted panel goes, as far as is known."""
    known = row["label"] in flat_of(pack).parts
    heights = heights_of_twisted(pack, row, pose) if known else None
    if heights is None:
        return np.nan, np.nan
    low, high = heights
    return low / 1000, (high + number_in(row, "thickness_mm", "panels")) / 1000


def mesh_differs(wanted: Wanted, vertices: Array, triangles: NDArray[np.integer]) -> float:
    """How far (mm) a mesh's extent is from what is wanted; by its volume, the same as a share of
    its size."""
    local = (vertices - wanted.origin) @ wanted.axes.T
    if wanted.crossed:
        worst = 0.0
    elif wanted.line is not None:
        worst = _off_line(wanted.line, wanted.reach, wanted.apart, vertices) * 1000
    else:
        across = np.array([wanted.grown, wanted.grown, 1.0])
        ends = [local.min(axis=0) - wanted.low * across, local.max(axis=0) - wanted.high * across]
        worst = float(np.nanmax(np.abs(np.concatenate(ends)), initial=0.0)) * 1000
    volume = mesh_volume(local, triangles)
    if volume <= 0:
        return np.inf
    if wanted.planes is not None:
        worst = max(worst, _off_planes(wanted, vertices) * 1000)
    if wanted.middle is not None:
        worst = max(worst, _off_middle(wanted.middle, vertices, triangles, volume) * 1000)
    if wanted.volume is not None:
        worst = max(worst, _off_volume(wanted, wanted.volume, volume, local[triangles]) * 1000)
    return worst


def _off_planes(wanted: Wanted, vertices: Array) -> float:
    """How far in metres corners of a solid reach beyond the planes that cut it, or all of them stay
    short of one that is to be reached."""
    assert wanted.planes is not None
    beyond = beyond_cuts(wanted.planes, vertices)
    if wanted.line is None or wanted.plane_ends is None:
        return _off_reach(beyond.max(axis=0), wanted.reached)
    away = _distances(wanted.line, vertices)
    at_ends = away[:, [0, -1]]
    # Corners of pieces between are not held to planes. Where a member comes back to where it
    # begins, a corner may be of either end, and what the one cuts is there of the other.
    at_end = away.argmin(axis=1)[:, None] == [0, away.shape[1] - 1]
    either = at_end.any(axis=1)[:, None] & (at_ends <= wanted.reach * GROWN + ROUNDED_M)
    worst = 0.0
    by_end = np.full(at_ends.shape, -np.inf)
    for end in np.unique(wanted.plane_ends).tolist():
        own = beyond[:, wanted.plane_ends == end]
        by_end[:, end] = own.max(axis=1)
        reached = np.where(at_end[:, end, None] | either[:, end, None], own, -np.inf).max(axis=0)
        if wanted.reached is not None:
            reached = reached[wanted.reached[wanted.plane_ends == end]]
        worst = max(worst, -float(reached.min(initial=0.0)))
    further = np.where(at_end | either, by_end, np.inf).min(axis=1)
    return max(worst, float(further[np.isfinite(further)].max(initial=0.0)))


def _off_reach(most: Array, reached: NDArray[np.bool_] | None) -> float:
    """How far solids whose corners lie at ``most`` (k,) beyond planes are from touching those that
    are ``reached`` (k,), and from not going beyond the others."""
    allowed = most if reached is None else np.where(reached, most, np.maximum(most, 0.0))
    return float(np.abs(allowed).max(initial=0.0))


def _off_volume(wanted: Wanted, volume: float, found: float, corners: Array) -> float:
    """How far a volume is from the one that is wanted, as a share of it, of what rounding the
    ``corners`` (m, 3, 3) of its triangles and what it may be off by do not explain."""
    sides = corners[:, 1:] - corners[:, :1]
    area = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1).sum() / 2
    slack = ROUNDED_M * area + wanted.spare * volume
    return float(max(abs(found - volume) - slack, 0.0)) / volume


def _off_middle(
    middle: Array, vertices: Array, triangles: NDArray[np.integer], volume: float
) -> float:
    """How far (m) a mesh's centre of mass is from a place."""
    corner = vertices[triangles] - middle
    weight = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
    return float(np.abs(weight @ corner.sum(axis=1) / 4 / volume).max())


def _off_line(line: Array, reach: float, apart: float, vertices: Array) -> float:
    """How far (m) corners of a solid lie beyond what it can reach from a line, or a place of the
    line beyond that from all of them. Mitres reach further by their turns, which are small."""
    ways = np.diff(line, axis=0)
    square = np.maximum(np.einsum("ij,ij->i", ways, ways), 1e-12)
    away = _distances(line, vertices).min(axis=1)
    turn = np.einsum("ij,ij->i", ways[1:], ways[:-1]) / np.sqrt(square[1:] * square[:-1])
    mitre = 1 / float(np.sqrt((1 + min(float(turn.min(initial=1.0)), 1.0)) / 2))
    bare = np.linalg.norm(line[:, None] - vertices, axis=2).min(axis=1)
    covered = float(np.hypot(reach * mitre, apart))
    return max(float(away.max()) - reach * mitre, float(bare.max()) - covered, 0.0)


def _distances(line: Array, places: Array) -> Array:
    """From places (n, 3) to each of the pieces (n, k − 1) of a line (k, 3), in metres."""
    starts, ways = line[:-1], np.diff(line, axis=0)
    square = np.maximum(np.einsum("ij,ij->i", ways, ways), 1e-12)
    to = places[:, None] - starts
    share = np.clip(np.einsum("nkj,kj->nk", to, ways) / square, 0.0, 1.0)
    return np.asarray(np.linalg.norm(to - share[:, :, None] * ways, axis=2))


def mesh_volume(vertices: Array, triangles: NDArray[np.integer]) -> float:
    a, b, c = np.moveaxis(vertices[triangles], 2, 0).transpose(2, 0, 1)
    twice = [b[k - 2] * c[k - 1] - b[k - 1] * c[k - 2] for k in range(3)]
    return float(sum(a[k] @ twice[k] for k in range(3)) / 6)
