"""Parts of surfaces: what lies over an outline in plan, or on one side of a plane."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..geometry.meshes import mesh_of_triangles, used_only
from ..geometry.meshsurface import MeshSurface, mesh_surface
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
        np.asarray(tidy.exterior.coords)[:-1, :2], tuple(np.asarray(i.coords)[:-1, :2] for i in tidy.interiors)
    )
    base = surface.base if isinstance(surface, Part) else surface
    return Part(base, region, surface.flipped, surface.seams_u, surface.seams_v)


def _plan_places(surface: Surface, xy: Array) -> tuple[Array, NDArray[np.bool_]]:
    """Parameters (n, 2) of the places over points (n, 2) in plan, by Newton's method from the nearest sample, and
    whether each was found; they may lie outside the square."""
    axis = np.linspace(0, 1, 41)
    grid = np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2)
    samples = surface.points(grid)[:, :2]
    uv = grid[cKDTree(samples).query(xy)[1]].astype(float)
    for _ in range(40):
        gap = surface.extended(uv)[:, :2] - xy
        inside = np.clip(uv, 0, 1)
        su, sv = surface.derivatives(inside, 1, 0)[:, :2], surface.derivatives(inside, 0, 1)[:, :2]
        det = su[:, 0] * sv[:, 1] - su[:, 1] * sv[:, 0]
        det = np.where(np.abs(det) < 1e-14, 1e-14, det)
        step = np.column_stack([(sv[:, 1] * gap[:, 0] - sv[:, 0] * gap[:, 1]) / det,
                                (su[:, 0] * gap[:, 1] - su[:, 1] * gap[:, 0]) / det])  # fmt: skip
        uv = uv - np.clip(step, -0.1, 0.1)
        if np.abs(step).max(initial=0.0) < 1e-13:
            break
    size = float(np.ptp(samples, axis=0).max())
    return uv, np.linalg.norm(surface.extended(uv)[:, :2] - xy, axis=1) < 1e-7 * size


def cut_in_plan(surface: Surface, outline: Array, keep_inside: bool) -> Surface:
    """The part of a surface over (or outside) an outline (n, 2) in plan; raises ``CutError`` where it hangs over itself.

    The outline's points are found again as parameters, so that the border passes through their places.
    """
    if isinstance(surface, MeshSurface) or _returns(surface):
        by_side = shapely.Polygon(outline)
        return cut_where(surface, lambda p: _signed_distance(by_side, p) * (1 if keep_inside else -1))
    axis = np.linspace(0, 1, 25)
    normals = surface.normals(np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1).reshape(-1, 2))
    if normals[:, 2].min() < -1e-6 and normals[:, 2].max() > 1e-6:
        raise CutError("the surface hangs over itself in plan; make it a body first and cut that")
    size = float(np.ptp(outline, axis=0).max())
    dense = np.asarray(shapely.segmentize(shapely.LinearRing(outline), size / 160).coords)[:-1]
    uv, found = _plan_places(surface, dense)
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

    The border is sought along the lines of a fine grid of parameters, each crossing refined by bisection; raises
    ``CutError`` where nothing is left.
    """
    if _returns(surface):
        return _cut_mesh(surface, side)
    axis = np.linspace(0.0, 1.0, GRID + 1)
    uv = np.stack(np.meshgrid(axis, axis, indexing="ij"), axis=-1)
    values = side(surface.points(uv.reshape(-1, 2))).reshape(GRID + 1, GRID + 1)
    if (values >= 0).all():
        return surface
    scale = float(np.abs(values).max())
    values = np.where(np.abs(values) < 1e-12 * scale, 1e-12 * scale, values)
    around = [(0, 0), (1, 0), (1, 1), (0, 1)]
    i, j = np.meshgrid(np.arange(GRID), np.arange(GRID), indexing="ij")
    positive = sum((values[i + a, j + b] > 0).astype(int) for a, b in around)
    full = np.argwhere(positive == 4)
    polygons = shapely.box(axis[full[:, 0]], axis[full[:, 1]], axis[full[:, 0] + 1], axis[full[:, 1] + 1]).tolist()
    # Where the border crosses grid lines: along u between (i, j) and (i + 1, j), along v likewise.
    met = {way: _crossings(surface, side, uv, values, way) for way in ("u", "v")}
    for a, b in np.argwhere((positive > 0) & (positive < 4)):
        ring = []
        for k, (da, db) in enumerate(around):
            ea, eb = around[(k + 1) % 4]
            here, there = values[a + da, b + db] > 0, values[a + ea, b + eb] > 0
            if here:
                ring.append(uv[a + da, b + db])
            if here != there:
                ring.append(met["u" if da != ea else "v"][a + min(da, ea), b + min(db, eb)])
        if len(ring) >= 3:
            polygons.append(shapely.make_valid(shapely.Polygon(np.array(ring))))
    parts = shapely.get_parts(np.array(polygons, object))
    return _part(surface, shapely.coverage_union_all(parts[shapely.get_type_id(parts) == 3]))


def _crossings(surface: Surface, side: Callable[[Array], Array], uv: Array, values: Array, way: str) -> Array:
    """Places (…, 2) between neighbours along u or v where ``side`` changes its sign, by bisection; zero elsewhere."""
    here, there = (slice(None, -1), slice(1, None))
    one, two = (
        ((here, slice(None)), (there, slice(None))) if way == "u" else ((slice(None), here), (slice(None), there))
    )
    changes = (values[one] > 0) != (values[two] > 0)
    a, b, above = uv[one][changes], uv[two][changes], values[one][changes] > 0
    low, high = np.zeros(len(a)), np.ones(len(a))
    for _ in range(36):
        middle = (low + high) / 2
        same = (side(surface.points(a + middle[:, None] * (b - a))) > 0) == above
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    out = np.zeros((*changes.shape, 2))
    out[changes] = a + low[:, None] * (b - a)
    return out


def _returns(surface: Surface) -> bool:
    """Whether a surface closes on itself, so that a part of it has no single outline in its parameters."""
    return surface.closed_u or surface.closed_v or bool(surface.degenerate)


def _cut_mesh(surface: Surface, side: Callable[[Array], Array]) -> Surface:
    """The part of a surface that closes on itself, as a fine mesh cut along straight lines across its triangles."""
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
