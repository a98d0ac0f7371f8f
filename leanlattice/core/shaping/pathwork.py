"""Paths changed: corners rounded, offsets, even points, easing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.drawing import closed_polygon, cubics_through, polyline_path
from ..geometry.paths import ArcPiece, LinePiece, Path, Piece
from .pathcuts import crossings

__all__ = ["Rounded", "matched_offset", "offset", "resample", "round_corners", "smooth"]

Array = NDArray[np.float64]


def _cross(a: Array, b: Array) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


@dataclass(frozen=True, eq=False)
class Rounded:
    """A path with rounded corners; the corners where less fitted, with the radius (m) made there,
    and the places (2,) of corners that stay, as one of their pieces is neither a line nor an arc.
    """

    path: Path
    clamped: list[tuple[Array, float]]
    left: list[Array]


@dataclass(frozen=True, eq=False)
class _Fillet:
    """An arc that leaves one piece at ``before`` of it and joins the next at ``after`` of that."""

    before: float
    after: float
    arc: ArcPiece


def round_corners(path: Path, radius: float) -> Rounded:
    """The path with arcs of ``radius`` (m) at corners between lines and arcs.

    A corner between two lines takes up r · tan(turn / 2) of each. Where the sum of what its two
    corners ask of a line is more than the line has, both radii are scaled to what fits. At a corner
    with an arc the radius is the largest that fits, up to the one asked for, where each piece gives
    as much as it has, or half of it if it has a corner at its other end too.
    """
    pieces, count = path.pieces, len(path.pieces)
    turns = _turns(path)
    plain = {i for i in turns if _both(path, i, (LinePiece,))}
    with_arcs = {i for i in turns if i not in plain and _both(path, i, (LinePiece, ArcPiece))}
    left = [pieces[i].end for i in sorted(set(turns) - plain - with_arcs)]
    radii = _fitting_radii(path, {i: turns[i] for i in plain}, with_arcs, radius)
    fillets: dict[int, _Fillet] = {}
    clamped: list[tuple[Array, float]] = []
    for i in sorted(plain | with_arcs):
        if i in plain:
            made, fillet = radii[i], _line_fillet(path, i, turns[i], radii[i])
        else:
            shares = tuple(
                0.5 if other % count in turns and other % count != i else 1.0
                for other in (i - 1, i + 1)
            )
            made, found = _arc_fillet(path, i, turns[i], radius, shares)
            if found is None:
                left.append(pieces[i].end)
                continue
            fillet = found
        fillets[i] = fillet
        if made < radius * (1 - 1e-9):
            clamped.append((pieces[i].end, made))
    out: list[Piece] = []
    for i, piece in enumerate(pieces):
        last = (i - 1) % count if path.closed or i else -1
        t0 = fillets[last].after if last in fillets else 0.0
        t1 = fillets[i].before if i in fillets else 1.0
        if t1 - t0 > 1e-9:
            out.append(piece.cut(t0, t1) if (t0 > 0 or t1 < 1) else piece)
        if i in fillets:
            out.append(fillets[i].arc)
    return Rounded(Path(tuple(out), path.closed), clamped, left)


def _turns(path: Path) -> dict[int, float]:
    """Angles (rad) through which the path turns between a piece, by its position, and the next."""
    out = {}
    count = len(path.pieces)
    for i in range(count if path.closed else count - 1):
        a, b = path.pieces[i].tangent(1.0), path.pieces[(i + 1) % count].tangent(0.0)
        turn = float(np.arctan2(_cross(a, b), a @ b))
        if 1e-6 < abs(turn) < np.pi - 1e-6:
            out[i] = turn
    return out


def _both(path: Path, i: int, kinds: tuple[type[Piece], ...]) -> bool:
    pieces = path.pieces
    return isinstance(pieces[i], kinds) and isinstance(pieces[(i + 1) % len(pieces)], kinds)


def _fitting_radii(
    path: Path, plain: dict[int, float], with_arcs: set[int], radius: float
) -> dict[int, float]:
    """Radii at corners between lines that fit beside each other."""
    count = len(path.pieces)
    wanted = {i: radius * np.tan(abs(turn) / 2) for i, turn in plain.items()}
    share = dict.fromkeys(wanted, 1.0)
    for i, piece in enumerate(path.pieces):
        ends = [k for k in ((i - 1) % count, i) if k in wanted]
        room = piece.length / (2 if {(i - 1) % count, i} & with_arcs else 1)
        asked = sum(wanted[k] for k in ends)
        if asked > room * (1 - 1e-12):
            for k in ends:
                share[k] = min(share[k], room / max(asked, 1e-300))
    return {i: radius * share[i] for i in plain}


def _line_fillet(path: Path, i: int, turn: float, radius: float) -> _Fillet:
    piece, following = path.pieces[i], path.pieces[(i + 1) % len(path.pieces)]
    taken = radius * np.tan(abs(turn) / 2)
    way = piece.tangent(1.0)
    start = piece.end - taken * way
    centre = start + np.sign(turn) * radius * np.array([-way[1], way[0]])
    first = float(np.arctan2(*(start - centre)[::-1]))
    return _Fillet(
        1 - taken / piece.length, taken / following.length, ArcPiece(centre, radius, first, turn)
    )


def _arc_fillet(
    path: Path, i: int, turn: float, radius: float, shares: tuple[float, ...]
) -> tuple[float, _Fillet | None]:
    """The largest radius up to the one asked for whose arc fits, and the arc."""
    whole = _tangent_arc(path, i, turn, radius, shares)
    if whole is not None:
        return radius, whole
    low, high, best = 0.0, radius, None
    for _ in range(40):
        middle = (low + high) / 2
        found = _tangent_arc(path, i, turn, middle, shares)
        if found is None:
            high = middle
        else:
            low, best = middle, found
    return low, best


def _tangent_arc(
    path: Path, i: int, turn: float, radius: float, shares: tuple[float, ...]
) -> _Fillet | None:
    """An arc that touches both pieces of a corner: its centre is where their offsets meet."""
    p, q = path.pieces[i], path.pieces[(i + 1) % len(path.pieces)]
    side = float(np.sign(turn)) * radius
    moved = p.offset(side), q.offset(side)
    if moved[0] is None or moved[1] is None:
        return None
    centre = _meeting(moved[0], moved[1])
    if centre is None:
        return None
    before, after = _foot(p, centre), _foot(q, centre)
    if not (1 - shares[0] - 1e-9 <= before < 1 and 0 < after <= shares[1] + 1e-9):
        return None
    start, end = p.derivatives(np.array([before]))[0], q.derivatives(np.array([after]))[0]
    first, last = (float(np.arctan2(*(x - centre)[::-1])) for x in (start, end))
    sweep = (last - first) * np.sign(turn) % (2 * np.pi) * np.sign(turn)
    if abs(sweep) > np.pi:
        return None
    return _Fillet(before, after, ArcPiece(centre, radius, first, float(sweep)))


def _foot(piece: Piece, place: Array) -> float:
    """Where on a line or an arc, run on, the nearest place to one is; −1 where that lies behind."""
    if isinstance(piece, LinePiece):
        way = piece.b - piece.a
        return float((place - piece.a) @ way / (way @ way))
    assert isinstance(piece, ArcPiece)
    angle = float(np.arctan2(*(place - piece.centre)[::-1]))
    ahead = (angle - piece.first) * np.sign(piece.sweep) % (2 * np.pi)
    return float(ahead / abs(piece.sweep))


def matched_offset(path: Path, distance: float) -> Path | None:
    """The path at ``distance`` (m) to its left, piece for piece: neighbours meet where their
    offsets do.

    The result has as many pieces as the path and its parameters. ``None`` where a piece would
    vanish or the offsets of neighbours do not meet.
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
        return ArcPiece(
            piece.centre, piece.radius, piece.first, float(np.sign(piece.sweep) * ahead)
        )
    return LinePiece(piece.start, place)


def _starting_at(piece: Piece, place: Array) -> Piece:
    return _ending_at(piece.reversed(), place).reversed()


def offset(path: Path, distance: float, tolerance: float) -> list[Path]:
    """Paths at ``distance`` (m) to the left; to the right when negative. Corners on the far side
    are rounded.

    Piece for piece where that does not cross itself, so that arcs stay arcs; otherwise the parts of
    the offset that lie nowhere nearer than ``distance``, as straight runs within ``tolerance`` (m).
    """
    exact = _rounded_offset(path, distance)
    if exact is not None:
        line = exact.polygon(tolerance)
        ring = shapely.LinearRing(line) if exact.closed else shapely.LineString(line)
        if ring.is_simple and abs(_nearest(ring, path, tolerance) - abs(distance)) < 10 * tolerance:
            return [exact]
    points = path.polygon(tolerance)
    segments = int(
        np.clip(
            np.ceil(np.pi / 4 / np.arccos(max(1 - tolerance / max(abs(distance), 1e-12), 0.0))),
            2,
            128,
        )
    )
    if path.closed:
        polygon = shapely.Polygon(points).buffer(0)
        outward = distance * (-1 if path.signed_area > 0 else 1)
        grown = polygon.buffer(outward, quad_segs=segments)
        rings = [r for g in shapely.get_parts(grown) for r in (g.exterior, *g.interiors)]
        turned = 1 if path.signed_area > 0 else -1
        out = [np.asarray(r.coords)[:-1] for r in rings if r.length > 4 * tolerance]
        return [
            closed_polygon(r if shapely.LinearRing(r).is_ccw == (turned > 0) else r[::-1])
            for r in out
        ]
    moved = shapely.offset_curve(shapely.LineString(points), distance, quad_segs=segments)
    return [
        polyline_path(np.asarray(g.coords))
        for g in shapely.get_parts(moved)
        if g.length > 4 * tolerance
    ]


def _nearest(ring: shapely.Geometry, path: Path, tolerance: float) -> float:
    points = path.polygon(tolerance)
    line = shapely.LinearRing(points) if path.closed else shapely.LineString(points)
    ends = shapely.points(shapely.get_coordinates(ring))
    return float(shapely.distance(line, ends).min())


def _rounded_offset(path: Path, distance: float) -> Path | None:
    """Offset with arcs round the outside of corners; ``None`` where a piece vanishes or neighbours
    do not meet."""
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
    """``count`` points (n, 2) at even lengths along the path, the ends of an open one among
    them."""
    t = np.linspace(0, 1, max(513, 8 * count))
    p = path.derivatives(t if not path.closed else np.where(t == 1.0, 0.0, t))
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    target = (
        np.linspace(0, run[-1], count + 1)[:-1] if path.closed else np.linspace(0, run[-1], count)
    )
    return path.derivatives(
        np.interp(target, run, t) % 1.0 if path.closed else np.interp(target, run, t)
    )


def smooth(path: Path, count: int, rounds: int) -> Path:
    """A curve through ``count`` points of the path, each drawn ``rounds`` times half way to the
    middle of its neighbours; the ends of an open path stay (Laplacian smoothing with the shrinkage
    taken back; Taubin, 1995)."""
    p = resample(path, count)
    for _ in range(rounds):
        for factor in (0.5, -0.53):
            middle = (np.roll(p, 1, axis=0) + np.roll(p, -1, axis=0)) / 2 - p
            if not path.closed:
                middle[[0, -1]] = 0.0
            p = p + factor * middle
    return cubics_through(p, path.closed)
