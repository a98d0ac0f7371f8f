"""Bodies at nodes: how large they are, how far they hold members back, and their solids."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.prisms import prism
from ..materials import MATERIALS
from .arms import PASSAGE, Arms, arms_of, sizes_of
from .meetings import MEETINGS, Meeting, meeting_number
from .structure import Structure

__all__ = [
    "Bodies",
    "body_axes",
    "body_masses",
    "body_outlines",
    "body_solids",
    "fitted_bodies",
    "missed_bodies",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

WIDEST = 1.1547
"""Of a plate's radius, where its corners are cut round: those of a hexagon stay."""
SEGMENTS = 24
STEEP = float(np.sin(np.radians(60.0)))
"""Sine of the elevation above which a member stands on its body rather than beside it."""
LEVEL = 1e-9
"""Least cosine or sine that is divided by."""
ENDLESS = 1e6
"""Metres; the height of a body with nothing above it."""
LOWEST = 0.01
"""Metres; no hub is lower."""
MISSED = 1e-4
"""Metres by which a body may be too small for its members and still counts as large enough."""
BALL, PLATE = meeting_number("ball"), meeting_number("plate")


@dataclass(frozen=True, eq=False)
class _Ends:
    """Ends (n,) of members as bodies see them: their ``node``, ``member`` and ``end``.

    Their axes lie ``along`` themselves, ``outward`` across the normal and ``high`` along it from
    the middle of the body. ``rise`` and ``flat`` are sine and cosine of their elevations, and
    ``reach`` is how far their sections reach across the axis in the upright plane through it. All
    (n,), lengths in metres.
    """

    node: Index
    member: Index
    end: Index
    along: Array
    outward: Array
    high: Array
    rise: Array
    flat: Array
    reach: Array

    @classmethod
    def of(cls, structure: Structure, arms: Arms) -> _Ends:
        ends = np.flatnonzero(arms.end != PASSAGE)
        node, away = arms.node[ends], arms.away[ends]
        normal = structure.normals[node]
        off = arms.offset[ends] + (structure.places - structure.body_middles)[node]
        rise = _dots(away, normal)
        flat = np.sqrt(np.maximum(1 - rise**2, 0.0))
        # The upright direction across the axis, and the level one along it.
        upright = _units(normal - rise[:, None] * away)
        level = _units(away - rise[:, None] * normal)
        half, is_round = (sizes[ends] for sizes in sizes_of(structure, arms))
        wide = np.abs(_dots(upright, arms.side[ends])) * half[:, 0]
        tall = np.abs(_dots(upright, arms.up[ends])) * half[:, 1]
        return cls(
            node=node,
            member=arms.member[ends],
            end=arms.end[ends],
            along=_dots(off, away),
            outward=_dots(off, level),
            high=_dots(off, normal),
            rise=rise,
            flat=flat,
            reach=np.where(is_round, half[:, 1], wide + tall),
        )

    def radii(self, back: Array, meeting: Meeting) -> Array:
        """The radius (n,) of a body that ends set ``back`` (n,) by so much touch."""
        if meeting.way == "ball":
            return back + self.along
        whole = back * self.flat + self.outward - self.reach * np.abs(self.rise)
        if meeting.way == "hub":
            return whole
        over = np.abs(self.rise) * self._above(meeting.thickness)
        return np.maximum(whole, (back - over) / np.maximum(self.flat, LEVEL) + self.outward)

    def stops(self, radius: Array, height: Array) -> Array:
        """Set-backs (n,) that are clear of round bodies of a ``radius`` and ``height`` (n,): of
        their sides as far as sections reach, of their sides as far as they are high, or of what
        they turn to members that stand on them."""
        steep, flat = np.abs(self.rise), np.maximum(self.flat, LEVEL)
        side = (radius - self.outward + self.reach * steep) / flat
        rim = (radius - self.outward) * flat + steep * self._above(height)
        face = (self._above(height) + self.reach * flat) / np.maximum(steep, LEVEL)
        return np.asarray(np.maximum(np.minimum.reduce([side, rim, face]), 0.0))

    def _above(self, height: Array | float) -> Array:
        """From axes (n,) to the face of a body of a ``height`` that they rise towards."""
        return np.asarray(height / 2 - np.sign(self.rise) * self.high)

    def heights(self, stop: Array) -> Array:
        """Heights (n,) of bodies that cover ends which stop so far from the middle; 0 for steep
        ones, which stand on them."""
        top = np.abs(self.high + stop * self.rise) + self.reach * self.flat
        return np.where(np.abs(self.rise) > STEEP, 0.0, 2 * top)


@dataclass(frozen=True, eq=False)
class Bodies:
    """Bodies that fit a structure: ``radius`` and ``height`` (N,) in metres, 0 where there is
    none, and the ``set_back`` (M, 2) of members held back for them."""

    radius: Array
    height: Array
    set_back: Array


def fitted_bodies(structure: Structure, arms: Arms, clear: Array, meeting: Meeting) -> Bodies:
    """Bodies at all nodes at which two or more members end and none passes.

    An end that leaves at an elevation e, whose section reaches h across its axis in the upright
    plane of the node's normal, is clear of a round body of radius r and height H where it stops
    (r + h |sin e|) / cos e from its middle, r cos e + H |sin e| / 2 or (H / 2 + h cos e) / |sin e|,
    whichever is least; of a ball where it stops r from it.

    Parameters
    ----------
    clear : (M, 2) set-backs in metres at which members are clear of each other
    meeting : one that has bodies
    """
    ends, nodes = _Ends.of(structure, arms), len(structure.places)
    passes = np.bincount(arms.node, arms.end == PASSAGE, minlength=nodes) > 0
    has = (np.bincount(ends.node, minlength=nodes) > 1) & ~passes
    back = clear[ends.member, ends.end]
    is_ball = meeting.way == "ball"
    radius = np.where(has, _radii(ends, back, meeting, has), 0.0)
    if is_ball:
        height, stop = 2 * radius, radius[ends.node] - ends.along
    else:
        height = np.full(nodes, meeting.thickness)
        if meeting.way == "hub":
            side = ends.stops(radius[ends.node], np.full(len(ends.node), ENDLESS))
            height = np.full(nodes, LOWEST)
            np.maximum.at(height, ends.node, ends.heights(side))
        height = np.where(has, height, 0.0)
        stop = ends.stops(radius[ends.node], height[ends.node])
    here = has[ends.node]
    set_back = clear.copy()
    set_back[ends.member[here], ends.end[here]] = np.maximum(back, stop)[here]
    return Bodies(radius, height, set_back)


def _radii(ends: _Ends, back: Array, meeting: Meeting, has: NDArray[np.bool_]) -> Array:
    """Radii (N,) as a meeting asks for them, of members that are clear of each other when they are
    set ``back`` by so much."""
    needed = np.zeros(len(has))
    np.maximum.at(needed, ends.node, ends.radii(back, meeting))
    if meeting.sizes == "fixed":
        return np.full(len(has), meeting.radius)
    if meeting.sizes == "alike":
        return np.full(len(has), max(needed[has].max(initial=0.0), meeting.radius))
    return np.maximum(needed, meeting.radius)


def missed_bodies(structure: Structure, first: int = 0) -> tuple[Index, float]:
    """Nodes (n,), from the ``first`` on, whose bodies some member does not reach, as it has to stop
    before for others; and the radius in metres that would reach them all."""
    ends = _Ends.of(structure, arms_of(structure, joined=True))
    back = structure.set_back[ends.member, ends.end]
    radii = np.zeros(len(back))
    for number in np.unique(structure.meeting[structure.radius > 0]).tolist():
        mine = structure.meeting[ends.node] == number
        thickness = float(structure.height[structure.meeting == number].max())
        meeting = Meeting(MEETINGS[number], thickness=thickness)
        radii[mine] = ends.radii(back, meeting)[mine]
    has = (structure.radius[ends.node] > 0) & (ends.node >= first)
    missed = has & (radii > structure.radius[ends.node] + MISSED)
    nodes = np.unique(ends.node[missed]).astype(np.int32)
    return nodes, float(radii[missed].max(initial=0.0))


def body_masses(structure: Structure) -> Array:
    """Masses (N,) in kg of solid bodies; 0 where there is none."""
    round_body = np.pi * structure.radius**2 * structure.height
    volume = np.where(structure.meeting == BALL, 4 / 3 * np.pi * structure.radius**3, round_body)
    nodes = np.flatnonzero((structure.radius > 0) & (structure.meeting == PLATE))
    for node, ring in body_outlines(structure, nodes).items():
        volume[node] = shapely.Polygon(ring).area * structure.height[node]
    density = [MATERIALS[rule.material].density for rule in structure.rules]
    return np.asarray(volume * np.array(density)[structure.rule])


def _dots(a: Array, b: Array) -> Array:
    return np.asarray(np.einsum("ij,ij->i", a, b))


def _units(vectors: Array) -> Array:
    return np.asarray(vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-9))


def body_axes(normal: Array) -> Array:
    """Axes (3, 3; rows x, y, z) of a body: z along the ``normal`` (3,) of its node."""
    least = np.eye(3)[int(np.argmin(np.abs(normal)))]
    x = np.cross(least, normal)
    x /= np.linalg.norm(x)
    return np.stack([x, np.cross(normal, x), normal])


def _plate_outline(radius: float, outward: Array) -> Array:
    """Outline (n, 2) of a plate with a straight side square to each unit direction ``outward``
    (k, 2), ``radius`` from its middle, and round beyond; counter-clockwise."""
    widest = radius * WIDEST
    plate: shapely.Geometry = shapely.Point(0, 0).buffer(widest, quad_segs=SEGMENTS // 4)
    # Squares as large as four times the plate, moved so that a side is where they end.
    square = 2 * widest * np.array([[-2.0, -1.0], [0.0, -1.0], [0.0, 1.0], [-2.0, 1.0]])
    for x, y in outward:
        turned = (square + [radius, 0.0]) @ np.array([[x, y], [-y, x]])
        plate = shapely.intersection(plate, shapely.Polygon(turned))
    return np.asarray(shapely.get_coordinates(shapely.orient_polygons(plate)))[:-1]


def body_outlines(structure: Structure, nodes: NDArray[np.integer]) -> dict[int, Array]:
    """Outlines of the plates at ``nodes``, in their axes."""
    if not len(nodes):
        return {}
    found: dict[int, list[Array]] = {int(n): [] for n in nodes}
    frames = structure.end_frames[0].reshape(-1, 3)
    for node, way in zip(structure.ends.ravel().tolist(), frames, strict=True):
        if node in found:
            found[node].append(way)
    out = {}
    for node, ways in found.items():
        flat = np.array(ways) @ body_axes(structure.normals[node])[:2].T
        flat /= np.maximum(np.linalg.norm(flat, axis=1, keepdims=True), 1e-9)
        out[node] = _plate_outline(float(structure.radius[node]), flat)
    return out


def body_solids(structure: Structure) -> Iterator[tuple[int, Array, Index]]:
    """Node, vertices (n, 3) in metres and triangles (m, 3) of each body; closed, normals outward,
    as large as the body itself."""
    import trimesh

    nodes = np.flatnonzero(structure.radius > 0)
    middles = structure.body_middles
    plates = body_outlines(structure, nodes[structure.meeting[nodes] == PLATE])
    turn = 2 * np.pi / SEGMENTS
    circle = turn * np.arange(SEGMENTS)
    circle = np.column_stack([np.cos(circle), np.sin(circle)]) * np.sqrt(turn / np.sin(turn))
    ball = trimesh.creation.icosphere(subdivisions=2)
    sphere = np.asarray(ball.vertices) * (4 * np.pi / 3 / ball.volume) ** (1 / 3)
    faces = np.asarray(ball.faces, np.int32)
    for n in nodes.tolist():
        radius, axes = float(structure.radius[n]), body_axes(structure.normals[n])
        if structure.meeting[n] == BALL:
            yield n, middles[n] + radius * sphere, faces
            continue
        ring = plates[n] if n in plates else radius * circle
        low = middles[n] - structure.height[n] / 2 * axes[2]
        yield n, *prism(ring @ axes[:2] + low, axes[2], float(structure.height[n]))
