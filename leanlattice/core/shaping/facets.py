"""Shapes as triangles: to be drawn, measured and made into bodies."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.curvature import vertex_curvatures
from ..geometry.meshes import Body, Mesh, half_edges, mesh_of_triangles
from ..geometry.meshsurface import MeshSurface
from ..geometry.surfaces import Surface
from ..geometry.triangulation import polygon_triangles
from ..patterns.lay import flat_pattern, lines_at_seams
from ..results import Result

__all__ = ["BAYS", "CREASE", "Facets", "creased", "facets", "feature_edges", "surface_mesh"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

CREASE = np.radians(30)
"""Faces that meet at more than this are drawn with a sharp edge."""
BAYS = 48
MOST_LINES = 6000
COVERS_KEPT = 24


@dataclass(frozen=True, eq=False)
class Facets(Result):
    """What is drawn of a shape: ``points`` (n, 3) with ``normals`` on the outside, ``triangles``
    over them, ``borders`` and creases, and ``lines`` of even u and v or, of a coarse mesh, between
    its faces.

    ``mesh`` is the same without doubled points at creases, ``vertex`` (n,) the vertex of it each
    point is. ``uv`` are parameters of the vertices where the shape has some.
    """

    shape: Surface | Body
    mesh: Mesh
    points: Array
    normals: Array
    triangles: Index
    borders: Index
    lines: Index
    vertex: Index
    uv: Array | None

    @cached_property
    def slopes(self) -> Array:
        """Angle (n,) in radians of the surface to the horizontal: 0 level, π/2 upright."""
        return np.arccos(np.clip(np.abs(self.normals[:, 2]), 0.0, 1.0))

    @cached_property
    def curvatures(self) -> Array:
        """Gaussian and mean curvature (n, 2) at the points."""
        if (
            isinstance(self.shape, Surface)
            and not isinstance(self.shape, MeshSurface)
            and self.uv is not None
        ):
            at = self.shape._off_points(np.clip(self.uv, 0.0, 1.0), 1e-3)
            return self.shape.curvatures(at)[self.vertex]
        out = vertex_curvatures(self.mesh)
        if isinstance(self.shape, Surface) and self.shape.flipped:
            out = out * [1.0, -1.0]
        return out[self.vertex]


def display_bays(surface: Surface) -> tuple[int, int]:
    """Bays along u and v in which a surface is drawn: enough for a line along each crease."""
    u, v = (
        int(np.clip(4 * (len(seams) + 1), BAYS, 4 * BAYS))
        for seams in (surface.seams_u, surface.seams_v)
    )
    return u, v


def surface_mesh(surface: Surface, bays: tuple[int, int] | None = None) -> tuple[Mesh, Array]:
    """Welded triangle mesh of a surface with its outside outward, and the parameters (V, 2) of its
    vertices."""
    if isinstance(surface, MeshSurface):
        mesh = surface.mesh.reversed() if surface.flipped else surface.mesh
        return mesh, surface.uv
    uv, triangles = _cover(surface, bays or display_bays(surface))
    points = surface.points(uv)
    crosses = np.cross(
        points[triangles[:, 1]] - points[triangles[:, 0]],
        points[triangles[:, 2]] - points[triangles[:, 0]],
    )
    size = np.linalg.norm(crosses, axis=1)
    return mesh_of_triangles(
        points, triangles[size > 1e-14 * max(size.max(initial=0.0), 1e-300)]
    ), uv


_covers: OrderedDict[Hashable, tuple[Array, Index]] = OrderedDict()


def _cover(surface: Surface, bays: tuple[int, int]) -> tuple[Array, Index]:
    """Parameters and triangles that cover a surface. The last few are kept: while a surface is
    dragged, what it covers of its parameters mostly stays."""
    rings = () if surface.domain is None else (surface.domain.outer, *surface.domain.openings)
    key = (
        bays,
        surface.closed_u,
        surface.closed_v,
        tuple(sorted(surface.degenerate)),
        surface.seams_u,
        surface.seams_v,
        surface.flipped,
        tuple(r.tobytes() for r in rings),
    )
    if key not in _covers:
        flat = flat_pattern(surface, "quads", bays, follow=True)
        _covers[key] = flat.uv, polygon_triangles(flat.uv, flat.corners, flat.offsets)[0]
        while len(_covers) > COVERS_KEPT:
            _covers.popitem(last=False)
    _covers.move_to_end(key)
    return _covers[key]


def creased(mesh: Mesh, crease: float = CREASE) -> tuple[Index, Array, Index]:
    """Vertex (n,) and normal (n, 3) of points that are doubled where faces meet sharply, and
    triangles over them."""
    t = mesh.triangles
    unit = mesh.triangle_crosses / np.maximum(
        np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300
    )
    weights = mesh.corner_angles.ravel()
    corner_vertex = t.ravel()
    order = np.argsort(corner_vertex, kind="stable")
    valence = np.bincount(corner_vertex, minlength=len(mesh.vertices))
    start = np.concatenate([[0], np.cumsum(valence)])[:-1]
    sums = np.zeros((t.size, 3))
    for v in np.unique(valence[valence > 0]):
        at = order[start[valence == v][:, None] + np.arange(v)]
        n = unit[at // 3]
        near = np.einsum("aid,ajd->aij", n, n) > np.cos(crease)
        sums[at] = np.einsum("aij,aj,ajd->aid", near.astype(float), weights[at], n)
    sums /= np.maximum(np.linalg.norm(sums, axis=1, keepdims=True), 1e-300)
    key = np.round(sums * 500).astype(np.int64)
    code = (
        ((corner_vertex.astype(np.int64) * 1024 + key[:, 0] + 500) * 1024 + key[:, 1] + 500) * 1024
        + key[:, 2]
        + 500
    )
    _, first, number = np.unique(code, return_index=True, return_inverse=True)
    return corner_vertex[first], sums[first], number.reshape(-1, 3).astype(np.int32)


def feature_edges(mesh: Mesh, crease: float = CREASE) -> Index:
    """Edges (n, 2) at borders and where faces meet at more than ``crease`` (rad)."""
    t = mesh.triangles
    twin = half_edges(t, len(mesh.vertices))[0]
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    unit = mesh.triangle_crosses / np.maximum(
        np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300
    )
    owner = np.arange(t.size) // 3
    sharp = (twin < 0) | (np.einsum("ij,ij->i", unit[owner], unit[owner[twin]]) < np.cos(crease))
    once = sharp & ((twin < 0) | (np.arange(t.size) < twin))
    return np.column_stack([a[once], b[once]]).astype(np.int32)


def _face_edges(mesh: Mesh) -> Index:
    """Edges (n, 2) between faces, each once."""
    following = np.roll(mesh.corners, -1)
    following[mesh.offsets[1:] - 1] = mesh.corners[mesh.offsets[:-1]]
    pairs = np.sort(np.column_stack([mesh.corners, following]), axis=1)
    return np.unique(pairs, axis=0).astype(np.int32)


def _even_lines(surface: Surface, mesh: Mesh, uv: Array) -> Index:
    """Mesh edges along every sixth line of u and of v."""
    t = mesh.triangles
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    on = np.zeros(len(a), bool)
    for axis, seams in enumerate((surface.seams_u, surface.seams_v)):
        bays = display_bays(surface)[axis]
        step = bays // 8
        even, real = lines_at_seams(seams, bays)
        line = np.interp(uv[:, axis], real, even) * bays
        whole = (np.abs(line - np.round(line)) < 1e-6) & (np.round(line).astype(int) % step == 0)
        on |= whole[a] & whole[b] & (np.abs(line[a] - line[b]) < 1e-6)
    pairs = np.sort(np.column_stack([a[on], b[on]]), axis=1)
    code = np.unique(pairs[:, 0].astype(np.int64) * len(uv) + pairs[:, 1])
    return np.column_stack(np.divmod(code, len(uv))).astype(np.int32)


def facets(shape: Surface | Body) -> Facets:
    """Triangles, normals and lines that show a shape; worked out once for each."""
    known: Facets | None = shape.__dict__.get("_facets")
    if known is None:
        known = _facets(shape)
        shape.__dict__["_facets"] = known  # as a cached property would: the shape itself is frozen
    return known


def _facets(shape: Surface | Body) -> Facets:
    if isinstance(shape, Body):
        mesh, uv = shape.mesh, None
    else:
        mesh, uv = surface_mesh(shape)
    smooth = (
        isinstance(shape, Surface)
        and not isinstance(shape, MeshSurface)
        and not (shape.seams_u or shape.seams_v)
    )
    if smooth and isinstance(shape, Surface) and uv is not None:
        vertex = np.arange(len(mesh.vertices), dtype=np.int32)
        normals, triangles = shape.normals(uv), mesh.triangles
    else:
        vertex, normals, triangles = creased(mesh)
    if isinstance(shape, Surface) and not isinstance(shape, MeshSurface) and uv is not None:
        lines = _even_lines(shape, mesh, uv)
    elif (
        isinstance(shape, MeshSurface)
        and shape.faces is not None
        and shape.faces.face_count <= MOST_LINES
    ):
        lines = _face_edges(shape.faces)
    else:
        lines = np.zeros((0, 2), np.int32)
    point_of = np.zeros(len(mesh.vertices), np.int32)
    point_of[vertex] = np.arange(len(vertex), dtype=np.int32)
    return Facets(
        shape,
        mesh,
        mesh.vertices[vertex],
        normals,
        triangles,
        point_of[feature_edges(mesh)],
        point_of[lines],
        vertex,
        uv,
    )


def neighbours(mesh: Mesh) -> tuple[Index, Index]:
    """Neighbours of every vertex as flat numbers with offsets (V + 1,)."""
    t = mesh.triangles
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    graph = scipy.sparse.coo_array(
        (np.ones(2 * len(a)), (np.r_[a, b], np.r_[b, a])), shape=(len(mesh.vertices),) * 2
    ).tocsr()
    return graph.indices.astype(np.int32), graph.indptr.astype(np.int32)
