"""Members along lines in space, which meet where the lines do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ...geometry.lines import Line
from ...geometry.segments import near_pairs, nearest_shares
from ...sections import Section
from ..arms import arms_of
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .assembled import assembled
from .heights import square_to

__all__ = ["Laid", "along_lines", "laid_along"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
FINE = 1e-4
"""Metres by which chords may be off lines while it is looked for where these meet."""
NEAR_PARALLEL = 0.02
"""Sine below which two pieces run beside each other and do not cross."""
LINE_APART = 1000.0
"""Metres along by which things of one line are numbered behind those of the line before."""


@dataclass(frozen=True, eq=False)
class Laid:
    """Members as they are laid along lines, before it is known what they are.

    Parameters
    ----------
    places, normals, station : (N, 3), (N, 3), (N, 2) of nodes
    path, offsets : (P,), (M + 1,) of members
    up, bulge : (S, 3) of segments
    offset : (P, 3) from nodes to axes
    line : (M,) that each member lies along
    member_station : (M, 2)
    """

    places: Array
    normals: Array
    station: Array
    path: Index
    offsets: Index
    up: Array
    bulge: Array
    offset: Array
    line: Index
    member_station: Array


def along_lines(
    lines: Sequence[Line],
    section: Section | Sequence[Section],
    role: str | Sequence[str],
    meeting: Meeting,
    near: float,
    parts: bool = False,
    roll: float = 0.0,
) -> Structure:
    """Members along lines; they share a node where lines end at others or cross.

    Parameters
    ----------
    lines : what they lie along
    section, role : theirs, or those of what lies along each line
    meeting : how they meet
    near : within how many metres ends and crossings are one place
    parts : whether a member goes from node to node; else one goes on all along its line
    roll : turn of heights about the axes, in radians
    """
    laid = laid_along(lines, near, parts)
    axis = _middle_ways(laid)
    up = square_to(axis, laid.up, np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]]))
    up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    members = len(laid.line)
    wanted = (section,) if isinstance(section, Section) else tuple(section)
    roles = (role,) * len(lines) if isinstance(role, str) else tuple(role)
    made = assembled(
        places=laid.places,
        normals=laid.normals,
        path=laid.path,
        offsets=laid.offsets,
        up=up,
        wanted=wanted,
        which=laid.line if len(wanted) > 1 else np.zeros(members, np.int32),
        role=np.array([role_number(name) for name in roles], np.int32)[laid.line],
        station=laid.station,
        member_station=laid.member_station,
        offset=laid.offset,
        bulge=laid.bulge,
        group=laid.line,
    )
    return with_joints(made, arms_of(made), meeting)


def laid_along(lines: Sequence[Line], near: float, parts: bool = False) -> Laid:
    """Nodes where lines end, bend, end at each other or cross, and members between them: from node
    to node in ``parts``, or all along. What is within ``near`` metres is one node; it stands where
    the first of its lines is, and the others keep their axes."""
    stops = _meetings(lines, near)
    divided = [line.with_places(run) for line, run in zip(lines, stops, strict=True)]
    counts = np.array([len(line.places) for line in divided], np.int64)
    places = np.vstack([line.places for line in divided])
    node = _nodes(places, near)
    first = np.flatnonzero(np.concatenate([[True], np.diff(np.sort(node)) > 0]))
    first = np.argsort(node, kind="stable")[first]
    path, offsets, line_of_member = _members(counts, parts)
    run = np.concatenate([line.run for line in divided])
    which = np.repeat(np.arange(len(lines)), counts)
    station = np.column_stack([LINE_APART * which, run])
    return Laid(
        places=places[first],
        normals=np.vstack([line.normals for line in divided])[first],
        station=station[first],
        path=node[path].astype(np.int32),
        offsets=offsets,
        up=np.vstack([_between(line.normals) for line in divided]),
        bulge=np.vstack([line.bulge for line in divided]),
        offset=places[path] - places[first][node[path]],
        line=line_of_member,
        member_station=np.add.reduceat(station[path], offsets[:-1]) / np.diff(offsets)[:, None],
    )


def _between(normals: Array) -> Array:
    """Directions (n − 1, 3) half-way between neighbours."""
    return (normals[:-1] + normals[1:]) / 2


def _members(counts: NDArray[np.int64], parts: bool) -> tuple[Index, Index, Index]:
    """Places among those of all lines that members run through, where each begins, and its line;
    lines have ``counts`` (L,) of places."""
    number = np.arange(int(counts.sum()), dtype=np.int32)
    line = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
    if not parts:
        offsets = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
        return number, offsets, np.arange(len(counts), dtype=np.int32)
    goes_on = np.flatnonzero(line[:-1] == line[1:])
    pairs = np.column_stack([number[goes_on], number[goes_on + 1]])
    return pairs.ravel(), np.arange(0, 2 * len(pairs) + 1, 2, dtype=np.int32), line[goes_on]


def _middle_ways(laid: Laid) -> Array:
    """Unit directions (S, 3) of the chords of segments."""
    at = laid.places[laid.path] + laid.offset
    inner = np.ones(len(at), bool)
    inner[laid.offsets[1:] - 1] = False
    start = np.flatnonzero(inner)
    chord = at[start + 1] - at[start]
    return np.asarray(chord / np.maximum(np.linalg.norm(chord, axis=1, keepdims=True), 1e-300))


def _nodes(places: Array, near: float) -> Index:
    """Numbers (n,) from 0 of the nodes that places are, in the order of their first ones."""
    tree = scipy.spatial.cKDTree(places)
    pairs = tree.query_pairs(near, output_type="ndarray")
    shape = (len(places), len(places))
    joins = scipy.sparse.coo_array((np.ones(len(pairs), bool), pairs.T), shape=shape)
    _, part = scipy.sparse.csgraph.connected_components(joins, directed=False)
    _, first, number = np.unique(part, return_index=True, return_inverse=True)
    order = np.empty(len(first), np.int32)
    order[np.argsort(first)] = np.arange(len(first), dtype=np.int32)
    return order[number]


@dataclass(frozen=True, eq=False)
class _Pieces:
    """Straight pieces (n,) of lines: between ``starts`` and ``ends`` (n, 3), which are ``from_run``
    and ``to_run`` (n,) metres along the line (n,) of each."""

    starts: Array
    ends: Array
    from_run: Array
    to_run: Array
    line: Index

    def run(self, piece: NDArray[np.int64], share: Array) -> Array:
        """How far along its line a share (k,) of each piece (k,) is."""
        return self.from_run[piece] + share * (self.to_run - self.from_run)[piece]


def _pieces(lines: Sequence[Line]) -> _Pieces:
    """Lines in pieces; their ends are such of no length, as of two pieces that run beside each
    other only one place is nearest."""
    sampled = [line.sampled(FINE) for line in lines]
    number = np.arange(len(lines), dtype=np.int32)
    tips = np.array([at[[0, -1]] for at, _ in sampled]).reshape(-1, 3)
    tip_runs = np.array([run[[0, -1]] for _, run in sampled]).ravel()
    counts = [len(run) - 1 for _, run in sampled]
    return _Pieces(
        starts=np.vstack([*(at[:-1] for at, _ in sampled), tips]),
        ends=np.vstack([*(at[1:] for at, _ in sampled), tips]),
        from_run=np.concatenate([*(run[:-1] for _, run in sampled), tip_runs]),
        to_run=np.concatenate([*(run[1:] for _, run in sampled), tip_runs]),
        line=np.concatenate([np.repeat(number, counts), np.repeat(number, 2)]),
    )


def _meetings(lines: Sequence[Line], near: float) -> list[Array]:
    """How far along each line others end at it or cross it."""
    pieces = _pieces(lines)
    starts, ends, line = pieces.starts, pieces.ends, pieces.line
    pairs = near_pairs(starts, ends, 2 * near)
    a, b = pairs[line[pairs[:, 0]] != line[pairs[:, 1]]].T
    s, t, apart = nearest_shares((starts[a], ends[a]), (starts[b], ends[b]))
    runs = np.column_stack([pieces.run(a, s), pieces.run(b, t)])
    owners = np.column_stack([line[a], line[b]])
    lengths = np.array([each.length for each in lines])[owners]
    is_end = ((runs < near) | (runs > lengths - near)).any(axis=1)
    # Those that run beside each other meet at their ends alone.
    crosses = _sines(ends[a] - starts[a], ends[b] - starts[b]) > NEAR_PARALLEL
    good = np.flatnonzero((apart <= near) & (crosses | is_end))
    good = good[np.argsort(apart[good], kind="stable")]
    return _stops(lines, owners[good].ravel(), runs[good].ravel(), near)


def _sines(first: Array, second: Array) -> Array:
    """Of the angles (n,) between directions (n, 3) of any size."""
    sizes = np.linalg.norm(first, axis=1) * np.linalg.norm(second, axis=1)
    return np.linalg.norm(np.cross(first, second), axis=1) / np.maximum(sizes, 1e-300)


def _stops(lines: Sequence[Line], owners: Index, runs: Array, near: float) -> list[Array]:
    """Of the places at ``runs`` (k,) along the ``owners`` (k,) those (m,) of each line, in their
    order, that are not near one before them or a place the line has already."""
    stops = [line.run.tolist() for line in lines]
    for owner, run in zip(owners.tolist(), runs.tolist(), strict=True):
        if all(abs(run - other) > near for other in stops[owner]):
            stops[owner].append(run)
    own = [len(line.run) for line in lines]
    return [np.sort(found[count:]) for found, count in zip(stops, own, strict=True)]
