"""Curvature at the vertices of a mesh."""

from __future__ import annotations

import weakref

import numpy as np
import scipy
from numpy.typing import NDArray

from .meshes import Mesh

__all__ = ["vertex_curvatures"]

Array = NDArray[np.float64]
_known: weakref.WeakKeyDictionary[Mesh, Array] = weakref.WeakKeyDictionary()


HUB = 24
"""Through a vertex with more neighbours than this nothing else is looked for."""
FEWEST = 5
"""Neighbours without which nothing can be said."""


def vertex_curvatures(mesh: Mesh) -> Array:
    """Gaussian (1/m²) and mean (1/m) curvature (V, 2) of a triangle mesh; 0 at borders.

    By the osculating paraboloid at each vertex, fitted over its neighbours and theirs, nearer ones
    counting more (Cazals and Pouget, 2005, osculating jets of order 2), which holds however unequal
    the triangles are. Mean curvature is positive where the mesh bends towards its inside, as a ball
    does.
    """
    if mesh in _known:
        return _known[mesh]
    count = len(mesh.vertices)
    centre, other = _near(mesh)
    normal = mesh.normals
    x = _across(normal)
    y = np.cross(normal, x)
    step = mesh.vertices[other] - mesh.vertices[centre]
    size = np.linalg.norm(step, axis=1)
    reach = np.bincount(centre, size, count) / np.maximum(np.bincount(centre, minlength=count), 1)
    # In units of the mean distance, so that large and small meshes are solved alike well.
    step /= np.maximum(reach, 1e-300)[centre, None]
    u, v, w = (np.einsum("ij,ij->i", step, axis[centre]) for axis in (x, y, normal))
    terms = np.column_stack([u, v, u * u / 2, u * v, v * v / 2])
    weight = 1 / np.maximum(np.einsum("ij,ij->i", step, step), 1e-6)
    matrix, right = np.zeros((count, 25)), np.zeros((count, 5))
    products = (terms[:, :, None] * terms[:, None, :]).reshape(-1, 25)
    for k in range(25):
        matrix[:, k] = np.bincount(centre, weight * products[:, k], count)
    for k in range(5):
        right[:, k] = np.bincount(centre, weight * terms[:, k] * w, count)
    # Neighbours in one line leave some of it open, which is then the least.
    firm = 1e-9 + 1e-12 * matrix[:, ::6].sum(axis=1)
    matrix = matrix.reshape(-1, 5, 5) + firm[:, None, None] * np.eye(5)
    p, q, a, b, c = np.linalg.solve(matrix, right[:, :, None])[:, :, 0].T
    root = np.sqrt(1 + p * p + q * q)
    e, f, g, area2 = 1 + p * p, p * q, 1 + q * q, root * root
    reach = np.maximum(reach, 1e-300)
    gauss = (a * c - b * b) / (root**2 * area2 * reach**2)
    mean = -(e * c - 2 * f * b + g * a) / (2 * root * area2 * reach)
    out = np.column_stack([gauss, mean])
    out[np.bincount(centre, minlength=count) < FEWEST] = 0.0
    for loop in mesh.loops:
        out[loop] = 0.0
    _known[mesh] = out
    return out


def _near(mesh: Mesh) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of a vertex and one at most two edges away."""
    t, count = mesh.triangles, len(mesh.vertices)
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    graph = scipy.sparse.coo_array(
        (np.ones(2 * len(a), bool), (np.r_[a, b], np.r_[b, a])), shape=(count, count)
    ).tocsr()
    valence = np.diff(graph.indptr)
    through = scipy.sparse.diags_array((valence <= HUB).astype(float))
    pairs = (graph + graph.astype(float) @ through @ graph.astype(float)).tocoo()
    apart = pairs.row != pairs.col
    return pairs.row[apart].astype(np.int64), pairs.col[apart].astype(np.int64)


def _across(normal: Array) -> Array:
    """Unit directions (V, 3) square to unit normals."""
    least = np.eye(3)[np.argmin(np.abs(normal), axis=1)]
    x = np.cross(normal, least)
    return np.asarray(x / np.maximum(np.linalg.norm(x, axis=1, keepdims=True), 1e-300))
