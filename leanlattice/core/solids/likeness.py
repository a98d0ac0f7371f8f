"""Which closed bodies are equal to one another, wherever they are."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..naming.numbering import type_numbers

__all__ = ["measures_of_likeness", "nearly_alike", "solid_types"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
SAME_SIZE = 1e-7
"""Metres by which mirror images differ, by rounding."""
HANDED = 1e-3
"""Share of its size from which a body's third moments tell it from its mirror image."""


def measures_of_likeness(vertices: Array, triangles: Index, offsets: Index) -> Array:
    """Lengths (B, 6) in metres that equal bodies have in common, however they are turned, mirrored
    or moved: the sides of a square of the area of their skin and of a cube of their volume, thrice
    the radii of gyration of the skin about its main axes, and the largest distance of a corner
    from its middle."""
    return _measures(_Skins(vertices, triangles, offsets))


def _measures(skin: _Skins) -> Array:
    """What equal bodies have in common (B, 6), by their skins."""
    moments = np.linalg.eigvalsh(skin.second)
    return np.column_stack(
        [
            np.sqrt(skin.area),
            np.cbrt(skin.volume),
            3 * np.sqrt(np.maximum(moments, 0.0) / skin.area[:, None]),
            skin.reach,
        ]
    )


def solid_types(vertices: Array, triangles: Index, offsets: Index, tolerance: float) -> Index:
    """Types (B,) from 0 of bodies, equal within a ``tolerance`` (m); mirror images are two.

    Body ``i`` has ``triangles[offsets[i]:offsets[i + 1]]`` (rows of ``vertices``).
    """
    skin = _Skins(vertices, triangles, offsets)
    hand = _hands(skin, tolerance)
    features = np.column_stack([_measures(skin), hand * (3 * tolerance)])
    types, _ = type_numbers(features[:, None, :], tolerance)
    return types


def nearly_alike(
    vertices: Array, triangles: Index, offsets: Index, types: Index, apart: float
) -> tuple[Index, Array]:
    """Pairs (n, 2) of types of bodies that differ by little in all that equal ones have in common,
    and by how much (n,) at most. Mirror images, which are of one size, are not told.

    Parameters
    ----------
    vertices, triangles, offsets : body ``i`` has ``triangles[offsets[i]:offsets[i + 1]]``
    types : (B,) of the bodies
    apart : metres by which two types of a pair differ less
    """
    each, first = np.unique(types, return_index=True)
    lengths = measures_of_likeness(vertices, triangles, offsets)[first]
    near = scipy.spatial.cKDTree(lengths).query_pairs(apart, p=np.inf, output_type="ndarray")
    differ = np.abs(lengths[near[:, 0]] - lengths[near[:, 1]]).max(axis=1)
    kept = differ > SAME_SIZE
    return each[near[kept]], differ[kept]


class _Skins:
    """Integrals over the triangles of each body (B), about the middle of its skin."""

    def __init__(self, vertices: Array, triangles: Index, offsets: Index) -> None:
        starts = offsets[:-1]
        owner = np.repeat(np.arange(len(starts)), np.diff(offsets))
        corner = vertices[triangles]
        cross = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        weight = np.linalg.norm(cross, axis=1) / 2
        self.starts, self.owner, self.weight = starts, owner, weight
        self.area = np.add.reduceat(weight, starts)
        centre = np.add.reduceat(weight[:, None] * corner.mean(axis=1), starts, axis=0)
        self.corner = corner - (centre / self.area[:, None])[owner][:, None]
        six = np.einsum("ij,ij->i", self.corner[:, 0], cross)
        self.volume = np.add.reduceat(six, starts) / 6
        far = np.linalg.norm(self.corner, axis=2).max(axis=1)
        self.reach = np.maximum.reduceat(far, starts)
        # Of a triangle about any place: A / 12 (Σ cᵢ cᵢᵀ + s sᵀ), s the sum of its corners.
        s = self.corner.sum(axis=1)
        each = np.einsum("tki,tkj->tij", self.corner, self.corner) + s[:, :, None] * s[:, None]
        self.second = np.add.reduceat(weight[:, None, None] / 12 * each, starts, axis=0)

    def third(self, axes: Array) -> Array:
        """Third moments (B, 3) along the ``axes`` (B, 3, 3; columns) of each."""
        along = np.einsum("tki,tij->tkj", self.corner, axes[self.owner])
        s1, s2, s3 = along.sum(axis=1), (along**2).sum(axis=1), (along**3).sum(axis=1)
        # The mean of x³ over a triangle: complete homogeneous polynomial of its corners by 10.
        mean = (s1**3 + 3 * s1 * s2 + 2 * s3) / 60
        return np.asarray(np.add.reduceat(self.weight[:, None] * mean, self.starts, axis=0))


def _hands(skin: _Skins, tolerance: float) -> Array:
    """Which of two mirror images each body (B,) is, 1 or −1; 0 where they are the same."""
    moments, axes = np.linalg.eigh(skin.second)
    third = skin.third(axes)
    # A body that is as it is seen in a mirror across a main axis has none along it.
    length = np.cbrt(np.abs(third) / skin.area[:, None])
    told = length > np.maximum(tolerance, HANDED * skin.reach)[:, None]
    # Where two axes are of one length, they could be any.
    radius = np.sqrt(np.maximum(moments, 0.0) / skin.area[:, None])
    alike = np.diff(radius, axis=1).min(axis=1) < tolerance
    turned = np.sign(np.linalg.det(axes)) * np.sign(third).prod(axis=1)
    return np.where(told.all(axis=1) & ~alike, turned, 0.0)
