"""The control box: space bent by moving the points of a box."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.mapped import SpaceMap

__all__ = ["ControlBox", "control_box"]

Array = NDArray[np.float64]


def _bernstein(n: int, x: Array, order: int) -> Array:
    """Derivatives of the n + 1 Bernstein polynomials of degree ``n`` at x (m,): (m, n + 1)."""
    if order > n:
        return np.zeros((len(x), n + 1))
    if order:
        lower = _bernstein(n - 1, x, order - 1)
        out = np.zeros((len(x), n + 1))
        out[:, 1:] += n * lower
        out[:, :-1] -= n * lower
        return out
    k = np.arange(n + 1)
    return scipy.special.comb(n, k) * x[:, None] ** k * (1 - x[:, None]) ** (n - k)


@dataclass(frozen=True, eq=False)
class ControlBox(SpaceMap):
    """Free-form deformation (Sederberg and Parry, 1986): p + Σ B(x) B(y) B(z) · move over the
    points of a box.

    ``moves`` (n, m, k, 3) are how far its points are moved, in metres; without moves nothing
    changes.
    """

    low: Array
    size: Array
    moves: Array

    def _sum(self, p: Array, orders: tuple[int, int, int]) -> Array:
        t = (p - self.low) / self.size
        b = [
            _bernstein(n - 1, t[:, a], o)
            for a, (n, o) in enumerate(zip(self.moves.shape, orders, strict=False))
        ]
        scale = float(np.prod(self.size ** -np.array(orders, float)))
        return np.einsum("ni,nj,nk,ijkc->nc", *b, self.moves, optimize=True) * scale

    def points(self, p: Array) -> Array:
        return p + self._sum(p, (0, 0, 0))

    def jacobians(self, p: Array) -> Array:
        unit = np.eye(3, dtype=int)
        return np.eye(3) + np.stack([self._sum(p, tuple(e)) for e in unit], axis=-1)

    def hessians(self, p: Array) -> Array:
        unit = np.eye(3, dtype=int)
        out = np.empty((len(p), 3, 3, 3))
        for i in range(3):
            for j in range(i, 3):
                out[:, :, i, j] = out[:, :, j, i] = self._sum(p, tuple(unit[i] + unit[j]))
        return out

    @property
    def places(self) -> Array:
        """Where the points of the box lie (n·m·k, 3), moved."""
        return self.rest + self.moves.reshape(-1, 3)

    @property
    def rest(self) -> Array:
        """Where the points of the box lie before they are moved (n·m·k, 3)."""
        shares = [np.linspace(0, 1, n) for n in self.moves.shape[:3]]
        grid = np.stack(np.meshgrid(*shares, indexing="ij"), axis=-1).reshape(-1, 3)
        return self.low + grid * self.size


def control_box(points: Array, counts: tuple[int, int, int], moves: Array) -> ControlBox:
    """Box about ``points`` (n, 3) with ``counts`` points along x, y and z, each moved by ``moves``
    (counts…, 3)."""
    low, size = points.min(axis=0), np.ptp(points, axis=0)
    size = np.maximum(size, 0.02 * max(float(size.max()), 1e-6))
    return ControlBox(low, size, moves.reshape(*counts, 3))
