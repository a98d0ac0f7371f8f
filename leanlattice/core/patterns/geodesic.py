"""Geodesic nets: a divided polyhedron carried onto a shape along rays from its centre."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.meshes import Mesh
from ..geometry.nets import Net, build_net
from ..geometry.polygons import vector_areas
from ..geometry.surfaces import Surface

__all__ = [
    "POLYHEDRA",
    "Polyhedron",
    "at_border",
    "divided",
    "fitted_sphere",
    "geodesic",
    "leapfrogged",
    "rays_met",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
BISECTIONS = 32
NEAR_SIDE = 0.01


@dataclass(frozen=True, eq=False)
class Polyhedron:
    """Unit vectors (V, 3) and counter-clockwise triangles (F, 3)."""

    vertices: Array
    faces: Index


def _outward(points: Array) -> Polyhedron:
    """The hull of points on the unit sphere, its faces in a settled order."""
    faces = scipy.spatial.ConvexHull(points).simplices
    p = points[faces]
    inward = np.einsum("ij,ij->i", np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), p[:, 0]) < 0
    faces[inward] = faces[inward][:, ::-1]
    faces = np.array([np.roll(f, -int(np.argmin(f))) for f in faces])
    return Polyhedron(points, faces[np.lexsort(faces.T[::-1])].astype(np.int32))


def _icosahedron() -> Polyhedron:
    """With a vertex straight above and one straight below, as domes want it."""
    z, r = 1 / 5**0.5, 2 / 5**0.5
    t = np.arange(5) * 2 * np.pi / 5
    upper = np.column_stack([r * np.cos(t), r * np.sin(t), np.full(5, z)])
    lower = np.column_stack([r * np.cos(t + np.pi / 5), r * np.sin(t + np.pi / 5), np.full(5, -z)])
    return _outward(np.vstack([[0, 0, 1], upper, lower, [0, 0, -1]]))


def _octahedron() -> Polyhedron:
    return _outward(np.vstack([np.eye(3), -np.eye(3)]))


POLYHEDRA = {"icosahedron": _icosahedron, "octahedron": _octahedron}


def _unit(v: Array) -> Array:
    return np.asarray(v / np.linalg.norm(v, axis=1, keepdims=True))


def divided(solid: Polyhedron, frequency: int) -> Polyhedron:
    """Every edge of the polyhedron divided into ``frequency`` parts, the parts carried out to the
    sphere (10 f² + 2 vertices, 30 f² edges and 20 f² faces from an icosahedron)."""
    f = frequency
    i, j = np.array([(i, j) for i in range(f + 1) for j in range(f + 1 - i)]).T
    shares = np.column_stack([f - i - j, i, j]) / f
    number = {(a, b): k for k, (a, b) in enumerate(zip(i.tolist(), j.tolist(), strict=True))}
    up = [
        (number[a, b], number[a + 1, b], number[a, b + 1]) for a in range(f) for b in range(f - a)
    ]
    down = [
        (number[a + 1, b], number[a + 1, b + 1], number[a, b + 1])
        for a in range(f - 1)
        for b in range(f - 1 - a)
    ]
    local = np.array(up + down)
    points = np.einsum("kc,fcd->fkd", shares, solid.vertices[solid.faces]).reshape(-1, 3)
    faces = (local[None] + (np.arange(len(solid.faces)) * len(shares))[:, None, None]).reshape(
        -1, 3
    )
    _, first, name = np.unique(np.round(points, 9), axis=0, return_index=True, return_inverse=True)
    return Polyhedron(_unit(points[first]), name.ravel()[faces].astype(np.int32))


def leapfrogged(solid: Polyhedron) -> Polyhedron:
    """A vertex more in the middle of every face and the edges turned: the second way of dividing,
    whose edges run across those of the first (three times as many faces)."""
    a, b, c = solid.faces.T
    centres = _unit(solid.vertices[solid.faces].mean(axis=1))
    n, count = len(solid.vertices), len(solid.faces)
    start, end = (
        np.concatenate([a, b, c]).astype(np.int64),
        np.concatenate([b, c, a]).astype(np.int64),
    )
    face = np.tile(np.arange(count), 3)
    order = np.argsort(start * n + end)
    twin = order[np.searchsorted((start * n + end)[order], end * n + start)]
    faces = np.column_stack([start, n + face[twin], n + face]).astype(np.int32)
    return Polyhedron(np.vstack([solid.vertices, centres]), faces)


def fitted_sphere(points: Array) -> tuple[Array, float]:
    """Centre (3,) and radius in metres of the sphere nearest to points (n, 3) in the algebraic
    sense (Kåsa, 1976)."""
    shift = points.mean(axis=0)
    p = points - shift
    system = np.column_stack([2 * p, np.ones(len(p))])
    solution = np.linalg.lstsq(system, (p * p).sum(axis=1), rcond=None)[0]
    return solution[:3] + shift, float(np.sqrt(max(solution[3] + solution[:3] @ solution[:3], 0.0)))


@compiled
def _first_hits(centre: Array, rays: Array, vertices: Array, triangles: Index) -> Array:
    """Farthest place along each ray at which it meets a triangle, 0 where it meets none (Möller and
    Trumbore, 1997)."""
    out = np.zeros(len(rays))
    for t in range(len(triangles)):
        a = vertices[triangles[t, 0]]
        e, g = vertices[triangles[t, 1]] - a, vertices[triangles[t, 2]] - a
        s = centre - a
        q0, q1, q2 = s[1] * e[2] - s[2] * e[1], s[2] * e[0] - s[0] * e[2], s[0] * e[1] - s[1] * e[0]
        far = g[0] * q0 + g[1] * q1 + g[2] * q2
        for i in range(len(rays)):
            d = rays[i]
            h0, h1, h2 = (
                d[1] * g[2] - d[2] * g[1],
                d[2] * g[0] - d[0] * g[2],
                d[0] * g[1] - d[1] * g[0],
            )
            det = e[0] * h0 + e[1] * h1 + e[2] * h2
            if abs(det) < 1e-300:
                continue
            u = (s[0] * h0 + s[1] * h1 + s[2] * h2) / det
            v = (d[0] * q0 + d[1] * q1 + d[2] * q2) / det
            if u >= -1e-9 and v >= -1e-9 and u + v <= 1 + 1e-9:
                out[i] = max(out[i], far / det)
    return out


def rays_met(mesh: Mesh, centre: Array, rays: Array) -> Array:
    """How far along each ray (n, 3) from ``centre`` the mesh is met last; 0 where it is not."""
    return np.asarray(
        _first_hits(centre, np.ascontiguousarray(rays), mesh.vertices, mesh.triangles)
    )


def geodesic(
    surface: Surface, mesh: Mesh, solid: Polyhedron, centre: Array, border: str = "cut"
) -> Net:
    """The faces of a ``solid`` carried onto a ``surface`` along rays from ``centre`` (3,).

    ``mesh`` is the surface in triangles. Where rays miss it, ``border`` says whether faces are cut
    (``"cut"``) at the place
    along their edges where it ends, found by bisection, or left out (``"whole"``). The net may have
    no cells.
    """
    far = rays_met(mesh, centre, solid.vertices)
    met = far > 0
    faces = solid.faces
    rays, distance = solid.vertices, far
    cells: list[list[int]] = faces[met[faces].all(axis=1)].tolist()
    if border == "cut" and not met.all():
        sides = np.concatenate([faces[:, [k, (k + 1) % 3]] for k in range(3)])
        ends = np.unique(np.sort(sides[met[sides[:, 0]] != met[sides[:, 1]]], axis=1), axis=0)
        inside = np.where(met[ends[:, 0]], ends[:, 0], ends[:, 1])
        outside = ends.sum(axis=1) - inside
        found, reach = _ends(mesh, centre, rays, inside, outside, far[inside])
        number = {(int(a), int(b)): len(rays) + k for k, (a, b) in enumerate(ends)}
        rays, distance = np.vstack([rays, found]), np.concatenate([far, reach])
        for face in faces[met[faces].any(axis=1) & ~met[faces].all(axis=1)].tolist():
            ring: list[int] = []
            for k in range(3):
                a, b = face[k], face[(k + 1) % 3]
                if met[a]:
                    ring.append(a)
                if met[a] != met[b]:
                    ring.append(number[min(a, b), max(a, b)])
            cells.append(ring)
    used = np.unique([v for c in cells for v in c]).astype(np.int64)
    name = np.zeros(len(rays), np.int32)
    name[used] = np.arange(len(used))
    uv = (
        surface.closest(centre + distance[used, None] * rays[used])
        if len(used)
        else np.zeros((0, 2))
    )
    uv = np.where((used >= len(solid.vertices))[:, None], at_border(surface, uv), uv)
    corners = name[np.array([v for c in cells for v in c], np.int64)].astype(np.int32)
    offsets = np.concatenate([[0], np.cumsum([len(c) for c in cells])]).astype(np.int32)
    vertices = surface.points(uv)
    if len(cells) and _looks_in(vertices, corners, offsets, surface, uv):
        corners = np.concatenate([corners[a:b][::-1] for a, b in pairwise(offsets.tolist())])
    return build_net(surface, vertices, uv, corners, offsets)


def at_border(surface: Surface, uv: Array) -> Array:
    """Parameters moved onto the side of the square they all but lie on; the triangles end a little
    inside it."""
    out = uv.copy()
    if surface.domain is not None or not len(uv):
        return out
    closed = (surface.closed_u, surface.closed_v)
    sides = sorted(
        s for s in {"u0", "u1", "v0", "v1"} - surface.degenerate if not closed["uv".index(s[0])]
    )
    if sides:
        away = np.stack([np.abs(uv[:, "uv".index(s[0])] - float(s[1])) for s in sides])
        nearest = np.argmin(away, axis=0)
        for k, side in enumerate(sides):
            out[(nearest == k) & (away[k] < NEAR_SIDE), "uv".index(side[0])] = float(side[1])
    return out


def _looks_in(vertices: Array, corners: Index, offsets: Index, surface: Surface, uv: Array) -> bool:
    """Whether the shape's outside is towards the centre, so that cells turn the other way."""
    normals = surface.normals(uv[corners[offsets[:-1]]])
    return bool(np.einsum("ij,ij->", vector_areas(vertices, corners, offsets), normals) < 0)


def _ends(
    mesh: Mesh,
    centre: Array,
    rays: Array,
    inside: NDArray[np.int64],
    outside: NDArray[np.int64],
    far: Array,
) -> tuple[Array, Array]:
    """The last rays (n, 3) from ``inside`` towards ``outside`` that meet the mesh, and how far
    along."""
    low, high = np.zeros(len(inside)), np.ones(len(inside))
    best = far.copy()
    for _ in range(BISECTIONS):
        middle = (low + high) / 2
        reach = rays_met(
            mesh, centre, _unit(rays[inside] + middle[:, None] * (rays[outside] - rays[inside]))
        )
        hit = reach > 0
        best = np.where(hit, reach, best)
        low, high = np.where(hit, middle, low), np.where(hit, high, middle)
    return _unit(rays[inside] + low[:, None] * (rays[outside] - rays[inside])), best
