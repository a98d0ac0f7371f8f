"""Things of a net taken in turns: cells that lie beside each other, steps along edges."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.nets import Net

__all__ = ["NotAlternate", "cells_in_turns", "steps_from_first"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class NotAlternate(ValueError):
    """Bays of a net cannot be taken in turns: ``at`` a place an odd number of them goes round."""

    def __init__(self, at: Array) -> None:
        super().__init__("The bays cannot be taken in turns.")
        self.at = at


def steps_from_first(pairs: Index, count: int) -> Index:
    """Steps (count,) along ``pairs`` (n, 2) from the first thing of each part."""
    graph = scipy.sparse.coo_array((np.ones(len(pairs)), pairs.T), shape=(count, count)).tocsr()
    _, part = scipy.sparse.csgraph.connected_components(graph, directed=False)
    _, first = np.unique(part, return_index=True)
    steps = scipy.sparse.csgraph.dijkstra(
        graph, directed=False, indices=first, unweighted=True, min_only=True
    )
    return np.asarray(steps).astype(np.int32)


def cells_in_turns(net: Net) -> Index:
    """0 or 1 of each cell (C,), never the same on both sides of an edge: 0 for the more."""
    pairs = net.edge_cells[net.edge_cells.min(axis=1) >= 0]
    colour = steps_from_first(pairs, net.cell_count) % 2
    same = colour[pairs[:, 0]] == colour[pairs[:, 1]]
    if same.any():
        inner = np.flatnonzero(net.edge_cells.min(axis=1) >= 0)
        raise NotAlternate(net.vertices[net.edges[inner[np.argmax(same)]]].mean(axis=0))
    return colour if (colour == 0).sum() * 2 >= len(colour) else 1 - colour
