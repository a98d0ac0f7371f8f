"""Curvature at the vertices of a mesh."""

from __future__ import annotations

import weakref

import numpy as np
from numpy.typing import NDArray

from .meshes import Mesh

__all__ = ["vertex_curvatures"]

Array = NDArray[np.float64]
_known: weakref.WeakKeyDictionary[Mesh, Array] = weakref.WeakKeyDictionary()


def vertex_curvatures(mesh: Mesh) -> Array:
    """Gaussian (1/m²) and mean (1/m) curvature (V, 2) of a triangle mesh; 0 at borders.

    Gaussian curvature is the angle defect over the mixed Voronoi area; mean curvature comes from the cotangent
    Laplacian (Meyer, Desbrun, Schröder and Barr, 2003, eqs. 8–10). It is positive where the mesh bends towards its
    inside, as a ball does.
    """
    if mesh in _known:
        return _known[mesh]
    t, count = mesh.triangles, len(mesh.vertices)
    angles = mesh.corner_angles
    p = mesh.vertices[t]
    area = np.linalg.norm(mesh.triangle_crosses, axis=1) / 2
    cot = 1 / np.tan(np.clip(angles, 1e-6, np.pi - 1e-6))
    obtuse = angles > np.pi / 2
    mixed = np.zeros(count)
    bend = np.zeros((count, 3))
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        side = p[:, j] - p[:, i]
        pull = cot[:, k, None] * side / 2
        np.add.at(bend, t[:, i], pull)
        np.add.at(bend, t[:, j], -pull)
        squares = np.einsum("nd,nd->n", side, side)
        voronoi = squares * cot[:, k] / 8
        for m in (i, j):
            np.add.at(mixed, t[:, m], np.where(obtuse.any(axis=1), 0.0, voronoi))
        np.add.at(mixed, t[:, k], np.where(obtuse.any(axis=1), np.where(obtuse[:, k], area / 2, area / 4), 0.0))
    mixed = np.maximum(mixed, 1e-300)
    gauss = (2 * np.pi - np.bincount(t.ravel(), angles.ravel(), count)) / mixed
    mean = -np.einsum("ij,ij->i", bend, mesh.normals) / (2 * mixed)
    out = np.column_stack([gauss, mean])
    for loop in mesh.loops:
        out[loop] = 0.0
    _known[mesh] = out
    return out
