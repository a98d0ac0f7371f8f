"""Aims towards a shape."""

from __future__ import annotations

import numpy as np

from ..geometry.meshes import Mesh
from .slides import nearest_on_mesh
from .terms import Array, Index, Term, rows

__all__ = ["ShapeCloseness"]


class ShapeCloseness(Term):
    """Vertices drawn to a shape given as a mesh, free to move along it: to planes that touch it at
    their nearest places."""

    name = "closeness to the shape"

    def __init__(self, mesh: Mesh, count: int, strength: float) -> None:
        self._nearest = nearest_on_mesh(mesh)
        self._places, self._normals = np.zeros((count, 3)), np.zeros((count, 3))
        self.vertices = np.arange(count)
        self.matrix = rows(self.vertices[:, None], np.ones(1), count)
        self.weights = np.full(count, strength)

    @property
    def anchored(self) -> Index:
        return self.vertices

    def refresh(self, x: Array) -> None:
        self._places, self._normals, _ = self._nearest(x)

    def targets(self, x: Array) -> Array:
        off = np.einsum("ij,ij->i", x - self._places, self._normals)
        return np.asarray(x - off[:, None] * self._normals)
