"""Faces laid flat: plane ones as they are, those that can be unrolled exactly, and others with as
little stretch as can be."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from .flatten import flatten_least_distortion, turned_over
from .meshes import Mesh, half_edges, mesh_of_triangles

__all__ = ["Laid", "laid_flat", "laid_outline", "nearest_frame"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
PLANE = 1e-6
"""Metres off its plane within which a face is plane."""
TUBE = 0.05
"""Share by which lengths of a face with two borders differ from which it is opened."""


class Laid(NamedTuple):
    """A face laid flat: ``places`` (n, 2) in metres, the vertex (n,) of the face each is the
    ``origin`` of, and its ``rings``, of which the first goes round all, counter-clockwise, and
    others are openings.

    A place (x, y) stands ``at`` + x X + y Y, X and Y being the first two rows of the ``frame`` (3,
    3), which is where it is exactly if the face is plane and as near as can be if it is not.
    ``stretch`` is the largest share by which a length differs from that on the face.
    """

    places: Array
    origin: Index
    rings: tuple[Index, ...]
    at: Array
    frame: Array
    stretch: float


def laid_flat(vertices: Array, triangles: Index) -> Laid | None:
    """A face of ``vertices`` (n, 3) in metres and ``triangles`` (m, 3), counter-clockwise seen from
    outside, laid flat so that its longest side runs along x.

    One that closes like a tube is opened along its shortest edge between its two borders. ``None``
    where there is no such edge, where a face closes in itself, and where it is laid over itself.
    """
    mesh, origin = mesh_of_triangles(vertices, triangles), np.arange(len(vertices))
    loops = mesh.loops
    if not loops:
        return None
    flat, is_plane = _projected(mesh)
    if not is_plane and len(loops) == 1 and len(loops[0]) == len(vertices):
        flat = _unrolled(mesh)
    elif not is_plane:
        flat = _least_stretched(mesh, flat)
        opened = _opened(mesh, loops) if len(loops) == 2 else None
        if opened is not None and _stretch(flat, mesh) > TUBE:
            mesh, origin = opened
            flat = _unrolled(mesh)
    rings = sorted(mesh.loops, key=lambda ring: -abs(_area(flat[ring])))
    if not shapely.is_valid(shapely.Polygon(flat[rings[0]], [flat[ring] for ring in rings[1:]])):
        return None
    flat = _along_longest_side(flat, rings[0])
    at, frame = nearest_frame(flat, mesh.vertices)
    stretch = _stretch(flat, mesh)
    return Laid(flat, origin.astype(np.int32), tuple(rings), at, frame, stretch)


def laid_outline(places: Array) -> tuple[Array, Array, Array]:
    """A closed outline of ``places`` (k, 3) in metres as it is seen square to it, its longest side
    along x: places (k, 2), counter-clockwise if the outline is that seen from outside, and the
    place and the axes (3, 3) at which they stand (see ``Laid``)."""
    normal = np.cross(places, np.roll(places, -1, axis=0)).sum(axis=0)
    flat = _along_longest_side(_seen(places, normal), np.arange(len(places), dtype=np.int32))
    return flat, *nearest_frame(flat, places)


def _projected(mesh: Mesh) -> tuple[Array, bool]:
    """Places (n, 2) in the plane that a mesh mostly looks along, and whether it lies in that."""
    normal = mesh.triangle_crosses.sum(axis=0)
    normal = normal / max(float(np.linalg.norm(normal)), 1e-300)
    off = mesh.vertices - mesh.vertices.mean(axis=0)
    return _seen(mesh.vertices, normal), bool(np.abs(off @ normal).max() <= PLANE)


def _seen(places: Array, normal: Array) -> Array:
    """Places (n, 3) as they are seen along a ``normal`` (3,) towards the eye: (n, 2)."""
    normal = normal / max(float(np.linalg.norm(normal)), 1e-300)
    off = places - places.mean(axis=0)
    x = np.cross(normal, np.eye(3)[int(np.abs(normal).argmin())])
    x /= max(float(np.linalg.norm(x)), 1e-300)
    return np.column_stack([off @ x, off @ np.cross(normal, x)])


def _area(ring: Array) -> float:
    after = np.roll(ring, -1, axis=0)
    return float((ring[:, 0] * after[:, 1] - ring[:, 1] * after[:, 0]).sum() / 2)


def _least_stretched(mesh: Mesh, seen: Array) -> Array:
    """Places (n, 2) of a curved mesh, or as it is ``seen`` square to it where that is nearer: of
    thin triangles the least distortion is not always found."""
    found = flatten_least_distortion(mesh, start=seen)
    fits = not turned_over(seen, mesh.triangles).any()
    return seen if fits and _stretch(seen, mesh) < _stretch(found, mesh) else found


def _unrolled(mesh: Mesh) -> Array:
    """Places (n, 2) of a mesh all of whose vertices lie on its border: one triangle after the
    other, each laid beside one that lies already."""
    t, p = mesh.triangles, mesh.vertices
    twin = half_edges(t, len(p))[0].reshape(-1, 3)
    out = np.zeros((len(p), 2))
    first, last, third = t[0].tolist()
    out[last, 0] = np.linalg.norm(p[last] - p[first])
    out[third] = _beside(p[first], p[last], p[third])
    lies, waiting = {0}, [0]
    while waiting:
        for there in twin[waiting.pop()].tolist():
            triangle, m = divmod(there, 3)
            if there < 0 or triangle in lies:
                continue
            first, last, third = np.roll(t[triangle], -m).tolist()
            along, high = _beside(p[first], p[last], p[third])
            way = out[last] - out[first]
            way /= np.linalg.norm(way)
            out[third] = out[first] + along * way + high * np.array([-way[1], way[0]])
            lies.add(triangle)
            waiting.append(triangle)
    return out


def _beside(first: Array, last: Array, third: Array) -> tuple[float, float]:
    """How far a ``third`` place is along the line between two others, and how far beside it."""
    way = (last - first) / np.linalg.norm(last - first)
    along = float((third - first) @ way)
    return along, float(np.linalg.norm(third - first - along * way))


def _opened(mesh: Mesh, loops: list[Index]) -> tuple[Mesh, NDArray[np.int64]] | None:
    """A mesh of two borders, parted along its shortest edge from one to the other, and the vertex
    each of its own was; ``None`` where no edge goes there."""
    t, count = mesh.triangles, len(mesh.vertices)
    twin = half_edges(t, count)[0]
    cut = _shortest_between(mesh, loops, twin)
    if cut < 0:
        return None
    corners, ends = (
        t.copy().ravel(),
        [int(t.ravel()[cut]), int(np.roll(t, -1, axis=1).ravel()[cut])],
    )
    barred = {cut, int(twin[cut])}
    for k, vertex in enumerate(ends):
        for triangle in _fan(cut // 3, vertex, t, twin, barred):
            at = int(np.flatnonzero(t[triangle] == vertex)[0])
            corners[3 * triangle + at] = count + k
    origin = np.append(np.arange(count), ends)
    return mesh_of_triangles(mesh.vertices[origin], corners.reshape(-1, 3)), origin


def _shortest_between(mesh: Mesh, loops: list[Index], twin: NDArray[np.int64]) -> int:
    """The shortest half-edge from one of two borders to the other; −1 where there is none."""
    border = np.zeros(len(mesh.vertices), np.int8)
    border[loops[0]], border[loops[1]] = 1, 2
    first, last = mesh.triangles.ravel(), np.roll(mesh.triangles, -1, axis=1).ravel()
    across = np.flatnonzero((border[first] == 1) & (border[last] == 2) & (twin >= 0))
    if not across.size:
        return -1
    lengths = np.linalg.norm(mesh.vertices[last[across]] - mesh.vertices[first[across]], axis=1)
    return int(across[np.argmin(lengths)])


def _fan(
    start: int, vertex: int, triangles: Index, twin: NDArray[np.int64], barred: set[int]
) -> set[int]:
    """Triangles about a ``vertex`` that are joined to the ``start`` by half-edges at it, of which
    some are ``barred``."""
    found, waiting = {start}, [start]
    while waiting:
        here = waiting.pop()
        for k in range(3):
            half = 3 * here + k
            ends = triangles[here, [k, (k + 1) % 3]]
            beyond = int(twin[half])
            if beyond < 0 or half in barred or vertex not in ends or beyond // 3 in found:
                continue
            found.add(beyond // 3)
            waiting.append(beyond // 3)
    return found


def _along_longest_side(flat: Array, ring: Index) -> Array:
    """Turned so that the first of the longest sides of a ring runs along x."""
    sides = np.roll(flat[ring], -1, axis=0) - flat[ring]
    length = np.linalg.norm(sides, axis=1)
    x, y = sides[int(np.argmax(length >= length.max() * (1 - 1e-9)))] / length.max()
    return np.asarray(flat @ np.array([[x, -y], [y, x]]))


def nearest_frame(flat: Array, places: Array) -> tuple[Array, Array]:
    """The place and the axes (3, 3) of the rigid motion that takes flat places (n, 2) nearest to
    those in space (n, 3) (Kabsch, 1976)."""
    middle, centre = flat.mean(axis=0), places.mean(axis=0)
    both = (flat - middle).T @ (places - centre)
    left, _, right = np.linalg.svd(both)
    x, y = left @ right[:2]
    return centre - middle @ np.stack([x, y]), np.stack([x, y, np.cross(x, y)])


def _stretch(flat: Array, mesh: Mesh) -> float:
    t = mesh.triangles
    one, other = t.ravel(), np.roll(t, -1, axis=1).ravel()
    was = np.linalg.norm(mesh.vertices[one] - mesh.vertices[other], axis=1)
    now = np.linalg.norm(flat[one] - flat[other], axis=1)
    return float(np.abs(now / np.maximum(was, 1e-300) - 1).max())
