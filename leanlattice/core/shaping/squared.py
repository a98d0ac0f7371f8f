"""Openings cut square to the walls an outline is carried onto."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body
from ..geometry.rays import all_hits
from .solids import prism

__all__ = ["Reach", "squared_cutters"]

Array = NDArray[np.float64]
Reach = Literal["through", "ahead", "behind"]
GRAZING = 0.1
"""Cosine between a wall and the way an outline is carried below which it does not land on it."""
FREE = 0.45
"""Share of the way to the next wall that a cutter may reach beyond its own."""


def squared_cutters(body: Body, ring: Array, normal: Array, reach: Reach) -> list[Body]:
    """Bodies to be taken out of a ``body``, one for each wall on which the middle of an outline
    lands that is carried along the ``normal`` (3,) of its plane: straight through that wall, square
    to the middle of its two faces there.

    ``ring`` (n, 3) in metres; ``reach`` tells whether walls ahead of its plane, behind it, or all
    are meant.
    """
    middle = ring.mean(axis=0)
    mesh = body.mesh
    start = float(np.abs(mesh.vertices - middle).sum(axis=1).max()) + 1.0
    far, triangles = all_hits(mesh.vertices, mesh.triangles, middle - start * normal, normal)
    unit = mesh.triangle_crosses[triangles]
    unit /= np.maximum(np.linalg.norm(unit, axis=1, keepdims=True), 1e-300)
    enters = unit @ normal < 0
    out = []
    for k in range(len(far) - 1):
        if not enters[k] or enters[k + 1]:
            continue
        at = (far[k] + far[k + 1]) / 2 - start
        if (reach == "ahead" and at < 0) or (reach == "behind" and at > 0):
            continue
        axis = unit[k + 1] - unit[k]
        axis /= max(float(np.linalg.norm(axis)), 1e-300)
        if axis @ normal >= GRAZING:
            out.append(_cutter(body, ring, normal, middle + at * normal, axis))
    return out


def _cutter(body: Body, ring: Array, normal: Array, place: Array, axis: Array) -> Body:
    """What goes through the wall about a ``place`` within it, along an ``axis``, over an outline
    carried along a ``normal``."""
    carried = ring + (((place - ring) @ axis) / (normal @ axis))[:, None] * normal
    size = float(np.linalg.norm(carried - place, axis=1).max())
    level = float(place @ axis)
    high, low = (_end(body, place, way, size) for way in (axis, -axis))
    return prism(carried, [], axis, level - low, level + high)


def _end(body: Body, place: Array, way: Array, size: float) -> float:
    """How far (m) a cutter goes from a ``place`` within a wall: through its face and, as that may
    be curved, beyond it, but not to the next wall."""
    far, _ = all_hits(body.mesh.vertices, body.mesh.triangles, place, way)
    if not len(far):
        return size
    beyond = max(size, far[0])
    if len(far) > 1:
        beyond = min(beyond, FREE * float(far[1] - far[0]))
    return float(far[0] + beyond)
