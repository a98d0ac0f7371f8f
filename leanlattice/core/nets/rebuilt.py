"""A net of new cells over new vertices, on the same shape."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from .spots import on_shape

__all__ = ["lifted", "rebuilt", "without_mere_points"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def lifted(net: Net, uv: Array, straight: Array) -> Array:
    """Places (n, 3) of new vertices: on the shape at ``uv`` where the net lies on it, else at
    ``straight``."""
    if not on_shape(net):
        return straight
    inside = np.all((uv >= 0) & (uv <= 1), axis=1)
    return np.where(
        inside[:, None], net.surface.points(np.clip(uv, 0, 1)), net.surface.extended(uv)
    )


def rebuilt(net: Net, vertices: Array, uv: Array, corners: Index, offsets: Index) -> Net:
    """Net of other ``vertices`` (V, 3) at ``uv`` (V, 2) and cells, by ``corners`` and ``offsets``,
    on the surface of ``net``; vertices no cell uses are left out. Raises ``NetError`` where the
    cells are no surface."""
    used = np.zeros(len(vertices), bool)
    used[corners] = True
    number = np.cumsum(used, dtype=np.int32) - 1
    return build_net(net.surface, vertices[used], uv[used], number[corners], offsets)


def without_mere_points(net: Net) -> Net:
    """The net without inner vertices of two edges, which change nothing but the course of an edge:
    cells that meet along both would not be sound once their middles are joined. The cells stay, in
    their order."""
    mere = net.valence == 2
    mere[net.loop_vertices] = False
    if not mere.any():
        return net
    kept = ~mere[net.corners]
    offsets = np.concatenate([[0], np.cumsum(kept)])[net.offsets].astype(np.int32)
    return rebuilt(net, net.vertices, net.uv, net.corners[kept], offsets)
