"""Panels of one shape: their types, and what all of a type are cut as."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..naming.numbering import type_numbers
from ..results import remembered
from .panels import Panels

__all__ = ["cut_alike", "shape_types"]

Array = NDArray[np.float64]
Complex = NDArray[np.complex128]
Index = NDArray[np.int32]
ROUNDS = 4
"""How often the mean of a type's shapes is taken anew."""


@remembered
def shape_types(panels: Panels) -> Index:
    """Types (n,) from 0 by sheets, side lengths and the distances between every other corner; where
    those of a type are cut alike, panels that are twisted are of types of their own."""
    counts = np.diff(panels.offsets)
    out, used = np.zeros(panels.count, np.int32), 0
    kinds = np.column_stack([counts, panels.sheet_of, panels.bent & panels.alike])
    for kind in np.unique(kinds, axis=0):
        k, rows = int(kind[0]), np.flatnonzero((kinds == kind).all(axis=1))
        p = panels.places[panels.corners[panels.offsets[rows][:, None] + np.arange(k)]]
        features = np.stack(
            [np.linalg.norm(np.roll(p, -s, axis=1) - p, axis=2) for s in (1, 2)], axis=2
        )
        types, found = type_numbers(features, panels.tolerance)
        out[rows] = types + used
        used += found
    return out


def cut_alike(panels: Panels, flat: Array) -> Array:
    """Corners (C, 2) of panels in their own planes, those of a type all of their mean shape: laid
    over each other by turning and moving them (Kabsch, 1976, in the plane), and from corner to
    corner in between. Those that are twisted stay as they are.

    Parameters
    ----------
    panels : what the corners are of
    flat : (C, 2) their own
    """
    places = flat @ np.array([1.0, 1.0j])
    types = np.where(panels.bent, -1, shape_types(panels))
    order = np.argsort(types, kind="stable")
    starts = np.flatnonzero(np.diff(types[order], prepend=-2)).tolist()
    for first, last in pairwise([*starts, panels.count]):
        rows = order[first:last]
        if types[rows[0]] >= 0 and len(rows) > 1:
            corners = int(panels.offsets[rows[0] + 1] - panels.offsets[rows[0]])
            at = panels.offsets[rows][:, None] + np.arange(corners)
            places[at] = _all_of_their_mean(places[at])
    return np.column_stack([places.real, places.imag])


def _all_of_their_mean(shapes: Complex) -> Complex:
    """Each of ``shapes`` (m, k) as their mean, laid over it."""
    middle = shapes.mean(axis=1, keepdims=True)
    own, mean = shapes - middle, shapes[0] - middle[0]
    first = np.zeros(len(own), np.int64)
    turn = np.ones(len(own), np.complex128)
    around = np.arange(own.shape[1])
    for _ in range(ROUNDS):
        first, turn = _laid_over(own, mean)
        rolled = np.take_along_axis(own, (first[:, None] + around) % len(around), axis=1)
        mean = (rolled * turn[:, None]).mean(axis=0)
    return middle + mean[(around - first[:, None]) % len(around)] / turn[:, None]


def _laid_over(own: Complex, mean: Complex) -> tuple[NDArray[np.int64], Complex]:
    """The corner (m,) of each of shapes (m, k) about their middles that lies over the first of the
    ``mean`` (k,) where they are turned by unit numbers (m,) so that they lie over it best."""
    turned = [(np.roll(own, -s, axis=1).conj() * mean).sum(axis=1) for s in range(own.shape[1])]
    fits = np.stack(turned, axis=1)
    first = np.abs(fits).argmax(axis=1)
    best = fits[np.arange(len(own)), first]
    return first, best / np.maximum(np.abs(best), 1e-300)
