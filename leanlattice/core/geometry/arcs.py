"""Arcs in space: each over a chord (3,), with a bulge (3,) from the chord's middle to the arc's."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "CIRCLE",
    "arc_lengths",
    "arc_places",
    "arc_with_tangent",
    "carried",
    "nearest_shares_of_arcs",
    "part_bulges",
    "tangents",
    "unit",
    "without_slight",
]

Array = NDArray[np.float64]
STRAIGHT = 1e-12
"""Of a chord, the rise below which an arc over it is straight."""
SLIGHT = 5e-9
"""Metres of rise below which a member is made straight."""
_TURN = np.arange(24) * np.pi / 12
CIRCLE: Array = np.column_stack([np.cos(_TURN), np.sin(_TURN)])
"""Corners (24, 2) of a hole with the radius 1."""


def arc_lengths(chords: Array, bulge: Array) -> Array:
    """Lengths (S,) of arcs over ``chords`` (S, 3) that rise by ``bulge`` (S, 3) in their middles:
    4 R arctan(2 h / c) with R = (c² / 4 + h²) / (2 h)."""
    chord = np.linalg.norm(chords, axis=1)
    rise = np.linalg.norm(bulge, axis=1)
    out = chord.copy()
    bent = rise > STRAIGHT * np.maximum(chord, 1e-300)
    c, h = chord[bent], rise[bent]
    out[bent] = 2 * (c * c / 4 + h * h) / h * np.arctan(2 * h / c)
    return out


def tangents(chords: Array, bulge: Array) -> tuple[Array, Array]:
    """Unit directions (S, 3) in which arcs leave their starts and arrive at their ends: turned from
    the chord by 2 arctan(2 h / c) towards the bulge, and away from it."""
    chord = np.maximum(np.sqrt(np.einsum("ij,ij->i", chords, chords)), 1e-300)[:, None]
    if not bulge.any():
        straight = chords / chord
        return straight, straight
    rise = np.linalg.norm(bulge, axis=1, keepdims=True)
    along = chords / chord
    across = bulge / np.maximum(rise, 1e-300)
    angle = 2 * np.arctan(2 * rise / chord)
    turned = np.sin(angle) * across
    return np.cos(angle) * along + turned, np.cos(angle) * along - turned


def arc_places(starts: Array, chords: Array, bulge: Array, share: Array) -> Array:
    """Places (n, 3) at a ``share`` (n,) of the length of each of n arcs from their ``starts``
    (n, 3).

    By products of sines, so that nothing is lost where an arc is all but straight.
    """
    chord = np.maximum(np.linalg.norm(chords, axis=1), 1e-300)
    rise = np.linalg.norm(bulge, axis=1)
    half = np.maximum(2 * np.arctan(2 * rise / chord), 1e-150)
    angle = (2 * share - 1) * half
    radius = chord / 2 / np.sin(half)
    along = radius * np.sin(angle) + chord / 2
    across = radius * 2 * np.sin((half + angle) / 2) * np.sin((half - angle) / 2)
    outward = bulge / np.maximum(rise, 1e-300)[:, None]
    return np.asarray(
        starts + (along / chord)[:, None] * chords + (across * (rise > 0))[:, None] * outward
    )


def part_bulges(starts: Array, chords: Array, bulge: Array, share: Array) -> Array:
    """Bulges (n, 3) of parts of n arcs, each between two shares (n, 2) of its length."""
    first, middle, last = (
        arc_places(starts, chords, bulge, s) for s in (share[:, 0], share.mean(axis=1), share[:, 1])
    )
    bent = np.linalg.norm(bulge, axis=1) > STRAIGHT * np.linalg.norm(chords, axis=1)
    return np.where(bent[:, None], middle - (first + last) / 2, 0.0)


def without_slight(bulge: Array) -> Array:
    """Bulges (n, 3) of which those below ``SLIGHT`` are 0: what is written in millionths of a
    millimetre is an arc or is straight for everybody."""
    rise = np.linalg.norm(bulge, axis=1, keepdims=True)
    return np.where(rise < SLIGHT, 0.0, bulge)


def arc_with_tangent(chord: Array, leaving: Array) -> Array:
    """Bulge (d,) of the arc over a ``chord`` (d,) that leaves its start in the unit direction
    ``leaving`` (d,): c / 2 · tan(φ / 2) with φ from the chord to it."""
    length = float(np.linalg.norm(chord))
    if length < 1e-300:
        return np.zeros_like(chord)
    along = chord / length
    cosine = float(leaving @ along)
    aside = leaving - cosine * along
    sine = float(np.linalg.norm(aside))
    if sine < STRAIGHT:
        return np.zeros_like(chord)
    return np.asarray(length / 2 * sine / (1 + cosine) * aside / sine)


def carried(vectors: Array, before: Array, after: Array) -> Array:
    """Vectors (..., 3) turned as unit directions turn from ``before`` to ``after`` (..., 3), the
    shortest way (Rodrigues, 1840): of a section along an arc, without a twist."""
    axis = np.cross(before, after)
    cosine = np.einsum("...j,...j->...", before, after)[..., None]
    once = np.cross(axis, vectors)
    return np.asarray(vectors + once + np.cross(axis, once) / np.maximum(1 + cosine, 1e-12))


def unit(vectors: Array) -> Array:
    """Directions (…, 3) of one length; of nothing 0."""
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-300)


def nearest_shares_of_arcs(
    starts: Array, chords: Array, bulge: Array, places: Array
) -> tuple[Array, Array]:
    """Shares (n,) of the lengths of n arcs at which they come nearest to as many ``places``
    (n, 3), and how far away (n,) these are."""
    chord = np.maximum(np.linalg.norm(chords, axis=1), 1e-300)
    rise = np.linalg.norm(bulge, axis=1)
    to = places - starts - chords / 2
    along = np.einsum("ij,ij->i", to, chords) / chord
    across = np.einsum("ij,ij->i", to, bulge) / np.maximum(rise, 1e-300)
    half = 2 * np.arctan(2 * rise / chord)
    bent = rise > STRAIGHT * chord
    turn = np.where(bent, half, 1.0)
    below = rise - chord / 2 / np.sin(turn)
    angle = np.clip(np.arctan2(along, across - np.where(bent, below, 0.0)), -turn, turn)
    share = np.where(bent, (angle / turn + 1) / 2, np.clip(along / chord + 0.5, 0.0, 1.0))
    away = np.linalg.norm(arc_places(starts, chords, bulge, share) - places, axis=1)
    return share, away
