"""Paths changed: corners rounded, offsets, even points, easing."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon, cubics_through, polyline_path
from ..geometry.paths import ArcPiece, LinePiece, Path, Piece
from .pathcuts import crossings

__all__ = ["matched_offset", "offset", "resample", "round_corners", "smooth"]

Array = NDArray[np.float64]


def _cross(a: Array, b: Array) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


def round_corners(path: Path, radius: float) -> tuple[Path, list[tuple[Array, float]]]:
    """The path with arcs of ``radius`` (m) at its corners, and the corners where less fits with the radius made there.

    A corner between two lines takes up r · tan(turn / 2) of each. Where the sum of what its two corners ask of a line
    is more than the line has, both radii are scaled to what fits. Corners at curved pieces stay as they are.
    """
    pieces = list(path.pieces)
    count = len(pieces)
    corners = []
    for i in range(count if path.closed else count - 1):
        p, q = pieces[i], pieces[(i + 1) % count]
        if isinstance(p, LinePiece) and isinstance(q, LinePiece):
            a, b = p.tangent(1.0), q.tangent(0.0)
            turn = float(np.arctan2(_cross(a, b), a @ b))
            if 1e-6 < abs(turn) < np.pi - 1e-6:
                corners.append((i, turn))
    wanted = {i: radius * np.tan(abs(turn) / 2) for i, turn in corners}
    share = dict.fromkeys(wanted, 1.0)
    for i, piece in enumerate(pieces):
        ends = [k for k in ((i - 1) % count, i) if k in wanted]
        asked = sum(wanted[k] for k in ends)
        if asked > piece.length * (1 - 1e-12):
            for k in ends:
                share[k] = min(share[k], piece.length / max(asked, 1e-300))
    out: list[Piece] = []
    clamped: list[tuple[Array, float]] = []
    turns = dict(corners)
    for i, piece in enumerate(pieces):
        before, after = (i - 1) % count, i
        t0 = wanted.get(before, 0.0) * share.get(before, 1.0) / piece.length if before in turns else 0.0
        t1 = 1 - wanted.get(after, 0.0) * share.get(after, 1.0) / piece.length if after in turns else 1.0
        if t1 - t0 > 1e-9:
            out.append(piece.cut(t0, t1) if (t0 > 0 or t1 < 1) else piece)
        if after in turns:
            made = radius * share[after]
            if share[after] < 1 - 1e-9:
                clamped.append((piece.end, made))
            way = piece.tangent(1.0)
            left = np.sign(turns[after])
            start = piece.end - wanted[after] * share[after] * way
            centre = start + left * made * np.array([-way[1], way[0]])
            first = float(np.arctan2(*(start - centre)[::-1]))
            out.append(ArcPiece(centre, made, first, turns[after]))
    return Path(tuple(out), path.closed), clamped


def matched_offset(path: Path, distance: float) -> Path | None:
    """The path at ``distance`` (m) to its left, piece for piece: neighbours meet where their offsets do.

    The result has as many pieces as the path and its parameters. ``None`` where a piece would vanish or the offsets of
    neighbours do not meet.
    """
    moved = [p.offset(distance) for p in path.pieces]
    if any(m is None for m in moved):
        return None
    pieces: list[Piece] = [m for m in moved if m is not None]
    count = len(pieces)
    for i in range(count if path.closed else count - 1):
        j = (i + 1) % count
        if np.linalg.norm(pieces[i].end - pieces[j].start) < 1e-9 * max(path.size, 1e-9):
            continue
        met = _meeting(pieces[i], pieces[j])
        if met is None:
            return None
        pieces[i], pieces[j] = _ending_at(pieces[i], met), _starting_at(pieces[j], met)
    for old, new in zip(path.pieces, pieces, strict=True):
        if old.tangent(0.5) @ new.tangent(0.5) < 0.2:
            return None
    return Path(tuple(pieces), path.closed, path.knots)


def _meeting(p: Piece, q: Piece) -> Array | None:
    """Where two pieces, run on as far as it takes, meet nearest to their ends."""
    near = (p.end + q.start) / 2
    found: list[Array] = []
    if isinstance(p, LinePiece) and isinstance(q, LinePiece):
        d, e = p.tangent(0.0), q.tangent(0.0)
        det = _cross(d, e)
        if abs(det) > 1e-12:
            found = [p.a + d * _cross(q.a - p.a, e) / det]
    elif isinstance(p, ArcPiece) and isinstance(q, ArcPiece):
        found = _circle_circle(p, q)
    elif isinstance(p, LinePiece) and isinstance(q, ArcPiece):
        found = _line_circle(p, q)
    elif isinstance(p, ArcPiece) and isinstance(q, LinePiece):
        found = _line_circle(q, p)
    else:
        hits = crossings(Path((p,), False), Path((q,), False))
        return hits[0][2] if hits else near
    return min(found, key=lambda x: float(np.linalg.norm(x - near))) if found else None


def _line_circle(line: LinePiece, arc: ArcPiece) -> list[Array]:
    way = line.tangent(0.0)
    foot = line.a + way * ((arc.centre - line.a) @ way)
    square = arc.radius**2 - float((foot - arc.centre) @ (foot - arc.centre))
    if square < -1e-9 * arc.radius**2:
        return []
    half = np.sqrt(max(square, 0.0))
    return [foot - half * way, foot + half * way]


def _circle_circle(p: ArcPiece, q: ArcPiece) -> list[Array]:
    d = q.centre - p.centre
    apart = float(np.linalg.norm(d))
    if apart < 1e-12:
        return []
    along = (apart**2 + p.radius**2 - q.radius**2) / (2 * apart)
    square = p.radius**2 - along**2
    if square < -1e-9 * p.radius**2:
        return []
    way, half = d / apart, np.sqrt(max(square, 0.0))
    side = np.array([-way[1], way[0]])
    return [p.centre + along * way + s * half * side for s in (-1, 1)]


def _ending_at(piece: Piece, place: Array) -> Piece:
    if isinstance(piece, LinePiece):
        return LinePiece(piece.a, place)
    if isinstance(piece, ArcPiece):
        last = float(np.arctan2(*(place - piece.centre)[::-1]))
        ahead = (last - piece.first) * np.sign(piece.sweep) % (2 * np.pi)
        return ArcPiece(piece.centre, piece.radius, piece.first, float(np.sign(piece.sweep) * ahead))
    return LinePiece(piece.start, place)


def _starting_at(piece: Piece, place: Array) -> Piece:
    return _ending_at(piece.reversed(), place).reversed()


def offset(path: Path, distance: float, tolerance: float) -> list[Path]:
    """Paths at ``distance`` (m) to the left; to the right when negative. Corners on the far side are rounded.

    Piece for piece where that does not cross itself, so that arcs stay arcs; otherwise the parts of the offset that lie
    nowhere nearer than ``distance``, as straight runs within ``tolerance`` (m).
    """
    exact = _rounded_offset(path, distance)
    if exact is not None:
        line = exact.polygon(tolerance)
        ring = shapely.LinearRing(line) if exact.closed else shapely.LineString(line)
        if ring.is_simple and abs(_nearest(ring, path, tolerance) - abs(distance)) < 10 * tolerance:
            return [exact]
    points = path.polygon(tolerance)
    segments = int(np.clip(np.ceil(np.pi / 4 / np.arccos(max(1 - tolerance / max(abs(distance), 1e-12), 0.0))), 2, 128))
    if path.closed:
        polygon = shapely.Polygon(points).buffer(0)
        outward = distance * (-1 if path.signed_area > 0 else 1)
        grown = polygon.buffer(outward, quad_segs=segments)
        rings = [r for g in shapely.get_parts(grown) for r in (g.exterior, *g.interiors)]
        turned = 1 if path.signed_area > 0 else -1
        out = [np.asarray(r.coords)[:-1] for r in rings if r.length > 4 * tolerance]
        return [closed_polygon(r if shapely.LinearRing(r).is_ccw == (turned > 0) else r[::-1]) for r in out]
    moved = shapely.offset_curve(shapely.LineString(points), distance, quad_segs=segments)
    return [polyline_path(np.asarray(g.coords)) for g in shapely.get_parts(moved) if g.length > 4 * tolerance]


def _nearest(ring: shapely.Geometry, path: Path, tolerance: float) -> float:
    points = path.polygon(tolerance)
    line = shapely.LinearRing(points) if path.closed else shapely.LineString(points)
    ends = shapely.points(shapely.get_coordinates(ring))
    return float(shapely.distance(line, ends).min())


def _rounded_offset(path: Path, distance: float) -> Path | None:
    """Offset with arcs round the outside of corners; ``None`` where a piece vanishes or neighbours do not meet."""
    moved = [p.offset(distance) for p in path.pieces]
    if any(m is None for m in moved):
        return None
    pieces: list[Piece] = [m for m in moved if m is not None]
    out: list[Piece] = []
    count = len(pieces)
    for i in range(count):
        out.append(pieces[i])
        if i == count - 1 and not path.closed:
            break
        j = (i + 1) % count
        if np.linalg.norm(pieces[i].end - pieces[j].start) < 1e-9 * max(path.size, 1e-9):
            continue
        a, b = path.pieces[i].tangent(1.0), path.pieces[j].tangent(0.0)
        turn = float(np.arctan2(_cross(a, b), a @ b))
        if turn * distance < 0:  # the outside of the corner opens
            corner = path.pieces[i].end
            first = float(np.arctan2(*(pieces[i].end - corner)[::-1]))
            out.append(ArcPiece(corner, abs(distance), first, turn))
            continue
        met = _meeting(pieces[i], pieces[j])
        if met is None:
            return None
        out[-1] = _ending_at(pieces[i], met)
        pieces[j] = _starting_at(pieces[j], met)
        if j == 0:
            out[0] = _starting_at(out[0], met)
    return Path(tuple(out), path.closed)


def resample(path: Path, count: int) -> Array:
    """``count`` points (n, 2) at even lengths along the path, the ends of an open one among them."""
    t = np.linspace(0, 1, max(513, 8 * count))
    p = path.derivatives(t if not path.closed else np.where(t == 1.0, 0.0, t))
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    target = np.linspace(0, run[-1], count + 1)[:-1] if path.closed else np.linspace(0, run[-1], count)
    return path.derivatives(np.interp(target, run, t) % 1.0 if path.closed else np.interp(target, run, t))


def smooth(path: Path, count: int, rounds: int) -> Path:
    """A curve through ``count`` points of the path, each drawn ``rounds`` times half way to the middle of its neighbours;
    the ends of an open path stay (Laplacian smoothing with the shrinkage taken back; Taubin, 1995)."""
    p = resample(path, count)
    for _ in range(rounds):
        for factor in (0.5, -0.53):
            middle = (np.roll(p, 1, axis=0) + np.roll(p, -1, axis=0)) / 2 - p
            if not path.closed:
                middle[[0, -1]] = 0.0
            p = p + factor * middle
    return cubics_through(p, path.closed)
