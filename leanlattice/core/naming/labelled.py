"""Names and types of everything in a frame."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..panels.panels import Panels
from ..results import Result, result_type
from ..structure.roles import ROLES
from ..structure.structure import Structure
from .numbering import bands, numbers_by_position, type_numbers

__all__ = ["Labelled", "name_all"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

ROW = 0.2
"""How deep a row of things is that are numbered across it, in median lengths between nodes."""


@result_type("Labelled", "labels")
@dataclass(frozen=True, eq=False)
class Labelled(Result):
    """A structure and its panels with their names and types.

    ``node``, ``member`` and ``panel`` hold numbers from 1; members are counted by their roles, each
    with its letter. ``member_type`` and ``panel_type`` hold types from 1; panels of different
    corner counts have different types. ``tolerance`` in metres.
    """

    structure: Structure
    panels: Panels | None
    series: str
    node: Index
    member: Index
    panel: Index
    member_type: Index
    panel_type: Index
    tolerance: float

    @property
    def prefixes(self) -> dict[str, str]:
        """What stands before the numbers of all things but members."""
        letters = {"node": "N", "panel": "P", "member_type": "T", "panel_type": "Q"}
        return {name: self.series + letter for name, letter in letters.items()}

    @property
    def member_prefixes(self) -> list[str]:
        """What stands before the numbers of members, role by role."""
        return [self.series + role.letter for role in ROLES.values()]

    def named(self, prefix: str, numbers: Index) -> list[str]:
        return [f"{self.prefixes[prefix]}{n}" for n in numbers]

    @cached_property
    def node_labels(self) -> list[str]:
        return self.named("node", self.node)

    @cached_property
    def member_labels(self) -> list[str]:
        prefixes = self.member_prefixes
        pairs = zip(self.structure.role.tolist(), self.member.tolist(), strict=True)
        return [f"{prefixes[role]}{number}" for role, number in pairs]

    @cached_property
    def panel_labels(self) -> list[str]:
        return self.named("panel", self.panel)


def _numbered(station: Array, stage: Index, depth: Mapping[int, float]) -> Index:
    """Numbers (n,) from 1 by stage, and in a stage by station in rows no deeper than ``depth``
    says of it."""
    out = np.zeros(len(station), np.int32)
    for s in np.unique(stage).tolist():
        rows = np.flatnonzero(stage == s)
        before = int(np.count_nonzero(stage < s))
        along, across = station[rows].T
        out[rows] = before + 1 + numbers_by_position(along, across, depth[s])
    return out


def _members_numbered(structure: Structure, depth: Mapping[int, float]) -> Index:
    """Numbers (M,) from 1 of members of each role, by stage and station."""
    out = np.zeros(structure.count, np.int32)
    for role in np.unique(structure.role):
        rows = np.flatnonzero(structure.role == role)
        out[rows] = _numbered(structure.member_station[rows], structure.member_stage[rows], depth)
    return out


def _member_types(structure: Structure, tolerance: float) -> Index:
    """Types (M,) from 1 by section and cut length."""
    out, used = np.zeros(structure.count, np.int32), 0
    for section in range(len(structure.sections)):
        rows = np.flatnonzero(structure.section_of == section)
        if rows.size:
            found = bands(structure.cut_lengths[rows], tolerance)
            out[rows] = found + used + 1
            used += int(found.max()) + 1
    return out


def _depths(structure: Structure) -> dict[int, float]:
    """How deep rows are in metres, by stage: as the members of that stage alone tell, so that no
    later one changes its names."""
    start = structure.first_entry
    segments = np.column_stack([structure.path[start], structure.path[start + 1]])
    stage = structure.member_stage[structure.member_of_segment]
    depths = dict.fromkeys(np.unique(structure.stage).tolist(), 0.0)
    for s in np.unique(stage).tolist():
        depths[s] = ROW * _median_side(structure.places, segments[stage == s])
    return depths


def _median_side(places: Array, pairs: Index) -> float:
    """Median distance in metres of pairs (n, 2) of places."""
    return float(np.median(np.linalg.norm(places[pairs[:, 1]] - places[pairs[:, 0]], axis=1)))


def _panel_types(panels: Panels, tolerance: float) -> Index:
    """Types from 1 by side lengths and by the distances between every other corner."""
    counts = np.diff(panels.offsets)
    out, used = np.zeros(panels.count, np.int32), 0
    for k in np.unique(counts):
        rows = np.flatnonzero(counts == k)
        p = panels.places[panels.corners[panels.offsets[rows][:, None] + np.arange(k)]]
        features = np.stack(
            [np.linalg.norm(np.roll(p, -s, axis=1) - p, axis=2) for s in (1, 2)], axis=2
        )
        types, found = type_numbers(features, tolerance)
        out[rows] = types + used + 1
        used += found
    return out


def name_all(
    structure: Structure, panels: Panels | None, series: str, tolerance: float
) -> Labelled:
    """Names by position and types of equal things within ``tolerance`` (m).

    Members are of one type when section and cut length agree. What a later stage of a structure
    made is numbered on after all before it.
    """
    depth = _depths(structure)
    panel = panel_type = np.zeros(0, np.int32)
    if panels is not None:
        one_stage = np.zeros(panels.count, np.int32)
        panel = _numbered(
            panels.station, one_stage, {0: ROW * _median_side(panels.places, panels.sides)}
        )
        panel_type = _panel_types(panels, tolerance)
    return Labelled(
        structure=structure,
        panels=panels,
        series=series,
        node=_numbered(structure.station, structure.stage, depth),
        member=_members_numbered(structure, depth),
        panel=panel,
        member_type=_member_types(structure, tolerance),
        panel_type=panel_type,
        tolerance=tolerance,
    )
