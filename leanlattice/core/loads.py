"""What pushes a net, as data: loads on areas and edges, pressure, and forces at places."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import scipy
from numpy.typing import NDArray

from .geometry.nets import Net
from .geometry.polygons import vector_areas
from .results import Result, result_type

__all__ = ["GRAVITY", "PUSHES", "Push"]

Array = NDArray[np.float64]
GRAVITY = 9.80665e-3
"""Weight of a kilogram in kN."""
DOWN = np.array([0.0, 0.0, -1.0])


@result_type("Push", "push", serves=True)
@dataclass(frozen=True, eq=False)
class Push(Result):
    """Nodal loads of a net, whatever form it takes.

    Parameters
    ----------
    push : an entry of ``PUSHES``
    amount : in kN/m² of the plan, the surface or a pressure, in kN/m of edges, in kN at places
    places : (k, 3) in metres, of which the nearest vertices are pushed
    """

    push: str
    amount: float
    places: Array = field(default_factory=lambda: np.zeros((0, 3)))

    def loads(self, net: Net, x: Array) -> Array:
        """Loads (V, 3) in kN of the net in the form ``x`` (V, 3)."""
        return PUSHES[self.push](net, x, self)


def _to_corners(net: Net, per_cell: Array) -> Array:
    """A load (C, 3) of each cell shared evenly by its corners."""
    sizes = np.diff(net.offsets)
    cell = np.repeat(np.arange(len(sizes)), sizes)
    each = (per_cell / sizes[:, None])[cell]
    return np.stack(
        [np.bincount(net.corners, each[:, k], len(net.vertices)) for k in range(3)], axis=1
    )


def _plan(net: Net, x: Array, push: Push) -> Array:
    area = np.abs(vector_areas(x, net.corners, net.offsets)[:, 2])
    return _to_corners(net, push.amount * area[:, None] * DOWN)


def _surface(net: Net, x: Array, push: Push) -> Array:
    area = np.linalg.norm(vector_areas(x, net.corners, net.offsets), axis=1)
    return _to_corners(net, push.amount * area[:, None] * DOWN)


def _pressure(net: Net, x: Array, push: Push) -> Array:
    return _to_corners(net, vector_areas(x, net.corners, net.offsets) * push.amount)


def _edges(net: Net, x: Array, push: Push) -> Array:
    a, b = net.edges.T
    half = np.linalg.norm(x[b] - x[a], axis=1) * push.amount / 2
    weight = np.bincount(a, half, len(x)) + np.bincount(b, half, len(x))
    return weight[:, None] * DOWN


def _points(net: Net, x: Array, push: Push) -> Array:
    at = np.asarray(scipy.spatial.cKDTree(net.vertices).query(push.places)[1])
    return np.bincount(at, np.full(len(at), push.amount), len(x))[:, None] * DOWN


PUSHES: dict[str, Callable[[Net, Array, Push], Array]] = {
    "plan": _plan,
    "surface": _surface,
    "pressure": _pressure,
    "edges": _edges,
    "points": _points,
}
"""Ways in which a net is pushed; all but a pressure, which follows the normals, push downward."""
