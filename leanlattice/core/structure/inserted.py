"""Nodes within members: where further members land between two nodes of what is there."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import (
    arc_places,
    carried,
    nearest_shares_of_arcs,
    part_bulges,
    unit,
    without_slight,
)
from .appended import last_stage
from .joined import landed
from .structure import Structure
from .swelling import parabola

__all__ = ["inserted", "landed_near", "nearest_members", "reached", "runs_of_entries"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Rows = NDArray[np.int64]
LEAST = 1e-12
"""Of a segment, the least share at which a node is within it and not at its start."""


def runs_of_entries(structure: Structure) -> Array:
    """How far along its member each entry of the path (P,) is, in metres."""
    run = _run_on(structure)
    return np.asarray(run - run[structure.offsets[:-1]][structure.member_of_entry])


def inserted(structure: Structure, member: Index, run: Array) -> Structure:
    """The structure with a further node within each ``member`` (k,), at ``run`` (k,) metres along
    its axis, behind all those that are there; members run on through them. The nodes are of the
    stage after the last.

    Members, and what there was of nodes, keep their numbers.
    """
    if not len(member):
        return structure
    segment, share = _located(structure, member, run)
    starts = structure.axis_places[structure.first_entry]
    chords, bulge = structure.chords, structure.bulge
    places = arc_places(starts[segment], chords[segment], bulge[segment], share)
    order = _order(structure, segment, share)
    more = np.bincount(member, minlength=structure.count)
    offsets = structure.offsets + np.concatenate([[0], np.cumsum(more)])
    of, parts = _parts(structure, order, offsets, segment, share)
    path = np.concatenate([structure.path, len(structure.places) + np.arange(len(member))])
    divided = replace(
        _with_nodes(structure, places, segment),
        path=path[order].astype(np.int32),
        offsets=offsets.astype(np.int32),
        offset=np.vstack([structure.offset, np.zeros_like(places)])[order],
        scale=np.concatenate([structure.scale, _scales(structure, segment, share)])[order],
        # A part of a parabola falls short of its chord by the square of its share.
        waist=structure.waist[of] * (parts[:, 1] - parts[:, 0]) ** 2,
        up=structure.up[of],
        bulge=without_slight(part_bulges(starts[of], chords[of], bulge[of], parts)),
    )
    return replace(divided, up=carried(divided.up, unit(chords[of]), unit(divided.chords)))


def _order(structure: Structure, segment: Rows, share: Array) -> Rows:
    """The old entries and, behind them, the new ones, in the order in which members run: new ones
    behind the old one that begins their segment (k,), by their ``share`` (k,) of it."""
    entries = len(structure.path)
    begins = np.concatenate([np.arange(entries), structure.first_entry[segment]])
    return np.lexsort((np.concatenate([np.zeros(entries), share]), begins))


def _parts(
    structure: Structure, order: Rows, offsets: Rows, segment: Rows, share: Array
) -> tuple[Rows, Array]:
    """Of which old segment each of the segments between entries is a part (s,), and from which
    share of it to which (s, 2).

    Parameters
    ----------
    order, offsets : of the entries, and where each member begins among them
    segment, share : (k,) where the new ones are
    """
    old = np.arange(len(structure.path)) - structure.member_of_entry
    goes_on = np.ones(len(order), bool)
    goes_on[offsets[1:] - 1] = False
    start = np.flatnonzero(goes_on)
    of = np.concatenate([old, segment])[order][start]
    at = np.concatenate([np.zeros(len(old)), share])[order]
    last = np.where(at[start + 1] > 0, at[start + 1], 1.0)
    return of, np.column_stack([at[start], last])


def _scales(structure: Structure, segment: Rows, share: Array) -> Array:
    """The section's scale (k,) at a share (k,) of each segment (k,)."""
    entry = structure.first_entry[segment]
    own = structure.scale[entry], structure.scale[entry + 1], structure.waist[segment]
    return parabola(*own, share)


def _run_on(structure: Structure) -> Array:
    """Metres (P,) along all members one behind the other."""
    steps = np.zeros(len(structure.path))
    steps[structure.first_entry + 1] = structure.segment_lengths
    return np.cumsum(steps)


def _located(structure: Structure, member: Index, run: Array) -> tuple[Rows, Array]:
    """The segment (k,) and the share (k,) of it at so many metres along each ``member`` (k,)."""
    along = _run_on(structure)
    wanted = along[structure.offsets[:-1]][member] + run
    entry = np.searchsorted(along, wanted, "right") - 1
    entry = np.clip(entry, structure.offsets[:-1][member], structure.offsets[1:][member] - 2)
    segment = entry - member
    length = np.maximum(structure.segment_lengths[segment], 1e-300)
    return segment, np.clip((wanted - along[entry]) / length, LEAST, 1.0)


def _with_nodes(structure: Structure, places: Array, segment: Rows) -> Structure:
    """The structure with nodes at ``places`` (k, 3) within segments (k,), that nothing leads to
    yet: numbered between the nodes beside them."""
    count = len(places)
    beside = structure.path[structure.first_entry[segment][:, None] + np.array([0, 1])]
    more: dict[str, Any] = {
        "places": places,
        "normals": structure.up[segment],
        "station": structure.station[beside].mean(axis=1),
        "stage": np.full(count, 1 + last_stage(structure), np.int32),
        "origin": np.full((count, 2), -1, np.int32),
        "foot": np.zeros(count, bool),
        "rule": np.zeros(count, np.int32),
        "meeting": np.zeros(count, np.int32),
        "radius": np.zeros(count),
        "height": np.zeros(count),
    }
    both: dict[str, Any] = {
        k: np.concatenate([getattr(structure, k), rows]) for k, rows in more.items()
    }
    return replace(structure, **both)


def nearest_members(structure: Structure, places: Array) -> tuple[Index, Array]:
    """The member (k,) whose axis comes nearest to each of a few ``places`` (k, 3), and how far away
    (k,) it is."""
    starts = structure.axis_places[structure.first_entry]
    member, away = np.zeros(len(places), np.int32), np.zeros(len(places))
    for k, place in enumerate(places):
        every = np.broadcast_to(place, starts.shape)
        _, far = nearest_shares_of_arcs(starts, structure.chords, structure.bulge, every)
        nearest = int(np.argmin(far))
        member[k], away[k] = structure.member_of_segment[nearest], far[nearest]
    return member, away


def reached(structure: Structure, places: Array, near: float) -> tuple[Structure, Index]:
    """The node (k,) of a structure that each of ``places`` (k, 3) is within ``near`` metres of, −1
    for none; where it is a member's axis that is so near, the structure has a further node there.
    """
    away, node = scipy.spatial.cKDTree(structure.places).query(places)
    onto = np.where(away <= near, node, -1).astype(np.int32)
    left = np.flatnonzero(onto < 0)
    member, run, found = _on_members(structure, places[left], near)
    rows = left[found]
    if not len(rows):
        return structure, onto
    # Places of one member that are one place are one node.
    key = np.column_stack([member, np.round(run / near)])
    _, first, same = np.unique(key, axis=0, return_index=True, return_inverse=True)
    onto[rows] = len(structure.places) + same.ravel()
    return inserted(structure, member[first], run[first]), onto


def landed_near(base: Structure, addition: Structure, near: float) -> Structure:
    """The ``addition`` behind the ``base``; those of its nodes that are within ``near`` metres of a
    node of the base, or of the axis of one of its members, are at it.

    What passes there runs on; members meet by the rules of the base's nodes, and by the first of
    the addition's at nodes that are new.
    """
    ready, onto = reached(base, addition.places, near)
    nodes, stage = len(base.places), 1 + last_stage(base)
    rules = tuple(dict.fromkeys((*base.rules, addition.rules[0])))
    rule = ready.rule.copy()
    rule[nodes:] = rules.index(addition.rules[0])
    both = landed(replace(ready, rules=rules, rule=rule), addition, onto, stage)
    return replace(both, since=(nodes, base.count))


def _on_members(structure: Structure, places: Array, near: float) -> tuple[Index, Array, Rows]:
    """Members and how far along them those of ``places`` (k, 3) lie that are on one, and which
    these are."""
    starts = structure.axis_places[structure.first_entry]
    ends = starts + structure.chords
    reach = np.linalg.norm(structure.bulge, axis=1) * 2 + near
    low, high = np.minimum(starts, ends) - reach[:, None], np.maximum(starts, ends) + reach[:, None]
    tree = shapely.STRtree(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
    place, segment = tree.query(shapely.points(places[:, :2]))
    share, away = nearest_shares_of_arcs(
        starts[segment], structure.chords[segment], structure.bulge[segment], places[place]
    )
    order = np.lexsort((away, place))
    _, first = np.unique(place[order], return_index=True)
    best = order[first]
    best = best[away[best] <= near]
    of = segment[best]
    run = runs_of_entries(structure)[structure.first_entry[of]]
    run = run + share[best] * structure.segment_lengths[of]
    return structure.member_of_segment[of], run, place[best]
