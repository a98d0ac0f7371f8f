"""Lines in space of straight pieces and arcs, along which members can lie."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..results import Result
from .arcs import (
    arc_lengths,
    arc_places,
    arc_with_tangent,
    nearest_shares_of_arcs,
    part_bulges,
    tangents,
    unit,
)
from .paths import ArcPiece, LinePiece, Path, Piece, PlaneCurve

__all__ = ["Line", "line_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
LARGEST_TURN = 2 * np.pi / 3
"""Most of a turn that one arc takes."""
LEVEL_PLANE = np.cos(np.radians(45))
"""What leans less than this cosine from level is a plan, on which sections stand upright."""
MOST_HALVINGS = 14
SMOOTH = 1 - 1e-6
"""Cosine between directions of pieces from which on these run on without a corner."""
SAME = 1e-9
"""Metres within which two places of a line are one."""


@dataclass(frozen=True, eq=False)
class Line(Result):
    """A line through places (n, 3) in metres.

    Parameters
    ----------
    places : (n, 3); a closed line comes back to its first place, which is its last as well
    bulge : (n − 1, 3) from the middle between two places to that of the arc; 0 where it is straight
    normals : (n, 3) unit directions outward, in which heights of sections stand
    """

    places: Array
    bulge: Array
    normals: Array

    @cached_property
    def chords(self) -> Array:
        """From place to place (n − 1, 3), in metres."""
        return np.diff(self.places, axis=0)

    @cached_property
    def run(self) -> Array:
        """How far along the line each place (n,) is, in metres."""
        return np.concatenate([[0.0], np.cumsum(arc_lengths(self.chords, self.bulge))])

    @property
    def length(self) -> float:
        """In metres."""
        return float(self.run[-1])

    @property
    def closed(self) -> bool:
        """Whether it comes back to its first place."""
        return bool(np.linalg.norm(self.places[-1] - self.places[0]) < SAME)

    def _found(self, run: Array) -> tuple[NDArray[np.int64], Array]:
        """The piece that holds each place (k,) so many metres along, and the share of it there."""
        piece = np.clip(np.searchsorted(self.run, run, "right") - 1, 0, len(self.bulge) - 1)
        lengths = np.diff(self.run)[piece]
        return piece, np.clip((run - self.run[piece]) / np.maximum(lengths, 1e-300), 0.0, 1.0)

    def at(self, run: Array) -> Array:
        """Places (k, 3) so many metres along (k,)."""
        piece, share = self._found(run)
        return arc_places(self.places[piece], self.chords[piece], self.bulge[piece], share)

    def normals_at(self, run: Array) -> Array:
        """Unit directions outward (k, 3) so many metres along (k,)."""
        piece, share = self._found(run)
        return _turned(self.normals[piece], self.normals[piece + 1], share)

    def directions_at(self, run: Array) -> Array:
        """Unit directions (k, 3) in which the line leads on, so many metres along (k,)."""
        piece, share = self._found(run)
        leaving, arriving = tangents(self.chords[piece], self.bulge[piece])
        return _turned(leaving, arriving, share)

    def nearest(self, place: Array) -> float:
        """How many metres along the line comes nearest to a ``place`` (3,)."""
        every = np.broadcast_to(place, self.chords.shape)
        share, away = nearest_shares_of_arcs(self.places[:-1], self.chords, self.bulge, every)
        piece = int(np.argmin(away))
        return float(self.run[piece] + share[piece] * (self.run[piece + 1] - self.run[piece]))

    def with_places(self, run: Array) -> Line:
        """The same line with places of its own so many metres along (k,); those it has already are
        not doubled."""
        stops, is_new = self._stops(np.clip(run, 0.0, self.length))
        piece, _ = self._found((stops[:-1] + stops[1:]) / 2)
        share = np.column_stack([stops[:-1], stops[1:]]) - self.run[piece][:, None]
        share = np.clip(share / np.diff(self.run)[piece][:, None], 0.0, 1.0)
        bulge = self.bulge[piece]
        parts = part_bulges(self.places[piece], self.chords[piece], bulge, share)
        is_whole = (share[:, 1] - share[:, 0]) > 1 - 1e-12
        places = self.at(stops)
        places[~is_new] = self.places
        return Line(places, np.where(is_whole[:, None], bulge, parts), self.normals_at(stops))

    def _stops(self, run: Array) -> tuple[Array, NDArray[np.bool_]]:
        """How far along its own places and those at ``run`` (k,) are, each once, and which of them
        are not its own."""
        every = np.concatenate([self.run, run])
        is_new = np.concatenate([np.zeros(len(self.run), bool), np.ones(len(run), bool)])
        order = np.lexsort((is_new, every))
        every, is_new = every[order], is_new[order]
        follows = np.diff(every) <= SAME
        kept = np.ones(len(every), bool)
        # Of those that are one the line's own is kept.
        kept[1:] &= ~(follows & is_new[1:])
        kept[:-1] &= ~(follows & is_new[:-1] & ~is_new[1:])
        return every[kept], is_new[kept]

    def sampled(self, tolerance: float) -> tuple[Array, Array]:
        """Places (k, 3) along the line and how far along (k,) each is, so close that chords between
        them are off it by no more than a ``tolerance`` in metres."""
        chord = np.linalg.norm(self.chords, axis=1)
        rise = np.linalg.norm(self.bulge, axis=1)
        turn = 4 * np.arctan(2 * rise / np.maximum(chord, 1e-300))
        radius = np.diff(self.run) / np.maximum(turn, 1e-300)
        step = 2 * np.arccos(np.clip(1 - tolerance / radius, -1.0, 1.0))
        counts = np.maximum(np.ceil(turn / np.maximum(step, 1e-9)), 1).astype(int)
        runs = [
            np.linspace(a, b, count, endpoint=False)
            for a, b, count in zip(self.run[:-1], self.run[1:], counts, strict=True)
        ]
        run = np.concatenate([*runs, self.run[-1:]])
        return self.at(run), run


def line_of(curve: PlaneCurve, tolerance: float, straight: bool = False) -> Line:
    """A curve on a plane as a line; true arcs stay what they are, and what bends otherwise becomes
    pairs of arcs that share their directions (Bolton, 1975), off it by no more than a ``tolerance``
    in metres.

    Where it is to be of ``straight`` pieces, chords as close to it. Sections stand in the curve's
    plane, or upright where that is level.
    """
    flat: list[tuple[Array, Array]] = []
    for stretch in _stretches(curve.path):
        flat += _arcs_of(stretch, tolerance, straight)
    points = np.array([curve.path.pieces[0].start, *(end for end, _ in flat)])
    if curve.path.closed:
        points[-1] = points[0]
    bulge = np.array([b for _, b in flat])
    places, up = curve.frame.lifted(points), np.column_stack([curve.frame.x, curve.frame.y])
    return Line(places, bulge @ up.T, _normals(curve, points, bulge))


def _normals(curve: PlaneCurve, points: Array, bulge: Array) -> Array:
    """Directions of heights (n, 3): square to a level plane, else square to the line within the
    plane, upward or, of a closed one, outward."""
    normal = curve.frame.normal
    if abs(normal[2]) > LEVEL_PLANE:
        return np.tile(normal * np.sign(normal[2]), (len(points), 1))
    leaving, arriving = tangents(np.diff(points, axis=0), bulge)
    ways = np.zeros_like(points)
    ways[:-1] += leaving
    ways[1:] += arriving
    if curve.path.closed:
        ways[0] = ways[-1] = ways[0] + ways[-1]
    left = np.column_stack([-ways[:, 1], ways[:, 0]])
    aside = left[:, :1] * curve.frame.x + left[:, 1:] * curve.frame.y
    is_outward = aside[:, 2].sum() > -SAME
    if curve.path.closed:
        is_outward = curve.path.signed_area < 0
    return unit(aside if is_outward else -aside)


def _stretches(path: Path) -> list[Piece | Path]:
    """The lines and arcs of a path, and what is smooth between them as one."""
    out: list[Piece | Path] = []
    run: list[Piece] = []
    for piece in path.pieces:
        is_free = not isinstance(piece, LinePiece | ArcPiece)
        if run and not (is_free and run[-1].tangent(1.0) @ piece.tangent(0.0) > SMOOTH):
            out.append(Path(tuple(run), False))
            run = []
        if is_free:
            run.append(piece)
        else:
            out.append(piece)
    return [*out, Path(tuple(run), False)] if run else out


def _arcs_of(piece: Piece | Path, tolerance: float, straight: bool) -> list[tuple[Array, Array]]:
    """Ends and bulges, (2,) each, of what stands for a piece of a path, or a smooth run of them."""
    if isinstance(piece, LinePiece):
        return [(piece.end, np.zeros(2))]
    if isinstance(piece, ArcPiece) and not straight:
        return _parts_of_arc(piece)
    try_part = _chord if straight else _two_arcs
    out: list[tuple[Array, Array]] = []
    _halved(piece, 0.0, 1.0, tolerance, try_part, out, MOST_HALVINGS)
    return out


def _parts_of_arc(piece: ArcPiece) -> list[tuple[Array, Array]]:
    count = int(np.ceil(abs(piece.sweep) / LARGEST_TURN - 1e-9))
    at = piece.derivatives(np.linspace(0.0, 1.0, 2 * count + 1))
    return [(at[k + 2], at[k + 1] - (at[k] + at[k + 2]) / 2) for k in range(0, 2 * count, 2)]


Part = Callable[[Piece | Path, float, float], list[tuple[Array, Array]]]


def _halved(
    piece: Piece | Path,
    first: float,
    last: float,
    tolerance: float,
    part: Part,
    out: list[tuple[Array, Array]],
    deeper: int,
) -> None:
    """Appends what stands for a piece between two of its parameters, which are halved until it is
    within a tolerance.

    Parameters
    ----------
    piece, first, last : of which the part from the first parameter to the last is looked at
    tolerance : in metres
    part : what may stand for it
    out : takes ends and bulges
    deeper : how often it may still be halved
    """
    found = part(piece, first, last)
    at = piece.derivatives(np.linspace(first, last, 49))
    if deeper and _off(at, found) > tolerance:
        middle = (first + last) / 2
        _halved(piece, first, middle, tolerance, part, out, deeper - 1)
        _halved(piece, middle, last, tolerance, part, out, deeper - 1)
    else:
        out += found


def _off(at: Array, found: list[tuple[Array, Array]]) -> float:
    """How far places (n, 2) along a piece are off the arcs that stand for it, the first of which
    begins at the first of them."""
    start, away = at[0], np.full(len(at), np.inf)
    for end, bulge in found:
        away = np.minimum(away, _off_arc(at, start, end, bulge))
        start = end
    return float(away.max())


def _off_arc(at: Array, start: Array, end: Array, bulge: Array) -> Array:
    """Distances (n,) of places from a finely divided arc."""
    share = np.linspace(0.0, 1.0, 33)
    chord = np.tile(end - start, (33, 1))
    along = arc_places(np.tile(start, (33, 1)), chord, np.tile(bulge, (33, 1)), share)
    step = np.diff(along, axis=0)
    to = at[:, None] - along[None, :-1]
    size = np.maximum(np.einsum("ij,ij->i", step, step), 1e-300)
    foot = np.clip(np.einsum("nij,ij->ni", to, step) / size, 0.0, 1.0)
    return np.asarray(np.linalg.norm(to - foot[:, :, None] * step, axis=2).min(axis=1))


def _chord(piece: Piece | Path, first: float, last: float) -> list[tuple[Array, Array]]:
    return [(piece.derivatives(np.array([last]))[0], np.zeros(2))]


def _two_arcs(piece: Piece | Path, first: float, last: float) -> list[tuple[Array, Array]]:
    """Two arcs with a piece's ends and its directions there, which meet in one direction: of equal
    reach d, 2 d² (1 − t₀·t₁) + 2 d v·(t₀ + t₁) = v·v with v from end to end."""
    a, b = piece.derivatives(np.array([first, last]))
    leaving, arriving = piece.tangent(first), piece.tangent(last)
    across = b - a
    square, ways = float(across @ across), float(across @ (leaving + arriving))
    bent = 2 * (1 - float(leaving @ arriving))
    root = np.sqrt(max(ways * ways + bent * square, 0.0))
    reach = square / (ways + root) if ways + root > 1e-12 * np.sqrt(square) else 0.0
    if not 0 < reach < 4 * np.sqrt(square):
        return [(b, np.zeros(2))]
    middle = (a + reach * leaving + b - reach * arriving) / 2
    return [
        (middle, arc_with_tangent(middle - a, leaving)),
        (b, arc_with_tangent(middle - b, -arriving)),
    ]


def _turned(first: Array, last: Array, share: Array) -> Array:
    """Unit directions (k, 3) that turn evenly from the first to the last ones, as along an arc."""
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", first, last), -1.0, 1.0))
    is_one = turn < 1e-9
    sine = np.where(is_one, 1.0, np.sin(np.where(is_one, 1.0, turn)))
    of_first = np.where(is_one, 1 - share, np.sin((1 - share) * turn) / sine)
    of_last = np.where(is_one, share, np.sin(share * turn) / sine)
    return unit(of_first[:, None] * first + of_last[:, None] * last)
