"""Parts of surfaces: what lies over an outline in plan, or on one side of a plane."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import mesh_of_triangles, used_only
from ..geometry.meshsurface import MeshSurface, mesh_surface
from ..geometry.projected import places_seen_at
from ..geometry.regions import Region
from ..geometry.surfaces import Surface
from .facets import BAYS, surface_mesh

__all__ = ["CutError", "Part", "cut_in_plan", "cut_where"]

Array = NDArray[np.float64]
GRID = 96


class CutError(ValueError):
    """A cut that cannot be made, in a sentence."""


@dataclass(frozen=True, eq=False)
class Part(Surface):
    """``base`` over a part of its parameters."""

    base: Surface
    domain: Region | None
    flipped: bool
    seams_u: tuple[float, ...] = ()
    seams_v: tuple[float, ...] = ()

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        return self.base.derivatives(uv, du, dv)

    def normals(self, uv: Array) -> Array:
        n = self.base.normals(uv)
        return -n if self.flipped != self.base.flipped else n

    def curvatures(self, uv: Array) -> Array:
        c = self.base.curvatures(uv)
        return c * [1, -1] if self.flipped != self.base.flipped else c

    @property
    def lengths(self) -> tuple[float, float]:
        return self.base.lengths


def _part(surface: Surface, polygon: shapely.Geometry) -> Surface:
    whole = surface.domain.polygon if surface.domain is not None else shapely.box(0, 0, 1, 1)
    left = shapely.intersection(whole, polygon)
    parts = [g for g in shapely.get_parts(left) if g.geom_type == "Polygon" and g.area > 1e-9]
    if not parts:
        raise CutError("nothing of the surface is left")
    largest = max(parts, key=lambda g: g.area)
    # Slivers between points set out separately would spoil the border.
    tidy = shapely.remove_repeated_points(largest, 1e-9)
    region = Region(
        np.asarray(tidy.exterior.coords)[:-1, :2],
        tuple(np.asarray(i.coords)[:-1, :2] for i in tidy.interiors),
    )
    base = surface.base if isinstance(surface, Part) else surface
    return Part(base, region, surface.flipped, surface.seams_u, surface.seams_v)


def cut_in_plan(surface: Surface, outline: Array, keep_inside: bool) -> Surface:
    """The part of a surface over (or outside) an outline (n, 2) in plan; raises ``CutError`` where
    it hangs over itself.

    The outline's points are found again as parameters, so that the border passes through their
    places.
    """
    if isinstance(surface, MeshSurface) or _returns(surface):
        by_side = shapely.Polygon(outline)
        return cut_where(
            surface, lambda p: _signed_distance(by_side, p) * (1 if keep_inside else -1)
        )
    axis = np.linspace(0, 1, 25)
    normals = surface.normals(
        np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2)
    )
    if normals[:, 2].min() < -1e-6 and normals[:, 2].max() > 1e-6:
        raise CutError("the surface hangs over itself in plan; make it a body first and cut that")
    size = float(np.ptp(outline, axis=0).max())
    dense = np.asarray(shapely.segmentize(shapely.LinearRing(outline), size / 160).coords)[:-1]
    uv, found = places_seen_at(surface, dense, np.eye(2, 3))
    ring = uv[found]
    if len(ring) < 3:
        raise CutError("the outline does not lie over the surface")
    polygon = shapely.make_valid(shapely.Polygon(ring))
    square = shapely.box(-10, -10, 11, 11)
    return _part(surface, polygon if keep_inside else square.difference(polygon))


def _signed_distance(polygon: shapely.Polygon, p: Array) -> Array:
    points = shapely.points(p[:, :2])
    away = shapely.distance(polygon.exterior, points)
    return np.where(shapely.contains_xy(polygon, p[:, 0], p[:, 1]), away, -away)


def cut_where(surface: Surface, side: Callable[[Array], Array]) -> Surface:
    """The part of a surface on which ``side`` of its points (n, 3) is not negative.

    The border is sought along the lines of a fine grid of parameters, each crossing refined by
    bisection; raises ``CutError`` where nothing is left.
    """
    if _returns(surface):
        return _cut_mesh(surface, side)
    axis = np.linspace(0.0, 1.0, GRID + 1)
    uv = np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2)
    values = side(surface.points(uv))
    if (values >= 0).all():
        return surface
    scale = float(np.abs(values).max())
    above = np.where(np.abs(values) < 1e-12 * scale, 1.0, values) > 0
    points, edges = _outline_edges(surface, side, uv, above)
    if not len(edges):
        raise CutError("nothing of the surface is left")
    lines: Any = shapely.linestrings(points[edges])
    area: Any = shapely.build_area(shapely.multilinestrings(lines))
    return _part(surface, area)


def _outline_edges(
    surface: Surface, side: Callable[[Array], Array], uv: Array, above: NDArray[np.bool_]
) -> tuple[Array, NDArray[np.int64]]:
    """Points (n, 2) and the edges (m, 2) around what is ``above`` in a grid ``uv`` of
    parameters."""
    number = np.arange(len(uv)).reshape(GRID + 1, GRID + 1)
    pairs = np.vstack(
        [
            np.column_stack([number[:-1].ravel(), number[1:].ravel()]),
            np.column_stack([number[:, :-1].ravel(), number[:, 1:].ravel()]),
        ]
    )
    met = pairs[above[pairs[:, 0]] != above[pairs[:, 1]]]
    points = np.vstack(
        [uv, _crossings(surface, side, uv[met[:, 0]], uv[met[:, 1]], above[met[:, 0]])]
    )
    code = met[:, 0] * len(uv) + met[:, 1]
    order = np.argsort(code)
    corners = np.stack(
        [number[:-1, :-1], number[1:, :-1], number[1:, 1:], number[:-1, 1:]], axis=-1
    ).reshape(-1, 4)
    corners = corners[above[corners].any(axis=1)]
    following = np.roll(corners, -1, axis=1)
    # Around each cell: its corners that are above, and after each the crossing on the side that
    # leaves it.
    low, high = np.minimum(corners, following), np.maximum(corners, following)
    at = np.searchsorted(code[order], low * len(uv) + high)
    crossed = above[corners] != above[following]
    crossing = (
        len(uv) + order[np.minimum(at, len(order) - 1)] if len(order) else np.zeros_like(corners)
    )
    ring = np.stack(
        [np.where(above[corners], corners, -1), np.where(crossed, crossing, -1)], axis=-1
    ).reshape(-1)
    cell = np.repeat(np.arange(len(corners)), 8)[ring >= 0]
    ring = ring[ring >= 0]
    first = np.searchsorted(cell, np.arange(len(corners)))
    last = np.append(first[1:], len(ring)) - 1
    after = np.append(ring[1:], 0)
    after[last] = ring[first]
    # What two cells share is run through both ways and cancels out.
    both = np.minimum(ring, after) * len(points) + np.maximum(ring, after)
    kept, times = np.unique(both, return_counts=True)
    return points, np.stack(np.divmod(kept[times == 1], len(points)), axis=1)


def _crossings(
    surface: Surface, side: Callable[[Array], Array], a: Array, b: Array, above: NDArray[np.bool_]
) -> Array:
    """Places (n, 2) between ``a`` and ``b`` (n, 2) where ``side`` changes its sign, by
    bisection."""
    low, high = np.zeros(len(a)), np.ones(len(a))
    for _ in range(36):
        middle = (low + high) / 2
        same = (side(surface.points(a + middle[:, None] * (b - a))) > 0) == above
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    return a + low[:, None] * (b - a)


def _returns(surface: Surface) -> bool:
    """Whether a surface closes on itself, so that a part of it has no single outline in its
    parameters."""
    return surface.closed_u or surface.closed_v or bool(surface.degenerate)


def _cut_mesh(surface: Surface, side: Callable[[Array], Array]) -> Surface:
    """The part of a surface that closes on itself, as a fine mesh cut along straight lines across
    its triangles."""
    mesh, _ = surface_mesh(surface, (3 * BAYS, 3 * BAYS // 2))
    value = side(mesh.vertices)
    if (value >= 0).all():
        return surface
    scale = float(np.abs(value).max())
    # What lies all but on the border is taken to lie on it, lest slivers come about.
    value = np.where(np.abs(value) < 1e-4 * scale, 0.0, value)
    t = mesh.triangles
    signs = np.sign(value)[t]
    kept = [t[(signs >= 0).all(axis=1) & (signs > 0).any(axis=1)]]
    if not len(kept[0]):
        raise CutError("nothing of the surface is left")
    mixed = t[(signs > 0).any(axis=1) & (signs < 0).any(axis=1)]
    pairs = np.sort(np.concatenate([mixed[:, [k, (k + 1) % 3]] for k in range(3)]), axis=1)
    pairs = np.unique(pairs[value[pairs[:, 0]] * value[pairs[:, 1]] < 0], axis=0)
    share = value[pairs[:, 0]] / (value[pairs[:, 0]] - value[pairs[:, 1]])
    a, b = mesh.vertices[pairs[:, 0]], mesh.vertices[pairs[:, 1]]
    vertices = np.vstack([mesh.vertices, a + share[:, None] * (b - a)])
    number = {(int(p), int(q)): len(mesh.vertices) + k for k, (p, q) in enumerate(pairs)}
    cut = []
    for corners in mixed.tolist():
        ring = []
        for k in range(3):
            p, q = corners[k], corners[(k + 1) % 3]
            if value[p] >= 0:
                ring.append(p)
            met = number.get((min(p, q), max(p, q)))
            if met is not None:
                ring.append(met)
        cut += [(ring[0], ring[k], ring[k + 1]) for k in range(1, len(ring) - 1)]
    triangles = np.vstack([*kept, np.array(cut, np.int32).reshape(-1, 3)]).astype(np.int32)
    return mesh_surface(mesh_of_triangles(*used_only(vertices, triangles)))
