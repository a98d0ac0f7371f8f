"""Diagonals across the bays of a net, between nodes of a structure that stand on its vertices."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net
from ...nets.turns import steps_from_first
from ...sections import Section
from ..inserted import landed_near
from ..meetings import Meeting
from ..structure import Structure
from .between import NEAR, straight_members

__all__ = ["WAYS", "braced", "four_sided"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Mask = NDArray[np.bool_]
WAYS = ("rising", "falling", "turns", "both")
"""Which diagonals of bays: those that rise across as they lead along, the others, from bay to bay
in turns, so that they meet in every other vertex, or both."""


def four_sided(net: Net) -> Index:
    """Cells (n,) of a net that have four sides."""
    return np.flatnonzero(np.diff(net.offsets) == 4).astype(np.int32)


def _diagonals(net: Net, cells: Index, way: str) -> Index:
    """Vertices (n, 2, 2) of the two diagonals of four-sided cells, that of the ``way`` first."""
    corners = net.corners[net.offsets[:-1][cells][:, None] + np.arange(4)]
    both = np.stack([corners[:, [0, 2]], corners[:, [1, 3]]], axis=1)
    if way == "turns":
        even = steps_from_first(net.edges, len(net.vertices)) % 2 == 0
        is_first = even[both[:, 0, 0]]
    else:
        across = net.uv[both[:, 0, 1]] - net.uv[both[:, 0, 0]]
        # Where parameters begin again the shorter way counts.
        across -= np.round(across)
        is_first = (across[:, 0] * across[:, 1] > 0) == (way != "falling")
    return np.where(is_first[:, None, None], both, both[:, ::-1])


def braced(
    base: Structure,
    net: Net,
    source: str,
    cells: Index,
    way: str,
    section: Section,
    role: str,
    meeting: Meeting,
) -> Structure:
    """A structure with diagonals across bays of a net; where both are wanted one runs on through
    the middle, where the halves of the other end at it.

    Parameters
    ----------
    base : the structure, some of whose nodes stand on the net's vertices
    net, source : the net and its key
    cells : (n,) its bays, all with four sides and nodes at their corners
    way : an entry of ``WAYS``
    section, role : of the diagonals
    meeting : how these meet what they land on
    """
    node = base.nodes_on(source, np.arange(len(net.vertices), dtype=np.int32))
    pairs = base.places[node[_diagonals(net, cells, way)]]
    made = _landed(base, pairs[:, 0], section, role, meeting)
    if way == "both":
        middle = _nearest(pairs[:, 0], pairs[:, 1])
        halves = np.stack([pairs[:, 1], np.stack([middle, middle], axis=1)], axis=2)
        made = _landed(made, halves.reshape(-1, 2, 3), section, role, meeting)
    return replace(made, since=(len(base.places), base.count))


def _landed(
    base: Structure, ends: Array, section: Section, role: str, meeting: Meeting
) -> Structure:
    which = np.zeros(len(ends), np.int32)
    return landed_near(base, straight_members(ends, (section,), which, (role,), meeting), NEAR)


def _nearest(first: Array, second: Array) -> Array:
    """The places (n, 3) on first diagonals (n, 2, 3) that the second ones pass nearest to."""
    way, other = first[:, 1] - first[:, 0], second[:, 1] - second[:, 0]
    across = np.cross(way, other)
    normal = np.cross(other, across)
    gap = np.einsum("ij,ij->i", second[:, 0] - first[:, 0], normal)
    share = gap / np.einsum("ij,ij->i", way, normal)
    return np.asarray(first[:, 0] + np.clip(share, 0.05, 0.95)[:, None] * way)
