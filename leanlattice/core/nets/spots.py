"""Parameters of new places on a net's shape: between two vertices, in the middle of a cell."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..geometry.surfaces import Surface

__all__ = ["between", "middles", "on_shape", "unwrapped"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
ON_SHAPE = 1e-6


def _at_apex(surface: Surface, uv: Array) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Whether u (or v) means nothing at each place, as the side it lies on is one point."""
    free = [np.zeros(len(uv), bool), np.zeros(len(uv), bool)]
    for side in surface.degenerate:
        axis = "uv".index(side[0])
        free[1 - axis] |= np.abs(uv[:, axis] - float(side[1])) < 1e-9
    return free[0], free[1]


def unwrapped(surface: Surface, uv: Array, reference: Array) -> Array:
    """Parameters moved by whole turns to lie nearest to ``reference``, and at an apex taken from
    it."""
    out = uv.copy()
    free = _at_apex(surface, uv)
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        if closed:
            out[:, axis] -= np.round(uv[:, axis] - reference[:, axis])
        out[free[axis], axis] = reference[free[axis], axis]
    return out


def _wrapped(surface: Surface, uv: Array) -> Array:
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        if closed:
            uv[:, axis] %= 1.0
    return uv


def between(net: Net, a: Index, b: Index, share: float | Array = 0.5) -> Array:
    """Parameters (n, 2) the given share of the way from vertices ``a`` to ``b``, the short way
    round."""
    if net.surface.pieced:
        t = np.broadcast_to(share, len(a))[:, None]
        return net.surface.closest(net.vertices[a] + t * (net.vertices[b] - net.vertices[a]))
    first, last = net.uv[a], net.uv[b]
    first = unwrapped(net.surface, first, last)
    last = unwrapped(net.surface, last, first)
    t = np.broadcast_to(share, len(a))[:, None]
    return _wrapped(net.surface, first + t * (last - first))


def middles(net: Net) -> Array:
    """Parameters (C, 2) of the middles of cells."""
    counts = np.diff(net.offsets)
    if net.surface.pieced:
        return net.surface.closest(net.cell_means)
    corner = net.uv[net.corners]
    anchor_at = net.offsets[:-1].copy()
    for axis in (0, 1):
        # Begin at a corner whose parameters all mean something.
        free = _at_apex(net.surface, corner)[axis]
        anchor_at = np.where(
            free[anchor_at], np.minimum(anchor_at + 1, net.offsets[1:] - 1), anchor_at
        )
    anchor = np.repeat(corner[anchor_at], counts, axis=0)
    out = (
        np.add.reduceat(unwrapped(net.surface, corner, anchor), net.offsets[:-1], axis=0)
        / counts[:, None]
    )
    out = _wrapped(net.surface, out)
    round_apex = _goes_round(net)
    if round_apex.any():
        out[round_apex] = net.surface.closest(net.cell_means[round_apex])
    return out


def _goes_round(net: Net) -> NDArray[np.bool_]:
    """Whether a cell's corners run once round a closed direction, as those about a pole do."""
    corner = net.uv[net.corners]
    after = np.arange(1, len(corner) + 1)
    after[net.offsets[1:] - 1] = net.offsets[:-1]
    out = np.zeros(net.cell_count, bool)
    for axis, closed in enumerate((net.surface.closed_u, net.surface.closed_v)):
        if closed:
            step = corner[after, axis] - corner[:, axis]
            out |= np.abs(np.add.reduceat(step - np.round(step), net.offsets[:-1])) > 0.5
    return out


def on_shape(net: Net) -> bool:
    """Whether the vertices lie on the shape, so that new ones should too."""
    size = float(np.ptp(net.vertices, axis=0).max())
    inside = np.all((net.uv >= 0) & (net.uv <= 1), axis=1)
    gap = np.linalg.norm(net.surface.points(net.uv[inside]) - net.vertices[inside], axis=1)
    return bool(gap.max(initial=0.0) < ON_SHAPE * size)
