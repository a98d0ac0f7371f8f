"""Panels in the cells of a net: flat within a tolerance, or split until they are."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry import polygons
from ..geometry.nets import Net

__all__ = ["PANEL_MATERIALS", "Panels", "panel_net"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

PANEL_MATERIALS = {
    "glass": ("glass", 2500.0),
    "plywood": ("plywood", 680.0),
    "aluminium": ("aluminium sheet", 2700.0),
    "steel": ("steel sheet", 7850.0),
    "polycarbonate": ("polycarbonate", 1200.0),
}
"""Name in a sentence and density in kg/m³ (EN 1991-1-1, annex A; plywood: EN 12369-2 mean of birch)."""


@dataclass(frozen=True, eq=False)
class Panels:
    """Panels whose corners are vertices of ``net``: panel ``i`` has ``corners[offsets[i]:offsets[i + 1]]``.

    ``cell`` (n,) is the cell it fills or, where that was split, a part of. ``neighbour`` tells, side by side in the
    order of ``corners``, the panel beyond that side, −1 at a border. ``thickness`` and ``joint`` in metres.
    """

    net: Net
    corners: Index
    offsets: Index
    cell: Index
    neighbour: Index
    material: str
    thickness: float
    joint: float

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
    net: Net, tolerance: float, material: str, thickness: float, joint: float, kept: NDArray[np.bool_] | None = None
) -> Panels:
    """Panels in all cells of the net, or in those ``kept`` (C,); lengths in metres.

    A cell whose flatness is above ``tolerance`` is split into triangles from the corner with the shortest diagonals.
    """
    counts = np.diff(net.offsets)
    split = (net.flatness > tolerance) & (counts > 3)
    sizes = np.where(split, 3, counts)
    pieces = np.where(split, counts - 2, 1)
    if kept is not None:
        pieces[~kept] = 0
    piece_cell = np.repeat(np.arange(net.cell_count, dtype=np.int32), pieces)
    offsets = np.concatenate([[0], np.cumsum(sizes[piece_cell])]).astype(np.int32)
    corners = np.empty(offsets[-1], np.int32)
    first_piece = np.concatenate([[0], np.cumsum(pieces)])[:-1]
    for k in np.unique(counts):
        for is_split in (False, True):
            cells = np.flatnonzero((counts == k) & (split == is_split) & (pieces > 0))
            if not cells.size:
                continue
            dense = net.corners[net.offsets[cells][:, None] + np.arange(k)]
            rows = _fan(net.vertices, dense).reshape(len(cells), -1) if is_split else dense
            corners[offsets[first_piece[cells]][:, None] + np.arange(rows.shape[1])] = rows
    return Panels(
        net, corners, offsets, piece_cell, _neighbours(corners, offsets, len(net.vertices)), material, thickness, joint
    )


def _fan(points: Array, cells: Index) -> Index:
    """Triangles (n, k − 2, 3) of cells (n, k), from the corner whose diagonals are shortest together."""
    k = cells.shape[1]
    p = points[cells]
    total = np.stack(
        [np.linalg.norm(np.roll(p, -s, axis=1)[:, 2:-1] - p[:, s : s + 1], axis=2).sum(axis=1) for s in range(k)],
        axis=1,
    )
    start = np.argmin(np.round(total, 9), axis=1)
    turned = np.take_along_axis(cells, (start[:, None] + np.arange(k)) % k, axis=1)
    m = np.arange(1, k - 1)
    return np.stack([np.broadcast_to(turned[:, :1], (len(cells), k - 2)), turned[:, m], turned[:, m + 1]], axis=2)


def _neighbours(corners: Index, offsets: Index, vertex_count: int) -> Index:
    following = np.roll(corners, -1)
    following[offsets[1:] - 1] = corners[offsets[:-1]]
    owner = np.repeat(np.arange(len(offsets) - 1, dtype=np.int32), np.diff(offsets))
    key = np.minimum(corners, following).astype(np.int64) * vertex_count + np.maximum(corners, following)
    order = np.argsort(key, kind="stable")
    pairs = np.flatnonzero(key[order][1:] == key[order][:-1])
    out = np.full(len(corners), -1, np.int32)
    out[order[pairs]], out[order[pairs + 1]] = owner[order[pairs + 1]], owner[order[pairs]]
    return out
