"""How corners move where several faces, or two sides, move by so much at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["BLUNT", "corners_moved_in", "mitres_of_faces"]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
BLUNT = 0.1
"""Cosine by which corners are moved no further where sides are all but one line back."""


def corners_moved_in(square: Array, before: Index, distance: Array) -> Array:
    """How corners (n, 3) of polygons move for the side after each to move inward by its own
    ``distance`` (n,) in metres.

    ``square`` (n, 3) are unit directions into the polygons, square to these sides, and ``before``
    (n,) the corners before each.
    """
    one, other = square, square[before]
    cosine = np.einsum("ij,ij->i", one, other)
    both = (distance + distance[before]) / 2 / np.maximum(1 + cosine, BLUNT)
    apart = (distance - distance[before]) / 2 / np.maximum(1 - cosine, BLUNT)
    return np.asarray(both[:, None] * (one + other) + apart[:, None] * (one - other))


def mitres_of_faces(count: int, at: Index, normals: Array, weights: Array, sharp: float) -> Array:
    """How vertices (count, 3) move for the faces about them to move a metre out, as nearly as can
    be: the smallest d with Σ w (n·d − 1)² → min, along the normal where faces are one plane.

    Parameters
    ----------
    count : number of vertices
    at : (k,) the vertex of each corner of a face
    normals : (k, 3) unit normals of the faces
    weights : (k,) of these
    sharp : share of the largest spread of normals below which they count as one plane
    """
    matrix, right = np.zeros((count, 3, 3)), np.zeros((count, 3))
    np.add.at(matrix, at, weights[:, None, None] * normals[:, :, None] * normals[:, None, :])
    np.add.at(right, at, weights[:, None] * normals)
    values, vectors = np.linalg.eigh(matrix)
    usable = values > sharp * values[:, 2:]
    along = np.einsum("nij,ni->nj", vectors, right)
    share = np.where(usable, along / np.where(usable, values, 1.0), 0.0)
    return np.asarray(np.einsum("nij,nj->ni", vectors, share))
