"""Waffles, ribs along a spine, and ribs in a round."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.geometry.meshes import Body
from ...core.ribs.planes import Planes, evenly, fan, parallel
from ...core.ribs.plates import Cut
from ...core.ribs.spines import Bends, FoldError, Spine
from ...core.shaping.solids import refined
from ..base import ClauseError, Notice, Remedy, Work, choice, count, number, places, point
from ..by_size import SPACINGS
from ..said import metres, mm
from ..shape.common import SHAPE, Place, checked_points
from ..shape.drawn import Curves
from .common import CURVES, MOST_RIBS, UP, Family, extent_along, in_plan, thickness_value
from .lapped import CUT_SO, LappedClause

__all__ = ["RoundRibs", "SpineRibs", "Waffle"]

Array = NDArray[np.float64]
FINE = 2e-5
"""Share of its size within which a spine is followed."""
SKIN = 60
"""Places of a body are looked at that are its size over this apart."""
SPARE = 0.0022
"""Metres that bent ribs stay flat beside a crossing, beyond what a slot without clearance needs."""
PAST = 0.1
LEAST_SHEET = 0.2
"""Bent ribs are looked for so far (m) past the body."""


class Waffle(LappedClause):
    kind = "waffle"
    title = "Waffle"
    builds = "waffle"
    summary = "Upright ribs in two directions, half-lapped at every crossing."
    sentence = (
        "**Waffle** the body in {material}, {thick_first} thick along {first} in plan and {thick_second} along {second}: {by}"
        "[by=number| {number_first} and {number_second} of them][by=spacing| {spacing_first} and {spacing_second}, {begin}]"
        "[begin=edge| the first {start} in][by=places| at {places_first} and {places_second}]."
        + CUT_SO
    )
    first: float = number(0.0, "°", -360.0, 360.0, 5.0, "First direction", "In plan; 0° is along x")
    second: float = number(90.0, "°", -360.0, 360.0, 5.0, "Second direction")
    by: Literal["number", "spacing", "places"] = choice(
        "number",
        {"number": "by number,", "spacing": "every", "places": "at places of one's own,"},
        "By",
    )
    number_first: int = count(8, 1, 300, "Number, first")
    number_second: int = count(6, 1, 300, "Number, second")
    spacing_first: float = number(0.5, "m", 0.005, 100.0, 0.01, "Spacing, first", by_size=SPACINGS)
    spacing_second: float = number(
        0.5, "m", 0.005, 100.0, 0.01, "Spacing, second", by_size=SPACINGS
    )
    begin: Literal["centred", "edge"] = choice(
        "centred", {"centred": "centred", "edge": "from an edge,"}, "Begin"
    )
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

    def aids(self, body: Body) -> dict[str, Array]:
        # Planes are upright, so that their places say nothing by their height; they are seen half
        # way up.
        level = np.array([[0.0, 0.0, sum(extent_along(body, UP)) / 2]])
        return {f"level places_{which}": level for which in ("first", "second")}

    def _family(
        self, body: Body, angle: float, series: str, thickness: float, which: str
    ) -> Family:
        normal = in_plan(angle)
        low, high = extent_along(body, normal)
        if self.by == "number":
            at, value = (
                evenly(low, high, number=getattr(self, f"number_{which}")),
                f"number_{which}",
            )
        elif self.by == "spacing":
            spacing, value = getattr(self, f"spacing_{which}"), f"spacing_{which}"
            at = evenly(low, high, None, spacing, self.start if self.begin == "edge" else None)
        else:
            value = f"places_{which}"
            at = np.unique(
                np.round(
                    checked_points(getattr(self, value), 1, MOST_RIBS, "places", value) @ normal, 6
                )
            )
        if not len(at):
            raise ClauseError(
                f"No rib fits: the first would stand {metres(self.start)} in, past the body's far "
                "end.",
                "start",
            )
        return Family(parallel(normal, UP, at), series, thickness / 1000, value)


class SpineRibs(LappedClause):
    kind = "spine-ribs"
    title = "Ribs along a spine"
    builds = "ribs along a spine"
    summary = "Upright ribs square to a curve's tangent, and others through them: straight ones, or ones bent along it."
    sentence = (
        "**Cut ribs** of {material} square to the curve, {thick_first} thick, {by}[by=number| {number_first}]"
        "[by=spacing| {spacing_first}], and {number_second} others {thick_second} thick {run}[run=straight| {second} in plan]"
        "[run=following|, bent to no less than {bent} times their thickness]." + CUT_SO
    )
    takes = (SHAPE, CURVES)

    by: Literal["number", "spacing"] = choice(
        "number", {"number": "by number,", "spacing": "every"}, "By"
    )
    number_first: int = count(12, 1, 300, "Number")
    spacing_first: float = number(0.5, "m", 0.005, 100.0, 0.01, "Spacing", by_size=SPACINGS)
    number_second: int = count(3, 0, 300, "Number of others")
    run: Literal["straight", "following"] = choice(
        "straight",
        {"straight": "running straight at", "following": "following its offsets"},
        "Others",
        "Those that follow it are cut flat and bent in their places.",
    )
    second: float = number(0.0, "°", -360.0, 360.0, 5.0, "Direction")
    bent: float = number(
        60.0, "", 1.0, 2000.0, 5.0, "Least radius", "In thicknesses; sheets bent closer may break"
    )
    thick_first: float = thickness_value("Thickness, first")
    thick_second: float = thickness_value("Thickness, second")

    def families(self, body: Body, work: Work) -> tuple[Family, Family]:
        spine = self._spine(work.inputs["curves"])
        if spine.length < 1e-3:
            raise ClauseError("The spine has no length in plan; draw it in plan.", None)
        at = evenly(
            0.0,
            spine.length,
            self.number_first if self.by == "number" else None,
            self.spacing_first,
        )
        planes = spine.planes(at)
        return (
            Family(
                planes,
                "A",
                self.thick_first / 1000,
                "number_first" if self.by == "number" else "spacing_first",
            ),
            Family(
                self._others(body, spine, planes), "B", self.thick_second / 1000, "number_second"
            ),
        )

    def _spine(self, drawn: Curves) -> Spine:
        curve = drawn.curves[0]
        line = curve.polyline(max(curve.path.size * FINE, 1e-6))
        return Spine(np.vstack([line, line[:1]]) if curve.path.closed else line)

    def _others(self, body: Body, spine: Spine, planes: Planes) -> Planes | Bends:
        number = max(self.number_second, 1)
        if self.run == "straight":
            normal = in_plan(self.second)
            return parallel(
                normal, UP, evenly(*extent_along(body, normal), number=number)[: self.number_second]
            )
        # Corners alone say little of where long sides run.
        skin = refined(body, float(body.mesh.extent.max()) / SKIN).mesh.vertices
        offsets = evenly(*spine.aside(skin), number=number)[: self.number_second]
        # Slots, which cross all but squarely, and a little more.
        flat = 0.75 * (self.thick_first + self.thick_second) / 1000 + SPARE
        start, end = (b + PAST for b in spine.beyond(skin))
        found = []
        for offset in offsets:
            try:
                found.append(spine.follow(float(offset), planes, (start, end), flat))
            except FoldError as error:
                why = (
                    "would cross itself; a shorter spine"
                    if error.radius is None
                    else f"would fold over, as the spine's radius is only {metres(error.radius, '.2f')} there; a gentler spine"
                )
                raise ClauseError(
                    f"A rib {metres(abs(offset), '.2f')} beside the spine {why}, or one nearer to "
                    "the middle of the body, works.",
                    "run",
                ) from None
        return Bends(tuple(found))

    def family_notices(self, families: tuple[Family, Family]) -> list[Notice]:
        bends = families[1].planes
        if not isinstance(bends, Bends) or not len(bends):
            return []
        radii = [b.radius for b in bends.bends]
        least, k = min(radii), int(np.argmin(radii))
        if least >= self.bent * self.thick_second / 1000:
            return []
        thin = np.floor(least / self.bent * 1e4) / 10
        facts = {
            "label": f"{self.series}B{k + 1}",
            "radius": least,
            "times": least * 1000 / self.thick_second,
            "thickness": thin,
        }
        thinner = Remedy(f"Make the others {mm(thin)} thick", {"thick_second": thin})
        remedies = (thinner,) if thin >= LEAST_SHEET else ()
        return [Notice.coded("bent too far", facts, value="thick_second", remedies=remedies)]


class RoundRibs(LappedClause):
    kind = "round-ribs"
    title = "Ribs in a round"
    builds = "ribs in a round"
    summary = "Upright ribs about a middle, with level rings through them."
    whole = False
    sentence = (
        "**Cut ribs** of {material} about {centre}, {number_first} of them {thick_first} thick beyond a core of {core}, and "
        "{number_second} level rings {thick_second} thick and {deep} deep." + CUT_SO
    )
    centre: Place = point((0.0, 0.0, 0.0), "Middle", "Drag it in the view.")
    number_first: int = count(12, 3, 300, "Ribs")
    core: float = number(
        0.3, "m", 0.01, 100.0, 0.01, "Core", "Radius within which there are no ribs"
    )
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
                f"{self.number_first} ribs meet within {metres(need, '.3f')} of the middle; a core "
                "of that or more works.",
                "core",
            )
        low, high = extent_along(body, UP)
        return (
            Family(
                fan(np.array(self.centre), self.number_first, self.core),
                "A",
                self.thick_first / 1000,
                "number_first",
            ),
            Family(
                parallel(UP, np.array([0.0, 1.0, 0.0]), evenly(low, high, self.number_second)),
                "B",
                self.thick_second / 1000,
                "number_second",
            ),
        )
