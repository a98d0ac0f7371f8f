"""Ribs as plates: what planes cut from a body."""

from __future__ import annotations

from collections.abc import Callable, Sequence
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

__all__ = ["FINER", "Cut", "Rib", "cut_ribs", "polygons_of", "solid_of", "solid_of_rings"]

Array = NDArray[np.float64]
FINER = 1000.0
"""Plates are cut in millimetres, as the package that cuts them rounds to a hundred-millionth."""
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

    @property
    def middle(self) -> Array:
        """A place (3,) in its material."""
        return self.places(np.array(self.shape.representative_point().coords))[0]

    def crossed_at(self, line: Array) -> Array:
        """Where in its plane (2,) a line (2, 3), carried on without end, passes it; NaN where it runs along it."""
        a, ahead = line[0], line[1] - line[0]
        slope = float(ahead @ self.normal)
        if abs(slope) < 1e-9 * np.linalg.norm(ahead):
            return np.full(2, np.nan)
        at = a + ahead * float((self.origin - a) @ self.normal) / slope - self.origin
        return np.array([at @ self.x, at @ self.y])

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


def polygons_of(
    sections: Sequence[manifold3d.CrossSection], shifts: Array | None = None, scale: float = 1.0
) -> list[list[shapely.Polygon]]:
    """Pieces of sections with their openings, the largest first, scaled and each section moved by its shift (n, 2)."""
    rings: list[Array] = []
    piece_of: list[int] = []
    section_of: list[int] = []
    for k, section in enumerate(sections):
        pieces = [section] if section.num_contour() <= 1 else section.decompose()
        for piece in pieces:
            kept = [np.asarray(r) for r in piece.to_polygons() if len(r) >= 3]
            if kept:
                rings += [r * scale if shifts is None else r * scale + shifts[k] for r in kept]
                piece_of += [len(section_of)] * len(kept)
                section_of.append(k)
    out: list[list[shapely.Polygon]] = [[] for _ in sections]
    if not rings:
        return out
    made = _polygons(rings, np.array(piece_of))
    for k in np.flatnonzero(~shapely.is_valid(made)).tolist():
        made[k] = shapely.make_valid(made[k])
    parts, of = shapely.get_parts(made, return_index=True)
    areas = shapely.area(parts)
    for n in np.argsort(-areas, kind="stable").tolist():
        if areas[n] > 0:
            out[section_of[of[n]]].append(parts[n])
    return out


def _polygons(rings: list[Array], piece_of: NDArray[np.int64]) -> Any:
    """A polygon of the rings of each piece, of which the largest is the outer one."""
    count = np.array([len(r) for r in rings])
    flat = np.concatenate(rings)
    start = np.concatenate([[0], np.cumsum(count)[:-1]])
    ahead = np.roll(flat, -1, axis=0)
    ahead[start + count - 1] = flat[start]
    size = np.abs(np.add.reduceat(flat[:, 0] * ahead[:, 1] - flat[:, 1] * ahead[:, 0], start))
    order = np.lexsort((-size, piece_of))
    first = np.concatenate([[True], np.diff(piece_of[order]) > 0])
    lines: Any = shapely.linearrings(flat, indices=np.repeat(np.arange(len(rings)), count))
    made: Any = shapely.polygons(lines[order[first]])
    if not first.all():
        holes: Any = lines[order[~first]]
        of = piece_of[order[~first]]
        for k in np.unique(of).tolist():
            made[k] = shapely.Polygon(made[k].exterior, list(holes[of == k]))
    return made


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
    sections, shifts = [], np.zeros((len(planes), 2))
    for k in range(len(planes)):
        check()
        frame = np.stack([planes.x[k], planes.y[k], planes.normals[k]])
        if turned is None or not np.array_equal(turned[0], frame):
            turned = frame, solid.transform(np.column_stack([frame, np.zeros(3)]))
        at = frame @ planes.origins[k]
        shifts[k] = -at[:2]
        sections.append(turned[1].slice(float(at[2])).simplify(FINE))
    for k, pieces in enumerate(polygons_of(sections, shifts)):
        check()
        if planes.half is not None:
            beyond = shapely.box(planes.half, -1e4, 1e4, 1e4)
            pieces = [q for p in pieces for q in shapely.get_parts(p.intersection(beyond)) if q.area > 0]
        kept = [p for p in pieces if p.area >= least_area] if least_area > 0 else pieces
        pose = (planes.origins[k], planes.x[k], planes.y[k], thickness)
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
    return solid_of_rings([np.asarray(r.coords)[:-1] for r in (shape.exterior, *shape.interiors)], pose, thickness)


def solid_of_rings(rings: Sequence[Array], pose: Array, thickness: float) -> manifold3d.Manifold:
    """The same of outlines and openings (even-odd)."""
    section = manifold3d.CrossSection([np.ascontiguousarray(r) for r in rings], manifold3d.FillRule.EvenOdd)
    plate = manifold3d.Manifold.extrude(section, thickness).translate((0.0, 0.0, -thickness / 2))
    return plate.transform(np.ascontiguousarray(pose))
