"""Cells drawn inward: openings with rounded corners and the ring about them; pyramids and
coffers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..geometry.polygons import best_planes
from .fans import cell_of_half_edges, following, preceding, ragged
from .rebuilt import rebuilt
from .spots import middles, unwrapped

__all__ = ["Inset", "Outlines", "inner_outlines", "inset", "raised", "reaches"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Inset:
    """A net with its cells drawn inward. ``shrunk`` are the cells whose distance was made smaller
    to fit, ``clamped`` the places (n, 3) of corners whose radius was, ``inner`` (C',) the cells of
    the net that are the drawn-in ones."""

    net: Net
    shrunk: Index
    clamped: Array
    inner: NDArray[np.bool_]


def _flat_corners(net: Net) -> tuple[Array, Array, Array, Array]:
    """Corners (H, 2) in their cells' best planes, with the origins (C, 3) and the axes (C, 3) of
    these."""
    centres, normals = best_planes(net.vertices, net.corners, net.offsets)
    first = net.vertices[net.corners[net.offsets[:-1]]] - centres
    x = first - np.einsum("ij,ij->i", first, normals)[:, None] * normals
    x /= np.maximum(np.linalg.norm(x, axis=1, keepdims=True), 1e-300)
    y = np.cross(normals, x)
    cell = cell_of_half_edges(net)
    d = net.vertices[net.corners] - centres[cell]
    flat = np.column_stack([np.einsum("ij,ij->i", d, x[cell]), np.einsum("ij,ij->i", d, y[cell])])
    return flat, centres, x, y


def inset(
    net: Net,
    share: float | Array | None,
    distance: float | None,
    radius: float,
    arc: int = 4,
    keep: bool = True,
    wanted: NDArray[np.bool_] | None = None,
) -> Inset:
    """The ``wanted`` cells (all, if not given) of a ``net`` drawn inward.

    By a ``share`` of the way to their middle, one for all or one a cell (C,), or by a ``distance``
    (m) from their sides; their corners are rounded by ``radius`` (m) in ``arc`` steps, and the ring
    about each becomes one cell a side. Without ``keep`` the inner cells are left out, as openings.

    A distance beyond 0.95 of the cell's inner radius, and a radius that would use up more than nine
    tenths of half a side, are made smaller. The inner outline lies in the cell's best plane; cells
    must be convex for a distance to hold.
    """
    cell, after = cell_of_half_edges(net), following(net)
    chosen = np.ones(net.cell_count, bool) if wanted is None else wanted
    counts = np.diff(net.offsets)
    drawn = inner_outlines(net, share, distance, radius, arc)
    places, clamped = drawn.places, drawn.clamped
    shrunk = drawn.shrunk[chosen[drawn.shrunk]]
    per = places.shape[1]
    in_use = chosen[cell]
    number = len(net.vertices) + (np.cumsum(in_use) - 1)[:, None] * per + np.arange(per)
    half = per // 2
    rows = np.flatnonzero(in_use)
    # Along a side: from its start to its end outside, then back inside from the middle of one
    # corner's arc to the other's.
    back = np.hstack([number[after[rows], : half + 1][:, ::-1], number[rows, half:][:, ::-1]])
    ring = np.hstack([net.corners[rows][:, None], net.corners[after[rows]][:, None], back])
    parts = [(net.corners[~in_use], counts[~chosen]), (ring, np.full(len(ring), ring.shape[1]))]
    if keep:
        parts.append((number[rows], counts[chosen] * per))
    corners, offsets = ragged(parts)
    if net.surface.pieced:
        inner_uv = net.surface.closest(places[rows].reshape(-1, 3))
    else:
        inner_uv = np.repeat(
            _inner_uv(net, cell, 0.3 if share is None else share)[rows], per, axis=0
        )
    uv = np.vstack([net.uv, inner_uv])
    made = rebuilt(
        net, np.vstack([net.vertices, places[rows].reshape(-1, 3)]), uv, corners, offsets
    )
    is_inner = np.zeros(made.cell_count, bool)
    if keep:
        is_inner[made.cell_count - int(chosen.sum()) :] = True
    return Inset(made, shrunk, places[:, half][clamped & in_use], is_inner)


class Outlines(NamedTuple):
    """Outlines within cells: ``places`` (H, n, 3) in place of each corner. ``shrunk`` are the cells
    whose distance was made smaller to fit, ``clamped`` (H,) tells of which corners the radius
    was."""

    places: Array
    shrunk: Index
    clamped: NDArray[np.bool_]


def inner_outlines(
    net: Net, share: float | Array | None, distance: float | None, radius: float, arc: int = 4
) -> Outlines:
    """Outlines that lie within the cells of a net, in their best planes; what has to give way does,
    as with ``inset``.

    Parameters
    ----------
    net : whose cells they lie in
    share : of the way in to the middle, one for all or one a cell (C,), if it is that
    distance : from the sides, in metres, otherwise
    radius : of their corners, in metres
    arc : steps of these
    """
    cell, after, before = cell_of_half_edges(net), following(net), preceding(net)
    flat, centres, x, y = _flat_corners(net)
    shrunk = np.zeros(0, np.int32)
    if share is not None:
        middle = np.add.reduceat(flat, net.offsets[:-1], axis=0)
        middle /= np.diff(net.offsets)[:, None]
        inner = flat + _each(share, cell) * (middle[cell] - flat)
    else:
        inner, shrunk = _offset(net, flat, float(distance or 0.0), cell, after, before)
    points, clamped = _rounded(inner, radius, arc, net, after, before)
    places = (
        centres[cell][:, None]
        + points[..., :1] * x[cell][:, None]
        + points[..., 1:] * y[cell][:, None]
    )
    return Outlines(places, shrunk, clamped)


def _each(share: float | Array, cell: Index) -> Array:
    """The share of every corner's cell (H, 1)."""
    return np.broadcast_to(share, int(cell.max(initial=-1)) + 1)[cell][:, None]


def _inner_uv(net: Net, cell: Index, share: float | Array) -> Array:
    """Parameters (H, 2) near the inner corners, for the shape's normals there."""
    centre = middles(net)[cell]
    corner = unwrapped(net.surface, net.uv[net.corners], centre)
    out = corner + _each(share, cell) * (centre - corner)
    for axis, closed in enumerate((net.surface.closed_u, net.surface.closed_v)):
        if closed:
            out[:, axis] %= 1.0
    return np.asarray(out)


def reaches(net: Net) -> Array:
    """Radii (C,) in metres of the largest circles about the middles of cells that stay within
    them, in their best planes; below 0 where a middle lies outside."""
    return _rooms(net, _flat_corners(net)[0], cell_of_half_edges(net), following(net))[2]


def _rooms(net: Net, flat: Array, cell: Index, after: Index) -> tuple[Array, Array, Array]:
    """Unit directions (H, 2) inward from sides, the middle (H, 2) of each one's cell, and the least
    distance (C,) from middles to sides."""
    step = flat[after] - flat
    length = np.maximum(np.linalg.norm(step, axis=1), 1e-300)
    inward = np.column_stack([-step[:, 1], step[:, 0]]) / length[:, None]
    middle = (np.add.reduceat(flat, net.offsets[:-1], axis=0) / np.diff(net.offsets)[:, None])[cell]
    away = np.einsum("ij,ij->i", middle - flat, inward)
    return inward, middle, np.minimum.reduceat(away, net.offsets[:-1])


def _offset(
    net: Net, flat: Array, distance: float, cell: Index, after: Index, before: Index
) -> tuple[Array, Index]:
    """Corners (H, 2) moved so that every side lies ``distance`` further in, and the cells for which
    less had to do."""
    step = flat[after] - flat
    inward, middle, room = _rooms(net, flat, cell, after)
    d = np.minimum(distance, 0.95 * np.maximum(room, 0.0))
    a, b = inward[before], inward
    size = np.maximum(1 + np.einsum("ij,ij->i", a, b), 1e-3)
    moved = flat + d[cell][:, None] * (a + b) / size[:, None]
    # Where short sides would run backward, towards the middle until none does.
    back = np.einsum("ij,ij->i", moved[after] - moved, step) <= 0
    crowded = np.zeros(net.cell_count, bool)
    crowded[cell[back]] = True
    share = np.clip(d / np.maximum(room, 1e-300), 0.0, 0.95)[cell]
    moved = np.where(crowded[cell][:, None], flat + share[:, None] * (middle - flat), moved)
    return moved, np.flatnonzero((d < distance - 1e-12) | crowded).astype(np.int32)


def _rounded(
    inner: Array, radius: float, arc: int, net: Net, after: Index, before: Index
) -> tuple[Array, NDArray[np.bool_]]:
    """Points (H, arc + 1, 2) in place of each inner corner, and the corners whose radius was made
    smaller."""
    if radius <= 0:
        return inner[:, None], np.zeros(len(inner), bool)
    to_next, to_last = inner[after] - inner, inner[before] - inner
    length_next = np.maximum(np.linalg.norm(to_next, axis=1), 1e-300)
    length_last = np.maximum(np.linalg.norm(to_last, axis=1), 1e-300)
    a, b = to_last / length_last[:, None], to_next / length_next[:, None]
    angle = np.arccos(np.clip(np.einsum("ij,ij->i", a, b), -1.0, 1.0))
    half = np.maximum(angle / 2, 1e-3)
    # Where a tangent begins; straight corners need none.
    most = 0.45 * np.minimum(length_next, length_last)
    cut = np.minimum(radius / np.tan(half), most)
    clamped = (radius / np.tan(half) > most + 1e-12) & (angle < np.pi - 1e-3)
    r = cut * np.tan(half)
    bisector = a + b
    bisector /= np.maximum(np.linalg.norm(bisector, axis=1, keepdims=True), 1e-300)
    centre = inner + bisector * (r / np.sin(half))[:, None]
    start = inner + a * cut[:, None] - centre
    turn = np.linspace(0.0, 1.0, arc + 1)[None, :] * (np.pi - angle)[:, None]
    c, s = np.cos(turn), np.sin(turn)
    points = (
        np.stack(
            [c * start[:, :1] - s * start[:, 1:], s * start[:, :1] + c * start[:, 1:]], axis=-1
        )
        + centre[:, None]
    )
    straight = angle > np.pi - 1e-3
    even = np.linspace(-1.0, 1.0, arc + 1)[None, :, None] * (cut * 0.5)[:, None, None] * b[:, None]
    return np.where(straight[:, None, None], inner[:, None] + even, points), clamped


def raised(net: Net, depth: Array, top: float) -> Net:
    """Pyramids over all cells, ``depth`` (C,) in metres towards the outside, or coffers whose upper
    outline is the share ``top`` of the cell; 0 makes an apex. It knows what it was raised from."""
    cell = cell_of_half_edges(net)
    if top > 0:
        made = inset(net, 1.0 - top, None, 0.0)
        vertices = made.net.vertices.copy()
        normals = _cell_normals(net)
        sizes = np.diff(made.net.offsets)[made.inner]
        corner = made.net.corners[np.repeat(made.inner, np.diff(made.net.offsets))]
        vertices[corner] += np.repeat(depth[:, None] * normals, sizes, axis=0)
        whole = rebuilt(made.net, vertices, made.net.uv, made.net.corners, made.net.offsets)
        # The rings about tops come first, side by side, and then these.
        return replace(
            whole, raised_from=np.append(cell, np.arange(net.cell_count, dtype=np.int32))
        )
    apex = net.cell_means + depth[:, None] * _cell_normals(net)
    triangles = np.column_stack(
        [net.corners, net.corners[following(net)], len(net.vertices) + cell]
    )
    corners, offsets = ragged([(triangles, np.full(len(triangles), 3))])
    places, uv = np.vstack([net.vertices, apex]), np.vstack([net.uv, middles(net)])
    return replace(rebuilt(net, places, uv, corners, offsets), raised_from=cell)


def _cell_normals(net: Net) -> Array:
    return best_planes(net.vertices, net.corners, net.offsets)[1]
