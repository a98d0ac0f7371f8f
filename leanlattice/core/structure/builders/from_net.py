"""Structures of nets: a member along every edge, or one along every strand of a weave."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net, Weave
from ...nets.stations import run_stations, vertex_stations
from ...nets.strands import strand_ends
from ...sections import Section
from ..arms import arms_of
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .heights import SET_OUT, members_up, square_to

__all__ = ["from_net", "from_strands"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class _Runs:
    """Members (M) as runs of edges: ``path`` (P,) of vertices parted by ``offsets`` (M + 1,), the
    ``edge`` (S,) of each segment, how far above the net each entry is, ``level`` (P,) in metres,
    and what each member's ``role`` (M,) and wanted section, ``which`` (M,), are."""

    path: Index
    offsets: Index
    edge: Index
    level: Array
    role: Index
    which: Index


def from_net(
    net: Net,
    inner: Section,
    border: Section,
    set_out: str,
    roll: float,
    meeting: Meeting,
    marked: tuple[Section, ...] = (),
    source: str = "",
) -> Structure:
    """A member along every edge of a ``net``, in the order of its edges.

    Parameters
    ----------
    net : its vertices become the nodes, in their order
    inner, border : the sections of members along inner edges and along the border
    set_out : the line of the section that lies on the net, an entry of ``SET_OUT``
    roll : turn of the section's height about the axis from the faces beside it, in radians
    meeting : how members meet at nodes
    marked : sections of edges that are marked, by their marks from 1 on
    source : key of the net
    """
    count = len(net.edges)
    which = _wanted(net, np.arange(count), net.border, bool(marked), len(marked))
    runs = _Runs(
        path=net.edges.ravel(),
        offsets=np.arange(0, 2 * count + 1, 2, dtype=np.int32),
        edge=np.arange(count, dtype=np.int32),
        level=np.zeros(2 * count),
        role=np.where(net.border, role_number("edge"), role_number("grid")).astype(np.int32),
        which=which,
    )
    structure = _along(net, runs, (inner, border, *marked), SET_OUT[set_out], roll, source)
    # All that meets at a vertex of the net is one joint, however far it is rolled or set out.
    arms = arms_of(structure, joined=True)
    return with_joints(structure, arms, meeting)


def from_strands(
    net: Net,
    inner: Section,
    border: Section,
    set_out: str,
    roll: float,
    meeting: Meeting,
    marked: tuple[Section, ...] = (),
    source: str = "",
) -> Structure:
    """A member along every strand of a ``net`` that is woven or reciprocal, which runs on through
    its crossings at its levels, and one along every edge of its border.

    ``inner``, ``border``, ``set_out``, ``roll``, ``meeting``, ``marked`` and ``source`` are those
    of ``from_net``; a strand has the section of the mark of its first edge. Members that pass each
    other are not cut; those that end at others stop at their sides.
    """
    assert net.weave is not None
    strands = _strand_runs(net, net.weave)
    starts = strands.edge[strands.offsets[:-1] - np.arange(len(strands.role))]
    border_edges = np.flatnonzero(net.border).astype(np.int32)
    first = np.concatenate([starts, border_edges])
    is_border = np.arange(len(first)) >= len(starts)
    runs = _Runs(
        path=np.concatenate([strands.path, net.edges[border_edges].ravel()]),
        offsets=np.concatenate(
            [strands.offsets, len(strands.path) + 2 * np.arange(1, len(border_edges) + 1)]
        ).astype(np.int32),
        edge=np.concatenate([strands.edge, border_edges]),
        level=np.concatenate([strands.level, np.zeros(2 * len(border_edges))]),
        role=np.where(is_border, role_number("edge"), role_number("lath")).astype(np.int32),
        which=_wanted(net, first, is_border, bool(marked), len(marked)),
    )
    structure = _along(net, runs, (inner, border, *marked), SET_OUT[set_out], roll, source)
    return with_joints(structure, arms_of(structure), meeting)


def _wanted(
    net: Net, edge: NDArray[np.integer], is_border: NDArray[np.bool_], by_mark: bool, most: int
) -> Index:
    """Of ``inner``, ``border`` and those of marks the section (M,) of each member that starts with
    an ``edge``."""
    which = is_border.astype(np.int32)
    if net.marks is None or not by_mark:
        return which
    marks = net.marks[edge]
    return np.where(marks > 0, np.minimum(marks, most) + 1, which).astype(np.int32)


def _strand_runs(net: Net, weave: Weave) -> _Runs:
    """Strands within the border: those with ends first, from their ends on, then closed ones."""
    onward = strand_ends(net, weave)
    is_border = net.border
    onward[np.repeat(is_border, 2)] = -1
    onward[(onward >= 0) & is_border[onward >> 1]] = -1
    loose = np.flatnonzero((onward < 0) & ~np.repeat(is_border, 2))
    starts = [*loose.tolist(), *(2 * np.flatnonzero(~is_border)).tolist()]
    walks = _walks(starts, onward.tolist())
    leaving = [end for walk in walks for end in walk]
    edge = np.array(leaving, np.int64) >> 1
    counts = np.array([len(walk) for walk in walks], np.int64)
    offsets = np.concatenate([[0], np.cumsum(counts + 1)]).astype(np.int32)
    # Each walk leaves through ends and comes to its last vertex through the opposite one.
    ends = [end for walk in walks for end in (*walk, walk[-1] ^ 1)]
    none = np.zeros(len(walks), np.int32)
    return _Runs(
        path=net.edges.ravel()[ends],
        offsets=offsets,
        edge=edge.astype(np.int32),
        level=weave.level.ravel()[ends] * weave.thickness,
        role=none,
        which=none,
    )


def _walks(starts: list[int], onward: list[int]) -> list[list[int]]:
    """Ends through which walks leave vertices, each edge once: from each of the ``starts`` along
    its edge, and on into the end that the opposite one runs ``onward`` into, −1 for none."""
    seen: set[int] = set()
    walks = []
    for end in starts:
        walk = []
        while end >= 0 and end >> 1 not in seen:
            seen.add(end >> 1)
            walk.append(end)
            end = onward[end ^ 1]
        if walk:
            walks.append(walk)
    return walks


def _along(
    net: Net, runs: _Runs, wanted: tuple[Section, ...], share: float, roll: float, source: str
) -> Structure:
    """Members along ``runs``, in the sections they are ``wanted`` in, their middles a ``share`` of
    the section's height above the net, turned by ``roll``; nothing is set back."""
    members, nodes = len(runs.role), len(net.vertices)
    sections, section_of = used_sections(wanted, runs.which)
    height = np.array([s.shape.height for s in sections])[section_of]
    lift = np.repeat(share * height, np.diff(runs.offsets))[:, None]
    up, offset = _set_out(net, runs, lift, roll)
    return Structure(
        places=net.vertices,
        normals=net.normals,
        station=vertex_stations(net),
        member_station=run_stations(net, runs.path, runs.offsets),
        stage=np.zeros(nodes, np.int32),
        origin=np.column_stack([np.zeros(nodes), np.arange(nodes)]).astype(np.int32),
        foot=np.zeros(nodes, bool),
        rule=np.zeros(nodes, np.int32),
        meeting=np.zeros(nodes, np.int32),
        radius=np.zeros(nodes),
        height=np.zeros(nodes),
        path=runs.path,
        offsets=runs.offsets,
        offset=offset,
        scale=np.ones(len(runs.path)),
        up=up,
        bulge=np.zeros_like(up),
        sections=sections,
        section_of=section_of,
        role=runs.role,
        member_stage=np.zeros(members, np.int32),
        group=np.zeros(members, np.int32),
        set_back=np.zeros((members, 2)),
        copy_of=np.arange(members, dtype=np.int32),
        mirrored=np.zeros(members, bool),
        sources=(source,),
    )


def _axes(at: Array, offsets: Index) -> Array:
    """Unit directions (S, 3) from each of the places (P, 3) of members to the next."""
    inner = np.ones(len(at), bool)
    inner[offsets[1:] - 1] = False
    start = np.flatnonzero(inner)
    chord = at[start + 1] - at[start]
    return np.asarray(chord / np.linalg.norm(chord, axis=1, keepdims=True))


def _up_at_entries(runs: _Runs, up: Array) -> Array:
    """Heights (P, 3) at the entries of members; where one runs on, the mean of those beside."""
    segment = np.arange(len(runs.path)) - np.repeat(
        np.arange(len(runs.role)), np.diff(runs.offsets)
    )
    before, after = segment - 1, segment.copy()
    before[runs.offsets[:-1]] += 1
    after[runs.offsets[1:] - 1] -= 1
    way = up[before] + up[after]
    return np.asarray(way / np.linalg.norm(way, axis=1, keepdims=True))


def _set_out(net: Net, runs: _Runs, lift: Array, roll: float) -> tuple[Array, Array]:
    """Heights (S, 3) and offsets (P, 3) of members lifted above the net by ``lift`` (P, 1)."""
    if runs.level.any():
        return _on_levels(net, runs, lift, roll)
    if len(runs.path) > 2 * len(runs.role):
        return _straight(net, runs, lift, roll)
    up = members_up(net, roll)[runs.edge]
    return up, lift * np.repeat(up, 2, axis=0)


def _straight(net: Net, runs: _Runs, lift: Array, roll: float) -> tuple[Array, Array]:
    """Heights and offsets of bars that lie in the net: each stands one way all along, the mean of
    what the faces beside it ask for."""
    axis = _axes(net.vertices[runs.path], runs.offsets)
    first = runs.offsets[:-1] - np.arange(len(runs.role))
    mean = np.add.reduceat(members_up(net, 0.0)[runs.edge], first)
    up = square_to(axis, np.repeat(mean, np.diff(runs.offsets) - 1, axis=0))
    up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    return up, lift * _up_at_entries(runs, up)


def _on_levels(net: Net, runs: _Runs, lift: Array, roll: float) -> tuple[Array, Array]:
    """Heights (S, 3) and offsets (P, 3) of members at levels above the net, lifted by ``lift``
    (P, 1) besides and turned by ``roll`` (rad)."""
    above = net.normals[runs.path] * runs.level[:, None]
    axis = _axes(net.vertices[runs.path] + above, runs.offsets)
    up = square_to(axis, members_up(net, 0.0)[runs.edge])
    up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    offset = above + lift * _up_at_entries(runs, up)
    axis = _axes(net.vertices[runs.path] + offset, runs.offsets)
    return square_to(axis, up), offset


def used_sections(
    wanted: tuple[Section, ...], which: NDArray[np.int32]
) -> tuple[tuple[Section, ...], NDArray[np.int32]]:
    """The different sections that are used, and the one (M,) of each member, of those ``wanted`` by
    their places (M,)."""
    different = tuple(dict.fromkeys(wanted))
    section_of = np.array([different.index(s) for s in wanted], np.int32)[which]
    used = np.unique(section_of)
    return tuple(different[k] for k in used), np.searchsorted(used, section_of).astype(np.int32)
