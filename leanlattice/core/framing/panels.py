"""Panels in the cells of a net: flat within a tolerance, or split until they are."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry import polygons
from ..geometry.nets import Net
from ..geometry.triangulation import polygon_triangles
from ..results import Result, result_type

__all__ = ["Panels", "panel_net"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@result_type("Panels", "panels", "panel")
@dataclass(frozen=True, eq=False)
class Panels(Result):
    """Panels whose corners are vertices of ``net``: panel ``i`` has ``corners[offsets[i]:offsets[i
    + 1]]``.

    ``cell`` (n,) is the cell it fills or, where that was split, a part of. ``neighbour`` tells,
    side by side in the order of ``corners``, the panel beyond that side, −1 at a border.
    ``thickness`` and ``joint`` in metres; ``raised`` is how far (m) a panel's underside lies above
    its corners' best plane. ``net_key`` is the key of the net, by which its frame is known.
    """

    net: Net
    corners: Index
    offsets: Index
    cell: Index
    neighbour: Index
    material: str
    thickness: float
    joint: float
    raised: float = 0.0
    net_key: str = ""

    @property
    def count(self) -> int:
        return len(self.offsets) - 1

    @cached_property
    def flatness(self) -> Array:
        return polygons.flatness(self.net.vertices, self.corners, self.offsets)

    @cached_property
    def areas(self) -> Array:
        """Areas (n,) in m² before the joint is taken off."""
        return polygons.areas(self.net.vertices, self.corners, self.offsets)

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
) -> Panels:
    """Panels of a ``material`` and ``thickness`` in all cells of the ``net``, or in those ``kept``
    (C,), with a ``joint`` between them; lengths in metres.

    A cell whose flatness is above ``tolerance`` is split into triangles.
    """
    counts = np.diff(net.offsets)
    taken = np.ones(net.cell_count, bool) if kept is None else kept
    split = (net.flatness > tolerance) & (counts > 3) & taken
    whole = taken & ~split
    triangles, owner = polygon_triangles(net.vertices, *_chosen(net, split))
    cell = np.concatenate([np.flatnonzero(whole), np.flatnonzero(split)[owner]])
    sizes = np.concatenate([counts[whole], np.full(len(triangles), 3)])
    unsorted = np.concatenate([_chosen(net, whole)[0], triangles.ravel()])
    # Panels stand in the order of their cells.
    order = np.argsort(cell, kind="stable")
    start = np.concatenate([[0], np.cumsum(sizes)])[:-1][order]
    offsets = np.concatenate([[0], np.cumsum(sizes[order])]).astype(np.int32)
    within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], sizes[order])
    corners = unsorted[np.repeat(start, sizes[order]) + within].astype(np.int32)
    neighbours = _neighbours(corners, offsets, len(net.vertices))
    cell = cell[order].astype(np.int32)
    return Panels(net, corners, offsets, cell, neighbours, material, thickness, joint)


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
