"""What holds a net."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.geometry.meshsurface import MeshSurface
from ...core.geometry.nets import Net
from ...core.geometry.paths import PlaneCurve
from ...core.nets.borders import corners_of_loop, loops_by_size, side_towards
from ...core.results import Result, result_type
from ...core.settling.problem import Slide
from ...core.settling.slides import along_curves, in_planes, over_mesh, over_surface
from ...core.shaping.facets import facets
from ..base import Clause, ClauseError, Made, Take, Work, choice, number, places
from ..shape.common import Place, checked_points
from ..shape.drawn import Curves

__all__ = ["Hold", "HoldVertices", "SettleClause"]

Array = NDArray[np.float64]
CURVES = Take(name="curves", types=("Curves",), label="Curves", optional=True)
SHAPE = Take(name="shape", types=("Shape",), label="Shape", optional=True)
AXES = {"fixed": (True, True, True), "level": (False, False, True), "plumb": (True, True, False)}
SKIN = 1e-9
"""A body whose corners lie nearer to a surface than this share of its size is bounded by it."""
REACH = 3.0
"""What vertices slide on may lie so many times the net's size away."""


class SettleClause(Clause):
    """Base of clauses of chapter Settle."""

    chapter = "Settle"


@result_type("Hold", "hold", serves=True)
@dataclass(frozen=True, eq=False)
class Hold(Result):
    """What is held and how: ``vertices`` of a net by the clause's words, coordinates ``axes`` that
    stay, or what is slid on."""

    clause: HoldVertices
    curves: tuple[PlaneCurve, ...]
    rings: tuple[Array, ...]
    shape: Any

    def vertices(self, net: Net) -> NDArray[np.int64]:
        """Vertices of the net that are held; raises ``ClauseError`` where there are none."""
        c = self.clause
        found = _SETS[c.which](net, self)
        if not len(found):
            raise ClauseError(
                "The hold finds no vertex of the net; other heights, places or outlines would.",
                "which",
            )
        return found

    @property
    def named(self) -> str:
        """What is held, in the words of the sentence."""
        return next(
            c.title for c in self.clause.specs()["which"].choices if c.key == self.clause.which
        )

    @property
    def axes(self) -> tuple[bool, bool, bool]:
        return AXES.get(self.clause.how, (False, False, False))

    def slide(self, net: Net, vertices: NDArray[np.int64]) -> Slide | None:
        """What those vertices slide on; raises ``ClauseError`` where it is out of reach."""
        slide = (
            _SLIDES[self.clause.how](self, net, vertices)
            if self.clause.how in _SLIDES and len(vertices)
            else None
        )
        if slide is None:
            return None
        away = np.linalg.norm(slide.onto(net.vertices[vertices]) - net.vertices[vertices], axis=1)
        size = float(np.linalg.norm(np.ptp(net.vertices, axis=0)))
        if away.max() > REACH * size:
            raise ClauseError(
                f"What the vertices are to slide on lies up to {away.max():.1f} m away from the net, which is {size:.1f} m large, "
                "and is out of its reach; move it nearer, or look whether its unit is right.",
                "how",
                net.vertices[vertices[int(np.argmax(away))]],
            )
        return slide


def _to_curve(hold: Hold, net: Net, vertices: NDArray[np.int64]) -> Slide:
    return along_curves(vertices, hold.curves)


def _to_shape(hold: Hold, net: Net, vertices: NDArray[np.int64]) -> Slide:
    """On the surface itself, where a shape is one or all of a body's skin is."""
    surface = hold.shape.skin if isinstance(hold.shape, Body) else hold.shape
    if surface is not None and not isinstance(surface, MeshSurface):
        shown = facets(surface)
        assert shown.uv is not None
        slide = over_surface(vertices, surface, shown.mesh, shown.uv)
        if not isinstance(hold.shape, Body):
            return slide
        skin = hold.shape.mesh.vertices
        if np.abs(slide.onto(skin) - skin).max() < SKIN * float(hold.shape.mesh.extent.max()):
            return slide
    return over_mesh(vertices, facets(hold.shape).mesh)


def _upright(hold: Hold, net: Net, vertices: NDArray[np.int64]) -> Slide:
    a = np.radians(hold.clause.azimuth)
    return in_planes(vertices, net.vertices[vertices], np.array([np.cos(a), np.sin(a), 0.0]))


_SLIDES = {"curve": _to_curve, "shape": _to_shape, "upright": _upright}


def _of_loops(loops: list[NDArray[np.int32]]) -> NDArray[np.int64]:
    return np.unique(np.concatenate(loops)).astype(np.int64) if loops else np.zeros(0, np.int64)


def _corners(net: Net, hold: Hold) -> NDArray[np.int64]:
    return _of_loops([loop[corners_of_loop(net, loop)] for loop in net.loops])


def _side(net: Net, hold: Hold) -> NDArray[np.int64]:
    return _of_loops([side_towards(net, np.radians(hold.clause.azimuth))])


def _loop_near(net: Net, hold: Hold) -> NDArray[np.int64]:
    loops = net.loops
    at = checked_points(hold.clause.places, 1, 400, "places", "places")
    away = [
        [float(np.linalg.norm(net.vertices[loop] - p, axis=1).min()) for loop in loops] for p in at
    ]
    return (
        _of_loops([loops[k] for k in {int(np.argmin(row)) for row in away}])
        if loops
        else np.zeros(0, np.int64)
    )


def _heights(net: Net, hold: Hold) -> NDArray[np.int64]:
    z = net.vertices[:, 2]
    return np.flatnonzero((z >= hold.clause.low - 1e-9) & (z <= hold.clause.high + 1e-9))


def _nearest(net: Net, hold: Hold) -> NDArray[np.int64]:
    at = checked_points(hold.clause.places, 1, 400, "places", "places")
    return np.unique(scipy.spatial.cKDTree(net.vertices).query(at)[1]).astype(np.int64)


def _region(net: Net, hold: Hold) -> NDArray[np.int64]:
    if not hold.rings:
        raise ClauseError(
            "There is no closed outline above to be the region; draw one before this clause.",
            "which",
        )
    region = shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in hold.rings])
    return np.flatnonzero(shapely.intersects_xy(region, net.vertices[:, 0], net.vertices[:, 1]))


_SETS: dict[str, Any] = {
    "border": lambda net, hold: _of_loops(net.loops),
    "outer": lambda net, hold: _of_loops(loops_by_size(net)[:1]),
    "inner": lambda net, hold: _of_loops(loops_by_size(net)[1:]),
    "loops": _loop_near,
    "side": _side,
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
        "**Hold** {which}[which=side| towards {azimuth}][which=loops| to {places}]"
        "[which=heights| between heights of {low} and {high}][which=places| nearest to {places}] "
        "{how}[how=upright| {azimuth}][how=curve|, raised by {raised}]."
    )
    takes = (CURVES, SHAPE)
    gives = "Hold"

    which: Literal[
        "border", "outer", "inner", "loops", "side", "corners", "heights", "places", "region"
    ] = choice(
        "border",
        {
            "border": "the borders",
            "outer": "the outer border",
            "inner": "the inner borders",
            "loops": "the border loops nearest",
            "side": "the side",
            "corners": "the corners",
            "heights": "the vertices",
            "places": "the vertices",
            "region": "the vertices within outlines in plan",
        },
        "Which",
    )
    low: float = number(-0.1, "m", -10000.0, 10000.0, 0.1, "From")
    high: float = number(0.1, "m", -10000.0, 10000.0, 0.1, "To")
    places: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    azimuth: float = number(
        0.0, "°", -360.0, 360.0, 15.0, "Direction in plan", "0° is along x, 90° along y"
    )
    how: Literal["fixed", "level", "plumb", "upright", "curve", "shape"] = choice(
        "fixed",
        {
            "fixed": "where they are",
            "level": "on their level, sliding",
            "plumb": "on plumb lines, sliding",
            "upright": "in upright planes, sliding, but not along",
            "curve": "on the curve above, sliding",
            "shape": "on the shape above, sliding",
        },
        "How",
    )
    raised: float = number(
        0.0, "m", -1000.0, 1000.0, 0.1, "Raised", "The curve is lifted by so much before it holds"
    )

    def make(self, work: Work) -> Made:
        drawn: Curves | None = work.inputs.get("curves")
        shape = work.inputs.get("shape")
        if self.how == "curve" and drawn is None:
            raise ClauseError(
                "There is no curve above to slide on; draw one before this clause.", "how"
            )
        if self.how == "shape" and shape is None:
            raise ClauseError("There is no shape above to slide on.", "how")
        curves, rings = [], []
        for c in drawn.curves if drawn else ():
            frame = replace(c.frame, origin=c.frame.origin + np.array([0.0, 0.0, self.raised]))
            curves.append(PlaneCurve(c.path, frame))
            if c.path.closed:
                rings.append(c.polyline(c.path.size * 2e-4)[:, :2])
        return Made(Hold(self, tuple(curves), tuple(rings), shape))
