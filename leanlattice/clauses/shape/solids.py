"""Operations on bodies, and cuts of surfaces."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.geometry.paths import PlaneCurve
from ...core.geometry.surfaces import Surface
from ...core.shaping.cutting import CutError, cut_in_plan, cut_where
from ...core.shaping.facets import facets
from ...core.shaping.solids import (
    SolidError,
    as_solid,
    boolean,
    cut_by_plane,
    hollow,
    prism,
    thicken,
)
from ...core.shaping.squared import Reach, squared_cutters
from ..base import ClauseError, Figure, Made, Notice, Take, Work, choice, listed, number, point
from ..said import metres
from .common import (
    SHAPE,
    SHAPES,
    Place,
    Shape,
    ShapeClause,
    body_needed,
    facing_aids,
    line_aid,
    made,
)
from .drawn import Curves

__all__ = ["CombineBodies", "CutByPlane", "CutInPlan", "CutOpenings", "HollowBody", "Thicken"]

Array = NDArray[np.float64]
OUTLINES = Take(name="outlines", types=("Curves",), label="Outlines")
UP = np.array([0.0, 0.0, 1.0])


def _solid(body: Body, value: str | None, aids: dict[str, Array] | None = None) -> Made:
    if not len(body.mesh.triangles):
        raise ClauseError(
            "Nothing is left of the body; move the shapes so that they overlap as meant.", value
        )
    return made(body, aids=aids)


class CombineBodies(ShapeClause):
    kind = "combine"
    title = "Unite, subtract or intersect"
    summary = "One body of several: together, the first less the others, or what they share."
    sentence = "**Combine** the bodies: {operation}."
    takes = (SHAPES,)

    operation: Literal["union", "difference", "intersection"] = choice(
        "union",
        {
            "union": "all together",
            "difference": "the first less the others",
            "intersection": "what all share",
        },
        "Operation",
    )

    def make(self, work: Work) -> Made:
        shapes: list[Shape] = work.inputs["shapes"]
        if len(shapes) < 2:
            raise ClauseError(
                "There is only one shape above to combine; add another before this.", "operation"
            )
        bodies = [body_needed(s, "Combining works") for s in shapes]
        try:
            out = boolean(bodies, self.operation)
        except SolidError as error:
            raise ClauseError(str(error)) from None
        result = _solid(out, "operation")
        result.figures["parts"] = Figure("Made of", len(bodies), "bodies")
        return result


class Thicken(ShapeClause):
    kind = "thicken"
    title = "Thicken"
    summary = "A body on the outside, the inside or both sides of a surface."
    sentence = "**Thicken** the surface by {thickness} {side}."
    takes = (SHAPE,)

    thickness: float = number(0.2, "m", 0.0005, 100.0, 0.01, "Thickness")
    side: Literal["outside", "inside", "both"] = choice(
        "outside",
        {"outside": "on its outside", "inside": "on its inside", "both": "half on either side"},
        "Side",
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        if isinstance(shape, Body):
            raise ClauseError("This shape is a body already; hollow it to a wall instead.")
        t = self.thickness
        out, inner = {"outside": (t, 0.0), "inside": (0.0, t), "both": (t / 2, t / 2)}[self.side]
        body = thicken(shape, out, inner)
        domain = shape.domain
        at = (
            np.array([[0.5, 0.5]])
            if domain is None
            else shapely.get_coordinates(domain.polygon.point_on_surface())
        )
        ahead = shape.normals(at)[0] * {"outside": 1.0, "inside": -1.0, "both": 0.5}[self.side]
        return made(body, aids=line_aid("thickness", shape.points(at)[0], ahead))


class HollowBody(ShapeClause):
    kind = "hollow"
    title = "Hollow"
    summary = "A body with walls of even thickness, empty inside."
    sentence = "**Hollow** the body to walls of {wall}."
    takes = (SHAPE,)

    wall: float = number(0.25, "m", 0.0005, 100.0, 0.01, "Wall")

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "Hollowing works")
        try:
            return made(hollow(body, self.wall))
        except SolidError as error:
            at = (
                ""
                if error.most is None
                else f"; at most {metres(np.floor(error.most * 1000) / 1000)} works"
            )
            raise ClauseError(f"A wall of {metres(self.wall)} {error}{at}.", "wall") from None


class CutByPlane(ShapeClause):
    kind = "cut-plane"
    title = "Cut by a plane"
    summary = "Keeps one side of a level, upright or leaning plane."
    sentence = "**Cut** the shape by a plane through {through}, facing {azimuth} in plan and {rise} upward, keeping {keep}."
    takes = (SHAPE,)

    through: Place = point((0.0, 0.0, 1.0), "Place on the plane", "Alt drags it up and down.")
    azimuth: float = number(
        0.0, "°", -360.0, 360.0, 5.0, "Direction in plan", "Of the plane's normal, from x"
    )
    rise: float = number(
        90.0, "°", -90.0, 90.0, 5.0, "Tilt of its normal", "90° is a level plane, 0° an upright one"
    )
    keep: Literal["beyond", "before"] = choice(
        "beyond", {"beyond": "what lies the way it faces", "before": "what lies behind it"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        a, r = np.radians(self.azimuth), np.radians(self.rise)
        normal = np.array([np.cos(a) * np.cos(r), np.sin(a) * np.cos(r), np.sin(r)]) * (
            1 if self.keep == "beyond" else -1
        )
        through = np.array(self.through)
        aids = facing_aids(shape, through, self.azimuth)
        if isinstance(shape, Body):
            try:
                return _solid(cut_by_plane(shape, normal, through), "through", aids)
            except SolidError as error:
                raise ClauseError(str(error), "through") from None
        try:
            return made(cut_where(shape, lambda p: (p - through) @ normal), aids=aids)
        except CutError as error:
            raise ClauseError(
                f"The cut cannot be made: {error}; move the plane.", "through"
            ) from None


class CutInPlan(ShapeClause):
    kind = "cut-plan"
    title = "Cut by an outline in plan"
    summary = "Keeps what lies over an outline, or what lies beside it."
    sentence = "**Cut** the shape in plan, keeping what lies {keep} the outlines."
    takes = (SHAPE, OUTLINES)

    keep: Literal["inside", "outside"] = choice(
        "inside", {"inside": "within", "outside": "beside"}, "Keep"
    )

    def make(self, work: Work) -> Made:
        shape: Shape = work.inputs["shape"]
        curves: Curves = work.inputs["outlines"]
        closed = [c for c in curves.curves if c.path.closed]
        if not closed:
            raise ClauseError("None of the outlines is closed; close or join them.", "keep")
        if isinstance(shape, Body):
            return _solid(_cut(shape, closed, UP, self.keep == "inside"), "keep")
        surface: Surface = shape
        try:
            for c in (
                closed
                if self.keep == "outside"
                else [max(closed, key=lambda c: abs(c.path.signed_area))]
            ):
                ring = c.polyline(c.path.size * 5e-4)[:, :2]
                surface = cut_in_plan(surface, ring, self.keep == "inside")
        except CutError as error:
            raise ClauseError(f"The cut cannot be made: {error}.", "keep") from None
        return made(surface)


def _cut(body: Body, closed: list[PlaneCurve], axis: Array, inside: bool) -> Body:
    along = facets(body).mesh.vertices @ axis
    margin = 0.05 * float(np.ptp(along)) + 0.1
    low, high = float(along.min()) - margin, float(along.max()) + margin
    prisms = [prism(c.polyline(c.path.size * 5e-4), [], axis, low, high) for c in closed]
    try:
        if not inside:
            return boolean([body, *prisms], "difference")
        return boolean(
            [body, boolean(prisms, "union") if len(prisms) > 1 else prisms[0]], "intersection"
        )
    except SolidError as error:
        raise ClauseError(str(error)) from None


class CutOpenings(ShapeClause):
    kind = "openings"
    title = "Cut openings"
    summary = "Closed curves carried through a wall along a direction, each leaving an opening."
    sentence = (
        "**Cut** openings by the closed curves {direction}[direction=given|, towards {azimuth} and "
        "{rise} upward], {reach}."
    )
    takes = (SHAPE, OUTLINES.model_copy(update={"cut_by": True}))

    direction: Literal["square", "given", "wall"] = choice(
        "square",
        {
            "square": "square to their plane",
            "given": "along a direction",
            "wall": "square to the walls they land on",
        },
        "Direction",
    )
    azimuth: float = number(90.0, "°", -360.0, 360.0, 5.0, "Direction in plan", "From x")
    rise: float = number(0.0, "°", -89.0, 89.0, 5.0, "Tilt", "Above level")
    reach: Reach = choice(
        "through",
        {
            "through": "through all of the shape",
            "ahead": "only ahead of their plane",
            "behind": "only behind it",
        },
        "Reach",
    )

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "Cutting openings works")
        curves: Curves = work.inputs["outlines"]
        closed = [c for c in curves.curves if c.path.closed]
        if not closed:
            raise ClauseError(
                "None of the curves is closed, so that nothing can be cut out; close or join them.",
                "direction",
            )
        cutters = [self._cutters(body, curve) for curve in closed]
        try:
            out, openings, missed = _without(body, cutters)
        except SolidError as error:
            raise ClauseError(str(error)) from None
        result = _solid(out, "direction")
        return Made(
            result.result,
            {"openings": Figure("Openings", openings)} | result.figures,
            _missed_curves(missed, closed),
            result.later,
            self._aids(body, closed),
        )

    def _cutters(self, body: Body, curve: PlaneCurve) -> list[Body]:
        """What is taken out by a curve; nothing where its reach ends before the shape."""
        ring = curve.polyline(curve.path.size * 5e-4)
        axis = self._axis(curve)
        if self.direction == "wall":
            return squared_cutters(body, ring, axis, self.reach)
        if abs(axis @ curve.frame.normal) < 0.02:
            raise ClauseError(
                "The direction lies in the plane of the curves; turn it out of that plane.",
                "azimuth",
            )
        along = body.mesh.vertices @ axis
        margin = 0.05 * float(np.ptp(along)) + 0.1
        here = float(curve.frame.origin @ axis)
        low = here if self.reach == "ahead" else min(float(along.min()) - margin, here)
        high = here if self.reach == "behind" else max(float(along.max()) + margin, here)
        return [prism(ring, [], axis, low, high)] if high - low > 1e-9 else []

    def _aids(self, body: Body, closed: list[PlaneCurve]) -> dict[str, Array]:
        middles = [c.points(np.linspace(0, 1, 16, endpoint=False)).mean(axis=0) for c in closed]
        return facing_aids(body, np.mean(middles, axis=0), self.azimuth)

    def _axis(self, curve: PlaneCurve) -> Array:
        if self.direction != "given":
            n = curve.frame.normal
            return np.asarray(n / np.linalg.norm(n))
        a, r = np.radians(self.azimuth), np.radians(self.rise)
        return np.array([np.cos(a) * np.cos(r), np.sin(a) * np.cos(r), np.sin(r)])


def _without(body: Body, cutters: list[list[Body]]) -> tuple[Body, int, list[int]]:
    """What is left of a body without what is taken out by each of several curves, how many openings
    that leaves, and the numbers, from 1, of curves that meet nothing of it.

    Raises ``SolidError`` where a cutter is not closed.
    """
    least = 1e-9 * abs(body.volume)
    hits: list[Body] = []
    missed = []
    for number_of, own in enumerate(cutters, 1):
        met = [c for c in own if boolean([body, c], "intersection").volume >= least]
        hits += met
        if not met:
            missed.append(number_of)
    if not hits:
        return body, 0, missed
    # Curves that overlap leave one opening together.
    openings = len(as_solid(boolean(hits, "union")).decompose())
    return boolean([body, *hits], "difference"), openings, missed


def _missed_curves(missed: list[int], closed: list[PlaneCurve]) -> list[Notice]:
    if not missed:
        return []
    at = closed[missed[0] - 1].points(np.zeros(1))[0].tolist()
    meet = "meet" if len(missed) > 1 else "meets"
    text = (
        f"{len(missed)} of {len(closed)} curves ({listed(missed, 8)}) {meet} nothing of the shape "
        "and cut no opening."
    )
    return [Notice(text, at=(at[0], at[1], at[2]), value="direction")]
