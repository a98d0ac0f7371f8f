"""Cells of a wireframe: nodes and members that came without them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import weld
from ..geometry.nets import NetError
from ..geometry.polygons import vector_areas

__all__ = ["Wireframe", "cells_of_wires"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Long = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Wireframe:
    """Vertices (V, 3), cells counter-clockwise as seen from outside, and what was done to the
    lines: how often they were parted where another ends on or crosses them, how many were doubled,
    and which ends (k, 3) led nowhere and were left out."""

    vertices: Array
    corners: Index
    offsets: Index
    parted: int
    doubled: int
    loose: Array


def cells_of_wires(
    points: Array, lines: Long, near: float, most: int = 12, normals: Array | None = None
) -> Wireframe:
    """Cells of a wireframe that lies on a surface: ``points`` (n, 3) and ``lines`` (m, 2).

    Points within ``near`` (m) become one, and lines on which others end, or that cross, are parted
    there. About every vertex the lines are put in order as seen along its normal, one of
    ``normals`` (n, 3) or fitted to its neighbours, and cells found by always taking the next line
    clockwise (the faces of a rotation system; Edmonds, 1960). Rings of more than ``most`` corners
    stay open. Raises ``NetError`` where the lines are no wireframe of a surface."""
    vertices, name = weld(points, near)
    edges, doubled = _unique(np.sort(name[lines].astype(np.int64), axis=1), len(vertices))
    if not len(edges):
        raise NetError("No line is longer than the distance within which ends are joined.")
    vertices = np.vstack([vertices, _crossings(vertices, edges, near)])
    edges, parted = _parted(vertices, edges, near)
    edges, loose = _without_ends(edges, len(vertices))
    if len(edges) < 3:
        raise NetError("The lines do not close any cell.")
    used, renamed = np.unique(edges, return_inverse=True)
    edges = renamed.reshape(-1, 2)
    loose_at = vertices[loose]
    vertices = vertices[used]
    normal = (
        _fitted_normals(vertices, edges) if normals is None else normals[_nearest(points, vertices)]
    )
    corners, offsets = _faces(vertices, edges, normal)
    counts = np.diff(offsets)
    facing = np.einsum(
        "ij,ij->i",
        vector_areas(vertices, corners, offsets),
        np.add.reduceat(normal[corners], offsets[:-1], axis=0),
    )
    simple = np.array(
        [len(np.unique(corners[a:b])) == b - a for a, b in pairwise(offsets.tolist())]
    )
    kept = (facing > 0) & simple & (counts <= most)
    if not kept.any():
        raise NetError("The lines do not close any cell.")
    corners = corners[np.repeat(kept, counts)]
    offsets = np.concatenate([[0], np.cumsum(counts[kept])]).astype(np.int32)
    used, number = np.unique(corners, return_inverse=True)
    return Wireframe(vertices[used], number.astype(np.int32), offsets, parted, doubled, loose_at)


def _nearest(points: Array, places: Array) -> Long:
    return np.asarray(scipy.spatial.cKDTree(points).query(places)[1], np.int64)


def _unique(edges: Long, count: int) -> tuple[Long, int]:
    edges = edges[edges[:, 0] != edges[:, 1]]
    key = np.unique(edges[:, 0] * count + edges[:, 1])
    return np.column_stack(np.divmod(key, count)), len(edges) - len(key)


def _crossings(vertices: Array, edges: Long, near: float) -> Array:
    """Places (k, 3) where edges pass through each other without a vertex."""
    p, q = vertices[edges[:, 0]], vertices[edges[:, 1]]
    low, high = np.minimum(p, q) - near, np.maximum(p, q) + near
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    i, j = shapely.STRtree(boxes).query(boxes)
    apart = (edges[i][:, :, None] != edges[j][:, None, :]).all(axis=(1, 2))
    kept = (i < j) & apart & (low[i, 2] <= high[j, 2]) & (low[j, 2] <= high[i, 2])
    i, j = i[kept], j[kept]
    d, e, w = q[i] - p[i], q[j] - p[j], p[i] - p[j]
    dd, ee, de = (np.einsum("ij,ij->i", a, b) for a, b in ((d, d), (e, e), (d, e)))
    dw, ew = np.einsum("ij,ij->i", d, w), np.einsum("ij,ij->i", e, w)
    det = dd * ee - de * de
    slant = det > 1e-9 * dd * ee
    t = np.divide(de * ew - ee * dw, det, out=np.full(len(det), -1.0), where=slant)
    s = np.divide(dd * ew - de * dw, det, out=np.full(len(det), -1.0), where=slant)
    one, two = p[i] + t[:, None] * d, p[j] + s[:, None] * e
    ends_t, ends_s = near / np.sqrt(np.maximum(dd, 1e-300)), near / np.sqrt(np.maximum(ee, 1e-300))
    inside = (t > ends_t) & (t < 1 - ends_t) & (s > ends_s) & (s < 1 - ends_s)
    met = inside & (np.linalg.norm(one - two, axis=1) < near)
    return weld(one[met], near)[0]


def _parted(vertices: Array, edges: Long, near: float) -> tuple[Long, int]:
    """Edges parted at every vertex that lies on them."""
    tree = scipy.spatial.cKDTree(vertices)
    a, b = vertices[edges[:, 0]], vertices[edges[:, 1]]
    length = np.linalg.norm(b - a, axis=1)
    around = tree.query_ball_point((a + b) / 2, length / 2 + near)
    out: list[tuple[int, int]] = []
    parted = 0
    for k, (i, j) in enumerate(edges.tolist()):
        close = np.array([v for v in around[k] if v not in (i, j)], np.int64)
        if len(close):
            step = (b[k] - a[k]) / length[k]
            along = (vertices[close] - a[k]) @ step
            off = np.linalg.norm(vertices[close] - a[k] - along[:, None] * step, axis=1)
            on = (off < near) & (along > near) & (along < length[k] - near)
            close = close[on][np.argsort(along[on])]
        run = [i, *close.tolist(), j]
        parted += len(close)
        out += pairwise(run)
    return _unique(np.sort(np.array(out, np.int64), axis=1), len(vertices))[0], parted


def _without_ends(edges: Long, count: int) -> tuple[Long, Long]:
    """Edges that are part of some ring, as far as ends tell, and the vertices at which a line just
    ends."""
    first = np.flatnonzero(np.bincount(edges.ravel(), minlength=count) == 1)
    while True:
        valence = np.bincount(edges.ravel(), minlength=count)
        kept = (valence[edges] > 1).all(axis=1)
        if kept.all():
            return edges, first
        edges = edges[kept]


def _fitted_normals(vertices: Array, edges: Long) -> Array:
    """Normals (V, 3) of the planes nearest to each vertex and its neighbours, or where these lie in
    one line theirs too, all looking to one side: along the tree on which they agree best (Hoppe,
    DeRose, Duchamp, McDonald and Stuetzle, 1992)."""
    count = len(vertices)
    i, j = np.concatenate([edges, edges[:, ::-1]]).T
    link = scipy.sparse.coo_array((np.ones(len(i)), (i, j)), shape=(count, count)).tocsr()
    ring = (link + link @ link).tocsr()
    normal, weight = np.empty((count, 3)), np.ones((count, 1))
    for v in range(count):
        normal[v] = 0, 0, 1
        for near in (link, ring):
            p = vertices[np.append(near.indices[near.indptr[v] : near.indptr[v + 1]], v)]
            size, way = np.linalg.svd(p - p.mean(axis=0), full_matrices=False)[1:]
            if len(p) > 2 and size[1] > 0.2 * size[0]:
                normal[v], weight[v] = way[-1], max(1 - size[-1] / size[1], 0.02) ** 2
                break
    agreement = np.abs(np.einsum("ij,ij->i", normal[edges[:, 0]], normal[edges[:, 1]]))
    graph = scipy.sparse.coo_array(
        (1.001 - np.minimum(agreement, 1.0), tuple(edges.T)), shape=(count, count)
    ).tocsr()
    tree = scipy.sparse.csgraph.minimum_spanning_tree(graph)
    for piece in range(scipy.sparse.csgraph.connected_components(graph, directed=False)[0]):
        rows = np.flatnonzero(
            scipy.sparse.csgraph.connected_components(graph, directed=False)[1] == piece
        )
        order, before = scipy.sparse.csgraph.breadth_first_order(tree, rows[0], directed=False)
        for v in order[1:]:
            if normal[v] @ normal[before[v]] < 0:
                normal[v] = -normal[v]
        outward = np.einsum("ij,ij->", vertices[rows] - vertices[rows].mean(axis=0), normal[rows])
        up = float(normal[rows, 2].sum())
        # What closes round something looks away from its middle, what lies like a roof looks up.
        if (up if abs(up) > 0.3 * len(rows) else outward) < 0:
            normal[rows] = -normal[rows]
    # Where the border bends sharply no plane fits, and the neighbours tell.
    for _ in range(3):
        normal = weight * normal + (link @ (weight * normal)) / np.maximum(link @ weight, 1e-9)
        normal = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    return np.asarray(normal)


def _faces(vertices: Array, edges: Long, normal: Array) -> tuple[Index, Index]:
    """All faces of the rotation system, as corners and offsets, borders among them."""
    half = np.concatenate([edges, edges[:, ::-1]])
    twin = np.concatenate([np.arange(len(edges)) + len(edges), np.arange(len(edges))])
    start = half[:, 0]
    n = normal[start]
    x = np.cross(n, np.where(np.abs(n[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    step = vertices[half[:, 1]] - vertices[start]
    angle = np.arctan2(np.einsum("ij,ij->i", step, np.cross(n, x)), np.einsum("ij,ij->i", step, x))
    order = np.lexsort((angle, start))
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    valence = np.bincount(start, minlength=len(vertices))
    first = np.concatenate([[0], np.cumsum(valence)[:-1]])
    # After arriving along a half-edge, the one that leaves next clockwise from where it came.
    back = place[twin]
    at = start[twin]
    following = order[first[at] + (back - first[at] - 1) % valence[at]]
    corners: list[int] = []
    counts: list[int] = []
    done = np.zeros(len(half), bool)
    after, begins = following.tolist(), start.tolist()
    for h in range(len(half)):
        size = 0
        while not done[h]:
            done[h] = True
            corners.append(begins[h])
            size += 1
            h = after[h]
        if size:
            counts.append(size)
    return np.array(corners, np.int32), np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
