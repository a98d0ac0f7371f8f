"""Labelled structures as elements of building models: members, bodies at nodes, and plates."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.naming.labelled import Labelled
from ...core.structure.bodies import body_solids
from ...core.structure.meetings import MEETINGS
from ...core.structure.roles import ROLES
from ...core.structure.solids import member_solids, planes_of_member
from ..subjects import Subject
from .kind import BuildingModel

__all__ = ["build_labelled", "solids_of_members"]

SEGMENTS = 24
"""Sides of a round section; their corners lie outside of it, so that the solid has its volume."""
MemberSolid = tuple[int, NDArray[np.float64], NDArray[np.int32]]


def solids_of_members(labelled: Labelled) -> list[MemberSolid]:
    """Number, vertices (n, 3) in metres and triangles (m, 3) of each member that has a length
    left."""
    return list(member_solids(labelled.structure, SEGMENTS, same_area=True))


def build_labelled(model: BuildingModel, subject: Subject) -> None:
    """Members with their profiles, bodies at nodes, and panels as plates, held back by half the
    joint."""
    labelled: Labelled = subject.result
    _members(model, labelled, subject.once(solids_of_members))
    _bodies(model, labelled)
    panels = labelled.panels
    if panels is None:
        return
    types = labelled.named("panel_type", labelled.panel_type)
    for i, part in subject.parts.items():
        named = ("IfcPlate", labelled.panel_labels[i], types[i])
        place, axes = part.pose[:3, 3], part.pose[:3, :3].T * 1000
        sized = (model.outline(part.outer / 1000), panels.thickness)
        model.add(*named, place, axes, *sized, panels.material, "SHEET")


def _members(model: BuildingModel, labelled: Labelled, solids: list[MemberSolid]) -> None:
    structure = labelled.structure
    types = labelled.named("member_type", labelled.member_type)
    roles = list(ROLES.values())
    plain = structure.is_plain
    for m, vertices, triangles in solids:
        kind, predefined = roles[structure.role[m]].ifc
        named = (kind, labelled.member_labels[m], types[m])
        if plain[m]:
            _straight(model, labelled, m, named, predefined)
        else:
            grade = structure.sections[structure.section_of[m]].grade
            model.add_faced(*named, vertices, triangles, grade, predefined)


def _straight(
    model: BuildingModel, labelled: Labelled, member: int, named: tuple[str, str, str], as_: str
) -> None:
    """A member as its profile, extruded along its axis and clipped by the planes that cut it;
    ``named`` are its class, label and type, and it is predefined ``as_`` that."""
    structure = labelled.structure
    section = structure.sections[structure.section_of[member]]
    entry, segment = structure.offsets[member], structure.first_segment[member]
    axis = structure.chords[segment] / structure.lengths[member]
    up = structure.up[segment]
    planes = planes_of_member(structure, member)
    # Ends that planes cut reach beyond these first.
    is_cut = np.isin([2 * member, 2 * member + 1], structure.cuts.end) if len(planes) else [0, 0]
    over = max(section.shape.width, section.shape.height) * np.asarray(is_cut, float)
    place = structure.axis_places[entry] + (structure.set_back[member, 0] - over[0]) * axis
    axes = np.stack([np.cross(up, axis), up, axis])
    length = structure.cut_lengths[member] + over.sum()
    cut = planes if len(planes) else None
    model.add(*named, place, axes, model.profile(section), length, section.grade, as_, cut)


def _bodies(model: BuildingModel, labelled: Labelled) -> None:
    structure, labels = labelled.structure, labelled.node_labels
    materials = structure.body_materials
    for n, vertices, triangles in body_solids(structure):
        named = ("IfcDiscreteAccessory", labels[n], MEETINGS[structure.meeting[n]])
        model.add_faced(*named, vertices, triangles, materials[n], "USERDEFINED")
