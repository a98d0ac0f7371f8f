"""Ribs as triangles: for what draws them, and as solids."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import manifold3d
import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from .plates import Rib

__all__ = ["Meshed", "meshed", "rib_solid"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
POLYGON = 3
SEEN = 1 / 2000
"""Share of the whole below which nothing is seen of a detail."""


@dataclass(frozen=True, eq=False)
class Meshed:
    """Plates as ``places`` (n, 3) in metres and ``triangles`` (m, 3), the rib, ``owner`` (m,), each
    is of, and the outlines of both faces as pairs of places, ``lines`` (k, 2); ``flat`` (n, 3) is
    where places are while bent plates are plane."""

    places: Array
    triangles: Index
    owner: Index
    lines: Index
    flat: Array


def meshed(ribs: Sequence[Rib]) -> Meshed:
    """Plates for a picture of all of them; details too small to be seen in it are left out."""
    shapes: Any = np.array([r.shape for r in ribs], object)
    there = ~shapely.is_empty(shapes) if len(ribs) else np.zeros(0, bool)
    corners = [
        ribs[k].places(np.array(shapes[k].bounds).reshape(2, 2))
        for k in np.flatnonzero(there).tolist()
    ]
    fine = float(np.ptp(np.concatenate(corners), axis=0).max()) * SEEN if corners else 0.0
    simpler: Any = shapely.simplify(shapes, fine, preserve_topology=False)
    # Of what is thinner than a detail nothing may be left; it stays as it is.
    sound = (
        shapely.is_valid(simpler)
        & (shapely.get_type_id(simpler) == POLYGON)
        & ~shapely.is_empty(simpler)
    )
    oriented: Any = np.where(sound, simpler, shapes)
    oriented[there] = shapely.orient_polygons(oriented[there])
    bent = np.array([r.bend is not None for r in ribs], bool)
    drawn = [_plane_plates(ribs, oriented, np.flatnonzero(there & ~bent))]
    drawn += [_bent_plate(ribs[k], oriented[k], k) for k in np.flatnonzero(there & bent).tolist()]
    before = np.cumsum([0, *(len(d.places) for d in drawn)])
    places, owner, flat = (
        np.concatenate([getattr(d, n) for d in drawn]) for n in ("places", "owner", "flat")
    )
    triangles, lines = (
        np.concatenate([getattr(d, n) + b for d, b in zip(drawn, before, strict=False)])
        for n in ("triangles", "lines")
    )
    return Meshed(places, triangles, owner, lines, flat)


def _plane_plates(ribs: Sequence[Rib], shapes: Any, which: Index) -> Meshed:
    """Plane plates, by their positions, all at once. Triangles may pass by corners in line with
    others, which nobody sees."""
    rings, ring_of = shapely.get_rings(shapes[which], return_index=True)
    places, of = shapely.get_coordinates(rings, return_index=True)
    last = np.append(np.diff(of) > 0, True)[: len(of)]
    flat, plate = places[~last], ring_of[of[~last]]
    count, size = len(flat), np.bincount(of, minlength=len(rings)) - 1
    ends = np.cumsum(size)
    own, ahead = np.arange(count), np.arange(1, count + 1)
    ahead[ends - 1] = ends - size
    starts = np.searchsorted(plate, np.arange(len(which) + 1))
    face, face_of = [np.zeros((0, 3), np.int64)], [np.zeros(0, np.int64)]
    for k, (a, b) in enumerate(pairwise(starts.tolist())):
        stops = ends[(ends > a) & (ends <= b)] - a
        made = mapbox_earcut.triangulate_float64(flat[a:b], stops.astype(np.uint32)).reshape(-1, 3)
        face.append(made.astype(np.int64) + a)
        face_of.append(np.full(len(made), k))
    faces, faces_of = np.concatenate(face), np.concatenate(face_of)
    mine = [ribs[k] for k in which.tolist()]
    frames = np.array([[r.origin, r.x, r.y, r.normal * (r.thickness / 2)] for r in mine]).reshape(
        -1, 4, 3
    )[plate]
    at = frames[:, 0] + flat[:, :1] * frames[:, 1] + flat[:, 1:] * frames[:, 2]
    both = np.concatenate([at - frames[:, 3], at + frames[:, 3]])
    walls = [
        np.stack([own, ahead, ahead + count], 1),
        np.stack([own, ahead + count, own + count], 1),
    ]
    triangles = np.concatenate([faces[:, ::-1], faces + count, *walls])
    owner = np.concatenate([faces_of, faces_of, plate, plate])
    order = np.argsort(owner, kind="stable")
    sides = np.stack([own, ahead], 1)
    return Meshed(
        both, triangles[order], which[owner[order]], np.concatenate([sides, sides + count]), both
    )


def _bent_plate(rib: Rib, shape: shapely.Polygon, position: int) -> Meshed:
    flat, face, sides = _face(rib, _rings(shape))
    places, triangles = _solid(rib, flat, face, sides)
    lying = _solid(replace(rib, bend=None), flat, face, sides)[0]
    lines = np.concatenate([sides, sides + len(flat)])
    return Meshed(places, triangles, np.full(len(triangles), position), lines, lying)


def rib_solid(rib: Rib) -> tuple[Array, Index]:
    """Corners (n, 3) in metres and triangles (m, 3) of the closed surface of a rib."""
    return _solid(rib, *_face(rib, _rings(shapely.orient_polygons(rib.shape))))


def _rings(shape: shapely.Polygon) -> list[Array]:
    """Corners of the outline and of the openings."""
    return [shapely.get_coordinates(r)[:-1] for r in (shape.exterior, *shape.interiors)]


def _solid(rib: Rib, flat: Array, face: Index, sides: Index) -> tuple[Array, Index]:
    """Both faces of a plate, the second's corners after the first's, and its walls."""
    half, count = rib.thickness / 2, len(flat)
    if rib.bend is None:
        at, off = rib.places(flat), rib.normal * half
        both = np.vstack([at - off, at + off])
    else:
        both = np.vstack([rib.bend.places(flat, -half), rib.bend.places(flat, half)])
    own, ahead = sides.T
    walls = [
        np.stack([own, ahead, ahead + count], 1),
        np.stack([own, ahead + count, own + count], 1),
    ]
    return both, np.concatenate([face[:, ::-1], face + count, *walls])


def _face(rib: Rib, rings: list[Array]) -> tuple[Array, Index, Index]:
    """Corners (n, 2), triangles (m, 3) and sides (k, 2) of a plate, counter-clockwise; those of a
    bent one do not reach over the lines it is bent about."""
    if rib.bend is None:
        flat, own = np.concatenate(rings), np.arange(sum(len(r) for r in rings))
        ahead = np.concatenate(
            [np.roll(k, -1) for k in np.split(own, np.cumsum([len(r) for r in rings])[:-1])]
        )
        return flat, np.asarray(manifold3d.triangulate(rings), np.int64), np.stack([own, ahead], 1)
    outer = max(rings, key=lambda r: float(np.ptp(r[:, 0])))
    whole = shapely.Polygon(outer, [r for r in rings if r is not outer])
    corners = []
    for piece in _parted(whole, rib.bend.at[1:-1]):
        own_rings = _rings(shapely.orient_polygons(piece))
        corners.append(
            np.concatenate(own_rings)[np.asarray(manifold3d.triangulate(own_rings), np.int64)]
        )
    corner = np.concatenate(corners).reshape(-1, 2)
    one, index = np.unique(corner[:, 0] + 1j * corner[:, 1], return_inverse=True)
    face = index.reshape(-1, 3)
    # Sides are those of one triangle only.
    edges = np.concatenate([face[:, [0, 1]], face[:, [1, 2]], face[:, [2, 0]]])
    key = edges.min(axis=1) * len(one) + edges.max(axis=1)
    _, first, count = np.unique(key, return_index=True, return_counts=True)
    return np.column_stack([one.real, one.imag]), face, edges[first[count == 1]]


def _parted(shape: shapely.Polygon, at: Array) -> list[shapely.Polygon]:
    """A plate parted along upright lines at x = ``at`` (n,); parts that share a line share all
    corners on it."""
    low_x, low_y, high_x, high_y = shape.bounds
    at = at[(at > low_x) & (at < high_x)]
    ends = np.stack(
        [np.column_stack([at, np.full(len(at), y)]) for y in (low_y - 1, high_y + 1)], axis=1
    )
    lines: Any = shapely.linestrings(ends)
    noded = shapely.union_all([shape.boundary, *lines])
    faces: Any = shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))
    shapely.prepare(shape)
    return list(faces[shapely.contains(shape, shapely.point_on_surface(faces))])
