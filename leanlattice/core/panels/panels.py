"""Panels: polygons between places, such as the cells of a net, split where these are not flat."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry import polygons
from ..geometry.nets import Net
from ..geometry.triangulation import polygon_triangles
from ..materials import MATERIALS
from ..nets.fans import cell_of_half_edges, following
from ..nets.stations import run_stations
from ..results import Result, result_type
from .edges import SHARP, Edges
from .twist import Bending, are_convex, twist_stresses, twists_of

__all__ = ["Panels", "Sheet", "panel_net", "with_sheet"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class Sheet(NamedTuple):
    """What a panel is made of: a name in ``MATERIALS``, and metres."""

    material: str
    thickness: float


@result_type("Panels", "panels", "panel")
@dataclass(frozen=True, eq=False)
class Panels(Result):
    """Polygons (n) between places (V): panel ``i`` has ``corners[offsets[i]:offsets[i + 1]]``.

    Parameters
    ----------
    places : (V, 3) in metres
    origin : (V, 2) position in ``sources`` and number there of what a place is on, −1 for none
    station : (n, 2) metres along and across, by which panels are numbered
    cell : (n,) the cell a panel fills or, where that was split, a part of
    neighbour : (C,) side by side, in the order of ``corners``, the panel beyond, −1 at a border
    sheets : what panels are made of
    sheet_of : (n,) positions in ``sheets``
    joint : in metres
    raised : how far, in metres, a panel's underside lies above its corners' best plane
    sources : keys of results that ``origin`` counts in
    series : what stands before all names
    tolerance : within how many metres panels are equal, and of one type
    edges : what their edges are worked to
    bending : what those of four corners are twisted for, and how far; none are without it
    alike : whether all of a type are cut as their mean, rather than each to its own corners
    """

    places: Array
    origin: Index
    corners: Index
    offsets: Index
    station: Array
    cell: Index
    neighbour: Index
    sheets: tuple[Sheet, ...]
    sheet_of: Index
    joint: float
    raised: float = 0.0
    sources: tuple[str, ...] = ()
    series: str = ""
    tolerance: float = 0.001
    edges: Edges = SHARP
    bending: Bending | None = None
    alike: bool = False

    @property
    def count(self) -> int:
        return len(self.offsets) - 1

    @property
    def thicknesses(self) -> Array:
        """Metres (n,)."""
        return np.array([sheet.thickness for sheet in self.sheets])[self.sheet_of]

    @property
    def masses(self) -> Array:
        """kg (n,) before the joint is taken off."""
        density = np.array([MATERIALS[sheet.material].density for sheet in self.sheets])
        return np.asarray(self.areas * self.thicknesses * density[self.sheet_of])

    @property
    def materials(self) -> list[str]:
        """Names (n,) in ``MATERIALS``."""
        return [self.sheets[k].material for k in self.sheet_of.tolist()]

    @cached_property
    def flatness(self) -> Array:
        return polygons.flatness(self.places, self.corners, self.offsets)

    @cached_property
    def areas(self) -> Array:
        """Areas (n,) in m² before the joint is taken off."""
        return polygons.areas(self.places, self.corners, self.offsets)

    @cached_property
    def bent(self) -> NDArray[np.bool_]:
        """Which (n,) are twisted to their corners."""
        if self.bending is None:
            return np.zeros(self.count, bool)
        return np.asarray(self.flatness > self.bending.flat_within)

    @cached_property
    def quads(self) -> Array:
        """Corners (k, 4, 3) of those that are bent."""
        return self.places[self.corners[self.offsets[:-1][self.bent][:, None] + np.arange(4)]]

    @cached_property
    def twists(self) -> Array:
        """Metres (n,) by which the fourth corner of bent ones is off the plane of the others; 0 for
        all others."""
        out = np.zeros(self.count)
        out[self.bent] = np.abs(twists_of(self.quads).out)
        return out

    @cached_property
    def twist_stresses(self) -> Array:
        """Bending stress (n,) in Pa of bent ones; 0 for all others."""
        out, materials = np.zeros(self.count), self.materials
        own = [materials[k] for k in np.flatnonzero(self.bent).tolist()]
        out[self.bent] = twist_stresses(twists_of(self.quads), self.thicknesses[self.bent], own)
        return out

    @cached_property
    def next_corner(self) -> Index:
        """The corner (C,) at the other end of each side."""
        following = np.roll(self.corners, -1)
        following[self.offsets[1:] - 1] = self.corners[self.offsets[:-1]]
        return following

    @cached_property
    def sides(self) -> Index:
        """Different sides (k, 2), their lower places first."""
        return np.unique(np.sort(np.column_stack([self.corners, self.next_corner])), axis=0)

    @cached_property
    def split_cells(self) -> Index:
        """Cells that were not flat enough for one panel."""
        names, counts = np.unique(self.cell, return_counts=True)
        return names[counts > 1]


def panel_net(
    net: Net,
    tolerance: float,
    material: str,
    thickness: float,
    joint: float,
    kept: NDArray[np.bool_] | None = None,
    source: str = "",
    apex: Array | None = None,
    stress: float = 0.0,
) -> Panels:
    """Panels in the cells of a net; those that are not flat enough are twisted, if they have four
    corners and that takes no more than a ``stress``, or split into triangles. Pyramids over all
    cells, of a triangle at each side, where an ``apex`` is given.

    Parameters
    ----------
    net : its vertices become the places
    tolerance : the most a panel's corners lie off its best plane, in metres
    material, thickness, joint : of the panels, lengths in metres
    kept : (C,) cells that get a panel, all without it
    source : key of the net
    apex : (C, 3) tips of pyramids, in metres
    stress : in Pa
    """
    taken = np.ones(net.cell_count, bool) if kept is None else kept
    numbers = np.arange(len(net.vertices), dtype=np.int32)
    places, origin = net.vertices, np.column_stack([np.zeros_like(numbers), numbers])
    if apex is None:
        split = _to_split(net, tolerance, stress, Sheet(material, thickness)) & taken
        corners, offsets, cell = _with_split_cells(net, taken & ~split, split)
        stations = run_stations(net, corners, offsets)
    else:
        corners, offsets, cell = _pyramids(net, taken)
        sides = corners.reshape(-1, 3)[:, :2].ravel()
        stations = run_stations(net, sides, 2 * np.arange(len(cell) + 1, dtype=np.int32))
        places = np.vstack([places, apex])
        origin = np.vstack([origin, np.full((len(apex), 2), -1, np.int32)])
    return Panels(
        places=places,
        origin=origin,
        corners=corners,
        offsets=offsets,
        station=stations,
        cell=cell,
        neighbour=_neighbours(corners, offsets, len(places)),
        sheets=(Sheet(material, thickness),),
        sheet_of=np.zeros(len(cell), np.int32),
        joint=joint,
        sources=(source,),
        bending=Bending(tolerance, stress) if stress else None,
    )


def _to_split(net: Net, tolerance: float, stress: float, sheet: Sheet) -> NDArray[np.bool_]:
    """Which cells (C,) are neither flat enough for a sheet nor such that it can be twisted."""
    bent = (net.flatness > tolerance) & (np.diff(net.offsets) > 3)
    return bent & ~_can_twist(net, stress, sheet)


def _can_twist(net: Net, stress: float, sheet: Sheet) -> NDArray[np.bool_]:
    """Which cells (C,) a sheet can be twisted to by no more than a ``stress`` (Pa)."""
    which = np.flatnonzero(np.diff(net.offsets) == 4) if stress else np.zeros(0, np.int64)
    corners = net.vertices[net.corners[net.offsets[which][:, None] + np.arange(4)]]
    thickness, material = np.full(len(which), sheet.thickness), [sheet.material] * len(which)
    out = np.zeros(net.cell_count, bool)
    takes = twist_stresses(twists_of(corners), thickness, material)
    out[which] = (takes <= stress) & are_convex(corners)
    return out


def with_sheet(panels: Panels, chosen: NDArray[np.bool_], sheet: Sheet) -> Panels:
    """The same, those ``chosen`` (n,) made of another ``sheet``; sheets that no panel is made of
    any more are gone."""
    every = [*panels.sheets, sheet]
    of = np.where(chosen, len(panels.sheets), panels.sheet_of)
    different = list(dict.fromkeys(every[k] for k in np.unique(of).tolist()))
    place = {s: k for k, s in enumerate(different)}
    numbers = np.array([place.get(s, 0) for s in every], np.int32)
    return replace(panels, sheets=tuple(different), sheet_of=numbers[of])


def _pyramids(net: Net, kept: NDArray[np.bool_]) -> tuple[Index, Index, Index]:
    """Corners and offsets of triangles from the sides of cells to tips, which come after the
    vertices, and the cell of each."""
    cell = cell_of_half_edges(net)
    tips = len(net.vertices) + cell
    triangles = np.column_stack([net.corners, net.corners[following(net)], tips])[kept[cell]]
    offsets = 3 * np.arange(len(triangles) + 1, dtype=np.int32)
    return triangles.ravel().astype(np.int32), offsets, cell[kept[cell]]


def _with_split_cells(
    net: Net, whole: NDArray[np.bool_], split: NDArray[np.bool_]
) -> tuple[Index, Index, Index]:
    """Corners and offsets of the cells (C,) that stay ``whole`` and the triangles of those that are
    ``split``, in the order of the cells, and the cell of each."""
    whole_corners, whole_offsets = _chosen(net, whole)
    triangles, owner = polygon_triangles(net.vertices, *_chosen(net, split))
    cell = np.concatenate([np.flatnonzero(whole), np.flatnonzero(split)[owner]])
    sizes = np.concatenate([np.diff(whole_offsets), np.full(len(triangles), 3)])
    unsorted = np.concatenate([whole_corners, triangles.ravel()])
    order = np.argsort(cell, kind="stable")
    start = np.concatenate([[0], np.cumsum(sizes)])[:-1][order]
    offsets = np.concatenate([[0], np.cumsum(sizes[order])]).astype(np.int32)
    within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], sizes[order])
    corners = unsorted[np.repeat(start, sizes[order]) + within]
    return corners.astype(np.int32), offsets, cell[order].astype(np.int32)


def _chosen(net: Net, chosen: NDArray[np.bool_]) -> tuple[Index, Index]:
    """Corners and offsets of the chosen cells alone."""
    counts = np.diff(net.offsets)
    offsets = np.concatenate([[0], np.cumsum(counts[chosen])]).astype(np.int32)
    return net.corners[np.repeat(chosen, counts)], offsets


def _neighbours(corners: Index, offsets: Index, vertex_count: int) -> Index:
    following = np.roll(corners, -1)
    following[offsets[1:] - 1] = corners[offsets[:-1]]
    owner = np.repeat(np.arange(len(offsets) - 1, dtype=np.int32), np.diff(offsets))
    key = np.minimum(corners, following).astype(np.int64) * vertex_count + np.maximum(
        corners, following
    )
    order = np.argsort(key, kind="stable")
    pairs = np.flatnonzero(key[order][1:] == key[order][:-1])
    out = np.full(len(corners), -1, np.int32)
    out[order[pairs]], out[order[pairs + 1]] = owner[order[pairs + 1]], owner[order[pairs]]
    return out
