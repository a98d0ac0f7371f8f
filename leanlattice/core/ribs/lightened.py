"""Lighter ribs: openings inside, away from outlines and slots, and holes for rods."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import FINER, Rib
from .polygons import polygons_of

__all__ = ["drilled", "holes_in", "hollowed", "through"]

Array = NDArray[np.float64]
FAR = 1e4
"""Straight paths reach so far (m) both ways."""
ROUND = 64
"""Corners of a round hole, whose sides touch the rod."""
LEAST_COSINE = 0.2
"""Rods that slant more than about 78° get no longer holes; they run along the plate rather than
through it."""


def hollowed(
    ribs: Sequence[Rib], zones: Sequence[Sequence[shapely.Polygon]], border: float, radius: float
) -> list[Rib]:
    """Ribs with openings that keep ``border`` (m) of material to their outline and to the ``zones``
    where others cross; corners are rounded by ``radius``, and what would be smaller than a round of
    it stays solid."""
    r, inner = max(radius, 1e-3), []
    for rib, met in zip(ribs, zones, strict=True):
        plate = shapely.orient_polygons(rib.shape)
        # Zones wind the other way: what stays is the plate less all of them, and keeping away from
        # its edge is to keep away
        # from the outline and from them alike.
        rings = [
            shapely.get_coordinates(k)[:-1] * FINER for k in (plate.exterior, *plate.interiors)
        ]
        rings += [
            shapely.get_coordinates(z)[:-1][::-1] * FINER
            for z in shapely.orient_polygons(np.array(met, object))
        ]
        left = manifold3d.CrossSection(rings, manifold3d.FillRule.Positive)
        kept = left.offset(-(border + r) * FINER, manifold3d.JoinType.Round, 2.0, ROUND)
        inner.append(kept.offset(r * FINER, manifold3d.JoinType.Round, 2.0, ROUND))
    out = []
    for rib, opened in zip(ribs, polygons_of(inner, scale=1 / FINER), strict=True):
        pieces = [p for p in opened if p.area > 4 * r * r]
        # Something loose within an opening would fall out.
        if pieces and not any(len(p.interiors) for p in pieces):
            holes = [*rib.shape.interiors, *(p.exterior for p in pieces)]
            out.append(replace(rib, shape=shapely.Polygon(rib.shape.exterior, holes)))
        else:
            out.append(rib)
    return out


def through(place: Array, way: Array) -> Array:
    """A straight path (2, 3) through a place (3,) along a way (3,), longer than any body."""
    return np.stack([place - FAR * way, place + FAR * way])


def holes_in(rib: Rib, paths: Sequence[Array], radius: float) -> list[Any]:
    """What rods or cables along ``paths`` (k, 3), each of so many straight pieces, need of a rib:
    round where they pass it squarely, and longer the more they slant, so that they clear both its
    faces."""
    out, radius = [], radius / np.cos(np.pi / ROUND)
    for origin, x, y, (low, high) in zip(*rib.frames, strict=True):
        normal, axes = np.cross(x, y), np.column_stack([x, y])
        for path in paths:
            off = (path - origin) @ normal
            for k in np.flatnonzero((off[:-1] < 0) != (off[1:] < 0)):
                step = path[k + 1] - path[k]
                at = (path[k] + step * off[k] / (off[k] - off[k + 1]) - origin) @ axes
                if not low <= at[0] < high:
                    continue
                step /= np.linalg.norm(step)
                slant, cosine = step @ axes, max(abs(float(step @ normal)), LEAST_COSINE)
                sine = float(np.linalg.norm(slant))
                aside = slant / sine if sine > 1e-9 else np.array([1.0, 0.0])
                across = np.array([-aside[1], aside[0]])
                turn = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
                ring = np.outer(np.cos(turn) * radius / cosine, aside) + np.outer(
                    np.sin(turn) * radius, across
                )
                ends = rib.thickness / 2 * sine / cosine * aside
                out.append(
                    shapely.MultiPoint(
                        np.concatenate([at + ring - ends, at + ring + ends])
                    ).convex_hull
                )
    return out


def drilled(
    ribs: Sequence[Rib], paths: Sequence[Array], radius: float, least: float
) -> tuple[list[Rib], list[str]]:
    """Ribs with a hole for each rod or cable of that ``radius`` along ``paths`` (k, 3), and the
    labels of those in which a hole would leave less than ``least`` (m) to an edge and is left out.
    """
    out, thin = [], []
    for rib in ribs:
        shape: Any = rib.shape
        for hole in holes_in(rib, paths, radius):
            if not shape.contains(hole.centroid):
                continue
            if not shape.contains(hole.buffer(least)):
                thin.append(rib.label)
                continue
            shape = shape.difference(hole)
        out.append(replace(rib, shape=shape))
    return out, thin
