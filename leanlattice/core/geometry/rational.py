"""Rational spline surfaces: the exact form of what exchange files hold."""

from __future__ import annotations

from dataclasses import dataclass
from math import comb

import numpy as np
import scipy
from numpy.typing import NDArray

from .regions import Region
from .surfaces import Surface

__all__ = ["RationalSpline"]

Array = NDArray[np.float64]


def _basis(knots: Array, degree: int, x: Array, order: int) -> Array:
    """Derivatives of the basis functions (m, n) at x (m,) within the clamped knots' range."""
    n = len(knots) - degree - 1
    spline = scipy.interpolate.BSpline(knots, np.eye(n), degree)
    return np.asarray(spline(x, order) if order <= degree else np.zeros((len(x), n)))


@dataclass(frozen=True, eq=False)
class RationalSpline(Surface):
    """Tensor-product rational B-spline (Piegl and Tiller, 1997, ch. 4): control points (n, m, 3) in
    metres with weights (n, m); u and v are shares of the ranges ``range_u`` and ``range_v`` of its
    knots."""

    control: Array
    weights: Array
    knots_u: Array
    knots_v: Array
    degree_u: int
    degree_v: int
    range_u: tuple[float, float]
    range_v: tuple[float, float]
    domain: Region | None = None
    flipped: bool = False

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        homogeneous = np.concatenate(
            [self.control * self.weights[..., None], self.weights[..., None]], axis=2
        )
        su, sv = self.range_u[1] - self.range_u[0], self.range_v[1] - self.range_v[0]
        u = np.clip(self.range_u[0] + su * uv[:, 0], *self.range_u)
        v = np.clip(self.range_v[0] + sv * uv[:, 1], *self.range_v)
        raw = {}
        for i in range(du + 1):
            bu = _basis(self.knots_u, self.degree_u, u, i)
            for j in range(dv + 1):
                bv = _basis(self.knots_v, self.degree_v, v, j)
                raw[i, j] = (
                    np.einsum("kn,km,nmc->kc", bu, bv, homogeneous, optimize=True) * su**i * sv**j
                )
        out: dict[tuple[int, int], Array] = {}
        for i in range(du + 1):
            for j in range(dv + 1):
                # Piegl and Tiller, eq. 4.20: the derivative of the quotient from those of its
                # parts.
                value = raw[i, j][:, :3].copy()
                for a in range(i + 1):
                    for b in range(j + 1):
                        if a + b:
                            value -= comb(i, a) * comb(j, b) * raw[a, b][:, 3:] * out[i - a, j - b]
                out[i, j] = value / raw[0, 0][:, 3:]
        return out[du, dv]
