"""Nets that follow from a construction of their own: geodesic ones, and the equal mesh."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import NetError
from ...core.geometry.polygons import areas
from ...core.geometry.surfaces import Surface
from ...core.patterns.equalmesh import equal_mesh
from ...core.patterns.geodesic import POLYHEDRA, divided, fitted_sphere, geodesic, leapfrogged
from ...core.shaping.facets import surface_mesh
from ..base import ClauseError, Figure, Made, Notice, Work, choice, count, number, point
from ..said import metres, place_text
from ..shape.common import Place, dial_aid, surface_needed
from .common import MOST_CELLS, SHAPE, NetClause, made_net, place_of

__all__ = ["LayGeodesic", "SwingMesh"]

Array = NDArray[np.float64]
TOO_FLAT = 30.0
"""A sphere so many times larger than the shape that fits it says that it is flat."""


class LayGeodesic(NetClause):
    kind = "geodesic"
    title = "Lay a geodesic net"
    summary = "A polyhedron's faces divided and carried onto the shape along rays from its middle."
    sentence = "**Geodesic** net from an {solid} of frequency {frequency}, divided {way}, {border}."
    takes = (SHAPE,)

    solid: Literal["icosahedron", "octahedron"] = choice(
        "icosahedron", {k: k for k in POLYHEDRA}, "Polyhedron"
    )
    frequency: int = count(4, 1, 64, "Frequency", "Parts of each edge of the polyhedron")
    way: Literal["along", "across"] = choice(
        "along",
        {"along": "along its edges", "across": "across its edges"},
        "Division",
        "Across its edges gives three times as many.",
    )
    border: Literal["cut", "whole"] = choice(
        "cut", {"cut": "cut at the edge", "whole": "whole cells only"}, "Border"
    )

    def make(self, work: Work) -> Made:
        surface = surface_needed(work.inputs["shape"], whole=True)
        solid = POLYHEDRA[self.solid]()
        cells = len(solid.faces) * self.frequency**2 * (3 if self.way == "across" else 1)
        if cells > MOST_CELLS:
            most = int((MOST_CELLS / (cells / self.frequency**2)) ** 0.5)
            raise ClauseError(
                f"A frequency of {self.frequency} would make {cells:,} cells; at most {most} works.",
                "frequency",
            )
        mesh = surface_mesh(surface)[0]
        centre, radius = fitted_sphere(mesh.vertices)
        if radius > TOO_FLAT * float(mesh.extent.max()):
            raise ClauseError(
                "The shape is all but flat and has no middle for rays to run from; lay equilateral triangles on it instead.",
                "solid",
            )
        work.progress(0.2)
        parts = divided(solid, self.frequency)
        try:
            net = geodesic(
                surface,
                mesh,
                leapfrogged(parts) if self.way == "across" else parts,
                centre,
                self.border,
            )
        except NetError as error:
            raise ClauseError(
                f"{error} Seen from its middle the shape must not lie over itself.", "solid"
            ) from None
        if not net.cell_count:
            raise ClauseError(
                "No whole cell fits; a higher frequency, or cutting at the edge, works.",
                "frequency",
            )
        return made_net(
            net, {"radius": Figure("Sphere nearest to the shape", radius, "m, radius", 2)}
        )


class SwingMesh(NetClause):
    kind = "equal-mesh"
    title = "Swing an equal mesh"
    summary = "Rhombs whose edges are all one length, swung with compasses from two crossing lines."
    sentence = "**Swing** a mesh of edges {length} long from two lines that cross at {start}, turned by {turn}."
    takes = (SHAPE,)

    length: float = number(1.0, "m", 0.02, 100.0, 0.05, "Edge length")
    start: Place = point((0.0, 0.0, 3.0), "Crossing", "The nearest place of the shape is taken.")
    turn: float = number(
        45.0, "°", -360.0, 360.0, 1.0, "Turn", "Of the first line, from the lines of u"
    )

    def make(self, work: Work) -> Made:
        surface = surface_needed(work.inputs["shape"])
        cells = surface.area / self.length**2
        if cells > MOST_CELLS / 8:
            least = np.ceil((8 * surface.area / MOST_CELLS) ** 0.5 * 100) / 100
            raise ClauseError(
                f"Edges of {metres(self.length)} would make about {cells:,.0f} cells; "
                f"{metres(least)} or more works.",
                "length",
            )
        uv = np.clip(surface.closest(np.array([self.start])), 1e-6, 1 - 1e-6)
        # At an apex the lines of u have no direction to begin from; a step beside it they do.
        uv = surface._off_points(uv, min(0.4, 1.5 * self.length / min(surface.lengths)))[0]
        try:
            made = equal_mesh(surface, self.length, uv, float(np.radians(self.turn)))
        except NetError as error:
            raise ClauseError(
                f"{error} The mesh meets itself; another crossing or turn works.", "start"
            ) from None
        if not made.net.cell_count:
            raise ClauseError(
                f"No rhomb of edges {metres(self.length)} fits about "
                f"{place_text(surface.points(uv[None])[0])}; shorter edges, or a "
                "crossing further from the edge, work.",
                "length",
            )
        warnings = []
        if len(made.ran_out):
            warnings.append(
                Notice(
                    f"The mesh ran out at {len(made.ran_out)} places before the shape's edge, where its rhombs close up; another "
                    "crossing or turn moves them.",
                    at=place_of(made.ran_out[0]),
                    value="start",
                )
            )
        covered = (
            float(areas(made.net.vertices, made.net.corners, made.net.offsets).sum())
            / surface.area
            * 100
        )
        aids = dial_aid("turn", *_dial(surface, uv, self.length))
        result = made_net(
            made.net, {"covered": Figure("Of the shape covered", covered, "%", 0)}, warnings
        )
        return Made(result.result, result.figures, result.warnings, result.later, aids)


def _dial(surface: Surface, uv: Array, length: float) -> tuple[Array, Array, Array]:
    """Centre, arm and axis of the handle for the turn."""
    normal = surface.normals(uv[None])[0]
    arm = surface.derivatives(uv[None], 1, 0)[0]
    arm -= (arm @ normal) * normal
    return surface.points(uv[None])[0], 3 * length * arm / np.linalg.norm(arm), normal
