"""Surfaces in exact spline form, for formats that carry one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, make_interp_spline

from .surfaces import Loft

__all__ = ["SplineSurface", "spline_points", "spline_surface"]

Array = NDArray[np.float64]


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
        [make_interp_spline(at, c.points(at), k=3, t=knots_u).c for c in surface.profiles]
    )
    knots_v = _clamped(surface.stations)
    across = _greville(knots_v, 3)
    shares: Array = make_interp_spline(across, surface.across(across), k=3, t=knots_v).c
    return SplineSurface(np.einsum("mk,knd->nmd", shares, rows), knots_u, knots_v, 3, 3)


def spline_points(surface: SplineSurface, uv: Array) -> Array:
    """Points (n, 3) of the spline form at ``uv`` (n, 2)."""
    inner = BSpline(surface.knots_v, surface.control.transpose(1, 0, 2), surface.degree_v)(uv[:, 1])
    return np.stack(
        [
            BSpline(surface.knots_u, row, surface.degree_u)(u)
            for u, row in zip(uv[:, 0], inner, strict=True)
        ]
    )
