"""The frame: members along the edges of a net, with sections, roll, set-out line and set-backs at
the nodes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..results import Result, result_type
from ..sections import Section
from ..structure.builders.from_net import from_net
from ..structure.structure import Structure

__all__ = ["Frame", "frame_net", "node_angles"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@result_type("Frame", "frame", "member", "node", covers=("Net", "Shape", "Curves"))
@dataclass(frozen=True, eq=False)
class Frame(Result):
    """A ``structure`` with a member along every edge of a ``net``, in the order of its edges (M).

    ``axis`` (M, 3) points from the lower node to the higher, ``up`` (M, 3) along the section's
    height, ``side`` (M, 3) along its width (side × up = axis). ``lift`` (M,) is how far the
    section's middle lies above the net along ``up``. ``net_key`` is the key of the net, by which
    panels on it are known.
    """

    net: Net
    structure: Structure
    net_key: str = ""

    @property
    def sections(self) -> tuple[Section, ...]:
        """The different sections."""
        return self.structure.sections

    @property
    def section_of(self) -> Index:
        """The section (M,) of each member."""
        return self.structure.section_of

    @property
    def up(self) -> Array:
        return self.structure.up

    @property
    def set_back(self) -> Array:
        """How far (M, 2) a member stops short of its two nodes, in metres."""
        return self.structure.set_back

    @cached_property
    def axis(self) -> Array:
        a, b = self.net.edges.T
        ways = self.net.vertices[b] - self.net.vertices[a]
        return np.asarray(ways / self.net.edge_lengths[:, None])

    @cached_property
    def lift(self) -> Array:
        return np.einsum("ij,ij->i", self.structure.offset[::2], self.up)

    @property
    def members(self) -> Index:
        """End nodes (M, 2)."""
        return self.net.edges

    @property
    def lengths(self) -> Array:
        """Node to node (M,)."""
        return self.structure.lengths

    @cached_property
    def side(self) -> Array:
        return np.cross(self.up, self.axis)

    @property
    def cut_lengths(self) -> Array:
        """Between the two ends (M,); not above 0 where the set-backs leave nothing."""
        return self.structure.cut_lengths

    @property
    def masses(self) -> Array:
        """Mass (M,) in kg of the cut lengths."""
        return self.structure.masses

    @cached_property
    def node_set_back(self) -> Array:
        """Largest set-back (V,) of the members at a node."""
        out = np.zeros(len(self.net.vertices))
        np.maximum.at(out, self.members.ravel(), self.set_back.ravel())
        return out

    @cached_property
    def rolls(self) -> Array:
        """Angle (M,) in radians, right-handed about the axis, from the upright plane through it to
        the height.

        For a vertical member the reference is the x direction.
        """
        upright = np.abs(self.axis[:, 2]) > 1 - 1e-9
        ref = np.where(upright[:, None], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0])
        ref = ref - np.einsum("ij,ij->i", ref, self.axis)[:, None] * self.axis
        ref /= np.linalg.norm(ref, axis=1, keepdims=True)
        sine = np.einsum("ij,ij->i", np.cross(ref, self.up), self.axis)
        return np.arctan2(sine, np.einsum("ij,ij->i", ref, self.up))


def frame_net(
    net: Net,
    inner: Section,
    border: Section,
    set_out: str,
    roll: float,
    gap: float,
    marked: tuple[Section, ...] = (),
) -> Frame:
    """Frame of a ``net`` with section ``inner`` for its inner edges and ``border`` for those at the
    border, and for edges marked as ``MARKS[1]`` and so on those of ``marked``.

    The section's height follows the faces beside each member, turned by ``roll`` (rad) about the
    axis. ``set_out`` names an entry of ``SET_OUT``; ``gap`` (m) is what stays free between the
    members at a node.
    """
    return Frame(net, from_net(net, inner, border, set_out, roll, gap, marked))


def node_angles(frame: Frame, first: Index) -> tuple[Index, Index, Array]:
    """Nodes (2M,), members (2M,) and angles (2M, 3) in radians at every member end, node after
    node.

    Plan angle: in the plane square to the node's normal, counter-clockwise seen from outside from
    the node's member that is ``first`` (V,). Elevation: above that plane. Twist: from the node's
    normal to the section's height, right-handed about the member as seen leaving the node.
    """
    count = len(frame.members)
    node = frame.members.T.ravel()
    member = np.tile(np.arange(count, dtype=np.int32), 2)
    away = np.concatenate([frame.axis, -frame.axis])
    normal = frame.net.normals[node]
    height = np.einsum("ij,ij->i", away, normal)
    flat = away - height[:, None] * normal
    lead = (
        np.where(frame.members[first, 0] == np.arange(len(first)), 1.0, -1.0)[:, None]
        * frame.axis[first]
    )
    ref = lead[node] - np.einsum("ij,ij->i", lead[node], normal)[:, None] * normal
    plan = np.arctan2(
        np.einsum("ij,ij->i", np.cross(ref, flat), normal), np.einsum("ij,ij->i", ref, flat)
    )
    plan = np.where(plan < -1e-12, plan + 2 * np.pi, np.maximum(plan, 0.0))
    level = normal - height[:, None] * away
    up = frame.up[member]
    twist = np.arctan2(
        np.einsum("ij,ij->i", np.cross(level, up), away), np.einsum("ij,ij->i", level, up)
    )
    angles = np.column_stack([plan, np.arcsin(np.clip(height, -1, 1)), twist])
    order = np.lexsort((plan, node))
    return node[order], member[order], angles[order]
