"""Lighter ribs: openings inside, away from outlines and slots, and holes for rods."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import Rib

__all__ = ["drilled", "hollowed"]

Array = NDArray[np.float64]


def hollowed(
    ribs: Sequence[Rib], zones: Sequence[Sequence[shapely.Polygon]], border: float, radius: float
) -> list[Rib]:
    """Ribs with openings that keep ``border`` (m) of material to their outline and to the ``zones`` where others cross;
    corners are rounded by ``radius``, and what would be smaller than a round of it stays solid."""
    out = []
    for rib, met in zip(ribs, zones, strict=True):
        inside: Any = rib.shape.buffer(-border)
        if met:
            inside = inside.difference(shapely.union_all([z.buffer(border) for z in met]))
        r = max(radius, 1e-3)
        opened = inside.buffer(-r).buffer(r, quad_segs=8)
        pieces = [p for p in shapely.get_parts(opened) if p.area > 4 * r * r]
        shape = rib.shape.difference(shapely.union_all(pieces)) if pieces else rib.shape
        out.append(replace(rib, shape=shape) if isinstance(shape, shapely.Polygon) else rib)
    return out


def drilled(ribs: Sequence[Rib], lines: Sequence[Array], radius: float, least: float) -> tuple[list[Rib], list[str]]:
    """Ribs with a round hole where each line (2, 3), carried on without end, passes through them, and the labels of those in
    which a hole would leave less than ``least`` (m) to an edge and is left out."""
    out, thin = [], []
    for rib in ribs:
        shape: Any = rib.shape
        for line in lines:
            at = rib.crossed_at(line)
            if np.isnan(at).any():
                continue
            point = shapely.Point(at)
            if not shape.contains(point):
                continue
            if not shape.contains(point.buffer(radius + least)):
                thin.append(rib.label)
                continue
            shape = shape.difference(point.buffer(radius, quad_segs=16))
        out.append(replace(rib, shape=shape))
    return out, thin
