"""A net from a wireframe that was brought in a file."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.meshes import MeshError
from ...core.geometry.nets import NetError
from ...core.geometry.surfaces import Surface
from ...core.nets.own import own_surface
from ...core.nets.wires import Wireframe, cells_of_wires
from ...core.shaping.brought import ReadProblem, Wires
from ..base import ClauseError, Figure, Made, Notice, Take, Work, choice, count, file, number
from ..said import metres
from ..shape.common import surface_needed
from ..shape.drawn import UNITS, metres_of, opened
from .common import MOST_CELLS, NetClause, made_net, net_of, place_of

__all__ = ["BringWires"]

Array = NDArray[np.float64]
KINDS = ["dxf", "obj", "csv"]


class BringWires(NetClause):
    kind = "wireframe"
    title = "Bring a wireframe"
    summary = "Lines from DXF or OBJ, or tables of nodes and members: their cells are found, and the net stands as drawn."
    sentence = (
        "**Bring** the wireframe {file}[tables=two| with {other}], {tables}, in {unit}, {up} being up¦, ends within {join} joined, "
        "rings of more than {most} corners left open, {on}."
    )
    takes = (Take(name="shape", types=("Shape",), label="Shape", optional=True),)

    other: list[str] = file(
        "Other table",
        ["csv"],
        "The table of nodes where the file has the members, or the other way",
    )
    file: list[str] = file("File", KINDS, "DXF, OBJ or CSV")
    tables: Literal["one", "two"] = choice(
        "one", {"one": "in one file", "two": "in two files"}, "Files"
    )
    unit: Literal["file", "m", "cm", "mm"] = choice(
        "file", UNITS, "Unit", "A file that says none counts as metres."
    )
    up: Literal["z", "y"] = choice(
        "z", {"z": "z", "y": "y"}, "Up", "Which axis of the file points upward"
    )
    join: float = number(
        5.0, "mm", 0.001, 10_000.0, 1.0, "Join", "Ends nearer than this become one node."
    )
    most: int = count(8, 3, 200, "Corners", "Larger rings are openings.")
    on: Literal["itself", "shape"] = choice(
        "itself", {"itself": "as drawn", "shape": "moved onto the shape"}, "Lies"
    )

    def make(self, work: Work) -> Made:
        wires: Wires = opened(work, self.file, "wires")
        other: Wires | None = opened(work, self.other, "wires") if self.tables == "two" else None
        try:
            wires = wires.joined(other)
        except ReadProblem as problem:
            raise ClauseError(str(problem), "file") from None
        if not len(wires.lines):
            raise ClauseError(
                "The file holds nodes but no members; choose their table as well.", "tables"
            )
        scale, warnings = metres_of(self.unit, wires.unit)
        points = wires.points * scale
        if self.up == "y":
            points = np.column_stack([points[:, 0], -points[:, 2], points[:, 1]])
        size = float(np.ptp(points[wires.lines.ravel()], axis=0).max())
        if not 1e-2 <= size <= 20_000:
            raise ClauseError(
                f"In {UNITS[self.unit]} the wireframe is {metres(size, ',.4g')} large; choose the "
                "unit it was drawn in.",
                "unit",
            )
        if len(wires.lines) > 2 * MOST_CELLS:
            raise ClauseError(
                f"The wireframe has {len(wires.lines):,} lines; at most {2 * MOST_CELLS:,} can be worked with.",
                "file",
            )
        work.progress(0.3)
        surface = self._surface(work)
        normals = None if surface is None else surface.normals(surface.closest(points))
        try:
            found = cells_of_wires(points, wires.lines, self.join / 1000, self.most, normals)
        except NetError as error:
            raise ClauseError(
                f"{error} A larger distance within which ends are joined may help.", "join"
            ) from None
        work.progress(0.7)
        vertices = found.vertices
        if surface is None:
            try:
                surface = own_surface(vertices, found.corners, found.offsets)
            except (MeshError, ValueError) as error:
                raise ClauseError(
                    f"The cells of the wireframe form no surface ({error}).", "file"
                ) from None
            uv = surface.closest(vertices)
        else:
            uv = surface.closest(vertices)
            vertices = surface.points(uv)
        return made_net(
            net_of(surface, vertices, uv, found.corners, found.offsets, "file"),
            _figures(found),
            warnings + _told(found),
        )

    def _surface(self, work: Work) -> Surface | None:
        shape = work.inputs.get("shape")
        if self.on == "itself":
            return None
        if shape is None:
            raise ClauseError(
                "There is no shape above to move the wireframe onto; add one, or leave it as drawn.",
                "on",
            )
        return surface_needed(shape, whole=True)


def _figures(found: Wireframe) -> dict[str, Figure]:
    return {
        "parted": Figure("Lines parted at nodes", found.parted),
        "doubled": Figure("Doubled lines", found.doubled),
        "loose": Figure("Loose ends", len(found.loose)),
    }


def _told(found: Wireframe) -> list[Notice]:
    if not len(found.loose):
        return []
    ends = f"{len(found.loose)} end{'s' if len(found.loose) > 1 else ''} of lines"
    return [
        Notice(
            f"{ends} led nowhere; what hangs there was left out. A larger distance may join them.",
            value="join",
            at=place_of(found.loose[0]),
        )
    ]
