"""What the clauses of chapter Shape share: places, figures, warnings that say where, and what kind
of shape is meant."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ...core.geometry.charts import charted
from ...core.geometry.meshes import Body, MeshError
from ...core.geometry.meshsurface import MeshSurface, mesh_surface
from ...core.geometry.surfaces import Surface
from ...core.patterns.pulls import share_out_of_reach
from ...core.shaping.crossing import self_crossings
from ...core.shaping.drainage import ponds
from ...core.shaping.faces import stands_for_curves
from ...core.shaping.facets import facets
from ...core.shaping.onto import measures
from ..base import Clause, ClauseError, Figure, Made, Notice, Take, Work, headline
from ..said import mm, place_text

__all__ = [
    "LARGEST",
    "PULLS",
    "SHAPE",
    "SHAPES",
    "Coordinate",
    "Place",
    "Shape",
    "ShapeClause",
    "body_needed",
    "checked_points",
    "dial_aid",
    "facing_aids",
    "line_aid",
    "made",
    "place_text",
    "share_of_pulls",
    "smallest_radius",
    "surface_needed",
]

Array = NDArray[np.float64]
LEAST_ROOF = 2.0
"""Water is looked for on what is at least so broad (m) in plan, which seats and models are not."""
LARGEST = 10_000.0
"""Largest coordinate in metres: beyond it the figures would lose their meaning to rounding."""
Coordinate = Annotated[float, Field(ge=-LARGEST, le=LARGEST, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Shape = Surface | Body
SHAPE = Take(name="shape", types=("Shape",), label="Shape")
PULLS = Take(name="pulls", types=("Pull",), label="Pulls", many=True, optional=True)
SHAPES = Take(name="shapes", types=("Shape",), label="Shapes", many=True)
MOST_TRIANGLES = 400_000


class ShapeClause(Clause):
    """Base of clauses that give a shape."""

    chapter = "Shape"
    gives = "Shape"


def made(
    shape: Shape,
    figures: dict[str, Figure] | None = None,
    warnings: list[Notice] | None = None,
    aids: dict[str, Array] | None = None,
    drains: bool = True,
) -> Made:
    """What a clause made, with the figures every shape has; those that take longer are worked out
    when there is time. ``warnings`` and ``aids``, on which handles hang, are the clause's own. Of
    what need not drain, as ground (``drains``), water that stands is a figure and no warning."""
    triangles = facets(shape).mesh.triangles
    if not len(triangles):
        raise ClauseError(
            "Nothing is left of the shape with these values; undo brings the last state back."
        )
    if len(triangles) > MOST_TRIANGLES:
        raise ClauseError(
            f"The shape has {len(triangles):,} triangles; at most {MOST_TRIANGLES:,} can be worked with. "
            "A coarser division works."
        )
    return Made(
        shape,
        _size_figures(shape) | (figures or {}),
        warnings or [],
        lambda check: _second_look(shape, check, drains),
        aids or {},
    )


def line_aid(
    name: str, place: Sequence[float] | Array, step: Sequence[float] | Array
) -> dict[str, Array]:
    """Hangs the handle of number ``name`` at ``place`` (3,) + value · ``step`` (3,)."""
    return {f"line {name}": np.array([place, step], float)}


def dial_aid(
    name: str,
    centre: Sequence[float] | Array,
    arm: Sequence[float] | Array,
    axis: Sequence[float] | Array,
) -> dict[str, Array]:
    """Hangs the handle of angle ``name`` at the end of ``arm`` (3,), turned by its value about
    ``axis`` (3,) at ``centre`` (3,)."""
    return {f"dial {name}": np.array([centre, arm, axis], float)}


def facing_aids(
    shape: Shape, place: Sequence[float] | Array, azimuth: float, reach: float = 0.3
) -> dict[str, Array]:
    """Dials for a direction given by ``azimuth`` in plan and ``rise``, both in degrees, at
    ``place``."""
    arm = reach * float(facets(shape).mesh.extent.max())
    a = np.radians(azimuth)
    ahead = np.array([np.cos(a), np.sin(a), 0.0])
    return dial_aid("azimuth", place, [arm, 0, 0], [0, 0, 1]) | dial_aid(
        "rise", place, 0.8 * arm * ahead, np.cross(ahead, [0.0, 0.0, 1.0])
    )


def _size_figures(shape: Shape) -> dict[str, Figure]:
    mesh = facets(shape).mesh
    size = mesh.extent
    # Those of the triangles; the true ones take longer and follow.
    out = {"area": headline("Area", mesh.area, "m²", 1)}
    if isinstance(shape, Body):
        out["volume"] = headline("Volume", shape.volume, "m³", 2)
    return out | {
        "extent_x": headline("Extent in x", float(size[0]), "m", 2),
        "extent_y": headline("Extent in y", float(size[1]), "m", 2),
        "extent_z": headline("Extent in z", float(size[2]), "m", 2),
    }


def smallest_radius(shape: Shape) -> tuple[Figure, Array] | None:
    """The tightest bend and its place, away from creases and borders; ``None`` where there is none
    to speak of."""
    if isinstance(shape, Body) and shape.faces and not stands_for_curves(shape):
        return _radius_of_faces(shape)
    f = facets(shape)
    gauss, mean = f.curvatures.T
    usable = np.isfinite(gauss) & np.isfinite(mean)
    bend = np.where(usable, np.abs(mean) + np.sqrt(np.maximum(mean**2 - gauss, 0.0)), 0.0)
    if isinstance(shape, Body | MeshSurface):
        # Points that are doubled lie on creases, which have no radius, nor do those beside them say
        # much.
        creased = np.bincount(f.vertex, minlength=len(f.mesh.vertices)) > 1
        beside = np.zeros_like(creased)
        beside[f.mesh.triangles[creased[f.mesh.triangles].any(axis=1)]] = True
        bend = np.where(beside[f.vertex], 0.0, bend)
    worst = int(np.argmax(bend))
    if bend[worst] < 1e-9:
        return headline("Smallest radius", "flat"), f.points[worst]
    return headline("Smallest radius", float(1 / bend[worst]), "m", 2), f.points[worst]


def _radius_of_faces(body: Body) -> tuple[Figure, Array]:
    """The tightest bend of a body's curved faces and its place, at the middles of triangles."""
    least, where = np.inf, np.zeros(3)
    for face in body.faces:
        middle = body.mesh.vertices[body.mesh.triangles[face.triangles]].mean(axis=1)
        uv, places, _ = face.nearest(middle)
        gauss, mean = face.surface.curvatures(uv).T
        bend = np.abs(mean) + np.sqrt(np.maximum(mean**2 - gauss, 0.0))
        # A surface moved along its normals bends as much less, or more, as it was moved.
        radius = np.maximum(1 / np.maximum(bend, 1e-12) + np.sign(mean) * face.offset, 0.0)
        worst = int(np.argmin(radius))
        if radius[worst] < least:
            least, where = float(radius[worst]), places[worst]
    if least > 1e9:
        return headline("Smallest radius", "flat"), where
    return headline("Smallest radius", least, "m", 2), where


def _place(at: Array | Sequence[float]) -> tuple[float, float, float]:
    return (float(at[0]), float(at[1]), float(at[2]))


def _measured(shape: Shape) -> dict[str, Figure]:
    """Area and volume with curved faces as they are; where triangles are all there is of them, that
    they are measured on these."""
    if isinstance(shape, Surface):
        return {"area": headline("Area", shape.area, "m²", 1)}
    volume, area = measures(shape)
    out = {"area": headline("Area", area, "m²", 1), "volume": headline("Volume", volume, "m³", 2)}
    if stands_for_curves(shape):
        count = len(shape.mesh.triangles)
        out["measured_on"] = headline("Measured on", f"its {count:,} triangles")
    return out


def _second_look(
    shape: Shape, check: Callable[[], None], drains: bool = True
) -> tuple[dict[str, Figure], list[Notice]]:
    figures = _measured(shape)
    check()
    notices: list[Notice] = []
    radius = smallest_radius(shape)
    if radius is not None:
        figures["smallest_radius"] = radius[0]
    mesh = facets(shape).mesh
    check()
    breadth = float(np.ptp(mesh.vertices[:, :2], axis=0).min())
    standing = ponds(mesh, isinstance(shape, Body)) if breadth >= LEAST_ROOF else []
    if standing:
        deepest = standing[0]
        figures["low_points"] = headline("Low points", len(standing))
        figures["deepest"] = headline("Deepest water", deepest.depth * 1000, "mm", 0)
        places = f"{len(standing)} low point{'s' if len(standing) > 1 else ''}"
        if drains:
            notices.append(
                Notice(
                    f"Water would stand at {places}, up to {mm(deepest.depth * 1000, ',.0f')} "
                    "deep, the deepest at "
                    f"{place_text(deepest.at)}.",
                    at=deepest.at,
                    figure="low_points",
                )
            )
    check()
    crossings = self_crossings(mesh)
    if len(crossings):
        figures["self_crossings"] = headline(
            "Crosses itself", f"in {len(crossings)}{'+' if len(crossings) >= 50 else ''} places"
        )
        notices.append(
            Notice(
                f"The shape crosses itself, first near {place_text(crossings[0])}; operations on bodies and cut parts will "
                "not be sound there.",
                at=_place(crossings[0]),
                figure="self_crossings",
            )
        )
    return figures, notices


def body_needed(shape: Any, doing: str) -> Body:
    """The shape as a body; raises ``ClauseError`` for an open surface, which tells what is being
    done, as “Hollowing works”."""
    if isinstance(shape, Body):
        return shape
    mesh = facets(shape).mesh
    if not mesh.loops:
        return _outward(Body(mesh))
    raise ClauseError(
        f"{doing} on closed bodies, and this shape is an open surface; thicken it, or make its clause give a body."
    )


def _outward(body: Body) -> Body:
    return body if body.volume >= 0 else body.reversed()


def surface_needed(shape: Any, whole: bool = False) -> Surface:
    """The surface a lattice lies on: the shape itself, or a body's skin. Of a body without one it
    is all of its faces where ``whole`` is asked for, else the side of it seen from above."""
    if isinstance(shape, Surface):
        return shape
    if shape.skin is not None:
        return shape.skin
    try:
        if not whole:
            return mesh_surface(shape.mesh, "fitting")
        if "_charted" not in shape.__dict__:
            shape.__dict__["_charted"] = charted(
                shape.mesh
            )  # as a cached property would: the shape itself is frozen
        return shape.__dict__["_charted"]
    except MeshError as error:
        raise ClauseError(f"{error} Take a side of the body as a surface first.") from None


def checked_points(
    points: Sequence[Sequence[float]], least: int, most: int, what: str, value: str
) -> Array:
    """Places ``points`` as an array (n, 3); raises ``ClauseError`` about a ``value``, saying
    ``what`` they are for, when there are fewer than ``least`` or more than ``most``."""
    if not least <= len(points) <= most:
        raise ClauseError(
            f"There are {len(points)} {what}; {least:,} to {most:,} can be used.", value
        )
    return np.array(points, float).reshape(-1, 3)


def share_of_pulls(work: Work, places: Array, value: str, otherwise: str) -> Array:
    """From 0 at the pulls above a clause to 1 out of their reach, of ``places`` (n, 3); raises
    ``ClauseError`` at a ``value`` where there are none, with what would work ``otherwise``."""
    pulls = work.inputs.get("pulls") or []
    if not pulls:
        raise ClauseError(
            f"There are no pull points or curves above; add some, or {otherwise}.", value
        )
    lines = [(line, pull.reach) for pull in pulls for line in pull.lines]
    return share_out_of_reach(lines, places)
