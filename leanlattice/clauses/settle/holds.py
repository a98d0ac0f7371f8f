"""What holds a net."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.paths import PlaneCurve
from ...core.selection import Selection
from ...core.settling.holds import Hold
from ..base import Clause, ClauseError, Made, Take, Work, choice, number, places
from ..shape.common import Place, checked_points
from ..shape.drawn import Curves

__all__ = ["HoldVertices", "SettleClause"]

Array = NDArray[np.float64]
CURVES = Take(name="curves", types=("Curves",), label="Curves", optional=True)
SHAPE = Take(name="shape", types=("Shape",), label="Shape", optional=True)


class SettleClause(Clause):
    """Base of clauses of chapter Settle."""

    chapter = "Settle"


class HoldVertices(SettleClause):
    kind = "hold"
    title = "Hold"
    summary = "Border loops, corners, heights or places of a net, held where they are, on a level, plumb line, curve or shape."
    sentence = (
        "**Hold** {which}[which=side| towards {azimuth}][which=loops| to {places}]"
        "[which=heights| of {low} and {high}][which=places| to {places}] "
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
            "heights": "the vertices between heights",
            "places": "the vertices nearest",
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
        raised = np.array([0.0, 0.0, self.raised])
        curves = tuple(
            PlaneCurve(c.path, replace(c.frame, origin=c.frame.origin + raised))
            for c in (drawn.curves if drawn else ())
        )
        named = next(c.title for c in self.specs()["which"].choices if c.key == self.which)
        azimuth = float(np.radians(self.azimuth))
        return Made(Hold(self._selection(drawn), named, self.how, azimuth, curves, shape))

    def _selection(self, drawn: Curves | None) -> Selection:
        """Which vertices are meant."""
        at = np.zeros((0, 3))
        if self.which in ("places", "loops"):
            at = checked_points(self.places, 1, 400, "places", "places")
        closed = [c for c in (drawn.curves if drawn else ()) if c.path.closed]
        if self.which == "region" and not closed:
            raise ClauseError(
                "There is no closed outline above to be the region; draw one before this clause.",
                "which",
            )
        outlines = tuple(c.polyline(c.path.size * 2e-4)[:, :2] for c in closed)
        azimuth = float(np.radians(self.azimuth))
        return Selection(self.which, azimuth, self.low, self.high, at, outlines)
