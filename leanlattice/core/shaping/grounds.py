"""Ground from scattered heights or from a grey picture."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.meshes import mesh_of_triangles, used_only
from ..geometry.meshsurface import MeshSurface, mesh_surface
from .brought import ReadProblem

__all__ = ["ground_of_heights", "ground_of_picture"]

Array = NDArray[np.float64]


def ground_of_heights(points: Array) -> tuple[MeshSurface, int]:
    """Surface through scattered places (n, 3) in metres, triangulated in plan (Delaunay, 1934), and
    how many places were left out because another lies at the same place in plan; of those the
    highest counts.

    Long thin triangles along the outside, which no place supports, are left out. Raises
    ``ReadProblem``.
    """
    order = np.lexsort((-points[:, 2], points[:, 1], points[:, 0]))
    ordered = points[order]
    size = max(float(np.ptp(points[:, :2], axis=0).max()), 1e-9) if len(points) else 0.0
    new = (
        np.r_[True, np.abs(np.diff(ordered[:, :2], axis=0)).max(axis=1) > 1e-9 * size]
        if len(points)
        else np.zeros(0, bool)
    )
    kept = ordered[new]
    if len(kept) < 3:
        raise ReadProblem(f"There are {len(kept)} different places; three or more make a ground.")
    centred = (kept[:, :2] - kept[:, :2].mean(axis=0)) / size
    try:
        t = scipy.spatial.Delaunay(centred).simplices.astype(np.int32)
    except scipy.spatial.QhullError:
        raise ReadProblem(
            "All places lie on one line in plan; a ground needs some beside it."
        ) from None
    a, b, c = (centred[t[:, k]] for k in range(3))
    cross = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    t[cross < 0] = t[cross < 0][:, ::-1]
    t = _without_outer_slivers(centred, t)
    mesh = mesh_of_triangles(*used_only(kept, t))
    return mesh_surface(mesh, "plan"), len(points) - len(kept)


def _without_outer_slivers(flat: Array, t: NDArray[np.int32]) -> NDArray[np.int32]:
    """Triangles at the border whose height over their border edge is under a hundredth of it are
    taken off, in turns."""
    for _ in range(20):
        a, b = t.ravel().astype(np.int64), np.roll(t, -1, axis=1).ravel().astype(np.int64)
        key = np.minimum(a, b) * len(flat) + np.maximum(a, b)
        _, which, times = np.unique(key, return_inverse=True, return_counts=True)
        border = times[which.ravel()] == 1
        side = np.linalg.norm(flat[b] - flat[a], axis=1)
        p, q, r = (flat[t[:, k]] for k in range(3))
        area = np.abs(
            (q[:, 0] - p[:, 0]) * (r[:, 1] - p[:, 1]) - (q[:, 1] - p[:, 1]) * (r[:, 0] - p[:, 0])
        )
        thin = (border & (area.repeat(3) < 0.01 * side**2)).reshape(-1, 3).any(axis=1)
        if not thin.any() or thin.all():
            break
        t = t[~thin]
    return t


def ground_of_picture(
    grey: Array, width: float, low: float, high: float, most: int = 160
) -> MeshSurface:
    """Ground of a picture ``grey`` (rows, columns), as wide as ``width`` (m) along x, from ``low``
    where a picture is black to ``high`` (m) where it is white.

    A picture with more than ``most`` pixels along a side is averaged down to that.
    """
    step = int(np.ceil(max(grey.shape) / most))
    rows, columns = (n // step * step for n in grey.shape)
    g = grey[:rows, :columns].reshape(rows // step, step, columns // step, step).mean(axis=(1, 3))
    n, m = g.shape
    if min(n, m) < 2:
        raise ReadProblem(
            f"The picture has {grey.shape[1]} × {grey.shape[0]} pixels; two or more along each side work."
        )
    depth = width * (n - 1) / (m - 1)
    x, y = np.meshgrid(np.linspace(0, width, m), np.linspace(depth, 0, n))
    points = np.column_stack([x.ravel(), y.ravel(), (low + g * (high - low)).ravel()])
    number = np.arange(n * m).reshape(n, m)
    a, b, c, d = number[1:, :-1], number[1:, 1:], number[:-1, 1:], number[:-1, :-1]
    t = np.concatenate(
        [np.stack([a, b, c], axis=-1).reshape(-1, 3), np.stack([a, c, d], axis=-1).reshape(-1, 3)]
    )
    return mesh_surface(mesh_of_triangles(points, t.astype(np.int32)), "plan")
