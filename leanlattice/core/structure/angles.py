"""Angles at nodes: where ways leave them, how steeply, and how the sections are turned."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import tangents
from .structure import Structure

__all__ = ["NodeAngles", "node_angles", "rolls"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
STEEP = 1e-3
"""What is so much of a unit direction off a normal lies along it."""


@dataclass(frozen=True, eq=False)
class NodeAngles:
    """Angles in radians of all ways (W) that leave nodes, node after node and counter-clockwise:
    one of each end of a member, two of each passage.

    ``plan`` is counted in the plane square to the node's normal, counter-clockwise seen from
    outside, from the node's first way; ``elevation`` from that plane up; ``twist`` from the node's
    normal to the section's height, right-handed about the way as it leaves. A way that leaves
    along the normal has the plan angle 0, is first only where all do, and its twist is counted
    from the first way.
    """

    node: Index
    member: Index
    plan: Array
    elevation: Array
    twist: Array


def node_angles(structure: Structure, rank: Index) -> NodeAngles:
    """Angles of all ways; each node's first is of its member of the least ``rank`` (M,), and of a
    passage the way onward."""
    node, member, away, up = _ways(structure)
    normal = structure.normals[node]
    height = np.einsum("ij,ij->i", away, normal)
    flat = away - height[:, None] * normal
    aside_of = np.linalg.norm(flat, axis=1)
    is_steep = aside_of < STEEP
    order = np.lexsort((np.arange(len(node)), rank[member], is_steep, node))
    _, leads = np.unique(node[order], return_index=True)
    first = np.zeros(len(structure.places), np.int64)
    first[node[order[leads]]] = order[leads]
    zero = flat[first[node]]
    plan = np.where(is_steep, 0.0, _turn(zero, flat, normal))
    plan = np.where(plan < -1e-12, plan + 2 * np.pi, np.maximum(plan, 0.0))
    level = normal - height[:, None] * away
    # Where all leave along the normal there is nothing to count from.
    aside = np.where(is_steep[first[node]][:, None], up, zero)
    twist = _turn(np.where(is_steep[:, None], aside, level), up, away)
    elevation = np.arctan2(height, aside_of)
    order = np.lexsort((is_steep, plan, node))
    return NodeAngles(node[order], member[order], plan[order], elevation[order], twist[order])


def _ways(structure: Structure) -> tuple[Index, Index, Array, Array]:
    """Nodes and members (2 S,) of ways, the unit directions (2 S, 3) in which they leave and of the
    sections' heights: those at the starts of all segments, and those at their ends."""
    start = structure.first_entry
    node = np.concatenate([structure.path[start], structure.path[start + 1]])
    leaving, arriving = tangents(structure.chords, structure.bulge)
    away = np.concatenate([leaving, -arriving])
    return node, np.tile(structure.member_of_segment, 2), away, np.tile(structure.up, (2, 1))


def _turn(start: Array, end: Array, axis: Array) -> Array:
    """Angles (n,) from ``start`` to ``end``, right-handed about unit axes."""
    sine = np.einsum("ij,ij->i", np.cross(start, end), axis)
    return np.arctan2(sine, np.einsum("ij,ij->i", start, end))


def rolls(structure: Structure) -> Array:
    """Angles (M,) in radians at the starts of members, right-handed about the axis, from the
    upright plane through it to the section's height; of an upright member from the x direction."""
    first = structure.first_segment
    axis = tangents(structure.chords[first], structure.bulge[first])[0]
    upright = np.abs(axis[:, 2]) > 1 - 1e-9
    zero = np.where(upright[:, None], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
    zero = zero - np.einsum("ij,ij->i", zero, axis)[:, None] * axis
    return _turn(zero, structure.up[first], axis)
