"""Bodies taken apart into the closed pieces they consist of."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body, Mesh, mesh_of_triangles, pieces
from .solids import Solids, solids_of

__all__ = ["separated"]

Array = NDArray[np.float64]
ROW = 0.05
"""Pieces whose middles lie within this share of the whole count as one row."""


def separated(
    body: Body, material: str, series: str = "", least: float = 0.0
) -> tuple[Solids, list[Body]]:
    """The pieces of a ``body`` as solids of a ``material``, and those of less than ``least`` (m³).

    A void within a piece stays with it. Pieces are numbered row by row along x, then y, then z.
    """
    whole = _wholes(body.mesh)
    kept = [piece for piece in whole if piece.volume >= least]
    made = solids_of([kept[i] for i in _row_by_row(kept, body.mesh)], material, series)
    return made, [piece for piece in whole if piece.volume < least]


def _wholes(mesh: Mesh) -> list[Body]:
    """The connected pieces of a mesh, each with the voids within it."""
    of = pieces(mesh.triangles, len(mesh.vertices))
    shells = [_taken(mesh, of == k) for k in range(int(of.max()) + 1)]
    outer = [k for k, shell in enumerate(shells) if shell.volume > 0]
    own = {k: [k] for k in outer}
    for k, shell in enumerate(shells):
        if shell.volume <= 0:
            own[_holder(shells, outer, shell.mesh.vertices[0])].append(k)
    return [shells[k] if own[k] == [k] else _taken(mesh, np.isin(of, own[k])) for k in outer]


def _row_by_row(bodies: list[Body], mesh: Mesh) -> list[int]:
    """Positions of bodies in the order of rows of a mesh along x, then y, then z."""
    middles = solids_of(bodies, "concrete").middles
    size = max(float(np.ptp(mesh.vertices, axis=0).max()), 1e-9)
    rows = np.round(middles / (ROW * size))
    order: list[int] = np.lexsort((*middles.T[::-1], *rows.T[::-1])).tolist()
    return order


def _taken(mesh: Mesh, chosen: NDArray[np.bool_]) -> Body:
    """Some of a mesh's triangles as a body."""
    triangles = mesh.triangles[chosen]
    used, corners = np.unique(triangles, return_inverse=True)
    return Body(mesh_of_triangles(mesh.vertices[used], corners.reshape(-1, 3).astype(np.int32)))


def _holder(shells: list[Body], outer: list[int], place: Array) -> int:
    """The outermost shell around a place: the smallest that holds it."""
    around = [k for k in outer if _holds(shells[k].mesh, place)]
    return min(around or outer, key=lambda k: shells[k].volume)


def _holds(mesh: Mesh, place: Array) -> bool:
    """Whether a place lies within a closed mesh, by the solid angles of its triangles (van Oosterom
    and Strackee, 1983)."""
    a, b, c = (mesh.vertices[mesh.triangles[:, k]] - place for k in range(3))
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    triple = np.einsum("ij,ij->i", a, np.cross(b, c))
    dot = np.einsum("ij,ij->i", a, b) * lc + np.einsum("ij,ij->i", b, c) * la
    dot += np.einsum("ij,ij->i", c, a) * lb
    angles = 2 * np.arctan2(triple, la * lb * lc + dot)
    return bool(abs(angles.sum()) > 2 * np.pi)
