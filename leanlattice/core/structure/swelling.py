"""Sections that swell along their members: how large they are on the way, and what that weighs.

A segment of a member is of the size ``scale`` says at its two ends, and of another in its middle:
by its ``waist`` larger than the mean of the two. A parabola leads through the three, and is made of
``CONES`` cones of equal length; those are what is drawn, weighed and delivered.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["CONES", "parabola", "scales_at", "swollen_lengths"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

CONES = 8
"""Cones of equal length that a segment is made of whose section has a waist."""
RINGS = ((1 - 0.6**0.5) / 2, 5 / 18), (0.5, 8 / 18), ((1 + 0.6**0.5) / 2, 5 / 18)
AROUND = 144
"""Lines that a tube is taken for where planes cut it: rings by their share of its area and their
weight (Gauss' rule of three points), and lines in each."""


def parabola(start: Array, end: Array, waist: Array, share: Array) -> Array:
    """The scale (n,) on the parabola itself, at a ``share`` (n,) of the length of segments of which
    ``start``, ``end`` and ``waist`` (n,) are given."""
    return np.asarray(start + share * (end - start) + 4 * share * (1 - share) * waist)


def scales_at(start: Array, end: Array, waist: Array, share: Array) -> Array:
    """The section's scale (n,) at a ``share`` (n,) of the length of a segment each, of which
    ``start``, ``end`` and ``waist`` (n,) are given."""
    cone = np.clip(np.floor(share * CONES), 0, CONES - 1)
    low, high = cone / CONES, (cone + 1) / CONES
    a, b = parabola(start, end, waist, low), parabola(start, end, waist, high)
    return np.asarray(a + (share - low) * CONES * (b - a))


def swollen_lengths(
    scale: tuple[Array, Array],
    waist: Array,
    lengths: Array,
    first: Index,
    ends: tuple[Array, Array],
    radii: Array,
) -> Array:
    """Lengths (M,) in metres of members of the section as it is that weigh as much as what is left
    of swelling ones between their cuts: the sum of the cones' h (a² + a b + b²) / 3.

    A swelling tube is a bundle of lines, each at its own share of the radius; between two planes
    that cut lines off where they meet them, it weighs what the lines' cones do on the mean.

    Parameters
    ----------
    scale : (S,), (S,) at the starts and at the ends of segments
    waist, lengths : (S,) of segments, the lengths in metres
    first : (M + 1,) the segment that each member begins with
    ends : set-backs (M, 2) in metres of square cuts, and of planes (M, 2, 2, 3) how far back they
        cut the axis and what a metre across and up adds, not a number where there is none; what
        goes on beyond an end is of the size it has there
    radii : (M, 2) outside and inside of round sections, in metres
    """
    out = np.zeros(len(radii))
    _fill_lengths(*scale, waist, lengths, first, *ends, radii, out)
    return out


@compiled
def _fill_lengths(  # type: ignore[no-untyped-def]
    start, end, waist, length, first, square, planes, radii, out
):
    """Fills in the lengths ``out`` (M,) that members weigh as much as."""
    for m in range(len(out)):
        own = slice(first[m], first[m + 1])
        run, size, done = _knots(start[own], end[own], waist[own], length[own])
        if np.isnan(planes[m]).all():
            low, high = square[m, 0], run[-1] - square[m, 1]
            out[m] = _done_at(high, run, size, done) - _done_at(low, run, size, done)
        else:
            out[m] = _mean_of_lines(square[m], planes[m], radii[m], run, size, done)


@compiled
def _mean_of_lines(square, planes, radii, run, size, done):  # type: ignore[no-untyped-def]
    """What the lines of one member weigh on the mean between planes."""
    out = 0.0
    backward_run, backward_size = run[-1] - run[::-1], size[::-1]
    for share, weight in RINGS:
        radius = np.sqrt(radii[1] ** 2 + share * (radii[0] ** 2 - radii[1] ** 2))
        for k in range(AROUND):
            angle = 2 * np.pi * (k + 0.5) / AROUND
            y, z = radius * np.cos(angle), radius * np.sin(angle)
            low = _met(planes[0], square[0], y, z, run, size)
            # Seen from the last end widths run the other way.
            back = _met(planes[1], square[1], -y, z, backward_run, backward_size)
            high = run[-1] - back
            left = _done_at(high, run, size, done) - _done_at(low, run, size, done)
            out += weight / AROUND * max(left, 0.0)
    return out


@compiled
def _knots(start, end, waist, length):  # type: ignore[no-untyped-def]
    """Of one member, where its cones meet in metres along it, their sizes there, and what they
    weigh up to there, as metres of an even section."""
    run, size = np.zeros(CONES * len(start) + 1), np.empty(CONES * len(start) + 1)
    done = np.zeros(len(run))
    size[0] = start[0]
    for k in range(1, len(run)):
        s = (k - 1) // CONES
        share = (k - s * CONES) / CONES
        run[k] = run[k - 1] + length[s] / CONES
        size[k] = start[s] + share * (end[s] - start[s]) + 4 * share * (1 - share) * waist[s]
        a, b = size[k - 1], size[k]
        done[k] = done[k - 1] + length[s] / CONES * (a * a + a * b + b * b) / 3
    return run, size, done


@compiled
def _done_at(at, run, size, done):  # type: ignore[no-untyped-def]
    """What a member weighs up to a place ``at`` so many metres along it."""
    if at <= run[0]:
        return (at - run[0]) * size[0] ** 2
    if at >= run[-1]:
        return done[-1] + (at - run[-1]) * size[-1] ** 2
    k = np.searchsorted(run, at, "right") - 1
    height = at - run[k]
    a = size[k]
    b = a + height / (run[k + 1] - run[k]) * (size[k + 1] - a)
    return done[k] + height * (a * a + a * b + b * b) / 3


@compiled
def _met(planes, square, y, z, run, size):  # type: ignore[no-untyped-def]
    """How far along a member, in metres, the last of its planes meets the line that lies at
    ``y`` and ``z`` of the section as it is; square cuts stand for planes where there is none."""
    if np.isnan(planes[0, 0]):
        return square
    met = -np.inf
    for plane in planes:
        if np.isnan(plane[0]):
            continue
        slope = plane[1] * y + plane[2] * z
        at = plane[0] + size[0] * slope
        if at > run[0]:
            at = run[-1]
            for k in range(1, len(run)):
                # Beyond the plane from where this is above nothing on.
                low = run[k - 1] - plane[0] - size[k - 1] * slope
                high = run[k] - plane[0] - size[k] * slope
                if high >= 0:
                    at = run[k - 1] + max(-low, 0.0) / max(high - low, 1e-300) * (
                        run[k] - run[k - 1]
                    )
                    break
        met = max(met, at)
    return met
