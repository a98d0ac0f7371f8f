"""Where a mesh crosses itself."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.meshes import Mesh

__all__ = ["self_crossings"]

Array = NDArray[np.float64]


@compiled
def _pierces(p, q, a, b, c, tolerance):  # type: ignore[no-untyped-def]
    """Share along p → q at which it goes through the triangle's inside (Möller and Trumbore, 1997),
    or −1."""
    d, e1, e2 = q - p, b - a, c - a
    h = np.array(
        [d[1] * e2[2] - d[2] * e2[1], d[2] * e2[0] - d[0] * e2[2], d[0] * e2[1] - d[1] * e2[0]]
    )
    det = e1[0] * h[0] + e1[1] * h[1] + e1[2] * h[2]
    size = np.sqrt((d * d).sum() * (e1 * e1).sum() * (e2 * e2).sum())
    if abs(det) < 1e-9 * size:
        return -1.0
    s = p - a
    u = (s[0] * h[0] + s[1] * h[1] + s[2] * h[2]) / det
    if u < tolerance or u > 1 - tolerance:
        return -1.0
    x = np.array(
        [s[1] * e1[2] - s[2] * e1[1], s[2] * e1[0] - s[0] * e1[2], s[0] * e1[1] - s[1] * e1[0]]
    )
    v = (d[0] * x[0] + d[1] * x[1] + d[2] * x[2]) / det
    if v < tolerance or u + v > 1 - tolerance:
        return -1.0
    t = (e2[0] * x[0] + e2[1] * x[1] + e2[2] * x[2]) / det
    return t if tolerance < t < 1 - tolerance else -1.0


@compiled
def _crossings(points, triangles, low, high, order, start, most):  # type: ignore[no-untyped-def]
    out = np.empty((most, 3))
    n = 0
    for bin_ in range(len(start) - 1):
        for i in range(start[bin_], start[bin_ + 1]):
            for j in range(i + 1, start[bin_ + 1]):
                s, t = order[i], order[j]
                if (
                    high[s, 0] < low[t, 0]
                    or high[t, 0] < low[s, 0]
                    or high[s, 1] < low[t, 1]
                    or high[t, 1] < low[s, 1]
                    or high[s, 2] < low[t, 2]
                    or high[t, 2] < low[s, 2]
                ):
                    continue
                shared = False
                for k in range(3):
                    for m in range(3):
                        if triangles[s, k] == triangles[t, m]:
                            shared = True
                if shared:
                    continue
                for turn in range(2):
                    one, two = (s, t) if turn == 0 else (t, s)
                    for k in range(3):
                        p, q = points[triangles[one, k]], points[triangles[one, (k + 1) % 3]]
                        at = _pierces(
                            p,
                            q,
                            points[triangles[two, 0]],
                            points[triangles[two, 1]],
                            points[triangles[two, 2]],
                            1e-6,
                        )
                        if at >= 0:
                            out[n] = p + at * (q - p)
                            n += 1
                            if n == most:
                                return out[:n]
    return out[:n]


@compiled
def _binned(low, high, size, shape):  # type: ignore[no-untyped-def]
    counts = np.zeros(shape[0] * shape[1] * shape[2] + 1, np.int64)
    for fill in range(2):
        if fill == 1:
            start = np.cumsum(counts)
            order = np.empty(start[-1], np.int64)
            at = start[:-1].copy()
        for t in range(len(low)):
            for i in range(int(low[t, 0] / size), int(high[t, 0] / size) + 1):
                for j in range(int(low[t, 1] / size), int(high[t, 1] / size) + 1):
                    for k in range(int(low[t, 2] / size), int(high[t, 2] / size) + 1):
                        cell = (i * shape[1] + j) * shape[2] + k
                        if fill == 0:
                            counts[cell + 1] += 1
                        else:
                            order[at[cell]] = t
                            at[cell] += 1
    return order, start


def self_crossings(mesh: Mesh, most: int = 50) -> Array:
    """Places (n, 3) where edges go through triangles that do not touch them, at most ``most``."""
    t = mesh.triangles
    if len(t) < 2:
        return np.zeros((0, 3))
    p = mesh.vertices[t]
    low, high = p.min(axis=1), p.max(axis=1)
    origin = low.min(axis=0)
    usual = float(np.percentile((high - low).max(axis=1), 75))
    extent = np.maximum(high.max(axis=0) - origin, 1e-9)
    size = max(
        usual, float((np.prod(extent) / 500_000) ** (1 / 3)), float(extent.max()) / 400, 1e-9
    )
    shape = (extent / size).astype(np.int64) + 1
    order, start = _binned(low - origin, high - origin, size, shape)
    return _crossings(mesh.vertices, t, low, high, order, start, most)
