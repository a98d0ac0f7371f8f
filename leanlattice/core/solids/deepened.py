"""Cells of a net as solids: plates, rings about openings, or one shell, whose neighbours meet on
mitres."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from ..geometry.mitres import corners_moved_in, mitres_of_faces
from ..geometry.nets import Net
from ..geometry.polygons import best_planes, vector_areas
from ..nets.fans import cell_axes, cell_of_half_edges, following, preceding, twins
from ..nets.insets import Outlines, inner_outlines
from .solids import Openings, Solids

__all__ = ["Deepened", "Depth", "Opening", "TurnedOver", "deepened"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
SHARP = 1e-3
"""Cells whose normals spread by less than this share, squared, count as one plane for a mitre."""


class TurnedOver(ValueError):
    """A face of a ``cell`` has turned over, as there is no room for its depth or its joints; the
    longest side that did has a ``length`` (m) on the net."""

    def __init__(self, cell: int, length: float) -> None:
        super().__init__("A face of a cell has turned over.")
        self.cell, self.length = cell, length


@dataclass(frozen=True, eq=False)
class Depth:
    """Metres from the net, towards its outside, to the two faces of what is made: ``high`` above
    ``low``, both along mitres, so that faces of neighbours meet at their edges."""

    high: float
    low: float


@dataclass(frozen=True, eq=False)
class Opening:
    """What is left open of cells (C): the ``share`` (C,) of the way in from the corners to their
    middle that stays, or else a frame of one ``width`` (m) along their sides; and the ``radius``
    (m) of corners in ``arc`` steps."""

    share: Array | None
    radius: float = 0.0
    arc: int = 6
    width: float = 0.0


@dataclass(frozen=True, eq=False)
class Deepened:
    """Solids of cells; ``clamped`` are places (n, 3) of corners whose radius was made smaller to
    fit, ``shrunk`` (k,) cells with no room for the width of their frame, which is less, and
    ``cells`` (B,) the cells solids are of, none where all are one shell."""

    solids: Solids
    clamped: Array
    shrunk: Index
    cells: Index


def deepened(
    net: Net,
    depth: Depth,
    material: str,
    opening: Opening | None = None,
    joint: float = 0.0,
    as_one: bool = False,
) -> Deepened:
    """Cells of a ``net`` as solids of a ``material``.

    Walls between neighbours stand on their edge along the mitres at its ends, openings are square
    to the best plane of their cell. Raises ``TurnedOver``.

    Parameters
    ----------
    net : its cells become solids
    depth : of these
    material : a name in ``MATERIALS``
    opening : what is left open of each, if anything
    joint : metres between neighbours, on the net
    as_one : whether there are no walls between neighbours, and all is one shell
    """
    base = net.vertices[net.corners] + (0.0 if as_one else _moved_in(net, joint / 2))
    mitres = _mitres(net)[net.corners]
    faces = (base + depth.high * mitres, base + depth.low * mitres)
    _check_faces(net, *faces)
    builder = _Builder(net, cell_of_half_edges(net), following(net))
    inner = _outlines(net, opening)
    openings = () if inner is None else _carried(net, inner.places, depth)
    made = builder.rings((*faces, *openings)) if openings else builder.plates(faces)
    solids = builder.joined(made, material) if as_one else builder.apart(made, material)
    _check_volumes(solids, net)
    cells = np.zeros(0, np.int32) if as_one else np.arange(net.cell_count, dtype=np.int32)
    if inner is None:
        return Deepened(solids, np.zeros((0, 3)), np.zeros(0, np.int32), cells)
    clamped = inner.places[inner.clamped].mean(axis=1)
    return Deepened(solids, clamped, inner.shrunk, cells)


def _check_volumes(solids: Solids, net: Net) -> None:
    """Raises ``TurnedOver`` where a solid is inside out."""
    if (solids.volumes <= 0).any():
        raise TurnedOver(int(np.argmin(solids.volumes)), float(net.edge_lengths.max()))


def _outlines(net: Net, opening: Opening | None) -> Outlines | None:
    """Outlines of what is left open, if anything is."""
    if opening is None:
        return None
    return inner_outlines(net, opening.share, opening.width, opening.radius, opening.arc)


def _carried(net: Net, outlines: Array, depth: Depth) -> tuple[Array, Array]:
    """Outlines (H, n, 3) carried square to their cells to both faces."""
    normals = best_planes(net.vertices, net.corners, net.offsets)[1]
    each = normals[cell_of_half_edges(net)][:, None]
    return outlines + depth.high * each, outlines + depth.low * each


def _solids(
    vertices: Array, triangles: Index, of: Index, material: str, frames: Array | None
) -> Solids:
    """Solids of triangles (T, 3).

    Parameters
    ----------
    vertices : (V, 3) in metres
    triangles : in any order
    of : (T,) the solid each is of
    material : a name in ``MATERIALS``
    frames : (B, 3, 3) of the solids, if they have any
    """
    order, counts = np.argsort(of, kind="stable"), np.bincount(of)
    return Solids(
        vertices=vertices,
        triangles=triangles[order].astype(np.int32),
        offsets=np.concatenate([[0], np.cumsum(counts)]).astype(np.int32),
        materials=(material,),
        material_of=np.zeros(len(counts), np.int32),
        frames=frames,
    )


def _mitres(net: Net) -> Array:
    """Directions (V, 3) that lead a metre away from the planes of the cells about each vertex."""
    areas = vector_areas(net.vertices, net.corners, net.offsets)
    unit = areas / np.maximum(np.linalg.norm(areas, axis=1, keepdims=True), 1e-300)
    normals = unit[cell_of_half_edges(net)]
    weights = np.ones(len(net.corners))
    return mitres_of_faces(len(net.vertices), net.corners, normals, weights, SHARP)


def _moved_in(net: Net, away: float) -> Array:
    """How corners (H, 3) move for sides beside other cells to move inward by so many metres."""
    if away <= 0:
        return np.zeros((len(net.corners), 3))
    after, before = following(net), preceding(net)
    here = net.vertices[net.corners]
    way = here[after] - here
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    normals = best_planes(net.vertices, net.corners, net.offsets)[1]
    square = np.cross(normals[cell_of_half_edges(net)], way)
    distance = np.where(net.border[net.sides], 0.0, away)
    return corners_moved_in(square, before, distance)


def _check_faces(net: Net, *faces: Array) -> None:
    """Raises ``TurnedOver`` where a side of a cell in one of the faces (H, 3) runs the other way:
    beyond a centre of curvature, or where joints take all there is."""
    after, cell = following(net), cell_of_half_edges(net)
    here = net.vertices[net.corners]
    way = here[after] - here
    for face in faces:
        turned = np.einsum("ij,ij->i", face[after] - face, way) <= 0
        if turned.any():
            length = np.where(turned, np.linalg.norm(way, axis=1), 0.0)
            longest = int(np.argmax(length))
            raise TurnedOver(int(cell[longest]), float(length[longest]))


class _Triangles(NamedTuple):
    """Vertices (V, 3), triangles (T, 3), the cell (T,) each is of, and the openings there are."""

    vertices: Array
    triangles: Index
    of: Index
    openings: Openings | None = None


class _Builder:
    """Triangles by the half-edges (H) of a net, with the ``cell`` (H,) of each and the one
    ``after`` (H,) it."""

    def __init__(self, net: Net, cell: Index, after: Index) -> None:
        self.net, self.cell, self.after = net, cell, after
        self.here = np.arange(len(cell), dtype=np.int32)

    def _walls(self, below: int) -> tuple[Index, Index]:
        """Walls between outer and inner corners, which come ``below`` so many numbers later, and
        the cell of each triangle. Those of two neighbours are parted alike."""
        here, on = self.here, self.after
        rises = (self.net.corners[here] < self.net.corners[on])[:, None]
        low, low_on = here + below, on + below
        first = np.where(
            rises, np.column_stack([here, low, low_on]), np.column_stack([here, low, on])
        )
        second = np.where(
            rises, np.column_stack([here, low_on, on]), np.column_stack([low, low_on, on])
        )
        return np.vstack([first, second]), np.tile(self.cell, 2)

    def plates(self, rims: tuple[Array, ...]) -> _Triangles:
        """Whole cells between two outlines (H, 3)."""
        count = len(self.here)
        middles = [np.add.reduceat(rim, self.net.offsets[:-1], axis=0) for rim in rims]
        middles = [m / np.diff(self.net.offsets)[:, None] for m in middles]
        top = 2 * count + self.cell
        bottom = top + self.net.cell_count
        walls, of = self._walls(count)
        faces = [
            np.column_stack([self.here, self.after, top]),
            np.column_stack([self.after + count, self.here + count, bottom]),
        ]
        owners = np.concatenate([self.cell, self.cell, of])
        return _Triangles(np.vstack([*rims, *middles]), np.vstack([*faces, walls]), owners)

    def rings(self, rims: tuple[Array, ...]) -> _Triangles:
        """Cells between two outlines (H, 3) about openings, whose two (H, n, 3) are the last."""
        count, per = len(self.here), rims[2].shape[1]
        first = 2 * count + self.here[:, None] * per + np.arange(per)
        below = count * per
        face, fans = self._face_about(first)
        # The inner corners of the lower face lie after the upper ones, its outer ones likewise.
        shifted = np.where(face >= 2 * count, face + below, face + count)
        chain = np.column_stack([first, first[self.after, 0]])
        here, on = chain[:, :-1].T.ravel(), chain[:, 1:].T.ravel()
        openings = np.vstack(
            [
                np.column_stack([here, on, on + below]),
                np.column_stack([here, on + below, here + below]),
            ]
        )
        walls, of = self._walls(count)
        owners = np.concatenate([np.tile(self.cell, 2 * fans + 2 * per), of])
        places = [rims[0], rims[1], rims[2].reshape(-1, 3), rims[3].reshape(-1, 3)]
        triangles = np.vstack([face, shifted[:, ::-1], openings, walls])
        outlines = Openings(first.ravel().astype(np.int32), per * self.net.offsets)
        return _Triangles(np.vstack(places), triangles, owners, outlines)

    def _face_about(self, first: Index) -> tuple[Index, int]:
        """The upper face between the corners of cells and the arcs ``first`` (H, n) in their place,
        and of how many triangles it is at each."""
        here, on = self.here, self.after
        fans = [np.column_stack([here, b, a]) for a, b in itertools.pairwise(first.T)]
        start_on = first[on, 0]
        fans += [
            np.column_stack([here, on, start_on]),
            np.column_stack([here, start_on, first[:, -1]]),
        ]
        return np.vstack(fans), len(fans)

    def _corners(self) -> Index:
        """The number (H,) of each corner, the same for those of cells that are side by side about a
        vertex; cells that only touch there have one each."""
        other = twins(self.net)
        inside = np.flatnonzero(other >= 0)
        beyond = other[inside]
        one = np.concatenate([inside, self.after[inside]])
        same = np.concatenate([self.after[beyond], beyond])
        count = len(self.here)
        graph = scipy.sparse.coo_array((np.ones(len(one)), (one, same)), shape=(count, count))
        found = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
        return np.asarray(found, np.int32)

    def apart(self, made: _Triangles, material: str) -> Solids:
        """Each cell by itself."""
        solids = _solids(made.vertices, made.triangles, made.of, material, cell_axes(self.net))
        return replace(solids, openings=made.openings)

    def joined(self, made: _Triangles, material: str) -> Solids:
        """All cells as one: walls are left only at the net's border."""
        vertices, triangles = made.vertices, made.triangles
        count, corner = len(self.here), self._corners()
        corners = 2 * count
        places_of = int(corner.max()) + 1
        inner = np.arange(len(vertices) - corners) + 2 * places_of
        number = np.concatenate([corner, corner + places_of, inner])
        is_wall = np.zeros(len(triangles), bool)
        is_wall[-2 * count :] = True
        at_border = np.tile(self.net.border[self.net.sides], 2)
        kept = ~is_wall
        kept[-2 * count :] = at_border
        places = np.empty((int(number.max()) + 1, 3))
        places[number] = vertices
        used, renumbered = np.unique(number[triangles[kept]], return_inverse=True)
        found = renumbered.reshape(-1, 3).astype(np.int32)
        one = _solids(places[used], found, np.zeros_like(made.of[kept]), material, None)
        openings = made.openings
        if openings is not None:
            rings = np.searchsorted(used, number[openings.rings]).astype(np.int32)
            openings = openings._replace(rings=rings)
        sides = self._sides(len(vertices), triangles)[kept]
        return replace(one, side=sides, openings=openings)

    def _sides(self, vertices: int, triangles: Index) -> Index:
        """Which side (T,) of a shell triangles are of, by positions in ``SIDES``: of vertices come
        the outer corners first, then the inner ones, and half of the others."""
        count = len(self.here)
        is_inner = np.zeros(vertices, bool)
        is_inner[count : 2 * count] = True
        is_inner[count + vertices // 2 :] = True
        inner = is_inner[triangles].sum(axis=1)
        return np.where(inner == 0, 1, np.where(inner == 3, 2, 0)).astype(np.int32)
