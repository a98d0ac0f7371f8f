"""Surfaces in exact spline form, for formats that carry one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from .surfaces import Loft

__all__ = ["SplineSurface", "fitted_spline", "spline_points", "spline_surface"]

Array = NDArray[np.float64]


FITS = 1e-6
"""How near (m) splines come to surfaces that are none."""
FEWEST_SPANS, MOST_SPANS = 8, 256


@dataclass(frozen=True, eq=False)
class SplineSurface:
    """A tensor-product B-spline: control points (n, m, 3) in metres, clamped knots and degrees by u
    and by v."""

    control: Array
    knots_u: Array
    knots_v: Array
    degree_u: int
    degree_v: int


def _clamped(breaks: Array) -> Array:
    """Clamped cubic knots over ``breaks``: a spline on them has two continuous derivatives."""
    return np.concatenate([np.repeat(breaks[0], 4), breaks[1:-1], np.repeat(breaks[-1], 4)])


def _greville(knots: Array, degree: int) -> Array:
    return np.lib.stride_tricks.sliding_window_view(knots[1:-1], degree).mean(axis=1)


def spline_surface(surface: Loft) -> SplineSurface:
    """The loft itself, not an approximation: each profile is a cubic spline on its own breaks,
    hence also one on the breaks of all profiles together, and interpolating it at the Greville
    abscissae of those gives its coefficients (de Boor, 1978, ch. XIII). Across, the shares of the
    profiles are splines on the stations.
    """
    breaks = np.unique(np.round(np.concatenate([c.spline.x for c in surface.profiles]), 12))
    knots_u = _clamped(breaks)
    at = _greville(knots_u, 3)
    rows = np.stack(
        [
            scipy.interpolate.make_interp_spline(at, c.points(at), k=3, t=knots_u).c
            for c in surface.profiles
        ]
    )
    knots_v = _clamped(surface.stations)
    across = _greville(knots_v, 3)
    shares: Array = scipy.interpolate.make_interp_spline(
        across, surface.across(across), k=3, t=knots_v
    ).c
    return SplineSurface(np.einsum("mk,knd->nmd", shares, rows), knots_u, knots_v, 3, 3)


def fitted_spline(points: Callable[[Array], Array], off: float = FITS) -> SplineSurface | None:
    """A spline through the ``points`` of a smooth surface, by its parameters, with as many knots as
    it takes to lie within ``off`` (m) of it between them; ``None`` where that is more than
    ``MOST_SPANS``.

    Cubic interpolation at the Greville abscissae comes sixteen times as near with twice the knots
    (de Boor, 1978, ch. XIII).
    """
    spans = [FEWEST_SPANS, FEWEST_SPANS]
    while max(spans) <= MOST_SPANS:
        knots = [_clamped(np.linspace(0.0, 1.0, n + 1)) for n in spans]
        at = [_greville(k, 3) for k in knots]
        u, v = np.meshgrid(*at, indexing="ij")
        rows = points(np.column_stack([u.ravel(), v.ravel()])).reshape(*u.shape, 3)
        across = scipy.interpolate.make_interp_spline(at[0], rows, k=3, t=knots[0]).c
        control = scipy.interpolate.make_interp_spline(
            at[1], across.transpose(1, 0, 2), k=3, t=knots[1]
        ).c
        found = SplineSurface(control.transpose(1, 0, 2), knots[0], knots[1], 3, 3)
        worst = [_worst(points, found, at, axis) for axis in range(2)]
        if max(worst) <= off:
            return found
        spans = [n * 2 if w > off / 2 else n for n, w in zip(spans, worst, strict=True)]
    return None


def _worst(
    points: Callable[[Array], Array], spline: SplineSurface, at: list[Array], axis: int
) -> float:
    """How far (m) a spline is off the surface at the middles between interpolated places along one
    parameter."""
    places = [a if k != axis else (a[1:] + a[:-1]) / 2 for k, a in enumerate(at)]
    u, v = np.meshgrid(*places, indexing="ij")
    true = points(np.column_stack([u.ravel(), v.ravel()])).reshape(*u.shape, 3)
    across = scipy.interpolate.BSpline(spline.knots_u, spline.control, 3)(places[0])
    found = scipy.interpolate.BSpline(spline.knots_v, across.transpose(1, 0, 2), 3)(
        places[1]
    ).transpose(1, 0, 2)
    return float(np.linalg.norm(found - true, axis=2).max())


def spline_points(surface: SplineSurface, uv: Array) -> Array:
    """Points (n, 3) of the spline form at ``uv`` (n, 2)."""
    inner = scipy.interpolate.BSpline(
        surface.knots_v, surface.control.transpose(1, 0, 2), surface.degree_v
    )(uv[:, 1])
    return np.stack(
        [
            scipy.interpolate.BSpline(surface.knots_u, row, surface.degree_u)(u)
            for u, row in zip(uv[:, 0], inner, strict=True)
        ]
    )
