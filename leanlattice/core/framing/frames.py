"""The frame: members along the edges of a net, with sections, roll, set-out line and set-backs at
the nodes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..geometry.polygons import vector_areas
from ..results import Result, result_type
from ..sections import Section

__all__ = [
    "SET_OUT",
    "Frame",
    "clear_start",
    "frame_net",
    "node_angles",
    "normals_beside",
    "set_backs",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

SET_OUT = {"top": -0.5, "centre": 0.0, "bottom": 0.5}
"""Where the section's middle lies above the set-out line, in section heights."""


@result_type("Frame", "frame", "member", "node", covers=("Net", "Shape", "Curves"))
@dataclass(frozen=True, eq=False)
class Frame(Result):
    """Members (M) along the edges of ``net`` in the order of its edges; lengths in metres.

    ``sections`` holds the different sections and ``section_of`` (M,) the one of each member.
    ``axis`` (M, 3) points from the lower node to the higher, ``up`` (M, 3) along the section's
    height, ``side`` (M, 3) along its width (side × up = axis). ``lift`` (M,) is how far the
    section's middle lies above the net along ``up``. ``set_back`` (M, 2) is how far a member stops
    short of its two nodes. ``net_key`` is the key of the net, by which panels on it are known.
    """

    net: Net
    sections: tuple[Section, ...]
    section_of: Index
    axis: Array
    up: Array
    lift: Array
    set_back: Array
    net_key: str = ""

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
    a, b = net.edges.T
    axis = (net.vertices[b] - net.vertices[a]) / net.edge_lengths[:, None]
    up = _square_to(axis, normals_beside(net), net.normals[a] + net.normals[b], _upright(axis))
    if roll:
        up = np.cos(roll) * up + np.sin(roll) * np.cross(axis, up)
    wanted = (inner, border, *marked)
    sections = tuple(dict.fromkeys(wanted))
    which = net.border.astype(np.int32)
    if net.marks is not None and marked:
        which = np.where(net.marks > 0, np.minimum(net.marks, len(marked)) + 1, which)
    section_of = np.array([sections.index(s) for s in wanted], np.int32)[which]
    used = np.unique(section_of)
    sections, section_of = (
        tuple(sections[k] for k in used),
        np.searchsorted(used, section_of).astype(np.int32),
    )
    heights = np.array([s.shape.height for s in sections])[section_of]
    frame = Frame(
        net, sections, section_of, axis, up, SET_OUT[set_out] * heights, np.zeros((len(axis), 2))
    )
    return Frame(net, sections, section_of, axis, up, frame.lift, set_backs(frame, gap))


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
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-300)
    before = np.empty_like(side)
    before[following] = side
    at_corner = np.cross(before, side)
    facing = np.einsum("ij,ij->i", at_corner, mean[owner])
    at_corner = np.where(facing[:, None] < 0, -at_corner, at_corner)
    at_side = at_corner + at_corner[following]
    size = np.linalg.norm(at_side, axis=1, keepdims=True)
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-300)
    at_side = np.where(size > 1e-9, at_side / np.maximum(size, 1e-300), mean[owner])
    out = np.zeros((len(net.edges), 3))
    np.add.at(out, net.sides, at_side)
    return out


def _upright(axis: Array) -> Array:
    """A direction (M, 3) for each axis, upright where that is not along it."""
    return np.where(np.abs(axis[:, 2:]) < 0.9, [0.0, 0.0, 1.0], [1.0, 0.0, 0.0])


def _square_to(axis: Array, *wanted: Array) -> Array:
    """Unit directions (M, 3) square to each axis: of those ``wanted`` the first that is not along
    it."""
    out = np.zeros_like(axis)
    left = np.ones(len(axis), bool)
    for direction in wanted:
        square = direction - np.einsum("ij,ij->i", direction, axis)[:, None] * axis
        size = np.linalg.norm(square, axis=1)
        good = left & (size > 1e-9)
        out[good] = square[good] / size[good, None]
        left &= ~good
    return out


def set_backs(frame: Frame, gap: float) -> Array:
    """Set-backs (M, 2) in metres that keep any two members at a node at least ``gap`` (m) apart.

    Each pair is looked at in the plane of its axes, where members are as wide as their sections
    reach; each member takes the largest set-back of its pairs.
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
        cosine = np.clip(np.einsum("ij,ij->i", away[i], away[j]), -1.0, 1.0)
        sine = np.maximum(np.sqrt(1 - cosine**2), 1e-6)
        towards_j = (away[j] - cosine[:, None] * away[i]) / sine[:, None]
        towards_i = (away[i] - cosine[:, None] * away[j]) / sine[:, None]
        near = _reach(frame, i % count, towards_j), _reach(frame, j % count, towards_i)
        far = _reach(frame, i % count, -towards_j), _reach(frame, j % count, -towards_i)
        needed = clear_start(cosine, sine, near, far, gap)
        np.maximum.at(out, i, needed)
        np.maximum.at(out, j, needed)
    return out.reshape(2, count).T


def clear_start(
    cosine: Array, sine: Array, near: tuple[Array, Array], far: tuple[Array, Array], gap: float
) -> Array:
    """The least distance (n,) from the node at which both members of each pair can start, whose
    axes meet at angles of that ``cosine`` (n,) and ``sine`` (n,).

    In the plane of the axes a member is the strip from −``far`` to ``near`` across its axis,
    ``near`` towards the other, cut off square at s; both are given for the first and the second of
    each pair. Two convex figures are ``gap`` apart if a strip
    so wide lies between them, and the best strip is square to the line between their nearest
    corners or lies along a side of one. Of what each such strip asks of s the least is enough:

    - along the end of the second: s (1 − cos θ) = gap + r₁ sin θ, for angles of 90° and more;
    - along the side of the second: s sin θ = gap + r₂ + r₁ cos θ, and for angles above 90°, where
      the other corner of the first is nearer, s sin θ = gap + r₂ − f₁ cos θ;
    - between the corners: |s (a₁ − a₂) + r₁ t₁ − r₂ t₂| = gap, where the line between them leaves
      both corners outwards.
    """
    options = []
    for r1, f1, r2 in ((near[0], far[0], near[1]), (near[1], far[1], near[0])):
        along_end = (gap + r1 * sine) / (1 - cosine)
        options.append(np.where(cosine <= 0, along_end, np.inf))
        options.append((gap + r2 + np.where(cosine > 0, r1, -f1) * cosine) / sine)
    r1, r2 = near
    across, up = -r2 * sine, r1 + r2 * cosine  # r₁ t₁ − r₂ t₂ in the directions a₁ and t₁
    half = (1 - cosine) * across - sine * up
    square = 2 * (1 - cosine)
    root = half**2 - square * (across**2 + up**2 - gap**2)
    s = (-half + np.sqrt(np.maximum(root, 0.0))) / square
    # From the corner of the first to that of the second, in the directions a₁ and t₁.
    x, y = -(s * (1 - cosine) + across), s * sine - up
    outwards = (x <= 0) & (y >= 0) & (x * cosine + y * sine >= 0) & (x * sine - y * cosine <= 0)
    options.append(np.where((root >= 0) & outwards, s, np.inf))
    return np.maximum(np.minimum.reduce(options), gap / 2)


def _reach(frame: Frame, member: Index, towards: Array) -> Array:
    """How far the section of each ``member`` (n,) reaches from the set-out line in the unit
    direction ``towards``."""
    which = frame.section_of[member]
    along_up = np.einsum("ij,ij->i", towards, frame.up[member])
    along_side = np.einsum("ij,ij->i", towards, frame.side[member])
    across = np.column_stack([along_side, along_up])
    half = np.zeros(len(member))
    for k, section in enumerate(frame.sections):
        rows = which == k
        half[rows] = section.shape.reach(across[rows])
    return np.maximum(half + along_up * frame.lift[member], 0.0)


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
