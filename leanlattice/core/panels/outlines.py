"""What is cut of panels: their outlines, each in its own plane, held back by half the joint and
with their edges worked."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.outlines import following_corner, moved_inward, still_run_as
from ..geometry.polygons import best_planes
from ..results import remembered
from .edges import Worked, worked
from .panels import Panels
from .shapes import cut_alike
from .twist import heights_of_patch

__all__ = ["PanelOutlines", "Patch", "outlines_of_panels"]

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
    patches : by panels that are twisted, how they then lie above their plane
    polygons : (n,) outlines with openings
    poses : (n, 4, 4) that take (x, y, 0, 1) in mm to places in metres
    left : (n,) which the joint leaves something of
    done : (n,) which had room for what their edges are to be worked to
    off : (n,) how far, in mm, corners are off those of the panels, at most, as all of a type are
        cut alike
    """

    outer: tuple[Array, ...]
    holes: tuple[tuple[Array, ...], ...]
    sharp: tuple[Array, ...]
    polygons: Any
    poses: Array
    patches: dict[int, Patch]
    left: NDArray[np.bool_]
    done: NDArray[np.bool_]
    off: Array


class Patch(NamedTuple):
    """What a panel is twisted to: straight between ``corners`` (4, 2) in its plane that lie
    ``heights`` (4,) above it, in mm."""

    corners: Array
    heights: Array

    def at(self, flat: Array) -> Array:
        """Heights (k,) at places (k, 2), in mm."""
        return heights_of_patch(flat, self.corners, self.heights)


@remembered
def outlines_of_panels(panels: Panels) -> PanelOutlines:
    """Outlines of all panels.

    Corners are projected square onto the panel's best plane, which leaves triangles exactly as they
    are and moves those of other panels by no more than their flatness. A panel lies with its
    longest side along x. One that is twisted is cut so too: its middle lines keep their lengths.
    """
    own, poses = _flattened(panels)
    flat = cut_alike(panels, own) if panels.alike else own
    inset = moved_inward(flat, panels.offsets, panels.joint * 500)
    cut = worked(inset, panels.offsets, panels.edges, 1000.0)
    polygons = _polygons(cut)
    left = still_run_as(flat, inset, panels.offsets)
    left &= shapely.is_valid(polygons) & (shapely.area(polygons) > SMALLEST)
    sharp = tuple(inset[a:b] for a, b in pairwise(panels.offsets.tolist()))
    done, patches = cut.done & left, _patches(panels, flat, poses)
    apart = np.linalg.norm(flat - own, axis=1)
    off = np.maximum.reduceat(apart, panels.offsets[:-1]) if panels.count else apart
    return PanelOutlines(cut.outer, cut.holes, sharp, polygons, poses, patches, left, done, off)


def _polygons(cut: Worked) -> Any:
    """Polygons (n,) of outlines with their holes, all at once."""
    rings = [[outer, *holes] for outer, holes in zip(cut.outer, cut.holes, strict=True)]
    if not rings:
        return np.zeros(0, object)
    of = np.repeat(np.arange(len(rings)), [len(own) for own in rings])
    every = [ring for own in rings for ring in own]
    at = np.repeat(np.arange(len(every)), [len(ring) for ring in every])
    made: Any = shapely.linearrings(np.concatenate(every), indices=at)
    return shapely.polygons(made, indices=of)


def _patches(panels: Panels, flat: Array, poses: Array) -> dict[int, Patch]:
    out = {}
    for i in np.flatnonzero(panels.bent).tolist():
        own = slice(*panels.offsets[i : i + 2].tolist())
        normal = poses[i, :3, 2] * 1000
        off = (panels.places[panels.corners[own]] - poses[i, :3, 3]) @ normal + panels.raised
        out[i] = Patch(flat[own], off * 1000)
    return out


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
