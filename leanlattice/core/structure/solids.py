"""Members as they are drawn and weighed: lines of their axes, and solids along them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import arc_places, carried, unit
from ..geometry.prisms import ring_between
from ..sections.shapes import Outline
from .structure import Structure
from .trimmed import section_mesh, trimmed_solid

__all__ = ["axis_line", "member_solids", "planes_of_member", "set_out_lines"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

TURN, OFF = np.radians(6.0), 1e-3
"""Most of a turn that a chord of a drawn arc stands for, and most metres that it is off it."""
SAME = 1e-6
"""What directions of two pieces may differ by where a section is not turned from one to the
other."""


def _along_arc(start: Array, chord: Array, bulge: Array) -> Array:
    """Places (k, 3) after the start along an arc, its end the last; of a straight one its end."""
    rise, length = float(np.linalg.norm(bulge)), float(np.linalg.norm(chord))
    if rise <= 1e-12 * max(length, 1e-300):
        return (start + chord)[None]
    turn = 4 * np.arctan(2 * rise / length)
    radius = (length**2 / 4 + rise**2) / (2 * rise)
    step = min(TURN, 2 * float(np.arccos(max(1 - OFF / radius, -1.0))))
    pieces = max(2, int(np.ceil(turn / step)))
    share = np.linspace(0.0, 1.0, pieces + 1)[1:]
    starts, chords, bulges = (np.tile(row, (pieces, 1)) for row in (start, chord, bulge))
    out = arc_places(starts, chords, bulges, share)
    out[-1] = start + chord
    return out


def axis_line(structure: Structure, member: int, off_axis: bool = False) -> tuple[Array, Index]:
    """Places (k, 3) along a member's axis, arcs as chords, and the segment (k − 1,) that each of
    its pieces is of; with ``off_axis`` those of its nodes' places instead."""
    first = structure.offsets[member]
    entries = slice(first, structure.offsets[member + 1])
    at = structure.places[structure.path[entries]] if off_axis else structure.axis_places[entries]
    segment = first - member
    places, owner = [at[:1]], []
    for k in range(len(at) - 1):
        run = _along_arc(at[k], at[k + 1] - at[k], structure.bulge[segment + k])
        places.append(run)
        owner += [segment + k] * len(run)
    return np.vstack(places), np.array(owner, np.int32)


def set_out_lines(structure: Structure) -> tuple[Array, Index]:
    """Lines (n, 2, 3) from node to node of all members, arcs as chords, and the member (n,) of
    each."""
    ends = structure.places[structure.path]
    straight = np.stack([ends[structure.first_entry], ends[structure.first_entry + 1]], axis=1)
    if not structure.bulge.any():
        return straight, structure.member_of_segment
    runs = [axis_line(structure, m, off_axis=True)[0] for m in range(structure.count)]
    lines = [np.stack([run[:-1], run[1:]], axis=1) for run in runs]
    owner = np.repeat(np.arange(structure.count), [len(line) for line in lines])
    return np.concatenate(lines), owner.astype(np.int32)


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
    is_cut = np.zeros((structure.count, 2), bool)
    is_cut.ravel()[structure.cuts.end] = True
    left = np.flatnonzero(structure.mean_lengths > 0).tolist()
    # Ends that planes cut go from where the axes end to the planes.
    whole = replace(structure, set_back=np.where(is_cut, 0.0, structure.set_back))
    plain, straight = structure.is_plain, _straight_rings(whole)
    meshes = [section_mesh(own) for own in outlines]
    is_bent = _bent(structure)
    known: dict[tuple[int, int, bool], Index] = {}
    for m in left:
        places, rings = (straight[0][m], straight[1][m]) if plain[m] else _rings(whole, m)
        which = structure.section_of[m]
        if is_cut[m].any() or not meshes[which].is_tube:
            inward = _inward(places) if is_bent[m] else structure.end_frames[0][m]
            planes = (_planes(structure, 2 * m), _planes(structure, 2 * m + 1))
            yield m, *trimmed_solid(meshes[which], places, rings, inward, planes)
            continue
        own = [ring for ring in outlines[which][0] if ring is not None]
        yield m, *_swept(own, places, rings, known)


def _bent(structure: Structure) -> NDArray[np.bool_]:
    """Whether each member (M,) has an arc."""
    rise = np.abs(structure.bulge).sum(axis=1)
    return np.bincount(structure.member_of_segment, rise, minlength=structure.count) > 0


def _inward(places: Array) -> Array:
    """Unit directions (2, 3) in which the drawn pieces of a line (k, 3) leave its two ends."""
    steps = np.diff(places, axis=0)
    steps = steps[np.linalg.norm(steps, axis=1) > SAME]
    return unit(np.stack([steps[0], -steps[-1]]))


def _swept(
    own: list[Array], places: Array, rings: Array, known: dict[tuple[int, int, bool], Index]
) -> tuple[Array, Index]:
    """Vertices and triangles of the loops of a section at all ``places``: loop after loop, each at
    one place after the other. Triangles that are ``known`` are shared."""
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


def _planes(structure: Structure, end: int) -> Array:
    """Normals and levels (p, 4) of the planes that cut an end, from where its axis ends on."""
    cuts = structure.cuts
    rows = slice(*np.searchsorted(cuts.end, [end, end + 1]))
    return np.column_stack([cuts.normal[rows], cuts.level[rows]])


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
    places, owner = axis_line(structure, member)
    ways = np.diff(places, axis=0)
    lengths = np.linalg.norm(ways, axis=1)
    ways /= lengths[:, None]
    up = _square_to(carried(structure.up[owner], unit(structure.chords[owner]), ways), ways)
    frames = np.stack([np.cross(up, ways), up], axis=1)
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    ends = np.array([structure.set_back[member, 0], run[-1] - structure.set_back[member, 1]])
    between = np.arange(1, len(run) - 1)
    between = between[(run[between] > ends[0]) & (run[between] < ends[1])]
    # The pieces the two ends lie on.
    on = [np.searchsorted(run, ends[0], "right") - 1, np.searchsorted(run, ends[1], "left") - 1]
    on = np.clip(on, 0, len(ways) - 1)
    cuts = places[on] + (ends - run[on])[:, None] * ways[on]
    scale = _scale_along(structure, member, owner, lengths)
    scales = np.interp(run[between], run, scale)
    mitres = [_mitres(frames[k - 1 : k + 1], ways[k - 1 : k + 1]) for k in between]
    counts = np.array([len(own) for own in mitres], int)
    rings = np.concatenate([frames[on[0]][None], *mitres, frames[on[1]][None]])
    at_ends = np.interp(ends, run, scale)
    sizes = np.concatenate([at_ends[:1], np.repeat(scales, counts), at_ends[1:]])
    along = np.vstack([cuts[:1], np.repeat(places[between], counts, axis=0), cuts[1:]])
    return along, rings * sizes[:, None, None]


def _mitres(frames: Array, ways: Array) -> Array:
    """Rings (k, 2, 3) in the plane half-way between two pieces, of which ``frames`` (2, 2, 3) tell
    the width and the height and ``ways`` (2, 3) the direction: where the section is turned about
    its axis there, the one's and the other's, so that each piece stays a prism."""
    one = _mitre(frames[0], ways[0], ways[1])
    other = _mitre(frames[1], ways[1], ways[0])
    return one[None] if np.abs(other - one).max() < SAME else np.stack([one, other])


def _scale_along(structure: Structure, member: int, owner: Index, lengths: Array) -> Array:
    """Of the section (k,) at the places of a member's line, even between its entries; ``owner`` and
    ``lengths`` (k − 1,) tell the segment of each piece and how long it is."""
    entries = slice(structure.offsets[member], structure.offsets[member + 1])
    segments = np.bincount(owner - owner[0], lengths)
    at_entries = np.concatenate([[0.0], np.cumsum(segments)])
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    return np.interp(run, at_entries, structure.scale[entries])


def _mitre(frame: Array, before: Array, after: Array) -> Array:
    """Directions (2, 3) square to ``before``, slid along it into the plane half-way to ``after``."""
    middle = before + after
    return np.asarray(frame - np.outer(frame @ middle / (before @ middle), before))


def _square_to(up: Array, ways: Array) -> Array:
    """The directions ``up`` (k, 3) made square to ``ways`` (k, 3)."""
    return unit(up - np.einsum("ij,ij->i", up, ways)[:, None] * ways)
