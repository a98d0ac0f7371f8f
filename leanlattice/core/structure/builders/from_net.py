"""Structures of nets: a member along every edge, or along every run of edges that goes on through
vertices."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net
from ...nets.runs import walks
from ...nets.stations import run_stations, vertex_stations
from ...nets.strands import strand_ends
from ...sections import Section
from ..arms import arms_of
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .assembled import assembled
from .heights import SET_OUT, members_up, square_to

__all__ = ["from_net"]

Array = NDArray[np.float64]
Long = NDArray[np.int64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class _Runs:
    """Members (M) as runs of edges: ``path`` (P,) of vertices parted by ``offsets`` (M + 1,), the
    ``edge`` (S,) of each segment, how far above the net each entry is, ``level`` (P,) in metres,
    what each member's ``role`` (M,) is, and whether they are ``straight`` bars, which stand one
    way all along."""

    path: Index
    offsets: Index
    edge: Index
    level: Array
    role: Index
    straight: bool = False

    @property
    def first_edge(self) -> Index:
        """The edge (M,) each member begins with."""
        return np.asarray(self.edge[self.offsets[:-1] - np.arange(len(self.role))])


def from_net(
    net: Net,
    inner: Section,
    border: Section,
    set_out: str,
    roll: float,
    meeting: Meeting,
    marked: tuple[Section, ...] = (),
    source: str = "",
    through: Long | None = None,
    edges: NDArray[np.bool_] | None = None,
) -> Structure:
    """Members along the edges of a ``net``, whose vertices become the nodes, in their order.

    Of a net that is woven or reciprocal one along every strand, which runs on through its
    crossings at its levels; those that pass each other are not cut, and those that end at others
    stop at their sides. Of another one along every edge, in their order, or where they run
    ``through`` one along every run of edges. On the border from vertex to vertex always.

    Parameters
    ----------
    inner, border : the sections of members along inner edges and along the border
    set_out : the line of the section that lies on the net, an entry of ``SET_OUT``
    roll : turn of the section's height about the axis from the faces beside it, in radians
    meeting : how members meet at nodes
    marked : sections of edges that are marked, by their marks from 1 on; a run has that of its
        first edge
    source : key of the net
    through : (2E,) for each end of an edge the one with which a member runs on through their
        vertex, −1 where it ends; where it is not given all end
    edges : (E,) which edges are edge members, those of the border where it is not given; others of
        the border are as those within
    """
    edges = net.border if edges is None else edges
    runs = _runs(net, through, edges)
    which = _wanted(net, runs, len(marked), edges)
    structure = _along(net, runs, which, (inner, border, *marked), SET_OUT[set_out], roll, source)
    # All that meets at a vertex of a plain net is one joint, however far it is rolled or set out.
    arms = arms_of(structure, joined=net.weave is None)
    return with_joints(structure, arms, meeting)


def _wanted(net: Net, runs: _Runs, marks: int, edges: NDArray[np.bool_]) -> Index:
    """Of ``inner``, ``border`` and those of so many ``marks`` the section (M,) of each member."""
    edge = runs.first_edge
    which = edges[edge].astype(np.int32)
    if net.marks is None or not marks:
        return which
    mark = net.marks[edge]
    return np.where(mark > 0, np.minimum(mark, marks) + 1, which).astype(np.int32)


def _runs(net: Net, through: Long | None, edges: NDArray[np.bool_]) -> _Runs:
    """What members of a net run along; those along ``edges`` (E,) are edge members."""
    runs = _all_runs(net, through)
    is_border = net.border[runs.first_edge] & ~edges[runs.first_edge]
    return replace(runs, role=np.where(is_border, role_number("grid"), runs.role).astype(np.int32))


def _all_runs(net: Net, through: Long | None) -> _Runs:
    if net.weave is not None:
        level = net.weave.level.ravel() * net.weave.thickness
        is_flat = not level.any()
        return _strand_runs(net, strand_ends(net, net.weave), level, "lath", is_flat)
    if through is not None:
        return _strand_runs(net, through, np.zeros(len(through)), "grid", False)
    count = len(net.edges)
    return _Runs(
        path=net.edges.ravel(),
        offsets=np.arange(0, 2 * count + 1, 2, dtype=np.int32),
        edge=np.arange(count, dtype=np.int32),
        level=np.zeros(2 * count),
        role=np.where(net.border, role_number("edge"), role_number("grid")).astype(np.int32),
    )


def _strand_runs(net: Net, onward: Long, level: Array, role: str, straight: bool) -> _Runs:
    """Strands within the border, which go from an end on into that ``onward`` (2E,) tells, at a
    ``level`` (2E,) in metres, and behind them the edges of the border.

    Strands with ends come first, from their ends on, then closed ones."""
    is_border = net.border
    onward = onward.copy()
    onward[np.repeat(is_border, 2)] = -1
    onward[(onward >= 0) & is_border[onward >> 1]] = -1
    loose = np.flatnonzero((onward < 0) & ~np.repeat(is_border, 2))
    starts = [*loose.tolist(), *(2 * np.flatnonzero(~is_border)).tolist()]
    found = walks(starts, onward.tolist())
    inner = len(found)
    found += [[2 * e] for e in np.flatnonzero(is_border).tolist()]
    # Each walk leaves through ends and comes to its last vertex through the opposite one.
    leaving = np.array([end for walk in found for end in walk], np.int64)
    ends = np.array([end for walk in found for end in (*walk, walk[-1] ^ 1)], np.int64)
    counts = np.array([len(walk) + 1 for walk in found], np.int64)
    roles = np.full(len(found), role_number(role), np.int32)
    roles[inner:] = role_number("edge")
    return _Runs(
        path=net.edges.ravel()[ends],
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        edge=(leaving >> 1).astype(np.int32),
        level=np.where(is_border[ends >> 1], 0.0, level[ends]),
        role=roles,
        straight=straight,
    )


def _along(
    net: Net,
    runs: _Runs,
    which: Index,
    wanted: tuple[Section, ...],
    share: float,
    roll: float,
    source: str,
) -> Structure:
    """Members along ``runs``; nothing is set back.

    Parameters
    ----------
    which, wanted : (M,) the sections of members, by their places among those wanted
    share : how far above the net their middles are, of the section's height
    roll : by which they are turned, in radians
    source : key of the net
    """
    heights = np.array([section.shape.height for section in wanted])[which]
    lift = np.repeat(share * heights, np.diff(runs.offsets))[:, None]
    up, offset = _set_out(net, runs, lift, roll)
    return assembled(
        places=net.vertices,
        normals=net.normals,
        path=runs.path,
        offsets=runs.offsets,
        up=up,
        wanted=wanted,
        which=which,
        role=runs.role,
        station=vertex_stations(net),
        member_station=run_stations(net, runs.path, runs.offsets),
        offset=offset,
        source=source,
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
    if runs.straight:
        return _straight(net, runs, lift, roll)
    if runs.level.any() or len(runs.path) > 2 * len(runs.role):
        return _on_levels(net, runs, lift, roll)
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
