"""Ribs as triangles, for what draws them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import Rib

__all__ = ["meshed"]

SEEN = 1 / 3000
"""Share of the whole below which nothing is seen of a detail."""


def meshed(
    ribs: Sequence[Rib],
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Plates as places (n, 3) in metres and triangles (m, 3), the rib (m,) each is of, and the outlines of both faces as
    pairs of places (k, 2); details too small to be seen in a picture of all are left out."""
    corners = [r.places(np.array(r.shape.bounds).reshape(2, 2)) for r in ribs if not r.shape.is_empty]
    fine = float(np.ptp(np.concatenate(corners), axis=0).max()) * SEEN if corners else 0.0
    places, triangles, owner, pairs = [np.zeros((0, 3))], [np.zeros((0, 3), np.int64)], [], [np.zeros((0, 2), np.int64)]
    base = 0
    for k, rib in enumerate(ribs):
        if rib.shape.is_empty:
            continue
        outlines = [shapely.get_coordinates(r)[:-1] for r in (rib.shape.exterior, *rib.shape.interiors)]
        section = manifold3d.CrossSection(outlines, manifold3d.FillRule.EvenOdd).simplify(fine)
        # An outline first, then the openings in it.
        rings = sorted((np.asarray(r) for r in section.to_polygons()), key=lambda r: -float(np.ptp(r[:, 0])))
        if not rings:
            continue
        flat = np.concatenate(rings)
        count = len(flat)
        start = np.concatenate([[0], np.cumsum([len(r) for r in rings])])
        ahead = np.arange(1, count + 1)
        ahead[start[1:] - 1] = start[:-1]
        at, half = rib.places(flat), rib.normal * rib.thickness / 2
        face = _filled(rings, flat)
        own = np.arange(count)
        walls = np.concatenate(
            [np.stack([own, ahead, ahead + count], 1), np.stack([own, ahead + count, own + count], 1)]
        )
        places.append(np.vstack([at - half, at + half]))
        triangles.append(np.concatenate([face[:, ::-1], face + count, walls]) + base)
        owner.append(np.full(len(triangles[-1]), k))
        outline = np.stack([own, ahead], 1)
        pairs.append(np.concatenate([outline, outline + count]) + base)
        base += 2 * count
    none = np.zeros(0, np.int64)
    return np.vstack(places), np.vstack(triangles), np.concatenate([none, *owner]), np.vstack(pairs)


def _filled(rings: list[NDArray[np.float64]], flat: NDArray[np.float64]) -> NDArray[np.int64]:
    """Triangles (n, 3) of corners ``flat`` (k, 2) that fill an outline less its openings, as compact as can be: slivers across
    a plate take long to draw (constrained Delaunay triangulation)."""
    made: Any = shapely.constrained_delaunay_triangles(shapely.Polygon(rings[0], rings[1:]))
    made = shapely.orient_polygons(shapely.get_parts(made))
    corner = shapely.get_coordinates(made).reshape(-1, 4, 2)[:, :3]
    key = flat[:, 0] + 1j * flat[:, 1]
    order = np.argsort(key)
    return np.asarray(order[np.searchsorted(key[order], corner[..., 0] + 1j * corner[..., 1])])
