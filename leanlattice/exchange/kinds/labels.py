"""Labelled structures with their panels: names, types and all that is written of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.polygons import areas
from ...core.geometry.prisms import prism
from ...core.naming.labelled import Labelled
from ...core.panels.seats import nodes_of_corners
from ...core.structure.angles import node_angles, rolls
from ...core.structure.bodies import body_masses, body_solids
from ...core.structure.meetings import MEETINGS
from ...core.structure.roles import ROLE_NAMES, role_layers
from ...core.structure.solids import set_out_lines
from ..subjects import Subject
from ..tables import Table, picked, rounded
from .flat import PARTS, POSES, larger_than_any_sheet
from .kind import Drawing, Kind, Layer, Lines, NotMade, Schedule, Solid, narrow
from .labelled_building import build_labelled, solids_of_members

__all__ = ["KIND", "panel_outline_areas"]


def _drawn(labelled: Labelled) -> Drawing:
    numbers = {
        "node": labelled.node,
        "member": labelled.member,
        "panel": labelled.panel,
        "memberType": labelled.member_type,
        "panelType": labelled.panel_type,
    }
    arrays = {name: narrow(values) for name, values in numbers.items()}
    arrays["role"] = labelled.structure.role.astype("u1")
    return {"prefixes": labelled.prefixes, "memberPrefixes": labelled.member_prefixes}, arrays


def _nodes(subject: Subject) -> Table:
    labelled: Labelled = subject.result
    structure, order = labelled.structure, np.argsort(labelled.node)
    columns: dict[str, list[Any]] = {"label": picked(labelled.node_labels, order)}
    for axis, values in zip("xyz", structure.places[order].T, strict=True):
        columns[f"{axis}_m"] = rounded(values, 6)
    columns["valence"] = structure.valence[order].tolist()
    columns["support"] = [""] * len(order)
    for axis, values in zip("xyz", structure.normals[order].T, strict=True):
        columns[f"normal_{axis}"] = rounded(values, 6)
    columns["setback_mm"] = rounded(structure.node_set_back[order] * 1000, 1)
    return Table("node", columns, order.tolist())


def _member_order(labelled: Labelled) -> NDArray[Any]:
    return np.lexsort((labelled.member, labelled.structure.role))


def _members(subject: Subject) -> Table:
    labelled: Labelled = subject.result
    structure, order = labelled.structure, _member_order(labelled)
    first = structure.first_segment[order]
    section = [structure.sections[s] for s in structure.section_of[order]]
    start, end = structure.ends[order].T
    back = rounded(structure.set_back[order].ravel() * 1000, 3)
    columns: dict[str, list[Any]] = {
        "label": picked(labelled.member_labels, order),
        "layer": [ROLE_NAMES[role] for role in structure.role[order]],
        "type": labelled.named("member_type", labelled.member_type[order]),
        "section": [s.name for s in section],
        "material": [s.grade for s in section],
        "start": picked(labelled.node_labels, start),
        "end": picked(labelled.node_labels, end),
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
    """Straight pieces of members that run on through nodes, or lie unevenly above them: between
    which nodes, how far the axis is off these, how long, and the way of the section's height."""
    labelled: Labelled = subject.result
    structure = labelled.structure
    order = [m for m in _member_order(labelled).tolist() if not structure.is_lifted[m]]
    if not order:
        return None
    first, counts = structure.first_segment[order], np.diff(structure.offsets)[order] - 1
    segment = np.concatenate([np.arange(a, a + n) for a, n in zip(first, counts, strict=True)])
    entry = structure.first_entry[segment]
    columns: dict[str, list[Any]] = {
        "member": picked(labelled.member_labels, np.repeat(order, counts)),
        "piece": [k + 1 for n in counts for k in range(n)],
        "start": picked(labelled.node_labels, structure.path[entry]),
        "end": picked(labelled.node_labels, structure.path[entry + 1]),
        "length_mm": rounded(structure.segment_lengths[segment] * 1000, 3),
    }
    for name, at in (("start", entry), ("end", entry + 1)):
        for k, axis in enumerate("xyz"):
            columns[f"{name}_off_{axis}_mm"] = rounded(structure.offset[at, k] * 1000, 3)
    columns |= {f"up_{a}": rounded(structure.up[segment, k], 6) for k, a in enumerate("xyz")}
    return Table("member", columns, np.repeat(order, counts).tolist())


def _cuts(subject: Subject) -> Table | None:
    """Planes that cut ends of members: the direction out of the member, how far along it the plane
    lies from where the axis ends, and the angle to a square cut."""
    labelled: Labelled = subject.result
    structure = labelled.structure
    cuts = structure.cuts
    if not cuts.count:
        return None
    rank = np.empty(structure.count, np.int32)
    rank[_member_order(labelled)] = np.arange(structure.count)
    member, end = np.divmod(cuts.end, 2)
    order = np.lexsort((np.arange(cuts.count), end, rank[member]))
    member, end, normal = member[order], end[order], cuts.normal[order]
    away = structure.end_frames[0][member, end]
    cosine = -np.einsum("ij,ij->i", normal, away)
    columns: dict[str, list[Any]] = {
        "member": picked(labelled.member_labels, member),
        "end": [("start", "end")[e] for e in end],
        "cut": (1 + order - np.searchsorted(cuts.end, cuts.end[order])).tolist(),
        "node": picked(labelled.node_labels, structure.ends[member, end]),
    }
    columns |= {f"normal_{a}": rounded(normal[:, k], 8) for k, a in enumerate("xyz")}
    columns["level_mm"] = rounded(cuts.level[order] * 1000, 4)
    columns["angle_deg"] = rounded(np.degrees(np.arccos(np.clip(cosine, -1, 1))), 3)
    return Table("member", columns, member.tolist())


def _bodies(subject: Subject) -> Table | None:
    """Bodies at nodes: form, sizes, middle and mass."""
    labelled: Labelled = subject.result
    structure = labelled.structure
    nodes = np.flatnonzero(structure.radius > 0)
    if not len(nodes):
        return None
    nodes = nodes[np.argsort(labelled.node[nodes])]
    columns: dict[str, list[Any]] = {
        "node": picked(labelled.node_labels, nodes),
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
    labelled: Labelled = subject.result
    structure, types = labelled.structure, labelled.member_type
    names, first, counts = np.unique(types, return_index=True, return_counts=True)
    total = np.zeros(len(names))
    low = np.full(len(names), np.inf)
    high = np.full(len(names), -np.inf)
    np.add.at(total, types - 1, structure.cut_lengths)
    np.minimum.at(low, types - 1, structure.cut_lengths)
    np.maximum.at(high, types - 1, structure.cut_lengths)
    columns: dict[str, list[Any]] = {
        "type": labelled.named("member_type", names),
        "section": [structure.sections[s].name for s in structure.section_of[first]],
        "cut_length_mm": rounded(total / counts * 1000, 3),
        "count": counts.tolist(),
        "spread_mm": rounded((high - low) * 1000, 3),
    }
    return Table("member_type", columns, names.tolist())


def _node_angles(subject: Subject) -> Table:
    labelled: Labelled = subject.result
    order = _member_order(labelled)
    rank = np.empty(len(order), np.int32)
    rank[order] = np.arange(len(order))
    ways = node_angles(labelled.structure, rank)
    by_node = np.argsort(labelled.node[ways.node], kind="stable")
    columns: dict[str, list[Any]] = {
        "node": picked(labelled.node_labels, ways.node[by_node]),
        "member": picked(labelled.member_labels, ways.member[by_node]),
        "plan_angle_deg": rounded(np.degrees(ways.plan[by_node]), 3),
        "elevation_deg": rounded(np.degrees(ways.elevation[by_node]), 3),
        "twist_deg": rounded(np.degrees(ways.twist[by_node]), 3),
    }
    return Table("node", columns, ways.node[by_node].tolist())


def panel_outline_areas(labelled: Labelled) -> NDArray[np.float64]:
    """Areas (panels,) in m² between the joints' middles."""
    panels = labelled.panels
    assert panels is not None
    return areas(panels.places, panels.corners, panels.offsets)


def _panels(subject: Subject) -> Table | None:
    labelled: Labelled = subject.result
    panels = labelled.panels
    if panels is None:
        return None
    order = np.argsort(labelled.panel)
    node = nodes_of_corners(panels, labelled.structure)[panels.corners]
    runs = [node[panels.offsets[i] : panels.offsets[i + 1]] for i in order]
    columns: dict[str, list[Any]] = {
        "label": picked(labelled.panel_labels, order),
        "type": labelled.named("panel_type", labelled.panel_type[order]),
        "corners": [" ".join(labelled.node_labels[c] for c in run if c >= 0) for run in runs],
        "area_m2": rounded(panel_outline_areas(labelled)[order], 4),
        "flatness_mm": rounded(panels.flatness[order] * 1000, 3),
        "material": [panels.material] * len(order),
        "thickness_mm": [panels.thickness * 1000] * len(order),
        "raised_mm": [round(panels.raised * 1000, 3)] * len(order),
    }
    return Table("panel", columns, order.tolist())


def _bars(subject: Subject) -> Table | None:
    labelled, plan = subject.result, subject.bars
    if plan is None:
        return None
    on = np.flatnonzero(plan.bar >= 0)
    order = on[np.lexsort((plan.start[on], plan.bar[on]))]
    begin = plan.start[order] * 1000
    columns: dict[str, list[Any]] = {
        "bar": [f"{labelled.series}B{b + 1}" for b in plan.bar[order]],
        "section": [
            labelled.structure.sections[plan.section_of_bar[b]].name for b in plan.bar[order]
        ],
        "stock_mm": [round(plan.stock * 1000, 3)] * len(order),
        "member": picked(labelled.member_labels, order),
        "from_mm": rounded(begin, 3),
        "to_mm": rounded(begin + labelled.structure.cut_lengths[order] * 1000, 3),
        "kerf_mm": [round(plan.kerf * 1000, 3)] * len(order),
    }
    return Table("member", columns, order.tolist())


def _solids(subject: Subject) -> Iterator[Solid]:
    labelled: Labelled = subject.result
    for m, vertices, faces in subject.once(solids_of_members):
        yield Solid(labelled.member_labels[m], "member", vertices, faces)
    for n, vertices, faces in body_solids(labelled.structure):
        yield Solid(labelled.node_labels[n], "node", vertices, faces)
    for part in subject.parts.values():
        flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
        thick = part.thickness / 1000
        vertices, faces = prism(flat @ part.pose[:3].T, part.pose[:3, 2] * 1000, thick)
        yield Solid(part.label, "panel", vertices, faces)


def _lines(subject: Subject) -> Lines:
    """Set-out lines of members, node to node."""
    structure = subject.result.structure
    ends, member = set_out_lines(structure)
    return Lines(ends, role_layers()[structure.role[member]])


def _not_made(subject: Subject) -> Iterator[NotMade]:
    """Panels without a part or on no sheet, and members on no bar or without a length."""
    labelled: Labelled = subject.result
    if labelled.panels is not None:
        joint = labelled.panels.joint * 1000
        for i in range(labelled.panels.count):
            if i not in subject.parts:
                why = f"too small for a joint of {joint:g} mm"
                yield NotMade("panel", labelled.panel_labels[i], why)
    yield from larger_than_any_sheet(subject, "panel")
    lengths, names = labelled.structure.cut_lengths, labelled.member_labels
    for m in np.flatnonzero(labelled.structure.mean_lengths <= 0):
        yield NotMade("member", names[m], "no length left between its set-backs")
    plan = subject.bars
    if plan is not None:
        for m in np.flatnonzero((plan.bar < 0) & (lengths > plan.stock)):
            yield NotMade("member", names[m], f"longer than a bar of {plan.stock:g} m")


KIND = Kind(
    "Labelled",
    layers=(Layer("labels", "Labels"),),
    drawn=_drawn,
    schedules=(
        Schedule("members", _members, "Members", ("Labelled",), "member"),
        Schedule("pieces", _pieces),
        Schedule("cuts", _cuts, "End cuts", ("Labelled",)),
        Schedule("node_bodies", _bodies, "Node bodies", ("Labelled",)),
        Schedule("member_types", _member_types, "Member types", ("Labelled",)),
        Schedule("nodes", _nodes, "Nodes", ("Labelled",), "node"),
        Schedule("node_angles", _node_angles, "Node angles", ("Labelled",)),
        Schedule("panels", _panels, "Panels", ("Panels", "Labelled"), "panel"),
        PARTS,
        POSES,
        Schedule("bars", _bars, "Stock bars", ("Labelled", "BarPlan")),
    ),
    solids=_solids,
    lines=_lines,
    building=build_labelled,
    not_made=_not_made,
)
