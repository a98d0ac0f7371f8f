"""Bodies parted by the cells of a net: walls stand on its edges, square to it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from ..geometry.meshes import Body, mesh_of_triangles
from ..geometry.mitres import BLUNT, corners_moved_in
from ..geometry.nets import Net
from ..geometry.polygons import vector_areas
from .solids import as_body, as_solid

__all__ = ["FoldedCell", "parted_by_cells", "together"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
CRUMB = 1e-9
"""Cubic metres below which a piece is none."""


class FoldedCell(ValueError):
    """Walls meet before they have gone as far as they are to; ``cell`` is where."""

    def __init__(self, cell: int) -> None:
        super().__init__("Walls on the sides of a cell meet each other.")
        self.cell = cell


@dataclass(frozen=True, eq=False)
class _Outlines:
    """Outlines of pieces in a net: places ``at`` (V, 3) and unit ``normals`` (V, 3) there, of which
    piece i has those with the numbers ``corners[offsets[i]:offsets[i + 1]]``; ``parts`` (n,) tells
    whether another piece lies beyond the side from each corner to the next."""

    at: Array
    normals: Array
    corners: Index
    offsets: Index
    parts: NDArray[np.bool_]

    @cached_property
    def following(self) -> Index:
        """The corner (n,) after each in its piece."""
        out = np.arange(1, len(self.corners) + 1, dtype=np.int32)
        out[self.offsets[1:] - 1] = self.offsets[:-1]
        return out

    @cached_property
    def sides(self) -> tuple[Array, Array]:
        """Unit directions (n, 3), (n, 3) of the sides from corners on, and square to them into the
        piece."""
        here = self.at[self.corners]
        way = unit(here[self.following] - here)
        return way, unit(np.cross(self.normals[self.corners], way))

    def moved_in(self, away: float) -> Array:
        """How corners (n, 3) move for sides beside other pieces to move inward by so many
        metres."""
        _, square = self.sides
        distance = np.where(self.parts, away, 0.0)
        before = np.empty(len(square), np.int32)
        before[self.following] = np.arange(len(square), dtype=np.int32)
        return corners_moved_in(square, before, distance)


def _of_cells(net: Net) -> _Outlines:
    return _Outlines(net.vertices, net.normals, net.corners, net.offsets, ~net.border[net.sides])


def _beyond_border(net: Net, reach: float) -> _Outlines:
    """The outlines of cells, which at the border go on by so many metres."""
    cells = _of_cells(net)
    way_out = np.zeros_like(net.vertices)
    is_border = ~cells.parts
    _, inward = cells.sides
    ends = (net.corners[is_border], net.corners[cells.following][is_border])
    for end in ends:
        np.add.at(way_out, end, -inward[is_border])
    size = np.linalg.norm(way_out, axis=1)
    # Of two unit directions, whose sum is 2 cos(φ / 2) long, the mitre is 1 / cos(φ / 2).
    way_out *= np.where(size > 0, 2 * reach / np.maximum(size, 2 * BLUNT) ** 2, 0.0)[:, None]
    count = len(net.vertices)
    before = np.empty(len(is_border), bool)
    before[cells.following] = is_border
    # Each corner stays, is followed or gone before by the one beyond it, or gives way to that.
    rows = np.column_stack([net.corners + count, net.corners, net.corners + count])
    kept = np.column_stack([before, ~(before & is_border), is_border & ~before])
    # What leads beyond the border parts two pieces, what follows it there does not.
    none = np.zeros_like(is_border)
    parts = np.column_stack([~is_border, ~none, none])
    counts = np.add.reduceat(kept.sum(axis=1), net.offsets[:-1])
    return _Outlines(
        at=np.vstack([net.vertices, net.vertices + way_out]),
        normals=np.vstack([net.normals, net.normals]),
        corners=rows[kept].astype(np.int32),
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        parts=parts[kept],
    )


def parted_by_cells(
    body: Body,
    net: Net,
    reach: float,
    joint: float,
    beyond: bool = True,
    watch: Callable[[float], None] = lambda share: None,
) -> list[Body]:
    """What of a ``body`` lies over and under each cell (C) of a net; a body without triangles where
    nothing does.

    Walls lead from the edges along the normals at their ends. Raises ``FoldedCell`` where these
    meet within the reach, or a cell has no room for its joints.

    Parameters
    ----------
    reach : metres that walls go on to both sides of the net
    joint : metres between neighbouring pieces, half of which each gives
    beyond : whether pieces at the border go on beyond it, as far as the reach
    watch : called now and then with the share that is done; it may raise
    """
    outlines = _beyond_border(net, reach) if beyond else _of_cells(net)
    places = outlines.at[outlines.corners] + outlines.moved_in(joint / 2)
    normals = outlines.normals[outlines.corners]
    rings = [places - reach * normals, places + reach * normals]
    _check_open(outlines, [places, *rings])
    solid, out = as_solid(body), []
    for cell in range(net.cell_count):
        if cell % 20 == 0:
            watch(cell / net.cell_count)
        own = slice(outlines.offsets[cell], outlines.offsets[cell + 1])
        prism = _prism(rings[0][own], rings[1][own], outlines.corners[own])
        out.append(as_body(solid ^ prism))
    return out


def together(bodies: list[Body]) -> Body:
    """Bodies as the pieces of one, which share nothing."""
    some = [body.mesh for body in bodies if abs(body.volume) > CRUMB]
    if not some:
        return Body(mesh_of_triangles(np.zeros((0, 3)), np.zeros((0, 3), np.int32)))
    first = np.cumsum([0, *(len(mesh.vertices) for mesh in some)])
    triangles = [mesh.triangles + n for mesh, n in zip(some, first, strict=False)]
    vertices = np.vstack([mesh.vertices for mesh in some])
    return Body(mesh_of_triangles(vertices, np.vstack(triangles)))


def _check_open(outlines: _Outlines, rings: list[Array]) -> None:
    """Raises ``FoldedCell`` where one of the ``rings`` (n, 3) of a cell has turned over."""
    corners = np.arange(len(outlines.corners), dtype=np.int32)
    outward = vector_areas(outlines.at, outlines.corners, outlines.offsets)
    for ring in rings:
        area = vector_areas(ring, corners, outlines.offsets)
        turned = np.einsum("ij,ij->i", area, outward) <= 0
        if turned.any():
            raise FoldedCell(int(np.argmax(turned)))


def _prism(low: Array, high: Array, vertices: Index) -> manifold3d.Manifold:
    """What is between two rings (n, 3) of a cell; walls are parted as those of the next cell are,
    by the numbers of the ``vertices`` (n,) below them."""
    count = len(low)
    here, on = np.arange(count), (np.arange(count) + 1) % count
    rises = (vertices[here] < vertices[on])[:, None]
    # A wall's diagonal leads from the lower place of the lower vertex to the upper of the other.
    first = np.where(
        rises, np.column_stack([here, on, on + count]), np.column_stack([here, on, here + count])
    )
    second = np.where(
        rises,
        np.column_stack([here, on + count, here + count]),
        np.column_stack([on, on + count, here + count]),
    )
    middle, top = 2 * count, 2 * count + 1
    caps = [
        np.column_stack([on, here, np.full(count, middle)]),
        np.column_stack([here + count, on + count, np.full(count, top)]),
    ]
    places = np.vstack([low, high, low.mean(axis=0), high.mean(axis=0)])
    triangles = np.vstack([first, second, *caps]).astype(np.uint64)
    return manifold3d.Manifold(manifold3d.Mesh64(places, triangles))
