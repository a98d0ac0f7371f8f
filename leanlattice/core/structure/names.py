"""Names and types of a structure's nodes and members."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..naming.numbering import ROW, median_side, numbers_by_stage
from ..results import remembered
from .congruence import member_types
from .roles import ROLES
from .structure import Structure

__all__ = ["StructureNames", "names_of_structure"]

Index = NDArray[np.int32]
Positions = NDArray[np.integer[Any]]


@dataclass(frozen=True, eq=False)
class StructureNames:
    """Numbers from 1 of nodes (N,) and of members (M,), which are counted by their role, and types
    of members; a letter stands before each, and the series before that."""

    structure: Structure
    node: Index
    member: Index

    @property
    def series(self) -> str:
        """What stands before all names."""
        return self.structure.series

    @property
    def role(self) -> Index:
        """The role (M,) of each member, its place in ``ROLES``."""
        return self.structure.role

    @cached_property
    def member_type(self) -> Index:
        """Types (M,) from 1 of members; names are there sooner."""
        return member_types(self.structure)

    @property
    def prefixes(self) -> dict[str, str]:
        """What stands before the numbers of nodes, and of types of members."""
        return {"node": f"{self.series}N", "memberType": f"{self.series}T"}

    @property
    def member_prefixes(self) -> list[str]:
        """What stands before the numbers of members, role by role."""
        return [self.series + role.letter for role in ROLES.values()]

    @property
    def member_order(self) -> Index:
        """Members (M,) role by role in the order of their numbers."""
        return np.lexsort((self.member, self.role)).astype(np.int32)

    def nodes(self, which: Positions) -> list[str]:
        """Labels of nodes (n,)."""
        return [f"{self.prefixes['node']}{n}" for n in self.node[which].tolist()]

    def members(self, which: Positions) -> list[str]:
        """Labels of members (n,)."""
        prefixes = self.member_prefixes
        pairs = zip(self.role[which].tolist(), self.member[which].tolist(), strict=True)
        return [f"{prefixes[role]}{number}" for role, number in pairs]

    def types(self, numbers: Positions) -> list[str]:
        """Labels of types with these ``numbers`` (n,)."""
        return [f"{self.prefixes['memberType']}{n}" for n in numbers.tolist()]

    @property
    def every_node(self) -> list[str]:
        """Labels of all nodes."""
        return self.nodes(np.arange(len(self.node), dtype=np.int32))

    @property
    def every_member(self) -> list[str]:
        """Labels of all members."""
        return self.members(np.arange(len(self.member), dtype=np.int32))


@remembered
def names_of_structure(structure: Structure) -> StructureNames:
    """Names by position in the structure's series, and types of members that are equal within its
    tolerance.

    Members are of one type when they are the same part (see ``congruence``). What a later stage
    made is numbered on after all before it, in rows as deep as its own members tell, so that no
    later stage changes a name.
    """
    depth = _depths(structure)
    return StructureNames(
        structure,
        node=numbers_by_stage(structure.station, structure.stage, depth),
        member=_members_numbered(structure, depth),
    )


def _depths(structure: Structure) -> dict[int, float]:
    """How deep rows are in metres, by stage."""
    start = structure.first_entry
    segments = np.column_stack([structure.path[start], structure.path[start + 1]])
    stage = structure.member_stage[structure.member_of_segment]
    depths = dict.fromkeys(np.unique(structure.stage).tolist(), 0.0)
    for s in np.unique(stage).tolist():
        depths[s] = ROW * median_side(structure.places, segments[stage == s])
    return depths


def _members_numbered(structure: Structure, depth: dict[int, float]) -> Index:
    """Numbers (M,) from 1 of members of each role, by stage and station."""
    out = np.zeros(structure.count, np.int32)
    for role in np.unique(structure.role):
        rows = np.flatnonzero(structure.role == role)
        stations, stages = structure.member_station[rows], structure.member_stage[rows]
        out[rows] = numbers_by_stage(stations, stages, depth)
    return out
