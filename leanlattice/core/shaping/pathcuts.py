"""Where paths cross, and what comes of cutting them there: parts, trims, joins and unions."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon
from ..geometry.paths import ArcPiece, LinePiece, Path, Piece

__all__ = ["crossings", "extend", "join", "keep_side", "split_at", "split_evenly", "unite"]

Array = NDArray[np.float64]
TOUCH = 1e-9
"""Shares of a path's size closer than which two places are one."""


def crossings(one: Path, two: Path) -> list[tuple[float, float, Array]]:
    """Places where two paths cross: the parameter on each (piece number + share) and the place
    (2,), along ``one``.

    Chords are crossed first, then refined by Newton's method on both parameters.
    """
    size = max(one.size, two.size, 1e-12)
    found: list[tuple[float, float, Array]] = []
    for i, p in enumerate(one.pieces):
        for j, q in enumerate(two.pieces):
            for s, t, at in _piece_crossings(p, q, size):
                if not any(np.linalg.norm(at - known[2]) < 1e-7 * size for known in found):
                    found.append((i + s, j + t, at))
    return sorted(found, key=lambda f: f[0])


def _piece_crossings(p: Piece, q: Piece, size: float) -> list[tuple[float, float, Array]]:
    (t0, a), (t1, b) = p.chords, q.chords
    ts = [t0, t1]
    if np.any(a.max(axis=0) < b.min(axis=0) - 0.02 * size) or np.any(
        b.max(axis=0) < a.min(axis=0) - 0.02 * size
    ):
        return []
    d, e = np.diff(a, axis=0)[:, None], np.diff(b, axis=0)[None]
    w = b[None, :-1] - a[:-1, None]
    det = d[..., 0] * e[..., 1] - d[..., 1] * e[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (w[..., 0] * e[..., 1] - w[..., 1] * e[..., 0]) / det
        t = (w[..., 0] * d[..., 1] - w[..., 1] * d[..., 0]) / det
    room = 0.02
    hits = np.argwhere((s > -room) & (s < 1 + room) & (t > -room) & (t < 1 + room) & np.isfinite(s))
    out = []
    for i, j in hits:
        x, y = (
            ts[0][i] + s[i, j] * (ts[0][1] - ts[0][0]),
            ts[1][j] + t[i, j] * (ts[1][1] - ts[1][0]),
        )
        for _ in range(12):
            gap = p.derivatives(np.array([x]))[0] - q.derivatives(np.array([y]))[0]
            jacobian = np.column_stack(
                [p.derivatives(np.array([x]), 1)[0], -q.derivatives(np.array([y]), 1)[0]]
            )
            if abs(np.linalg.det(jacobian)) < 1e-14 * size**2:
                break
            step = np.linalg.solve(jacobian, gap)
            x, y = x - step[0], y - step[1]
        place = p.derivatives(np.array([x]))[0]
        if (
            -TOUCH <= x <= 1 + TOUCH
            and -TOUCH <= y <= 1 + TOUCH
            and np.linalg.norm(place - q.derivatives(np.array([y]))[0]) < 1e-9 * size
        ):
            out.append((float(np.clip(x, 0, 1)), float(np.clip(y, 0, 1)), place))
    return out


def _between(path: Path, first: float, last: float) -> Path:
    """The open part from ``first`` to ``last`` (piece number + share); past the end of a closed
    path it goes on."""
    pieces: list[Piece] = []
    count = len(path.pieces)
    at = first
    while at < last - 1e-12:
        i = int(np.floor(at + 1e-12))
        until = min(i + 1.0, last)
        t0, t1 = max(at - i, 0.0), until - i
        if t1 - t0 > 1e-9:
            piece = path.pieces[i % count]
            pieces.append(piece if t0 <= 0 and t1 >= 1 else piece.cut(t0, t1))
        at = until
    return Path(tuple(pieces), False)


def split_at(path: Path, places: Sequence[float]) -> list[Path]:
    """The path cut at parameters (piece number + share)."""
    count = float(len(path.pieces))
    cuts = sorted({min(max(p, 0.0), count) for p in places})
    if path.closed:
        if not cuts:
            return [path]
        ends = [*cuts[1:], cuts[0] + count]
        return [p for a, b in zip(cuts, ends, strict=True) if (p := _between(path, a, b)).pieces]
    cuts = [0.0, *[c for c in cuts if 1e-9 < c < count - 1e-9], count]
    return [_between(path, a, b) for a, b in pairwise(cuts)]


def split_evenly(path: Path, parts: int) -> list[Path]:
    """The path in ``parts`` of equal length."""
    lengths = np.concatenate([[0.0], np.cumsum([p.length for p in path.pieces])])
    places = []
    for k in range(0 if path.closed else 1, parts):
        target = lengths[-1] * k / parts
        i = int(
            np.clip(np.searchsorted(lengths, target, side="right") - 1, 0, len(path.pieces) - 1)
        )
        t = np.linspace(0, 1, 65)
        p = path.pieces[i].derivatives(t)
        run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
        run *= path.pieces[i].length / max(run[-1], 1e-300)
        places.append(i + float(np.interp(target - lengths[i], run, t)))
    return split_at(path, places)


def keep_side(path: Path, cutter: Path, keep: str) -> list[Path]:
    """The parts of ``path`` on one side of ``cutter``: ``"inside"`` or ``"outside"`` a closed one,
    ``"left"`` or ``"right"`` of an open one."""
    hits = crossings(path, cutter)
    parts = split_at(path, [h[0] for h in hits]) if hits else [path]
    ring = cutter.polygon(cutter.size * 1e-5)
    out = []
    for part in parts:
        middle = part.derivatives(np.array([0.5]))[0] if len(part.pieces) else None
        if middle is None:
            continue
        if cutter.closed:
            within = bool(shapely.contains_xy(shapely.Polygon(ring), *middle))
            kept = within == (keep in ("inside", "left"))
        else:
            line = shapely.LineString(ring)
            along = line.project(shapely.Point(middle))
            foot = np.array(line.interpolate(along).coords[0])
            d = line.length * 1e-6
            ahead = np.array(line.interpolate(along + d).coords[0]) - np.array(
                line.interpolate(max(along - d, 0)).coords[0]
            )
            kept = ((ahead[0] * (middle - foot)[1] - ahead[1] * (middle - foot)[0]) > 0) == (
                keep in ("inside", "left")
            )
        if kept:
            out.append(part)
    return out


def extend(path: Path, to: Path) -> Path:
    """An open path run on from both ends, straight on or along its last arc, until it meets ``to``;
    an end that does not meet it stays."""
    if path.closed:
        return path
    reach = 4 * (path.size + to.size)
    for _ in range(2):
        last = path.pieces[-1]
        longer: Piece
        if isinstance(last, ArcPiece):
            longer = ArcPiece(
                last.centre,
                last.radius,
                last.first + last.sweep,
                float(np.sign(last.sweep) * (2 * np.pi - abs(last.sweep))) * 0.999,
            )
        else:
            longer = LinePiece(last.end, last.end + reach * last.tangent(1.0))
        hits = [h for h in crossings(Path((longer,), False), to) if h[0] > 1e-9]
        if hits:
            more = longer.cut(0.0, hits[0][0])
            joined: tuple[Piece, ...] = (*path.pieces, more)
            if isinstance(last, LinePiece):
                joined = (*path.pieces[:-1], LinePiece(last.a, more.end))
            path = Path(joined, False)
        path = path.reversed()
    return path


def join(paths: Sequence[Path], tolerance: float) -> list[Path]:
    """Open paths whose ends meet within ``tolerance`` (m), made one; a run that returns to its
    start is closed. Gaps that are left between ends are closed by lines."""
    out = [p for p in paths if p.closed]
    left = [p for p in paths if not p.closed]
    while left:
        pieces = list(left.pop(0).pieces)
        grown = True
        while grown and np.linalg.norm(pieces[0].start - pieces[-1].end) > tolerance:
            grown = False
            for k, other in enumerate(left):
                for candidate in (other, other.reversed()):
                    if np.linalg.norm(candidate.pieces[0].start - pieces[-1].end) <= tolerance:
                        pieces += candidate.pieces
                    elif np.linalg.norm(candidate.pieces[-1].end - pieces[0].start) <= tolerance:
                        pieces = [*candidate.pieces, *pieces]
                    else:
                        continue
                    del left[k]
                    grown = True
                    break
                if grown:
                    break
        closed = len(pieces) > 1 and bool(
            np.linalg.norm(pieces[0].start - pieces[-1].end) <= tolerance
        )
        out.append(Path(_without_gaps(pieces, closed), closed))
    return out


def _without_gaps(pieces: Sequence[Piece], closed: bool) -> tuple[Piece, ...]:
    """Pieces with lines between the ends of one and the next that do not meet."""
    size = max((float(np.abs(p.end - p.start).max()) for p in pieces), default=1.0)
    out: list[Piece] = []
    for k, piece in enumerate(pieces):
        out.append(piece)
        if k == len(pieces) - 1 and not closed:
            break
        start = pieces[(k + 1) % len(pieces)].start
        if np.linalg.norm(start - piece.end) > 1e-9 * max(size, 1e-9):
            out.append(LinePiece(piece.end, start))
    return tuple(out)


def unite(paths: Sequence[Path], tolerance: float) -> list[Path]:
    """Outlines of the area that closed paths cover together, counter-clockwise, openings clockwise.

    Pieces are cut where paths cross and kept where they lie in no other, so that arcs stay arcs.
    Where outlines run along each other, straight runs within ``tolerance`` (m) are given instead.
    """
    closed = [p if p.signed_area > 0 else p.reversed() for p in paths if p.closed]
    polygons = [shapely.Polygon(p.polygon(tolerance)).buffer(0) for p in closed]
    whole = shapely.union_all(polygons)
    parts: list[Path] = []
    for i, path in enumerate(closed):
        cuts = [
            hit[0] for j, other in enumerate(closed) if j != i for hit in crossings(path, other)
        ]
        for part in split_at(path, cuts) if cuts else [path]:
            middle = shapely.Point(part.derivatives(np.array([0.5]))[0])
            inner = any(
                j != i
                and polygons[j].contains(middle)
                and polygons[j].exterior.distance(middle) > 2 * tolerance
                for j in range(len(closed))
            )
            if not inner:
                parts.append(part)
    joined = join(parts, 1e-6 * max((p.size for p in closed), default=1.0))
    rings = sum(1 + len(g.interiors) for g in shapely.get_parts(whole))
    if all(p.closed for p in joined) and len(joined) == rings:
        covered = sum(p.signed_area for p in joined)
        if abs(covered - whole.area) < 1e-3 * whole.area + 20 * tolerance * whole.length:
            return joined
    out = []
    for g in shapely.get_parts(whole):
        outer = np.asarray(
            shapely.remove_repeated_points(g.exterior.simplify(tolerance / 2)).coords
        )[:-1]
        out.append(closed_polygon(outer if shapely.LinearRing(outer).is_ccw else outer[::-1]))
        for hole in g.interiors:
            inner_ring = np.asarray(hole.simplify(tolerance / 2).coords)[:-1]
            out.append(
                closed_polygon(
                    inner_ring[::-1] if shapely.LinearRing(inner_ring).is_ccw else inner_ring
                )
            )
    return out
