"""Curves through points."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

__all__ = ["Curve", "chord_parameters", "first_coincident", "through_points"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Curve:
    """A twice continuously differentiable curve over the parameter range [0, 1].

    A closed curve has the period 1.
    """

    spline: scipy.interpolate.CubicSpline
    closed: bool

    def points(self, t: Array) -> Array:
        """Points (n, 3) in metres at parameters ``t`` (n,)."""
        return self.spline(t)

    def derivatives(self, t: Array, order: int = 1) -> Array:
        """Derivatives (n, 3) of the given order by the parameter."""
        return self.spline(t, order)

    def length(self, samples: int = 256) -> float:
        """Length in metres, by Gauss–Legendre quadrature of the speed on each of ``samples``
        pieces."""
        nodes, weights = np.polynomial.legendre.leggauss(3)
        step = 1.0 / samples
        starts = np.arange(samples)[:, None] * step
        t = (starts + (nodes + 1) * step / 2).ravel()
        speed = np.linalg.norm(self.derivatives(t), axis=1)
        return float(speed @ np.tile(weights, samples) * step / 2)


def chord_parameters(points: Array, closed: bool = False) -> Array:
    """Parameters in [0, 1] in proportion to the accumulated chord length of ``points`` (n, 3).

    For a closed polygon the returned array has n + 1 entries, the last being the return to the
    start.
    """
    path = np.vstack([points, points[:1]]) if closed else points
    chords = np.linalg.norm(np.diff(path, axis=0), axis=1)
    return np.concatenate([[0.0], np.cumsum(chords) / chords.sum()])


def first_coincident(points: Array, closed: bool = False, tolerance: float = 1e-9) -> int | None:
    """Index of the first point that coincides with the next one, or ``None``.

    ``tolerance`` is relative to the extent of the points.
    """
    following = np.roll(points, -1, axis=0) if closed else points[1:]
    gaps = np.linalg.norm(following - points[: len(following)], axis=1)
    hits = np.flatnonzero(gaps <= tolerance * max(float(np.ptp(points, axis=0).max()), 1e-300))
    return int(hits[0]) if hits.size else None


def through_points(points: Array, closed: bool = False) -> Curve:
    """Interpolating cubic spline through ``points`` (n, 3), n ≥ 2 (3 when closed), no two
    neighbours equal.

    Chord-length parameters (Ahlberg, Nilson and Walsh, 1967); not-a-knot end conditions (de Boor,
    1978, ch. IV), periodic when closed. Two points give a straight line and three an arc of a
    parabola.
    """
    t = chord_parameters(points, closed)
    if closed:
        return Curve(
            scipy.interpolate.CubicSpline(t, np.vstack([points, points[:1]]), bc_type="periodic"),
            True,
        )
    return Curve(scipy.interpolate.CubicSpline(t, points), False)
