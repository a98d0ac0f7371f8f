"""Members as solids along their axes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import carried, unit
from ..geometry.prisms import ring_between
from ..sections.shapes import Outline
from .axes import drawn_axes
from .cuts import ALONG, ASIDE, CUT, LEVEL, NORMAL, RADIUS
from .overrun import overrun
from .structure import Structure
from .trimmed import SectionMesh, section_mesh, trimmed_solid

__all__ = ["member_solids", "planes_of_member"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

Known = dict[tuple[int, int, bool], Index]
WHOLE = np.zeros((0, CUT)), np.zeros((0, CUT))
"""No cuts at either end."""
ROUND = 96
"""Sides of tubes that are cut out of others."""
CROSSING = 1e-6
"""Metres by which cuts of both ends may reach into each other and still leave what they should."""
SAME = 1e-6
"""What directions of two pieces may differ by where a section is not turned from one to the
other."""


def _faces(n: int, stations: int, hollow: bool) -> Index:
    """Triangles of a tube of outer loops of n points, one at each station, and behind them the
    inner ones where it is ``hollow``."""
    last = (stations - 1) * n
    outer = [ring_between(k * n, (k + 1) * n, n) for k in range(stations - 1)]
    if not hollow:
        fan = np.column_stack([np.zeros(n - 2, int), np.arange(2, n), np.arange(1, n - 1)])
        return np.concatenate([*outer, fan, fan[:, ::-1] + last]).astype(np.int32)
    base = stations * n
    inner = [ring_between(base + (k + 1) * n, base + k * n, n) for k in range(stations - 1)]
    ends = [ring_between(base, 0, n), ring_between(last, base + last, n)]
    return np.concatenate([*outer, *inner, *ends]).astype(np.int32)


def member_solids(
    structure: Structure, segments: int = 12, same_area: bool = False
) -> Iterator[tuple[int, Array, Index]]:
    """Member number, vertices (n, 3) in metres and triangles (m, 3) of each member that has a
    length left.

    Closed, normals outward; hollow sections are hollow, and what turns at a node or along an arc is
    mitred. Round sections are polygons of so many ``segments`` with corners on the circles or, with
    ``same_area``, of the circles' area.
    """
    outlines = _outlines(structure, segments, same_area)
    is_cut = _cut_ends(structure)
    left = np.flatnonzero(structure.mean_lengths > 0).tolist()
    # Ends that planes cut go from where the axes end to the planes.
    whole = replace(structure, set_back=np.where(is_cut, 0.0, structure.set_back))
    plain, straight = structure.is_plain, _straight_rings(whole)
    meshes = [section_mesh(own) for own in outlines]
    is_bent, is_trimmed = _bent(structure), _trimmed(structure)
    known: Known = {}
    for m in left:
        places, rings = (straight[0][m], straight[1][m]) if plain[m] else _rings(whole, m)
        which = structure.section_of[m]
        if not is_cut[m].any() and meshes[which].is_tube:
            yield m, *_swept(outlines[which][0], places, rings, known)
            continue
        inward = _inward(places) if is_bent[m] else structure.end_frames[0][m]
        cuts = (_cuts_of(structure, 2 * m), _cuts_of(structure, 2 * m + 1))
        cut = _cut_as_solid if is_trimmed[m] else trimmed_solid
        yield m, *cut(meshes[which], places, rings, inward, cuts)


def _cut_ends(structure: Structure) -> NDArray[np.bool_]:
    """Which ends (M, 2) planes cut."""
    out = np.zeros((structure.count, 2), bool)
    out.ravel()[structure.cuts.end] = True
    return out


def _trimmed(structure: Structure) -> NDArray[np.bool_]:
    """Which members (M,) are cut as solids: where not every line along them runs from one end to
    the other, or lines do not run side by side."""
    crosses = (overrun(structure) > CROSSING).any(axis=1) & (np.diff(structure.offsets) == 2)
    return np.asarray(structure.is_uneven | crosses)


def _bent(structure: Structure) -> NDArray[np.bool_]:
    """Whether each member (M,) has an arc."""
    rise = np.abs(structure.bulge).sum(axis=1)
    return np.bincount(structure.member_of_segment, rise, minlength=structure.count) > 0


def _inward(places: Array) -> Array:
    """Unit directions (2, 3) in which the drawn pieces of a line (k, 3) leave its two ends."""
    steps = np.diff(places, axis=0)
    steps = steps[np.linalg.norm(steps, axis=1) > SAME]
    return unit(np.stack([steps[0], -steps[-1]]))


def _swept(outline: Outline, places: Array, rings: Array, known: Known) -> tuple[Array, Index]:
    """Vertices and triangles of the loops of a section at all ``places``: loop after loop, each at
    one place after the other. Triangles that are ``known`` are shared."""
    own = [loop for loop in outline if loop is not None]
    shape = (len(own[0]), len(places), len(own) > 1)
    if shape not in known:
        known[shape] = _faces(*shape)
    # Of each corner its width and height there.
    along = list(zip(places, rings, strict=True))
    return np.vstack([loop @ ring + place for loop in own for place, ring in along]), known[shape]


def planes_of_member(structure: Structure, member: int) -> Array:
    """Normals out of a member and levels (k, 4) in metres, from nothing on, of the planes that cut
    its ends."""
    cuts = structure.cuts
    rows = slice(*np.searchsorted(cuts.end, [2 * member, 2 * member + 2]))
    entries = structure.offsets[member + cuts.end[rows] % 2] - cuts.end[rows] % 2
    levels = np.einsum("ij,ij->i", cuts.normal[rows], structure.axis_places[entries])
    return np.column_stack([cuts.normal[rows], levels + cuts.level[rows]])


def _cuts_of(structure: Structure, end: int) -> Array:
    """What cuts an end (p, CUT)."""
    cuts = structure.cuts
    return cuts.rows[slice(*np.searchsorted(cuts.end, [end, end + 1]))]


def _cut_as_solid(
    section: SectionMesh, places: Array, rings: Array, inward: Array, cuts: tuple[Array, Array]
) -> tuple[Array, Index]:
    """What ``trimmed_solid`` gives, cut out of a longer solid, so that cuts may take what others
    have taken."""
    import manifold3d

    reach = float(np.linalg.norm(section.corners, axis=1).max())
    reach *= float(np.linalg.norm(rings, axis=2).max())
    longer = _longer(places, rings, inward, cuts, reach)
    vertices, triangles = trimmed_solid(section, *longer, inward, WHOLE)
    left = manifold3d.Manifold(manifold3d.Mesh64(vertices, triangles.astype(np.uint64)))
    for own, place in zip(cuts, places[[0, -1]], strict=True):
        for cut in own:
            left = _less(left, cut, place)
    made = left.to_mesh64()
    return np.asarray(made.vert_properties[:, :3], float), np.asarray(made.tri_verts, np.int32)


def _less(solid: Any, cut: Array, place: Array) -> Any:
    """What a ``cut`` (CUT,) leaves of a solid of a member whose axis ends at a ``place``: of a
    saddle what a plane through the tube's axis does, less the tube."""
    import manifold3d

    normal, radius = cut[NORMAL], cut[RADIUS]
    level = float(cut[LEVEL] + radius + normal @ place)
    left = solid.trim_by_plane(tuple(-normal), -level)
    if radius == 0:
        return left
    along = cut[ALONG]
    aside = np.cross(along, normal)
    low = np.array(solid.bounding_box()).reshape(2, 3)
    long = 2 * float(np.linalg.norm(low[1] - low[0])) + 4 * radius
    middle = place + (cut[LEVEL] + radius) * normal + cut[ASIDE] * aside
    frame = np.column_stack([normal, -aside, along, middle])
    tube = manifold3d.Manifold.cylinder(long, radius, circular_segments=ROUND, center=True)
    return left - tube.transform(frame)


def _longer(
    places: Array, rings: Array, inward: Array, cuts: tuple[Array, Array], reach: float
) -> tuple[Array, Array]:
    """Places (k, 3) of rings (k, 2, 3) and further ones before and behind them, as far as cuts
    beyond the ends take a section that reaches so many metres."""
    for end in (0, 1):
        if not len(cuts[end]):
            continue
        into = np.abs(cuts[end][:, NORMAL] @ inward[end])
        slope = np.sqrt(np.maximum(1 - into**2, 0.0)) / np.maximum(into, 1e-3)
        deep = np.abs(cuts[end][:, LEVEL]) + cuts[end][:, RADIUS]
        far = float((deep / np.maximum(into, 1e-3) + reach * slope).max())
        at = -1 if end else 0
        more = places[at] - 1.01 * far * inward[end]
        places = np.vstack([places, more] if end else [more, places])
        rings = np.concatenate([rings, rings[-1:]] if end else [rings[:1], rings])
    return places, rings


def _outlines(structure: Structure, segments: int, same_area: bool) -> list[tuple[Outline, ...]]:
    """The outlines of each section."""
    turn = 2 * np.pi / segments
    grown = float(np.sqrt(turn / np.sin(turn))) if same_area else 1.0
    out = []
    for section in structure.sections:
        scale = grown if section.shape.round else 1.0
        pieces = section.shape.pieces(segments)
        scaled = [(o * scale, None if i is None else i * scale) for o, i in pieces]
        out.append(tuple(scaled))
    return out


def _straight_rings(structure: Structure) -> tuple[Array, Array]:
    """What ``_rings`` gives of all members at once, were they straight from end to end."""
    ends = structure.axis_places[
        np.column_stack([structure.offsets[:-1], structure.offsets[1:] - 1])
    ]
    ways = ends[:, 1] - ends[:, 0]
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-300)
    up = structure.up[structure.offsets[:-1] - np.arange(structure.count)]
    back = structure.set_back[:, :, None] * ways[:, None] * np.array([1.0, -1.0])[:, None]
    rings = np.stack([np.cross(up, ways), up], axis=1)
    return ends + back, np.repeat(rings[:, None], 2, axis=1)


def _rings(structure: Structure, member: int) -> tuple[Array, Array]:
    """Where rings of a member's section stand: places (k, 3), and what a metre along its width and
    along its height is there (k, 2, 3): square to its ends, and mitred between."""
    places, scale, owner = drawn_axes(structure).of_member(member)
    ways = np.diff(places, axis=0)
    lengths = np.linalg.norm(ways, axis=1)
    ways /= lengths[:, None]
    up = _square_to(carried(structure.up[owner], unit(structure.chords[owner]), ways), ways)
    frames = np.stack([np.cross(up, ways), up], axis=1)
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    ends = np.array([structure.set_back[member, 0], run[-1] - structure.set_back[member, 1]])
    between = np.arange(1, len(run) - 1)
    between = between[(run[between] > ends[0]) & (run[between] < ends[1])]
    on = _pieces_at(ends, run)
    mitres = [_mitres(frames[k - 1 : k + 1], ways[k - 1 : k + 1]) for k in between]
    counts = np.array([len(own) for own in mitres], int)
    cuts = places[on] + (ends - run[on])[:, None] * ways[on]
    rings = np.concatenate([frames[on[:1]], *mitres, frames[on[1:]]])
    at_ends = np.interp(ends, run, scale)
    sizes = _between(at_ends, np.repeat(scale[between], counts))
    return _between(cuts, np.repeat(places[between], counts, axis=0)), rings * sizes[:, None, None]


def _pieces_at(ends: Array, run: Array) -> NDArray[np.int64]:
    """The pieces (2,) of a line, between places so far along it (k,), on which its two ends lie."""
    last = len(run) - 2
    on = [np.searchsorted(run, ends[0], "right") - 1, np.searchsorted(run, ends[1], "left") - 1]
    return np.clip(on, 0, last)


def _between(ends: Array, inner: Array) -> Array:
    """What is at both ends (2, …) and what is between (n, …), in one row."""
    return np.concatenate([ends[:1], inner, ends[1:]])


def _mitres(frames: Array, ways: Array) -> Array:
    """Rings (k, 2, 3) in the plane half-way between two pieces, of which ``frames`` (2, 2, 3) tell
    the width and the height and ``ways`` (2, 3) the direction: where the section is turned about
    its axis there, the one's and the other's, so that each piece stays a prism."""
    one = _mitre(frames[0], ways[0], ways[1])
    other = _mitre(frames[1], ways[1], ways[0])
    return one[None] if np.abs(other - one).max() < SAME else np.stack([one, other])


def _mitre(frame: Array, before: Array, after: Array) -> Array:
    """Directions (2, 3) square to ``before``, slid along it into the plane half-way to ``after``."""
    middle = before + after
    return np.asarray(frame - np.outer(frame @ middle / (before @ middle), before))


def _square_to(up: Array, ways: Array) -> Array:
    """The directions ``up`` (k, 3) made square to ``ways`` (k, 3)."""
    return unit(up - np.einsum("ij,ij->i", up, ways)[:, None] * ways)
