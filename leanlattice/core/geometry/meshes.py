"""Meshes and bodies: faces over shared vertices."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result, result_type
from .nearest import MeshSearch, mesh_search
from .surfaces import Surface
from .triangulation import polygon_triangles

__all__ = [
    "Body",
    "Face",
    "Mesh",
    "MeshError",
    "half_edges",
    "mesh_of_triangles",
    "pieces",
    "used_only",
    "weld",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


FIRST_STEPS, MORE_STEPS = 8, 2
"""Of Newton's method from a sample of a face, and from a place that is all but the nearest."""


class MeshError(ValueError):
    """Faces that do not bound a body, in a sentence."""


@dataclass(frozen=True, eq=False)
class Mesh(Result):
    """Faces over shared vertices (V, 3) in metres, counter-clockwise seen from outside.

    Face ``i`` has the corners ``corners[offsets[i]:offsets[i + 1]]``. ``names`` gives runs of
    vertices that later steps refer to, such as ``"outer border"``.
    """

    vertices: Array
    corners: Index
    offsets: Index
    names: Mapping[str, Index] = field(default_factory=dict)

    @property
    def face_count(self) -> int:
        return len(self.offsets) - 1

    @cached_property
    def triangles(self) -> Index:
        """Triangles (T, 3) that fill the faces."""
        if np.all(np.diff(self.offsets) == 3):
            return self.corners.reshape(-1, 3)
        return polygon_triangles(self.vertices, self.corners, self.offsets)[0]

    @cached_property
    def triangle_crosses(self) -> Array:
        """Twice the vector area (T, 3) of each triangle."""
        a, b, c = (self.vertices[self.triangles[:, k]] for k in range(3))
        return np.cross(b - a, c - a)

    @cached_property
    def area(self) -> float:
        """Area in m² of the triangles."""
        return float(np.linalg.norm(self.triangle_crosses, axis=1).sum() / 2)

    @cached_property
    def normals(self) -> Array:
        """Unit normals (V, 3) at the vertices, weighted by the angle of each face there (Thürmer
        and Wüthrich, 1998)."""
        t = self.triangles
        unit = self.triangle_crosses / np.maximum(
            np.linalg.norm(self.triangle_crosses, axis=1, keepdims=True), 1e-300
        )
        out = np.zeros_like(self.vertices)
        angles = self.corner_angles
        for k in range(3):
            np.add.at(out, t[:, k], unit * angles[:, k, None])
        return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300)

    @cached_property
    def corner_angles(self) -> Array:
        """Angles (T, 3) in radians of the triangles."""
        p = self.vertices[self.triangles]
        out = np.empty(self.triangles.shape)
        for k in range(3):
            a, b = p[:, (k + 1) % 3] - p[:, k], p[:, (k + 2) % 3] - p[:, k]
            out[:, k] = np.arctan2(
                np.linalg.norm(np.cross(a, b), axis=1), np.einsum("ij,ij->i", a, b)
            )
        return out

    @cached_property
    def extent(self) -> Array:
        """Size (3,) in metres along x, y and z."""
        return np.ptp(self.vertices, axis=0) if len(self.vertices) else np.zeros(3)

    @cached_property
    def search(self) -> MeshSearch:
        """Finds the nearest places on the triangles."""
        return mesh_search(self.vertices, self.triangles)

    @cached_property
    def loops(self) -> list[Index]:
        """Border loops, each a run of vertices with the mesh on its left."""
        twin, following = half_edges(self.triangles, len(self.vertices))[:2]
        border = np.flatnonzero(twin < 0)
        flat = self.triangles.ravel()
        after = _next_on_border(border.astype(np.int64), twin, following)
        out, done = [], set()
        chain = dict(zip(border.tolist(), after.tolist(), strict=True))
        for start in border.tolist():
            run, h = [], start
            while h not in done:
                done.add(h)
                run.append(int(flat[h]))
                h = chain[h]
            if run:
                out.append(np.array(run, np.int32))
        return out

    def reversed(self) -> Mesh:
        """The same faces seen from the other side."""
        counts = np.diff(self.offsets)
        k = np.arange(len(self.corners)) - np.repeat(self.offsets[:-1], counts)
        turned = np.repeat(self.offsets[:-1], counts) + (-k) % np.repeat(counts, counts)
        return Mesh(self.vertices, self.corners[turned], self.offsets, self.names)

    def with_vertices(self, vertices: Array) -> Mesh:
        """The same faces over other places."""
        return Mesh(vertices, self.corners, self.offsets, self.names)


@dataclass(frozen=True, eq=False)
class Face:
    """Part of a body that is a curved surface: numbers of its ``triangles`` (n,), the corners of
    which lie ``offset`` (m) outside of ``surface``. Of one that was ``cut`` those along the cut lie
    on what were its triangles only."""

    surface: Surface
    triangles: NDArray[np.integer]
    offset: float = 0.0
    cut: bool = False

    def at(self, uv: Array) -> Array:
        """Places (n, 3) of the face at parameters ``uv`` (n, 2)."""
        places = self.surface.points(uv)
        return places + self.offset * self.surface.normals(uv) if self.offset else places

    def nearest(self, places: Array, known: Array | None = None) -> tuple[Array, Array, Array]:
        """Parameters (n, 2), places (n, 3) and unit normals (n, 3) of the face nearest to
        ``places`` (n, 3); sought from parameters ``known`` (n, 2) where these are numbers."""
        if known is None or not np.isfinite(known).all():
            uv = self.surface.closest(places, FIRST_STEPS)
        else:
            uv = self.surface.closest_from(places, known, MORE_STEPS)
        normals = self.surface.normals(uv)
        return uv, self.surface.points(uv) + self.offset * normals, normals


@result_type("Shape", "shape")
@dataclass(frozen=True, eq=False)
class Body(Result):
    """A closed triangle mesh with outward normals.

    ``skin`` is the surface a lattice lies on where the body was made from one; without it all of
    its faces are. ``faces`` are the parts of it that are curved surfaces; elsewhere its triangles
    are all there is.
    """

    mesh: Mesh
    skin: Surface | None = None
    faces: tuple[Face, ...] = ()

    @property
    def cut(self) -> bool:
        """Whether any of its faces was cut."""
        return any(f.cut for f in self.faces)

    @cached_property
    def face_of(self) -> NDArray[np.int64]:
        """Which of its faces each triangle (T,) is of; −1 where it is of none."""
        out = np.full(len(self.mesh.triangles), -1)
        for k, face in enumerate(self.faces):
            out[face.triangles] = k
        return out

    def reversed(self) -> Body:
        """The same faces seen from the other side."""
        return Body(self.mesh.reversed(), self.skin, self.faces)

    @cached_property
    def volume(self) -> float:
        """Volume in m³ of what its triangles bound, by the divergence theorem."""
        p = self.mesh.vertices[self.mesh.triangles]
        if not len(p):
            return 0.0
        p = p - p.reshape(-1, 3).mean(axis=0)
        return float(np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6)

    @property
    def area(self) -> float:
        """Area in m² of its triangles."""
        return self.mesh.area


def mesh_of_triangles(
    vertices: Array, triangles: NDArray[np.integer], names: Mapping[str, Index] | None = None
) -> Mesh:
    """Mesh of triangles (T, 3)."""
    corners = np.ascontiguousarray(triangles, np.int32).ravel()
    offsets = np.arange(0, len(corners) + 1, 3, dtype=np.int32)
    return Mesh(np.asarray(vertices, float), corners, offsets, names or {})


def half_edges(
    triangles: Index, vertex_count: int
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Twins (3T,) and followers (3T,) of the half-edges of triangles, and half-edges that spoil the
    mesh.

    Half-edge 3t + k runs from corner k of triangle t to the next. A twin is −1 at a border; where
    more than two triangles share an edge, or two run along it the same way, the half-edges are
    listed as spoiling it and stay without a twin.
    """
    count = triangles.size
    a = triangles.ravel().astype(np.int64)
    b = np.roll(triangles, -1, axis=1).ravel().astype(np.int64)
    key = np.minimum(a, b) * vertex_count + np.maximum(a, b)
    order = np.argsort(key, kind="stable")
    sorted_key = key[order]
    first = (
        np.flatnonzero(np.r_[True, sorted_key[1:] != sorted_key[:-1]])
        if count
        else np.zeros(0, np.int64)
    )
    sizes = np.diff(np.r_[first, count])
    twin = np.full(count, -1, np.int64)
    pair = first[sizes == 2]
    one, two = order[pair], order[pair + 1]
    good = a[one] != a[two]
    twin[one[good]], twin[two[good]] = two[good], one[good]
    bad_pairs = np.concatenate([one[~good], two[~good]])
    crowded = np.repeat(sizes > 2, sizes)
    following = np.arange(count).reshape(-1, 3)
    return twin, np.roll(following, -1, axis=1).ravel(), np.concatenate([bad_pairs, order[crowded]])


@compiled
def _next_on_border(border, twin, following):  # type: ignore[no-untyped-def]
    out = np.empty(len(border), np.int64)
    for i in range(len(border)):
        h = following[border[i]]
        while twin[h] >= 0:
            h = following[twin[h]]
        out[i] = h
    return out


def weld(vertices: Array, tolerance: float) -> tuple[Array, Index]:
    """Vertices with those closer than ``tolerance`` (m) made one, and the new number (n,) of
    each."""
    if not len(vertices):
        return vertices, np.zeros(0, np.int32)
    # Equal places first, as that is cheap and what files mostly hold.
    exact, first, number = np.unique(vertices + 0.0, axis=0, return_index=True, return_inverse=True)
    number = number.ravel()
    pairs = (
        scipy.spatial.cKDTree(exact).query_pairs(tolerance, output_type="ndarray")
        if tolerance > 0
        else np.zeros((0, 2), int)
    )
    if len(pairs):
        graph = scipy.sparse.coo_array(
            (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(exact), len(exact))
        )
        group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    else:
        group = np.arange(len(exact), dtype=np.int32)
    # Kept in the order in which they first appear.
    start = np.full(group.max() + 1, len(vertices))
    np.minimum.at(start, group, first)
    rank = np.empty(len(start), np.int64)
    rank[np.argsort(start, kind="stable")] = np.arange(len(start))
    return vertices[np.sort(start)], rank[group[number]].astype(np.int32)


def used_only(vertices: Array, triangles: Index) -> tuple[Array, Index]:
    """Without the vertices no triangle has."""
    used = np.zeros(len(vertices), bool)
    used[triangles] = True
    return vertices[used], (np.cumsum(used) - 1)[triangles].astype(np.int32)


def pieces(triangles: Index, vertex_count: int) -> Index:
    """Which connected piece each triangle (T,) belongs to, counted from 0."""
    a, b = triangles[:, [0, 1]].ravel(), triangles[:, [1, 2]].ravel()
    graph = scipy.sparse.coo_array((np.ones(len(a)), (a, b)), shape=(vertex_count, vertex_count))
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1][triangles[:, 0]]
    return np.unique(group, return_inverse=True)[1].astype(np.int32)
