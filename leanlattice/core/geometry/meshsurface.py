"""A mesh as a surface: parameters of its own, so that everything that works on surfaces works on
it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
from .curvature import vertex_curvatures
from .flatten import flatten_least_distortion, turned_over
from .meshes import Mesh, MeshError, mesh_of_triangles, pieces, used_only
from .regions import Region, signed_area
from .surfaces import Surface

__all__ = ["MeshSurface", "chart_surface", "mesh_surface"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


LEVEL = 0.9
"""A piece whose normal is steeper than this is laid out by its plan."""


@compiled
def _locate(points, uv, triangles, cells, starts, size):  # type: ignore[no-untyped-def]
    """Triangle and barycentric coordinates of each point; the best of the triangles binned where
    the point lies."""
    found = np.full(len(points), -1, np.int64)
    share = np.empty((len(points), 3))
    for n in range(len(points)):
        i = min(max(int(points[n, 0] * size), 0), size - 1)
        j = min(max(int(points[n, 1] * size), 0), size - 1)
        best = -1e-7
        for k in range(starts[i * size + j], starts[i * size + j + 1]):
            t = cells[k]
            a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
            ux, uy = uv[b, 0] - uv[a, 0], uv[b, 1] - uv[a, 1]
            vx, vy = uv[c, 0] - uv[a, 0], uv[c, 1] - uv[a, 1]
            px, py = points[n, 0] - uv[a, 0], points[n, 1] - uv[a, 1]
            det = ux * vy - uy * vx
            if det == 0.0:
                continue
            s, r = (px * vy - py * vx) / det, (ux * py - uy * px) / det
            least = min(min(s, r), 1.0 - s - r)
            if least > best:
                best = least
                found[n] = t
                share[n, 0], share[n, 1], share[n, 2] = 1.0 - s - r, s, r
                if least >= 0.0:
                    break
    return found, share


@compiled
def _bins(uv, triangles, size):  # type: ignore[no-untyped-def]
    counts = np.zeros(size * size + 1, np.int64)
    for fill in range(2):
        if fill == 1:
            starts = np.cumsum(counts)
            cells = np.empty(starts[-1], np.int64)
            at = starts[:-1].copy()
        for t in range(len(triangles)):
            low = np.full(2, 1e300)
            high = np.full(2, -1e300)
            for k in range(3):
                for d in range(2):
                    low[d] = min(low[d], uv[triangles[t, k], d])
                    high[d] = max(high[d], uv[triangles[t, k], d])
            i0 = min(max(int((low[0] - 1e-7) * size), 0), size - 1)
            i1 = min(max(int((high[0] + 1e-7) * size), 0), size - 1)
            j0 = min(max(int((low[1] - 1e-7) * size), 0), size - 1)
            j1 = min(max(int((high[1] + 1e-7) * size), 0), size - 1)
            for i in range(i0, i1 + 1):
                for j in range(j0, j1 + 1):
                    if fill == 0:
                        counts[i * size + j + 1] += 1
                    else:
                        cells[at[i * size + j]] = t
                        at[i * size + j] += 1
    return cells, starts


@dataclass(frozen=True, eq=False)
class MeshSurface(Surface):
    """Triangles with parameters ``uv`` (V, 2) in the unit square. Points are exact on the mesh,
    first derivatives those of its triangles; normals and curvatures are interpolated between
    vertices. ``real`` are the lengths in metres that the sides of the square stand for. ``faces``
    is the mesh the triangles come from, over the same vertices, where nothing of it was left out.
    """

    mesh: Mesh
    uv: Array
    real: tuple[float, float]
    domain: Region | None
    flipped: bool = False
    faces: Mesh | None = None

    @cached_property
    def _grid(self) -> tuple[NDArray[np.int64], NDArray[np.int64], int]:
        size = int(np.clip(np.sqrt(len(self.mesh.triangles)), 1, 400))
        return (*_bins(self.uv, self.mesh.triangles, size), size)

    def located(self, uv: Array) -> tuple[NDArray[np.int64], Array]:
        """Triangle (n,) and barycentric coordinates (n, 3) of parameters; beyond the mesh those of
        the nearest one."""
        found, share = _locate(
            np.ascontiguousarray(uv, float), self.uv, self.mesh.triangles, *self._grid
        )
        lost = np.flatnonzero(found < 0)
        if lost.size:
            t = self.mesh.triangles
            near = self._tree.query(uv[lost], k=min(8, len(t)))[1].reshape(len(lost), -1)
            a, b, c = (self.uv[t[near, k]] for k in range(3))
            p = uv[lost][:, None]
            det = _cross(b - a, c - a)
            det = np.where(det == 0, 1e-300, det)
            s, r = _cross(p - a, c - a) / det, _cross(b - a, p - a) / det
            all_shares = np.stack([1 - s - r, s, r], axis=-1)
            best = np.argmax(all_shares.min(axis=2), axis=1)
            rows = np.arange(len(lost))
            found[lost], share[lost] = near[rows, best], all_shares[rows, best]
        return found, share

    @cached_property
    def _tree(self) -> scipy.spatial.cKDTree:
        return scipy.spatial.cKDTree(self.uv[self.mesh.triangles].mean(axis=1))

    def _interpolated(self, values: Array, uv: Array) -> Array:
        found, share = self.located(uv)
        return np.einsum("nk,nk...->n...", share, values[self.mesh.triangles[found]])

    def derivatives(self, uv: Array, du: int = 0, dv: int = 0) -> Array:
        if du + dv > 1:
            return np.zeros((len(uv), 3))
        if du + dv == 0:
            return self._interpolated(self.mesh.vertices, uv)
        t = self.mesh.triangles[self.located(uv)[0]]
        a, b, c = (self.uv[t[:, k]] for k in range(3))
        pa, pb, pc = (self.mesh.vertices[t[:, k]] for k in range(3))
        det = _cross(b - a, c - a)[:, None]
        if du:
            return ((c - a)[:, 1:] * (pb - pa) - (b - a)[:, 1:] * (pc - pa)) / det
        return ((b - a)[:, :1] * (pc - pa) - (c - a)[:, :1] * (pb - pa)) / det

    def normals(self, uv: Array) -> Array:
        n = self._interpolated(self.mesh.normals, uv)
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return -n if self.flipped else n

    def curvatures(self, uv: Array) -> Array:
        """Gaussian and mean curvature (n, 2), interpolated between those at the vertices."""
        out = self._interpolated(vertex_curvatures(self.mesh), uv)
        return out * [1, -1] if self.flipped else out

    def closest(self, points: Array, steps: int = 30) -> Array:
        """Parameters of the nearest points."""
        if not len(points):
            return np.zeros((0, 2))
        found, share, _ = self.mesh.search.nearest(points)
        return np.einsum("nc,ncd->nd", share, self.uv[self.mesh.triangles[found]])

    @property
    def lengths(self) -> tuple[float, float]:
        return self.real

    @property
    def area(self) -> float:
        return self.mesh.area


def _cross(a: Array, b: Array) -> Array:
    return a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]


def _largest_piece(mesh: Mesh) -> Mesh:
    group = pieces(mesh.triangles, len(mesh.vertices))
    if group.max(initial=0) == 0:
        return mesh
    sizes = np.bincount(group, np.linalg.norm(mesh.triangle_crosses, axis=1))
    vertices, triangles = used_only(mesh.vertices, mesh.triangles[group == np.argmax(sizes)])
    return mesh_of_triangles(vertices, triangles)


def mesh_surface(mesh: Mesh, by: str = "fitting") -> MeshSurface:
    """A mesh with parameters of its own: ``"plan"``, ``"flattened"``, or ``"fitting"``, which takes
    the plan where no triangle stands upright or turns over in it and the flattening otherwise.

    Of a closed mesh or one in several pieces, the largest piece seen from above is taken. Raises
    ``MeshError`` where that is nothing.
    """
    triangulated = mesh_of_triangles(mesh.vertices, mesh.triangles)
    if not len(triangulated.triangles):
        raise MeshError("The mesh has no faces.")
    if not triangulated.loops:
        up = triangulated.triangle_crosses[:, 2] > 1e-9 * np.linalg.norm(
            triangulated.triangle_crosses, axis=1
        )
        if not up.any():
            raise MeshError("No face of the body looks upward.")
        triangulated = mesh_of_triangles(*used_only(mesh.vertices, triangulated.triangles[up]))
    triangulated = _largest_piece(triangulated)
    plan = triangulated.vertices[:, :2]
    in_plan = not turned_over(plan, triangulated.triangles).any()
    downward = not turned_over(plan * [1, -1], triangulated.triangles).any()
    if by == "plan" and not in_plan and not downward:
        raise MeshError(
            "Seen in plan, faces of the mesh lie over each other or stand upright; flatten it instead."
        )
    if by != "flattened" and (in_plan or downward):
        flat = plan if in_plan else plan * [1, -1]
    else:
        flat = _turned_level(flatten_least_distortion(triangulated), triangulated)
    whole = len(triangulated.vertices) == len(mesh.vertices)
    return _over_picture(triangulated, flat, mesh if whole else None)


def _over_picture(mesh: Mesh, flat: Array, faces: Mesh | None = None) -> MeshSurface:
    """A mesh with the parameters of a flat picture (V, 2) of it in metres."""
    low, size = flat.min(axis=0), np.maximum(np.ptp(flat, axis=0), 1e-300)
    uv = (flat - low) / size
    rings = [uv[loop] for loop in mesh.loops]
    largest = max(rings, key=lambda r: abs(signed_area(r)))
    region = Region.of([largest, *[r for r in rings if r is not largest and len(r) >= 3]])
    return MeshSurface(mesh, uv, (float(size[0]), float(size[1])), region, faces=faces)


def chart_surface(mesh: Mesh) -> MeshSurface:
    """An open piece of mesh with parameters of its own, true to scale where it is flat: v runs as
    nearly upward as can be, on level pieces along y."""
    cross = mesh.triangle_crosses.sum(axis=0)
    normal = cross / max(float(np.linalg.norm(cross)), 1e-300)
    up = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < LEVEL else np.array([0.0, 1.0, 0.0])
    v = up - (up @ normal) * normal
    v /= np.linalg.norm(v)
    flat = np.column_stack([mesh.vertices @ np.cross(v, normal), mesh.vertices @ v])
    bulge = np.ptp(mesh.vertices @ normal)
    if bulge > 1e-6 * float(mesh.extent.max()):
        seen = flat
        flat = flatten_least_distortion(mesh)
        # Turned to lie as the piece is seen square on (Procrustes).
        a, b = flat - flat.mean(axis=0), seen - seen.mean(axis=0)
        m = a.T @ b
        angle = np.arctan2(m[0, 1] - m[1, 0], m[0, 0] + m[1, 1])
        c, s = np.cos(angle), np.sin(angle)
        flat = a @ np.array([[c, s], [-s, c]])
        if turned_over(flat, mesh.triangles).any() and not turned_over(seen, mesh.triangles).any():
            flat = seen
    return _over_picture(mesh, flat)


def _turned_level(flat: Array, mesh: Mesh) -> Array:
    """The flat picture turned so that v runs as nearly upward, or else along y, as can be."""
    height = (
        mesh.vertices[:, 2]
        if np.ptp(mesh.vertices[:, 2]) > 0.2 * np.ptp(mesh.vertices[:, 1])
        else mesh.vertices[:, 1]
    )
    centred = flat - flat.mean(axis=0)
    way = np.linalg.lstsq(centred, height - height.mean(), rcond=None)[0]
    angle = np.arctan2(way[0], way[1])
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return centred @ turn.T
