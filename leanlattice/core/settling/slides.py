"""What vertices slide on: curves, planes, surfaces and triangle meshes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..geometry.meshes import Mesh
from ..geometry.paths import ArcPiece, Frame2, LinePiece, Piece, PlaneCurve
from ..geometry.surfaces import Surface
from .kernels import nearest_on_curves
from .problem import Slide

__all__ = [
    "along_curves",
    "along_lines",
    "in_planes",
    "nearest_on_mesh",
    "over_mesh",
    "over_surface",
]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
SMOOTH = np.cos(np.radians(20.0))
"""Segments of a line that turn by less are those of a curve."""
AT_CORNER = 1e-7
"""Share of a chord within which a place counts as at a corner."""
FOOT_STEPS = 12
"""Steps from the nearest place of a mesh to that of the surface it stands for."""


def along_lines(vertices: Index, lines: tuple[Array, ...]) -> Slide:
    """Vertices (m,) that slide on polylines (n, 3)."""
    return _along(vertices, [_Rail.of_line(line) for line in lines])


def along_curves(vertices: Index, curves: Sequence[PlaneCurve]) -> Slide:
    """Vertices (m,) that slide on curves in planes: on the true arcs and cubics themselves."""
    return _along(vertices, [_Rail.of_curve(curve) for curve in curves])


@dataclass(frozen=True, eq=False)
class _Rail:
    """Chords of a curve's pieces, as ``nearest_on_curves`` takes them."""

    start: Array
    step: Array
    span: Array
    piece: NDArray[np.int64]
    form: Array
    turn: Array
    straight: NDArray[np.bool_]
    first: Array
    last: Array
    """Unit directions (m, 3) at both ends of each chord."""
    closed: bool

    @classmethod
    def of_line(cls, line: Array) -> _Rail:
        step = np.diff(line, axis=0)
        kept = np.linalg.norm(step, axis=1) > 0
        start, step = line[:-1][kept], step[kept]
        count = len(start)
        way = step / np.linalg.norm(step, axis=1, keepdims=True)
        form = np.zeros((count, 6, 3))
        form[:, 0], form[:, 1] = start, step
        closed = bool(np.linalg.norm(line[0] - line[-1]) < 1e-9)
        return cls(
            start,
            step,
            np.tile([0.0, 1.0], (count, 1)),
            np.arange(count),
            form,
            np.zeros((count, 2)),
            np.ones(count, bool),
            way,
            way,
            closed,
        )

    @classmethod
    def of_curve(cls, curve: PlaneCurve) -> _Rail:
        path, frame = curve.path, curve.frame
        tolerance = max(path.size * 2e-4, 1e-9)
        spans, chords, forms, turns, ways, piece = [], [], [], [], [], []
        for k, p in enumerate(path.pieces):
            t = p.samples(tolerance)
            at, way = frame.lifted(p.derivatives(t)), _lifted_ways(frame, p.derivatives(t, 1))
            spans.append(np.column_stack([t[:-1], t[1:]]))
            chords.append(np.stack([at[:-1], np.diff(at, axis=0)], axis=1))
            ways.append(np.stack([way[:-1], way[1:]], axis=1))
            piece.append(np.full(len(t) - 1, k))
            form, turn = _form_of(p, frame)
            forms.append(form)
            turns.append(turn)
        chord, way = np.concatenate(chords), np.concatenate(ways)
        straight = np.array([isinstance(p, LinePiece) for p in path.pieces])
        return cls(
            chord[:, 0],
            chord[:, 1],
            np.concatenate(spans),
            np.concatenate(piece),
            np.array(forms),
            np.array(turns),
            straight,
            way[:, 0],
            way[:, 1],
            path.closed,
        )

    @property
    def bends(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Whether each chord (m,) meets the one before it smoothly, and the next one; at ends
        not."""
        meets = np.einsum("ij,ij->i", np.roll(self.last, 1, axis=0), self.first) > SMOOTH
        if not self.closed:
            meets[0] = False
        return meets, np.roll(meets, -1)

    @property
    def ways(self) -> Array:
        """Unit directions (m, 2, 3) at both ends of chords: at a slight bend those of its two
        chords meet in their mean, as on a curve; at a corner each keeps its own."""
        out = []
        for own, other, smooth in zip(
            (self.first, self.last),
            (np.roll(self.last, 1, axis=0), np.roll(self.first, -1, axis=0)),
            self.bends,
            strict=True,
        ):
            mean = own + np.where(smooth[:, None], other, own)
            out.append(mean / np.linalg.norm(mean, axis=1, keepdims=True))
        return np.stack(out, axis=1)

    @property
    def ends(self) -> NDArray[np.bool_]:
        """Whether the curve ends at each end of its chords (m, 2)."""
        out = np.zeros((len(self.start), 2), bool)
        out[0, 0] = out[-1, 1] = not self.closed
        return out

    @property
    def corners(self) -> Array:
        """Both unit directions (m, 2, 2, 3) out of the corner at each end of a chord, 0 where there
        is none."""
        out = np.zeros((len(self.start), 2, 2, 3))
        sharp = [~smooth & ~end for smooth, end in zip(self.bends, self.ends.T, strict=True)]
        out[sharp[0], 0, 0], out[sharp[0], 0, 1] = (
            self.first[sharp[0]],
            -np.roll(self.last, 1, axis=0)[sharp[0]],
        )
        out[sharp[1], 1, 0], out[sharp[1], 1, 1] = (
            -self.last[sharp[1]],
            np.roll(self.first, -1, axis=0)[sharp[1]],
        )
        return out


def _lifted_ways(frame: Frame2, flat: Array) -> Array:
    way = flat[:, :1] * frame.x + flat[:, 1:] * frame.y
    return np.asarray(way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300))


def _form_of(piece: Piece, frame: Frame2) -> tuple[Array, Array]:
    """A piece in space as ``nearest_on_curves`` takes it: ``form`` (6, 3) and ``turn`` (2,)."""
    form, turn = np.zeros((6, 3)), np.zeros(2)
    if isinstance(piece, ArcPiece):
        form[0] = frame.lifted(piece.centre[None])[0]
        form[4], form[5] = piece.radius * frame.x, piece.radius * frame.y
        turn[:] = piece.first, piece.sweep
        return form, turn
    # Lines and cubics are polynomials, known by their derivatives at the start.
    factor = 1.0
    for order in range(4):
        at = piece.derivatives(np.zeros(1), order)
        factor *= max(order, 1)
        form[order] = (
            frame.lifted(at)[0]
            if order == 0
            else (at[0, 0] * frame.x + at[0, 1] * frame.y) / factor
        )
    return form, turn


def _beside(counts: Sequence[int]) -> NDArray[np.int64]:
    """The chord before and the one after each (m, 2) in rails of so many; round a rail the last stands
    before the first."""
    out, start = [], 0
    for count in counts:
        own = np.arange(count)
        out.append(start + np.column_stack([(own - 1) % count, (own + 1) % count]))
        start += count
    return np.concatenate(out)


def _along(vertices: Index, rails: Sequence[_Rail]) -> Slide:
    """Vertices (m,) that slide on the nearest of some rails."""
    before = np.cumsum([0, *(len(r.form) for r in rails)])
    fixed = (
        np.concatenate([r.start for r in rails]),
        np.concatenate([r.step for r in rails]),
        np.concatenate([r.span for r in rails]),
        np.concatenate([r.piece + b for r, b in zip(rails, before, strict=False)]),
        np.concatenate([r.form for r in rails]),
        np.concatenate([r.turn for r in rails]),
        np.concatenate([r.straight for r in rails]),
        np.concatenate([r.ways for r in rails]),
        np.concatenate([r.ends for r in rails]),
        _beside([len(r.start) for r in rails]),
        np.concatenate([r.corners for r in rails]),
    )

    def nearest(x: Array) -> tuple[Array, ...]:
        shapes = ((3,), (2, 3), (3,), (2, 3), ())
        out = tuple(np.empty((len(x), *s)) for s in shapes)
        nearest_on_curves(np.ascontiguousarray(x), *fixed, *out)
        return out

    slide = Slide(
        vertices, lambda x: nearest(x)[0], lambda x: nearest(x)[1], lambda x: nearest(x)[2]
    )
    sharp = np.flatnonzero(fixed[-1][:, 0].any(axis=(1, 2)))
    if not len(sharp):
        return slide
    chords = np.cumsum([0, *(len(r.start) for r in rails)])
    closed = np.array([r.closed for r in rails])

    def passed(before: Array, after: Array) -> tuple[NDArray[np.int64], Array]:
        """Vertices that pass a corner on their way, and the first corner (k, 3) each passes."""
        a, b = nearest(before)[4], nearest(after)[4]
        rail = np.clip(np.searchsorted(chords, a, side="right") - 1, 0, len(rails) - 1)
        count = np.where(closed[rail], chords[rail + 1] - chords[rail], 0)
        way = b - a
        way = np.where((count > 0) & (np.abs(way) > count / 2), way - np.sign(way) * count, way)
        # How far ahead of each vertex each corner of its rail is, round a closed one if need be.
        ahead = (sharp - a[:, None]) * np.sign(way)[:, None]
        ahead = np.where((count > 0)[:, None], ahead % np.maximum(count, 1)[:, None], ahead)
        own = (sharp >= chords[rail][:, None]) & (sharp < chords[rail + 1][:, None])
        ahead = np.where(own & (ahead > AT_CORNER), ahead, np.inf)
        first = np.argmin(ahead, axis=1)
        rows = np.flatnonzero(ahead[np.arange(len(a)), first] < np.abs(way) - AT_CORNER)
        return rows, fixed[0][sharp[first[rows]]]

    return replace(slide, out_of=lambda x: nearest(x)[3], passed=passed)


def in_planes(vertices: Index, places: Array, normal: Array) -> Slide:
    """Vertices (m,) that each slide in the plane through its place (m, 3) across a unit
    ``normal``."""

    def onto(x: Array) -> Array:
        return np.asarray(x - ((x - places) @ normal)[:, None] * normal)

    return Slide(vertices, onto, lambda x: np.broadcast_to(normal, (len(x), 1, 3)))


def over_mesh(vertices: Index, mesh: Mesh) -> Slide:
    """Vertices (m,) that slide on the triangles of a mesh."""
    find = nearest_on_mesh(mesh)
    return Slide(
        vertices, lambda x: find(x)[0], lambda x: find(x)[1][:, None], lambda x: find(x)[2]
    )


def over_surface(vertices: Index, surface: Surface, mesh: Mesh, uv: Array) -> Slide:
    """Vertices (m,) that slide on a surface itself, which a ``mesh`` with parameters ``uv`` (V, 2)
    stands for: its nearest place is where the search begins, and where its border ends the surface.
    """
    back_on = nearest_on_mesh(mesh)
    corner = uv[mesh.triangles]
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        if closed:  # across the seam, counted on past it
            corner[..., axis] += np.round(corner[:, :1, axis] - corner[..., axis])

    def find(x: Array) -> tuple[Array, Array, Array]:
        triangle, share, _ = mesh.search.nearest(x)
        at = np.einsum("nk,nkd->nd", share, corner[triangle])
        back = back_on(x)[2]
        inside = ~back.any(axis=1)
        at = _within(surface, at)
        at[inside] = surface.closest_from(x[inside], at[inside], FOOT_STEPS)
        return surface.points(at), surface.normals(at), back

    return Slide(
        vertices, lambda x: find(x)[0], lambda x: find(x)[1][:, None], lambda x: find(x)[2]
    )


def _within(surface: Surface, uv: Array) -> Array:
    out = uv.copy()
    for axis, closed in enumerate((surface.closed_u, surface.closed_v)):
        out[:, axis] = out[:, axis] % 1.0 if closed else np.clip(out[:, axis], 0.0, 1.0)
    return out


def _inward(mesh: Mesh) -> Array:
    """For each corner of a triangle (T, 3, 3) the unit direction to it from the side opposite,
    where that is a border."""
    t = mesh.triangles
    sides = np.sort(np.stack([t[:, [1, 2]], t[:, [2, 0]], t[:, [0, 1]]], axis=1), axis=2).astype(
        np.int64
    )
    keys = sides[..., 0] * len(mesh.vertices) + sides[..., 1]
    _, which, counts = np.unique(keys.ravel(), return_inverse=True, return_counts=True)
    border = counts[which].reshape(keys.shape) == 1
    out = np.zeros((len(t), 3, 3))
    for k in range(3):
        a, b, c = (mesh.vertices[t[:, (k + j) % 3]] for j in (0, 1, 2))
        along = (c - b) / np.maximum(np.linalg.norm(c - b, axis=1, keepdims=True), 1e-300)
        way = a - b - np.einsum("ij,ij->i", a - b, along)[:, None] * along
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
        out[:, k] = np.where(border[:, k, None], way, 0.0)
    return out


def nearest_on_mesh(mesh: Mesh) -> Callable[[Array], tuple[Array, Array, Array]]:
    """Gives a function of places (n, 3): the nearest places (n, 3) on the mesh, the unit normals
    (n, 3) there, which run evenly between those at the mesh's vertices, and at its border the
    direction (n, 3) back onto it, elsewhere 0."""
    t, search = mesh.triangles, mesh.search
    normals, inward = mesh.normals, _inward(mesh)

    def find(x: Array) -> tuple[Array, Array, Array]:
        triangle, share, _ = search.nearest(x)
        facing = np.einsum("nk,nkd->nd", share, normals[t[triangle]])
        back = np.einsum("nk,nkd->nd", (share < 1e-9).astype(float), inward[triangle])
        size = np.maximum(np.linalg.norm(back, axis=1, keepdims=True), 1e-300)
        long = np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-300)
        return search.places(triangle, share), facing / long, back / size

    return find
