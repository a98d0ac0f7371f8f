"""What an area is worth as a section: from its rings of corners alone.

All values come from Green's theorem over the rings, the plastic ones from cutting them where two
halves are equal; arcs are given as chords, fine enough for five digits.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

__all__ = ["Area", "area_of", "rounded"]

Array = NDArray[np.float64]
CHORDS = 96
"""Pieces that stand for a quarter of a circle."""


@dataclass(frozen=True)
class Area:
    """An ``area`` in m², its ``centroid`` (y, z) in m, and about axes through that: second moments
    ``inertia_y``, ``inertia_z`` and ``product`` in m⁴, elastic and plastic moduli in m³."""

    area: float
    centroid: tuple[float, float]
    inertia_y: float
    inertia_z: float
    product: float
    elastic_y: float
    elastic_z: float
    plastic_y: float
    plastic_z: float


def area_of(rings: Sequence[Array]) -> Area:
    """What lies between rings (n, 2) of (y, z) in metres is worth: counter-clockwise those round
    it, clockwise those round hollows."""
    area = sum(_moment(ring, lambda y, z: 1.0) for ring in rings)
    y = sum(_moment(ring, lambda y, z: y) for ring in rings) / area
    z = sum(_moment(ring, lambda y, z: z) for ring in rings) / area
    own = [ring - (y, z) for ring in rings]
    inertia_y, inertia_z, product = (
        sum(_second(ring, a, b) for ring in own) for a, b in ((1, 1), (0, 0), (0, 1))
    )
    far = np.abs(np.vstack(own)).max(axis=0)
    return Area(
        area=float(area),
        centroid=(float(y), float(z)),
        inertia_y=float(inertia_y),
        inertia_z=float(inertia_z),
        product=float(product),
        elastic_y=float(inertia_y / far[1]),
        elastic_z=float(inertia_z / far[0]),
        plastic_y=_plastic(own, 1),
        plastic_z=_plastic(own, 0),
    )


def _crosses(ring: Array) -> tuple[Array, Array]:
    """Corners that follow those of a ring, and twice the areas of the triangles to its sides."""
    onward = np.roll(ring, -1, axis=0)
    return onward, ring[:, 0] * onward[:, 1] - onward[:, 0] * ring[:, 1]


def _moment(ring: Array, of: Callable[[Array, Array], Array | float]) -> float:
    """The sum over a ring of what is linear in y and z."""
    onward, cross = _crosses(ring)
    middle = (ring + onward) / 3
    return float(np.sum(cross * of(middle[:, 0], middle[:, 1])) / 2)


def _second(ring: Array, a: int, b: int) -> float:
    """The sum over a ring of coordinate ``a`` times coordinate ``b``."""
    onward, cross = _crosses(ring)
    p, q, r, s = ring[:, a], onward[:, a], ring[:, b], onward[:, b]
    return float(np.sum(cross * (2 * p * r + p * s + q * r + 2 * q * s)) / 24)


def _plastic(rings: Sequence[Array], axis: int) -> float:
    """The first moment of both halves about the line across an ``axis`` that parts them."""
    every = np.vstack(rings)
    whole = sum(_moment(ring, lambda y, z: 1.0) for ring in rings)

    def too_much(level: float) -> float:
        above = (_moment(_above(ring, axis, level), lambda y, z: 1.0) for ring in rings)
        return sum(above) / whole - 0.5

    low, high = float(every[:, axis].min()), float(every[:, axis].max())
    level = float(scipy.optimize.brentq(too_much, low, high, xtol=1e-12 * (high - low)))

    def first(ring: Array) -> float:
        return _moment(ring, lambda y, z: (y, z)[axis] - level)

    above = sum(first(_above(ring, axis, level)) for ring in rings)
    return float(2 * above - sum(map(first, rings)))


def _above(ring: Array, axis: int, level: float) -> Array:
    """The ring (n, 2) of what of a ring lies above a level (Sutherland and Hodgman, 1974)."""
    after = np.roll(ring, -1, axis=0)
    a, b = ring[:, axis] - level, after[:, axis] - level
    crosses = a * b < 0
    share = a / np.where(crosses, a - b, 1.0)
    # Each corner is followed by where its side crosses the level.
    both = np.stack([ring, ring + share[:, None] * (after - ring)], axis=1)
    return np.asarray(both[np.stack([a >= 0, crosses], axis=1)])


def rounded(ring: Array, radii: Sequence[float]) -> Array:
    """A ring (n, 2) whose corners are rounded by ``radii`` (n,), 0 for those that stay sharp."""
    out = []
    for k, radius in enumerate(radii):
        place = ring[k]
        if radius == 0:
            out.append(place[None])
            continue
        back, on = ring[k - 1] - place, ring[(k + 1) % len(ring)] - place
        back, on = back / np.linalg.norm(back), on / np.linalg.norm(on)
        half = np.arccos(np.clip(back @ on, -1.0, 1.0)) / 2
        middle = place + (back + on) / np.linalg.norm(back + on) * radius / np.sin(half)
        reach = radius / np.tan(half)
        starts, ends = (place + reach * way - middle for way in (back, on))
        turn = np.linspace(0.0, 1.0, CHORDS + 1)[:, None] * (np.pi - 2 * half)
        across = ends - (ends @ starts) / radius**2 * starts
        across *= radius / np.linalg.norm(across)
        out.append(middle + np.cos(turn) * starts + np.sin(turn) * across)
    return np.vstack(out)
