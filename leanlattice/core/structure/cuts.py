"""Planes that cut ends of members: how far along its axis each place of a section then ends.

Along the axis of an end, whose unit direction a leads into the member, the material at a place q of
the section lies on the kept side of a plane n · x ≤ l, with n · a < 0, from

    s(q) = (l − n · q) / (n · a)

on; of two planes from the larger of both. The saw's length reaches to the least s of the outline
(``far``), the mass counts the mean of s over the section (``mean``).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result
from ..sections import Section
from ..sections.shapes import Outline

__all__ = ["CutBacks", "Cuts", "Outlines", "cut_backs", "outlines_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

PLANES = 2
"""Most planes that cut an end."""


@dataclass(frozen=True, eq=False)
class Cuts(Result):
    """Planes (C) that cut ends, in the order of these and at most two of each.

    ``end`` (C,) is twice the member's number, plus 1 for its last end; ``normal`` (C, 3) is the
    unit direction out of the member, and ``level`` (C,) how far along it, in metres, the plane
    lies from where the member's axis ends.
    """

    end: Index
    normal: Array
    level: Array

    @classmethod
    def none(cls) -> Cuts:
        return cls(np.zeros(0, np.int32), np.zeros((0, 3)), np.zeros(0))

    @cached_property
    def count(self) -> int:
        return len(self.end)

    @cached_property
    def ends_cut(self) -> Index:
        """Ends that one plane or more cut, each once, in their order."""
        return self.end[np.diff(self.end, prepend=-1) > 0]

    def of_ends(self, ends: int) -> tuple[Array, Array]:
        """Normals (ends, 2, 3), 0 where there is no plane, and levels (ends, 2)."""
        normals, levels = np.zeros((ends, PLANES, 3)), np.zeros((ends, PLANES))
        slot = np.arange(self.count) - np.searchsorted(self.end, self.end)
        normals[self.end, slot], levels[self.end, slot] = self.normal, self.level
        return normals, levels


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
        normals, levels = cuts.of_ends(len(away))
        _cut_backs(
            cuts.ends_cut,
            normals,
            levels,
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
def plane_over(normal, level, away, up):  # type: ignore[no-untyped-def]
    """Where a plane meets lines along ``away`` through a section: the value on the axis and what a
    metre along the width and along the height add to it."""
    into = normal[0] * away[0] + normal[1] * away[1] + normal[2] * away[2]
    side0 = up[1] * away[2] - up[2] * away[1]
    side1 = up[2] * away[0] - up[0] * away[2]
    side2 = up[0] * away[1] - up[1] * away[0]
    wide = normal[0] * side0 + normal[1] * side1 + normal[2] * side2
    high = normal[0] * up[0] + normal[1] * up[1] + normal[2] * up[2]
    return level / into, -wide / into, -high / into


@compiled
def _cut_backs(  # type: ignore[no-untyped-def]
    ends, normals, levels, away, up, section_of, scale, radii, corners, rings, first, area, out
):
    """Fills rows ``far``, ``mean``, ``axis`` and ``whole`` of ``out`` (4, n) for the ``ends`` that
    are cut.

    Both values over a section are linear, a0 + ay y + az z: their larger one is the first, and
    where the second is above it, what that adds.
    """
    one, two = np.empty(3), np.empty(3)
    for e in ends:
        k = section_of[e]
        _taken(normals[e], levels[e], away[e], up[e], scale[e], e % 2 == 1, one, two)
        if radii[k, 0] > 0:
            far = _far_round(one, two, radii[k, 0])
            above = _over_disc(one, two, radii[k, 0]) - _over_disc(one, two, radii[k, 1])
            mean = one[0] + above / area[k]
            whole = _most_round(one, two, radii[k, 0])
        else:
            far, whole, total = np.inf, -np.inf, 0.0
            for r in range(first[k], first[k + 1]):
                ring = corners[rings[r] : rings[r + 1]]
                far, whole = min(far, _far(one, two, ring)), max(whole, _most(one, two, ring))
                total += _over(one, two, ring)
            mean = total / area[k]
        out[0, e], out[1, e], out[2, e], out[3, e] = far, mean, max(one[0], two[0]), whole


@compiled
def _taken(normals, levels, away, up, scale, is_last, one, two):  # type: ignore[no-untyped-def]
    """Fills in how far two planes take a section of a ``scale``, on the axis and for each metre of
    width and height; of one plane twice."""
    one[:] = plane_over(normals[0], levels[0], away, up)
    two[:] = one
    if (normals[1] != 0.0).any():
        two[:] = plane_over(normals[1], levels[1], away, up)
    for value in (one, two):
        value[1:] *= scale
        if is_last:
            # Seen from the last end, widths run the other way.
            value[1] = -value[1]


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
