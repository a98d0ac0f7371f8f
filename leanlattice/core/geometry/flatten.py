"""Parameters for meshes: a flat picture of a mesh in which every lattice can be drawn."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from .meshes import Mesh

__all__ = ["flatten_least_distortion", "flatten_round", "turned_over"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


def turned_over(uv: Array, triangles: Index) -> NDArray[np.bool_]:
    """Whether each triangle (T,) has no area or the wrong sense in the flat picture ``uv`` (V,
    2)."""
    a, b, c = (uv[triangles[:, k]] for k in range(3))
    doubled = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return doubled <= 1e-12 * max(float(np.abs(doubled).max(initial=0.0)), 1e-300)


def flatten_round(mesh: Mesh) -> Array:
    """Flat picture (V, 2) of a mesh with one border on a circle (Tutte, 1963; Floater, 1997).

    The longest border loop goes on the circle in proportion to its lengths, every other vertex to
    the mean of its neighbours, so that no triangle turns over. Other borders are filled by their
    middle first.
    """
    loops = sorted(mesh.loops, key=lambda loop: -_length(mesh.vertices[loop]))
    outer = loops[0]
    p = mesh.vertices[outer]
    steps = np.linalg.norm(np.roll(p, -1, axis=0) - p, axis=1)
    turn = 2 * np.pi * np.concatenate([[0.0], np.cumsum(steps)[:-1]]) / steps.sum()
    count = len(mesh.vertices) + len(loops) - 1
    t = mesh.triangles
    rows = [t[:, [0, 1, 2]].ravel(), t[:, [1, 2, 0]].ravel()]
    columns = [t[:, [1, 2, 0]].ravel(), t[:, [0, 1, 2]].ravel()]
    for k, loop in enumerate(loops[1:]):
        middle = np.full(len(loop), len(mesh.vertices) + k)
        rows += [middle, loop]
        columns += [loop, middle]
    i, j = np.concatenate(rows), np.concatenate(columns)
    links = scipy.sparse.csc_array(
        scipy.sparse.coo_array((np.ones(len(i)), (i, j)), shape=(count, count))
    )
    links.data[:] = 1.0
    fixed = np.zeros(count, bool)
    fixed[outer] = True
    out = np.zeros((count, 2))
    out[outer] = np.column_stack([np.cos(turn), np.sin(turn)])
    free = np.flatnonzero(~fixed)
    if free.size:
        degree: Array = np.asarray(links.sum(axis=1)).ravel()
        laplace = (
            scipy.sparse.csc_array(
                scipy.sparse.coo_array(
                    (degree, (np.arange(count), np.arange(count))), shape=(count, count)
                )
            )
            - links
        )
        right: Array = -np.asarray(laplace[free][:, outer] @ out[outer])
        out[free] = scipy.sparse.linalg.splu(scipy.sparse.csc_array(laplace[free][:, free])).solve(
            right
        )
    return out[: len(mesh.vertices)]


def _length(points: Array) -> float:
    return float(np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1).sum())


def _cotangents(mesh: Mesh) -> Array:
    """Cotangents (T, 3) of the corner angles, bounded so that slivers do no harm."""
    return np.clip(1 / np.tan(np.clip(mesh.corner_angles, 1e-4, np.pi - 1e-4)), -50.0, 50.0)


def flatten_least_distortion(mesh: Mesh, rounds: int = 30, start: Array | None = None) -> Array:
    """Flat picture (V, 2) in metres that keeps the triangles as near to their real shape as can be.

    As rigid as possible: a turn for every triangle, then places for all vertices, in turns (Liu,
    Zhang, Xu, Gotsman and Gortler, 2008), begun from a ``start`` (V, 2) or, without one or where
    triangles are turned over in it, from a picture on a circle. The mesh is one piece with a border
    and the topology of a disc with holes. The first picture is kept where triangles would turn over
    in the better one.
    """
    if start is None or turned_over(start, mesh.triangles).any():
        start = flatten_round(mesh)
    t = mesh.triangles
    p = mesh.vertices[t]
    x = np.linalg.norm(p[:, 1] - p[:, 0], axis=1)
    along = (p[:, 1] - p[:, 0]) / np.maximum(x, 1e-300)[:, None]
    cx = np.einsum("ij,ij->i", p[:, 2] - p[:, 0], along)
    cy = np.linalg.norm(p[:, 2] - p[:, 0] - cx[:, None] * along, axis=1)
    local = np.zeros((len(t), 3, 2))
    local[:, 1, 0], local[:, 2, 0], local[:, 2, 1] = x, cx, cy

    weights = _cotangents(mesh)  # of the corner opposite to the edge from corner k + 1 to k + 2
    count = len(mesh.vertices)
    i = np.concatenate([t[:, (k + 1) % 3] for k in range(3)])
    j = np.concatenate([t[:, (k + 2) % 3] for k in range(3)])
    w = np.concatenate([weights[:, k] for k in range(3)])
    off = scipy.sparse.coo_array((np.r_[-w, -w], (np.r_[i, j], np.r_[j, i])), shape=(count, count))
    diagonal = np.bincount(i, w, count) + np.bincount(j, w, count)
    laplace = scipy.sparse.csc_array(
        off
        + scipy.sparse.coo_array(
            (diagonal, (np.arange(count), np.arange(count))), shape=(count, count)
        )
    )
    # One vertex held: the picture may lie anywhere.
    solver = scipy.sparse.linalg.splu(
        scipy.sparse.csc_array(laplace[1:][:, 1:])
        + 1e-10
        * scipy.sparse.csc_array(
            scipy.sparse.coo_array(
                (np.abs(diagonal[1:]) + 1e-12, (np.arange(count - 1), np.arange(count - 1)))
            )
        )
    )

    real_area = mesh.area
    flat = start * np.sqrt(real_area / max(_flat_area(start, t), 1e-300))
    for _ in range(rounds):
        sides = [flat[t[:, (k + 1) % 3]] - flat[t[:, (k + 2) % 3]] for k in range(3)]
        ref = [local[:, (k + 1) % 3] - local[:, (k + 2) % 3] for k in range(3)]
        # The best turn of each triangle, from the angle of its weighted complex covariance.
        a = sum(weights[:, k] * np.einsum("ij,ij->i", ref[k], sides[k]) for k in range(3))
        b = sum(
            weights[:, k] * (ref[k][:, 0] * sides[k][:, 1] - ref[k][:, 1] * sides[k][:, 0])
            for k in range(3)
        )
        turn = np.arctan2(b, a)
        c, s = np.cos(turn), np.sin(turn)
        right = np.zeros((count, 2))
        for k in range(3):
            pull = weights[:, k, None] * np.column_stack(
                [c * ref[k][:, 0] - s * ref[k][:, 1], s * ref[k][:, 0] + c * ref[k][:, 1]]
            )
            np.add.at(right, t[:, (k + 1) % 3], pull)
            np.add.at(right, t[:, (k + 2) % 3], -pull)
        flat = np.vstack([np.zeros((1, 2)), solver.solve(right[1:])])
    if turned_over(flat, t).any():
        return start * np.sqrt(real_area / max(_flat_area(start, t), 1e-300))
    return flat


def _flat_area(uv: Array, triangles: Index) -> float:
    a, b, c = (uv[triangles[:, k]] for k in range(3))
    return float(
        np.abs(
            (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
        ).sum()
        / 2
    )
