"""Which members of a structure are meant, and what there is to grade them by, as data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..geometry.polygons import vector_areas
from .groups import in_group
from .inserted import nearest_members
from .roles import role_number
from .structure import Structure

__all__ = ["CHOSEN", "MEASURED", "Chosen", "cells_beside"]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
SLACK = 1e-9
"""Share of a limit by which a value may lie beyond it and still be within."""


@dataclass(frozen=True, eq=False)
class Chosen:
    """Some members of a structure.

    Parameters
    ----------
    which : an entry of ``CHOSEN``
    role : a name of ``ROLES``
    group : of that role, counted from 1
    section : name of a section
    low, high : between which a measure lies: metres, or square metres of cells
    places : (k, 3) in metres
    net : whose cells are meant
    source : key of that net
    """

    which: str = "all"
    role: str = ""
    group: int = 1
    section: str = ""
    low: float = 0.0
    high: float = np.inf
    places: Array = field(default_factory=lambda: np.zeros((0, 3)))
    net: Net | None = None
    source: str = ""

    def members(self, structure: Structure) -> Mask:
        """Which members (M,) of a structure are meant."""
        return CHOSEN[self.which](structure, self)

    def measured(self, structure: Structure, by: str) -> Array:
        """A figure of each member (M,), an entry ``by`` of ``MEASURED``; not a number where it has
        none."""
        return MEASURED[by](structure, self)


def _between(by: str) -> Callable[[Structure, Chosen], Mask]:
    def members(structure: Structure, chosen: Chosen) -> Mask:
        values = chosen.measured(structure, by)
        slack = SLACK * np.maximum(1.0, np.abs(values))
        return np.asarray((values >= chosen.low - slack) & (values <= chosen.high + slack))

    return members


def _nearest(structure: Structure, chosen: Chosen) -> Mask:
    out = np.zeros(structure.count, bool)
    out[nearest_members(structure, chosen.places)[0]] = True
    return out


def _of_section(structure: Structure, chosen: Chosen) -> Mask:
    is_it = np.array([section.name == chosen.section for section in structure.sections])
    return np.asarray(is_it[structure.section_of])


def _distances(structure: Structure, chosen: Chosen) -> Array:
    """From the middles of members to the nearest place, in metres."""
    return np.asarray(scipy.spatial.cKDTree(chosen.places).query(structure.middles)[0])


def cells_beside(structure: Structure, net: Net, source: str) -> Array:
    """Area (M,) in square metres of the largest cell of a ``net`` beside each member that lies
    along its edges; not a number for others. ``source`` is the net's key."""
    areas = np.linalg.norm(vector_areas(net.vertices, net.corners, net.offsets), axis=1)
    beside = np.zeros(len(net.edges))
    np.maximum.at(beside, net.sides, np.repeat(areas, np.diff(net.offsets)))
    on = structure.nodes_on(source, np.arange(len(net.vertices), dtype=np.int32))
    count = len(structure.places)
    rows = on[net.edges]
    rows = np.where(np.all(rows >= 0, axis=1, keepdims=True), rows, 0)
    # A pair of nodes as one number, the lower node first.
    edge_key = rows.min(axis=1).astype(np.int64) * count + rows.max(axis=1)
    order = np.argsort(edge_key, kind="stable")
    first = structure.path[structure.first_entry].astype(np.int64)
    last = structure.path[structure.first_entry + 1].astype(np.int64)
    key = np.minimum(first, last) * count + np.maximum(first, last)
    at = order[np.minimum(np.searchsorted(edge_key[order], key), len(order) - 1)]
    found = np.where(edge_key[at] == key, beside[at], -np.inf)
    out = np.full(structure.count, -np.inf)
    np.maximum.at(out, structure.member_of_segment, found)
    return np.where(np.isfinite(out), out, np.nan)


def _cells(structure: Structure, chosen: Chosen) -> Array:
    if chosen.net is None:
        return np.full(structure.count, np.nan)
    return cells_beside(structure, chosen.net, chosen.source)


MEASURED: dict[str, Callable[[Structure, Chosen], Array]] = {
    "length": lambda structure, _: structure.lengths,
    "height": lambda structure, _: structure.middles[:, 2],
    "distance": _distances,
    "cells": _cells,
}
"""What members can be told apart by, in metres or, of cells, square metres."""
CHOSEN: dict[str, Callable[[Structure, Chosen], Mask]] = {
    "all": lambda structure, _: np.ones(structure.count, bool),
    "last": lambda structure, _: np.arange(structure.count) >= structure.since[1],
    "role": lambda structure, chosen: structure.role == role_number(chosen.role),
    "group": lambda structure, chosen: in_group(structure, role_number(chosen.role), chosen.group),
    "section": _of_section,
    "length": _between("length"),
    "heights": _between("height"),
    "around": _between("distance"),
    "nearest": _nearest,
    "cells": _between("cells"),
}
"""Ways in which members are meant."""
