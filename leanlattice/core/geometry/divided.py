"""Meshes cut where a label changes from vertex to vertex, and meshes made finer."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["Cuts", "cut_edges", "finer", "with_cut_edges"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
FINEST_ROUNDS = 12


class Cuts:
    """Places on edges: ``key`` (n,) names an edge as lower · V + higher vertex, ``share`` (n,)
    counts from the lower."""

    def __init__(self, key: NDArray[np.int64], share: Array) -> None:
        # Of two places on one edge the first stays, so that both its triangles get the same.
        self.key, first = np.unique(key, return_index=True)
        self.share = share[first]


def _keys(triangles: Index, count: int) -> NDArray[np.int64]:
    """Names (T, 3) of the sides of triangles, from corner k to the next."""
    a, b = triangles.astype(np.int64), np.roll(triangles, -1, axis=1).astype(np.int64)
    return np.minimum(a, b) * count + np.maximum(a, b)


def cut_edges(triangles: Index, count: int, labels: Index, values: Array) -> Cuts:
    """Where along the sides of triangles (T, 3) the label changes: ``labels`` (T, 3) are those of
    the corners and ``values`` (T, 3, L) what each label is worth there; between corners values run
    straight."""
    keys = _keys(triangles, count)
    t, k = np.nonzero(labels != np.roll(labels, -1, axis=1))
    k2 = (k + 1) % 3
    here, there = labels[t, k], labels[t, k2]
    lead = values[t, k, here] - values[t, k, there]
    lag = values[t, k2, there] - values[t, k2, here]
    share = np.clip(lead / np.maximum(lead + lag, 1e-300), 0.02, 0.98)
    return Cuts(keys[t, k], np.where(triangles[t, k] < triangles[t, k2], share, 1 - share))


def with_cut_edges(
    vertices: Array, triangles: Index, labels: Index, cuts: Cuts
) -> tuple[Array, Index, Index, NDArray[np.int64]]:
    """Vertices, triangles, their labels and the old triangle each is part of, after all ``cuts``.

    ``labels`` (T, 3) are those of corners; where they differ the sides between them must be cut. A
    triangle with three cuts gets a vertex in its middle.
    """
    count = len(vertices)
    a, b = np.divmod(cuts.key, count)
    added = vertices[a] + cuts.share[:, None] * (vertices[b] - vertices[a])
    keys = _keys(triangles, count)
    at = np.searchsorted(cuts.key, keys).clip(max=max(len(cuts.key) - 1, 0))
    cut = cuts.key[at] == keys if len(cuts.key) else np.zeros(keys.shape, bool)
    point = np.where(cut, count + at, -1)
    times = cut.sum(axis=1)
    out = [triangles[times == 0]]
    out_labels = [labels[times == 0, 0]]
    owner = [np.flatnonzero(times == 0)]

    def add(rows: NDArray[np.int64], label: Index, *corners: NDArray[np.integer]) -> None:
        out.append(np.column_stack(corners).astype(np.int32))
        out_labels.append(label)
        owner.append(rows)

    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        rows = np.flatnonzero((times == 1) & cut[:, k])
        t, m = triangles[rows], point[rows, k]
        add(rows, labels[rows, k], t[:, k], m, t[:, j])
        add(rows, labels[rows, i], m, t[:, i], t[:, j])
        # Both sides at corner k are cut: its tip, and a quad.
        rows = np.flatnonzero((times == 2) & cut[:, k] & cut[:, j])
        t, m, n = triangles[rows], point[rows, k], point[rows, j]
        add(rows, labels[rows, k], t[:, k], m, n)
        add(rows, labels[rows, i], m, t[:, i], t[:, j])
        add(rows, labels[rows, j], m, t[:, j], n)
    rows = np.flatnonzero(times == 3)
    middle = count + len(added) + np.arange(len(rows))
    centres = vertices[triangles[rows]].mean(axis=1)
    for k in range(3):
        t = triangles[rows]
        add(rows, labels[rows, k], t[:, k], point[rows, k], middle)
        add(rows, labels[rows, k], t[:, k], middle, point[rows, (k + 2) % 3])
    return (
        np.vstack([vertices, added, centres]),
        np.concatenate(out).astype(np.int32),
        np.concatenate(out_labels).astype(np.int32),
        np.concatenate(owner),
    )


def finer(
    vertices: Array, triangles: Index, longest: float, most: int = 400_000
) -> tuple[Array, Index]:
    """Triangles whose sides are no longer than ``longest`` (m), by halving those that are, or as
    near as ``most`` triangles allow."""
    for _ in range(FINEST_ROUNDS):
        t, k = np.nonzero(
            np.linalg.norm(vertices[np.roll(triangles, -1, axis=1)] - vertices[triangles], axis=2)
            > longest
        )
        if not len(t) or len(triangles) + 2 * len(t) > most:
            break
        keys = _keys(triangles, len(vertices))[t, k]
        cuts = Cuts(keys, np.full(len(keys), 0.5))
        vertices, triangles, _, _ = with_cut_edges(
            vertices, triangles, np.zeros_like(triangles), cuts
        )
    return vertices, triangles
