"""Lines along which planes cut the faces of a shape, as smooth paths."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..geometry.drawing import cubics_through
from ..geometry.line_sets import linked_runs
from ..geometry.meshes import Mesh
from ..geometry.paths import Frame2, LinePiece, Path, Piece
from ..geometry.surfaces import Surface

__all__ = ["cut_lines", "cut_polylines", "smooth_path"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
Onto = Callable[[Array, bool], Array]
"""Moves places of a run onto what its polyline stands for; whether its ends are free to move."""
CORNER = np.cos(np.radians(25.0))
"""Where a line turns by more from one piece to the next it has a corner."""
STRAIGHT = 1e-4
"""Metres by which a run may be off its chord and still be straight."""
SHORT = 1e-7
"""Metres below which two places of a line are one."""
ROUNDS, FLAT = 4, 0.01
"""How often places are moved towards a surface, and the least of its slope (squared) that counts."""
FEWEST, MOST = 16, 160
"""Places that a smooth run is led through."""


def cut_lines(mesh: Mesh, frame: Frame2, surface: Surface | None = None) -> list[Path]:
    """Paths in a plane along which it cuts a ``mesh``, the longest first.

    Faces that stand for a curved shape give many short pieces: runs between corners are led
    through places on them, evenly spaced, as cubics; where the ``surface`` they stand for is given,
    through places on it.
    """

    def onto(line: Array, free: bool) -> Array:
        return line if surface is None else _on_both(surface, frame, line, free)

    paths = [smooth_path(line, closed, onto) for line, closed in cut_polylines(mesh, frame)]
    return sorted((p for p in paths if p.length > SHORT), key=lambda p: -p.length)


def _on_both(surface: Surface, frame: Frame2, line: Array, free: bool) -> Array:
    """Places (n, 2) of a plane that lie on a surface as well, near those of a line, by Newton's
    steps within the plane towards the surface's tangent planes. Its ends stay, where they are not
    ``free``, as others begin there."""
    out = line.copy()
    axes = np.column_stack([frame.x, frame.y])
    for _ in range(ROUNDS):
        places = frame.lifted(out)
        uv = surface.closest(places)
        normals = surface.normals(uv)
        off = np.einsum("ij,ij->i", surface.points(uv) - places, normals)
        flat = normals @ axes
        out = out + (off / np.maximum(np.einsum("ij,ij->i", flat, flat), FLAT))[:, None] * flat
    if not free:
        out[[0, -1]] = line[[0, -1]]
    return out


def cut_polylines(mesh: Mesh, frame: Frame2) -> list[tuple[Array, bool]]:
    """Places (n, 2) in the axes of a plane of each line along which it cuts triangles, and whether
    the line is closed; a closed one does not repeat its first place.

    A vertex in the plane counts as above it, so that every edge is crossed once or not.
    """
    height = (mesh.vertices - frame.origin) @ frame.normal
    above = height >= 0
    triangles = mesh.triangles
    crossed = triangles[above[triangles].any(axis=1) & ~above[triangles].all(axis=1)]
    if not len(crossed):
        return []
    # Of each triangle that is cut two edges are; each edge by the numbers of its ends.
    sides = np.stack([crossed, np.roll(crossed, -1, axis=1)], axis=2)
    is_cut = above[sides[:, :, 0]] != above[sides[:, :, 1]]
    pairs = np.sort(sides[is_cut], axis=1)
    edges, which = np.unique(pairs, axis=0, return_inverse=True)
    low, high = height[edges[:, 0]], height[edges[:, 1]]
    share = (low / (low - high))[:, None]
    a, b = mesh.vertices[edges[:, 0]], mesh.vertices[edges[:, 1]]
    flat = frame.flattened(a + share * (b - a))
    return [
        (flat[nodes], closed) for nodes, closed in linked_runs(which.reshape(-1, 2), len(edges))
    ]


def smooth_path(line: Array, closed: bool, onto: Onto = lambda line, free: line) -> Path:
    """A path through a polyline (n, 2): straight where that is, smooth between its corners; the
    places it is led through there are moved ``onto`` what the polyline stands for."""
    line = _without_repeats(line, closed)
    if len(line) < 2:
        return Path((LinePiece(line[0], line[0]),), False)
    corners = _corners(line, closed)
    if closed and not len(corners):
        ring = np.vstack([line, line[:1]])
        return cubics_through(onto(_even(ring), True)[:-1], True)
    if closed:
        line = np.roll(line, -corners[0], axis=0)
        line = np.vstack([line, line[:1]])
        stops = [*(corners - corners[0]).tolist(), len(line) - 1]
    else:
        stops = [0, *corners.tolist(), len(line) - 1]
    is_free = not closed and len(stops) == 2
    runs = [line[a : b + 1] for a, b in pairwise(stops)]
    pieces = [piece for run in runs for piece in _run(run, onto, is_free)]
    return Path(tuple(pieces), closed)


def _without_repeats(line: Array, closed: bool) -> Array:
    kept = np.ones(len(line), bool)
    kept[1:] = np.linalg.norm(np.diff(line, axis=0), axis=1) > SHORT
    line = line[kept]
    if closed and len(line) > 1 and np.linalg.norm(line[-1] - line[0]) <= SHORT:
        return line[:-1]
    return line


def _corners(line: Array, closed: bool) -> Index:
    """Places (k,) at which a polyline turns sharply."""
    ring = np.vstack([line[-1:], line, line[:1]]) if closed else line
    ways = np.diff(ring, axis=0)
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    turns = np.einsum("ij,ij->i", ways[1:], ways[:-1]) < CORNER
    return np.flatnonzero(turns) + (0 if closed else 1)


def _run(line: Array, onto: Onto, free: bool) -> tuple[Piece, ...]:
    """Pieces along a polyline without corners."""
    chord = line[-1] - line[0]
    length = float(np.linalg.norm(chord))
    aside = np.array([-chord[1], chord[0]]) / max(length, 1e-300)
    if len(line) < 3 or np.abs((line - line[0]) @ aside).max() < STRAIGHT:
        return (LinePiece(line[0], line[-1]),)
    return cubics_through(onto(_even(line), free)).pieces


def _even(line: Array) -> Array:
    """Places evenly spaced along a polyline, from its first to its last."""
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    count = int(np.clip(2 * len(line), FEWEST, MOST))
    at = np.linspace(0.0, run[-1], count + 1)
    return np.column_stack([np.interp(at, run, line[:, k]) for k in (0, 1)])
