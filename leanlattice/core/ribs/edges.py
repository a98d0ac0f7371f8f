"""Edges of plates moved up and down: upper edges extended or cut back, and feet under lower
ones."""

from __future__ import annotations

from typing import Any

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import FINER
from .polygons import polygons_of

__all__ = ["footed", "raised"]

Array = NDArray[np.float64]
FINE = 1e-7
"""Corners nearer than this (m) to the line between their neighbours are left out."""


def _swept(ring: Array, by: float) -> list[Array]:
    """What the sides of a ring (n, 2) pass over as it moves ``by`` along y, counter-clockwise."""
    ahead, step = np.roll(ring, -1, axis=0), np.array([0.0, by])
    out = np.stack([ring, ahead, ahead + step, ring + step], axis=1)
    turned = (ahead[:, 0] - ring[:, 0]) * by < 0
    out[turned] = out[turned][:, ::-1]
    return list(out[np.abs(ahead[:, 0] - ring[:, 0]) > 1e-12])


def _outer(shape: shapely.Polygon) -> Array:
    return np.asarray(shapely.orient_polygons(shape).exterior.coords)[:-1] * FINER


def _polygons(rings: list[Array], rule: manifold3d.FillRule) -> Any:
    return shapely.union_all(
        polygons_of([manifold3d.CrossSection(rings, rule)], scale=1 / FINER)[0]
    )


def raised(shape: shapely.Polygon, by: float) -> shapely.Polygon:
    """A plate whose upper edges stand ``by`` (m) higher, measured along y, or are cut back where it
    is negative; its openings stay. Where it is cut in two the largest piece is kept."""
    if by == 0:
        return shape
    outer = _outer(shape)
    if by > 0:
        made = _polygons([outer, *_swept(outer, by * FINER)], manifold3d.FillRule.NonZero)
    else:
        # What is taken away winds the other way.
        made = _polygons(
            [outer, *(r[::-1] for r in _swept(outer, by * FINER))], manifold3d.FillRule.Positive
        )
    left = made.difference(shapely.union_all([shapely.Polygon(h) for h in shape.interiors]))
    pieces = [p for p in shapely.get_parts(left) if isinstance(p, shapely.Polygon)]
    return max(pieces, key=lambda p: p.area) if pieces else shapely.Polygon()


def footed(
    shape: shapely.Polygon, ground: float, width: float, inset: float
) -> tuple[shapely.Polygon, Any]:
    """A plate with two feet ``width`` (m) wide, ``inset`` from its ends, down to y = ``ground``,
    and what was added; one foot in the middle where two would run into each other."""
    low_x, low_y, high_x, _ = shape.bounds
    if low_y >= ground + 1e-9 and high_x - low_x >= width:
        starts = [low_x + inset, high_x - inset - width]
        if starts[1] < starts[0] + width:
            starts = [(low_x + high_x - width) / 2]
        outer = _outer(shape)
        under = _polygons(
            [outer, *_swept(outer, -(shape.bounds[3] - ground) * FINER)],
            manifold3d.FillRule.NonZero,
        )
        columns = shapely.union_all(
            [shapely.box(x, ground, x + width, shape.bounds[3]) for x in starts]
        )
        # Feet reach up into the plate, so that no seam is left between them; its openings stay.
        whole = shapely.Polygon(shape.exterior).union(under.intersection(columns))
        made = whole.difference(
            shapely.union_all([shapely.Polygon(h) for h in shape.interiors])
        ).simplify(FINE)
        if isinstance(made, shapely.Polygon):
            return made, made.difference(shape.buffer(FINE))
    return shape, shapely.Polygon()
