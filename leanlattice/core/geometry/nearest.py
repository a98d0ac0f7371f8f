"""The nearest place on a mesh, found exactly however unequal its triangles are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["MeshSearch", "mesh_search"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
LEAF = 4
"""Triangles in a box that is not divided further."""
DEPTH = 64


@dataclass(frozen=True, eq=False)
class MeshSearch:
    """Triangles with corners ``a``, ``b`` and ``c`` (T, 3) in a tree of boxes.

    Box k spans ``low[k]`` to ``high[k]`` and holds the triangles ``order[start[k] : stop[k]]``; its
    halves are the boxes ``child[k]`` and ``child[k] + 1``, or it is a leaf where that is 0.
    """

    a: Array
    b: Array
    c: Array
    order: Index
    start: Index
    stop: Index
    child: Index
    low: Array
    high: Array

    def nearest(self, points: Array) -> tuple[Index, Array, Array]:
        """Triangle (n,), barycentric coordinates (n, 3) of its nearest place, and distance (n,)."""
        points = np.ascontiguousarray(points, dtype=float)
        found = np.zeros(len(points), np.int64)
        share, distance = np.zeros((len(points), 3)), np.full(len(points), np.inf)
        if len(self.a):
            tree = (self.order, self.start, self.stop, self.child, self.low, self.high)
            _nearest(points, self.a, self.b, self.c, *tree, found, share, distance)
        return found, share, np.sqrt(distance)

    def places(self, triangle: Index, share: Array) -> Array:
        """Places (n, 3) by triangle and barycentric coordinates."""
        corners = (self.a[triangle], self.b[triangle], self.c[triangle])
        return np.asarray(sum(share[:, k, None] * corner for k, corner in enumerate(corners)))


def mesh_search(vertices: Array, triangles: NDArray[np.integer]) -> MeshSearch:
    """A tree of boxes over triangles (T, 3), each halved along its longest side."""
    a, b, c = (np.ascontiguousarray(vertices[triangles[:, k]], dtype=float) for k in range(3))
    low, high = np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)
    return MeshSearch(a, b, c, *_tree((a + b + c) / 3, low, high))


@compiled
def _tree(middle, low, high):  # type: ignore[no-untyped-def]
    count = len(middle)
    order = np.arange(count)
    most = max(2 * count, 1)
    start, stop, child = (
        np.zeros(most, np.int64),
        np.zeros(most, np.int64),
        np.zeros(most, np.int64),
    )
    box_low, box_high = np.zeros((most, 3)), np.zeros((most, 3))
    stop[0] = count
    boxes, k = 1, 0
    while k < boxes:
        mine = order[start[k] : stop[k]]
        if len(mine):
            for d in range(3):
                box_low[k, d], box_high[k, d] = low[mine, d].min(), high[mine, d].max()
        if len(mine) > LEAF:
            axis = int(np.argmax(box_high[k] - box_low[k]))
            mine = mine[np.argsort(middle[mine, axis])]
            order[start[k] : stop[k]] = mine
            half = (start[k] + stop[k]) // 2
            child[k] = boxes
            start[boxes], stop[boxes] = start[k], half
            start[boxes + 1], stop[boxes + 1] = half, stop[k]
            boxes += 2
        k += 1
    return order, start[:boxes], stop[:boxes], child[:boxes], box_low[:boxes], box_high[:boxes]


@compiled
def _to_box(x, low, high):  # type: ignore[no-untyped-def]
    """Square of the distance from a place to a box."""
    total = 0.0
    for d in range(3):
        off = max(low[d] - x[d], 0.0, x[d] - high[d])
        total += off * off
    return total


@compiled
def _closest_share(p, a, b, c):  # type: ignore[no-untyped-def]
    """Barycentric coordinates of the place of a triangle nearest to p (Ericson, 2005, §5.1.5)."""
    d1 = d2 = d3 = d4 = d5 = d6 = 0.0
    for k in range(3):
        ab, ac = b[k] - a[k], c[k] - a[k]
        d1 += ab * (p[k] - a[k])
        d2 += ac * (p[k] - a[k])
        d3 += ab * (p[k] - b[k])
        d4 += ac * (p[k] - b[k])
        d5 += ab * (p[k] - c[k])
        d6 += ac * (p[k] - c[k])
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    v = w = 0.0
    if d1 <= 0 and d2 <= 0:
        pass
    elif d3 >= 0 and d4 <= d3:
        v = 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        v = d1 / max(d1 - d3, 1e-300)
    elif d6 >= 0 and d5 <= d6:
        w = 1.0
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        w = d2 / max(d2 - d6, 1e-300)
    elif va <= 0 and d4 >= d3 and d5 >= d6:
        w = (d4 - d3) / max((d4 - d3) + (d5 - d6), 1e-300)
        v = 1 - w
    else:
        total = max(va + vb + vc, 1e-300)
        v, w = vb / total, vc / total
    return 1 - v - w, v, w


@compiled
def _nearest(  # type: ignore[no-untyped-def]
    points, a, b, c, order, start, stop, child, low, high, found, share, distance
):
    """Boxes nearer than the best place so far are looked into, the nearer half first."""
    waiting = np.empty(2 * DEPTH, np.int64)
    for n in range(len(points)):
        x = points[n]
        best = np.inf
        waiting[0], count = 0, 1
        while count:
            count -= 1
            k = waiting[count]
            if _to_box(x, low[k], high[k]) >= best:
                continue
            if child[k] == 0:
                for t in order[start[k] : stop[k]]:
                    u, v, w = _closest_share(x, a[t], b[t], c[t])
                    square = 0.0
                    for d in range(3):
                        off = u * a[t, d] + v * b[t, d] + w * c[t, d] - x[d]
                        square += off * off
                    if square < best:
                        best, found[n] = square, t
                        share[n, 0], share[n, 1], share[n, 2] = u, v, w
                continue
            one, two = child[k], child[k] + 1
            if _to_box(x, low[one], high[one]) < _to_box(x, low[two], high[two]):
                one, two = two, one
            waiting[count], waiting[count + 1] = one, two
            count += 2
        distance[n] = best
