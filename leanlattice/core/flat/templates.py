"""Templates: faces of solids, laid flat."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.charts import smooth_faces
from ..geometry.developed import Laid, laid_flat
from ..geometry.meshes import half_edges
from ..panels.panels import Sheet
from ..results import result_type
from ..solids.solids import Solids
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from .parts import CutResult, Part

__all__ = [
    "Faces",
    "OpeningsDrawn",
    "Side",
    "Templates",
    "Wanted",
    "bodies_drawn",
    "cut_smaller",
    "pose_in",
    "templates_of",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Wanted = Literal["every", "outer", "inner", "around"]
LEAST = 1e-6
"""Square metres below which a face is a crumb."""
FACING = 0.5
"""Cosine from which a face looks outward, or inward."""


class Side(NamedTuple):
    """A side of a face: the number of the face beyond it in the same solid, and the angle (rad)
    within the solid at which they meet, the mean along the side."""

    beyond: int
    angle: float


@dataclass(frozen=True, eq=False)
class Faces:
    """Faces (F) of all solids: triangles that meet at no more than an angle are one face.

    Parameters
    ----------
    solids : what they are of
    crease : the angle, in radians
    """

    solids: Solids
    crease: float

    @cached_property
    def _crosses(self) -> Array:
        """Twice the areas (T, 3) of triangles, outward."""
        return self.solids.whole.triangle_crosses

    @cached_property
    def _normals(self) -> Array:
        size = np.linalg.norm(self._crosses, axis=1, keepdims=True)
        return np.asarray(self._crosses / np.maximum(size, 1e-300))

    @cached_property
    def _beyond(self) -> Index:
        """The triangle (T, 3) beyond each side from a corner to the next."""
        twin = half_edges(self.solids.triangles, len(self.solids.vertices))[0]
        return (twin // 3).reshape(-1, 3).astype(np.int32)

    @cached_property
    def of_triangle(self) -> Index:
        """The face (T,) each triangle is of; faces are counted solid by solid."""
        return smooth_faces(self.solids.whole, self.crease).astype(np.int32)

    @cached_property
    def body(self) -> Index:
        """The solid (F,) each face is of."""
        return self.solids.owner[self._first]

    @cached_property
    def _first(self) -> Index:
        """The first triangle (F,) of each face."""
        return np.unique(self.of_triangle, return_index=True)[1].astype(np.int32)

    @cached_property
    def number(self) -> Index:
        """The number (F,) of each face in its solid, from 1."""
        start = np.searchsorted(self.body, np.arange(self.solids.count))
        return (np.arange(len(self.body)) - start[self.body] + 1).astype(np.int32)

    @cached_property
    def outward(self) -> Array:
        """How far (F,) each face looks along the third direction of its solid: 1 all of it, −1
        the other way."""
        along = np.einsum("ij,ij->i", self._crosses, self.solids.axes[self.solids.owner, 2])
        size = np.linalg.norm(self._crosses, axis=1)
        return np.bincount(self.of_triangle, along) / np.bincount(self.of_triangle, size)

    def chosen(self, wanted: Wanted, bodies: Index) -> Index:
        """Faces of some ``bodies``: all, or those that look outward, inward, or neither."""
        way = self.outward
        look = {
            "every": np.ones(len(way), bool),
            "outer": way > FACING,
            "inner": way < -FACING,
            "around": np.abs(way) <= FACING,
        }[wanted]
        return np.flatnonzero(look & np.isin(self.body, bodies)).astype(np.int32)

    def triangles(self, face: int) -> Index:
        """Triangles (k,) of a face, by their positions."""
        return self._in_order[self._starts[face] : self._starts[face + 1]]

    @cached_property
    def _in_order(self) -> Index:
        return np.argsort(self.of_triangle, kind="stable").astype(np.int32)

    @cached_property
    def _starts(self) -> Index:
        counts = np.bincount(self.of_triangle, minlength=len(self.body))
        return np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)

    def sides(self, face: int) -> dict[tuple[int, int], Side]:
        """What lies beyond each edge of a face's border, by its two vertices in their order."""
        out = {}
        for triangle in self.triangles(face).tolist():
            corners = self.solids.triangles[triangle]
            for k, other in enumerate(self._beyond[triangle].tolist()):
                beyond = int(self.of_triangle[other])
                if beyond == face:
                    continue
                a, b = int(corners[k]), int(corners[(k + 1) % 3])
                out[a, b] = Side(int(self.number[beyond]), self._angle(triangle, other, a, b))
        return out

    def _angle(self, one: int, other: int, a: int, b: int) -> float:
        """The angle within the solid at the edge from ``a`` to ``b`` of triangle ``one``."""
        first, second = self._normals[one], self._normals[other]
        along = self.solids.vertices[b] - self.solids.vertices[a]
        sine = np.cross(first, second) @ along / max(float(np.linalg.norm(along)), 1e-12)
        return float(np.pi - np.arctan2(sine, first @ second))


class OpeningsDrawn(NamedTuple):
    """Openings (m) that templates are drawn of.

    Parameters
    ----------
    template : (m,) the template of each
    body : (m,) the solid each is in
    poses : (m, 4, 4) of its template's part in each
    off : (m,) metres that the part's corners then are off those of the opening, at most
    """

    template: Index
    body: Index
    poses: Array
    off: Array


@result_type("Templates", "templates", "template")
@dataclass(frozen=True, eq=False)
class Templates(CutResult):
    """Faces or openings (n) of ``solids`` as flat parts.

    Parameters
    ----------
    solids : what they are of
    parts : (n,) flat parts
    body : (n,) the solid each was drawn of
    pieces : (n,) how many solids it is for
    stretch : (n,) by what share a length in it differs from that on the solid, at most
    off : (n,) metres that corners of a part in its place are off its face, at most
    sides : (n,) the sides of each outline, from its first corner on
    borders : (n,) the border of each face on its solid, or all openings it is for, closed lines
        (k, 3) in metres
    unlabelled : (k,) those without room for all that is written on them
    openings : those that they are drawn of; ``None`` where they are of faces
    smaller : share by which parts are cut smaller than they stand, as what is stretched is
    """

    solids: Solids
    parts: tuple[Part, ...]
    body: Index
    pieces: Index
    stretch: Array
    off: Array
    sides: tuple[tuple[Side, ...], ...]
    borders: tuple[tuple[Array, ...], ...]
    unlabelled: Index
    openings: OpeningsDrawn | None = None
    smaller: float = 0.0


def cut_smaller(templates: Templates, share: float) -> Templates:
    """The same cut smaller by a ``share``, with what is written on them."""
    size = 1 - share
    grown = np.array([1 / size, 1 / size, 1.0, 1.0])
    parts = [
        replace(
            part,
            outer=size * part.outer,
            inner=tuple(size * ring for ring in part.inner),
            marks=tuple(size * line for line in part.marks),
            pose=part.pose * grown,
        )
        for part in templates.parts
    ]
    openings = templates.openings
    if openings is not None:
        openings = openings._replace(poses=openings.poses * grown)
    return replace(templates, parts=tuple(parts), openings=openings, smaller=share)


def templates_of(
    faces: Faces,
    wanted: Wanted,
    each: bool,
    material: str,
    thickness: float,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Templates, Index]:
    """Templates of faces, and the faces (k,) of which there are none, as they close round
    something and have no place to be opened at.

    Parameters
    ----------
    faces : of the solids
    wanted : which of them
    each : of every solid, not only of the first of each type
    material, thickness : of the templates, in metres
    progress : told the share done
    """
    solids = faces.solids
    labels = solids.labels if each else solids.type_labels()
    chosen = faces.chosen(wanted, bodies_drawn(solids, each))
    sheet = Sheet(material, thickness)
    made, lost = [], []
    for k, face in enumerate(chosen.tolist()):
        progress(k / len(chosen))
        found = _drawn(faces, face, labels[faces.body[face]], sheet)
        if found is None:
            lost.append(face)
        else:
            made.append((face, found))
    body = faces.body[[face for face, _ in made]]
    alike = np.bincount(solids.type_of)[solids.type_of[body]]
    pieces = np.ones_like(body) if each else alike.astype(np.int32)
    return _joined(solids, body, pieces, [one for _, one in made]), np.array(lost, np.int32)


def bodies_drawn(solids: Solids, each: bool) -> Index:
    """The solids faces are drawn of: ``each``, or the first of each type."""
    if each:
        return np.arange(solids.count, dtype=np.int32)
    return np.sort(np.unique(solids.type_of, return_index=True)[1]).astype(np.int32)


def _joined(solids: Solids, body: Index, pieces: Index, made: list[_Drawn]) -> Templates:
    return Templates(
        solids=solids,
        parts=tuple(one.part for one in made),
        body=body,
        pieces=pieces,
        stretch=np.array([one.stretch for one in made]),
        off=np.array([one.off for one in made]),
        sides=tuple(one.sides for one in made),
        borders=tuple(one.borders for one in made),
        unlabelled=np.flatnonzero([not one.complete for one in made]).astype(np.int32),
    )


class _Drawn(NamedTuple):
    part: Part
    stretch: float
    off: float
    sides: tuple[Side, ...]
    borders: tuple[Array, ...]
    complete: bool


def _drawn(faces: Faces, face: int, label: str, sheet: Sheet) -> _Drawn | None:
    """One face as a flat part of a ``sheet``; ``None`` where it cannot be laid flat."""
    vertices, triangles = faces.solids.vertices, faces.solids.triangles[faces.triangles(face)]
    used, corners = np.unique(triangles, return_inverse=True)
    flat = laid_flat(vertices[used], corners.reshape(-1, 3).astype(np.int32))
    if flat is None or shapely.Polygon(flat.places[flat.rings[0]]).area < LEAST:
        return None
    own = used[flat.origin]
    rings = _rings(flat, own, faces.sides(face))
    outer, *inner = ((flat.places * 1000)[one.ring] for one in rings)
    name = f"{label}-{faces.number[face]}"
    names = _lettered(name, flat.places * 1000, rings)
    part = Part(
        label=name,
        kind="template",
        outer=outer,
        inner=tuple(inner),
        pose=pose_in(flat.at, flat.frame),
        material=sheet.material,
        thickness=sheet.thickness * 1000,
        marks=tuple(names.strokes),
    )
    off = np.linalg.norm(part.places(outer) - vertices[own[rings[0].ring]], axis=1)
    borders = tuple(vertices[own[np.append(ring, ring[0])]] for ring in flat.rings)
    return _Drawn(part, flat.stretch, float(off.max()), rings[0].sides, borders, names.complete)


class _Ring(NamedTuple):
    """A ring of places and its sides, with the number of edges each has."""

    ring: Index
    sides: tuple[Side, ...]
    lengths: tuple[int, ...]


CUT = Side(0, np.pi)
"""Where a face was opened."""


def _rings(flat: Laid, own: Index, beyond: dict[tuple[int, int], Side]) -> list[_Ring]:
    """The rings of a face with their sides; ``own`` are the vertices of the solid."""
    return [_sides_in_order(own[ring], ring, beyond) for ring in flat.rings]


def _sides_in_order(vertices: Index, ring: Index, beyond: dict[tuple[int, int], Side]) -> _Ring:
    """A ring that begins where a side begins, and its sides: edges beyond which there is one face
    are one side."""
    after = np.roll(vertices, -1).tolist()
    each = [beyond.get(pair, CUT) for pair in zip(vertices.tolist(), after, strict=True)]
    starts = [k for k, side in enumerate(each) if side.beyond != each[k - 1].beyond] or [0]
    each = each[starts[0] :] + each[: starts[0]]
    ends = [k - starts[0] for k in starts[1:]] + [len(each)]
    sides, lengths, begin = [], [], 0
    for end in ends:
        angle = float(np.mean([side.angle for side in each[begin:end]]))
        sides.append(Side(each[begin].beyond, angle))
        lengths.append(end - begin)
        begin = end
    return _Ring(np.roll(ring, -starts[0]), tuple(sides), tuple(lengths))


def pose_in(at: Array, frame: Array) -> Array:
    """The pose (4, 4) of a part in millimetres whose axes are the rows of a ``frame`` (3, 3)."""
    pose = np.eye(4)
    pose[:3, :3], pose[:3, 3] = frame.T / 1000, at
    return pose


def _lettered(name: str, places: Array, rings: list[_Ring]) -> Names:
    """A template's own name in its widest place, and along each side the face beyond and the
    angle; ``places`` (n, 2) in millimetres."""
    outer, *inner = (places[one.ring] for one in rings)
    names = Names(shapely.Polygon(outer, inner))
    names.write(name, LABEL_HEIGHT, names.room()[0])
    for ring in rings:
        for middle, along, text in _written(places, ring):
            inward = np.array([-along[1], along[0]])
            turn = float(np.arctan2(along[1], along[0]))
            names.write(text, NEIGHBOUR_HEIGHT, middle[None], turn, 1.2 * inward)
    return names


def _written(places: Array, ring: _Ring) -> Iterator[tuple[Array, Array, str]]:
    """What is written along the sides of a ring: the middle of its middle edge, the way it runs,
    and the face beyond with the angle in degrees."""
    begin = 0
    for side, length in zip(ring.sides, ring.lengths, strict=True):
        k = begin + length // 2
        a, b = places[ring.ring[k]], places[ring.ring[(k + 1) % len(ring.ring)]]
        begin += length
        size = float(np.linalg.norm(b - a))
        if side.beyond and size > 0:
            yield (a + b) / 2, (b - a) / size, f"{side.beyond} {np.degrees(side.angle):.1f}"
