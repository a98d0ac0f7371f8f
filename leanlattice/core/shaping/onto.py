"""Places moved from a body's triangles onto the curved faces these stand for."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Body, half_edges, mesh_of_triangles
from .faces import deviation

__all__ = [
    "Carriers",
    "divided",
    "finer",
    "measures",
    "moved_onto",
    "off_faces",
]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
STEPS = 12
DONE = 1e-10
"""Places that move by less (m) have arrived."""
LOST = 1e-6
"""Places that come no nearer (m) to what they are to lie on stay where they were."""
DAMPING = 1e-4
"""What is added to squares of sines between faces, so that those that all but touch give no far
steps (Levenberg, 1944)."""
LEVELS, COARSE = (2, 3), 3.5e-3
"""How often triangles are divided to measure a body, and the share by which measures may change
before they are divided once more."""


@dataclass(frozen=True, eq=False)
class Carriers:
    """What each of n places is to lie on: up to two of a body's faces by their numbers ``faces``
    (n, 2), or, where that is −1, planes through the place with unit ``normals`` (n, 2, 3)."""

    faces: Index
    normals: Array

    @classmethod
    def of_triangles(cls, body: Body, triangles: Index) -> Carriers:
        """Those of pairs of triangles (n, 2)."""
        crosses = body.mesh.triangle_crosses
        size = np.maximum(np.linalg.norm(crosses, axis=1, keepdims=True), 1e-300)
        return cls(body.face_of[triangles], (crosses / size)[triangles])

    def rows(self, which: Index) -> Carriers:
        return Carriers(self.faces[which], self.normals[which])


def moved_onto(
    body: Body,
    flat: Array,
    carriers: Carriers,
    reach: Array,
    lifted: Callable[[Array, Index], tuple[Array, Array]],
) -> tuple[Array, Array]:
    """Places ``flat`` (n, k), moved as little as need be until they lie on their carriers among the
    faces of ``body``, and the parameters (n, 2, 2) of those on these; NaN where a carrier is a
    plane or not arrived at.

    ``lifted`` gives places (m, 3) in space of some of them, by their positions (m,), and unit
    vectors (m, k, 3) along which they can move. A step is no longer than ``reach`` (n,) metres.
    Newton's method for the distances from tangent planes, damped (Levenberg, 1944). Places that do
    not arrive stay where they were.
    """
    now = flat.copy()
    start = lifted(flat, np.arange(len(flat)))[0]
    parameters = np.full((*carriers.faces.shape, 2), np.nan)
    off = np.zeros(len(flat))
    left = np.flatnonzero((carriers.faces >= 0).any(axis=1))
    for _ in range(STEPS):
        if not len(left):
            break
        places, ways = lifted(now[left], left)
        normals = carriers.normals[left].copy()
        gaps = np.einsum("nij,nj->ni", normals, start[left] - places)
        for k, face in enumerate(body.faces):
            row, column = np.nonzero(carriers.faces[left] == k)
            if len(row):
                known = parameters[left[row], column]
                uv, at, normal = face.nearest(places[row], known)
                parameters[left[row], column] = uv
                normals[row, column] = normal
                gaps[row, column] = np.einsum("ij,ij->i", normal, at - places[row])
        off[left] = np.abs(gaps).max(axis=1)
        slopes = np.einsum("nij,nkj->nik", normals, ways)
        step = _least_step(slopes, gaps)
        size = np.linalg.norm(step, axis=1)
        step *= np.minimum(1.0, reach[left] / np.maximum(size, 1e-300))[:, None]
        now[left] += step
        left = left[size > DONE]
    lost = ~(off < LOST)
    now[lost], parameters[lost] = flat[lost], np.nan
    return now, parameters


def _least_step(slopes: Array, gaps: Array) -> Array:
    """The least steps (n, k) that close two ``gaps`` (n, 2) along ``slopes`` (n, 2, k)."""
    aa = np.einsum("nik,njk->nij", slopes, slopes) + DAMPING * np.eye(2)
    det = aa[:, 0, 0] * aa[:, 1, 1] - aa[:, 0, 1] * aa[:, 1, 0]
    first = (aa[:, 1, 1] * gaps[:, 0] - aa[:, 0, 1] * gaps[:, 1]) / det
    second = (aa[:, 0, 0] * gaps[:, 1] - aa[:, 1, 0] * gaps[:, 0]) / det
    return np.asarray(slopes[:, 0] * first[:, None] + slopes[:, 1] * second[:, None])


def divided(body: Body) -> Body:
    """The same body with each triangle in four, whose new corners lie on its faces."""
    mesh = body.mesh
    t, count = mesh.triangles, len(mesh.vertices)
    twin = half_edges(t, count)[0]
    own = np.arange(t.size)
    once = np.flatnonzero((twin < 0) | (own < twin))
    a, b = t.ravel()[once], np.roll(t, -1, axis=1).ravel()[once]
    beside = np.where(twin[once] < 0, once, twin[once])
    carriers = Carriers.of_triangles(body, np.column_stack([once, beside]) // 3)
    ends = mesh.vertices[a], mesh.vertices[b]
    reach = np.linalg.norm(ends[1] - ends[0], axis=1) / 2
    middles = moved_onto(body, (ends[0] + ends[1]) / 2, carriers, reach, _in_space)[0]
    number = np.empty(t.size, np.int64)
    number[once] = count + np.arange(len(once))
    number[twin[once][twin[once] >= 0]] = number[once][twin[once] >= 0]
    ab, bc, ca = number.reshape(-1, 3).T
    a, b, c = t.astype(np.int64).T
    fours = np.array([[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]])
    triangles = fours.transpose(2, 0, 1).reshape(-1, 3)
    faces = tuple(
        replace(f, triangles=(4 * f.triangles[:, None] + np.arange(4)).ravel()) for f in body.faces
    )
    return Body(mesh_of_triangles(np.vstack([mesh.vertices, middles]), triangles), body.skin, faces)


def finer(body: Body, off: float, most: int) -> Body:
    """The same body with more triangles, until they lie within ``off`` (m) of its faces or more
    would be above ``most``."""
    while not body.cut and 4 * len(body.mesh.triangles) <= most and deviation(body) > off:
        body = divided(body)
    return body


def _in_space(places: Array, which: Index) -> tuple[Array, Array]:
    return places, np.broadcast_to(np.eye(3), (len(places), 3, 3))


def seated(body: Body) -> Body:
    """The same body with the corners of faces that were cut on these, and on those they were cut
    by."""
    if not body.cut:
        return body
    mesh = body.mesh
    corner, triangle = mesh.triangles.ravel(), np.repeat(np.arange(len(mesh.triangles)), 3)
    # Of each corner one triangle a face, those of curved ones first, and one of another plane.
    key = np.where(body.face_of < 0, len(body.faces), body.face_of)[triangle]
    order = np.lexsort((key, corner))
    corner, triangle, key = corner[order], triangle[order], key[order]
    new = np.concatenate([[True], (np.diff(corner) > 0) | (np.diff(key) > 0)])
    corner, triangle = corner[new], triangle[new]
    first = np.concatenate([[True], np.diff(corner) > 0])
    start = np.flatnonzero(first)
    beside = np.minimum(start + 1, len(corner) - 1)
    two = np.where(corner[beside] == corner[start], triangle[beside], triangle[start])
    carriers = Carriers.of_triangles(body, np.column_stack([triangle[start], two]))
    reach = np.full(len(start), 4 * deviation(body))
    which = corner[start]
    vertices = mesh.vertices.copy()
    vertices[which] = moved_onto(body, vertices[which], carriers, reach, _in_space)[0]
    return replace(body, mesh=mesh.with_vertices(vertices))


def measures(body: Body) -> tuple[float, float]:
    """Volume (m³) and area (m²) of a body with its curved faces as they are: those of its triangles
    and of four times as many, and as many again where that changes much, carried on to ever more
    (Richardson, 1911)."""
    if not body.faces:
        return body.volume, body.area
    body = seated(body)
    rows = [np.array([body.volume, body.area])]
    finer = body
    while len(rows) < LEVELS[0] or (
        len(rows) < LEVELS[1] and np.abs(rows[-1] / rows[-2] - 1).max() > COARSE
    ):
        finer = divided(finer)
        rows.append(np.array([finer.volume, finer.area]))
    for order in range(1, len(rows)):
        rows = [b + (b - a) / (4**order - 1) for a, b in itertools.pairwise(rows)]
    return float(rows[0][0]), float(rows[0][1])


def off_faces(body: Body, places: Array) -> Array:
    """Distances (n,) in metres of places from a body: from its curved faces as they are, and from
    the planes of its other triangles, also a little beyond these, where faces bulge."""
    triangle, _, off = body.mesh.search.nearest(places)
    if not body.faces:
        return off
    near = 2 * deviation(body)
    on_plane = body.face_of[triangle] < 0
    out = np.where(on_plane, off, np.inf)
    own = body.face_of[triangle]
    for others in (False, True):
        # A place beside the triangles of a face may lie on another that it meets.
        for k, face in enumerate(body.faces):
            which = np.flatnonzero((own != k) & (out > LOST) if others else own == k)
            if len(which):
                at = face.nearest(places[which])[1]
                out[which] = np.minimum(out[which], np.linalg.norm(at - places[which], axis=1))
    plane = np.flatnonzero(body.face_of < 0)
    left = np.flatnonzero(out > LOST)
    if len(plane) and len(left):
        search = mesh_of_triangles(body.mesh.vertices, body.mesh.triangles[plane]).search
        found, share, _ = search.nearest(places[left])
        crosses = body.mesh.triangle_crosses[plane[found]]
        normal = crosses / np.maximum(np.linalg.norm(crosses, axis=1, keepdims=True), 1e-300)
        step = places[left] - search.places(found, share)
        above = np.einsum("ij,ij->i", step, normal)
        beside = np.linalg.norm(step - above[:, None] * normal, axis=1) <= near
        out[left] = np.where(beside, np.minimum(out[left], np.abs(above)), out[left])
    return out
