"""What pushes a net."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.geometry.polygons import vector_areas
from ...core.results import Result, result_type
from ...core.sections import find
from ..base import Made, Work, choice, number, places, section
from ..catalogue import section_of
from ..shape.common import Place, checked_points
from .holds import SettleClause

__all__ = ["Push", "PushNet"]

Array = NDArray[np.float64]
GRAVITY = 9.80665e-3
"""Weight of a kilogram in kN."""


@result_type("Push", "push", serves=True)
@dataclass(frozen=True, eq=False)
class Push(Result):
    """Nodal loads (V, 3) in kN of a form (V, 3) of a net."""

    clause: PushNet

    def loads(self, net: Net, x: Array) -> Array:
        return _PUSHES[self.clause.push](net, x, self.clause)


def _to_corners(net: Net, per_cell: Array) -> Array:
    """A load (C, 3) of each cell shared evenly by its corners."""
    sizes = np.diff(net.offsets)
    cell = np.repeat(np.arange(len(sizes)), sizes)
    each = (per_cell / sizes[:, None])[cell]
    return np.stack(
        [np.bincount(net.corners, each[:, k], len(net.vertices)) for k in range(3)], axis=1
    )


def _plan(net: Net, x: Array, c: PushNet) -> Array:
    area = np.abs(vector_areas(x, net.corners, net.offsets)[:, 2])
    return _to_corners(net, area[:, None] * np.array([0.0, 0.0, -c.load]))


def _surface(net: Net, x: Array, c: PushNet) -> Array:
    area = np.linalg.norm(vector_areas(x, net.corners, net.offsets), axis=1)
    return _to_corners(net, area[:, None] * np.array([0.0, 0.0, -c.load]))


def _pressure(net: Net, x: Array, c: PushNet) -> Array:
    return _to_corners(net, vector_areas(x, net.corners, net.offsets) * c.load)


def _skin(net: Net, x: Array, c: PushNet) -> Array:
    area = np.linalg.norm(vector_areas(x, net.corners, net.offsets), axis=1)
    return _to_corners(
        net, (area * c.thickness / 1000 * c.density * GRAVITY)[:, None] * np.array([0.0, 0.0, -1.0])
    )


def _own_weight(net: Net, x: Array, c: PushNet) -> Array:
    a, b = net.edges.T
    weight = np.linalg.norm(x[b] - x[a], axis=1) * (
        find(c.members).mass if c.push == "section" else c.mass
    )
    weight *= GRAVITY / 2
    out = np.zeros_like(x)
    out[:, 2] = -np.bincount(a, weight, len(x)) - np.bincount(b, weight, len(x))
    return out


def _points(net: Net, x: Array, c: PushNet) -> Array:
    at = scipy.spatial.cKDTree(net.vertices).query(
        checked_points(c.places, 1, 400, "places", "places")
    )[1]
    out = np.zeros_like(x)
    np.add.at(out, at, [0.0, 0.0, -c.force])
    return out


_PUSHES: dict[str, Any] = {
    "plan": _plan,
    "surface": _surface,
    "pressure": _pressure,
    "weight": _own_weight,
    "section": _own_weight,
    "skin": _skin,
    "points": _points,
}


class PushNet(SettleClause):
    kind = "push"
    title = "Push"
    summary = "A load on the plan or the surface, pressure along the normals, the members' own weight, or forces at places."
    sentence = (
        "**Push** the net by {push}[push=plan| {load}][push=surface| {load}][push=pressure| {load}][push=weight| {mass}]"
        "[push=section| {members}][push=skin| {thickness} thick and of {density}][push=points| {force} at {places}]."
    )
    gives = "Push"

    push: Literal["plan", "surface", "pressure", "weight", "section", "skin", "points"] = choice(
        "plan",
        {
            "plan": "a load on its plan of",
            "surface": "a load on its surface of",
            "pressure": "pressure outward of",
            "weight": "its members' weight of",
            "section": "the weight of members",
            "skin": "the weight of a skin",
            "points": "forces downward of",
        },
        "Push",
    )
    load: float = number(
        1.0, "kN/m²", -1000.0, 1000.0, 0.1, "Load", "Below 0 it lifts, or sucks inward."
    )
    mass: float = number(20.0, "kg/m", 0.0, 10000.0, 1.0, "Mass")
    members: str = section("CHS 88.9 × 4", "Section")
    thickness: float = number(20.0, "mm", 0.0, 5000.0, 1.0, "Thickness")
    density: float = number(500.0, "kg/m³", 0.0, 30000.0, 10.0, "Density")
    force: float = number(1.0, "kN", -10000.0, 10000.0, 0.1, "Force", "Below 0 it lifts.")
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0)], "Places", "The nearest nodes are pushed."
    )

    def make(self, work: Work) -> Made:
        if self.push == "section":
            section_of(self.members, "members")
        return Made(Push(self))
