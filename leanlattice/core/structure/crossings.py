"""Crossings: where members pass each other on different levels of a node."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import tangents, unit
from ..results import Result, remembered
from .structure import Structure

__all__ = ["TOUCHING", "Crossings", "crossings_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
TOUCHING = 0.0005
"""Metres by which members may be apart, or overlap, and lie on each other."""
ON_LEVELS = 1e-6
"""Metres between two axes below which they meet."""
PARALLEL = 0.02
"""Sine of an angle below which members run beside each other."""


@dataclass(frozen=True, eq=False)
class Crossings(Result):
    """Crossings (k) of two members at a node each.

    Parameters
    ----------
    node, over, under : (k,) the node and the members: of the two the one farther out along the
        node's normal is over the other
    entry : (k, 2) where the one over and the one under pass the node, in the structure's path
    ways, ups : (k, 2, 3) unit directions of their axes and of their heights there
    normal : (k, 3) unit direction square to both axes, from the one under to the one over
    high : (k, 2) how far their sections reach along that, from side to side, in metres
    angle : (k,) between their axes, in radians
    apart : (k,) distance of their axes, in metres
    clear : (k,) between their sides, in metres: what a block fills, and below 0 what notches take
    area : (k,) in square metres, over which they cover each other
    """

    node: Index
    over: Index
    under: Index
    entry: Index
    ways: Array
    ups: Array
    normal: Array
    high: Array
    angle: Array
    apart: Array
    clear: Array
    area: Array

    @property
    def kind(self) -> NDArray[np.str_]:
        """What there is at each: ``contact``, ``notch`` or ``block``."""
        where = [self.clear < -TOUCHING, self.clear > TOUCHING]
        return np.select(where, ["notch", "block"], "contact")


@remembered
def crossings_of(structure: Structure) -> Crossings:
    """All crossings of members at least one of which runs on there, in the order of their nodes."""
    ways = _ways(structure)
    entry, normal, apart = _on_levels(structure, ways)
    ups = _square_to(structure.up_of_entry[entry], ways[entry])
    extents = [
        _extents(structure, entry[:, k], ways[entry[:, k]], ups[:, k], normal) for k in (0, 1)
    ]
    high = np.column_stack([high for high, _ in extents])
    member = structure.member_of_entry[entry].astype(np.int64)
    sine = np.linalg.norm(np.cross(ways[entry[:, 0]], ways[entry[:, 1]]), axis=1)
    return Crossings(
        node=structure.path[entry[:, 0]].astype(np.int64),
        over=member[:, 0],
        under=member[:, 1],
        entry=entry.astype(np.int64),
        ways=ways[entry],
        ups=ups,
        normal=normal,
        high=high,
        angle=np.arcsin(np.clip(sine, 0, 1)),
        apart=apart,
        clear=apart - high.sum(axis=1) / 2,
        area=extents[0][1] * extents[1][1] / sine,
    )


def _on_levels(structure: Structure, ways: Array) -> tuple[Index, Array, Array]:
    """Entries (k, 2) of members that pass each other on levels, the one over first; the unit
    direction (k, 3) square to both, outward as their node's; and how far (k,) apart they are."""
    one, other = _passing(structure)
    across = np.cross(ways[one], ways[other])
    outward = structure.normals[structure.path[one]]
    normal = unit(across)
    normal *= np.where(np.einsum("ij,ij->i", normal, outward) < 0, -1.0, 1.0)[:, None]
    apart = np.einsum("ij,ij->i", structure.offset[other] - structure.offset[one], normal)
    crosses = (np.linalg.norm(across, axis=1) > PARALLEL) & (np.abs(apart) > ON_LEVELS)
    is_upper = (apart > 0)[:, None]
    entry = np.where(is_upper, np.column_stack([other, one]), np.column_stack([one, other]))
    return entry[crosses], normal[crosses], np.abs(apart[crosses])


def _passing(structure: Structure) -> tuple[Index, Index]:
    """Entries (k,), (k,) of two members at a node each, one of which runs on there."""
    inner = np.ones(len(structure.path), bool)
    inner[structure.offsets[:-1]] = inner[structure.offsets[1:] - 1] = False
    one, other = _pairs(structure)
    member = structure.member_of_entry
    passes = (inner[one] | inner[other]) & (member[one] != member[other])
    return one[passes], other[passes]


def _pairs(structure: Structure) -> tuple[Index, Index]:
    """Entries (k,), (k,) two by two that are at one node, node after node."""
    order = np.argsort(structure.path, kind="stable")
    node = structure.path[order]
    firsts, seconds = [], []
    for step in range(1, int(np.bincount(node).max(initial=0))):
        same = np.flatnonzero(node[:-step] == node[step:])
        firsts.append(order[same])
        seconds.append(order[same + step])
    if not firsts:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    one, other = np.concatenate(firsts), np.concatenate(seconds)
    by_node = np.lexsort((other, one, structure.path[one]))
    return one[by_node], other[by_node]


def _ways(structure: Structure) -> Array:
    """Unit directions (P, 3) of axes at their entries; where one bends, half-way."""
    leaving, arriving = tangents(structure.chords, structure.bulge)
    out = np.zeros((len(structure.path), 3))
    out[structure.first_entry] += leaving
    out[structure.first_entry + 1] += arriving
    return unit(out)


def _square_to(ups: Array, ways: Array) -> Array:
    """Unit directions (…, 3) of what of ``ups`` is square to ``ways``."""
    return unit(ups - np.sum(ups * ways, axis=-1, keepdims=True) * ways)


def _extents(
    structure: Structure, entry: Index, ways: Array, up: Array, normal: Array
) -> tuple[Array, Array]:
    """How far sections reach along a ``normal`` (k, 3) and across it, in metres."""
    shapes = [s.shape for s in structure.sections]
    which = structure.section_of[structure.member_of_entry[entry]]
    height = np.array([s.height for s in shapes])[which] * structure.scale[entry]
    width = np.array([s.width for s in shapes])[which] * structure.scale[entry]
    is_round = np.array([s.round for s in shapes])[which]
    cosine = np.abs(np.einsum("ij,ij->i", up, normal))
    sine = np.sqrt(np.maximum(1 - cosine**2, 0.0))
    high = np.where(is_round, height, height * cosine + width * sine)
    broad = np.where(is_round, height, width * cosine + height * sine)
    return high, broad
