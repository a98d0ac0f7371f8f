"""Faces of steel members as machines see them: each from outside, x along the member to the right
and y up from its lower left corner, in millimetres.

What is round has one face, its skin rolled out: y runs from the middle of the underside over the
front and the top. The front is the side of the section's negative width.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..sections.hollow import RectangularHollow
from ..sections.profiles import Angle, Channel, ISection, Tee
from ..sections.shapes import Shape
from ..sections.solid import Flat
from ..structure.cuts import taken_at
from ..structure.structure import Structure
from .blanks import blanks_of
from .slots import Slots

__all__ = ["Face", "WorkedFace", "faces_of", "worked_faces"]

Array = NDArray[np.float64]
MM = 1000.0
AROUND = 360
"""Places round a skin where what cuts it is looked at."""
STRAIGHT = 0.002
"""Millimetres by which places on an outline may be off the line between others and are left out."""
LEAST = 1e-9
"""Sine of an angle below which an arm lies along a face."""
BETWEEN = 16
"""Steps by which a straight face is looked at, between which two planes may meet."""


@dataclass(frozen=True)
class Face:
    """A face by its ``letter``: of a flat one the place (y, z) on the section where it begins and
    the unit direction in which it goes on; of a skin its ``radius``. ``width`` and all else in
    metres."""

    letter: str
    width: float
    start: tuple[float, float] = (0.0, 0.0)
    way: tuple[float, float] = (0.0, 1.0)
    radius: float = 0.0

    def places(self, along: Array) -> Array:
        """Places (n, 2) on the section so far ``along`` (n,) the face."""
        if not self.radius:
            return np.asarray(np.array(self.start) + along[:, None] * np.array(self.way))
        turn = along / self.radius
        return self.radius * np.column_stack([-np.sin(turn), -np.cos(turn)])

    def looked_at(self) -> Array:
        """So far along it (n,) what cuts it is looked at."""
        return np.linspace(0.0, self.width, (AROUND if self.radius else BETWEEN) + 1)

    def within(self, across: Array, half: float) -> list[tuple[float, float]]:
        """From where to where along it places are at most ``half`` a metre off a line through the
        axis that is square to the unit direction ``across`` (2,) of the section."""
        if self.radius:
            # Where the line leaves the section, first to one side and then to the other.
            leaves = np.arctan2(across[1], -across[0])
            reach = np.arcsin(min(half / self.radius, 1.0))
            turns = [np.pi * k + leaves % np.pi for k in (-1, 0, 1, 2)]
            found = [(self.radius * (t - reach), self.radius * (t + reach)) for t in turns]
        else:
            slope, begins = float(across @ self.way), float(across @ self.start)
            if abs(slope) < LEAST:
                found = [(0.0, self.width)] if abs(begins) < half else []
            else:
                ends = sorted(((-half - begins) / slope, (half - begins) / slope))
                found = [(ends[0], ends[1])]
        cut = [(max(a, 0.0), min(b, self.width)) for a, b in found]
        return [(a, b) for a, b in cut if b > a]

    def met(self, way: Array) -> float | None:
        """How far along it a line from the axis along the unit direction ``way`` (2,) meets it;
        nothing where it does not."""
        if self.radius:
            return float(np.arctan2(-way[0], -way[1]) % (2 * np.pi)) * self.radius
        start, along = np.array(self.start), np.array(self.way)
        # way · s = start + along · t
        turned = way[0] * along[1] - way[1] * along[0]
        if abs(turned) < LEAST:
            return None
        s = (start[0] * along[1] - start[1] * along[0]) / turned
        t = (start[0] * way[1] - start[1] * way[0]) / turned
        return float(t) if s > 0 and 0 <= t <= self.width else None


def _front(y: float, height: float) -> Face:
    return Face("v", height, (y, -height / 2))


def _top(width: float, height: float) -> Face:
    return Face("o", width, (-width / 2, height / 2), (1.0, 0.0))


def _under(width: float, height: float) -> Face:
    return Face("u", width, (width / 2, -height / 2), (-1.0, 0.0))


def _hollow(shape: RectangularHollow) -> list[Face]:
    h, w = shape.height, shape.width
    behind = Face("h", h, (w / 2, h / 2), (0.0, -1.0))
    return [_front(-w / 2, h), _top(w, h), _under(w, h), behind]


def _webbed(shape: ISection) -> list[Face]:
    h, w = shape.height, shape.width
    return [_front(-shape.web / 2, h), _top(w, h), _under(w, h)]


def _channel(shape: Channel) -> list[Face]:
    h, w = shape.height, shape.width
    return [_front(-w / 2, h), _top(w, h), _under(w, h)]


FACES: dict[type[Shape], Callable[..., list[Face]]] = {
    RectangularHollow: _hollow,
    ISection: _webbed,
    Channel: _channel,
    Angle: lambda s: [_front(-s.width / 2, s.height), _under(s.width, s.height)],
    Tee: lambda s: [_front(-s.web / 2, s.height), _top(s.width, s.height)],
    Flat: lambda s: [_front(-s.width / 2, s.height)],
}
"""The faces of flat-sided shapes; the front first."""


def faces_of(shape: Shape) -> list[Face]:
    """The faces of a section; none of what no machine is told of face by face."""
    if shape.round:
        return [Face("v", np.pi * shape.height, radius=shape.height / 2)]
    for family, faces in FACES.items():
        if isinstance(shape, family):
            return faces(shape)
    return []


@dataclass(frozen=True)
class WorkedFace:
    """A ``face`` as it is cut: the ``rings`` (n, 2) round what is left of it, in millimetres and
    counter-clockwise, and ``holes`` (k, 3) by their middles and diameters."""

    face: Face
    rings: tuple[Array, ...]
    holes: Array


def worked_faces(structure: Structure, member: int, slots: Slots) -> list[WorkedFace]:
    """The faces of a member as its cuts and what enters it leave them."""
    shape = structure.sections[structure.section_of[member]].shape
    length = float(blanks_of(structure).lengths[member])
    out = []
    for face in faces_of(shape):
        rows = [(slots.of_end(member, end), length * end) for end in (0, 1)]
        cut = [_slot(face, slots, k, at) for k, at in rows if k >= 0 and slots.is_cut[k]]
        outline = shapely.Polygon(_outline(structure, member, face))
        left = shapely.difference(outline, shapely.union_all(cut))
        holes = [hole for end in (0, 1) for hole in _holes(face, slots, member, end, length)]
        parts = shapely.get_parts(left).tolist()
        rings = [_ring(part) for part in parts if part.area > STRAIGHT]
        out.append(WorkedFace(face, tuple(rings), np.array(holes).reshape(-1, 3)))
    return out


def _outline(structure: Structure, member: int, face: Face) -> Array:
    """Outline (n, 2) in millimetres of a face between its member's cuts."""
    starts = _edge(structure, member, 0, face)
    ends = _edge(structure, member, 1, face)
    return np.vstack([ends, starts[::-1]]) * MM


def _edge(structure: Structure, member: int, end: int, face: Face) -> Array:
    """Where (n, 2) along the member cuts end a face, and how far along that, in metres."""
    blanks = blanks_of(structure)
    along = face.looked_at()
    cuts = blanks.cuts_of_ends[2 * member + end]
    if not cuts[0].any():
        return np.column_stack([np.full(2, blanks.lengths[member] * end), along[[0, -1]]])
    each = cuts[: 2 if cuts[1].any() else 1]
    taken = _taken(structure, member, end, each, face.places(along))
    if len(each) == 2:
        more = taken[0] - taken[1]
        k = np.flatnonzero(more[:-1] * more[1:] < 0)
        share = more[k] / (more[k] - more[k + 1])
        along = np.sort(np.concatenate([along, along[k] + share * np.diff(along)[k]]))
        taken = _taken(structure, member, end, each, face.places(along))
    most = taken.max(axis=0)
    at = blanks.ends[member, end] + (-most if end else most)
    return np.column_stack([at, along])


def _taken(structure: Structure, member: int, end: int, cuts: Array, places: Array) -> Array:
    """How far (p, n) in metres along an end's axis each of the ``cuts`` (p, CUT) takes ``places``
    (n, 2) of the section."""
    count = len(cuts)
    away, up = (np.tile(frame[member, end], (count, 1)) for frame in structure.end_frames)
    # Seen from the last end, widths run the other way.
    seen = places * np.array([-1.0 if end else 1.0, 1.0])
    alone = np.stack([cuts, np.zeros_like(cuts)], axis=1)
    return taken_at(alone, away, up, np.tile(seen, (count, 1, 1)))


def _slot(face: Face, slots: Slots, row: int, at: float) -> shapely.Geometry:
    """What a slot takes of a face, from the end that lies ``at`` so many metres, in millimetres."""
    across = slots.normal[row]
    thick = face.within(across, slots.thickness[row] / 2)
    wide = face.within(np.array([-across[1], across[0]]), slots.width[row] / 2)
    if face.radius:
        # As an arm that reaches into the wall of a tube is taken to pass through it.
        wide = [(0.0, face.width)]
    both = [(max(a, c), min(b, d)) for a, b in thick for c, d in wide]
    low, high = at - slots.depth, at + slots.depth
    boxes = [shapely.box(low, a, high, b) for a, b in both if b > a]
    return shapely.transform(shapely.union_all(boxes), lambda places: places * MM)


def _holes(face: Face, slots: Slots, member: int, end: int, length: float) -> list[list[float]]:
    """Middles along and up a face, and diameters, of the holes through an end in millimetres."""
    row = slots.of_end(member, end)
    if row < 0 or not slots.hole:
        return []
    found = [face.met(way) for way in (slots.normal[row], -slots.normal[row])]
    at = length - slots.stations if end else slots.stations
    return [[x * MM, y * MM, slots.hole * MM] for y in found if y is not None for x in at.tolist()]


def _ring(part: shapely.Polygon) -> Array:
    """The ring (n, 2) round a part, without places on straight lines, counter-clockwise."""
    simple = shapely.simplify(shapely.get_exterior_ring(part), STRAIGHT, preserve_topology=False)
    ring = shapely.get_coordinates(simple)[:-1]
    ends = np.vstack([ring[-1:], ring, ring[:1]])
    into, out = np.diff(ends, axis=0)[:-1], np.diff(ends, axis=0)[1:]
    turn = np.abs(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0])
    ring = ring[turn > STRAIGHT * np.linalg.norm(out, axis=1)]
    area = ring[:, 0] @ np.roll(ring[:, 1], -1) - ring[:, 1] @ np.roll(ring[:, 0], -1)
    return np.asarray(ring if area > 0 else ring[::-1])
