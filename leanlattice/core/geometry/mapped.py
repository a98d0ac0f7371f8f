"""Surfaces carried elsewhere by a map of space, with exact derivatives by the chain rule."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .regions import Region
from .surfaces import Surface

__all__ = ["Affine", "Mapped", "SpaceMap", "mapped"]

Array = NDArray[np.float64]


class SpaceMap(ABC):
    """A map of space with two derivatives."""

    @abstractmethod
    def points(self, p: Array) -> Array:
        """Where points (n, 3) go."""

    @abstractmethod
    def jacobians(self, p: Array) -> Array:
        """First derivatives (n, 3, 3): ``out[n, i, j]`` is the change of coordinate i along j."""

    @abstractmethod
    def hessians(self, p: Array) -> Array:
        """Second derivatives (n, 3, 3, 3): ``out[n, i, j, k]``."""


@dataclass(frozen=True, eq=False)
class Affine(SpaceMap):
    """p ↦ A p + b."""

    matrix: Array
    shift: Array

    def points(self, p: Array) -> Array:
        return p @ self.matrix.T + self.shift

    def jacobians(self, p: Array) -> Array:
        return np.broadcast_to(self.matrix, (len(p), 3, 3))

    def hessians(self, p: Array) -> Array:
        return np.zeros((len(p), 3, 3, 3))

    @property
    def mirrors(self) -> bool:
        """Whether it turns left into right."""
        return bool(np.linalg.det(self.matrix) < 0)

    @staticmethod
    def moving(by: Array) -> Affine:
        return Affine(np.eye(3), np.asarray(by, float))

    @staticmethod
    def turning(axis: Array, angle: float, about: Array) -> Affine:
        """Right-handed turn by ``angle`` (rad) about the line through ``about`` along ``axis``
        (Rodrigues, 1840)."""
        k = np.asarray(axis, float) / np.linalg.norm(axis)
        cross = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
        matrix = np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
        about = np.asarray(about, float)
        return Affine(matrix, about - matrix @ about)

    @staticmethod
    def scaling(factors: Array, about: Array) -> Affine:
        matrix = np.diag(np.asarray(factors, float))
        about = np.asarray(about, float)
        return Affine(matrix, about - matrix @ about)

    @staticmethod
    def mirroring(normal: Array, through: Array) -> Affine:
        """Reflection in the plane through ``through`` square to ``normal`` (Householder, 1958)."""
        n = np.asarray(normal, float) / np.linalg.norm(normal)
        matrix = np.eye(3) - 2 * np.outer(n, n)
        through = np.asarray(through, float)
        return Affine(matrix, through - matrix @ through)

    def after(self, first: Affine) -> Affine:
        """This map after ``first``."""
        return Affine(self.matrix @ first.matrix, self.matrix @ first.shift + self.shift)


@dataclass(frozen=True, eq=False)
class Mapped(Surface):
    """``base`` carried by ``by``."""

    base: Surface
    by: SpaceMap
    closed_u: bool
    closed_v: bool
    degenerate: frozenset[str]
    domain: Region | None
    seams_u: tuple[float, ...]
    seams_v: tuple[float, ...]
    flipped: bool = False

    @property
    def breaks(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return self.base.breaks

    def normals(self, uv: Array) -> Array:
        """Unit normals (n, 3), with the map's derivatives worked out once for both directions."""
        at = self._off_points(np.clip(uv, 0.0, 1.0), 1e-6)
        jacobians = self.by.jacobians(self.base.points(at))
        su, sv = (
            np.einsum("nij,nj->ni", jacobians, self.base.derivatives(at, *o))
            for o in ((1, 0), (0, 1))
        )
        n = np.cross(su, sv)
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return -n if self.flipped else n

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        if isinstance(self.by, Affine):
            straight = self.base.derivatives(uv, du, dv)
            return straight @ self.by.matrix.T if du + dv else self.by.points(straight)
        p = self.base.points(uv)
        if du + dv == 0:
            return self.by.points(p)
        jacobians = self.by.jacobians(p)
        straight = np.einsum("nij,nj->ni", jacobians, self.base.derivatives(uv, du, dv))
        if du + dv == 1:
            return straight
        one = self.base.derivatives(uv, 1, 0) if du else self.base.derivatives(uv, 0, 1)
        two = self.base.derivatives(uv, 0, 1) if dv else one
        return straight + np.einsum("nijk,nj,nk->ni", self.by.hessians(p), one, two)


def mapped(base: Surface, by: SpaceMap) -> Surface:
    """``base`` carried by ``by``; its outside stays its outside, also in a mirror."""
    flipped = base.flipped ^ (isinstance(by, Affine) and by.mirrors)
    return Mapped(
        base,
        by,
        base.closed_u,
        base.closed_v,
        base.degenerate,
        base.domain,
        base.seams_u,
        base.seams_v,
        flipped,
    )
