"""Ribs as triangles, for what draws them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .plates import Rib, solid_of

__all__ = ["meshed"]


def meshed(
    ribs: Sequence[Rib],
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Plates as places (n, 3) in metres and triangles (m, 3), the rib (m,) each is of, and the outlines of both faces as
    pairs of places (k, 2)."""
    places, triangles, owner, pairs = [np.zeros((0, 3))], [], [], []
    base = 0
    for k, rib in enumerate(ribs):
        if rib.shape.is_empty:
            continue
        mesh = solid_of(rib.shape, rib.pose, rib.thickness).to_mesh64()
        corner, faces = np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int64)
        places.append(corner)
        triangles.append(faces + base)
        owner.append(np.full(len(faces), k))
        crosses = np.cross(corner[faces[:, 1]] - corner[faces[:, 0]], corner[faces[:, 2]] - corner[faces[:, 0]])
        flat = np.abs(crosses @ rib.normal) > 0.5 * np.linalg.norm(crosses, axis=1)
        # Sides of the faces that only one of their triangles has are the outlines.
        sides = np.sort(np.concatenate([faces[flat][:, [a, b]] for a, b in ((0, 1), (1, 2), (2, 0))]), axis=1)
        once, counts = np.unique(sides, axis=0, return_counts=True)
        pairs.append(once[counts == 1] + base)
        base += len(corner)
    none = np.zeros((0, 3), np.int64)
    return (
        np.vstack(places), np.vstack([none, *triangles]), np.concatenate([none[:, 0], *owner]),
        np.vstack([none[:, :2], *pairs]),
    )  # fmt: skip
