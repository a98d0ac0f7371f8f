"""Nets cut out of a foam by the skin of a shape."""

from __future__ import annotations

from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from ...core.geometry.divided import finer
from ...core.geometry.meshes import Mesh, mesh_of_triangles
from ...core.geometry.meshsurface import MeshSurface
from ...core.geometry.nets import NetError
from ...core.geometry.surfaces import Surface
from ...core.patterns.foam import equal_foam, scattered_foam, turned_points
from ...core.patterns.skincells import cells_cut_by_skin
from ...core.shaping.facets import surface_mesh
from ..base import ClauseError, Figure, Made, Work, choice, count, number
from ..said import metres
from ..shape.common import surface_needed
from .common import SHAPE, NetClause, made_net

__all__ = ["CutFoam"]

Array = NDArray[np.float64]
FINENESS = 6
"""Triangles that sample a cell across its width."""
MOST = 6_000
"""Cells, about: their skin is sampled with some hundred triangles each."""


class CutFoam(NetClause):
    kind = "foam"
    title = "Cut a foam with the skin"
    builds = "foam"
    summary = "Space filled with cells, of equal volume or scattered; where the shape's skin cuts them is the net."
    sentence = (
        "**Cut** a foam of {cells} {width} wide with the skin[cells=scattered|, scattered by seed {seed} and drawn apart {rounds} "
        "times]¦, turned by {turn} and tilted by {tilt}, pieces under {sliver} merged."
    )
    takes = (SHAPE,)

    cells: Literal["equal", "scattered"] = choice(
        "equal",
        {"equal": "two kinds of cells of equal volume", "scattered": "scattered cells"},
        "Cells",
    )
    width: float = number(
        1.5, "m", 0.02, 1000.0, 0.05, "Width", "Side of the cube that has a cell's volume"
    )
    seed: int = count(1, 0, 100_000, "Seed", "Another seed scatters the points otherwise")
    rounds: int = count(
        3, 0, 20, "Drawn apart", "Each time the points move to the middles of their cells"
    )
    turn: float = number(
        25.0,
        "°",
        -360.0,
        360.0,
        1.0,
        "Turn",
        "About the vertical; at odd angles the cut looks irregular",
    )
    tilt: float = number(35.0, "°", -360.0, 360.0, 1.0, "Tilt", "About x, before the turn")
    sliver: float = number(
        5.0, "%", 0.0, 60.0, 1.0, "Slivers", "Smaller pieces go to the neighbour they touch most."
    )

    def make(self, work: Work) -> Made:
        surface = surface_needed(work.inputs["shape"], whole=True)
        pieces = surface.area / self.width**2
        if pieces > MOST:
            least = np.ceil((surface.area / MOST) ** 0.5 * 100) / 100
            raise ClauseError(
                f"Cells {metres(self.width)} wide would cut about {pieces:,.0f} pieces; "
                f"{metres(least)} or more works.",
                "width",
            )
        mesh = _sampled(surface, self.width / FINENESS)
        work.progress(0.3)
        low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
        middle, reach = (low + high) / 2, float(np.linalg.norm(high - low)) / 2 + 2 * self.width
        try:
            points, weights = self._points(np.full(3, -reach), np.full(3, reach))
            points = (
                turned_points(points, float(np.radians(self.turn)), float(np.radians(self.tilt)))
                + middle
            )
            near = _near(points, mesh, 3 * self.width)
            work.progress(0.5)
            net, owner = cells_cut_by_skin(
                surface, mesh, points[near], weights[near], self.sliver / 100
            )
        except NetError as error:
            raise ClauseError(
                f"{error} Cells narrower than {metres(self.width)} will help.", "width"
            ) from None
        return made_net(net, {"foam_cells": Figure("Cells of the foam", len(np.unique(owner)))})

    def _points(self, low: Array, high: Array) -> tuple[Array, Array]:
        most = float(np.prod((high - low) / self.width))
        if most > 2_000_000:
            raise ClauseError(
                f"Cells {metres(self.width)} wide would fill the space about the shape {most:,.0f} "
                "times; wider ones work.",
                "width",
            )
        if self.cells == "equal":
            return equal_foam(low, high, self.width)
        points = scattered_foam(low, high, self.width, self.seed, self.rounds)
        return points, np.zeros(len(points))


def _near(points: Array, mesh: Mesh, reach: float) -> NDArray[np.bool_]:
    """Which points lie within ``reach`` of a mesh, so that only cells that meet it are worked
    with."""
    return (
        np.asarray(
            scipy.spatial.cKDTree(mesh.vertices).query(points, distance_upper_bound=reach)[0]
        )
        < reach
    )


def _sampled(surface: Surface, side: float) -> Mesh:
    """A surface in triangles whose sides are about ``side`` (m) or shorter."""
    if isinstance(surface, MeshSurface):
        whole = getattr(surface, "whole", None) or surface.mesh
        whole = whole.reversed() if surface.flipped else whole
        return mesh_of_triangles(*finer(whole.vertices, whole.triangles, side))
    u, v = (int(np.clip(np.ceil(length / side), 8, 600)) for length in surface.lengths)
    mesh = surface_mesh(surface, (u, v))[0]
    return mesh_of_triangles(*finer(mesh.vertices, mesh.triangles, 2 * side))
