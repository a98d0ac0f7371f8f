"""A module of one's own: lines drawn in one bay, joined with their repeats and turned into points
and cells."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from .modules import Cell, Module

__all__ = ["DrawnModule", "ModuleError", "module_of_lines"]

Array = NDArray[np.float64]
REACH = 2
"""Repeats laid on every side of the bay: cells may reach so far."""
FINE = 1e-7
STRAIGHT = 1e-4
MOST_POINTS = 400


class ModuleError(ValueError):
    """Lines that make no pattern, in a sentence."""


@dataclass(frozen=True)
class DrawnModule:
    """The module, and where (n, 2), in bays, lines end without leading to another."""

    module: Module
    loose: Array


def module_of_lines(lines: list[Array], near: float = 0.02) -> DrawnModule:
    """Module of lines (n, 2 each) counted in bays, repeated across and along by 1.

    Ends that lie within ``near`` of another end or line, of a repeat as well, are joined to it.
    Lines that bound no cell are left out. Raises ``ModuleError`` where the lines and their repeats
    do not divide the plane into bounded cells.
    """
    if not lines:
        raise ModuleError(
            "There are no lines in the bay; draw some that lead from border to border."
        )
    if sum(len(p) for p in lines) > MOST_POINTS:
        raise ModuleError(
            f"The lines have more than {MOST_POINTS} points; draw the bay with fewer or straighter ones."
        )
    joined = _ends_on_lines(_ends_joined(lines, near), near)
    parts = shapely.node(shapely.set_precision(shapely.multilinestrings(_repeated(joined)), FINE))
    cells, cuts, dangles, _ = (
        shapely.get_parts(g) for g in shapely.polygonize_full(shapely.get_parts(parts).tolist())
    )
    loose: Any = shapely.get_coordinates(np.concatenate([cuts, dangles]))
    loose = loose[np.all((loose >= -FINE) & (loose < 1 - FINE), axis=1)]
    middle = shapely.get_coordinates(shapely.centroid(cells))
    own = cells[np.all(np.floor(middle + 1e-5) == 0, axis=1)]
    if abs(shapely.area(own).sum() - 1) > 1e-4:
        raise ModuleError(
            "The lines and their repeats do not divide the plane into closed cells; draw more, matching at the borders."
        )
    if shapely.get_num_interior_rings(own).any():
        raise ModuleError(
            "A closed line lies free within a cell; join it to the others with a line."
        )
    return DrawnModule(_module(own), np.unique(np.round(loose, 4), axis=0))


def _joined_points(points: Array, near: float) -> Array:
    """Points (n, 2), those within ``near`` of each other, repeats counted, moved onto the first of
    them."""
    wrapped = points % 1.0
    wrapped[wrapped >= 1.0] = 0.0
    pairs = scipy.spatial.cKDTree(wrapped, boxsize=np.ones(2)).query_pairs(
        near, output_type="ndarray"
    )
    graph = scipy.sparse.coo_array(
        (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points))
    )
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    first = np.full(group.max() + 1, len(points))
    np.minimum.at(first, group, np.arange(len(points)))
    to = wrapped[first[group]]
    return np.asarray(to + np.round(points - to))


def _ends_joined(lines: list[Array], near: float) -> list[Array]:
    ends = np.concatenate([p[[0, -1]] for p in lines])
    # What lies at the border lies on it.
    ends = np.where(np.abs(ends - np.round(ends)) < near, np.round(ends), ends)
    moved = _joined_points(ends, near)
    out = []
    for k, p in enumerate(lines):
        q = p.copy()
        q[0], q[-1] = moved[2 * k], moved[2 * k + 1]
        out.append(q)
    return out


def _ends_on_lines(lines: list[Array], near: float) -> list[Array]:
    """Ends that stop short of a line, or just cross it, moved onto it."""
    steps = [(i, j) for i in (-1, 0, 1) for j in (-1, 0, 1)]
    segments = np.concatenate(
        [np.stack([p[:-1], p[1:]], axis=1) + np.array(s, float) for p in lines for s in steps]
    )
    straight: Any = shapely.linestrings(segments)
    tree = shapely.STRtree(straight)
    out = []
    for p in lines:
        q = p.copy()
        for k in (0, -1):
            near_by = tree.query(shapely.Point(q[k]), predicate="dwithin", distance=near)
            ends_here = np.linalg.norm(segments[near_by] - q[k], axis=2).min(axis=1) < FINE
            rest = near_by[~ends_here]
            if not len(rest):
                continue
            foot: Any = shapely.line_interpolate_point(
                tree.geometries[rest],
                shapely.line_locate_point(tree.geometries[rest], shapely.Point(q[k])),
            )
            at = shapely.get_coordinates(foot)
            q[k] = at[np.argmin(np.linalg.norm(at - q[k], axis=1))]
        out.append(q)
    return out


def _repeated(lines: list[Array]) -> list[Any]:
    steps = [
        np.array([i, j], float) for i in range(-REACH, REACH + 1) for j in range(-REACH, REACH + 1)
    ]
    return [shapely.LineString(p + s) for s in steps for p in lines]


def _module(cells: NDArray[np.object_]) -> Module:
    rings = [shapely.get_coordinates(shapely.get_exterior_ring(c))[:-1] for c in cells]
    rings = [
        r if shapely.is_ccw(shapely.get_exterior_ring(c)) else r[::-1]
        for r, c in zip(rings, cells, strict=True)
    ]
    flat = np.concatenate(rings)
    wrapped = flat % 1.0
    wrapped[wrapped > 1.0 - 1e-6] = 0.0
    pairs = scipy.spatial.cKDTree(wrapped, boxsize=np.ones(2)).query_pairs(
        1e-5, output_type="ndarray"
    )
    graph = scipy.sparse.coo_array(
        (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(flat), len(flat))
    )
    name = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    # A point where just two cells meet, in one straight line, is none of the pattern's.
    offsets = np.concatenate([[0], np.cumsum([len(r) for r in rings])])
    bend = np.concatenate([_bends(r) for r in rings])
    kept = (np.bincount(name) > 2) | (np.bincount(name, bend) > 0)
    first = np.unique(name, return_index=True)[1]
    number = np.cumsum(kept) - 1
    points = wrapped[first[kept]]
    out: list[Cell] = []
    for c, ring in enumerate(rings):
        names = name[offsets[c] : offsets[c + 1]]
        rows = np.flatnonzero(kept[names])
        step = np.round(ring[rows] - points[number[names[rows]]]).astype(int)
        out.append(
            tuple(
                (int(number[n]), int(i), int(j))
                for n, (i, j) in zip(names[rows], step, strict=True)
            )
        )
    return Module(tuple((float(x), float(y)) for x, y in points), tuple(out))


def _bends(ring: Array) -> NDArray[np.bool_]:
    """Whether a ring turns at each of its points."""
    a, b = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    cross = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return np.abs(cross) > STRAIGHT * np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
