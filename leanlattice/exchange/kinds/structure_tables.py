"""Tables of structures: nodes, members and all that is written of them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.structure.angles import node_angles, rolls
from ...core.structure.bodies import body_masses
from ...core.structure.crossings import crossings_of
from ...core.structure.cuts import ALONG, ASIDE, RADIUS
from ...core.structure.meetings import MEETINGS
from ...core.structure.names import StructureNames, names_of_structure
from ...core.structure.roles import ROLE_NAMES
from ...core.structure.structure import Structure
from ..subjects import Subject
from ..tables import Table, picked, rounded, table_of_rows
from .amounts import Amounts, materials_of
from .kind import Schedule
from .machine import MACHINE

__all__ = ["SCHEDULES"]


def _named(subject: Subject) -> tuple[Structure, StructureNames]:
    """A structure and its names."""
    return subject.result, subject.once(names_of_structure)


def _nodes(subject: Subject) -> Table:
    structure, names = _named(subject)
    order = np.argsort(names.node)
    columns: dict[str, list[Any]] = {"label": names.nodes(order)}
    for axis, values in zip("xyz", structure.places[order].T, strict=True):
        columns[f"{axis}_m"] = rounded(values, 6)
    columns["valence"] = structure.valence[order].tolist()
    columns["support"] = [""] * len(order)
    for axis, values in zip("xyz", structure.normals[order].T, strict=True):
        columns[f"normal_{axis}"] = rounded(values, 6)
    columns["setback_mm"] = rounded(structure.node_set_back[order] * 1000, 1)
    return Table("node", columns, order.tolist())


def _members(subject: Subject) -> Table:
    structure, names = _named(subject)
    order = names.member_order
    first = structure.first_segment[order]
    section = [structure.sections[s] for s in structure.section_of[order]]
    start, end = structure.ends[order].T
    back = rounded(structure.set_back[order].ravel() * 1000, 3)
    columns: dict[str, list[Any]] = {
        "label": names.members(order),
        "layer": [ROLE_NAMES[role] for role in structure.role[order]],
        "type": names.types(names.member_type[order]),
        "section": [s.name for s in section],
        "material": [s.grade for s in section],
        "start": names.nodes(start),
        "end": names.nodes(end),
        "length_mm": rounded(structure.lengths[order] * 1000, 3),
        "cut_length_mm": rounded(structure.cut_lengths[order] * 1000, 3),
        "roll_deg": rounded(np.degrees(rolls(structure)[order]), 3),
        "start_setback_mm": back[::2],
        "end_setback_mm": back[1::2],
        "mass_kg": rounded(structure.masses[order], 3),
    }
    columns |= {f"up_{a}": rounded(structure.up[first, k], 6) for k, a in enumerate("xyz")}
    columns["lift_mm"] = rounded(structure.lift[structure.offsets[order]] * 1000, 3)
    return Table("member", columns, order.tolist())


def _pieces(subject: Subject) -> Table | None:
    """Pieces, straight or arcs, of members that run on through nodes, bend, swell, or lie unevenly
    above nodes: between which, how far the axis is off these, how long, from the middle of the
    chord to that of the arc, the way of the section's height there, and its scale."""
    structure, names = _named(subject)
    order = [m for m in names.member_order.tolist() if not structure.is_lifted[m]]
    if not order:
        return None
    first, counts = structure.first_segment[order], np.diff(structure.offsets)[order] - 1
    segment = np.concatenate([np.arange(a, a + n) for a, n in zip(first, counts, strict=True)])
    entry = structure.first_entry[segment]
    columns: dict[str, list[Any]] = {
        "member": names.members(np.repeat(order, counts)),
        "piece": [k + 1 for n in counts for k in range(n)],
        "start": names.nodes(structure.path[entry]),
        "end": names.nodes(structure.path[entry + 1]),
        "length_mm": rounded(structure.segment_lengths[segment] * 1000, 3),
    }
    columns |= _along_axes("start_off_{}_mm", structure.offset[entry] * 1000, 3)
    columns |= _along_axes("end_off_{}_mm", structure.offset[entry + 1] * 1000, 3)
    columns |= _along_axes("bulge_{}_mm", structure.bulge[segment] * 1000, 6)
    columns["turn_deg"] = rounded(np.degrees(structure.turns[segment]), 4)
    columns |= _along_axes("up_{}", structure.up[segment], 6)
    columns |= _scales(structure, segment)
    return Table("member", columns, np.repeat(order, counts).tolist())


def _scales(structure: Structure, segment: NDArray[np.integer]) -> dict[str, list[Any]]:
    """Columns of how many times its size the section of segments (n,) has along them."""
    entry = structure.first_entry[segment]
    start, end = structure.scale[entry], structure.scale[entry + 1]
    sizes = {"start": start, "middle": (start + end) / 2 + structure.waist[segment], "end": end}
    return {f"{at}_scale": rounded(size, 8) for at, size in sizes.items()}


def _along_axes(form: str, values: NDArray[np.float64], digits: int) -> dict[str, list[Any]]:
    """Columns by a ``form`` of their names of what ``values`` (n, 3) are along x, y and z."""
    return {form.format(a): rounded(values[:, k], digits) for k, a in enumerate("xyz")}


Array = NDArray[np.float64]
SQUARE = 0.01
"""Degrees up to which a cut has no side that reaches out most."""


def _angles(structure: Structure, ends: NDArray[np.int32], normal: Array) -> dict[str, list[Any]]:
    """Columns of cuts (n) with normals (n, 3) out of members at ``ends`` (n, 2; a member and which
    end of it): the angle to a square cut, and by how much the side where the member is longest is
    turned from its section's height, right-handed from start to end."""
    away, up = (frame[ends[:, 0], ends[:, 1]] for frame in structure.end_frames)
    across = np.cross(up, np.where(ends[:, 1:] == 1, -away, away))
    along, high, wide = (np.einsum("ij,ij->i", -normal, axis) for axis in (away, up, across))
    angle = np.degrees(np.arccos(np.clip(along, -1, 1)))
    turn = rounded(np.degrees(np.arctan2(-wide, high)) % 360.0, 2)
    turned = [t if a > SQUARE else "" for t, a in zip(turn, angle, strict=True)]
    return {"angle_deg": rounded(angle, 3), "turn_deg": turned}


def _cuts(subject: Subject) -> Table | None:
    """Planes that cut ends of members: the direction out of the member, how far along it the plane
    lies from where the axis ends, and how it is turned from a square cut; of saddles the tube that
    they fit and whose side the plane touches."""
    structure, names = _named(subject)
    cuts = structure.cuts
    if not cuts.count:
        return None
    rank = np.empty(structure.count, np.int32)
    rank[names.member_order] = np.arange(structure.count)
    member, end = np.divmod(cuts.end, 2)
    order = np.lexsort((np.arange(cuts.count), end, rank[member]))
    member, end, normal = member[order], end[order], cuts.normal[order]
    columns: dict[str, list[Any]] = {
        "member": names.members(member),
        "end": [("start", "end")[e] for e in end],
        "cut": (1 + order - np.searchsorted(cuts.end, cuts.end[order])).tolist(),
        "node": names.nodes(structure.ends[member, end]),
    }
    columns |= {f"normal_{a}": rounded(normal[:, k], 8) for k, a in enumerate("xyz")}
    columns["level_mm"] = rounded(cuts.level[order] * 1000, 4)
    columns |= _angles(structure, np.column_stack([member, end]), normal)
    columns |= _tubes(cuts.rows[order])
    return Table("member", columns, member.tolist())


def _tubes(cuts: NDArray[np.float64]) -> dict[str, list[Any]]:
    """What is told of the tubes that ``cuts`` (C, CUT) fit, and nothing of planes: radius, the
    direction of the axis and how far aside it passes."""
    told = {"saddle_radius_mm": rounded(cuts[:, RADIUS] * 1000, 4)}
    told |= {f"saddle_{a}": rounded(cuts[:, ALONG][:, k], 8) for k, a in enumerate("xyz")}
    told["saddle_aside_mm"] = rounded(cuts[:, ASIDE] * 1000, 4)
    fits = (cuts[:, RADIUS] > 0).tolist()
    return {
        name: [v if fit else "" for v, fit in zip(values, fits, strict=True)]
        for name, values in told.items()
    }


def _crossings(subject: Subject) -> Table | None:
    """Where members pass each other on levels: how far apart, and what is between them."""
    structure, names = _named(subject)
    found = crossings_of(structure)
    if not len(found.node):
        return None
    order = np.lexsort((found.under, found.over, names.node[found.node]))
    columns: dict[str, list[Any]] = {
        "node": names.nodes(found.node[order]),
        "over": names.members(found.over[order]),
        "under": names.members(found.under[order]),
        "kind": found.kind[order].tolist(),
        "angle_deg": rounded(np.degrees(found.angle[order]), 3),
        "axes_apart_mm": rounded(found.apart[order] * 1000, 3),
        "clear_mm": rounded(found.clear[order] * 1000, 3),
        "area_cm2": rounded(found.area[order] * 1e4, 4),
    }
    return Table("node", columns, found.node[order].tolist())


def _bodies(subject: Subject) -> Table | None:
    """Bodies at nodes: form, sizes, middle and mass."""
    structure, names = _named(subject)
    nodes = np.flatnonzero(structure.radius > 0)
    if not len(nodes):
        return None
    nodes = nodes[np.argsort(names.node[nodes])]
    columns: dict[str, list[Any]] = {
        "node": names.nodes(nodes),
        "form": [MEETINGS[m] for m in structure.meeting[nodes]],
        "material": picked(structure.body_materials, nodes),
        "radius_mm": rounded(structure.radius[nodes] * 1000, 3),
        "height_mm": rounded(structure.height[nodes] * 1000, 3),
    }
    for axis, values in zip("xyz", structure.body_middles[nodes].T, strict=True):
        columns[f"{axis}_m"] = rounded(values, 6)
    columns["mass_kg"] = rounded(body_masses(structure)[nodes], 3)
    return Table("node", columns, nodes.tolist())


def _member_types(subject: Subject) -> Table:
    structure, names = _named(subject)
    types = names.member_type
    numbers, first, counts = np.unique(types, return_index=True, return_counts=True)
    total = np.zeros(len(numbers))
    low = np.full(len(numbers), np.inf)
    high = np.full(len(numbers), -np.inf)
    np.add.at(total, types - 1, structure.cut_lengths)
    np.minimum.at(low, types - 1, structure.cut_lengths)
    np.maximum.at(high, types - 1, structure.cut_lengths)
    columns: dict[str, list[Any]] = {
        "type": names.types(numbers),
        "section": [structure.sections[s].name for s in structure.section_of[first]],
        "cut_length_mm": rounded(total / counts * 1000, 3),
        "count": counts.tolist(),
        "spread_mm": rounded((high - low) * 1000, 3),
    }
    return Table("member_type", columns, numbers.tolist())


def _node_angles(subject: Subject) -> Table:
    structure, names = _named(subject)
    order = names.member_order
    rank = np.empty(len(order), np.int32)
    rank[order] = np.arange(len(order))
    ways = node_angles(structure, rank)
    by_node = np.argsort(names.node[ways.node], kind="stable")
    columns: dict[str, list[Any]] = {
        "node": names.nodes(ways.node[by_node]),
        "member": names.members(ways.member[by_node]),
        "plan_angle_deg": rounded(np.degrees(ways.plan[by_node]), 3),
        "elevation_deg": rounded(np.degrees(ways.elevation[by_node]), 3),
        "twist_deg": rounded(np.degrees(ways.twist[by_node]), 3),
    }
    return Table("node", columns, ways.node[by_node].tolist())


def _bars(subject: Subject) -> Table | None:
    plan = subject.bars
    if plan is None:
        return None
    structure, names = _named(subject)
    order = plan.order
    begin = plan.start[order] * 1000
    columns: dict[str, list[Any]] = {
        "bar": [f"{names.series}B{b + 1}" for b in plan.bar[order]],
        "section": [structure.sections[plan.section_of_bar[b]].name for b in plan.bar[order]],
        "stock_mm": rounded(plan.lengths[plan.bar[order]] * 1000, 3),
        "member": names.members(order),
        "from_mm": rounded(begin, 3),
        "to_mm": rounded(begin + structure.cut_lengths[order] * 1000, 3),
        "kerf_mm": [round(plan.kerf * 1000, 3)] * len(order),
    }
    return Table("member", columns, order.tolist())


SAW = ("bar", "section", "material", "stock_mm", "pieces", "members", "cuts_mm", "offcut_mm")


def _saw_list(subject: Subject) -> Table | None:
    """Bar after bar what a saw is told: how long each piece is, one behind the other."""
    plan = subject.bars
    if plan is None:
        return None
    structure, names = _named(subject)
    order = plan.order
    groups = np.split(order, np.flatnonzero(np.diff(plan.bar[order])) + 1)
    rows = []
    for b, own in enumerate(groups if len(order) else []):
        section = structure.sections[plan.section_of_bar[b]]
        cuts = " ".join(f"{c:.1f}" for c in structure.cut_lengths[own] * 1000)
        sizes = (round(plan.lengths[b] * 1000, 3), len(own), " ".join(names.members(own)), cuts)
        offcut = round(plan.offcuts[b] * 1000, 1)
        rows.append((f"{names.series}B{b + 1}", section.name, section.grade, *sizes, offcut))
    return table_of_rows(SAW, rows)


def _amounts(subject: Subject) -> Amounts:
    structure, names = _named(subject)
    grades = [structure.sections[s].grade for s in structure.section_of.tolist()]
    types = names.member_type.tolist()
    return Amounts("member", grades, types, structure.masses, length=structure.lengths)


SCHEDULES = (
    Schedule("members", _members, "Members", ("Structure",), "member"),
    Schedule("pieces", _pieces),
    Schedule("cuts", _cuts, "End cuts", ("Structure",)),
    Schedule("crossings", _crossings, "Crossings", ("Structure",)),
    Schedule("node_bodies", _bodies, "Node bodies", ("Structure",)),
    Schedule("member_types", _member_types, "Member types", ("Structure",)),
    Schedule("nodes", _nodes, "Nodes", ("Structure",), "node"),
    Schedule("node_angles", _node_angles, "Node angles", ("Structure",)),
    Schedule("bars", _bars, "Stock bars", ("Structure", "BarPlan")),
    Schedule("saw_list", _saw_list, "Saw list", ("Structure", "BarPlan")),
    MACHINE,
    materials_of(_amounts),
)
"""In the order in which they are shown and written."""
