"""Bodies under, over and between surfaces seen from above."""

from __future__ import annotations

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import Body, Mesh, half_edges, mesh_of_triangles
from .solids import SolidError, boolean

__all__ = ["between", "clear_height", "on_level"]

Array = NDArray[np.float64]
STEEP = 1e-6
"""Faces whose plan is a smaller share of their area stand upright."""


def on_level(mesh: Mesh, level: float) -> Body:
    """Body between a surface and the plane at a ``level`` (m) that lies wholly below it, or wholly
    above.

    Raises ``SolidError`` with a place where the surface overhangs, so that it has no plan of its
    own.
    """
    triangles, places = mesh.triangles, mesh.vertices
    p = places[triangles]
    up = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    area = np.linalg.norm(up, axis=1)
    lying = np.abs(up[:, 2]) > STEEP * area
    most_up = up[lying, 2].sum() > 0
    over = lying & ((up[:, 2] > 0) != most_up)
    if over.any() or not lying.any():
        at = p[np.argmax(over)].mean(axis=0)
        raise SolidError("The surface overhangs and has no plan of its own", at=at)
    outline: list[Array] = [places[ring, :2] for ring in mesh.loops]
    if not outline:
        raise SolidError("The surface is closed all round; it is a body already")
    rings: list[shapely.Polygon] = sorted(
        (shapely.Polygon(r) for r in outline), key=lambda r: -r.area
    )
    covered = rings[0].area - sum(r.area for r in rings[1:])
    if not all(r.is_valid for r in rings) or abs(up[:, 2].sum()) / 2 > covered * 1.001 + 1e-9:
        raise SolidError(
            "The surface lies above itself, turn upon turn, and has no plan of its own"
        )
    down = level < places[:, 2].min()
    facing = triangles if most_up == down else triangles[:, ::-1]
    count = len(places)
    foot = np.column_stack([places[:, :2], np.full(count, level)])
    border = np.flatnonzero(half_edges(facing, count)[0] < 0)
    a, b = facing.ravel()[border], np.roll(facing, -1, axis=1).ravel()[border]
    walls = np.concatenate(
        [np.column_stack([b, a, a + count]), np.column_stack([b, a + count, b + count])]
    )
    return Body(
        mesh_of_triangles(
            np.vstack([places, foot]),
            np.concatenate([facing, facing[:, ::-1] + count, walls]).astype(np.int32),
        )
    )


def between(upper: Mesh, lower: Mesh) -> Body:
    """Body where, seen in plan, ``upper`` lies above ``lower``."""
    low = min(upper.vertices[:, 2].min(), lower.vertices[:, 2].min()) - 1.0
    high = max(upper.vertices[:, 2].max(), lower.vertices[:, 2].max()) + 1.0
    return boolean([on_level(upper, low), on_level(lower, high)], "intersection")


def clear_height(upper: Mesh, lower: Mesh) -> tuple[float, Array]:
    """The least height (m) from one surface up to the other, seen at all their vertices, and the
    place (3,) on the lower; infinite where they do not lie above each other at all."""
    least, where = np.inf, np.zeros(3)
    for at, of, sign in ((lower, upper, 1.0), (upper, lower, -1.0)):
        over = scipy.interpolate.LinearNDInterpolator(of.vertices[:, :2], of.vertices[:, 2])(
            at.vertices[:, :2]
        )
        height = sign * (over - at.vertices[:, 2])
        if np.isfinite(height).any():
            k = int(np.nanargmin(height))
            if height[k] < least:
                least = float(height[k])
                where = np.append(at.vertices[k, :2], min(at.vertices[k, 2], over[k]))
    return least, where
