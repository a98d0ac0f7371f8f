"""Ribs against the bare plane sections they begin with."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from leanlattice.core.geometry.forms import torus
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.ribs.laps import Slots, lapped
from leanlattice.core.ribs.planes import evenly, parallel
from leanlattice.core.ribs.plates import cut_ribs
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import as_solid

__all__ = ["slotted_ribs"]

UP = np.array([0.0, 0.0, 1.0])


def slotted_ribs(seconds: Callable[..., list[float]]) -> float:
    """200 ribs of a body of 100,000 triangles, slots included, against the 200 bare sections."""
    mesh = surface_mesh(torus(np.zeros(3), 5.0, 1.5), (320, 160))[0]
    body = Body(mesh)
    low, high = body.mesh.vertices.min(axis=0), body.mesh.vertices.max(axis=0)
    families = [parallel(np.eye(3)[axis], UP, evenly(low[axis], high[axis], 100)) for axis in (0, 1)]

    def bare() -> None:
        solid = as_solid(Body(mesh))  # one that has not been worked with
        for planes in families:
            frame = np.stack([planes.x[0], planes.y[0], planes.normals[0]])
            turned = solid.transform(np.column_stack([frame, np.zeros(3)]))
            for origin in planes.origins:
                turned.slice(float(frame[2] @ origin))

    def ribs() -> None:
        fresh = Body(mesh)
        first, second = (cut_ribs(fresh, p, s, 0.012).ribs for p, s in zip(families, "AB", strict=True))
        lapped(first, second, Slots(0.0002), UP)

    whole, sections = seconds(ribs, bare)
    return whole / sections
