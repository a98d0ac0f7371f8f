"""Lines along ribs: their upper edges, as other things can lie along them."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.arcs import unit
from .parts import Ribs
from .plates import Rib

__all__ = ["upper_edges"]

Array = NDArray[np.float64]
LEVEL = 1e-6
"""Of a unit direction, what has to be upward in a rib's plane for it to have an upper edge."""
UP = np.array([0.0, 0.0, 1.0])


def upper_edges(ribs: Ribs) -> list[tuple[Array, Array]]:
    """Places (k, 3) in metres along the upper edge of each rib, from one side to the other, and
    unit directions (k, 3) in its plane, square to the edge and away from the rib; of level ribs
    the whole outline, which closes.

    Slots are not followed, nor are those that are bent.
    """
    shapes = ribs.unslotted or tuple(rib.shape for rib in ribs.ribs)
    flat = [(rib, shape) for rib, shape in zip(ribs.ribs, shapes, strict=True) if not rib.bend]
    return [_upper_edge(rib, shape) for rib, shape in flat]


def _upper_edge(rib: Rib, shape: shapely.Polygon) -> tuple[Array, Array]:
    ring = shapely.get_coordinates(shapely.orient_polygons(shape).exterior)[:-1]
    rise = np.array([rib.x @ UP, rib.y @ UP])
    if np.linalg.norm(rise) < LEVEL:
        places = rib.places(np.vstack([ring, ring[:1]]))
        return places, np.tile(UP, (len(places), 1))
    rise /= np.linalg.norm(rise)
    along, height = ring @ np.array([rise[1], -rise[0]]), ring @ rise
    # Counter-clockwise, the upper edge leads from the right to the left; of what stands upright at
    # a side the highest place counts.
    right = int(np.lexsort((height, np.round(along, 9)))[-1])
    left = int(np.lexsort((-height, np.round(along, 9)))[0])
    count = (left - right) % len(ring) + 1
    edge = np.roll(ring, -right, axis=0)[:count][::-1]
    way = np.gradient(edge, axis=0) if count > 1 else np.zeros_like(edge)
    turned = np.column_stack([-way[:, 1], way[:, 0]])
    return rib.places(edge), unit(turned @ np.stack([rib.x, rib.y]))
