"""Curves: drawn on a plane, brought from files, and changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ...core.geometry.curves import first_coincident
from ...core.geometry.drawing import DRAWN, path_of
from ...core.geometry.paths import Frame2, Path, PlaneCurve
from ...core.results import Result, result_type
from ...core.shaping.brought import Outlines, ReadProblem
from ..base import (
    Clause,
    ClauseError,
    Made,
    Notice,
    StillOpen,
    Take,
    Work,
    choice,
    curves,
    file,
    headline,
    number,
    point,
)
from ..said import metres
from .common import Coordinate, Place

__all__ = [
    "CURVES",
    "BringCurves",
    "CurveClause",
    "Curves",
    "DrawCurves",
    "made_curves",
    "metres_of",
    "opened",
    "plane_frame",
]

Array = NDArray[np.float64]
CURVES = Take(name="curves", types=("Curves",), label="Curves")
MOST_CURVES = 400
Item = tuple[str, Annotated[list[tuple[Coordinate, Coordinate]], Field(max_length=2000)]]
UNITS = {"file": "the file's unit", "m": "metres", "cm": "centimetres", "mm": "millimetres"}
METRES = {"m": 1.0, "cm": 1e-2, "mm": 1e-3}
PLANES = {
    "plan": "in plan",
    "front": "in an elevation along x",
    "side": "in an elevation along y",
    "own": "on a plane",
}


@result_type("Curves", "curves")
@dataclass(frozen=True, eq=False)
class Curves(Result):
    """Curves on planes in space."""

    curves: tuple[PlaneCurve, ...]

    @property
    def size(self) -> float:
        return max((c.path.size for c in self.curves), default=1.0)


class CurveClause(Clause):
    """Base of clauses that give curves."""

    chapter = "Shape"
    gives = "Curves"


def plane_frame(plane: str, level: float, through: Place, azimuth: float, tilt: float) -> Frame2:
    """The plane of a drawing, one of ``PLANES``: plan at a height or an elevation at a distance,
    its ``level`` (m), or one ``through`` a place, turned by ``azimuth`` and tilted by ``tilt``
    (degrees)."""
    if plane == "plan":
        return Frame2(np.array([0, 0, level]), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    if plane == "front":
        return Frame2(np.array([0, level, 0]), np.array([1.0, 0, 0]), np.array([0, 0, 1.0]))
    if plane == "side":
        return Frame2(np.array([level, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0]))
    a, t = np.radians(azimuth), np.radians(tilt)
    x = np.array([np.cos(a), np.sin(a), 0.0])
    aside = np.array([-np.sin(a), np.cos(a), 0.0])
    return Frame2(
        np.array(through, float), x, np.cos(t) * aside + np.sin(t) * np.array([0, 0, 1.0])
    )


def made_curves(
    curves: list[PlaneCurve], warnings: list[Notice] | None = None, value: str | None = None
) -> Made:
    """Curves with their figures."""
    if not curves:
        raise ClauseError(
            "No curve is left; other values, or other curves, would give some.", value
        )
    if len(curves) > MOST_CURVES:
        raise ClauseError(
            f"There would be {len(curves):,} curves; at most {MOST_CURVES} can be worked with.",
            value,
        )
    figures = {
        "curves": headline("Curves", len(curves)),
        "closed": headline("Closed", sum(c.path.closed for c in curves)),
        "length": headline("Length", sum(c.path.length for c in curves), "m", 2),
    }
    enclosed = sum(abs(c.path.signed_area) for c in curves if c.path.closed)
    if enclosed:
        figures["enclosed"] = headline("Enclosed", enclosed, "m²", 2)
    return Made(Curves(tuple(curves)), figures, warnings or [])


class DrawCurves(CurveClause):
    kind = "draw"
    title = "Draw curves"
    summary = "Lines, arcs, circles, rectangles, polygons and smooth curves, drawn in plan, in an elevation or on any plane."
    sentence = (
        "**Draw** {curves} {plane}[plane=plan| at height {level}][plane=front| at y = {level}]"
        "[plane=side| at x = {level}][plane=own| through {through}, turned {azimuth} and tilted {tilt}]."
    )

    # What nobody drew is not there.
    begins: ClassVar[Mapping[str, Any]] = {"curves": []}
    # A picture is laid under to be drawn on.
    follows = (("underlay",), ("plane", "level", "through", "azimuth", "tilt"))

    curves: list[Item] = curves(
        lambda: [("rectangle", [(-5.0, -3.0), (5.0, 3.0)])],
        "Curves",
        "Draw and change them on the Trace screen.",
    )
    plane: Literal["plan", "front", "side", "own"] = choice("plan", PLANES, "Plane")
    level: float = number(
        0.0, "m", -1000.0, 1000.0, 0.1, "Level", "How far the plane lies from the origin"
    )
    through: Place = point((0.0, 0.0, 0.0), "Origin of the plane")
    azimuth: float = number(
        0.0, "°", -360.0, 360.0, 5.0, "Turn", "Of the plane's first direction in plan, from x"
    )
    tilt: float = number(
        90.0, "°", -180.0, 180.0, 5.0, "Tilt", "Of the plane from level; 90° is upright"
    )

    def make(self, work: Work) -> Made:
        frame = plane_frame(self.plane, self.level, self.through, self.azimuth, self.tilt)
        aids = {"plane": np.vstack([frame.origin, frame.x, frame.y])}
        if not self.curves:
            raise StillOpen(
                "Nothing is drawn yet; open the Trace screen and draw a curve.",
                "curves",
                Made(Curves(()), aids=aids),
            )
        made = made_curves(
            [PlaneCurve(_drawn(i, item), frame) for i, item in enumerate(self.curves, 1)]
        )
        return replace(made, aids=aids)


def _drawn(number: int, item: Item) -> Path:
    kind, points = item
    if kind not in DRAWN:
        raise ClauseError(
            f"Curve {number} is a “{kind[:30]}”; there are {', '.join(DRAWN)}.", "curves"
        )
    entry = DRAWN[kind]
    if not entry.least <= len(points) <= entry.most:
        wanted = (
            f"{entry.least}" if entry.least == entry.most else f"{entry.least} to {entry.most:,}"
        )
        raise ClauseError(
            f"Curve {number}, a {entry.title}, has {len(points)} points; it needs {wanted}.",
            "curves",
        )
    p = np.array(points, float)
    twin = first_coincident(
        np.column_stack([p, np.zeros(len(p))]), entry.closed and kind != "circle" and len(p) > 2
    )
    if twin is not None:
        raise ClauseError(
            f"Points {twin + 1} and {(twin + 1) % len(p) + 1} of curve {number} lie on the same place "
            f"({p[twin][0]:g}, {p[twin][1]:g}) m; move or remove one of them.",
            "curves",
        )
    if kind == "rectangle" and np.abs(p[1] - p[0]).min() < 1e-9:
        raise ClauseError(
            f"Curve {number}, a rectangle, has no width or no height; move one of its corners.",
            "curves",
        )
    return path_of(kind, points)


class BringCurves(CurveClause):
    kind = "bring-curves"
    title = "Bring curves from a file"
    summary = "Lines, arcs and smooth curves of an SVG or DXF drawing."
    sentence = (
        "**Bring** the curves of {file} {plane}[plane=plan| at height {level}][plane=front| at y = {level}]"
        "[plane=side| at x = {level}][plane=own| through {through}, turned {azimuth} and tilted {tilt}], in {unit}, "
        "moved by {across} and {up}."
    )

    file: list[str] = file("File", ["svg", "dxf"], "SVG or DXF")
    plane: Literal["plan", "front", "side", "own"] = choice("plan", PLANES, "Plane")
    level: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Level")
    through: Place = point((0.0, 0.0, 0.0), "Origin of the plane")
    azimuth: float = number(0.0, "°", -360.0, 360.0, 5.0, "Turn")
    tilt: float = number(90.0, "°", -180.0, 180.0, 5.0, "Tilt")
    unit: Literal["file", "m", "cm", "mm"] = choice(
        "file", UNITS, "Unit", "A file that says none counts as metres."
    )
    across: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "Moved across")
    up: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "Moved up")

    def make(self, work: Work) -> Made:
        brought = opened(work, self.file, "outlines")
        assert isinstance(brought, Outlines)
        scale, warnings = metres_of(self.unit, brought.unit)
        frame = plane_frame(self.plane, self.level, self.through, self.azimuth, self.tilt)
        shift = np.array([self.across, self.up])
        paths = [p.mapped(np.eye(2) * scale, shift) for p in brought.paths]
        size = max(p.size for p in paths)
        if size > 10_000 or size < 1e-4:
            raise ClauseError(
                f"In that unit the drawing is {metres(size)} large; choose another unit.", "unit"
            )
        return made_curves([PlaneCurve(p, frame) for p in paths], warnings, "file")


def metres_of(unit: str, told: float) -> tuple[float, list[Notice]]:
    """Metres of a ``unit``, a key of ``UNITS``, of a file that has ``told`` its own in metres or
    0; and what is said where neither tells it."""
    scale = METRES.get(unit, told)
    if scale:
        return scale, []
    text = (
        "The file does not say its unit; it was taken as metres. Choose another if that is wrong."
    )
    return 1.0, [Notice(text, value="unit")]


def opened(work: Work, value: list[str], wanted: str) -> Any:
    """What a chosen file holds; raises ``ClauseError`` with a sentence."""
    if len(value) < 2:
        raise StillOpen("No file is chosen yet; click “no file yet” and choose one.", "file")
    try:
        return work.open_file(wanted, value[0], value[1])
    except KeyError:
        raise ClauseError(
            f"The content of “{value[1][:60]}” is not stored here; choose the file again.", "file"
        ) from None
    except ReadProblem as problem:
        raise ClauseError(str(problem), "file") from None
