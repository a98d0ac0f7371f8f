"""Drawn curves: from a type and a few points to a path."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray

from .curves import chord_parameters
from .paths import ArcPiece, CubicPiece, LinePiece, Path

__all__ = [
    "DRAWN",
    "Drawn",
    "arc_through",
    "circle_path",
    "closed_polygon",
    "cubics_through",
    "path_of",
    "polyline_path",
]

Array = NDArray[np.float64]


def polyline_path(points: Array, closed: bool = False) -> Path:
    """Straight pieces through ``points`` (n, 2)."""
    ring = np.vstack([points, points[:1]]) if closed else points
    return Path(tuple(LinePiece(a, b) for a, b in pairwise(ring)), closed)


def closed_polygon(points: Array) -> Path:
    return polyline_path(points, True)


def circle_path(centre: Array, radius: float, first: float = 0.0) -> Path:
    """A full circle, counter-clockwise, as four arcs."""
    quarter = np.pi / 2
    return Path(
        tuple(ArcPiece(centre, radius, first + k * quarter, quarter) for k in range(4)), True
    )


def arc_through(a: Array, m: Array, b: Array) -> Path:
    """The arc from ``a`` through ``m`` to ``b``; a line where they lie on one."""
    u, v = m - a, b - a
    doubled = 2 * (u[0] * v[1] - u[1] * v[0])
    if abs(doubled) < 1e-12 * max(float(u @ u), float(v @ v), 1e-300):
        return polyline_path(np.array([a, b]))
    centre = (
        a + np.array([v[1] * (u @ u) - u[1] * (v @ v), u[0] * (v @ v) - v[0] * (u @ u)]) / doubled
    )
    angles = [float(np.arctan2(*(p - centre)[::-1])) for p in (a, m, b)]
    ahead = (angles[2] - angles[0]) % (2 * np.pi)
    by_middle = (angles[1] - angles[0]) % (2 * np.pi)
    sweep = ahead if by_middle <= ahead else ahead - 2 * np.pi
    return Path((ArcPiece(centre, float(np.linalg.norm(a - centre)), angles[0], sweep),), False)


def cubics_through(points: Array, closed: bool = False) -> Path:
    """Interpolating cubic spline through ``points`` (n, 2), chord-length parameters, not-a-knot
    ends or periodic."""
    t = chord_parameters(points, closed)
    ring = np.vstack([points, points[:1]]) if closed else points
    spline = scipy.interpolate.CubicSpline(t, ring, bc_type="periodic" if closed else "not-a-knot")
    places = spline(t)
    slopes = spline.derivative()(t)
    pieces = []
    for i, h in enumerate(np.diff(t)):
        pieces.append(
            CubicPiece(
                np.array(
                    [
                        places[i],
                        places[i] + h / 3 * slopes[i],
                        places[i + 1] - h / 3 * slopes[i + 1],
                        places[i + 1],
                    ]
                )
            )
        )
    return Path(tuple(pieces), closed, t)


def _control_path(points: Array, closed: bool = False) -> Path:
    """Uniform cubic B-spline of control points (n, 2); an open one begins and ends at the first and
    last of them."""
    p = (
        np.vstack([points[-1:], points, points[:2]])
        if closed
        else np.vstack([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])
    )
    pieces = []
    for a, b, c, d in zip(p[:-3], p[1:-2], p[2:-1], p[3:], strict=True):
        pieces.append(
            CubicPiece(
                np.array(
                    [(a + 4 * b + c) / 6, (2 * b + c) / 3, (b + 2 * c) / 3, (b + 4 * c + d) / 6]
                )
            )
        )
    return Path(tuple(pieces), closed)


def _rectangle(p: Array) -> Path:
    (x0, y0), (x1, y1) = np.minimum(p[0], p[1]), np.maximum(p[0], p[1])
    return closed_polygon(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))


@dataclass(frozen=True)
class Drawn:
    """An entry of the table: its name in words, whether it is closed, how many points it takes, and
    its path."""

    title: str
    closed: bool
    least: int
    most: int
    build: Callable[[Array], Path]


DRAWN: dict[str, Drawn] = {
    "line": Drawn("line", False, 2, 2000, polyline_path),
    "polygon": Drawn("polygon", True, 3, 2000, closed_polygon),
    "rectangle": Drawn("rectangle", True, 2, 2, _rectangle),
    "circle": Drawn(
        "circle",
        True,
        2,
        2,
        lambda p: circle_path(
            p[0], float(np.linalg.norm(p[1] - p[0])), float(np.arctan2(*(p[1] - p[0])[::-1]))
        ),
    ),
    "arc": Drawn("arc", False, 3, 3, lambda p: arc_through(p[0], p[1], p[2])),
    "spline": Drawn("curve through points", False, 2, 500, cubics_through),
    "loop": Drawn("closed curve through points", True, 3, 500, lambda p: cubics_through(p, True)),
    "guided": Drawn("curve by control points", False, 2, 500, _control_path),
    "guided loop": Drawn(
        "closed curve by control points", True, 3, 500, lambda p: _control_path(p, True)
    ),
}


def path_of(kind: str, points: Sequence[Sequence[float]]) -> Path:
    """Path of a drawn curve. The kind is an entry of ``DRAWN`` and the points suit it."""
    return DRAWN[kind].build(np.array(points, float))
