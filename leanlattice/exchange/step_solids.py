"""STEP of solids that are known by their triangles: bounded by plane faces, in millimetres."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.geometry.charts import smooth_faces
from ..core.geometry.meshes import Mesh, mesh_of_triangles, used_only
from ..core.solids.solids import Solids
from .step import MM, sewn_solid, silenced, write_step

__all__ = ["MOST_FACES", "write_solids", "written_solids"]

Array = NDArray[np.float64]
PLANE = 1e-7
"""Radians up to which triangles side by side are of one plane face."""
MOST_FACES = 40_000
"""Of all solids of a pack; of more only the first of each type is written."""


def write_solids(path: Path, every: Sequence[Solids]) -> None:
    """Writes solids that ``written_solids`` tells, as they are, by their labels."""
    silenced()
    named = []
    for solids in every:
        for k in written_solids(solids).tolist():
            form = _faceted(solids.body(k).mesh)
            if form is not None:
                named.append((solids.labels[k], form))
    if named:
        write_step(path, named)


def written_solids(solids: Solids) -> NDArray[np.int32]:
    """Which solids are written, by their positions: all, or the first of each type where all would
    have too many faces; none where even these would."""
    faces = smooth_faces(solids.whole, PLANE)
    first = np.unique(faces, return_index=True)[1]
    counts = np.bincount(solids.owner[first], minlength=solids.count)
    of_types = np.sort(np.unique(solids.type_of, return_index=True)[1])
    for chosen in (np.arange(solids.count), of_types):
        if counts[chosen].sum() <= MOST_FACES:
            return np.asarray(chosen, np.int32)
    return np.zeros(0, np.int32)


def _faceted(mesh: Mesh) -> Any:
    """The solid within a closed mesh; ``None`` where it does not close in that form."""
    faces = smooth_faces(mesh, PLANE)
    order = np.argsort(faces, kind="stable")
    starts = np.searchsorted(faces[order], np.arange(int(faces.max()) + 1))
    sides: list[Any] = []
    for own in np.split(order, starts[1:]):
        sides += _plane_faces(mesh, mesh.triangles[own])
    return sewn_solid(sides, plane=True)


def _plane_faces(mesh: Mesh, triangles: NDArray[np.int32]) -> Iterator[Any]:
    """The face that some triangles in a plane are; nothing where they have no area."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

    rings, normal = _rings(mesh, triangles)
    size = float(np.linalg.norm(normal))
    if size == 0:
        return
    plane = gp_Pln(gp_Pnt(*(rings[0][0] * MM).tolist()), gp_Dir(*(normal / size).tolist()))
    made = BRepBuilderAPI_MakeFace(plane, _wire(rings[0]), True)
    for ring in rings[1:]:
        made.Add(_wire(ring))
    if made.IsDone():
        yield made.Face()


def _rings(mesh: Mesh, triangles: NDArray[np.int32]) -> tuple[list[Array], Array]:
    """The borders (k, 3) of triangles in a plane, that round all of them first, and their area."""
    if len(triangles) == 1:
        a, b, c = ring = mesh.vertices[triangles[0]]
        return [ring], np.cross(b - a, c - a)
    places, corners = used_only(mesh.vertices, triangles)
    piece = mesh_of_triangles(places, corners)
    rings = sorted((places[loop] for loop in piece.loops), key=_extent, reverse=True)
    return rings, piece.triangle_crosses.sum(axis=0)


def _extent(ring: Array) -> float:
    return float(np.ptp(ring, axis=0).max())


def _wire(ring: Array) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakePolygon
    from OCP.gp import gp_Pnt

    polygon = BRepBuilderAPI_MakePolygon()
    for at in ring * MM:
        polygon.Add(gp_Pnt(*at.tolist()))
    polygon.Close()
    return polygon.Wire()
