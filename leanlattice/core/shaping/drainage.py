"""Where water would stand on a shape."""

from __future__ import annotations

import heapq
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.meshes import Mesh, pieces
from .facets import neighbours

__all__ = ["Pond", "ponds"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Pond:
    """Standing water: the lowest place (x, y, z) in metres, its depth in metres and the vertices
    under it."""

    at: tuple[float, float, float]
    depth: float
    vertices: NDArray[np.int64]


@compiled
def _levels(height, outlet, near, start):  # type: ignore[no-untyped-def]
    """Water level at every vertex: the lowest height of the highest point on any way to an
    outlet."""
    level = np.full(len(height), np.inf)
    queue = [(0.0, np.int64(-1)) for _ in range(0)]  # an empty list of a known type
    for i in range(len(height)):
        v = np.int64(i)
        if outlet[v]:
            level[v] = height[v]
            heapq.heappush(queue, (height[v], v))
    while len(queue):
        at, v = heapq.heappop(queue)
        if at > level[v]:
            continue
        for k in range(start[v], start[v + 1]):
            w = near[k]
            reach = max(at, height[w])
            if reach < level[w]:
                level[w] = reach
                heapq.heappush(queue, (reach, np.int64(w)))
    return level


def _in_cavities(mesh: Mesh) -> NDArray[np.bool_]:
    """Which triangles (T,) are of a piece that bounds a cavity, whose outside is within."""
    piece = pieces(mesh.triangles, len(mesh.vertices))
    p = mesh.vertices[mesh.triangles]
    volume = np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2]))
    return np.asarray(np.bincount(piece, volume)[piece] < 0)


def ponds(mesh: Mesh, one_sided: bool, least: float = 1e-3) -> list[Pond]:
    """Ponds deeper than ``least`` (m), the deepest first (flooding from the edges inward; Barnes,
    Lehman and Mulla, 2014).

    Water runs off at borders and where the shape turns down. A body (``one_sided``) holds water on
    faces that look up, but for those of closed cavities; a surface on either side.
    """
    unit = mesh.triangle_crosses[:, 2] / np.maximum(
        np.linalg.norm(mesh.triangle_crosses, axis=1), 1e-300
    )
    up = unit > 0.02 if one_sided else np.abs(unit) > 0.02
    if one_sided:
        up &= ~_in_cavities(mesh)
    if not up.any():
        return []
    t = mesh.triangles
    count = len(mesh.vertices)
    wet = np.zeros(count, bool)
    wet[t[up]] = True
    outlet = np.zeros(count, bool)
    outlet[t[~up]] = True
    for loop in mesh.loops:
        outlet[loop] = True
    height = np.ascontiguousarray(mesh.vertices[:, 2])
    near, start = neighbours(mesh)
    outlet &= wet
    if not outlet.any():
        return []
    level = _levels(np.where(wet, height, np.inf), outlet, near, start)
    depth = np.where(wet & np.isfinite(level), level - height, 0.0)
    under = depth > least
    if not under.any():
        return []
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    both = under[a] & under[b]
    graph = scipy.sparse.coo_array((np.ones(both.sum()), (a[both], b[both])), shape=(count, count))
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    out = []
    for g in np.unique(group[under]):
        members = np.flatnonzero((group == g) & under)
        lowest = members[np.argmax(depth[members])]
        x, y, z = mesh.vertices[lowest]
        out.append(Pond((float(x), float(y), float(z)), float(depth[lowest]), members))
    return sorted(out, key=lambda p: -p.depth)
