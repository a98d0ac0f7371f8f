"""Flat parts that are twisted, as solids."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ..panels.outlines import Patch
from .parts import Part

__all__ = ["twisted_plate"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
PIECES = 8
"""Into how many its longest side is parted, at least: chords are off by a 256th of its twist."""


def twisted_plate(part: Part, patch: Patch) -> tuple[Array, Index]:
    """Places (n, 3) in metres and triangles (m, 3) of a plate that lies on a patch.

    Its places are moved square to its plane, so that its volume stays what it is.
    """
    rings = [part.outer, *part.inner]
    section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
    plate = manifold3d.Manifold.extrude(section, part.thickness)
    longest = float(np.ptp(patch.corners, axis=0).max())
    mesh = plate.refine_to_length(longest / PIECES).to_mesh64()
    local = np.array(mesh.vert_properties)[:, :3]
    local[:, 2] += patch.at(local[:, :2])
    places = local @ part.pose[:3, :3].T + part.pose[:3, 3]
    return places, np.asarray(mesh.tri_verts).astype(np.int32)
