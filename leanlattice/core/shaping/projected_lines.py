"""Lines carried onto a shape."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.lines import Line
from ..geometry.meshes import Body
from ..geometry.meshsurface import MeshSurface
from ..geometry.projected import picture_axes
from ..geometry.rays import first_hits
from ..geometry.surfaces import Surface
from .facets import facets

__all__ = ["carried_onto"]

Array = NDArray[np.float64]
Found = tuple[Array, NDArray[np.bool_]]
SAMPLES = 200
"""Places along a line that are carried, besides its own."""
HALVINGS = 24
"""How often the stretch in which a line leaves the shape is halved."""
ROUNDS, FLAT, CLOSE = 5, 1e-3, 1e-9
"""How often places are moved on to a curved surface, the least of its slope that counts, and metres
that are nothing."""
BESIDE = 1e-6
"""Metres beside which triangles are looked at."""


def carried_onto(line: Line, shape: Surface | Body, way: Array | None) -> list[tuple[Array, Array]]:
    """Places (n, 3) on a shape and normals (n, 3) there, of each stretch of a line that meets it:
    along the unit direction ``way`` (3,), onward or else back, and without one the shortest way.
    """
    onto = _nearest(shape) if way is None else _along(shape, way)
    run = np.unique(np.concatenate([np.linspace(0.0, line.length, SAMPLES + 1), line.run]))
    places, met = onto(line.at(run))
    out = []
    changes = np.flatnonzero(np.diff(met.astype(int))) + 1
    for rows in np.split(np.arange(len(run)), changes):
        if not met[rows[0]]:
            continue
        stretch = [places[rows]]
        if rows[0] > 0:
            stretch.insert(0, _last_met(line, onto, run[rows[0]], run[rows[0] - 1]))
        if rows[-1] + 1 < len(run):
            stretch.append(_last_met(line, onto, run[rows[-1]], run[rows[-1] + 1]))
        at = np.vstack(stretch)
        if len(at) > 1:
            out.append((at, _normals(shape, at)))
    return out


def _last_met(line: Line, onto: Callable[[Array], Found], met: float, missed: float) -> Array:
    """The last place (1, 3) on the shape between a place of a line that meets it and one that does
    not, both by how far along they are."""
    best = onto(line.at(np.array([met])))[0]
    for _ in range(HALVINGS):
        middle = (met + missed) / 2
        place, found = onto(line.at(np.array([middle])))
        if found[0]:
            met, best = middle, place
        else:
            missed = middle
    return best


def _along(shape: Surface | Body, way: Array) -> Callable[[Array], Found]:
    mesh = facets(shape).mesh
    axes = picture_axes(way)
    seen = (mesh.vertices @ axes.T)[mesh.triangles]
    low, high = seen.min(axis=1), seen.max(axis=1)

    def onto(places: Array) -> Found:
        at = places @ axes.T
        # Of the triangles those that lie where the places are seen.
        near = ((low <= at.max(axis=0) + BESIDE) & (high >= at.min(axis=0) - BESIDE)).all(axis=1)
        triangles = mesh.triangles[near]
        ways = np.tile(way, (len(places), 1))
        onward = first_hits(mesh.vertices, triangles, places, ways)
        back = first_hits(mesh.vertices, triangles, places, -ways)
        far = np.where(np.isfinite(onward), onward, -back)
        met = np.isfinite(far)
        at = places + np.where(met, far, 0.0)[:, None] * way
        # Faces that are all there is of a shape are met where they are.
        is_smooth = isinstance(shape, Surface) and not isinstance(shape, MeshSurface)
        if isinstance(shape, Surface) and is_smooth and met.any():
            at[met] = _on_surface(shape, at[met], way)
        return at, met

    return onto


def _on_surface(surface: Surface, at: Array, way: Array) -> Array:
    """Places (n, 3) moved along a ``way`` onto a surface that is near, by Newton's steps to its
    tangent planes."""
    for _ in range(ROUNDS):
        uv = surface.closest(at)
        normals = surface.normals(uv)
        slope = normals @ way
        slope = np.where(np.abs(slope) < FLAT, np.inf, slope)
        off = np.einsum("ij,ij->i", surface.points(uv) - at, normals) / slope
        at = at + off[:, None] * way
        if np.abs(off).max(initial=0.0) < CLOSE:
            break
    return at


def _nearest(shape: Surface | Body) -> Callable[[Array], Found]:
    def onto(places: Array) -> Found:
        if isinstance(shape, Surface):
            at = shape.points(shape.closest(places))
        else:
            search = shape.mesh.search
            triangle, share, _ = search.nearest(places)
            at = search.places(triangle, share)
        return at, np.ones(len(places), bool)

    return onto


def _normals(shape: Surface | Body, at: Array) -> Array:
    if isinstance(shape, Surface):
        return shape.normals(shape.closest(at))
    drawn = facets(shape)
    return np.asarray(drawn.normals[scipy.spatial.cKDTree(drawn.points).query(at)[1]])
