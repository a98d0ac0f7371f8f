"""Ribs as plates: what planes cut from a body."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import Body
from ..shaping.solids import as_solid
from .planes import Planes

__all__ = ["Cut", "Rib", "cut_ribs", "polygons_of", "solid_of"]

Array = NDArray[np.float64]
FINE = 1e-5
"""Corners of sections nearer than this (m) to the line between their neighbours are left out."""


@dataclass(frozen=True, eq=False)
class Rib:
    """A plate ``thickness`` (m) thick about its middle plane: ``shape`` in metres along ``x`` and ``y`` (3,) from
    ``origin`` (3,); it is of set ``series`` and cut by plane ``number`` from 1, of which it is ``piece`` from 0."""

    series: str
    number: int
    piece: int
    pieces: int
    shape: shapely.Polygon
    origin: Array
    x: Array
    y: Array
    thickness: float

    @property
    def label(self) -> str:
        return f"{self.series}{self.number}" + (_letters(self.piece) if self.pieces > 1 else "")

    @cached_property
    def normal(self) -> Array:
        return np.cross(self.x, self.y)

    @property
    def pose(self) -> Array:
        """Takes places (x, y, z, 1) of the plate in metres to space (3, 4)."""
        return np.column_stack([self.x, self.y, self.normal, self.origin])

    def places(self, flat: Array) -> Array:
        """Places (n, 3) in space of places (n, 2) in the plane."""
        return np.asarray(self.origin + flat[:, :1] * self.x + flat[:, 1:] * self.y)


def _letters(k: int) -> str:
    out = ""
    while True:
        out = chr(ord("a") + k % 26) + out
        k = k // 26 - 1
        if k < 0:
            return out


@dataclass(frozen=True, eq=False)
class Cut:
    """What a family of planes gives: ``ribs``; numbers of planes from 1 that ``missed`` the body; labels of pieces
    ``left_out`` for their size, and of ribs with a ``neck`` thinner than asked for, each with a place (3,)."""

    ribs: list[Rib]
    missed: list[int]
    left_out: list[tuple[str, Array]]
    necks: list[tuple[str, Array]]


def polygons_of(section: manifold3d.CrossSection) -> list[shapely.Polygon]:
    """Pieces of a section with their openings, the largest first."""
    out = []
    for piece in section.decompose():
        rings = [np.asarray(r) for r in piece.to_polygons()]
        rings = [r for r in rings if len(r) >= 3]
        if not rings:
            continue
        sizes = [abs(shapely.Polygon(r).area) for r in rings]
        outer = int(np.argmax(sizes))
        made: Any = shapely.Polygon(rings[outer], [r for k, r in enumerate(rings) if k != outer])
        made = shapely.make_valid(made.simplify(FINE))
        out += [p for p in shapely.get_parts(made) if isinstance(p, shapely.Polygon) and p.area > 0]
    return sorted(out, key=lambda p: -p.area)


def cut_ribs(
    body: Body, planes: Planes, series: str, thickness: float, least_area: float = 0.0, least_neck: float = 0.0,
    check: Callable[[], None] = lambda: None,
) -> Cut:  # fmt: skip
    """Ribs of a body, all pieces of each plane kept but those smaller than ``least_area`` (m²).

    Planes have no ends, so that none is too short for the body; sections are those of the boolean package, which are exact
    for a mesh (Lalish, Manifold).
    """
    solid, out = as_solid(body), Cut([], [], [], [])
    turned: tuple[Array, Any] | None = None
    for k in range(len(planes)):
        check()
        origin, frame = planes.origins[k], np.stack([planes.x[k], planes.y[k], planes.normals[k]])
        if turned is None or not np.array_equal(turned[0], frame):
            turned = frame, solid.transform(np.column_stack([frame, np.zeros(3)]))
        at = frame @ origin
        pieces = polygons_of(turned[1].slice(float(at[2])))
        pieces = [shapely.affinity.translate(p, -at[0], -at[1]) for p in pieces]
        if planes.half is not None:
            beyond = shapely.box(planes.half, -1e4, 1e4, 1e4)
            pieces = [q for p in pieces for q in shapely.get_parts(p.intersection(beyond)) if q.area > 0]
        kept = [p for p in pieces if p.area >= least_area]
        pose = (origin, planes.x[k], planes.y[k], thickness)
        for p in pieces[len(kept) :]:
            rib = Rib(series, k + 1, 0, 1, p, *pose)
            out.left_out.append((rib.label, rib.places(np.array(p.representative_point().coords))[0]))
        if not pieces:
            out.missed.append(k + 1)
        for n, p in enumerate(kept):
            rib = Rib(series, k + 1, n, len(kept), p, *pose)
            out.ribs.append(rib)
            neck = _neck(p, least_neck)
            if neck is not None:
                out.necks.append((rib.label, rib.places(neck[None])[0]))
    return out


def _neck(shape: shapely.Polygon, least: float) -> Array | None:
    """A place where a plate is thinner than ``least`` between wider parts of it, if there is one."""
    if least <= 0:
        return None
    eroded = shapely.get_parts(shape.buffer(-least / 2))
    wide = [p for p in eroded if p.area > least * least / 4]
    if len(wide) < 2:
        return None
    return shapely.get_coordinates(shapely.shortest_line(wide[0], wide[1])).mean(axis=0)


def solid_of(shape: shapely.Polygon, pose: Array, thickness: float) -> manifold3d.Manifold:
    """Solid of a plate about its middle plane; ``pose`` (3, 4) takes places (x, y, z, 1) of the plate to space, and
    thickness is in the units of the plate."""
    rings = [np.asarray(r.coords)[:-1] for r in (shape.exterior, *shape.interiors)]
    section = manifold3d.CrossSection([np.ascontiguousarray(r) for r in rings], manifold3d.FillRule.EvenOdd)
    plate = manifold3d.Manifold.extrude(section, thickness).translate((0.0, 0.0, -thickness / 2))
    return plate.transform(np.ascontiguousarray(pose))
