"""Closed curves made of others: the regions between lines, and bands about them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon
from ..geometry.meshes import weld
from ..geometry.paths import ArcPiece, LinePiece, Path, Piece
from .pathcuts import crossings, split_at
from .pathwork import offset

__all__ = ["band", "regions"]

Array = NDArray[np.float64]
SNAPPED = 1e-7
"""Ends nearer than this share of the whole are one."""


def regions(paths: Sequence[Path], tolerance: float) -> list[Path]:
    """Every region that is enclosed by parts of ``paths``, as a closed path counter-clockwise; arcs
    stay arcs. What lies within a region of its own is another one, and not cut out of it.

    Paths are parted where they cross; the regions are the faces of what that gives (polygonization
    of a planar arrangement). ``tolerance`` (m) is what chords may be off where it is decided which
    parts follow each other; where paths run along each other regions are made of chords.
    """
    parts = _parts(paths)
    if not parts:
        return []
    size = max(p.size for p in paths)
    lines = [_line(p, tolerance) for p in parts]
    places, name = weld(
        np.array([end for line in lines for end in line[[0, -1]]]).reshape(-1, 2), SNAPPED * size
    )
    for k, line in enumerate(lines):
        line[0], line[-1] = places[name[2 * k]], places[name[2 * k + 1]]
    strings = [shapely.LineString(x) for x in lines]
    faces: Any = shapely.get_parts(shapely.polygonize(strings))
    noded: Any = shapely.get_parts(
        shapely.polygonize(shapely.get_parts(shapely.union_all(strings)))
    )
    if abs(shapely.area(noded).sum() - shapely.area(faces).sum()) > tolerance * size:
        # Parts that run along each other are no parts of one arrangement; their chords are.
        return [
            closed_polygon(shapely.get_coordinates(f.exterior)[:-1])
            for f in shapely.orient_polygons(noded)
        ]
    of: dict[tuple[float, ...], tuple[int, bool]] = {}
    for k, line in enumerate(lines):
        for a, b in pairwise(line.tolist()):
            of[*a, *b], of[*b, *a] = (k, True), (k, False)
    out = []
    for face in faces:
        ring = shapely.get_coordinates(shapely.orient_polygons(face).exterior).tolist()
        runs = [of[*a, *b] for a, b in pairwise(ring)]
        # The ring may begin within a part.
        first = next((i for i in range(len(runs)) if runs[i] != runs[i - 1]), 0)
        runs = runs[first:] + runs[:first]
        parted = [run for i, run in enumerate(runs) if not i or run != runs[i - 1]]
        pieces: list[Piece] = []
        for k, ahead in parted:
            pieces += (parts[k] if ahead else parts[k].reversed()).pieces
        out.append(Path(tuple(pieces), True))
    return sorted(out, key=lambda p: tuple(p.polygon(tolerance).mean(axis=0).round(6).tolist()))


def _parts(paths: Sequence[Path]) -> list[Path]:
    """The parts of all paths between their crossings with the others."""
    at: list[list[float]] = [[] for _ in paths]
    for i, one in enumerate(paths):
        for j in range(i + 1, len(paths)):
            for s, t, _ in crossings(one, paths[j]):
                at[i].append(s)
                at[j].append(t)
    return [part for path, places in zip(paths, at, strict=True) for part in split_at(path, places)]


def _line(path: Path, tolerance: float) -> Array:
    """Places along a part; one that closes ends where it starts."""
    points = path.polygon(tolerance)
    return np.vstack([points, points[:1]]) if path.closed else points.copy()


def band(path: Path, width: float, tolerance: float, round_ends: bool = False) -> list[Path]:
    """The closed curve about all that lies within half of ``width`` (m) of an open path, its ends
    square or round; of a closed one the two curves on its sides. Arcs stay arcs where the sides do
    not cross themselves."""
    half = width / 2
    if path.closed:
        return [*offset(path, half, tolerance), *offset(path, -half, tolerance)]
    left, right = offset(path, half, tolerance), offset(path, -half, tolerance)
    if len(left) == len(right) == 1 and not left[0].closed and not right[0].closed:
        there, back = left[0], right[0].reversed()
        pieces = (
            *there.pieces,
            _cap(there, back, half, round_ends),
            *back.pieces,
            _cap(back, there, half, round_ends),
        )
        made = Path(pieces, True).reversed()
        line = made.polygon(tolerance)
        if shapely.LinearRing(line).is_simple:
            return [made]
    ends: Any = "round" if round_ends else "flat"
    grown = shapely.LineString(path.polygon(tolerance)).buffer(half, cap_style=ends, quad_segs=32)
    return [
        closed_polygon(shapely.get_coordinates(g.exterior)[:-1]) for g in shapely.get_parts(grown)
    ]


def _cap(one: Path, two: Path, radius: float, is_round: bool) -> Piece:
    """What leads from the end of one side to the beginning of the other, clockwise."""
    a, b = one.pieces[-1].end, two.pieces[0].start
    if not is_round:
        return LinePiece(a, b)
    middle = (a + b) / 2
    return ArcPiece(middle, radius, float(np.arctan2(*(a - middle)[::-1])), -np.pi)
