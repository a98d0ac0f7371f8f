"""What is cut of panels: their outlines, each in its own plane, held back by half the joint and
with their edges worked."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.outlines import following_corner, moved_inward, still_run_as
from ..geometry.polygons import best_planes
from ..results import remembered
from .edges import worked
from .panels import Panels

__all__ = ["PanelOutlines", "outlines_of_panels"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
SMALLEST = 1.0
"""Square millimetres from which a panel is something."""


@dataclass(frozen=True, eq=False)
class PanelOutlines:
    """Outlines of panels (n) in mm, seen from their outside, in the order of the panels' corners.

    Parameters
    ----------
    outer : outlines (k, 2), counter-clockwise
    holes : openings in each
    sharp : (k, 2) their corners before these are rounded
    polygons : (n,) outlines with openings
    poses : (n, 4, 4) that take (x, y, 0, 1) in mm to places in metres
    left : (n,) which the joint leaves something of
    done : (n,) which had room for what their edges are to be worked to
    """

    outer: tuple[Array, ...]
    holes: tuple[tuple[Array, ...], ...]
    sharp: tuple[Array, ...]
    polygons: Any
    poses: Array
    left: NDArray[np.bool_]
    done: NDArray[np.bool_]


@remembered
def outlines_of_panels(panels: Panels) -> PanelOutlines:
    """Outlines of all panels.

    Corners are projected square onto the panel's best plane, which leaves triangles exactly as they
    are and moves those of other panels by no more than their flatness. A panel lies with its
    longest side along x.
    """
    flat, poses = _flattened(panels)
    inset = moved_inward(flat, panels.offsets, panels.joint * 500)
    cut = worked(inset, panels.offsets, panels.edges, 1000.0)
    pairs = zip(cut.outer, cut.holes, strict=True)
    polygons: Any = np.array([shapely.Polygon(outer, holes) for outer, holes in pairs], object)
    left = still_run_as(flat, inset, panels.offsets)
    left &= shapely.is_valid(polygons) & (shapely.area(polygons) > SMALLEST)
    sharp = tuple(inset[a:b] for a, b in pairwise(panels.offsets.tolist()))
    return PanelOutlines(cut.outer, cut.holes, sharp, polygons, poses, left, cut.done & left)


def _flattened(panels: Panels) -> tuple[Array, Array]:
    """Corners (C, 2) in mm in their own plane, longest side along x, and poses (n, 4, 4)."""
    counts = np.diff(panels.offsets)
    centres, normals = best_planes(panels.places, panels.corners, panels.offsets)
    corners = panels.places[panels.corners]
    x = _longest_sides(corners, panels.offsets)
    x -= np.einsum("ij,ij->i", x, normals)[:, None] * normals
    x /= np.linalg.norm(x, axis=1, keepdims=True)
    y = np.cross(normals, x)
    poses = np.zeros((len(counts), 4, 4))
    poses[:, :3, 0], poses[:, :3, 1], poses[:, :3, 2] = x / 1000, y / 1000, normals / 1000
    poses[:, :3, 3], poses[:, 3, 3] = centres + panels.raised * normals, 1.0
    from_centre = (corners - np.repeat(centres, counts, axis=0)) * 1000
    axes = [np.repeat(way, counts, axis=0) for way in (x, y)]
    return np.column_stack([np.einsum("ij,ij->i", from_centre, way) for way in axes]), poses


def _longest_sides(corners: Array, offsets: Index) -> Array:
    """The longest side (n, 3) of each polygon; of those equally long the first, so that equal
    panels lie alike."""
    sides = following_corner(corners, offsets, 1) - corners
    lengths = np.linalg.norm(sides, axis=1)
    longest = np.maximum.reduceat(lengths, offsets[:-1])
    is_longest = lengths >= np.repeat(longest, np.diff(offsets)) * (1 - 1e-9)
    at = np.where(is_longest, np.arange(len(sides)), len(sides))
    return sides[np.minimum.reduceat(at, offsets[:-1])]
