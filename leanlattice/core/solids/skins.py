"""Skins of bodies of one form, and many forms of them joined."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Skins", "joined"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Skins:
    """Skins of bodies of one form: ``vertices`` (B, V, 3) in metres and the ``triangles`` (T, 3) of
    each, by the place ``which`` (B,) of each among all."""

    vertices: Array
    triangles: Index
    which: Index


def joined(forms: Sequence[Skins], count: int) -> tuple[Array, Index, Index]:
    """Vertices, triangles and offsets of all ``count`` bodies, in their order, their skins
    outward."""
    sizes = np.zeros(count, np.int64)
    places = np.zeros(count, np.int64)
    for form in forms:
        sizes[form.which] = len(form.triangles)
        places[form.which] = form.vertices.shape[1]
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    first = np.concatenate([[0], np.cumsum(places)])
    vertices = np.empty((first[-1], 3))
    triangles = np.empty((offsets[-1], 3), np.int32)
    for form in forms:
        corner = form.vertices[0][form.triangles] - form.vertices[0, 0]
        six = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])).sum()
        skin = form.triangles if six > 0 else form.triangles[:, ::-1]
        own = first[form.which][:, None] + np.arange(form.vertices.shape[1])
        vertices[own] = form.vertices
        rows = offsets[form.which][:, None] + np.arange(len(skin))
        triangles[rows] = skin + first[form.which][:, None, None]
    return vertices, triangles, offsets
