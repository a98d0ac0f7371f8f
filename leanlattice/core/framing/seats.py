"""How panels sit on members: how far these reach above the planes panels lie in."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.polygons import best_planes
from .frames import Frame
from .panels import Panels

__all__ = ["member_heights"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def member_heights(panels: Panels, frame: Frame) -> tuple[Array, Index, Index]:
    """How far members reach above the planes of the panels beside them, below their edges.

    Of a member's section counts what lies further in than half the joint, where the panel is. A
    panel raised by the largest height from its plane touches no member beside it.

    Returns
    -------
    heights : (k,) in metres, below 0 where a member stays under the plane
    panel, member : (k,) positions of what was looked at, one pair a side that has a member
    """
    net = panels.net
    sides = _edges_of_sides(panels)
    at = np.flatnonzero(sides >= 0)
    counts = np.diff(panels.offsets)
    panel = np.repeat(np.arange(panels.count, dtype=np.int32), counts)[at]
    member = sides[at]
    centres, normals = best_planes(net.vertices, panels.corners, panels.offsets)
    normal = normals[panel]
    # Inward, square to the side in the panel's plane: the panel lies to the left of its sides.
    first = net.vertices[panels.corners[at]]
    second = net.vertices[_next_corner(panels)[at]]
    way = second - first
    way -= np.einsum("ij,ij->i", way, normal)[:, None] * normal
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    inward = np.cross(normal, way)
    above = [np.einsum("ij,ij->i", p - centres[panel], normal) for p in (first, second)]
    base = np.maximum(*above)
    heights = np.full(len(at), -np.inf)
    for k, section in enumerate(frame.sections):
        rows = np.flatnonzero(frame.section_of[member] == k)
        if not rows.size:
            continue
        m = member[rows]
        across = (
            np.einsum("ij,ij->i", frame.side[m], inward[rows]),
            np.einsum("ij,ij->i", frame.up[m], inward[rows]),
        )
        high = (
            np.einsum("ij,ij->i", frame.side[m], normal[rows]),
            np.einsum("ij,ij->i", frame.up[m], normal[rows]),
        )
        if section.shape.round:
            x, y = across[1] * frame.lift[m], high[1] * frame.lift[m]
            heights[rows] = base[rows] + _top_of_circle(
                x, y, section.shape.height / 2, panels.joint / 2
            )
            continue
        ring = section.shape.outline()[0]
        lifted = ring[None, :, 1] + frame.lift[m, None]
        x = ring[:, 0] * across[0][:, None] + lifted * across[1][:, None]
        y = ring[:, 0] * high[0][:, None] + lifted * high[1][:, None]
        heights[rows] = _highest_beyond(x, y, panels.joint / 2) + base[rows]
    return heights, panel, member


def _top_of_circle(x: Array, y: Array, radius: float, least: float) -> Array:
    """Largest height (n,) of circles about (``x``, ``y``) at places that are at least ``least``
    across; −∞ where they do not reach there."""
    short = np.maximum(least - x, 0.0)
    rise = np.sqrt(np.maximum(radius**2 - short**2, 0.0))
    return np.where(short <= radius, y + rise, -np.inf)


def _highest_beyond(x: Array, y: Array, least: float) -> Array:
    """Largest y (n,) of closed outlines (n, k) where x is at least ``least``; −∞ where it is
    not."""
    after_x, after_y = np.roll(x, -1, axis=1), np.roll(y, -1, axis=1)
    corner = np.where(x >= least, y, -np.inf).max(axis=1)
    crosses = (x >= least) != (after_x >= least)
    share = np.where(crosses, (least - x) / np.where(crosses, after_x - x, 1.0), 0.0)
    on_line = np.where(crosses, y + share * (after_y - y), -np.inf).max(axis=1)
    return np.maximum(corner, on_line)


def _next_corner(panels: Panels) -> Index:
    following = np.roll(panels.corners, -1)
    following[panels.offsets[1:] - 1] = panels.corners[panels.offsets[:-1]]
    return following


def _edges_of_sides(panels: Panels) -> Index:
    """The edge of the net along each side of a panel; −1 where there is none, as where cells were
    split."""
    net, following = panels.net, _next_corner(panels)
    count = len(net.vertices)
    low, high = np.minimum(panels.corners, following), np.maximum(panels.corners, following)
    wanted = low.astype(np.int64) * count + high
    known = net.edges[:, 0].astype(np.int64) * count + net.edges[:, 1]
    order = np.argsort(known)
    place = np.minimum(np.searchsorted(known[order], wanted), len(order) - 1)
    found = order[place]
    return np.where(known[found] == wanted, found, -1).astype(np.int32)
