"""A net of new cells over new vertices, on the same shape."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net, build_net
from .spots import on_shape

__all__ = ["lifted", "rebuilt"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def lifted(net: Net, uv: Array, straight: Array) -> Array:
    """Places (n, 3) of new vertices: on the shape at ``uv`` where the net lies on it, else at ``straight``."""
    if not on_shape(net):
        return straight
    inside = np.all((uv >= 0) & (uv <= 1), axis=1)
    return np.where(inside[:, None], net.surface.points(np.clip(uv, 0, 1)), net.surface.extended(uv))


def rebuilt(net: Net, vertices: Array, uv: Array, corners: Index, offsets: Index) -> Net:
    """Net with vertices no cell uses left out; raises ``NetError`` where the cells are no surface."""
    used = np.zeros(len(vertices), bool)
    used[corners] = True
    number = np.cumsum(used, dtype=np.int32) - 1
    return build_net(net.surface, vertices[used], uv[used], number[corners], offsets)
