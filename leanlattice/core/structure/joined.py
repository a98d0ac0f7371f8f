"""Nodes that are near each other made one: the only place where coordinates join members."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from .appended import appended
from .joints import met_anew
from .structure import Structure

__all__ = ["Joined", "joined", "landed", "nearest_nodes", "with_members"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Mask = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Joined:
    """A ``structure`` whose near nodes are one: how many ``nodes`` others took in, how many members
    shrank to nothing (``short``), and how many lay on others (``doubled``), all of which are
    gone."""

    structure: Structure
    nodes: int
    short: int
    doubled: int


def nearest_nodes(structure: Structure) -> float:
    """The least distance in metres between two nodes; endless where there is but one."""
    if len(structure.places) < 2:
        return np.inf
    distances, _ = scipy.spatial.cKDTree(structure.places).query(structure.places, k=2)
    return float(np.asarray(distances)[:, 1].min())


def joined(structure: Structure, tolerance: float) -> Joined:
    """Joins all nodes that are within a ``tolerance`` (m) of each other, or of others that are.

    The first of them stays where it is, with its number in the order and its name; members of
    the others end there. What is left is numbered anew without gaps. Members that shrink to
    nothing go, and of straight ones between the same two nodes all but the first. Members meet
    anew at nodes that took in others, and are as they were elsewhere.
    """
    return _merged(structure, _leads(structure.places, tolerance))


def landed(
    base: Structure, addition: Structure, onto: Index, stage: int | None = None
) -> Structure:
    """The ``addition`` behind the ``base`` as ``appended`` has it, of a ``stage``, but its nodes
    that stand ``onto`` (N,) a node of the base, −1 for none, are that node.

    Members of both meet anew there, by the rule of the base's node, and are as they were elsewhere;
    nodes and members of the base keep their numbers. Of straight members between the same two
    nodes those of the addition go.
    """
    both = appended(base, addition, stage)
    lead = np.arange(len(both.places), dtype=np.int32)
    at = np.flatnonzero(onto >= 0)
    lead[len(base.places) + at] = onto[at]
    return _merged(both, lead).structure


def _merged(structure: Structure, lead: Index) -> Joined:
    """Makes each node the one that leads it (N,), of those with lower numbers or itself."""
    kept = lead == np.arange(len(lead))
    if kept.all():
        return Joined(structure, 0, 0, 0)
    number = np.cumsum(kept) - 1
    node = number[lead].astype(np.int32)
    nodes = _nodes_joined(structure, kept, node)
    whole = _without_short_segments(replace(nodes, path=node[structure.path]))
    is_short = np.diff(whole.offsets) < 2
    is_double = _doubles(whole, ~is_short)
    left = with_members(whole, ~(is_short | is_double))
    touched = np.zeros(len(left.places), bool)
    touched[node[~kept]] = True
    return Joined(
        structure=met_anew(left, touched),
        nodes=int(np.count_nonzero(~kept)),
        short=int(np.count_nonzero(is_short)),
        doubled=int(np.count_nonzero(is_double)),
    )


def _leads(places: Array, tolerance: float) -> Index:
    """The first node (N,) of those that each is near to, itself where there is none."""
    pairs = scipy.spatial.cKDTree(places).query_pairs(tolerance, output_type="ndarray")
    ones, shape = np.ones(len(pairs), bool), (len(places), len(places))
    near = scipy.sparse.coo_array((ones, (pairs[:, 0], pairs[:, 1])), shape=shape)
    _, group = scipy.sparse.csgraph.connected_components(near, directed=False)
    _, first = np.unique(group, return_index=True)
    return first[group].astype(np.int32)


def _nodes_joined(structure: Structure, kept: Mask, node: Index) -> Structure:
    """The nodes that are ``kept`` (N,), what the others stood on, and where they are now
    (``node`` (N,)); members are as they were."""
    gone = np.flatnonzero(~kept & (structure.origin[:, 0] >= 0))
    also = np.column_stack([node[gone], structure.origin[gone]])
    known = structure.further.copy()
    known[:, 0] = node[known[:, 0]]
    foot = np.zeros(np.count_nonzero(kept), bool)
    foot[node[structure.foot]] = True
    names = ("places", "normals", "station", "stage", "origin", "rule", "meeting", "radius")
    own = {name: getattr(structure, name)[kept] for name in (*names, "height")}
    further = np.concatenate([known, also]).astype(np.int32)
    return replace(structure, **own, foot=foot, further=further)


def _without_short_segments(structure: Structure) -> Structure:
    """A structure whose members do not stay at a node: entries that repeat the one before go."""
    repeats = np.zeros(len(structure.path), bool)
    repeats[1:] = structure.path[1:] == structure.path[:-1]
    repeats[structure.offsets[:-1]] = False
    if not repeats.any():
        return structure
    gone = np.bincount(structure.member_of_entry, repeats, minlength=structure.count)
    counts = np.diff(structure.offsets) - gone.astype(np.int64)
    # The segment that leads to an entry goes with it.
    to = np.isin(structure.first_entry + 1, np.flatnonzero(repeats))
    return replace(
        structure,
        path=structure.path[~repeats],
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        offset=structure.offset[~repeats],
        scale=structure.scale[~repeats],
        waist=structure.waist[~to],
        up=structure.up[~to],
        bulge=structure.bulge[~to],
    )


def _doubles(structure: Structure, counts: Mask) -> Mask:
    """Which members (M,) lie on an earlier one: through the same nodes, straight or in the same
    arcs. Only those that ``counts`` (M,) are looked at."""
    looked_at = np.flatnonzero(counts)
    is_plain = structure.is_plain[looked_at]
    plain, others = looked_at[is_plain], looked_at[~is_plain]
    pairs = np.sort(structure.ends[plain], axis=1)
    _, first = np.unique(pairs, axis=0, return_index=True)
    out = np.zeros(structure.count, bool)
    out[np.delete(plain, first)] = True
    seen: set[tuple[tuple[int, ...], bytes]] = set()
    for member in others.tolist():
        key = _course(structure, member)
        out[member] = key in seen
        seen.add(key)
    return out


def _course(structure: Structure, member: int) -> tuple[tuple[int, ...], bytes]:
    """The nodes and bulges of a member, the same in whichever direction it runs."""
    first, last = structure.offsets[member], structure.offsets[member + 1]
    path, bulge = structure.path[first:last], structure.bulge[first - member : last - member - 1]
    if path[0] > path[-1]:
        path, bulge = path[::-1], bulge[::-1]
    # Adding nothing takes the sign from 0.
    return tuple(path.tolist()), (np.round(bulge, 6) + 0.0).tobytes()


def with_members(structure: Structure, kept: Mask) -> Structure:
    """A structure with the members that are ``kept`` (M,)."""
    if kept.all():
        return structure
    entries, segments = kept[structure.member_of_entry], kept[structure.member_of_segment]
    number = np.cumsum(kept) - 1
    copy_of = np.where(kept[structure.copy_of], number[structure.copy_of], number)
    names = ("member_station", "section_of", "role", "member_stage", "group", "set_back")
    cuts = structure.cuts
    mine = kept[cuts.end // 2]
    end = 2 * number[cuts.end[mine] // 2] + cuts.end[mine] % 2
    return replace(
        structure,
        **{name: getattr(structure, name)[kept] for name in (*names, "mirrored")},
        copy_of=copy_of[kept].astype(np.int32),
        path=structure.path[entries],
        offset=structure.offset[entries],
        scale=structure.scale[entries],
        waist=structure.waist[segments],
        up=structure.up[segments],
        bulge=structure.bulge[segments],
        offsets=np.concatenate([[0], np.cumsum(np.diff(structure.offsets)[kept])]).astype(np.int32),
        cuts=cuts.some(mine, end),
    )
