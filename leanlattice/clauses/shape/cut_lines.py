"""The clause that takes lines of a shape: where planes cut it."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.lines import Line, line_of
from ...core.geometry.meshsurface import MeshSurface
from ...core.geometry.paths import Frame2, PlaneCurve
from ...core.geometry.surfaces import Surface
from ...core.shaping.cut_lines import cut_lines
from ...core.shaping.facets import facets
from ..base import ClauseError, Made, Notice, Take, Work, choice, count, headline, number
from .common import SHAPE
from .drawn import CurveClause, Curves, made_curves

__all__ = ["CutLines"]

Array = NDArray[np.float64]
SPINE = Take(name="spine", types=("Curves",), label="Spine", optional=True)
UP = np.array([0.0, 0.0, 1.0])


class CutLines(CurveClause):
    kind = "cut-lines"
    title = "Cut lines of a shape"
    summary = "Curves along which planes cut a shape: side by side, level, or square to a spine."
    sentence = (
        "**Cut** {cuts} lines of the shape by planes {way}[way=upright| facing {azimuth}], from "
        "{first} to {last} of its length, keeping {pieces}."
    )
    takes = (SHAPE, SPINE)

    cuts: int = count(7, 1, 400, "Lines")
    way: Literal["upright", "level", "spine"] = choice(
        "upright",
        {
            "upright": "upright and side by side",
            "level": "level, one above the other",
            "spine": "square to the spine",
        },
        "Planes",
    )
    azimuth: float = number(
        90.0, "°", -360.0, 360.0, 5.0, "Facing", "In plan from x: the way planes follow each other"
    )
    first: float = number(5.0, "%", 0.0, 100.0, 1.0, "From", "Of the shape, or of the spine")
    last: float = number(95.0, "%", 0.0, 100.0, 1.0, "To")
    pieces: Literal["all", "longest"] = choice(
        "all", {"all": "all pieces", "longest": "the longest piece of each"}, "Pieces"
    )

    @classmethod
    def beside(cls, box: NDArray[np.float64]) -> dict[str, Any]:
        """Planes that follow each other along what is longer in plan."""
        wide, deep = (box[1] - box[0])[:2]
        return {"azimuth": 0.0} if wide > deep else {}

    def make(self, work: Work) -> Made:
        shape = work.inputs["shape"]
        mesh = facets(shape).mesh
        # Of faces that are all there is of a shape its lines are those of the faces.
        is_smooth = isinstance(shape, Surface) and not isinstance(shape, MeshSurface)
        frames = self._frames(mesh.vertices, work.inputs.get("spine"))
        curves: list[PlaneCurve] = []
        missed: list[int] = []
        for k, frame in enumerate(frames):
            work.progress(k / len(frames))
            paths = cut_lines(mesh, frame, shape if is_smooth else None)
            if not paths:
                missed.append(k)
            kept = paths if self.pieces == "all" else paths[:1]
            curves += [PlaneCurve(path, frame) for path in kept]
        if not curves:
            raise ClauseError(
                "No plane meets the shape; planes facing another way, or a spine that leads "
                "through it, would.",
                "way",
                frames[0].origin,
            )
        made = made_curves(curves, _told(missed, frames), "cuts")
        made.figures["planes"] = headline("Planes", len(frames))
        return made

    def _frames(self, vertices: Array, spine: Curves | None) -> list[Frame2]:
        shares = np.linspace(self.first, self.last, self.cuts) / 100
        if self.cuts == 1:
            shares = np.array([(self.first + self.last) / 200])
        if self.way == "spine":
            return self._along_spine(spine, shares)
        facing = np.radians(self.azimuth)
        normal = UP if self.way == "level" else np.array([np.cos(facing), np.sin(facing), 0.0])
        along = vertices @ normal
        places = along.min() + shares * np.ptp(along)
        middle = (vertices.min(axis=0) + vertices.max(axis=0)) / 2
        flat = middle - (middle @ normal) * normal
        return [_square_to(normal, flat + place * normal) for place in places]

    def _along_spine(self, spine: Curves | None, shares: Array) -> list[Frame2]:
        if spine is None:
            raise ClauseError(
                "There are no curves above to be the spine; draw one, or take planes side by side.",
                "way",
            )
        line: Line = line_of(spine.curves[0], 1e-4)
        run = shares * line.length
        ways, places = line.directions_at(run), line.at(run)
        return [_square_to(way, place) for way, place in zip(ways, places, strict=True)]


def _square_to(normal: Array, place: Array) -> Frame2:
    """A plane square to a direction through a place, its y as upright as can be."""
    up = UP if abs(normal[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    y = up - (up @ normal) * normal
    y /= np.linalg.norm(y)
    return Frame2(np.asarray(place, float), np.cross(y, normal), y)


def _told(missed: list[int], frames: list[Frame2]) -> list[Notice]:
    if not missed:
        return []
    x, y, z = frames[missed[0]].origin.tolist()
    text = (
        f"{len(missed)} of {len(frames)} planes miss the shape, the first of them number "
        f"{missed[0] + 1}; a smaller part of the length would have none that do."
    )
    return [Notice(text, at=(x, y, z), value="last")]
