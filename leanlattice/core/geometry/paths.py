"""Paths in a plane: lines, true arcs and cubic pieces, one after the other."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..results import Result

__all__ = [
    "ArcPiece",
    "CubicPiece",
    "Frame2",
    "LinePiece",
    "Path",
    "Piece",
    "PlaneCurve",
    "on_plane",
]

Array = NDArray[np.float64]
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(12)


class Piece(Result, ABC):
    """A smooth piece of a path over t from 0 to 1; lengths in metres."""

    @abstractmethod
    def derivatives(self, t: Array, order: int = 0) -> Array:
        """Points (n, 2) for order 0, else derivatives of that order."""

    @abstractmethod
    def cut(self, t0: float, t1: float) -> Piece:
        """The part from t0 to t1 (t0 < t1)."""

    @abstractmethod
    def reversed(self) -> Piece: ...

    @abstractmethod
    def mapped(self, matrix: Array, shift: Array) -> Piece:
        """Carried by p ↦ A p + b, where A keeps angles (turn, mirror, even scale)."""

    @abstractmethod
    def offset(self, distance: float) -> Piece | None:
        """The piece at ``distance`` to its left; ``None`` where nothing is left of it."""

    @property
    def start(self) -> Array:
        return self.derivatives(np.zeros(1))[0]

    @property
    def end(self) -> Array:
        return self.derivatives(np.ones(1))[0]

    def tangent(self, t: float) -> Array:
        """Unit direction (2,) at t."""
        d = self.derivatives(np.array([t]), 1)[0]
        if np.linalg.norm(d) < 1e-12:
            d = (
                self.derivatives(np.array([min(t + 1e-4, 1.0)]))[0]
                - self.derivatives(np.array([max(t - 1e-4, 0.0)]))[0]
            )
        return d / max(float(np.linalg.norm(d)), 1e-300)

    @cached_property
    def length(self) -> float:
        speed = np.linalg.norm(self.derivatives((_NODES + 1) / 2, 1), axis=1)
        return float(speed @ _WEIGHTS / 2)

    @cached_property
    def chords(self) -> tuple[Array, Array]:
        """Parameters and points (n, 2) of chords along the piece, one for a line."""
        t = np.linspace(0, 1, 2 if isinstance(self, LinePiece) else 33)
        return t, self.derivatives(t)

    def samples(self, tolerance: float) -> Array:
        """Parameters from 0 to 1 at which chords stay within about ``tolerance`` (m) of the
        piece."""
        bend = float(np.linalg.norm(self.derivatives(np.linspace(0, 1, 9), 2), axis=1).max())
        count = int(np.clip(np.ceil(np.sqrt(bend / (8 * max(tolerance, 1e-12)))), 1, 2000))
        return np.linspace(0.0, 1.0, count + 1)


@dataclass(frozen=True, eq=False)
class LinePiece(Piece):
    a: Array
    b: Array

    def derivatives(self, t: Array, order: int = 0) -> Array:
        if order == 0:
            return self.a + t[:, None] * (self.b - self.a)
        return np.tile(self.b - self.a if order == 1 else np.zeros(2), (len(t), 1))

    def cut(self, t0: float, t1: float) -> LinePiece:
        return LinePiece(*self.derivatives(np.array([t0, t1])))

    def reversed(self) -> LinePiece:
        return LinePiece(self.b, self.a)

    def mapped(self, matrix: Array, shift: Array) -> LinePiece:
        return LinePiece(matrix @ self.a + shift, matrix @ self.b + shift)

    def offset(self, distance: float) -> LinePiece:
        way = self.tangent(0.0)
        side = distance * np.array([-way[1], way[0]])
        return LinePiece(self.a + side, self.b + side)


@dataclass(frozen=True, eq=False)
class ArcPiece(Piece):
    """Arc about ``centre`` from angle ``first`` through ``sweep`` (rad, positive
    counter-clockwise)."""

    centre: Array
    radius: float
    first: float
    sweep: float

    def derivatives(self, t: Array, order: int = 0) -> Array:
        angle = self.first + self.sweep * t + order * np.pi / 2
        out = self.radius * self.sweep**order * np.column_stack([np.cos(angle), np.sin(angle)])
        return out + self.centre if order == 0 else out

    def cut(self, t0: float, t1: float) -> ArcPiece:
        return replace(self, first=self.first + t0 * self.sweep, sweep=(t1 - t0) * self.sweep)

    def reversed(self) -> ArcPiece:
        return replace(self, first=self.first + self.sweep, sweep=-self.sweep)

    def mapped(self, matrix: Array, shift: Array) -> ArcPiece:
        scale = float(np.sqrt(abs(np.linalg.det(matrix))))
        way = matrix @ np.array([np.cos(self.first), np.sin(self.first)])
        turned = -1.0 if np.linalg.det(matrix) < 0 else 1.0
        return ArcPiece(
            matrix @ self.centre + shift,
            self.radius * scale,
            float(np.arctan2(way[1], way[0])),
            turned * self.sweep,
        )

    def offset(self, distance: float) -> ArcPiece | None:
        radius = self.radius - distance * np.sign(self.sweep)
        return replace(self, radius=float(radius)) if radius > 1e-12 else None


@dataclass(frozen=True, eq=False)
class CubicPiece(Piece):
    """Cubic with control points (4, 2) (Bézier, 1966)."""

    control: Array

    @cached_property
    def _power(self) -> Array:
        p = self.control
        return np.array(
            [
                p[0],
                3 * (p[1] - p[0]),
                3 * (p[2] - 2 * p[1] + p[0]),
                p[3] - 3 * p[2] + 3 * p[1] - p[0],
            ]
        )

    def derivatives(self, t: Array, order: int = 0) -> Array:
        out = np.zeros((len(t), 2))
        for k in range(order, 4):
            factor = float(np.prod(np.arange(k, k - order, -1))) if order else 1.0
            out += factor * (t ** (k - order))[:, None] * self._power[k]
        return out

    def cut(self, t0: float, t1: float) -> CubicPiece:
        t = np.array([t0, t1])
        (a, d), (da, dd) = self.derivatives(t), self.derivatives(t, 1) * (t1 - t0) / 3
        return CubicPiece(np.array([a, a + da, d - dd, d]))

    def reversed(self) -> CubicPiece:
        return CubicPiece(self.control[::-1].copy())

    def mapped(self, matrix: Array, shift: Array) -> CubicPiece:
        return CubicPiece(self.control @ matrix.T + shift)

    def offset(self, distance: float) -> CubicPiece:
        """Cubic with the ends, end directions and middle of the true offset (after Tiller and
        Hanson, 1984)."""
        t = np.array([0.0, 0.5, 1.0])
        ways = np.array([self.tangent(x) for x in t])
        a, m, d = self.derivatives(t) + distance * np.column_stack([-ways[:, 1], ways[:, 0]])
        # Lengths of the two end controls from the middle: 8 m = a + 3 b + 3 c + d.
        system = np.column_stack([ways[0], -ways[2]]) * 3
        right = 8 * m - 4 * a - 4 * d
        if abs(np.linalg.det(system)) > 0.3:
            x, y = np.linalg.solve(system, right)
        else:
            x = y = float(np.linalg.norm(d - a)) / 3
        limit = float(np.linalg.norm(d - a)) * 1.5
        x, y = (float(np.clip(v, 0.0, limit)) for v in (x, y))
        return CubicPiece(np.array([a, a + x * ways[0], d - y * ways[2], d]))


@dataclass(frozen=True, eq=False)
class Path(Result):
    """Pieces that follow each other; a closed path returns to its start.

    Its parameter runs from 0 to 1 over all pieces, each taking a share of ``knots`` (n + 1,), by
    length unless given.
    """

    pieces: tuple[Piece, ...]
    closed: bool
    given_knots: Array | None = None

    @cached_property
    def knots(self) -> Array:
        if self.given_knots is not None:
            return self.given_knots
        lengths = np.array([p.length for p in self.pieces])
        return np.concatenate([[0.0], np.cumsum(lengths) / max(lengths.sum(), 1e-300)])

    @cached_property
    def length(self) -> float:
        return float(sum(p.length for p in self.pieces))

    def derivatives(self, t: Array, order: int = 0) -> Array:
        """Points (n, 2) for order 0, else derivatives by the path's parameter."""
        t = t % 1.0 if self.closed else np.clip(t, 0.0, 1.0)
        which = np.clip(np.searchsorted(self.knots, t, side="right") - 1, 0, len(self.pieces) - 1)
        out = np.empty((len(t), 2))
        for i in np.unique(which):
            rows = which == i
            size = max(self.knots[i + 1] - self.knots[i], 1e-300)
            out[rows] = (
                self.pieces[i].derivatives((t[rows] - self.knots[i]) / size, order) / size**order
            )
        return out

    def tangent(self, t: float) -> Array:
        """Unit direction (2,) at a parameter, of the piece behind it."""
        which = int(np.clip(np.searchsorted(self.knots, t, "right") - 1, 0, len(self.pieces) - 1))
        size = max(float(self.knots[which + 1] - self.knots[which]), 1e-300)
        return self.pieces[which].tangent((t - float(self.knots[which])) / size)

    def parameters(self, tolerance: float) -> Array:
        """Parameters at which chords stay within about ``tolerance`` (m), all joints between pieces
        among them."""
        out = [
            self.knots[i] + p.samples(tolerance)[:-1] * (self.knots[i + 1] - self.knots[i])
            for i, p in enumerate(self.pieces)
        ]
        return np.concatenate([*out, np.zeros(0) if self.closed else np.ones(1)])

    def polygon(self, tolerance: float) -> Array:
        """Points (n, 2) along the path; a closed one does not repeat its start."""
        return self.derivatives(self.parameters(tolerance))

    @cached_property
    def joints(self) -> tuple[float, ...]:
        """Parameters strictly between 0 and 1 at which the direction changes by more than a hair's
        breadth."""
        out = [
            float(self.knots[i + 1])
            for i, (p, q) in enumerate(zip(self.pieces[:-1], self.pieces[1:], strict=True))
            if p.tangent(1.0) @ q.tangent(0.0) < 1 - 1e-6
        ]
        return tuple(out)

    @property
    def breaks(self) -> tuple[float, ...]:
        """Parameters strictly between 0 and 1 at which pieces meet."""
        return tuple(self.knots[1:-1].tolist())

    @cached_property
    def signed_area(self) -> float:
        """Area of a closed path, positive when counter-clockwise (Green's theorem, by
        quadrature)."""
        total = 0.0
        for piece in self.pieces:
            p, d = piece.derivatives((_NODES + 1) / 2), piece.derivatives((_NODES + 1) / 2, 1)
            total += float((p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]) @ _WEIGHTS / 4)
        return total

    def reversed(self) -> Path:
        return Path(tuple(p.reversed() for p in reversed(self.pieces)), self.closed)

    def mapped(self, matrix: Array, shift: Array) -> Path:
        """Carried by p ↦ A p + b, where A keeps angles; a closed path keeps its sense also in a
        mirror."""
        path = Path(tuple(p.mapped(matrix, shift) for p in self.pieces), self.closed)
        return path.reversed() if self.closed and np.linalg.det(matrix) < 0 else path

    @cached_property
    def size(self) -> float:
        """Largest extent in metres."""
        p = np.vstack([piece.derivatives(np.linspace(0, 1, 9)) for piece in self.pieces])
        return float(np.ptp(p, axis=0).max())


@dataclass(frozen=True, eq=False)
class Frame2:
    """A plane in space: its origin and two unit directions (3,), the normal being x × y."""

    origin: Array
    x: Array
    y: Array

    @property
    def normal(self) -> Array:
        return np.cross(self.x, self.y)

    def lifted(self, points: Array) -> Array:
        """Places (n, 3) of points (n, 2) of the plane."""
        return self.origin + points[:, :1] * self.x + points[:, 1:2] * self.y

    def flattened(self, points: Array) -> Array:
        """Feet (n, 2) on the plane of places (n, 3)."""
        d = points - self.origin
        return np.column_stack([d @ self.x, d @ self.y])


@dataclass(frozen=True, eq=False)
class PlaneCurve:
    """A path on a plane in space."""

    path: Path
    frame: Frame2

    def points(self, t: Array) -> Array:
        """Places (n, 3) at parameters in [0, 1]."""
        return self.frame.lifted(self.path.derivatives(t))

    def derivatives(self, t: Array, order: int = 1) -> Array:
        d = self.path.derivatives(t, order)
        return d[:, :1] * self.frame.x + d[:, 1:] * self.frame.y

    def polyline(self, tolerance: float) -> Array:
        """Places (n, 3) along it; a closed one does not repeat its start."""
        return self.frame.lifted(self.path.polygon(tolerance))


def on_plane(curves: Sequence[PlaneCurve], frame: Frame2) -> list[Path]:
    """The paths of curves that lie in a plane parallel to ``frame``, in its coordinates; others are
    carried straight onto it by their points."""
    out = []
    for curve in curves:
        matrix = np.array(
            [
                [curve.frame.x @ frame.x, curve.frame.y @ frame.x],
                [curve.frame.x @ frame.y, curve.frame.y @ frame.y],
            ]
        )
        shift = frame.flattened(curve.frame.origin[None])[0]
        if abs(abs(np.linalg.det(matrix)) - 1) < 1e-9:
            out.append(curve.path.mapped(matrix, shift))
        else:
            points = frame.flattened(curve.polyline(curve.path.size * 1e-4))
            ring = np.vstack([points, points[:1]]) if curve.path.closed else points
            out.append(Path(tuple(LinePiece(a, b) for a, b in pairwise(ring)), curve.path.closed))
    return out
