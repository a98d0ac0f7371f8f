"""The frame: members along the edges of a net, with sections, roll, set-out line and set-backs at the nodes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from .sections import Section

__all__ = ["SET_OUT", "Frame", "frame_net", "node_angles", "set_backs"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

SET_OUT = {"top": -0.5, "centre": 0.0, "bottom": 0.5}
"""Where the section's middle lies above the set-out line, in section heights."""


@dataclass(frozen=True, eq=False)
class Frame:
    """Members (M) along the edges of ``net`` in the order of its edges; lengths in metres.

    ``sections`` holds the different sections and ``section_of`` (M,) the one of each member. ``axis`` (M, 3) points
    from the lower node to the higher, ``up`` (M, 3) along the section's height, ``side`` (M, 3) along its width
    (side × up = axis). ``lift`` (M,) is how far the section's middle lies above the net along ``up``.
    ``set_back`` (M, 2) is how far a member stops short of its two nodes.
    """

    net: Net
    sections: tuple[Section, ...]
    section_of: Index
    axis: Array
    up: Array
    lift: Array
    set_back: Array

    @property
    def members(self) -> Index:
        """End nodes (M, 2)."""
        return self.net.edges

    @property
    def lengths(self) -> Array:
        """Node to node (M,)."""
        return self.net.edge_lengths

    @cached_property
    def side(self) -> Array:
        return np.cross(self.up, self.axis)

    @cached_property
    def cut_lengths(self) -> Array:
        """Between the two ends (M,); not above 0 where the set-backs leave nothing."""
        return self.lengths - self.set_back.sum(axis=1)

    @cached_property
    def masses(self) -> Array:
        """Mass (M,) in kg of the cut lengths."""
        per_metre = np.array([s.mass for s in self.sections])[self.section_of]
        return per_metre * np.maximum(self.cut_lengths, 0.0)

    @cached_property
    def node_set_back(self) -> Array:
        """Largest set-back (V,) of the members at a node."""
        out = np.zeros(len(self.net.vertices))
        np.maximum.at(out, self.members.ravel(), self.set_back.ravel())
        return out

    @cached_property
    def rolls(self) -> Array:
        """Angle (M,) in radians, right-handed about the axis, from the upright plane through it to the height.

        For a vertical member the reference is the x direction.
        """
        upright = np.abs(self.axis[:, 2]) > 1 - 1e-9
        ref = np.where(upright[:, None], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
        ref = ref - np.einsum("ij,ij->i", ref, self.axis)[:, None] * self.axis
        ref /= np.linalg.norm(ref, axis=1, keepdims=True)
        sine = np.einsum("ij,ij->i", np.cross(ref, self.up), self.axis)
        return np.arctan2(sine, np.einsum("ij,ij->i", ref, self.up))


def frame_net(
    net: Net, inner: Section, border: Section, set_out: str, roll: float, gap: float, marked: tuple[Section, ...] = ()
) -> Frame:
    """Frame with one section for inner edges and one for the border, and for edges marked as ``MARKS[1]`` and so on
    those of ``marked``.

    The section's height follows the shape's normal, turned by ``roll`` (rad) about the axis. ``set_out`` names an
    entry of ``SET_OUT``; ``gap`` (m) is what stays free between the members at a node.
    """
    a, b = net.edges.T
    axis = (net.vertices[b] - net.vertices[a]) / net.edge_lengths[:, None]
    normal = net.normals[a] + net.normals[b]
    up = normal - np.einsum("ij,ij->i", normal, axis)[:, None] * axis
    size = np.linalg.norm(up, axis=1, keepdims=True)
    if np.any(size < 1e-9):  # the shape's normals cancel, as across a fold: any upright direction will do
        fallback = np.where(np.abs(axis[:, 2:]) < 0.9, [0.0, 0.0, 1.0], [1.0, 0.0, 0.0])
        fallback = fallback - np.einsum("ij,ij->i", fallback, axis)[:, None] * axis
        up = np.where(size < 1e-9, fallback, up)
        size = np.linalg.norm(up, axis=1, keepdims=True)
    up /= size
    if roll:
        up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    wanted = (inner, border, *marked)
    sections = tuple(dict.fromkeys(wanted))
    which = net.border.astype(np.int32)
    if net.marks is not None and marked:
        which = np.where(net.marks > 0, np.minimum(net.marks, len(marked)) + 1, which)
    section_of = np.array([sections.index(s) for s in wanted], np.int32)[which]
    used = np.unique(section_of)
    sections, section_of = tuple(sections[k] for k in used), np.searchsorted(used, section_of).astype(np.int32)
    heights = np.array([s.height for s in sections])[section_of]
    frame = Frame(net, sections, section_of, axis, up, SET_OUT[set_out] * heights, np.zeros((len(axis), 2)))
    return Frame(net, sections, section_of, axis, up, frame.lift, set_backs(frame, gap))


def set_backs(frame: Frame, gap: float) -> Array:
    """Set-backs (M, 2) in metres at which no two members meet at a node, with ``gap`` (m) between them.

    Of two members at an angle θ, each stays on its side of a plane through the node if it starts at s with
    atan(r₁/s) + atan(r₂/s) ≤ θ, where rᵢ is how far its section reaches towards the other across its own axis.
    The equality is a quadratic in s, s² − s (r₁ + r₂) cot θ − r₁r₂ = 0; each member takes the largest of its pairs.
    """
    ends = frame.members.T.ravel()
    count = len(frame.members)
    away = np.concatenate([frame.axis, -frame.axis])
    order = np.argsort(ends, kind="stable")
    valence = np.bincount(ends, minlength=len(frame.net.vertices))
    start = np.concatenate([[0], np.cumsum(valence)])[:-1]
    out = np.zeros(2 * count)
    for v in np.unique(valence[valence >= 2]):
        at = order[start[valence == v][:, None] + np.arange(v)]
        one, two = np.triu_indices(v, 1)
        i, j = at[:, one].ravel(), at[:, two].ravel()
        cosine = np.clip(np.einsum("ij,ij->i", away[i], away[j]), -1.0, 1.0)[:, None]
        sine = np.maximum(np.sqrt(1 - cosine**2), 1e-6)
        reach_i = _reach(frame, i % count, (away[j] - cosine * away[i]) / sine) + gap / 2
        reach_j = _reach(frame, j % count, (away[i] - cosine * away[j]) / sine) + gap / 2
        half = (reach_i + reach_j) * (cosine / sine)[:, 0] / 2
        s = half + np.sqrt(half**2 + reach_i * reach_j)
        np.maximum.at(out, i, s)
        np.maximum.at(out, j, s)
    return out.reshape(2, count).T


def _reach(frame: Frame, member: Index, towards: Array) -> Array:
    """How far the section of each ``member`` (n,) reaches from the set-out line in the unit direction ``towards``."""
    which = frame.section_of[member]
    half_height = np.array([s.height / 2 for s in frame.sections])[which]
    half_width = np.array([s.width / 2 for s in frame.sections])[which]
    is_round = np.array([s.round for s in frame.sections])[which]
    along_up = np.einsum("ij,ij->i", towards, frame.up[member])
    along_side = np.einsum("ij,ij->i", towards, frame.side[member])
    half = np.where(is_round, half_height, np.abs(along_up) * half_height + np.abs(along_side) * half_width)
    return np.maximum(half + along_up * frame.lift[member], 0.0)


def node_angles(frame: Frame, first: Index) -> tuple[Index, Index, Array]:
    """Nodes (2M,), members (2M,) and angles (2M, 3) in radians at every member end, node after node.

    Plan angle: in the plane square to the node's normal, counter-clockwise seen from outside from the node's member
    that is ``first`` (V,). Elevation: above that plane. Twist: from the node's normal to the section's height,
    right-handed about the member as seen leaving the node.
    """
    count = len(frame.members)
    node = frame.members.T.ravel()
    member = np.tile(np.arange(count, dtype=np.int32), 2)
    away = np.concatenate([frame.axis, -frame.axis])
    normal = frame.net.normals[node]
    height = np.einsum("ij,ij->i", away, normal)
    flat = away - height[:, None] * normal
    lead = np.where(frame.members[first, 0] == np.arange(len(first)), 1.0, -1.0)[:, None] * frame.axis[first]
    ref = lead[node] - np.einsum("ij,ij->i", lead[node], normal)[:, None] * normal
    plan = np.arctan2(np.einsum("ij,ij->i", np.cross(ref, flat), normal), np.einsum("ij,ij->i", ref, flat))
    plan = np.where(plan < -1e-12, plan + 2 * np.pi, np.maximum(plan, 0.0))
    level = normal - height[:, None] * away
    up = frame.up[member]
    twist = np.arctan2(np.einsum("ij,ij->i", np.cross(level, up), away), np.einsum("ij,ij->i", level, up))
    angles = np.column_stack([plan, np.arcsin(np.clip(height, -1, 1)), twist])
    order = np.lexsort((plan, node))
    return node[order], member[order], angles[order]
