"""How far back ends lie that planes and saddles cut.

The saw's length reaches to the least s of the section's outline (``far``), the mass counts the mean
of s over the section (``mean``), with s as ``cuts`` has it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..sections import Section
from ..sections.shapes import Outline
from .cuts import OVER, Cuts, over_at, taken_by_two

__all__ = ["CutBacks", "Outlines", "cut_backs", "outlines_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
AROUND = 360
"""Places round a circle at which saddles are looked at."""
SHARES, WEIGHTS = np.polynomial.legendre.leggauss(6)
"""By which saddles are weighed from the inside of a ring to its outside."""


@dataclass(frozen=True, eq=False)
class Outlines:
    """Outlines (K) of sections: ``radii`` (K, 2) outside and inside of round ones, 0 for none; the
    corners (Q, 2) of others as (y, z), ring r from ``rings[r]`` to ``rings[r + 1]``, those of
    section k from ``first[k]`` to ``first[k + 1]``, counter-clockwise round what is there and
    clockwise round hollows; ``area`` (K,) between them. In metres."""

    radii: Array
    corners: Array
    rings: Index
    first: Index
    area: Array

    def corners_of(self, section: int) -> Array:
        """All corners (n, 2) of a section that is not round."""
        return self.corners[slice(*self.rings[self.first[section : section + 2]])]


@dataclass(frozen=True, eq=False)
class CutBacks:
    """Of ends (n,), in metres from where their axes end: ``far`` and ``mean`` as above; ``axis``,
    where the axis leaves the material; and ``whole``, from where on all of the section is there.
    NaN for ends that no plane cuts."""

    far: Array
    mean: Array
    axis: Array
    whole: Array


@lru_cache(maxsize=64)
def outlines_of(sections: tuple[Section, ...]) -> Outlines:
    """Outlines of sections, with sharp corners as they are drawn."""
    runs: list[Array] = [np.zeros((0, 2))]
    radii, areas, first = [], [], [0]
    for section in sections:
        own, loops = (0.0, 0.0), []
        if section.shape.round:
            own = _radii(section.shape.outline(4))
        else:
            loops = [ring for piece in section.shape.pieces() for ring in _turned(piece)]
        runs += loops
        radii.append(own)
        first.append(first[-1] + len(loops))
        areas.append(np.pi * (own[0] ** 2 - own[1] ** 2) + sum(map(_area, loops)))
    return Outlines(
        radii=np.array(radii, float).reshape(-1, 2),
        corners=np.ascontiguousarray(np.vstack(runs)),
        rings=np.cumsum([len(run) for run in runs]).astype(np.int32),
        first=np.array(first, np.int32),
        area=np.array(areas),
    )


def _radii(outline: Outline) -> tuple[float, float]:
    """Outside and inside of a ring between circles, whose corners start on an axis."""
    outer, inner = outline
    return float(np.abs(outer).max()), 0.0 if inner is None else float(np.abs(inner).max())


def _turned(outline: Outline) -> list[Array]:
    """The rings of an outline, that of a hollow clockwise."""
    outer, inner = outline
    return [outer] if inner is None else [outer, inner[::-1]]


def _area(ring: Array) -> float:
    """Signed area of a ring (n, 2)."""
    y, z = ring.T
    return float(y @ np.roll(z, -1) - z @ np.roll(y, -1)) / 2


def cut_backs(
    cuts: Cuts, away: Array, up: Array, section_of: Index, scale: Array, outlines: Outlines
) -> CutBacks:
    """How far back ends (n,) lie that planes cut.

    Parameters
    ----------
    cuts : planes that cut some of the ends
    away, up : (n, 3) unit directions of each end into its member and of the section's height
    section_of : (n,) the section of each in ``outlines``
    scale : (n,) of the section at the end
    outlines : of the sections
    """
    out = np.full((4, len(away)), np.nan)
    if cuts.count:
        _cut_backs(
            cuts.ends_cut,
            cuts.rows_of_ends(len(away)),
            away,
            up,
            section_of,
            scale,
            outlines.radii,
            outlines.corners,
            outlines.rings,
            outlines.first,
            outlines.area,
            out,
        )
    return CutBacks(*out)


@compiled
def _cut_backs(  # type: ignore[no-untyped-def]
    ends, cuts, away, up, section_of, scale, radii, corners, rings, first, area, out
):
    """Fills rows ``far``, ``mean``, ``axis`` and ``whole`` of ``out`` (4, n) for the ``ends`` that
    are cut.

    Over a section the values of two planes are linear, a0 + ay y + az z: their larger one is the
    first, and where the second is above it, what that adds. Saddles are looked at place by place.
    """
    one, two = np.empty(OVER), np.empty(OVER)
    for e in ends:
        k = section_of[e]
        taken_by_two(cuts[e], away[e], up[e], one, two)
        _scaled(one, scale[e], e % 2 == 1)
        _scaled(two, scale[e], e % 2 == 1)
        if one[3] > 0 or two[3] > 0:
            far, whole = _rim_of_saddles(one, two, radii[k, 0])
            mean = _mean_of_saddles(one, two, radii[k, 0], radii[k, 1])
        elif radii[k, 0] > 0:
            far, whole, above = _of_ring(one, two, radii[k, 0], radii[k, 1])
            mean = one[0] + above / area[k]
        else:
            far, whole, total = _of_rings(one, two, corners, rings[first[k] : first[k + 1] + 1])
            mean = total / area[k]
        axis = max(over_at(one, 0.0, 0.0), over_at(two, 0.0, 0.0))
        out[0, e], out[1, e], out[2, e], out[3, e] = far, mean, axis, whole


@compiled
def _of_ring(one, two, outer, inner):  # type: ignore[no-untyped-def]
    """The least and the most of the larger value of two planes over a ring between circles, and the
    sum over its area of what the second is above the first."""
    above = _over_disc(one, two, outer) - _over_disc(one, two, inner)
    return _far_round(one, two, outer), _most_round(one, two, outer), above


@compiled
def _of_rings(one, two, corners, rings):  # type: ignore[no-untyped-def]
    """The least and the most of the larger value over polygons, and its sum over their area; the
    ``corners`` (Q, 2) of each begin at one of ``rings`` and end before the next."""
    far, whole, total = np.inf, -np.inf, 0.0
    for r in range(len(rings) - 1):
        ring = corners[rings[r] : rings[r + 1]]
        far, whole = min(far, _far(one, two, ring)), max(whole, _most(one, two, ring))
        total += _over(one, two, ring)
    return far, whole, total


@compiled
def _scaled(over, scale, is_last):  # type: ignore[no-untyped-def]
    """Turns what a cut takes of a section into what it takes of it before it was scaled; seen from
    the last end, widths run the other way."""
    for k in (1, 2, 5, 6):
        over[k] *= scale
    if is_last:
        over[1], over[5] = -over[1], -over[5]


@compiled
def _larger(one, two, radius, angle):  # type: ignore[no-untyped-def]
    """How far the farther of two cuts takes a place on a circle about the axis."""
    y, z = radius * np.sin(angle), radius * np.cos(angle)
    return max(over_at(one, y, z), over_at(two, y, z))


@compiled
def _rim_of_saddles(one, two, radius):  # type: ignore[no-untyped-def]
    """The least and the most of the larger value round a circle: over all the section, too, as
    along c no value bends, and aside of it a saddle only rises to its middle."""
    step = 2 * np.pi / AROUND
    least, most, low, high = np.inf, -np.inf, 0.0, 0.0
    for k in range(AROUND):
        value = _larger(one, two, radius, k * step)
        if value < least:
            least, low = value, k * step
        if value > most:
            most, high = value, k * step
    least = min(least, _extreme(one, two, radius, low, step, 1.0))
    most = max(most, -_extreme(one, two, radius, high, step, -1.0))
    return least, most


@compiled
def _extreme(one, two, radius, angle, step, sign):  # type: ignore[no-untyped-def]
    """The least of ``sign`` times the larger value within a ``step`` of an ``angle``, by golden
    sections."""
    a, b = angle - step, angle + step
    share = (np.sqrt(5.0) - 1) / 2
    for _ in range(40):
        c, d = b - share * (b - a), a + share * (b - a)
        if sign * _larger(one, two, radius, c) < sign * _larger(one, two, radius, d):
            b = d
        else:
            a = c
    return sign * _larger(one, two, radius, (a + b) / 2)


@compiled
def _mean_of_saddles(one, two, outer, inner):  # type: ignore[no-untyped-def]
    """The mean of the larger value over a ring, by Gauss' rule over its area."""
    total = 0.0
    for n in range(len(SHARES)):
        share = (1 + SHARES[n]) / 2
        radius = np.sqrt(inner * inner + share * (outer * outer - inner * inner))
        around = 0.0
        for k in range(AROUND):
            around += _larger(one, two, radius, 2 * np.pi * k / AROUND)
        total += WEIGHTS[n] / 2 * around / AROUND
    return total


@compiled
def _at(value, place):  # type: ignore[no-untyped-def]
    """A linear value at a place (2,)."""
    return value[0] + value[1] * place[0] + value[2] * place[1]


@compiled
def _far(one, two, ring):  # type: ignore[no-untyped-def]
    """The least of the larger value over a polygon: at a corner, or where both are equal on a
    side."""
    far = np.inf
    for i in range(len(ring)):
        j = (i + 1) % len(ring)
        s1, s2 = _at(one, ring[i]), _at(one, ring[j])
        d1, d2 = _at(two, ring[i]) - s1, _at(two, ring[j]) - s2
        far = min(far, s1 + max(d1, 0.0))
        if d1 * d2 < 0:
            far = min(far, s1 + d1 / (d1 - d2) * (s2 - s1))
    return far


@compiled
def _most(one, two, ring):  # type: ignore[no-untyped-def]
    """The most of both values over a polygon."""
    most = -np.inf
    for corner in ring:
        most = max(most, _at(one, corner), _at(two, corner))
    return most


@compiled
def _most_round(one, two, radius):  # type: ignore[no-untyped-def]
    """The most of both values over a disc."""
    first = one[0] + radius * np.sqrt(one[1] * one[1] + one[2] * one[2])
    second = two[0] + radius * np.sqrt(two[1] * two[1] + two[2] * two[2])
    return max(first, second)


@compiled
def _far_round(one, two, radius):  # type: ignore[no-untyped-def]
    """The least of the larger value over a disc: on its rim where one of them falls most, or where
    both are equal there."""
    for value, other in ((one, two), (two, one)):
        slope = np.sqrt(value[1] * value[1] + value[2] * value[2])
        if slope < 1e-12:
            y, z = 0.0, 0.0
        else:
            y, z = -radius * value[1] / slope, -radius * value[2] / slope
        least = value[0] + value[1] * y + value[2] * z
        if other[0] + other[1] * y + other[2] * z <= least + 1e-12:
            return least
    more, wide, high = two[0] - one[0], two[1] - one[1], two[2] - one[2]
    slope = np.sqrt(wide * wide + high * high)
    away = -more / slope
    half = np.sqrt(max(radius**2 - away**2, 0.0))
    middle = one[0] + (one[1] * wide + one[2] * high) * away / slope
    return middle - half * abs(one[2] * wide - one[1] * high) / slope


@compiled
def _over_disc(one, two, radius):  # type: ignore[no-untyped-def]
    """What the second value is above the first, summed over a disc: beyond a line c from its
    middle, g (2/3 (r² − c²)^(3/2) − c (r² arccos(c / r) − c √(r² − c²))) where it grows by g."""
    more, wide, high = two[0] - one[0], two[1] - one[1], two[2] - one[2]
    slope = np.sqrt(wide * wide + high * high)
    if radius == 0 or slope * radius < 1e-12:
        return max(more, 0.0) * np.pi * radius**2
    c = -more / slope
    if c <= -radius:
        return more * np.pi * radius**2
    if c >= radius:
        return 0.0
    chord = np.sqrt(radius**2 - c**2)
    segment = radius**2 * np.arccos(c / radius) - c * chord
    return slope * (2 / 3 * chord**3 - c * segment)


@compiled
def _over(one, two, ring):  # type: ignore[no-untyped-def]
    """The larger value summed over a polygon round its middle: the first, and what the second is
    above it, over the triangles from the middle to the sides."""
    total = 0.0
    for i in range(len(ring)):
        j = (i + 1) % len(ring)
        s1, s2 = _at(one, ring[i]), _at(one, ring[j])
        d1, d2 = _at(two, ring[i]) - s1, _at(two, ring[j]) - s2
        mean = (one[0] + s1 + s2) / 3 + _positive(two[0] - one[0], d1, d2)
        total += (ring[i, 0] * ring[j, 1] - ring[j, 0] * ring[i, 1]) / 2 * mean
    return total


@compiled
def _positive(a, b, c):  # type: ignore[no-untyped-def]
    """Mean over a triangle of the positive part of a linear function, from its values at the
    corners: a whole one is their mean, and one corner above nothing, a say, cuts off a triangle of
    the share a² / ((a − b) (a − c)), over which the mean is a / 3."""
    above = int(a > 0) + int(b > 0) + int(c > 0)
    mean = (a + b + c) / 3
    if above == 0 or above == 3:
        return mean if above == 3 else 0.0
    if above == 2:
        return mean + _corner(-a, -b, -c)
    return _corner(a, b, c)


@compiled
def _corner(a, b, c):  # type: ignore[no-untyped-def]
    """What ``_positive`` is where one of the values is above nothing."""
    if b > 0:
        a, b = b, a
    if c > 0:
        a, c = c, a
    return a**3 / (3 * (a - b) * (a - c)) if a > 0 else 0.0
