"""Seams by which a net is parted into pieces that can be laid flat: along rows, or so that as
little as can be is cut."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.nets import Net

__all__ = ["Room", "joined_by_least_seams", "lie_of"]

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
SPARE = 1e-9
"""Metres by which what fits may be larger."""
APART = 1e-3
"""Share of their size by which cells are drawn in before it is asked whether they lie over each
other."""


@dataclass(frozen=True)
class Room:
    """What a piece may take: ``length`` by ``width``, in metres."""

    length: float
    width: float

    def takes(self, places: Array) -> bool:
        """Whether ``places`` (n, 2) lie within it, turned as it suits them."""
        return bool(self.takes_all(np.array([shapely.MultiPoint(places)], object))[0])

    def takes_all(self, shapes: NDArray[Any]) -> Flags:
        """Whether each of ``shapes`` (n,) lies within it."""
        around = shapely.oriented_envelope(shapes)
        corners, of = shapely.get_coordinates(around, return_index=True)
        first = np.searchsorted(of, np.arange(len(shapes)))
        # Of what has no breadth the envelope is a line.
        sides = [
            np.linalg.norm(corners[first + k + 1] - corners[first + k], axis=1) for k in (0, 1)
        ]
        high, low = np.maximum(*sides), np.minimum(*sides)
        return np.asarray((high <= self.length + SPARE) & (low <= self.width + SPARE))


def lie_of(outline: Array) -> float:
    """The angle (rad) that lays an outline (n, 2) along x in the rectangle by which it fits."""
    around = shapely.get_coordinates(shapely.oriented_envelope(shapely.Polygon(outline)))
    sides = np.diff(around[:3], axis=0)
    x, y = sides[np.argmax(np.linalg.norm(sides, axis=1))]
    return float(-np.arctan2(y, x))


class _Piece:
    """Cells laid flat beside each other: ``cells`` by their numbers, ``corners`` (k, 2) of each,
    and the same drawn in a little, ``shapes``."""

    def __init__(self, cells: list[int], corners: list[Array]) -> None:
        self.cells = cells
        self.corners = corners
        self.shapes = np.array([_drawn_in(c) for c in corners], object)

    def moved(self, turn: Array, at: Array) -> _Piece:
        return _Piece(self.cells, [c @ turn + at for c in self.corners])


def _drawn_in(corners: Array) -> shapely.Polygon:
    middle = corners.mean(axis=0)
    return shapely.Polygon(middle + (corners - middle) * (1 - APART))


def joined_by_least_seams(
    net: Net, flat: list[Array], among: Flags, room: Room, joined: Flags
) -> Flags:
    """The edges (E,) across which cells are joined, the longest first as long as their pieces meet
    along that edge alone, lie beside each other and have ``room`` (Kruskal, 1956, on lengths).

    Parameters
    ----------
    net : whose cells are laid flat, each by itself
    flat : of each cell its corners (k, 2) in metres, as they lie
    among : (C,) the cells to be joined
    room : for each piece
    joined : (E,) edges across which others are joined already
    """
    pieces = {c: _Piece([c], [flat[c]]) for c in np.flatnonzero(among).tolist()}
    of = np.arange(net.cell_count)
    both = among[net.edge_cells].all(axis=1) & ~net.border
    out = joined.copy()
    order = np.flatnonzero(both)[np.argsort(-net.edge_lengths[both], kind="stable")]
    seam_of = _sides_by_cell(net)
    for edge in order.tolist():
        one, other = (int(of[c]) for c in net.edge_cells[edge])
        if one == other or _meet_again(edge, pieces[one], pieces[other], of, seam_of, net):
            continue
        big, small = (pieces[one], pieces[other])
        if len(big.cells) < len(small.cells):
            big, small = small, big
        placed = small.moved(*_beside(net, edge, big, small))
        places = np.vstack([*big.corners, *placed.corners])
        if not room.takes(places) or _overlap(big, placed):
            continue
        merged = _Piece(big.cells + placed.cells, big.corners + placed.corners)
        of[merged.cells] = merged.cells[0]
        pieces[merged.cells[0]] = merged
        out[edge] = True
    return out


def _sides_by_cell(net: Net) -> list[list[int]]:
    return [s.tolist() for s in np.split(net.sides, net.offsets[1:-1])]


def _meet_again(
    edge: int, one: _Piece, other: _Piece, of: NDArray[np.int64], sides: list[list[int]], net: Net
) -> bool:
    """Whether two pieces meet along more than one edge, so that one joined would leave a slit."""
    few, at = (one, other) if len(one.cells) < len(other.cells) else (other, one)
    own = int(of[at.cells[0]])
    for cell in few.cells:
        for side in sides[cell]:
            if side == edge:
                continue
            left, right = net.edge_cells[side].tolist()
            beyond = right if left == cell else left
            if beyond >= 0 and of[beyond] == own:
                return True
    return False


def _beside(net: Net, edge: int, big: _Piece, small: _Piece) -> tuple[Array, Array]:
    """The turn (2, 2) and the step (2,) that lay the ``small`` piece beside the ``big`` one."""
    there, here = _ends(net, edge, big), _ends(net, edge, small)
    way, own = there[1] - there[0], here[1] - here[0]
    size = float(own @ own)
    cosine, sine = way @ own / size, (own[0] * way[1] - own[1] * way[0]) / size
    scale = np.hypot(cosine, sine)
    turn = np.array([[cosine, sine], [-sine, cosine]]) / scale
    return turn, (there.mean(axis=0) - here.mean(axis=0) @ turn)


def _ends(net: Net, edge: int, piece: _Piece) -> Array:
    """Where the two vertices of an edge (2, 2) lie in a piece."""
    cells = net.edge_cells[edge].tolist()
    at = next(k for k, c in enumerate(piece.cells) if c in cells)
    corners = net.corners[net.offsets[piece.cells[at]] : net.offsets[piece.cells[at] + 1]].tolist()
    return np.array([piece.corners[at][corners.index(v)] for v in net.edges[edge].tolist()])


def _overlap(one: _Piece, other: _Piece) -> bool:
    return bool(shapely.intersects(one.shapes[:, None], other.shapes[None]).any())
