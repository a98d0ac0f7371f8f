"""Standard forms as surfaces with all derivatives: round ones, cones, ruled ones.

Every one is a sum of products of a function of u and one of v, kept as a table of terms: a vector
times f(u) times g(v). The n-th derivative of each function is known in closed form, so that of the
surface is too.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .regions import Region
from .surfaces import JET, Surface

__all__ = [
    "Form", "barrel", "cone", "conoid", "cylinder", "ellipsoid", "hyperbolic_paraboloid", "plane", "sphere",
    "torus",
]  # fmt: skip

Array = NDArray[np.float64]
Function = Callable[[Array, int], Array]


@dataclass(frozen=True)
class Power:
    """(start + size · x)ⁿ for n = 0, 1, 2 with all its derivatives."""

    exponent: int
    start: float = 0.0
    size: float = 1.0

    def __call__(self, x: Array, order: int) -> Array:
        n = self.exponent
        if order > n:
            return np.zeros_like(x)
        base = self.start + self.size * x
        factor = float(np.prod(np.arange(n, n - order, -1))) * self.size**order
        return factor * base ** (n - order)


@dataclass(frozen=True)
class Wave:
    """sin(start + size · x + phase): its n-th derivative is sizeⁿ sin(… + n π/2)."""

    start: float
    size: float
    phase: float = 0.0

    def __call__(self, x: Array, order: int) -> Array:
        turned = self.start + self.size * x + self.phase + order * np.pi / 2
        return self.size**order * np.sin(turned)


QUARTER = np.pi / 2
ONE: Function = Power(0)


@dataclass(frozen=True, eq=False)
class Form(Surface):
    """Sum of ``vector · f(u) · g(v)`` over ``terms``."""

    terms: tuple[tuple[Array, Function, Function], ...]
    closed_u: bool = False
    closed_v: bool = False
    degenerate: frozenset[str] = frozenset()
    flipped: bool = False
    domain: Region | None = None

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        u, v = uv[:, 0], uv[:, 1]
        out = np.zeros((len(uv), 3))
        for vector, f, g in self.terms:
            out += (f(u, du) * g(v, dv))[:, None] * vector
        return out

    def jet(self, uv: Array) -> tuple[Array, ...]:
        known: dict[tuple[Function, int, int], Array] = {}

        def of(function: Function, axis: int, order: int) -> Array:
            key = (function, axis, order)
            if key not in known:
                known[key] = function(uv[:, axis], order)
            return known[key]

        vectors = np.array([vector for vector, _, _ in self.terms])
        return tuple(
            np.stack([of(f, 0, du) * of(g, 1, dv) for _, f, g in self.terms], axis=1) @ vectors
            for du, dv in JET
        )


X, Y, Z = np.eye(3)
FULL = 2 * np.pi


def ellipsoid(
    centre: Array, radii: Array, lowest: float = -QUARTER, highest: float = QUARTER
) -> Form:
    """Ellipsoid with half axes ``radii`` (3,), between two latitudes (rad): u runs round, v from
    low to high."""
    round_x, round_y = Wave(0, FULL, QUARTER), Wave(0, FULL)
    span = highest - lowest
    out, up = Wave(lowest, span, QUARTER), Wave(lowest, span)
    terms = (
        (np.asarray(centre, float), ONE, ONE), (radii[0] * X, round_x, out), (radii[1] * Y, round_y, out),
        (radii[2] * Z, ONE, up),
    )  # fmt: skip
    poles = {"v0"} if lowest <= -QUARTER + 1e-12 else set()
    return Form(
        terms,
        closed_u=True,
        degenerate=frozenset(poles | ({"v1"} if highest >= QUARTER - 1e-12 else set())),
    )


def sphere(centre: Array, radius: float) -> Form:
    """The whole sphere."""
    return ellipsoid(centre, np.full(3, radius))


def torus(centre: Array, ring: float, tube: float) -> Form:
    """Torus about the upright through ``centre``: the tube's middle runs at radius ``ring``."""
    round_x, round_y = Wave(0, FULL, QUARTER), Wave(0, FULL)
    across, up = Wave(0, FULL, QUARTER), Wave(0, FULL)
    terms = (
        (np.asarray(centre, float), ONE, ONE), (ring * X, round_x, ONE), (ring * Y, round_y, ONE),
        (tube * X, round_x, across), (tube * Y, round_y, across), (tube * Z, ONE, up),
    )  # fmt: skip
    return Form(terms, closed_u=True, closed_v=True)


def cylinder(centre: Array, radius: float, height: float) -> Form:
    """Upright cylinder on ``centre``; u runs round, v upward."""
    terms = (
        (np.asarray(centre, float), ONE, ONE), (radius * X, Wave(0, FULL, QUARTER), ONE),
        (radius * Y, Wave(0, FULL), ONE), (height * Z, ONE, Power(1)),
    )  # fmt: skip
    return Form(terms, closed_u=True)


def barrel(centre: Array, span: float, rise: float, length: float) -> Form:
    """Barrel vault of circular section over ``centre``: u across (along x), v along its length
    (along y)."""
    a = span / 2
    radius = (a * a + rise * rise) / (2 * rise)
    half = float(np.arctan2(a, radius - rise))
    base = np.asarray(centre, float) + [0, -length / 2, rise - radius]
    across, up = Wave(-half, 2 * half), Wave(-half, 2 * half, QUARTER)
    terms = (
        (base, ONE, ONE),
        (radius * X, across, ONE),
        (radius * Z, up, ONE),
        (length * Y, ONE, Power(1)),
    )
    return Form(terms)


def cone(centre: Array, radius: float, top: float, height: float) -> Form:
    """Upright cone on ``centre`` with radius ``radius`` below and ``top`` above (0 for a point)."""
    narrowing = Power(1, radius, top - radius)
    terms = (
        (np.asarray(centre, float), ONE, ONE), (X, Wave(0, FULL, QUARTER), narrowing),
        (Y, Wave(0, FULL), narrowing), (height * Z, ONE, Power(1)),
    )  # fmt: skip
    return Form(terms, closed_u=True, degenerate=frozenset({"v1"} if top == 0 else ()))


def conoid(centre: Array, width: float, length: float, rise: float, end_rise: float) -> Form:
    """Parabolic conoid over ``centre`` (3,), ``width`` wide along x and ``length`` long along y
    (m): straight lines along y from a parabola of ``rise`` to one of ``end_rise`` (0: a level
    line)."""
    half = width / 2
    bow = Power(2, -1.0, 2.0)
    lift = Power(1, rise, end_rise - rise)
    terms = (
        (np.asarray(centre, float) - [half, length / 2, 0], ONE, ONE), (width * X, Power(1), ONE),
        (length * Y, ONE, Power(1)), (Z, ONE, lift), (-Z, bow, lift),
    )  # fmt: skip
    return Form(terms)


def hyperbolic_paraboloid(corners: Array) -> Form:
    """The bilinear surface through four corners (4, 3): (0, 0), (1, 0), (1, 1), (0, 1) in (u,
    v)."""
    a, b, c, d = np.asarray(corners, float)
    terms = (
        (a, ONE, ONE),
        (b - a, Power(1), ONE),
        (d - a, ONE, Power(1)),
        (a - b + c - d, Power(1), Power(1)),
    )
    return Form(terms)


def plane(origin: Array, along_u: Array, along_v: Array, domain: Region | None = None) -> Form:
    """The parallelogram at ``origin`` with the given sides, or the part of it in ``domain``."""
    terms = (
        (np.asarray(origin, float), ONE, ONE), (np.asarray(along_u, float), Power(1), ONE),
        (np.asarray(along_v, float), ONE, Power(1)),
    )  # fmt: skip
    return Form(terms, domain=domain)
