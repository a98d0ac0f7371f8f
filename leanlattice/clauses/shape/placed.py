"""Curves made of places and lines: circles at places, regions between lines, bands about them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from ...core.geometry.drawing import circle_path
from ...core.geometry.paths import Frame2, PlaneCurve, on_plane
from ...core.geometry.regions import Region
from ...core.shaping.canopies import scatter
from ...core.shaping.regions import band, regions
from ...core.structure.roles import role_number
from ...core.structure.structure import Structure
from ..base import (
    ClauseError,
    Made,
    Notice,
    Take,
    Work,
    choice,
    count,
    headline,
    number,
    places,
)
from .common import PULLS, Place, checked_points, share_of_pulls
from .drawn import CURVES, CurveClause, Curves, made_curves, plane_frame

__all__ = ["BandAbout", "CirclesAt", "RegionsBetween", "middles_of"]

Array = NDArray[np.float64]
FINE = 2e-4
"""Share of a curve's size that chords may be off where what is made of it is decided."""
MOST_NODES = 2_000
LEVEL_PLANE = plane_frame("plan", 0.0, (0.0, 0.0, 0.0), 0.0, 0.0)
Places = Annotated[list[Place], Field(max_length=400)]


def _column_heads(structure: Structure) -> NDArray[np.bool_]:
    """Nodes (N,) that columns lead to, and that bear something else."""
    of_columns = (structure.role == role_number("column"))[structure.member_of_entry]
    led, others = (
        np.bincount(structure.path[which], minlength=len(structure.places)) > 0
        for which in (of_columns, ~of_columns)
    )
    return led & others & ~structure.foot


NODES: dict[str, Callable[[Structure], NDArray[np.bool_]]] = {
    "feet": lambda structure: structure.foot,
    "heads": _column_heads,
    "all": lambda structure: np.ones(len(structure.places), bool),
}
"""Which nodes (N,) of a structure are meant."""


def middles_of(curves: Curves) -> list[tuple[Array, Frame2]]:
    """The middle (3,) of every closed curve, and its plane."""
    out = []
    for c in curves.curves:
        if c.path.closed:
            ring = shapely.Polygon(c.path.polygon(c.path.size * FINE))
            out.append((c.frame.lifted(np.array(ring.centroid.coords))[0], c.frame))
    return out


class CirclesAt(CurveClause):
    kind = "circles"
    title = "Circles at places"
    summary = (
        "Circles scattered over an outline, at places of one's own, about the middles of curves, "
        "or at nodes of a structure."
    )
    sentence = (
        "**Draw** circles {where}[where=scattered|, {circles} of them by seed {seed}]"
        "[where=places| at {sites}][where=nodes| {nodes}], of radius {radius} {graded}"
        "[graded=height| to {other} at the highest]"
        "[graded=pull| to {other} out of their reach]."
    )
    takes = (
        Take(name="curves", types=("Curves",), label="Outline or curves", optional=True),
        PULLS,
        Take(
            name="structure",
            types=("Structure",),
            label="Structure",
            optional=True,
            asked=True,
            beside=True,
        ),
    )

    where: Literal["scattered", "places", "middles", "nodes"] = choice(
        "scattered",
        {
            "scattered": "scattered over the outline",
            "places": "of one's own",
            "middles": "about the middles of the curves",
            "nodes": "at",
        },
        "Where",
        "A canopy can take the middles of these circles for its columns.",
    )
    circles: int = count(5, 1, 400, "Number")
    seed: int = count(1, 0, 100000, "Seed", "Another seed scatters them otherwise")
    sites: Places = places(
        lambda: [(-2.0, 0.0, 0.0), (2.0, 1.0, 0.0)], "Places", "Drag them in the view."
    )
    nodes: Literal["feet", "heads", "all"] = choice(
        "feet",
        {
            "feet": "the feet of the structure",
            "heads": "the nodes its columns bear",
            "all": "all nodes of the structure",
        },
        "Nodes",
    )
    radius: float = number(0.5, "m", 0.001, 1000.0, 0.05, "Radius")
    graded: Literal["alike", "height", "pull"] = choice(
        "alike",
        {"alike": "all alike", "height": "at the lowest", "pull": "at the pull points"},
        "Graded",
    )
    other: float = number(1.0, "m", 0.001, 1000.0, 0.05, "Other radius")

    def make(self, work: Work) -> Made:
        at = self._at_nodes(work) if self.where == "nodes" else self._places(work)
        where = np.array([place for place, _ in at])
        share = self._share(where, work)
        radii = self.radius + (self.other - self.radius) * share
        out = []
        for (place, frame), radius in zip(at, radii.tolist(), strict=True):
            here = Frame2(place, frame.x, frame.y)
            out.append(PlaneCurve(circle_path(np.zeros(2), radius), here))
        made = made_curves(out, value="circles")
        if self.graded != "alike":
            made.figures["smallest"] = headline("Smallest radius", float(radii.min()), "m", 3)
            made.figures["largest"] = headline("Largest radius", float(radii.max()), "m", 3)
        return made

    def _at_nodes(self, work: Work) -> list[tuple[Array, Frame2]]:
        """Places of nodes, and the level planes there."""
        structure: Structure | None = work.inputs.get("structure")
        if structure is None:
            raise ClauseError(
                "No structure is chosen whose nodes could be places; choose one below the "
                "sentence, or place the circles by hand.",
                "where",
            )
        at = structure.places[NODES[self.nodes](structure)]
        if not len(at):
            raise ClauseError(
                "The structure has no such nodes; all its nodes would be places.", "nodes"
            )
        if len(at) > MOST_NODES:
            raise ClauseError(
                f"The structure has {len(at):,} such nodes; at most {MOST_NODES:,} can be places.",
                "nodes",
            )
        return [(place, LEVEL_PLANE) for place in at]

    def _places(self, work: Work) -> list[tuple[Array, Frame2]]:
        """Places and planes of the circles."""
        curves: Curves | None = work.inputs.get("curves")
        if self.where == "places":
            plan = LEVEL_PLANE
            return [(p, plan) for p in checked_points(self.sites, 1, 400, "where", "sites")]
        closed = [] if curves is None else [c for c in curves.curves if c.path.closed]
        if curves is None or not closed:
            raise ClauseError(
                "There is no closed curve above; draw one, or place the circles by hand.", "where"
            )
        if self.where == "middles":
            return middles_of(curves)
        largest = max(closed, key=lambda c: abs(c.path.signed_area))
        region = Region(largest.path.polygon(largest.path.size * FINE))
        flat = scatter(region, self.circles, self.seed)
        return [(place, largest.frame) for place in largest.frame.lifted(flat)]

    def _share(self, where: Array, work: Work) -> Array:
        """From 0, where the radius is the first, to 1, where it is the other."""
        if self.graded == "alike":
            return np.zeros(len(where))
        if self.graded == "height":
            low, high = where[:, 2].min(), where[:, 2].max()
            return np.asarray((where[:, 2] - low) / (high - low if high > low else 1.0))
        return share_of_pulls(work, where, "graded", "grade the circles by height")


class RegionsBetween(CurveClause):
    kind = "regions"
    title = "Regions between lines"
    summary = (
        "Every region that lines and curves enclose together, as a closed curve; arcs stay arcs."
    )
    sentence = "**Take** the regions between the curves, from {least} on."
    takes = (CURVES,)

    least: float = number(0.01, "m²", 0.0, 10000.0, 0.01, "Least region")

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        frame = given.curves[0].frame
        paths = on_plane(given.curves, frame)
        found = regions(paths, max(given.size * FINE, 1e-6))
        kept = [p for p in found if abs(p.signed_area) >= self.least]
        if not found:
            raise ClauseError(
                "The curves enclose nothing; extend them until they cross, or close them."
            )
        out = [PlaneCurve(p, frame) for p in kept]
        left = len(found) - len(kept)
        warnings = [
            Notice(
                f"{left} region{' is' if left == 1 else 's are'} smaller than {self.least:g} m² "
                "and left out.",
                value="least",
            )
        ]
        return made_curves(out, warnings if left else [], "least")


class BandAbout(CurveClause):
    kind = "band"
    title = "Band about curves"
    summary = (
        "Closed curves on both sides of open ones, so wide; of closed ones a curve on either side."
    )
    sentence = "**Draw** a band {width} wide about the curves, its ends {ends}."
    takes = (CURVES,)

    width: float = number(0.4, "m", 0.001, 1000.0, 0.05, "Width")
    ends: Literal["square", "round"] = choice(
        "square", {"square": "square", "round": "round"}, "Ends"
    )

    def make(self, work: Work) -> Made:
        given: Curves = work.inputs["curves"]
        out = [
            PlaneCurve(p, c.frame)
            for c in given.curves
            for p in band(c.path, self.width, max(c.path.size * FINE, 1e-6), self.ends == "round")
        ]
        return made_curves(out, value="width")
