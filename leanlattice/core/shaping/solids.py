"""Operations on bodies: united, cut, hollowed, thickened."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from weakref import WeakKeyDictionary

import manifold3d
import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.meshes import Body, Face, Mesh, mesh_of_triangles
from ..geometry.meshsurface import MeshSurface
from ..geometry.mitres import mitres_of_faces
from ..geometry.patches import Wall
from ..geometry.surfaces import Surface
from .crossing import self_crossings
from .faces import curved_faces
from .facets import surface_mesh

__all__ = [
    "SolidError",
    "as_body",
    "as_solid",
    "boolean",
    "cut_by_plane",
    "hollow",
    "is_convex",
    "offset_places",
    "prism",
    "refined",
    "solid_of_rings",
    "thicken",
]

Array = NDArray[np.float64]
SHARP = 0.06
"""Share of the spread of normals below which faces of a mesh count as smooth."""


class SolidError(ValueError):
    """An operation that cannot be done, in a sentence. ``most`` is the largest value that would
    work, where known."""

    def __init__(self, text: str, most: float | None = None, at: Array | None = None) -> None:
        super().__init__(text)
        self.most, self.at = most, at


_SOLIDS: WeakKeyDictionary[Body, manifold3d.Manifold] = WeakKeyDictionary()
"""Bodies do not change, and several steps work on one."""


def as_solid(body: Body) -> manifold3d.Manifold:
    """The body as the boolean package (Lalish, Manifold: guaranteed manifold results) holds it."""
    if body in _SOLIDS:
        return _SOLIDS[body]
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(
            vert_properties=np.array(body.mesh.vertices, np.float64, order="C"),
            tri_verts=np.array(body.mesh.triangles, np.uint64, order="C"),
        )
    )
    if solid.status() != manifold3d.Error.NoError:
        raise SolidError(
            "A body is not closed all round, or its faces turn against each other; repair it first."
        )
    _SOLIDS[body] = solid
    return solid


def as_body(solid: manifold3d.Manifold) -> Body:
    mesh = solid.to_mesh64()
    return Body(
        mesh_of_triangles(
            np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int32)
        )
    )


def _with_faces(solid: manifold3d.Manifold, bodies: Sequence[Body]) -> Body:
    """A solid cut out of ``bodies``, with what is left of their curved faces.

    The boolean package tells of each triangle which solid it is of, and which of its triangles it
    lies in.
    """
    out, mesh = as_body(solid), solid.to_mesh64()
    ends = np.asarray(mesh.run_index).astype(np.int64)
    of = np.repeat(np.asarray(mesh.run_original_id), (ends[1:] - ends[:-1]) // 3)
    within = np.asarray(mesh.face_id).astype(np.int64)
    faces: list[Face] = []
    for body in bodies:
        own = np.flatnonzero(of == _original(body))
        face = body.face_of[within[own]]
        faces += [
            replace(body.faces[k], triangles=own[face == k], cut=True)
            for k in np.unique(face[face >= 0]).tolist()
        ]
    return replace(out, faces=tuple(faces))


def _original(body: Body) -> int:
    """The number by which the boolean package knows the triangles of a body."""
    return int(as_solid(body).to_mesh64().run_original_id[0])


OPERATIONS = {
    "union": manifold3d.OpType.Add,
    "difference": manifold3d.OpType.Subtract,
    "intersection": manifold3d.OpType.Intersect,
}


def boolean(bodies: Sequence[Body], operation: str) -> Body:
    """Union, difference (the first less the others) or intersection of bodies; empty where nothing
    is left."""
    solids = [as_solid(b) for b in bodies]
    return _with_faces(manifold3d.Manifold.batch_boolean(solids, OPERATIONS[operation]), bodies)


def cut_by_plane(body: Body, normal: Array, through: Array) -> Body:
    """The part of a body on the side of the plane to which ``normal`` (3,) points."""
    unit = np.asarray(normal, float) / np.linalg.norm(normal)
    return _with_faces(as_solid(body).trim_by_plane(tuple(unit), float(unit @ through)), [body])


def refined(body: Body, length: float) -> Body:
    """The same body with no edge longer than about ``length`` (m)."""
    return as_body(as_solid(body).refine_to_length(length))


def prism(ring: Array, openings: Sequence[Array], axis: Array, low: float, high: float) -> Body:
    """Body over an outline ``ring`` (n, 3) in any plane, less its ``openings``, from ``low`` to
    ``high`` (m) along the unit vector ``axis``.

    The outline is carried straight along ``axis`` onto the planes square to it.
    """
    helper = np.array([1.0, 0, 0]) if abs(axis[0]) < 0.9 else np.array([0, 1.0, 0])
    x = np.cross(helper, axis)
    x /= np.linalg.norm(x)
    y = np.cross(axis, x)
    rings = [np.column_stack([r @ x, r @ y]) for r in (ring, *openings)]
    section = manifold3d.CrossSection(
        [np.ascontiguousarray(r) for r in rings], manifold3d.FillRule.EvenOdd
    )
    solid = manifold3d.Manifold.extrude(section, high - low)
    turn = np.column_stack([x, y, axis, axis * low])
    return as_body(solid.transform(turn))


def offset_places(mesh: Mesh, distance: float) -> Array:
    """Vertices (V, 3) moved so that the faces about each lie ``distance`` (m) further out, as
    nearly as can be.

    The move solves Σ w (n·d − distance)² → min over the faces' normals, the smallest of all such
    moves: along the normal where the mesh is smooth, to the mitre at edges and corners.
    """
    t = mesh.triangles
    unit = mesh.triangle_crosses / np.maximum(
        np.linalg.norm(mesh.triangle_crosses, axis=1, keepdims=True), 1e-300
    )
    weights = mesh.corner_angles
    move = mitres_of_faces(
        count=len(mesh.vertices),
        at=t.T.ravel(),
        normals=np.tile(unit, (3, 1)),
        weights=weights.T.ravel(),
        sharp=SHARP,
    )
    # At a needle the mitre would run away.
    size = np.linalg.norm(move, axis=1, keepdims=True)
    return mesh.vertices + distance * move * np.minimum(1.0, 3.0 / np.maximum(size, 1e-300))


def thicken(surface: Surface, outside: float, inside: float) -> Body:
    """Body between the surface moved ``outside`` and ``inside`` (m ≥ 0), with walls along its
    borders."""
    mesh, uv = surface_mesh(surface)
    smooth = not (surface.seams_u or surface.seams_v)
    exact = len(uv) == len(mesh.vertices) and not isinstance(surface, MeshSurface)
    if smooth and exact:
        normals = surface.normals(uv)
        top, bottom = mesh.vertices + outside * normals, mesh.vertices - inside * normals
    else:
        top, bottom = offset_places(mesh, outside), offset_places(mesh, -inside)
    n, t = len(top), mesh.triangles
    faces: list[Face] = []
    for k, (places, offset) in enumerate(((top, outside), (bottom, -inside))):
        # Beside creases a surface moved along its normals falls apart.
        if exact and (smooth or offset == 0):
            own = curved_faces(surface, mesh.with_vertices(places), uv, offset)
            faces += [replace(f, triangles=f.triangles + k * len(t)) for f in own]
    parts = [t, t[:, ::-1] + n]
    for loop in mesh.loops:
        a, b = loop, np.roll(loop, -1)
        parts += [np.column_stack([b, a, a + n]), np.column_stack([b, a + n, b + n])]
    whole = mesh_of_triangles(np.vstack([top, bottom]), np.vstack(parts))
    if smooth and exact:
        faces += _walls(surface, whole, uv, outside, inside)
    return Body(whole, surface, tuple(faces))


def _walls(surface: Surface, mesh: Mesh, uv: Array, outside: float, inside: float) -> list[Face]:
    """Faces of the walls along the sides of a thickened surface, in a mesh of all of it; ``uv`` (n,
    2) are the parameters of the first and of the second n of its places."""
    corner = uv[mesh.triangles % len(uv)]
    between = np.ptp(mesh.triangles // len(uv), axis=1) == 1
    out: list[Face] = []
    for side in ("u0", "u1", "v0", "v1"):
        axis, end = "uv".index(side[0]), float(side[1])
        closed = (surface.closed_u, surface.closed_v)
        own = between & (np.abs(corner[:, :, axis] - end) < 1e-12).all(axis=1)
        if not own.any() or closed[axis] or side in surface.degenerate:
            continue
        wall = Wall(surface, side, -inside, outside, closed[1 - axis])
        share = np.repeat([1.0, 0.0], len(uv))
        along = np.column_stack([np.tile(uv[:, 1 - axis], 2), share])
        out += curved_faces(wall, mesh, along, which=np.flatnonzero(own))
    return out


def hollow(body: Body, wall: float) -> Body:
    """The body with a hollow inside that leaves walls of ``wall`` (m).

    Raises ``SolidError``, with the largest wall that works, where there is no room for a hollow or
    where the inner skin of a body that is not convex would cross itself.
    """
    inner = _inner(body, wall)
    if inner is None:
        low, high = 0.0, wall
        for _ in range(12):
            middle = (low + high) / 2
            low, high = (middle, high) if _inner(body, middle) is not None else (low, middle)
        if is_convex(body):
            raise SolidError("leaves no room inside", low)
        raise SolidError("makes the inner skin cross itself at edges or bends", low)
    n = len(body.mesh.vertices)
    triangles = np.vstack([body.mesh.triangles, inner.triangles[:, ::-1] + n])
    return Body(
        mesh_of_triangles(np.vstack([body.mesh.vertices, inner.vertices]), triangles),
        body.skin,
        body.faces,
    )


def _inner(body: Body, wall: float) -> Mesh | None:
    """The inner skin of walls, or ``None`` where there can be none."""
    if is_convex(body):
        return _within_all_planes(body, wall)
    inner = body.mesh.with_vertices(offset_places(body.mesh, -wall))
    turned = np.einsum("ij,ij->i", inner.triangle_crosses, body.mesh.triangle_crosses) < 0
    sized = (
        np.linalg.norm(body.mesh.triangle_crosses, axis=1)
        > 1e-10 * float(body.mesh.extent.max()) ** 2
    )
    if (turned & sized).any() or Body(inner).volume <= 0:
        return None
    return None if len(self_crossings(inner, 1)) else inner


def is_convex(body: Body) -> bool:
    """Whether a body has all of its own convex hull."""
    whole = as_solid(body).hull().volume()
    return bool(whole > 0 and whole - body.volume < 1e-9 * whole)


def _planes(body: Body) -> tuple[Array, Array]:
    """Outward unit normals (n, 3) and distances (n,) from the origin of all planes faces lie in."""
    crosses = body.mesh.triangle_crosses
    size = np.linalg.norm(crosses, axis=1)
    kept = size > 1e-12 * size.max()
    normals = crosses[kept] / size[kept, None]
    distances = np.einsum("ij,ij->i", normals, body.mesh.vertices[body.mesh.triangles[kept, 0]])
    extent = max(float(body.mesh.extent.max()), 1e-9)
    _, first = np.unique(
        np.round(np.column_stack([normals, distances / extent]), 9), axis=0, return_index=True
    )
    return normals[first], distances[first]


def _within_all_planes(body: Body, wall: float) -> Mesh | None:
    """What of a convex body lies ``wall`` (m) behind all of its faces: exactly what is as far from
    its skin. The intersection of half-spaces is found from their dual points (Preparata and Muller,
    1979).
    """
    normals, distances = _planes(body)
    distances = distances - wall
    # The centre of the largest ball inside, by a linear programme.
    found = scipy.optimize.linprog(
        [0, 0, 0, -1],
        np.column_stack([normals, np.ones(len(normals))]),
        distances,
        bounds=[(None, None)] * 3 + [(0, None)],
    )
    extent = float(body.mesh.extent.max())
    if found.x is None or not found.success or found.x[3] < 1e-6 * extent:
        return None
    half_spaces = scipy.spatial.HalfspaceIntersection(
        np.column_stack([normals, -distances]), found.x[:3]
    )
    places = half_spaces.intersections
    solid = manifold3d.Manifold.hull_points(places[np.isfinite(places).all(axis=1)])
    return as_body(solid).mesh if solid.volume() > 0 else None


def solid_of_rings(rings: Sequence[Array], pose: Array, thickness: float) -> manifold3d.Manifold:
    """Solid of a plate about its middle plane, by its outlines and openings (even-odd); ``pose``
    (3, 4) takes places (x, y, z, 1) of the plate to space, and thickness is in the units of the
    plate."""
    section = manifold3d.CrossSection(
        [np.ascontiguousarray(r) for r in rings], manifold3d.FillRule.EvenOdd
    )
    plate = manifold3d.Manifold.extrude(section, thickness).translate((0.0, 0.0, -thickness / 2))
    return plate.transform(np.ascontiguousarray(pose))
