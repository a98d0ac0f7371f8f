"""Which closed bodies are equal to one another, wherever they are."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
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
    """Integrals over the skin of each body (B), about its middle: ``area`` (B,) in m², ``volume``
    (B,) in m³, ``reach`` (B,) in metres and ``second`` moments (B, 3, 3) in m⁴."""

    def __init__(self, vertices: Array, triangles: Index, offsets: Index) -> None:
        self.shape = vertices, triangles, offsets
        self.area, self.centre = _areas(*self.shape)
        self.volume, self.reach, self.second = _moments(*self.shape, self.centre)

    def third(self, axes: Array) -> Array:
        """Third moments (B, 3) along the ``axes`` (B, 3, 3; columns) of each."""
        return np.asarray(_thirds(*self.shape, self.centre, axes))


@compiled
def _take(  # type: ignore[no-untyped-def]
    corner: Array, normal: Array, vertices: Array, triangle: Index, origin: Array
):
    """Fills in the corners (3, 3) of a triangle from an ``origin``, and what is square to it, as
    long as the triangle is large; returns its area."""
    for k in range(3):
        for i in range(3):
            corner[k, i] = vertices[triangle[k], i] - origin[i]
    for i in range(3):
        j, k = (i + 1) % 3, (i + 2) % 3
        one = (corner[1, j] - corner[0, j]) * (corner[2, k] - corner[0, k])
        two = (corner[1, k] - corner[0, k]) * (corner[2, j] - corner[0, j])
        normal[i] = (one - two) / 2
    return np.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2)


@compiled
def _areas(vertices: Array, triangles: Index, offsets: Index):  # type: ignore[no-untyped-def]
    """Area (B,) and middle (B, 3) of each body's skin."""
    count = len(offsets) - 1
    area, centre = np.zeros(count), np.zeros((count, 3))
    corner, normal, origin = np.empty((3, 3)), np.empty(3), np.zeros(3)
    for body in range(count):
        for t in range(offsets[body], offsets[body + 1]):
            weight = _take(corner, normal, vertices, triangles[t], origin)
            area[body] += weight
            for i in range(3):
                centre[body, i] += weight * (corner[0, i] + corner[1, i] + corner[2, i]) / 3
        centre[body] /= area[body]
    return area, centre


@compiled
def _moments(  # type: ignore[no-untyped-def]
    vertices: Array, triangles: Index, offsets: Index, centre: Array
):
    """Volume, reach and second moments of each body, about the middle of its skin."""
    count = len(offsets) - 1
    volume, reach, second = np.zeros(count), np.zeros(count), np.zeros((count, 3, 3))
    corner, normal, s = np.empty((3, 3)), np.empty(3), np.empty(3)
    for body in range(count):
        for t in range(offsets[body], offsets[body + 1]):
            weight = _take(corner, normal, vertices, triangles[t], centre[body])
            for i in range(3):
                volume[body] += corner[0, i] * normal[i] / 3
                s[i] = corner[0, i] + corner[1, i] + corner[2, i]
                far = corner[i, 0] ** 2 + corner[i, 1] ** 2 + corner[i, 2] ** 2
                reach[body] = max(reach[body], far)
            # Of a triangle about any place: A / 12 (Σ cᵢ cᵢᵀ + s sᵀ), s the sum of its corners.
            for i in range(3):
                for j in range(3):
                    products = s[i] * s[j]
                    for k in range(3):
                        products += corner[k, i] * corner[k, j]
                    second[body, i, j] += weight / 12 * products
    return volume, np.sqrt(reach), second


@compiled
def _thirds(  # type: ignore[no-untyped-def]
    vertices: Array, triangles: Index, offsets: Index, centre: Array, axes: Array
):
    """Third moments along the axes of each body, about the middle of its skin."""
    out = np.zeros((len(offsets) - 1, 3))
    corner, normal = np.empty((3, 3)), np.empty(3)
    for body in range(len(offsets) - 1):
        for t in range(offsets[body], offsets[body + 1]):
            weight = _take(corner, normal, vertices, triangles[t], centre[body])
            for axis in range(3):
                s1, s2, s3 = 0.0, 0.0, 0.0
                for k in range(3):
                    along = 0.0
                    for i in range(3):
                        along += corner[k, i] * axes[body, i, axis]
                    s1, s2, s3 = s1 + along, s2 + along**2, s3 + along**3
                # The mean of x³ over a triangle: complete homogeneous polynomial by 10.
                out[body, axis] += weight * (s1**3 + 3 * s1 * s2 + 2 * s3) / 60
    return out


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
