"""Curved faces of bodies: what surfaces their triangles stand for, and how far from these they
lie."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.mapped import Affine, mapped
from ..geometry.meshes import Body, Face, Mesh, half_edges
from ..geometry.meshsurface import MeshSurface
from ..geometry.patches import patch
from ..geometry.surfaces import Surface

__all__ = ["carried_face", "curved_faces", "deviation", "deviation_of", "stands_for_curves"]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
SAMPLES = 400
FLAT, ROUND = 1e-4, np.sin(np.radians(20.0))
"""Sines of angles between faces that lie in one plane, and that meet at an edge."""


def curved_faces(
    surface: Surface,
    mesh: Mesh,
    uv: Array,
    offset: float = 0.0,
    which: Index | None = None,
) -> tuple[Face, ...]:
    """Faces of which a ``mesh`` of a surface, or one ``offset`` (m) outside of it, is made, or
    triangles ``which`` (n,) of it: one between any two creases of the surface, but for those that
    are plane. ``uv`` (V, 2) are the parameters of its vertices; a surface that is only a mesh has
    none."""
    if isinstance(surface, MeshSurface) or len(uv) != len(mesh.vertices):
        return ()
    which = np.arange(len(mesh.triangles)) if which is None else which
    corner = uv[mesh.triangles[which]]
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        if closed:
            across = np.ptp(corner[:, :, axis], axis=1) > 0.5
            corner[across, :, axis] += corner[across, :, axis] < 0.5
    middle = corner.mean(axis=1)
    lines = [np.unique([0.0, *seams, 1.0]) for seams in (surface.seams_u, surface.seams_v)]
    u, v = (
        np.clip(np.searchsorted(line, middle[:, k]) - 1, 0, len(line) - 2)
        for k, line in enumerate(lines)
    )
    out = []
    for i, j in np.unique(np.column_stack([u, v]), axis=0).tolist():
        own = which[(u == i) & (v == j)]
        whole = len(lines[0]) == len(lines[1]) == 2
        low = np.array([lines[0][i], lines[1][j]])
        high = np.array([lines[0][i + 1], lines[1][j + 1]])
        face = Face(surface if whole else patch(surface, low, high), own, offset)
        at = (middle[(u == i) & (v == j)] - low) / (high - low)
        if not _is_plane(face, mesh, at):
            out.append(face)
    return tuple(out)


def carried_face(face: Face, by: Affine) -> Face | None:
    """The face of a body moved, turned, scaled or mirrored; ``None`` where the offset of its
    surface would not stay one, as it does in even scales only."""
    square = by.matrix @ by.matrix.T
    scale = float(np.sqrt(square[0, 0]))
    even = bool(np.abs(square - scale * scale * np.eye(3)).max() < 1e-9 * scale * scale)
    if face.offset and not even:
        return None
    return Face(mapped(face.surface, by), face.triangles, scale * face.offset, face.cut)


def _is_plane(face: Face, mesh: Mesh, middle: Array) -> bool:
    """Whether a face lies in one plane: its triangles, and it at parameters ``middle`` (n, 2) in
    the middle of each."""
    crosses = mesh.triangle_crosses[face.triangles]
    normal = crosses / np.maximum(np.linalg.norm(crosses, axis=1, keepdims=True), 1e-300)
    if float(np.abs(normal - normal[0]).max(initial=0.0)) >= 1e-9:
        return False
    some = face.at(middle[:: max(1, len(middle) // SAMPLES)])
    off = (some - mesh.vertices[mesh.triangles[face.triangles[0], 0]]) @ normal[0]
    return float(np.abs(off).max(initial=0.0)) < 1e-9 * float(mesh.extent.max())


def stands_for_curves(body: Body) -> bool:
    """Whether triangles that belong to no curved face bend so little from one to the next that they
    stand for something round, of which they are all there is."""
    mesh = body.mesh
    if not len(mesh.triangles):
        return False
    twin = half_edges(mesh.triangles, len(mesh.vertices))[0]
    edge = np.flatnonzero((twin >= 0) & (np.arange(len(twin)) < twin))
    edge = edge[(body.face_of[edge // 3] < 0) & (body.face_of[twin[edge] // 3] < 0)]
    crosses = mesh.triangle_crosses
    size = np.linalg.norm(crosses, axis=1)
    sound = size > 1e-12 * size.max()
    edge = edge[sound[edge // 3] & sound[twin[edge] // 3]]
    one, two = edge // 3, twin[edge] // 3
    sine = np.linalg.norm(np.cross(crosses[one], crosses[two]), axis=1) / (size[one] * size[two])
    bends = (sine > FLAT) & (sine < ROUND) & (np.einsum("ij,ij->i", crosses[one], crosses[two]) > 0)
    return bool(bends.any())


def deviation(body: Body) -> float:
    """How far (m) triangles lie from the faces they stand for, at the most of some hundred
    middles."""
    return max((deviation_of(face, body.mesh) for face in body.faces), default=0.0)


def deviation_of(face: Face, mesh: Mesh) -> float:
    """The same of one face."""
    some = face.triangles[:: max(1, len(face.triangles) // SAMPLES)]
    middle = mesh.vertices[mesh.triangles[some]].mean(axis=1)
    return float(np.linalg.norm(face.nearest(middle)[1] - middle, axis=1).max(initial=0.0))
