"""What holds a net, and what pushes it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ...core.geometry.meshsurface import nearest_in_triangles
from ...core.geometry.nets import Net
from ...core.geometry.polygons import vector_areas
from ...core.settling.solver import Slide
from ...core.shaping.facets import facets
from ..base import Clause, ClauseError, Made, Take, Work, choice, number, places
from ..shape.common import Place, checked_points
from ..shape.drawn import Curves

__all__ = ["Hold", "HoldVertices", "Push", "PushNet"]

Array = NDArray[np.float64]
CURVES = Take(name="curves", type="Curves", label="Curves", optional=True)
SHAPE = Take(name="shape", type="Shape", label="Shape", optional=True)
AXES = {"fixed": (True, True, True), "level": (False, False, True), "plumb": (True, True, False)}
GRAVITY = 9.80665e-3
"""Weight of a kilogram in kN."""


class SettleClause(Clause):
    """Base of clauses of chapter Settle."""

    chapter = "Settle"
    drawn = False


@dataclass(frozen=True, eq=False)
class Hold:
    """What is held and how: ``vertices`` of a net by the clause's words, coordinates ``axes`` that stay, or what is slid on."""

    clause: HoldVertices
    lines: tuple[Array, ...]
    rings: tuple[Array, ...]
    shape: Any

    def vertices(self, net: Net) -> NDArray[np.int64]:
        """Vertices of the net that are held; raises ``ClauseError`` where there are none."""
        c = self.clause
        found = _SETS[c.which](net, self)
        if not len(found):
            raise ClauseError("The hold finds no vertex of the net; other heights, places or outlines would.", "which")
        return found

    @property
    def axes(self) -> tuple[bool, bool, bool]:
        return AXES.get(self.clause.how, (False, False, False))

    def slide(self, vertices: NDArray[np.int64]) -> Slide | None:
        if self.clause.how == "curve":
            return _along_lines(vertices, self.lines)
        if self.clause.how == "shape":
            return _over_mesh(vertices, facets(self.shape).mesh)
        return None


def _loops(net: Net, which: str) -> NDArray[np.int64]:
    loops = sorted(net.loops, key=lambda loop: -float(np.ptp(net.vertices[loop], axis=0).max()))
    chosen = {"border": loops, "outer": loops[:1], "inner": loops[1:]}[which]
    return np.unique(np.concatenate(chosen)).astype(np.int64) if chosen else np.zeros(0, np.int64)


def _corners(net: Net, hold: Hold) -> NDArray[np.int64]:
    found = []
    for loop in net.loops:
        p = net.vertices[loop]
        a, b = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
        cosine = np.einsum("ij,ij->i", a, b) / np.maximum(np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1), 1e-300)
        found.append(loop[cosine < np.cos(np.radians(40))])
    return np.unique(np.concatenate(found)).astype(np.int64) if found else np.zeros(0, np.int64)


def _heights(net: Net, hold: Hold) -> NDArray[np.int64]:
    z = net.vertices[:, 2]
    return np.flatnonzero((z >= hold.clause.low - 1e-9) & (z <= hold.clause.high + 1e-9))


def _nearest(net: Net, hold: Hold) -> NDArray[np.int64]:
    at = checked_points(hold.clause.places, 1, 400, "places", "places")
    return np.unique(cKDTree(net.vertices).query(at)[1]).astype(np.int64)


def _region(net: Net, hold: Hold) -> NDArray[np.int64]:
    if not hold.rings:
        raise ClauseError("There is no closed outline above to be the region; draw one before this clause.", "which")
    region = shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in hold.rings])
    return np.flatnonzero(shapely.intersects_xy(region, net.vertices[:, 0], net.vertices[:, 1]))


_SETS: dict[str, Any] = {
    "border": lambda net, hold: _loops(net, "border"),
    "outer": lambda net, hold: _loops(net, "outer"),
    "inner": lambda net, hold: _loops(net, "inner"),
    "corners": _corners,
    "heights": _heights,
    "places": _nearest,
    "region": _region,
}


class HoldVertices(SettleClause):
    kind = "hold"
    title = "Hold"
    summary = "Border loops, corners, heights or places of a net, held where they are, on a level, plumb line, curve or shape."
    sentence = (
        "**Hold** {which}[which=heights| between {low} and {high}][which=places| nearest to {places}] of the net {how}."
    )
    takes = (CURVES, SHAPE)
    gives = "Hold"

    which: Literal["border", "outer", "inner", "corners", "heights", "places", "region"] = choice(
        "border",
        {
            "border": "the borders", "outer": "the outer border", "inner": "the borders within", "corners": "the corners",
            "heights": "what lies", "places": "the vertices", "region": "what lies within outlines in plan",
        },
        "Which",
    )  # fmt: skip
    low: float = number(-0.1, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(0.1, "m", -10000.0, 10000.0, 0.1, "To")
    places: list[Place] = places(lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down.")
    how: Literal["fixed", "level", "plumb", "curve", "shape"] = choice(
        "fixed",
        {
            "fixed": "where they are", "level": "on their level, sliding", "plumb": "on plumb lines, sliding",
            "curve": "on the curve above, sliding", "shape": "on the shape above, sliding",
        },
        "How",
    )  # fmt: skip

    def make(self, work: Work) -> Made:
        drawn: Curves | None = work.inputs.get("curves")
        shape = work.inputs.get("shape")
        if self.how == "curve" and drawn is None:
            raise ClauseError("There is no curve above to slide on; draw one before this clause.", "how")
        if self.how == "shape" and shape is None:
            raise ClauseError("There is no shape above to slide on.", "how")
        lines, rings = [], []
        for c in drawn.curves if drawn else ():
            line = c.polyline(c.path.size * 2e-4)
            lines.append(np.vstack([line, line[:1]]) if c.path.closed else line)
            if c.path.closed:
                rings.append(line[:, :2])
        return Made(Hold(self, tuple(lines), tuple(rings), shape))


def _along_lines(vertices: NDArray[np.int64], lines: tuple[Array, ...]) -> Slide:
    start, end = np.concatenate([p[:-1] for p in lines]), np.concatenate([p[1:] for p in lines])
    step = end - start
    length2 = np.maximum(np.einsum("ij,ij->i", step, step), 1e-300)

    def nearest(x: Array) -> tuple[Array, NDArray[np.int64]]:
        share = np.clip(np.einsum("nkd,kd->nk", x[:, None] - start[None], step) / length2, 0, 1)
        at = start[None] + share[..., None] * step[None]
        best = np.argmin(np.linalg.norm(at - x[:, None], axis=2), axis=1)
        return at[np.arange(len(x)), best], best

    def across(x: Array) -> Array:
        way = step[nearest(x)[1]]
        way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
        side = np.cross(way, np.where(np.abs(way[:, 2:]) < 0.9, [[0, 0, 1.0]], [[1.0, 0, 0]]))
        side /= np.linalg.norm(side, axis=1, keepdims=True)
        return np.stack([side, np.cross(way, side)], axis=1)

    return Slide(vertices, lambda x: nearest(x)[0], across)


def _over_mesh(vertices: NDArray[np.int64], mesh: Any) -> Slide:
    t = mesh.triangles
    corners = mesh.vertices[t]
    tree = cKDTree(corners.mean(axis=1))
    normals = mesh.triangle_crosses / np.maximum(np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300)

    def nearest(x: Array) -> tuple[Array, NDArray[np.int64]]:
        near = np.asarray(tree.query(x, k=min(24, len(t)))[1]).reshape(len(x), -1)
        share = nearest_in_triangles(x[:, None], *(corners[near, k] for k in range(3)))
        at = np.einsum("nkc,nkcd->nkd", share, corners[near])
        best = np.argmin(np.linalg.norm(at - x[:, None], axis=2), axis=1)
        rows = np.arange(len(x))
        return at[rows, best], near[rows, best]

    return Slide(vertices, lambda x: nearest(x)[0], lambda x: normals[nearest(x)[1]][:, None])


@dataclass(frozen=True, eq=False)
class Push:
    """Nodal loads (V, 3) in kN of a form (V, 3) of a net."""

    clause: PushNet

    def loads(self, net: Net, x: Array) -> Array:
        return _PUSHES[self.clause.push](net, x, self.clause)


def _to_corners(net: Net, per_cell: Array) -> Array:
    """A load (C, 3) of each cell shared evenly by its corners."""
    sizes = np.diff(net.offsets)
    cell = np.repeat(np.arange(len(sizes)), sizes)
    each = (per_cell / sizes[:, None])[cell]
    return np.stack([np.bincount(net.corners, each[:, k], len(net.vertices)) for k in range(3)], axis=1)


def _plan(net: Net, x: Array, c: PushNet) -> Array:
    area = np.abs(vector_areas(x, net.corners, net.offsets)[:, 2])
    return _to_corners(net, area[:, None] * np.array([0.0, 0.0, -c.load]))


def _surface(net: Net, x: Array, c: PushNet) -> Array:
    area = np.linalg.norm(vector_areas(x, net.corners, net.offsets), axis=1)
    return _to_corners(net, area[:, None] * np.array([0.0, 0.0, -c.load]))


def _pressure(net: Net, x: Array, c: PushNet) -> Array:
    return _to_corners(net, vector_areas(x, net.corners, net.offsets) * c.load)


def _own_weight(net: Net, x: Array, c: PushNet) -> Array:
    a, b = net.edges.T
    weight = np.linalg.norm(x[b] - x[a], axis=1) * c.mass * GRAVITY / 2
    out = np.zeros_like(x)
    out[:, 2] = -np.bincount(a, weight, len(x)) - np.bincount(b, weight, len(x))
    return out


def _points(net: Net, x: Array, c: PushNet) -> Array:
    at = cKDTree(net.vertices).query(checked_points(c.places, 1, 400, "places", "places"))[1]
    out = np.zeros_like(x)
    np.add.at(out, at, [0.0, 0.0, -c.force])
    return out


_PUSHES: dict[str, Any] = {
    "plan": _plan, "surface": _surface, "pressure": _pressure, "weight": _own_weight, "points": _points,
}  # fmt: skip


class PushNet(SettleClause):
    kind = "push"
    title = "Push"
    summary = (
        "A load on the plan or the surface, pressure along the normals, the members' own weight, or forces at places."
    )
    sentence = (
        "**Push** the net by {push}[push=plan| {load}][push=surface| {load}][push=pressure| {load}][push=weight| {mass}]"
        "[push=points| {force} at {places}]."
    )
    gives = "Push"

    push: Literal["plan", "surface", "pressure", "weight", "points"] = choice(
        "plan",
        {
            "plan": "a load on its plan of", "surface": "a load on its surface of", "pressure": "pressure outward of",
            "weight": "its members' weight of", "points": "forces downward of",
        },
        "Push",
    )  # fmt: skip
    load: float = number(1.0, "kN/m²", -1000.0, 1000.0, 0.1, "Load", "Below 0 it lifts, or sucks inward.")
    mass: float = number(20.0, "kg/m", 0.0, 10000.0, 1.0, "Mass")
    force: float = number(1.0, "kN", -10000.0, 10000.0, 0.1, "Force", "Below 0 it lifts.")
    places: list[Place] = places(lambda: [(0.0, 0.0, 3.0)], "Places", "The nearest nodes are pushed.")

    def make(self, work: Work) -> Made:
        return Made(Push(self))
