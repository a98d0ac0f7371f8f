"""Panels of four corners that are twisted cold to corners that lie in no plane: by how much, what
stress that takes, and where they then are."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..materials import MATERIALS

__all__ = [
    "Bending",
    "Twists",
    "are_convex",
    "heights_of_patch",
    "thickest",
    "twist_stresses",
    "twists_of",
]

Array = NDArray[np.float64]
LARGEST_RATIO = 0.45
"""Of Poisson's, where the moduli of a sheet along and across its grain would give more."""
ROUNDS = 12
"""Of Newton's method, which doubles the digits in each."""


class Bending(NamedTuple):
    """What panels are bent for, and how far: those whose corners lie further off their plane than
    ``flat_within`` (m), up to a ``stress`` (Pa)."""

    flat_within: float
    stress: float


class Twists(NamedTuple):
    """How quads (n) are twisted: how far (m) the fourth corner of each is off the plane of the
    other three, ``out``, of a parallelogram exactly; the principal ``curvatures`` (n, 2; 1/m) in
    its middle, the larger first; and the shorter of its middle lines, ``across`` (n,) in metres."""

    out: Array
    curvatures: Array
    across: Array


def twists_of(corners: Array) -> Twists:
    """How quads with ``corners`` (n, 4, 3) in metres are twisted, as patches that are straight
    along both ways: r = a u + b v + t u v, of which t · (a × b) / |a × b| is out of plane."""
    p = np.moveaxis(corners, 1, 0)
    along = (p[1] + p[2] - p[0] - p[3]) / 2
    across = (p[2] + p[3] - p[0] - p[1]) / 2
    normal = np.cross(along, across)
    area = np.maximum(np.linalg.norm(normal, axis=1), 1e-300)
    out = np.einsum("ij,ij->i", p[0] - p[1] + p[2] - p[3], normal) / area
    # Mean and total curvature by both fundamental forms, of which L = N = 0 and M = out.
    mean = -np.einsum("ij,ij->i", along, across) * out / area**2
    apart = np.sqrt(mean**2 + (out / area) ** 2)
    short = np.minimum(*(np.linalg.norm(way, axis=1) for way in (along, across)))
    return Twists(out, np.column_stack([mean + apart, mean - apart]), short)


def twist_stresses(twists: Twists, thickness: Array, material: list[str]) -> Array:
    """Largest tensions (n,) in Pa at the sides of sheets (n) of a ``thickness`` (n,) in metres.

    Bending by small deflections of plates (Timoshenko and Woinowsky-Krieger, 1959, article 21): σ =
    E t / (2 (1 − ν²)) (κ₁ + ν κ₂), which for a rectangle is G t κ, at 45° to its sides. Along these
    comes what stretches the outer of the lines that go the shorter way, as of a strip that is
    twisted far (Timoshenko, 1956, part II, on thin strips): σ = E (h / l)² / 12 where the sheet is
    twisted by h over a length l. Both are estimates: what holds the sheet is no part of them.
    """
    bent, stretched = _stresses(twists, material)
    return np.asarray(stretched / 2 + np.hypot(stretched / 2, bent * thickness))


def thickest(twists: Twists, stress: Array, material: list[str]) -> Array:
    """Thicknesses (n,) in metres up to which twisting sheets (n) takes no more than a ``stress``
    (n,) in Pa; 0 where that is used up by what stretches them, however thin they are."""
    bent, stretched = _stresses(twists, material)
    room = np.maximum(stress * (stress - stretched), 0.0)
    return np.asarray(np.sqrt(room) / np.maximum(bent, 1e-300))


def _stresses(twists: Twists, material: list[str]) -> tuple[Array, Array]:
    """What bends sheets (n), in Pa a metre of their thickness, and what stretches them, in Pa."""
    of = [MATERIALS[name] for name in material]
    stiff, shear = (np.array([getattr(m, k) for m in of]) for k in ("stiffness", "shear_stiffness"))
    ratio = np.clip(stiff / (2 * shear) - 1, 0.0, LARGEST_RATIO)
    mean, apart = twists.curvatures.mean(axis=1), np.diff(twists.curvatures, axis=1)[:, 0] / -2
    bent = shear * ((1 + ratio) / (1 - ratio) * np.abs(mean) + apart)
    return bent, stiff / 12 * (twists.out / twists.across) ** 2


def heights_of_patch(places: Array, corners: Array, heights: Array) -> Array:
    """Heights (k,) at ``places`` (k, 2) of the patch that is straight between ``corners`` (4, 2),
    which go round a convex quad and lie ``heights`` (4,) high, in one unit; or each of a patch of
    its own (k, 4, 2) and (k, 4)."""
    corners, heights = np.moveaxis(corners, -2, 0), np.moveaxis(heights, -1, 0)
    at = np.full((len(places), 2), 0.5)
    for _ in range(ROUNDS):
        u, v = at.T[:, :, None]
        here = _between(corners, u, v)
        by_u = (1 - v) * (corners[1] - corners[0]) + v * (corners[2] - corners[3])
        by_v = (1 - u) * (corners[3] - corners[0]) + u * (corners[2] - corners[1])
        gap = places - here
        size = by_u[:, 0] * by_v[:, 1] - by_u[:, 1] * by_v[:, 0]
        along = (gap[:, 0] * by_v[:, 1] - gap[:, 1] * by_v[:, 0]) / size
        across = (by_u[:, 0] * gap[:, 1] - by_u[:, 1] * gap[:, 0]) / size
        at = at + np.column_stack([along, across])
    u, v = at.T[:, :, None]
    return np.asarray(_between(heights[..., None], u, v)[:, 0])


def _between(corners: Array, u: Array, v: Array) -> Array:
    """Places (k, d) between ``corners`` (4, d) or (4, k, d), by shares (k, 1) along and across."""
    low = (1 - u) * corners[0] + u * corners[1]
    high = (1 - u) * corners[3] + u * corners[2]
    return np.asarray((1 - v) * low + v * high)


def are_convex(corners: Array) -> NDArray[np.bool_]:
    """Whether quads with ``corners`` (n, 4, 3) turn one way (n,) all round, seen square to their
    middle."""
    after = np.roll(corners, -1, axis=1) - corners
    turn = np.cross(np.roll(after, 1, axis=1), after)
    normal = unit(np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1]))
    return np.asarray((np.einsum("nij,nj->ni", turn, normal) > 0).all(axis=1))
