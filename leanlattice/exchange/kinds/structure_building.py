"""Structures as elements of building models: members, and bodies at nodes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.structure.bodies import body_solids
from ...core.structure.meetings import MEETINGS
from ...core.structure.names import StructureNames, names_of_structure
from ...core.structure.roles import ROLES
from ...core.structure.solids import member_solids, planes_of_member
from ...core.structure.structure import Structure
from ..subjects import Subject
from .kind import BuildingModel

__all__ = ["build_structure", "solids_of_members"]

SEGMENTS = 24
"""Sides of a round section; their corners lie outside of it, so that the solid has its volume."""
MemberSolid = tuple[int, NDArray[np.float64], NDArray[np.int32]]


def solids_of_members(structure: Structure) -> list[MemberSolid]:
    """Number, vertices (n, 3) in metres and triangles (m, 3) of each member that has a length
    left."""
    return list(member_solids(structure, SEGMENTS, same_area=True))


def build_structure(model: BuildingModel, subject: Subject) -> None:
    """Members with their profiles, those that bend or run on with their axes, and bodies at nodes."""
    structure: Structure = subject.result
    names = subject.once(names_of_structure)
    _members(model, structure, names, subject.once(solids_of_members))
    _bodies(model, structure, names)


def _members(
    model: BuildingModel, structure: Structure, names: StructureNames, solids: list[MemberSolid]
) -> None:
    labels, types = names.every_member, names.types(names.member_type)
    roles = list(ROLES.values())
    # A saddle is no plane that a profile could be clipped by.
    plain = structure.is_plain.copy()
    plain[structure.cuts.end[structure.cuts.is_saddle] // 2] = False
    for m, vertices, triangles in solids:
        kind, predefined = roles[structure.role[m]].ifc
        named = (kind, labels[m], types[m])
        if plain[m]:
            _straight(model, structure, m, named, predefined)
        else:
            grade = structure.sections[structure.section_of[m]].grade
            model.add_faced(*named, vertices, triangles, grade, predefined)
            first, last = structure.offsets[m : m + 2]
            bulges = structure.bulge[first - m : last - m - 1]
            model.add_axis(structure.axis_places[first:last], bulges)


def _straight(
    model: BuildingModel, structure: Structure, member: int, named: tuple[str, str, str], as_: str
) -> None:
    """A member as its profile, extruded along its axis and clipped by the planes that cut it;
    ``named`` are its class, label and type, and it is predefined ``as_`` that."""
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


def _bodies(model: BuildingModel, structure: Structure, names: StructureNames) -> None:
    labels = names.every_node
    materials = structure.body_materials
    for n, vertices, triangles in body_solids(structure):
        named = ("IfcDiscreteAccessory", labels[n], MEETINGS[structure.meeting[n]])
        model.add_faced(*named, vertices, triangles, materials[n], "USERDEFINED")
