"""Stations: how far along and across a shape things lie, by which they are numbered."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net

__all__ = ["run_stations", "vertex_stations"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def vertex_stations(net: Net) -> Array:
    """Metres (V, 2) of a net's vertices along the longer direction of its shape, and across it."""
    return _along_and_across(net, net.uv)


def run_stations(net: Net, corners: Index, offsets: Index) -> Array:
    """Metres (n, 2) along and across, of the middles of runs of vertices: run ``i`` is
    ``corners[offsets[i]:offsets[i + 1]]``.

    Where the shape closes on itself a run across the seam counts on past it.
    """
    uv = net.uv[corners]
    if net.surface.closed_u:
        first = np.repeat(uv[offsets[:-1]], np.diff(offsets), axis=0)
        uv = uv.copy()
        uv[:, 0] += np.round(first[:, 0] - uv[:, 0])
    sums = np.add.reduceat(uv, offsets[:-1], axis=0)
    return _along_and_across(net, sums / np.diff(offsets)[:, None])


def _along_and_across(net: Net, parameters: Array) -> Array:
    sizes = np.array(net.surface.lengths)
    metres = parameters * sizes
    return metres if sizes[0] > sizes[1] else metres[:, ::-1].copy()
