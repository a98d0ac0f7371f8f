"""Operations on paths in a plane: corners rounded, offsets, trims, joins, unions."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon, cubics_through, polyline_path
from ..geometry.paths import ArcPiece, LinePiece, Path, Piece

__all__ = [
    "crossings", "extend", "join", "keep_side", "matched_offset", "offset", "resample", "round_corners", "smooth",
    "split_evenly", "unite",
]  # fmt: skip

Array = NDArray[np.float64]
TOUCH = 1e-9
"""Shares of a path's size closer than which two places are one."""


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


def crossings(one: Path, two: Path) -> list[tuple[float, float, Array]]:
    """Places where two paths cross: the parameter on each (piece number + share) and the place (2,), along ``one``.

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
    if np.any(a.max(axis=0) < b.min(axis=0) - 0.02 * size) or np.any(b.max(axis=0) < a.min(axis=0) - 0.02 * size):
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
        x, y = ts[0][i] + s[i, j] * (ts[0][1] - ts[0][0]), ts[1][j] + t[i, j] * (ts[1][1] - ts[1][0])
        for _ in range(12):
            gap = p.derivatives(np.array([x]))[0] - q.derivatives(np.array([y]))[0]
            jacobian = np.column_stack([p.derivatives(np.array([x]), 1)[0], -q.derivatives(np.array([y]), 1)[0]])
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
    """The open part from ``first`` to ``last`` (piece number + share); past the end of a closed path it goes on."""
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
        i = int(np.clip(np.searchsorted(lengths, target, side="right") - 1, 0, len(path.pieces) - 1))
        t = np.linspace(0, 1, 65)
        p = path.pieces[i].derivatives(t)
        run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
        run *= path.pieces[i].length / max(run[-1], 1e-300)
        places.append(i + float(np.interp(target - lengths[i], run, t)))
    return split_at(path, places)


def keep_side(path: Path, cutter: Path, keep: str) -> list[Path]:
    """The parts of ``path`` on one side of ``cutter``: ``"inside"`` or ``"outside"`` a closed one, ``"left"`` or
    ``"right"`` of an open one."""
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
            kept = (_cross(ahead, middle - foot) > 0) == (keep in ("inside", "left"))
        if kept:
            out.append(part)
    return out


def extend(path: Path, to: Path) -> Path:
    """An open path run on from both ends, straight on or along its last arc, until it meets ``to``; an end that does
    not meet it stays."""
    if path.closed:
        return path
    reach = 4 * (path.size + to.size)
    for _ in range(2):
        last = path.pieces[-1]
        longer: Piece
        if isinstance(last, ArcPiece):
            longer = ArcPiece(last.centre, last.radius, last.first + last.sweep,
                              float(np.sign(last.sweep) * (2 * np.pi - abs(last.sweep))) * 0.999)  # fmt: skip
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
    """Open paths whose ends meet within ``tolerance`` (m), made one; a run that returns to its start is closed."""
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
        closed = len(pieces) > 1 and bool(np.linalg.norm(pieces[0].start - pieces[-1].end) <= tolerance)
        out.append(Path(tuple(pieces), closed))
    return out


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


def unite(paths: Sequence[Path], tolerance: float) -> list[Path]:
    """Outlines of the area that closed paths cover together, counter-clockwise, openings clockwise.

    Pieces are cut where paths cross and kept where they lie in no other, so that arcs stay arcs. Where outlines run
    along each other, straight runs within ``tolerance`` (m) are given instead.
    """
    closed = [p if p.signed_area > 0 else p.reversed() for p in paths if p.closed]
    polygons = [shapely.Polygon(p.polygon(tolerance)).buffer(0) for p in closed]
    whole = shapely.union_all(polygons)
    parts: list[Path] = []
    for i, path in enumerate(closed):
        cuts = [hit[0] for j, other in enumerate(closed) if j != i for hit in crossings(path, other)]
        for part in split_at(path, cuts) if cuts else [path]:
            middle = shapely.Point(part.derivatives(np.array([0.5]))[0])
            inner = any(
                j != i and polygons[j].contains(middle) and polygons[j].exterior.distance(middle) > 2 * tolerance
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
        outer = np.asarray(shapely.remove_repeated_points(g.exterior.simplify(tolerance / 2)).coords)[:-1]
        out.append(closed_polygon(outer if shapely.LinearRing(outer).is_ccw else outer[::-1]))
        for hole in g.interiors:
            inner_ring = np.asarray(hole.simplify(tolerance / 2).coords)[:-1]
            out.append(closed_polygon(inner_ring[::-1] if shapely.LinearRing(inner_ring).is_ccw else inner_ring))
    return out


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
