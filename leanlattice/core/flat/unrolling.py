"""A net on its surface laid flat with an opening in each cell, parted between cells."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.developed import laid_flat, nearest_frame
from ..geometry.nets import Net
from ..geometry.triangulation import polygon_triangles
from ..nets.rows import labelled
from ..panels.panels import Sheet
from ..results import result_type
from .lettering import LABEL_HEIGHT, NEIGHBOUR_HEIGHT, Names
from .parts import CutResult, Part
from .seams import Room
from .templates import pose_in

__all__ = ["Pierced", "Unrolled", "UnrollingError", "unrolled_net"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
MOST_TRIANGLES = 30_000
"""Triangles a surface is cut into at most."""
MOST_LEVELS = 6
"""How often each is cut in four."""
MOST_PARTS = 600
ROUND = 6
"""Chords of a quarter of a rounded corner."""
BESIDE = np.array([0.5, 0.35, 0.65, 0.2, 0.8])
"""Where along a seam a neighbour's name may stand."""
LEAST = 1e-6
"""Square metres below which an opening is none."""


class UnrollingError(ValueError):
    """What cannot be laid flat, in a sentence."""


@dataclass(frozen=True)
class Pierced:
    """Openings of cells: the ``share`` of the way from their middles to their sides that they
    reach, and the ``radius`` (m) of their corners."""

    share: float
    radius: float


@result_type("Unrolled", "unrolled sheets", "unrolled", covers=("Net", "Shape"))
@dataclass(frozen=True, eq=False)
class Unrolled(CutResult):
    """Parts (S) of a net laid flat.

    Parameters
    ----------
    parts : as they are cut
    rings : of each its outlines, the outer one first, as they stand (k, 3) in metres
    openings : (S,) how many cells of each are pierced
    stretch : (S,) by what share a length in it differs from that on the surface, at most
    neighbours : of each those it meets
    clamped : openings whose radius is smaller, as it does not fit
    large : (k,) those of one cell that is larger than there is room for
    unlabelled : (k,) those without room for all that is written on them
    """

    parts: tuple[Part, ...]
    rings: tuple[tuple[Array, ...], ...]
    openings: Index
    stretch: Array
    neighbours: tuple[tuple[int, ...], ...]
    clamped: int
    large: Index
    unlabelled: Index


def unrolled_net(
    net: Net,
    pierced: Pierced | None,
    room: Room,
    sheet: Sheet,
    progress: Callable[[float], None] = lambda share: None,
) -> Unrolled:
    """A net laid flat, lengths on its surface kept as well as can be: exactly if that can be
    unrolled.

    Parameters
    ----------
    net : in one piece, with a border
    pierced : the openings of its cells, if they have any
    room : for each part; where that is not enough it is parted between cells
    sheet : what parts are cut from
    progress : told the share done

    Raises ``UnrollingError`` where it is in several pieces, closes in itself, or would lie over
    itself.
    """
    flat = _Flat(net)
    progress(0.6)
    of = _grouped(flat, room)
    drawing = _Drawing(flat, of, pierced, sheet)
    made = [drawing.part(k) for k in range(int(of.max()) + 1)]
    return Unrolled(
        parts=tuple(one.part for one in made),
        rings=tuple(one.rings for one in made),
        openings=np.array([one.openings for one in made], np.int32),
        stretch=np.array([flat.stretch[of == k].max() for k in range(len(made))]),
        neighbours=tuple(drawing.neighbours),
        clamped=drawing.clamped,
        large=np.array([k for k, one in enumerate(made) if not _takes(room, one)], np.int32),
        unlabelled=np.array([k for k, one in enumerate(made) if not one.complete], np.int32),
    )


def _takes(room: Room, made: _Made) -> bool:
    return room.takes(made.part.outer / 1000)


class _Flat:
    """A net's surface cut into small triangles, as it stands and as it lies."""

    def __init__(self, net: Net) -> None:
        self.net = net
        _check(net)
        triangles, cell = polygon_triangles(net.vertices, net.corners, net.offsets)
        self.places, uv, self.runs = net.vertices, net.uv, net.edges
        levels = 0
        while levels < MOST_LEVELS and 4 * len(triangles) <= MOST_TRIANGLES:
            self.places, uv, triangles, self.runs = _finer(
                net, self.places, uv, triangles, self.runs
            )
            cell = np.tile(cell, 4)
            levels += 1
        self.triangles, self.cell = triangles, cell
        laid = laid_flat(self.places, triangles)
        if laid is None or len(laid.places) != len(self.places):
            raise UnrollingError(
                "This net closes like a tube, or would lie over itself; cells left out where it is "
                "to be opened would work."
            )
        self.flat = laid.places

    @cached_property
    def stretch(self) -> Array:
        """By what share (C,) lengths in cells differ from those on the surface, at most."""
        t = self.triangles
        one, other = t, np.roll(t, -1, axis=1)
        was = np.linalg.norm(self.places[one] - self.places[other], axis=2)
        now = np.linalg.norm(self.flat[one] - self.flat[other], axis=2)
        out = np.zeros(self.net.cell_count)
        np.maximum.at(out, self.cell, np.abs(now / np.maximum(was, 1e-300) - 1).max(axis=1))
        return out

    @cached_property
    def cells(self) -> list[Array]:
        """The outlines (k, 2) of all cells."""
        net, out = self.net, []
        for c in range(net.cell_count):
            at = slice(net.offsets[c], net.offsets[c + 1])
            sides, corners = net.sides[at], net.corners[at]
            starts = net.edges[sides, 0] == corners
            runs = [
                self.runs[s][:-1] if ahead else self.runs[s][:0:-1]
                for s, ahead in zip(sides.tolist(), starts.tolist(), strict=True)
            ]
            out.append(self.flat[np.concatenate(runs)])
        return out

    @cached_property
    def _tree(self) -> shapely.STRtree:
        shapes: Any = shapely.polygons(self.flat[self.triangles])
        return shapely.STRtree(shapes)

    def stand(self, flat: Array) -> Array:
        """Where places (n, 2) stand (n, 3), carried by the triangles they lie in."""
        t = self.triangles[self._tree.nearest(shapely.points(flat))]
        shares = _shares(self.flat[t], flat)
        return np.asarray(np.einsum("nk,nkj->nj", shares, self.places[t]))


def _shares(corners: Array, at: Array) -> Array:
    """Shares (n, 3) of the corners (n, 3, 2) of triangles that add up to places (n, 2)."""
    one, other = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    off = at - corners[:, 0]
    area = _cross(one, other)
    u, v = _cross(off, other) / area, _cross(one, off) / area
    return np.stack([1 - u - v, u, v], axis=1)


def _cross(one: Array, other: Array) -> Array:
    return np.asarray(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0])


def _check(net: Net) -> None:
    if not net.loops:
        raise UnrollingError(
            "This net closes in itself; cells left out where it is to be opened would work."
        )
    pieces = int(labelled(net.cell_count, net.edge_cells[~net.border]).max()) + 1
    if pieces > 1:
        raise UnrollingError(
            f"This net is in {pieces} pieces; each in a net of its own would work."
        )


def _finer(
    net: Net, places: Array, uv: Array, triangles: Index, runs: Index
) -> tuple[Array, Array, Index, Index]:
    """Each triangle in four, new places on the surface, and the ``runs`` (E, k) of places along
    the net's edges with those between."""
    count = len(places)
    ends = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2)
    known, first, inverse = np.unique(_keys(ends, count), return_index=True, return_inverse=True)
    middle_uv = uv[ends[first]].mean(axis=1)
    middle = _middles(net, places[ends[first]], middle_uv)
    a, b, c = triangles.T
    ab, bc, ca = (count + inverse.reshape(-1, 3).T).astype(np.int32)
    corners = ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))
    finer = np.vstack([np.stack(triangle, axis=1) for triangle in corners])
    longer = np.empty((len(runs), 2 * runs.shape[1] - 1), np.int32)
    steps = np.stack([runs[:, :-1], runs[:, 1:]], axis=2)
    longer[:, ::2] = runs
    longer[:, 1::2] = count + np.searchsorted(known, _keys(steps, count))
    return np.vstack([places, middle]), np.vstack([uv, middle_uv]), finer, longer


def _keys(ends: Index, count: int) -> NDArray[np.int64]:
    """One number for each pair (…, 2) of so many places, whichever comes first."""
    return np.asarray(np.sort(ends.astype(np.int64), axis=-1) @ np.array([count, 1]))


def _middles(net: Net, ends: Array, uv: Array) -> Array:
    """Places (n, 3) on the surface between ``ends`` (n, 2, 3); half-way between these where the
    shape is closed, or its parameters are others on either side, so that ``uv`` lies elsewhere."""
    chord, middle = ends.mean(axis=1), net.surface.points(uv)
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    far = np.linalg.norm(middle - chord, axis=1) > length / 2
    return np.where(far[:, None], chord, middle)


def _grouped(flat: _Flat, room: Room) -> Index:
    """The part (C,) each cell is of: as few as fit of even columns and rows of cells, each in one
    piece."""
    cells, net = flat.cells, flat.net
    low = np.array([c.min(axis=0) for c in cells])
    high = np.array([c.max(axis=0) for c in cells])
    middle = (low + high) / 2
    span = np.maximum(np.ptp(middle, axis=0), 1e-9) * (1 + 1e-9)
    for columns, rows in _divisions():
        bins = ((middle - middle.min(axis=0)) / span * [columns, rows]).astype(np.int64)
        bins = np.minimum(bins, [columns - 1, rows - 1])
        group = bins[:, 0] * rows + bins[:, 1]
        if columns * rows >= MOST_PARTS or _all_fit(group, low, high, room):
            break
    left, right = net.edge_cells[~net.border].T
    same = group[left] == group[right]
    return labelled(net.cell_count, np.stack([left[same], right[same]], axis=1))


def _divisions() -> Iterator[tuple[int, int]]:
    """Numbers of columns and rows, fewer parts first, and of as many those in fewer rows."""
    every = [(c, r) for c in range(1, MOST_PARTS + 1) for r in range(1, MOST_PARTS // c + 1)]
    yield from sorted(every, key=lambda pair: (pair[0] * pair[1], pair[1]))


def _all_fit(group: NDArray[np.int64], low: Array, high: Array, room: Room) -> bool:
    count = int(group.max()) + 1
    least, most = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    np.minimum.at(least, group, low)
    np.maximum.at(most, group, high)
    size = np.sort((most - least)[np.isfinite(least[:, 0])], axis=1)
    # Groups of one cell cannot be parted.
    several = np.bincount(group)[np.isfinite(least[:, 0])] > 1
    fits = (size[:, 0] <= room.width) & (size[:, 1] <= room.length)
    return bool((fits | ~several).all())


@dataclass(frozen=True, eq=False)
class _Made:
    part: Part
    rings: tuple[Array, ...]
    openings: int
    complete: bool


class _Drawing:
    """What is cut of the parts that cells are of (C,)."""

    def __init__(self, flat: _Flat, of: Index, pierced: Pierced | None, sheet: Sheet) -> None:
        self.flat, self.of, self.pierced, self.sheet = flat, of, pierced, sheet
        self.clamped = 0
        net = flat.net
        left, right = of[net.edge_cells].T
        self.seams = np.flatnonzero(~net.border & (left != right))
        pairs = np.stack([left, right], axis=1)[self.seams]
        self.neighbours = [
            tuple(np.unique(pairs[(pairs == k).any(axis=1)]).tolist()) for k in range(of.max() + 1)
        ]
        self.neighbours = [tuple(n for n in b if n != k) for k, b in enumerate(self.neighbours)]

    def part(self, k: int) -> _Made:
        """One part with its openings and names, in millimetres."""
        cells = np.flatnonzero(self.of == k).tolist()
        whole: Any = shapely.coverage_union_all(
            [shapely.Polygon(self.flat.cells[c]) for c in cells]
        )
        whole = shapely.orient_polygons(whole)
        openings = [ring for c in cells if (ring := self._opening(self.flat.cells[c])) is not None]
        rings = [np.asarray(whole.exterior.coords)[:-1]]
        rings += [np.asarray(hole.coords)[:-1] for hole in whole.interiors] + openings
        stand = [self.flat.stand(ring) for ring in rings]
        low = rings[0].min(axis=0)
        at, frame = nearest_frame(rings[0] - low, stand[0])
        outer, *inner = ((ring - low) * 1000 for ring in rings)
        names = self._names(k, shapely.Polygon(outer, inner), low)
        part = Part(
            label=f"UR{k + 1}",
            kind="unrolled",
            outer=outer,
            inner=tuple(inner),
            pose=pose_in(at, frame),
            material=self.sheet.material,
            thickness=self.sheet.thickness * 1000,
            marks=tuple(names.strokes),
        )
        return _Made(part, tuple(stand), len(openings), names.complete)

    def _opening(self, cell: Array) -> Array | None:
        """The opening (n, 2) of a cell, rounded as far as there is room."""
        if self.pierced is None:
            return None
        middle = np.asarray(shapely.Polygon(cell).centroid.coords[0])
        plain = shapely.Polygon(middle + self.pierced.share * (cell - middle))
        radius = self.pierced.radius
        widest = float(shapely.maximum_inscribed_circle(plain, 1e-4).length) if radius else 0.0
        if radius > 0.98 * widest:
            self.clamped += radius > 0
            radius = 0.98 * widest
        found: Any = plain.buffer(-radius, join_style="mitre").buffer(radius, quad_segs=ROUND)
        found = shapely.orient_polygons(found)
        if found.geom_type != "Polygon" or found.area < LEAST:
            return None
        return np.asarray(found.exterior.coords)[:-1]

    def _names(self, k: int, shape: shapely.Polygon, low: Array) -> Names:
        """A part's own name in its widest place, and its neighbours' along the seams."""
        names = Names(shape)
        names.write(f"UR{k + 1}", LABEL_HEIGHT, names.room()[0])
        for other in self.neighbours[k]:
            a, b = (self._seam(k, other) - low) * 1000
            way = (b - a) / np.linalg.norm(b - a)
            inward = np.array([-way[1], way[0]])
            turn = float(np.arctan2(way[1], way[0]))
            at = a + BESIDE[:, None] * (b - a)
            names.write(f"UR{other + 1}", NEIGHBOUR_HEIGHT, at, turn, 1.2 * inward)
        return names

    def _seam(self, k: int, other: int) -> Array:
        """The ends (2, 2) of an edge in the middle of those between two parts, with the first part
        on its left."""
        sides = self.of[self.flat.net.edge_cells[self.seams]]
        own = self.seams[(np.sort(sides, axis=1) == sorted((k, other))).all(axis=1)]
        edge = int(own[len(own) // 2])
        ends = self.flat.flat[self.flat.net.edges[edge]]
        return ends if self.of[self.flat.net.edge_cells[edge, 0]] == k else ends[::-1]
