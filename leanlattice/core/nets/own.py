"""The cells of a net as the surface it lies on, where it lies on no other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.charts import charted
from ..geometry.meshes import Mesh, mesh_of_triangles, pieces
from ..geometry.meshsurface import mesh_surface
from ..geometry.surfaces import Surface

__all__ = ["own_surface"]


def own_surface(
    vertices: NDArray[np.float64], corners: NDArray[np.int32], offsets: NDArray[np.int32]
) -> Surface:
    """Surface of cells that fill no more than one flat picture, or of charts; raises ``MeshError``
    where they make none."""
    mesh = Mesh(vertices, corners, offsets)
    one = mesh_of_triangles(mesh.vertices, mesh.triangles)
    if one.loops and pieces(one.triangles, len(one.vertices)).max(initial=0) == 0:
        return mesh_surface(mesh)
    return charted(mesh)
