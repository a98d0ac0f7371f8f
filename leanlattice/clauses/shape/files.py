"""Shapes from files: imported models, ground from heights or pictures, and underlays to trace
over."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ...core.geometry.meshes import Body, MeshError, mesh_of_triangles
from ...core.geometry.meshsurface import mesh_surface
from ...core.geometry.paths import Frame2
from ...core.results import Result, result_type
from ...core.shaping.brought import Heights, Loose, Picture, ReadProblem, Repair, repaired
from ...core.shaping.easing import eased
from ...core.shaping.grounds import ground_of_heights, ground_of_picture
from ...core.shaping.pictures import PictureError, homography, plane_size
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Work,
    choice,
    count,
    file,
    marks,
    number,
)
from ..said import metres, place_text
from .common import ShapeClause, made
from .drawn import METRES, UNITS, opened, plane_frame

__all__ = ["GroundShape", "ImportShape", "Underlay", "UnderlayClause"]

Array = NDArray[np.float64]
MODELS = ["obj", "stl", "ply", "glb", "dxf", "step", "stp"]


class ImportShape(ShapeClause):
    kind = "import"
    title = "Import a model"
    summary = "A mesh or STEP file: repaired where it needs it, exact faces kept where it has some."
    sentence = "**Import** {file}, {part}[part=face| number {face}], in {unit}, {up}, holes {holes}, laid out {flat}."

    file: list[str] = file("File", MODELS, "OBJ, STL, PLY, GLB, DXF or STEP")
    part: Literal["whole", "face"] = choice(
        "whole",
        {"whole": "all of it", "face": "one exact face"},
        "Part",
        "Faces of a STEP file are kept exact.",
    )
    face: int = count(1, 1, 5000, "Face")
    unit: Literal["file", "m", "cm", "mm"] = choice(
        "file", UNITS, "Unit", "A file that says none counts as metres."
    )
    up: Literal["file", "z", "y"] = choice(
        "file",
        {"file": "upright as the file says", "z": "with z upward", "y": "with y upward"},
        "Up",
        "Which axis of the file points upward; where it does not say, z",
    )
    holes: Literal["closed", "left"] = choice(
        "closed", {"closed": "closed", "left": "left as they are"}, "Holes"
    )
    flat: Literal["fitting", "plan", "flattened"] = choice(
        "fitting",
        {
            "fitting": "as fits",
            "plan": "by its plan",
            "flattened": "flattened with least distortion",
        },
        "Parameters",
        "How u and v are given to an open mesh",
    )

    def make(self, work: Work) -> Made:
        loose = opened(work, self.file, "mesh")
        assert isinstance(loose, Loose)
        work.progress(0.2)
        warnings = []
        scale = METRES.get(self.unit, loose.unit)
        if not scale:
            scale = 1.0
            warnings.append(
                Notice(
                    "The file does not say its unit; it was taken as metres. Choose another if that is wrong.",
                    value="unit",
                )
            )
        if self.part == "face":
            return self._face(loose)
        vertices = loose.vertices * scale
        if (loose.up if self.up == "file" else self.up) == "y":
            vertices = np.column_stack([vertices[:, 0], -vertices[:, 2], vertices[:, 1]])
        size = float(np.ptp(vertices[np.unique(loose.triangles)], axis=0).max())
        if not 1e-3 <= size <= 20_000:
            raise ClauseError(
                f"In {UNITS[self.unit]} the model is {metres(size, ',.4g')} large; choose the unit "
                "it was drawn in.",
                "unit",
            )
        try:
            shape, done = repaired(vertices, loose.triangles, self.holes == "closed")
        except ReadProblem as problem:
            raise ClauseError(str(problem), "file") from None
        work.progress(0.7)
        warnings += _told(done)
        figures = {
            "faces": Figure(
                "Faces", len((shape.mesh if isinstance(shape, Body) else shape).triangles)
            )
        }
        if loose.faces:
            figures["exact_faces"] = Figure("Exact faces", len(loose.faces))
        if isinstance(shape, Body):
            return made(shape, figures, warnings)
        try:
            surface = mesh_surface(mesh_of_triangles(shape.vertices, shape.triangles), self.flat)
        except MeshError as error:
            raise ClauseError(str(error), "flat") from None
        if surface.faces is None:
            warnings.append(
                Notice(
                    "The model is in several pieces; a lattice lies on the largest of them.",
                    value="file",
                )
            )
        return made(surface, figures, warnings)

    def _face(self, loose: Loose) -> Made:
        if not loose.faces:
            raise ClauseError("Only a STEP file has exact faces; take all of this one.", "part")
        if self.face > len(loose.faces):
            raise ClauseError(
                f"There is no face {self.face}; the file has {len(loose.faces)}.", "face"
            )
        return made(
            loose.faces[self.face - 1], {"exact_faces": Figure("Exact faces", len(loose.faces))}
        )


def _told(done: Repair) -> list[Notice]:
    out = []
    did = done.sentences()
    places = done.holes or done.crowded
    where = places[0] if places else None
    if did:
        out.append(Notice("Repaired: " + "; ".join(did) + ".", at=where, value="file"))
    if done.left_open:
        at = done.left_open[0]
        count_ = len(done.left_open)
        out.append(
            Notice(
                f"The model is open along {count_} border{'s' if count_ > 1 else ''}, first about {place_text(at)}; it is taken as "
                "a surface and not as a body.",
                at=at,
                value="holes",
            )
        )
    return out


class GroundShape(ShapeClause):
    kind = "ground"
    title = "Ground"
    summary = (
        "From scattered heights in a text file, or from a grey picture with a range of heights."
    )
    sentence = (
        "**Ground** from {file}, {source}[source=picture| {width} wide and from {low} where black to {high} where white]"
        "[source=heights| in {unit}], eased {eased}."
    )

    file: list[str] = file(
        "File",
        ["csv", "xyz", "txt", "png", "jpg", "jpeg"],
        "Heights as CSV or XYZ, or a PNG or JPEG",
    )
    source: Literal["heights", "picture"] = choice(
        "heights", {"heights": "heights", "picture": "a picture"}, "Source"
    )
    unit: Literal["m", "cm", "mm"] = choice(
        "m", {k: v for k, v in UNITS.items() if k != "file"}, "Unit"
    )
    width: float = number(50.0, "m", 0.1, 10000.0, 1.0, "Width")
    low: float = number(0.0, "m", -1000.0, 10000.0, 0.1, "Lowest")
    high: float = number(5.0, "m", -1000.0, 10000.0, 0.1, "Highest")
    eased: int = count(
        0, 0, 100, "Eased", "Smooths the noise of a survey or picture", ("time", "times")
    )

    def make(self, work: Work) -> Made:
        brought = opened(work, self.file, "heights")
        warnings = []
        try:
            if isinstance(brought, Picture):
                if self.source != "picture":
                    raise ClauseError(
                        "The file is a picture; choose “a picture” and give its width and heights.",
                        "source",
                    )
                surface = ground_of_picture(brought.grey, self.width, self.low, self.high)
            else:
                assert isinstance(brought, Heights)
                if self.source != "heights":
                    raise ClauseError(
                        "The file holds heights and is no picture; choose “heights”.", "source"
                    )
                points = brought.points * METRES[self.unit]
                if np.abs(points).max() > 1e7:
                    raise ClauseError(
                        "The heights lie beyond 10,000 km; choose another unit.", "unit"
                    )
                # Survey grids count from far away; near the origin nothing is lost to rounding.
                if np.abs(points[:, :2]).max() > 10_000:
                    shift = np.append(np.floor(points[:, :2].min(axis=0)), 0.0)
                    points = points - shift
                    warnings.append(
                        Notice(
                            f"The heights were moved by {place_text(-shift)} to lie near the origin.",
                            value="file",
                        )
                    )
                surface, doubled = ground_of_heights(points)
                if doubled:
                    warnings.append(
                        Notice(
                            f"{doubled} places lie on others in plan; the highest of each counts.",
                            value="file",
                        )
                    )
        except ReadProblem as problem:
            raise ClauseError(str(problem), "file") from None
        if self.eased:
            mesh = surface.mesh
            heights = eased(mesh, self.eased, True)[:, 2]
            surface = mesh_surface(
                mesh.with_vertices(np.column_stack([mesh.vertices[:, :2], heights])), "plan"
            )
        return made(
            surface,
            {"points": Figure("Points", len(surface.mesh.vertices))},
            warnings,
            drains=False,
        )


@result_type("Underlay", "picture to trace")
@dataclass(frozen=True, eq=False)
class Underlay(Result):
    """A picture on a plane: its stored file, the four corners (4, 2) to straighten it from as
    shares of its width and height, and where the straightened picture lies: ``size`` (2,) in metres
    from the plane's origin moved by ``at``."""

    file: tuple[str, str]
    corners: Array
    frame: Frame2
    size: tuple[float, float]
    at: tuple[float, float]
    opacity: float


class UnderlayClause(Clause):
    kind = "underlay"
    chapter = "Shape"
    title = "Lay a picture under"
    summary = (
        "A picture to trace over: straightened from four corners, scaled from one known length."
    )
    sentence = (
        "**Lay** {file} under the drawing {plane}[plane=plan| at height {level}][plane=front| at y = {level}]"
        "[plane=side| at x = {level}], straightened from {corners}, the distance between {known} being {length}¦, moved by "
        "{across} and {up}, shown at {opacity}."
    )
    gives = "Underlay"

    file: list[str] = file("Picture", ["png", "jpg", "jpeg"], "PNG or JPEG")
    plane: Literal["plan", "front", "side"] = choice(
        "plan",
        {"plan": "in plan", "front": "in an elevation along x", "side": "in an elevation along y"},
        "Plane",
    )
    level: float = number(0.0, "m", -1000.0, 1000.0, 0.1, "Level")
    corners: list[tuple[float, float]] = marks(
        lambda: [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)],
        "Corners",
        "Four places of the picture that are the corners of an upright rectangle in reality",
    )
    known: Annotated[list[tuple[float, float]], Field(max_length=2)] = marks(
        lambda: [(0.0, 0.5), (1.0, 0.5)],
        "Known length",
        "Two places of the straightened picture whose distance is known",
    )
    length: float = number(10.0, "m", 0.001, 10000.0, 0.1, "Known length")
    across: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "Moved across")
    up: float = number(0.0, "m", -10000.0, 10000.0, 0.1, "Moved up")
    opacity: float = number(50.0, "%", 0.0, 100.0, 5.0, "Opacity")

    def make(self, work: Work) -> Made:
        brought = opened(work, self.file, "picture")
        assert isinstance(brought, Picture)
        rows, columns = brought.grey.shape
        if len(self.corners) != 4 or len(self.known) != 2:
            raise ClauseError(
                "Four corners and two ends of the known length are wanted.", "corners"
            )
        corners = np.array(self.corners, float)
        if not np.isfinite(corners).all() or np.abs(corners).max() > 3:
            raise ClauseError("A corner lies far outside the picture; bring it back.", "corners")
        try:
            homography(corners * [columns, rows])
            width, height = plane_size(corners * [columns, rows], np.array([columns, rows]) / 2)
        except PictureError as error:
            raise ClauseError(str(error), "corners") from None
        ends = np.array(self.known, float) * [width, height]
        apart = float(np.linalg.norm(ends[1] - ends[0]))
        if not np.isfinite(apart) or apart < 1e-6 * max(width, height):
            raise ClauseError(
                "The ends of the known length lie on one place; move them apart.", "known"
            )
        scale = self.length / apart
        size = (width * scale, height * scale)
        frame = plane_frame(self.plane, self.level, (0.0, 0.0, 0.0), 0.0, 0.0)
        result = Underlay(
            (self.file[0], self.file[1]),
            corners,
            frame,
            size,
            (self.across, self.up),
            self.opacity / 100,
        )
        figures = {
            "width": Figure("Width", size[0], "m", 2),
            "height": Figure("Height", size[1], "m", 2),
            "pixel": Figure("A pixel", self.length / apart * 1000, "mm", 1),
        }
        return Made(result, figures)
