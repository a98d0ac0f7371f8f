"""Closed and folded meshes as a surface of several charts, each with parameters of its own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from .divided import cut_edges, with_cut_edges
from .meshes import Mesh, half_edges, mesh_of_triangles
from .meshsurface import MeshSurface, chart_surface

__all__ = ["Charted", "charted", "smooth_faces"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
CREASE = np.radians(30)
TURN = np.radians(60)
"""A chart whose faces turn by more than this against their mean is divided by the directions they
look in."""
DIRECTIONS = np.vstack([np.eye(3), -np.eye(3)])
EASING = 10
ON_SIDE = 1e-7
USED = 0.92
"""How much of its square in the common picture a chart takes up."""


@dataclass(frozen=True, eq=False)
class Charted(MeshSurface):
    """A mesh in charts. All lie side by side in the square of parameters; chart ``i`` is
    ``charts[i]``, whose parameters times ``scale[i]`` plus ``low[i]`` are those here, and whose
    vertices are ``vertex_of[i]`` of ``whole``."""

    charts: tuple[MeshSurface, ...] = ()
    low: Array = None  # type: ignore[assignment]
    scale: Array = None  # type: ignore[assignment]
    whole: Mesh = None  # type: ignore[assignment]
    vertex_of: tuple[Index, ...] = ()
    pieced: bool = True

    @cached_property
    def _beyond(self) -> Array:
        """Unit normals (T, 3, 3) of the triangle across each side that lies between charts, zero
        elsewhere."""
        starts = np.concatenate(
            [np.full(len(c.mesh.triangles), i) for i, c in enumerate(self.charts)]
        )
        t = np.concatenate(
            [v[c.mesh.triangles] for v, c in zip(self.vertex_of, self.charts, strict=True)]
        )
        twin = half_edges(t, len(self.whole.vertices))[0].reshape(-1, 3)
        size = np.linalg.norm(self.mesh.triangle_crosses, axis=1, keepdims=True)
        unit = self.mesh.triangle_crosses / np.maximum(size, 1e-300)
        across = (twin >= 0) & (starts[twin // 3] != starts[:, None])
        return np.where(across[:, :, None], unit[twin // 3], 0.0)

    def normals(self, uv: Array) -> Array:
        """Unit normals (n, 3); between charts the mean of both sides."""
        found, share = self.located(uv)
        n = np.einsum("nk,nkd->nd", share, self.mesh.normals[self.mesh.triangles[found]])
        for k in range(3):
            # The side from corner k to the next is where the third corner has no share.
            on = np.abs(share[:, (k + 2) % 3]) < ON_SIDE
            n[on] += self._beyond[found[on], k]
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return -n if self.flipped else n


def _across_creases(mesh: Mesh, crease: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of triangles that meet at less than a ``crease`` (rad)."""
    twin = half_edges(mesh.triangles, len(mesh.vertices))[0]
    unit = mesh.triangle_crosses / np.maximum(
        np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300
    )
    half = np.flatnonzero(twin >= 0)
    one, two = half // 3, twin[half] // 3
    smooth = np.einsum("ij,ij->i", unit[one], unit[two]) > np.cos(crease)
    return one[smooth], two[smooth]


def _connected(pairs: tuple[NDArray[np.int64], NDArray[np.int64]], count: int) -> NDArray[np.int64]:
    graph = scipy.sparse.coo_array((np.ones(len(pairs[0])), pairs), shape=(count, count))
    return np.asarray(scipy.sparse.csgraph.connected_components(graph, directed=False)[1], np.int64)


def smooth_faces(mesh: Mesh, crease: float = CREASE) -> NDArray[np.int64]:
    """The face each triangle (T,) is part of, between creases of at least so much (rad), in the
    order of their first triangles."""
    return _connected(_across_creases(mesh, crease), len(mesh.triangles))


def _turns_much(mesh: Mesh, face: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether the triangles of each face turn too much to lie in one flat picture."""
    cross = mesh.triangle_crosses
    mean: Array = np.stack([np.bincount(face, cross[:, k]) for k in range(3)], axis=1).astype(float)
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-300)
    unit = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-300)
    least = np.ones(face.max() + 1)
    np.minimum.at(least, face, np.einsum("ij,ij->i", unit, mean[face]))
    return least < np.cos(TURN)


def _looking(mesh: Mesh, face: NDArray[np.int64]) -> Array:
    """Normals (T, 3, 3) at the corners of triangles, each from its own face alone, evened out so
    that what looks one way is in few pieces."""
    count = int(face.max()) + 1
    name = mesh.triangles.astype(np.int64) * count + face[:, None]
    _, corner = np.unique(name, return_inverse=True)
    corner = corner.reshape(-1, 3)
    n = np.zeros((corner.max() + 1, 3))
    for k in range(3):
        np.add.at(n, corner[:, k], mesh.triangle_crosses)
    a, b = corner.ravel(), np.roll(corner, -1, axis=1).ravel()
    for _ in range(EASING):
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        n = (
            n
            + np.stack(
                [
                    np.bincount(a, n[b, k], len(n)) + np.bincount(b, n[a, k], len(n))
                    for k in range(3)
                ],
                axis=1,
            )
            / 4
        )
    return n[corner]


def _divided(mesh: Mesh) -> tuple[Mesh, NDArray[np.int64]]:
    """The mesh, cut where faces that turn much change the direction they look in, and the chart of
    each triangle."""
    face = smooth_faces(mesh)
    turning = _turns_much(mesh, face)
    if not turning.any():
        return mesh, face
    values = _looking(mesh, face) @ DIRECTIONS.T
    labels = np.where(turning[face][:, None], np.argmax(values, axis=2), 0).astype(np.int32)
    cuts = cut_edges(mesh.triangles, len(mesh.vertices), labels, values)
    vertices, triangles, label, owner = with_cut_edges(mesh.vertices, mesh.triangles, labels, cuts)
    cut = mesh_of_triangles(vertices, triangles)
    kind = face[owner] * len(DIRECTIONS) + label
    twin = half_edges(triangles, len(vertices))[0]
    half = np.flatnonzero(twin >= 0)
    one, two = half // 3, twin[half] // 3
    same = kind[one] == kind[two]
    return cut, _connected((one[same], two[same]), len(triangles))


def _lies_over_itself(chart: MeshSurface) -> bool:
    """Whether parts of the flat picture cover each other, or its outline touches itself."""
    assert chart.domain is not None
    outline = shapely.Polygon(chart.domain.outer, chart.domain.openings)
    a, b, c = (chart.uv[chart.mesh.triangles[:, k]] for k in range(3))
    doubled = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return (
        not outline.is_valid or abs(np.abs(doubled).sum() / 2 - outline.area) > 1e-6 * outline.area
    )


def _halves(vertices: Array, triangles: Index) -> list[Index]:
    """The connected parts of triangles on either side of the middle of their longest way."""
    middle = vertices[triangles].mean(axis=1)
    centred = middle - middle.mean(axis=0)
    along = centred @ np.linalg.svd(centred, full_matrices=False)[2][0]
    first = np.zeros(len(triangles), bool)
    first[np.argsort(along, kind="stable")[: len(triangles) // 2]] = True
    out = []
    for side in (triangles[first], triangles[~first]):
        twin = half_edges(side, len(vertices))[0]
        half = np.flatnonzero(twin >= 0)
        group = _connected((half // 3, twin[half] // 3), len(side))
        out += [side[group == g] for g in range(int(group.max()) + 1)]
    return out


def charted(mesh: Mesh) -> Charted:
    """Charts of a mesh, one for each smooth face between creases; faces that close on themselves or
    turn by much are divided by the direction they look in. Raises ``MeshError`` where the mesh has
    no faces."""
    whole, chart = _divided(mesh_of_triangles(mesh.vertices, mesh.triangles))
    charts, vertex_of = [], []
    pieces = [whole.triangles[chart == i] for i in range(int(chart.max(initial=-1)) + 1)]
    while pieces:
        triangles = pieces.pop(0)
        used = np.unique(triangles)
        part = mesh_of_triangles(whole.vertices[used], np.searchsorted(used, triangles))
        laid = chart_surface(part)
        if len(triangles) > 1 and _lies_over_itself(laid):
            pieces += _halves(whole.vertices, triangles)
            continue
        charts.append(laid)
        vertex_of.append(used.astype(np.int32))
    across = int(np.ceil(np.sqrt(len(charts))))
    row, column = np.divmod(np.arange(len(charts)), across)
    low = (np.column_stack([column, row]) + (1 - USED) / 2) / across
    scale = np.full((len(charts), 2), USED / across)
    uv = np.vstack([c.uv * scale[i] + low[i] for i, c in enumerate(charts)])
    starts = np.concatenate([[0], np.cumsum([len(v) for v in vertex_of])])
    triangles = np.vstack([c.mesh.triangles + starts[i] for i, c in enumerate(charts)])
    largest = max(charts, key=lambda c: c.mesh.area)
    mesh_apart = mesh_of_triangles(np.vstack([c.mesh.vertices for c in charts]), triangles)
    return Charted(
        mesh_apart,
        uv,
        largest.real,
        None,
        charts=tuple(charts),
        low=low,
        scale=scale,
        whole=whole,
        vertex_of=tuple(vertex_of),
    )
