"""Ribs as plates: what planes cut from a body."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.bends import Bend
from ..geometry.meshes import Body
from ..results import Result
from ..shaping.solids import as_solid
from .planes import Planes
from .polygons import polygons_of, with_corners_at
from .sections import on_faces
from .slicing import plain_sections
from .spines import Bends

__all__ = ["FINER", "Cut", "Rib", "cut_ribs"]

Array = NDArray[np.float64]
FINER = 1000.0
"""Plates are cut in millimetres, as the package that cuts them rounds to a hundred-millionth."""
FINE = 1e-5
"""Corners of sections nearer than this (m) to the line between their neighbours are left out."""
CURTAIN = 1e-3
"""Thickness (m) of what cuts bent ribs out of a body."""


@dataclass(frozen=True, eq=False)
class Rib(Result):
    """A plate ``thickness`` (m) thick about its middle plane: ``shape`` in metres along ``x`` and
    ``y`` (3,) from ``origin`` (3,); it is of set ``series`` and cut by plane ``number`` from 1, of
    which it is ``piece`` from 0; where that is spliced, ``splice`` counts its lengths from 1.

    Where it is bent, by ``bend``, these are those of one of its plane pieces."""

    series: str
    number: int
    piece: int
    pieces: int
    shape: shapely.Polygon
    origin: Array
    x: Array
    y: Array
    thickness: float
    bend: Bend | None = None
    splice: int = 0

    @property
    def label(self) -> str:
        piece = _letters(self.piece) if self.pieces > 1 else ""
        length = f"-{self.splice}" if self.splice else ""
        return f"{self.series}{self.number}{piece}{length}"

    @cached_property
    def normal(self) -> Array:
        (a, b, c), (d, e, f) = self.x.tolist(), self.y.tolist()
        return np.array([b * f - c * e, c * d - a * f, a * e - b * d])

    @property
    def pose(self) -> Array:
        """Takes places (x, y, z, 1) of the plate, as flat, in metres to space (3, 4)."""
        return np.column_stack([self.x, self.y, self.normal, self.origin])

    @property
    def middle(self) -> Array:
        """A place (3,) in its material."""
        return self.places(np.array(self.shape.representative_point().coords))[0]

    def crossed_at(self, line: Array) -> Array:
        """Where in its plane (2,) a line (2, 3), carried on without end, passes it; NaN where it
        runs along it."""
        a, ahead = line[0], line[1] - line[0]
        slope = float(ahead @ self.normal)
        if abs(slope) < 1e-9 * np.linalg.norm(ahead):
            return np.full(2, np.nan)
        at = a + ahead * float((self.origin - a) @ self.normal) / slope - self.origin
        return np.array([at @ self.x, at @ self.y])

    @cached_property
    def frames(self) -> tuple[Array, Array, Array, Array]:
        """Origins, x and y (n, 3) of its plane pieces, in which flat places are where they stand,
        and between which x (n, 2) each lies."""
        if self.bend is None:
            return self.origin[None], self.x[None], self.y[None], np.array([[-np.inf, np.inf]])
        ends = np.concatenate([[-np.inf], self.bend.at[1:-1], [np.inf]])
        return *self.bend.frames(), np.column_stack([ends[:-1], ends[1:]])

    def places(self, flat: Array) -> Array:
        """Places (n, 3) in space of places (n, 2) in the plane."""
        if self.bend is not None:
            return self.bend.places(flat)
        return np.asarray(self.origin + flat[:, :1] * self.x + flat[:, 1:] * self.y)

    def flattened(self, places: Array) -> Array:
        """Places (n, 2) in the plane of ones (n, 3) in space, square to it."""
        if self.bend is not None:
            return self.bend.flattened(places)
        off = places - self.origin
        return np.column_stack([off @ self.x, off @ self.y])


def _letters(k: int) -> str:
    out = ""
    while True:
        out = chr(ord("a") + k % 26) + out
        k = k // 26 - 1
        if k < 0:
            return out


@dataclass(frozen=True, eq=False)
class Cut:
    """What a family of planes gives: ``ribs``; numbers of planes from 1 that ``missed`` the body;
    labels of pieces ``left_out`` for their size, and of ribs with a ``neck`` thinner than asked
    for, each with a place (3,)."""

    ribs: list[Rib]
    missed: list[int]
    left_out: list[tuple[str, Array]]
    necks: list[tuple[str, Array]]


def cut_ribs(
    body: Body,
    family: Planes | Bends,
    series: str,
    thickness: float,
    least_area: float = 0.0,
    least_neck: float = 0.0,
    check: Callable[[], None] = lambda: None,
) -> Cut:
    """Ribs of a ``body``, ``thickness`` (m) thick, where the planes or bent surfaces of a
    ``family`` cut it, all pieces kept but those smaller than ``least_area`` (m²); they are named in
    a ``series``, and those with a neck thinner than ``least_neck`` (m) are told. ``check`` is
    called now and then and may raise.

    Planes have no ends, so that none is too short for the body. Sections are exact for a mesh:
    plain rings as they are, others by the boolean package (Lalish, Manifold), moved onto the body's
    curved faces.
    """
    out = Cut([], [], [], [])
    plates = (
        _plane(body, family, check) if isinstance(family, Planes) else _bent(body, family, check)
    )
    for k, (pieces, (origin, x, y), bend) in enumerate(plates):
        check()
        kept = [p for p in pieces if p.area >= least_area] if least_area > 0 else pieces
        for p in pieces[len(kept) :]:
            rib = Rib(series, k + 1, 0, 1, p, origin, x, y, thickness, bend)
            out.left_out.append(
                (rib.label, rib.places(np.array(p.representative_point().coords))[0])
            )
        if not pieces:
            out.missed.append(k + 1)
        for n, p in enumerate(kept):
            rib = Rib(series, k + 1, n, len(kept), p, origin, x, y, thickness, bend)
            out.ribs.append(rib)
            neck = _neck(p, least_neck)
            if neck is not None:
                out.necks.append((rib.label, rib.places(neck[None])[0]))
    return out


Plates = Iterator[tuple[list[shapely.Polygon], tuple[Array, Array, Array], Bend | None]]
"""Pieces of each plane or bent surface, the largest first, its origin, x and y, and its bend."""


def _plane(body: Body, planes: Planes, check: Callable[[], None]) -> Plates:
    def beside(k: int, off: float = 0.0) -> list[shapely.Polygon]:
        """The section so far beside plane ``k``."""
        check()
        frame = np.stack([planes.x[k], planes.y[k], planes.normals[k]])
        moved = as_solid(body).transform(np.column_stack([frame, -frame @ planes.origins[k]]))
        return polygons_of([moved.slice(off).simplify(FINE)])[0]

    plain = plain_sections(body.mesh, planes, FINE)
    sections = [beside(k) if pieces is None else pieces for k, pieces in enumerate(plain)]
    for k, pieces in enumerate(on_faces(body, sections, planes, beside)):
        if planes.half is not None:
            beyond = shapely.box(planes.half, -1e4, 1e4, 1e4)
            pieces = [
                q for p in pieces for q in shapely.get_parts(p.intersection(beyond)) if q.area > 0
            ]
        if planes.near is not None:
            low, high = planes.near[k]
            pieces = [p for p in pieces if p.bounds[0] < high and p.bounds[2] > low]
        yield pieces, (planes.origins[k], planes.x[k], planes.y[k]), None


def _bent(body: Body, bends: Bends, check: Callable[[], None]) -> Plates:
    sections, solid = [], as_solid(body)
    for bend in bends.bends:
        check()
        sections.append(_unrolled(solid, bend).simplify(FINE * FINER))
    flat = on_faces(body, polygons_of(sections, scale=1 / FINER), bends)
    if body.faces:
        # Chords follow faces; then their planes end where they are bent.
        ended = [
            [with_corners_at(p, bend.at[1:-1]) for p in pieces]
            for bend, pieces in zip(bends.bends, flat, strict=True)
        ]
        flat = on_faces(body, ended, bends)
    for bend, pieces in zip(bends.bends, flat, strict=True):
        origin, x, y = bend.frames()
        k = bend.pieces // 2
        yield pieces, (origin[k], x[k], y[k]), bend


def _unrolled(solid: manifold3d.Manifold, bend: Bend) -> manifold3d.CrossSection:
    """What a bent surface cuts from a solid, as flat, in millimetres.

    The solid is cut with a thin curtain, one face of which is the surface: its triangles in what is
    left are the section, and share their corners also across the lines it is bent about, so that no
    seam is left there.
    """
    box = np.array(solid.bounding_box()).reshape(2, 3)
    left = bend.places(np.column_stack([bend.at, np.zeros(len(bend.at))]), -CURTAIN)[:, :2]
    closed = np.linalg.norm(bend.line[0] - bend.line[-1]) < 1e-9
    rings = [bend.line[:-1], left[:-1][::-1]] if closed else [np.vstack([bend.line, left[::-1]])]
    plan = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
    curtain = manifold3d.Manifold.extrude(plan, float(box[1, 2] - box[0, 2]) + 2).translate(
        (0.0, 0.0, box[0, 2] - 1)
    )
    curtain = curtain.as_original()
    cut = (solid ^ curtain).to_mesh64()
    vertices, triangles = (
        np.asarray(cut.vert_properties)[:, :3],
        np.asarray(cut.tri_verts).astype(np.int64),
    )
    of_run = np.asarray(cut.run_original_id) == curtain.original_id()
    triangles = triangles[np.repeat(of_run, np.diff(cut.run_index) // 3)]
    line = shapely.LineString(bend.line)
    on = np.asarray(shapely.distance(line, shapely.points(vertices[:, :2]))) < CURTAIN / 4
    face = triangles[on[triangles].all(axis=1)]
    if not len(face):
        return manifold3d.CrossSection()
    flat = bend.flattened(vertices) * FINER
    corner = flat[face]
    if closed:
        # The line's start is its end as well.
        whole = bend.at[-1] * FINER
        far = corner[..., 0].max(axis=1) > whole / 2
        corner[..., 0] = np.where(
            far[:, None] & (corner[..., 0] < whole / 4), corner[..., 0] + whole, corner[..., 0]
        )
    solid_face: Any = shapely.polygons(corner)
    solid_face = solid_face[shapely.area(solid_face) > 0]
    try:
        joined = shapely.coverage_union_all(solid_face)
    except shapely.GEOSException:
        # Corners that all but touch; this way takes longer.
        joined = shapely.union_all(solid_face, grid_size=1e-6)
    rings = [
        shapely.get_coordinates(r)[:-1]
        for p in shapely.get_parts(joined)
        for r in (p.exterior, *p.interiors)
    ]
    return manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)


def _neck(shape: shapely.Polygon, least: float) -> Array | None:
    """A place where a plate is thinner than ``least`` between wider parts of it, if there is
    one."""
    if least <= 0:
        return None
    eroded = shapely.get_parts(shape.buffer(-least / 2))
    wide = [p for p in eroded if p.area > least * least / 4]
    if len(wide) < 2:
        return None
    return shapely.get_coordinates(shapely.shortest_line(wide[0], wide[1])).mean(axis=0)
