"""What vertices slide on: lines, planes and triangle meshes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..geometry.meshes import Mesh
from ..geometry.meshsurface import nearest_in_triangles
from .kernels import nearest_on_lines
from .problem import Slide

__all__ = ["along_lines", "in_planes", "nearest_on_mesh", "over_mesh"]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
SMOOTH = np.cos(np.radians(20.0))
"""Segments of a line that turn by less are those of a curve."""
LOOKED_AT = 12
"""Triangles with the nearest middles among which the nearest place is looked for."""


def along_lines(vertices: Index, lines: tuple[Array, ...]) -> Slide:
    """Vertices (m,) that slide on polylines (n, 3)."""
    start = np.concatenate([p[:-1] for p in lines])
    step = np.concatenate([np.diff(p, axis=0) for p in lines])
    ways = np.concatenate([_ways(p) for p in lines])
    ends = np.concatenate([_ends(p) for p in lines])

    def nearest(x: Array) -> tuple[Array, Array, Array]:
        at, across, back = np.empty_like(x), np.empty((len(x), 2, 3)), np.empty_like(x)
        nearest_on_lines(np.ascontiguousarray(x), start, step, ways, ends, at, across, back)
        return at, across, back

    return Slide(vertices, lambda x: nearest(x)[0], lambda x: nearest(x)[1], lambda x: nearest(x)[2])


def _closed(line: Array) -> bool:
    return bool(np.linalg.norm(line[0] - line[-1]) < 1e-9)


def _ends(line: Array) -> NDArray[np.bool_]:
    """Whether the line ends at each end of its segments (n − 1, 2)."""
    out = np.zeros((len(line) - 1, 2), bool)
    out[0, 0] = out[-1, 1] = not _closed(line)
    return out


def _ways(line: Array) -> Array:
    """Unit directions (n − 1, 2, 3) at both ends of a polyline's segments: at a slight bend, as on a curve, those of its
    two segments meet in their mean; at a corner each keeps its own."""
    way = np.diff(line, axis=0)
    way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    before, after = np.roll(way, 1, axis=0), np.roll(way, -1, axis=0)
    if not _closed(line):
        before[0], after[-1] = way[0], way[-1]
    ends = []
    for other in (before, after):
        bends = np.einsum("ij,ij->i", way, other) > SMOOTH
        mean = way + np.where(bends[:, None], other, way)
        ends.append(mean / np.linalg.norm(mean, axis=1, keepdims=True))
    return np.stack(ends, axis=1)


def in_planes(vertices: Index, places: Array, normal: Array) -> Slide:
    """Vertices (m,) that each slide in the plane through its place (m, 3) across a unit ``normal``."""

    def onto(x: Array) -> Array:
        return np.asarray(x - ((x - places) @ normal)[:, None] * normal)

    return Slide(vertices, onto, lambda x: np.broadcast_to(normal, (len(x), 1, 3)))


def over_mesh(vertices: Index, mesh: Mesh) -> Slide:
    """Vertices (m,) that slide on the triangles of a mesh."""
    find = nearest_on_mesh(mesh)
    return Slide(vertices, lambda x: find(x)[0], lambda x: find(x)[1][:, None], lambda x: find(x)[2])


def _inward(mesh: Mesh) -> Array:
    """For each corner of a triangle (T, 3, 3) the unit direction to it from the side opposite, where that is a border."""
    t = mesh.triangles
    sides = np.sort(np.stack([t[:, [1, 2]], t[:, [2, 0]], t[:, [0, 1]]], axis=1), axis=2).astype(np.int64)
    keys = sides[..., 0] * len(mesh.vertices) + sides[..., 1]
    _, which, counts = np.unique(keys.ravel(), return_inverse=True, return_counts=True)
    border = counts[which].reshape(keys.shape) == 1
    out = np.zeros((len(t), 3, 3))
    for k in range(3):
        a, b, c = (mesh.vertices[t[:, (k + j) % 3]] for j in (0, 1, 2))
        along = (c - b) / np.maximum(np.linalg.norm(c - b, axis=1, keepdims=True), 1e-300)
        way = a - b - np.einsum("ij,ij->i", a - b, along)[:, None] * along
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
        out[:, k] = np.where(border[:, k, None], way, 0.0)
    return out


def nearest_on_mesh(mesh: Mesh, among: int = LOOKED_AT) -> Callable[[Array], tuple[Array, Array, Array]]:
    """Gives a function of places (n, 3): the nearest places (n, 3) on the mesh, those ``among`` so many triangles with the
    nearest middles, the unit normals (n, 3) there, which run
    evenly between those at the mesh's vertices, and at its border the direction (n, 3) back onto it, elsewhere 0."""
    t = mesh.triangles
    a, b, c = (np.ascontiguousarray(mesh.vertices[t[:, k]]) for k in range(3))
    normals, inward = mesh.normals, _inward(mesh)
    tree = cKDTree((a + b + c) / 3)

    def find(x: Array) -> tuple[Array, Array, Array]:
        near = np.asarray(tree.query(x, k=min(among, len(a)))[1]).reshape(len(x), -1)
        share = nearest_in_triangles(x[:, None], a[near], b[near], c[near])
        at = share[..., :1] * a[near] + share[..., 1:2] * b[near] + share[..., 2:] * c[near]
        best = np.argmin(((at - x[:, None]) ** 2).sum(axis=2), axis=1)
        rows = np.arange(len(x))
        triangle, share = near[rows, best], share[rows, best]
        facing = np.einsum("nk,nkd->nd", share, normals[t[triangle]])
        back = np.einsum("nk,nkd->nd", (share < 1e-9).astype(float), inward[triangle])
        size = np.maximum(np.linalg.norm(back, axis=1, keepdims=True), 1e-300)
        return at[rows, best], facing / np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-300), back / size

    return find
