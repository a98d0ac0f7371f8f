"""One way to cut polygons into triangles, for cells, panels, solids and pictures alike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["not_fans", "polygon_triangles"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

MOST_BY_QUALITY = 64
"""Polygons of more corners are cut by their ears, as the best cuts of them would take long."""
ALIKE = 1e-9
"""Shares by which two choices must differ for one to be the better."""


def polygon_triangles(points: Array, corners: Index, offsets: Index) -> tuple[Index, Index]:
    """Triangles that fill polygons, convex or not, none turned over or on top of another.

    Polygons are looked at along their mean normals. Quads are cut along the shorter diagonal that
    lies within them, others so that the least well shaped triangle is as well shaped as it can be
    (dynamic programming, Klincsek, 1980). That every triangle turns as its polygon does is enough
    for them to fill it once: each place within a simple outline is wound round once.

    Parameters
    ----------
    points : (n, 2) or (n, 3) in metres
    corners : (m,) positions of points, polygon after polygon, in order round each
    offsets : (p + 1,) where in ``corners`` each polygon starts

    Returns
    -------
    triangles : (t, 3) positions of points, turning as their polygons do
    owner : (t,) the polygon each is of
    """
    cuts, owner = _cut_all(_in_space(points), corners.astype(np.int32), offsets.astype(np.int32))
    return corners[cuts], owner


def not_fans(points: Array, corners: Index, offsets: Index) -> Index:
    """Positions (k,) of polygons that triangles from their first corner do not fill.

    Parameters as for ``polygon_triangles``.
    """
    return np.flatnonzero(
        _turns_back(_in_space(points), corners.astype(np.int32), offsets.astype(np.int32))
    ).astype(np.int32)


@compiled
def _turns_back(points, corners, offsets):  # type: ignore[no-untyped-def]
    """Whether a triangle from a polygon's first corner turns the other way than the polygon."""
    out = np.zeros(len(offsets) - 1, np.bool_)
    for i in range(len(out)):
        if offsets[i + 1] - offsets[i] > 3:
            flat = _flattened(points, corners[offsets[i] : offsets[i + 1]])
            for k in range(1, len(flat) - 1):
                out[i] |= _quality(flat, 0, k, k + 1) < -ALIKE
    return out


def _in_space(points: Array) -> Array:
    """Points as (n, 3)."""
    if points.shape[1] == 3:
        return np.ascontiguousarray(points, dtype=float)
    return np.column_stack([points, np.zeros(len(points))])


@compiled
def _cut_all(points, corners, offsets):  # type: ignore[no-untyped-def]
    """Triangles (t, 3) as places in ``corners``, and the polygon (t,) of each."""
    count = len(corners) - 2 * (len(offsets) - 1)
    cuts = np.empty((count, 3), np.int32)
    owner = np.empty(count, np.int32)
    done = 0
    for i in range(len(offsets) - 1):
        start = offsets[i]
        n = offsets[i + 1] - start
        if n == 3:
            cuts[done, 0], cuts[done, 1], cuts[done, 2] = 0, 1, 2
        else:
            flat = _flattened(points, corners[start : offsets[i + 1]])
            if n == 4:
                _cut_quad(flat, cuts[done : done + 2])
            elif n <= MOST_BY_QUALITY:
                _cut_by_quality(flat, cuts[done : done + n - 2])
            else:
                _cut_by_ears(flat, cuts[done : done + n - 2])
        cuts[done : done + n - 2] += start
        owner[done : done + n - 2] = i
        done += n - 2
    return cuts, owner


@compiled
def _flattened(points, polygon):  # type: ignore[no-untyped-def]
    """Corners (n, 2) of a polygon seen along its mean normal (Newell), counter-clockwise."""
    n = len(polygon)
    origin = points[polygon[0]]
    normal = np.zeros(3)
    for k in range(n):
        a, b = points[polygon[k]] - origin, points[polygon[(k + 1) % n]] - origin
        normal[0] += a[1] * b[2] - a[2] * b[1]
        normal[1] += a[2] * b[0] - a[0] * b[2]
        normal[2] += a[0] * b[1] - a[1] * b[0]
    size = np.sqrt((normal**2).sum())
    if size > 0:
        normal /= size
    else:
        normal[2] = 1.0
    # Two axes square to the normal (Duff et al., 2017).
    sign = 1.0 if normal[2] >= 0 else -1.0
    a = -1.0 / (sign + normal[2])
    b = normal[0] * normal[1] * a
    x = np.array([1.0 + sign * normal[0] ** 2 * a, sign * b, -sign * normal[0]])
    y = np.array([b, sign + normal[1] ** 2 * a, -normal[1]])
    flat = np.empty((n, 2))
    for k in range(n):
        d = points[polygon[k]] - origin
        flat[k, 0] = d[0] * x[0] + d[1] * x[1] + d[2] * x[2]
        flat[k, 1] = d[0] * y[0] + d[1] * y[1] + d[2] * y[2]
    return flat


@compiled
def _quality(p, i, j, k):  # type: ignore[no-untyped-def]
    """Shape of a triangle: 1 with equal sides, 0 without area, below 0 turned over."""
    ux, uy = p[j, 0] - p[i, 0], p[j, 1] - p[i, 1]
    vx, vy = p[k, 0] - p[i, 0], p[k, 1] - p[i, 1]
    squares = ux * ux + uy * uy + vx * vx + vy * vy + (ux - vx) ** 2 + (uy - vy) ** 2
    return 2 * np.sqrt(3.0) * (ux * vy - uy * vx) / squares if squares > 0 else 0.0


@compiled
def _cut_quad(p, out):  # type: ignore[no-untyped-def]
    first = min(_quality(p, 0, 1, 2), _quality(p, 0, 2, 3))
    second = min(_quality(p, 1, 2, 3), _quality(p, 1, 3, 0))
    by_second = second > first
    if min(first, second) > ALIKE:
        other, diagonal = p[3] - p[1], p[2] - p[0]
        by_second = (other**2).sum() < (diagonal**2).sum() * (1 - ALIKE)
    if by_second:
        out[0, 0], out[0, 1], out[0, 2] = 1, 2, 3
        out[1, 0], out[1, 1], out[1, 2] = 1, 3, 0
    else:
        out[0, 0], out[0, 1], out[0, 2] = 0, 1, 2
        out[1, 0], out[1, 1], out[1, 2] = 0, 2, 3


@compiled
def _cut_by_quality(p, out):  # type: ignore[no-untyped-def]
    """``best[i, j]`` is the worst shape in the best cut of the corners i to j, ``apex[i, j]`` the
    third corner of the triangle on the side from i to j in it."""
    n = len(p)
    best = np.full((n, n), 2.0)
    apex = np.zeros((n, n), np.int32)
    for width in range(2, n):
        for i in range(n - width):
            j = i + width
            best[i, j] = -2.0
            for k in range(i + 1, j):
                worst = min(_quality(p, i, k, j), best[i, k], best[k, j])
                if worst > best[i, j] + ALIKE:
                    best[i, j], apex[i, j] = worst, k
    todo = np.empty((n, 2), np.int32)
    todo[0, 0], todo[0, 1] = 0, n - 1
    waiting, made = 1, 0
    while waiting:
        waiting -= 1
        i, j = todo[waiting]
        if j - i < 2:
            continue
        k = apex[i, j]
        out[made, 0], out[made, 1], out[made, 2] = i, k, j
        made += 1
        todo[waiting, 0], todo[waiting, 1] = i, k
        todo[waiting + 1, 0], todo[waiting + 1, 1] = k, j
        waiting += 2


@compiled
def _is_ear(p, around, count, k):  # type: ignore[no-untyped-def]
    """Whether no other corner lies in the triangle at the k-th corner that is left."""
    i, j, m = around[(k - 1) % count], around[k], around[(k + 1) % count]
    for c in around[:count]:
        if c in (i, j, m):
            continue
        inside = (
            _quality(p, i, j, c) >= 0 and _quality(p, j, m, c) >= 0 and _quality(p, m, i, c) >= 0
        )
        if inside and not ((p[c] == p[i]).all() or (p[c] == p[m]).all()):
            return False
    return True


@compiled
def _cut_by_ears(p, out):  # type: ignore[no-untyped-def]
    """Ear after ear, always the best shaped one (Meisters, 1975)."""
    around = np.arange(len(p))
    count = len(p)
    shape = np.empty(len(p))
    for k in range(count):
        shape[k] = _quality(p, around[k - 1], around[k], around[(k + 1) % count])
    made = 0
    while count > 3:
        best, ear = -np.inf, int(np.argmax(shape[:count]))
        for k in range(count):
            if shape[k] > best and shape[k] > 0 and _is_ear(p, around, count, k):
                best, ear = shape[k], k
        out[made, 0], out[made, 1] = around[(ear - 1) % count], around[ear]
        out[made, 2] = around[(ear + 1) % count]
        made += 1
        around[ear : count - 1] = around[ear + 1 : count].copy()
        shape[ear : count - 1] = shape[ear + 1 : count].copy()
        count -= 1
        for k in (ear - 1, ear):
            at, before, after = k % count, (k - 1) % count, (k + 1) % count
            shape[at] = _quality(p, around[before], around[at], around[after])
    out[made, 0], out[made, 1], out[made, 2] = around[0], around[1], around[2]
