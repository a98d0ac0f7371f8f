"""Which way the sections of members along a net's edges stand, and which of their lines lies on it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net
from ...geometry.polygons import vector_areas

__all__ = ["SET_OUT", "members_up", "normals_beside", "square_to"]

Array = NDArray[np.float64]

SET_OUT = {"top": -0.5, "centre": 0.0, "bottom": 0.5}
"""Where the section's middle lies above the set-out line, in section heights."""


def members_up(net: Net, roll: float) -> Array:
    """Heights' directions (E, 3) of members along a net's edges: along the faces beside them,
    turned by ``roll`` (rad) about the edge."""
    a, b = net.edges.T
    axis = (net.vertices[b] - net.vertices[a]) / net.edge_lengths[:, None]
    up = square_to(axis, normals_beside(net), net.normals[a] + net.normals[b], _upright(axis))
    if roll:
        up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    return up


def normals_beside(net: Net) -> Array:
    """Sums (E, 3) of the unit normals of the cells beside each edge, as they are at the edge; 0
    where there is no cell.

    A cell's normal at an edge is the sum of those of its two corners there, each weighted with the
    sine of its angle: in a plane cell exactly the plane's, in a warped one that along the edge.
    """
    points, corners, offsets = net.vertices, net.corners, net.offsets
    mean = vector_areas(points, corners, offsets)
    owner = np.repeat(np.arange(net.cell_count), np.diff(offsets))
    following = np.arange(1, len(corners) + 1)
    following[offsets[1:] - 1] = offsets[:-1]
    side = points[corners[following]] - points[corners]
    side /= np.maximum(_sizes(side), 1e-300)[:, None]
    before = np.empty_like(side)
    before[following] = side
    at_corner = np.cross(before, side)
    facing = np.einsum("ij,ij->i", at_corner, mean[owner])
    at_corner = np.where(facing[:, None] < 0, -at_corner, at_corner)
    at_side = at_corner + at_corner[following]
    size = _sizes(at_side)[:, None]
    mean /= np.maximum(_sizes(mean), 1e-300)[:, None]
    at_side = np.where(size > 1e-9, at_side / np.maximum(size, 1e-300), mean[owner])
    count = len(net.edges)
    sums = [np.bincount(net.sides, at_side[:, k], minlength=count) for k in range(3)]
    return np.stack(sums, axis=1)


def _upright(axis: Array) -> Array:
    """A direction (M, 3) for each axis, upright where that is not along it."""
    return np.where(np.abs(axis[:, 2:]) < 0.9, [0.0, 0.0, 1.0], [1.0, 0.0, 0.0])


def square_to(axis: Array, *wanted: Array) -> Array:
    """Unit directions (M, 3) square to each axis: of those ``wanted`` the first that is not along
    it."""
    out = np.zeros_like(axis)
    left = np.ones(len(axis), bool)
    for direction in wanted:
        square = direction - np.einsum("ij,ij->i", direction, axis)[:, None] * axis
        size = _sizes(square)
        good = left & (size > 1e-9)
        out[good] = square[good] / size[good, None]
        left &= ~good
    return out


def _sizes(vectors: Array) -> Array:
    """Lengths (n,) of vectors (n, 3); three products, which the library's norm is slower than."""
    return np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
