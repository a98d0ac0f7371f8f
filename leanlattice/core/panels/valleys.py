"""At which angles neighbouring panels meet, where they lean towards each other, and the joint that
keeps them apart there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..geometry.polygons import best_planes
from .panels import Panels

__all__ = ["Leaning", "fold_angles", "leaning_panels"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Leaning:
    """Sides (k) at which two panels lean towards each other: the ``panel`` and its ``neighbour``
    (k,), the middle ``at`` (k, 3) of the side, and the ``joint`` (k,) in metres that is needed for
    them to be clear of each other."""

    panel: Index
    neighbour: Index
    at: Array
    joint: Array


def leaning_panels(panels: Panels) -> Leaning:
    """All sides between two panels, each once.

    Panels are square to their planes along their sides, half a joint from the edge. Where their
    planes turn by θ, each comes nearer to the other by the sine of θ/2 times what it rises; above
    the edge in a valley, below it on a ridge. With half a joint j / 2 they are clear as long as
    j ≥ (h₁ + h₂) tan(θ/2), h being how far each rises from the edge to that side.
    """
    owner = _owners(panels)
    side = np.flatnonzero(panels.neighbour > owner)
    one, two = owner[side], panels.neighbour[side]
    cosine, is_valley = _turns(panels, side)
    top, bottom = panels.raised + panels.thicknesses, -panels.raised
    rises = [np.maximum(np.where(is_valley, top[own], bottom), 0.0) for own in (one, two)]
    half = np.sqrt((1 - cosine) / np.maximum(1 + cosine, 1e-12))
    start, end = panels.places[panels.corners[side]], panels.places[panels.next_corner[side]]
    return Leaning(one, two, (start + end) / 2, (rises[0] + rises[1]) * half)


def fold_angles(panels: Panels) -> Array:
    """Angles (C,) in radians at which panels meet at their sides, in the order of ``corners``,
    measured below them: less than π on a ridge, more in a valley; not a number at borders.

    That is by how far their planes turn about the side. Those of panels that are not quite flat
    turn otherwise too, which is no part of it.
    """
    out = np.full(len(panels.corners), np.nan)
    side = np.flatnonzero(panels.neighbour >= 0)
    normals = best_planes(panels.places, panels.corners, panels.offsets)[1]
    one, two = normals[_owners(panels)[side]], normals[panels.neighbour[side]]
    along = unit(panels.places[panels.next_corner[side]] - panels.places[panels.corners[side]])
    sine = np.einsum("ij,ij->i", np.cross(one, two), along)
    out[side] = np.pi - np.arctan2(sine, np.einsum("ij,ij->i", one, two))
    return out


def _owners(panels: Panels) -> Index:
    """The panel (C,) each side is of."""
    return np.repeat(np.arange(panels.count, dtype=np.int32), np.diff(panels.offsets))


def _turns(panels: Panels, side: NDArray[np.int64]) -> tuple[Array, NDArray[np.bool_]]:
    """Cosines (k,) of the angles by which planes turn at sides (k,) between two panels, and whether
    they turn upward."""
    one, two = _owners(panels)[side], panels.neighbour[side]
    start, end = panels.places[panels.corners[side]], panels.places[panels.next_corner[side]]
    normals = best_planes(panels.places, panels.corners, panels.offsets)[1]
    # Out of the first panel across its side; the second's normal leans that way on a ridge.
    across = np.cross(end - start, normals[one])
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    cosine = np.clip(np.einsum("ij,ij->i", normals[one], normals[two]), -1.0, 1.0)
    return cosine, np.einsum("ij,ij->i", normals[two], across) < 0
