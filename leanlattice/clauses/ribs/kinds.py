"""Waffles, ribs along a spine, and ribs in a round."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from ...core.geometry.meshes import Body
from ...core.ribs.planes import along_spine, evenly, fan, parallel
from ...core.ribs.plates import Cut
from ..base import ClauseError, Work, choice, count, number, places, point
from ..shape.common import SHAPE, Place, checked_points
from ..shape.drawn import Curves
from .common import CURVES, MOST_RIBS, UP, Family, extent_along, in_plan, thickness_value
from .lapped import SLOTTED, LappedClause

__all__ = ["RoundRibs", "SpineRibs", "Waffle"]


class Waffle(LappedClause):
    kind = "waffle"
    title = "Waffle"
    summary = "Upright ribs in two directions, half-lapped at every crossing."
    sentence = (
        "**Waffle** the body in {material}, {thick_first} thick along {first} in plan and {thick_second} along {second}: {by}"
        "[by=number| {number_first} and {number_second} of them][by=spacing| {spacing_first} and {spacing_second}, {begin}]"
        "[begin=edge| the first {start} in][by=places| at {places_first} and {places_second}]." + SLOTTED
    )
    takes = (SHAPE,)

    first: float = number(0.0, "°", -360.0, 360.0, 5.0, "First direction", "In plan; 0° is along x")
    second: float = number(90.0, "°", -360.0, 360.0, 5.0, "Second direction")
    by: Literal["number", "spacing", "places"] = choice(
        "number", {"number": "by number,", "spacing": "every", "places": "at places of one's own,"}, "By"
    )
    number_first: int = count(8, 1, 300, "Number, first")
    number_second: int = count(6, 1, 300, "Number, second")
    spacing_first: float = number(0.5, "m", 0.005, 100.0, 0.01, "Spacing, first")
    spacing_second: float = number(0.5, "m", 0.005, 100.0, 0.01, "Spacing, second")
    begin: Literal["centred", "edge"] = choice("centred", {"centred": "centred", "edge": "from an edge,"}, "Begin")
    start: float = number(0.1, "m", 0.0, 100.0, 0.01, "First rib")
    places_first: list[Place] = places(
        lambda: [(0.0, -1.0, 0.0), (0.0, 1.0, 0.0)], "First places", "Each is dragged in the view."
    )
    places_second: list[Place] = places(
        lambda: [(-1.0, 0.0, 0.0), (1.0, 0.0, 0.0)], "Second places", "Each is dragged in the view."
    )
    thick_first: float = thickness_value("Thickness, first")
    thick_second: float = thickness_value("Thickness, second")

    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        if abs(np.sin(np.radians(self.first - self.second))) < np.sin(np.radians(10)):
            raise ClauseError(
                f"{self.first:g}° and {self.second:g}° run all but alike; ribs need 10° or more between them to be lapped.",
                "second",
            )
        return (
            self._family(body, self.first, "A", self.thick_first, "first"),
            self._family(body, self.second, "B", self.thick_second, "second"),
        )

    def _family(self, body: Body, angle: float, series: str, thickness: float, which: str) -> Family:
        normal = in_plan(angle)
        low, high = extent_along(body, normal)
        if self.by == "number":
            at, value = evenly(low, high, number=getattr(self, f"number_{which}")), f"number_{which}"
        elif self.by == "spacing":
            spacing, value = getattr(self, f"spacing_{which}"), f"spacing_{which}"
            at = evenly(low, high, None, spacing, self.start if self.begin == "edge" else None)
        else:
            value = f"places_{which}"
            at = np.unique(np.round(checked_points(getattr(self, value), 1, MOST_RIBS, "places", value) @ normal, 6))
        if not len(at):
            raise ClauseError(
                f"No rib fits: the first would stand {self.start:g} m in, past the body's far end.", "start"
            )
        return Family(parallel(normal, UP, at), series, thickness / 1000, value)


class SpineRibs(LappedClause):
    kind = "spine-ribs"
    title = "Ribs along a spine"
    summary = "Upright ribs square to a curve's tangent, with straight ones running through them."
    sentence = (
        "**Cut ribs** of {material} square to the curve, {thick_first} thick, {by}[by=number| {number_first}]"
        "[by=spacing| {spacing_first}], and {number_second} straight ones {thick_second} thick along {second} in plan."
        + SLOTTED
    )
    takes = (SHAPE, CURVES)

    by: Literal["number", "spacing"] = choice("number", {"number": "by number,", "spacing": "every"}, "By")
    number_first: int = count(12, 1, 300, "Number")
    spacing_first: float = number(0.5, "m", 0.005, 100.0, 0.01, "Spacing")
    number_second: int = count(3, 0, 300, "Straight ribs")
    second: float = number(0.0, "°", -360.0, 360.0, 5.0, "Direction")
    thick_first: float = thickness_value("Thickness, first")
    thick_second: float = thickness_value("Thickness, second")

    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        drawn: Curves = work.inputs["curves"]
        curve = drawn.curves[0]
        line = curve.polyline(max(curve.path.size * 2e-4, 1e-6))
        length = float(np.linalg.norm(np.diff(line[:, :2], axis=0), axis=1).sum())
        if length < 1e-3:
            raise ClauseError("The spine has no length in plan; draw it in plan.", None)
        at = evenly(0.0, length, self.number_first if self.by == "number" else None, self.spacing_first)
        normal = in_plan(self.second)
        low, high = extent_along(body, normal)
        straight = evenly(low, high, number=max(self.number_second, 1))[: self.number_second]
        return (
            Family(
                along_spine(line, at),
                "A",
                self.thick_first / 1000,
                "number_first" if self.by == "number" else "spacing_first",
            ),
            Family(parallel(normal, UP, straight), "B", self.thick_second / 1000, "number_second"),
        )


class RoundRibs(LappedClause):
    kind = "round-ribs"
    title = "Ribs in a round"
    summary = "Upright ribs about a middle, with level rings through them."
    whole = False
    sentence = (
        "**Cut ribs** of {material} about {centre}, {number_first} of them {thick_first} thick beyond a core of {core}, and "
        "{number_second} level rings {thick_second} thick and {deep} deep." + SLOTTED
    )
    takes = (SHAPE,)

    centre: Place = point((0.0, 0.0, 0.0), "Middle", "Drag it in the view.")
    number_first: int = count(12, 3, 300, "Ribs")
    core: float = number(0.3, "m", 0.01, 100.0, 0.01, "Core", "Radius within which there are no ribs")
    number_second: int = count(3, 1, 100, "Rings")
    deep: float = number(0.3, "m", 0.01, 100.0, 0.01, "Depth of rings")
    thick_first: float = thickness_value("Thickness, first")
    thick_second: float = thickness_value("Thickness, second")

    def prepared(self, cuts: list[Cut]) -> list[Cut]:
        rings = []
        for rib in cuts[1].ribs:
            shape = rib.shape.difference(rib.shape.buffer(-self.deep))
            rings.append(replace(rib, shape=max(shapely.get_parts(shape), key=lambda p: p.area)))
        return [cuts[0], replace(cuts[1], ribs=rings)]

    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        need = self.thick_first / 1000 / (2 * np.tan(np.pi / self.number_first))
        if self.core < need:
            raise ClauseError(
                f"{self.number_first} ribs meet within {need:.3f} m of the middle; a core of that or more works.",
                "core",
            )
        low, high = extent_along(body, UP)
        return (
            Family(fan(np.array(self.centre), self.number_first, self.core), "A", self.thick_first / 1000, "number_first"),
            Family(parallel(UP, np.array([0.0, 1.0, 0.0]), evenly(low, high, self.number_second)), "B", self.thick_second / 1000,
                    "number_second"),
        )  # fmt: skip
