"""Smoothing of meshes."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.meshes import Mesh

__all__ = ["eased"]

Array = NDArray[np.float64]


def eased(mesh: Mesh, rounds: int, keep_border: bool) -> Array:
    """Vertices (V, 3) drawn towards the mean of their neighbours and back by a little more,
    ``rounds`` times, so that the mesh does not shrink (Taubin, 1995, with λ = 0.5 and μ = −0.53).
    """
    t, count = mesh.triangles, len(mesh.vertices)
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    links = scipy.sparse.coo_array(
        (np.ones(2 * len(a)), (np.r_[a, b], np.r_[b, a])), shape=(count, count)
    ).tocsr()
    links.data[:] = 1.0
    mean = (
        scipy.sparse.diags_array(1 / np.maximum(np.asarray(links.sum(axis=1)).ravel(), 1.0)) @ links
    )
    held = np.zeros(count, bool)
    if keep_border:
        for loop in mesh.loops:
            held[loop] = True
    p = mesh.vertices
    for _ in range(rounds):
        for factor in (0.5, -0.53):
            step = factor * (mean @ p - p)
            step[held] = 0.0
            p = p + step
    return np.asarray(p)
