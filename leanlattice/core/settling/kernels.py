"""Compiled loops of the relaxation: each adds what its aim pulls with to the vertices."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.polygons import best_plane

__all__ = [
    "bound_edges",
    "edge_steps",
    "farthest",
    "group_means",
    "inverted",
    "largest",
    "mean_size",
    "nearest_on_curves",
    "packed",
    "pull_areas",
    "pull_edges",
    "pull_film",
    "pull_flat",
    "pull_lengths",
    "pull_right",
    "relaxed",
    "times",
]

Array = NDArray[np.float64]
Index = NDArray[np.integer]


NEWTON_STEPS, AT_END = 12, 1e-9
"""Steps to the nearest place of a curve, and the share of a piece that counts as its end."""


@compiled
def edge_steps(x: Array, edges: Index, difference: Array, length: Array) -> None:
    """Fills in the ``difference`` (m, 3) of the ends of edges (m, 2) at ``x`` (V, 3), and their
    ``length`` (m,), none of them 0."""
    for e in range(len(edges)):
        a, b = edges[e, 0], edges[e, 1]
        square = 0.0
        for k in range(3):
            difference[e, k] = x[b, k] - x[a, k]
            square += difference[e, k] ** 2
        length[e] = max(np.sqrt(square), 1e-12)


@compiled
def pull_edges(x: Array, edges: Index, along: Array, out: Array) -> None:
    """Adds to ``out`` (V, 3) the pull of edges (m, 2) with force densities ``along`` (m,), on their
    second ends outward."""
    for e in range(len(edges)):
        # Unsigned, a number needs not be looked at for counting from the end.
        a, b = np.uint64(edges[e, 0]), np.uint64(edges[e, 1])
        for k in range(3):
            f = along[e] * (x[b, k] - x[a, k])
            out[b, k] += f
            out[a, k] -= f


@compiled
def bound_edges(x: Array, edges: Index, along: Array, across: Array, out: Array) -> None:
    """Of places ``x`` (V, 3), adds to ``out`` (V, 3, 3) twice the stiffness of edges, ``along`` and
    ``across`` them (m,), at both their ends."""
    u = np.empty(3)
    for e in range(len(edges)):
        a, b = edges[e, 0], edges[e, 1]
        length = 0.0
        for k in range(3):
            u[k] = x[b, k] - x[a, k]
            length += u[k] * u[k]
        length = max(np.sqrt(length), 1e-12)
        for k in range(3):
            u[k] /= length
        for k in range(3):
            for j in range(3):
                stiff = 2 * (along[e] - across[e]) * u[k] * u[j]
                if j == k:
                    stiff += 2 * across[e]
                out[a, k, j] += stiff
                out[b, k, j] += stiff


@compiled
def _squared_lengths(x: Array, edges: Index, out: Array) -> None:
    for e in range(len(edges)):
        a, b = np.uint64(edges[e, 0]), np.uint64(edges[e, 1])
        dx, dy, dz = x[b, 0] - x[a, 0], x[b, 1] - x[a, 1], x[b, 2] - x[a, 2]
        out[e] = dx * dx + dy * dy + dz * dz


@compiled
def _densities(squares: Array, weights: Array, least: Array, most: Array) -> None:
    """Puts force densities (m,) in the place of squared lengths; nothing is looked up on the way,
    so that several edges are worked out at once."""
    for e in range(len(squares)):
        length = np.sqrt(squares[e])
        length = length if length > 1e-12 else 1e-12
        wanted = length if length > least[e] else least[e]
        wanted = wanted if wanted < most[e] else most[e]
        squares[e] = weights[e] * (1 - wanted / length)


@compiled
def group_means(values: Array, group: Index) -> Array:
    """The mean (m,) of the values (m,) of each one's ``group`` (m,), counted from 0."""
    count = 0
    for e in range(len(group)):
        count = max(count, group[e] + 1)
    total, number = np.zeros(count), np.zeros(count)
    for e in range(len(group)):
        total[group[e]] += values[e]
        number[group[e]] += 1
    out = np.empty(len(values))
    for e in range(len(group)):
        out[e] = total[group[e]] / number[group[e]]
    return out


@compiled
def pull_lengths(
    x: Array, edges: Index, weights: Array, least: Array, most: Array, group: Index, out: Array
) -> None:
    """Adds to ``out`` (V, 3) the pull, by ``weights`` (m,), of edges of places ``x`` (V, 3) drawn
    to lengths between ``least`` and ``most`` (m,), or to the mean of their ``group`` (m,), counted
    from 0, where these are in some."""
    along = np.empty(len(edges))
    _squared_lengths(x, edges, along)
    if len(group) > 0:
        mean = group_means(np.sqrt(along), group)
        _densities(along, weights, mean, mean)
    else:
        _densities(along, weights, least, most)
    pull_edges(x, edges, along, out)


@compiled
def pull_flat(x: Array, corners: Index, offsets: Index, weights: Array, out: Array) -> None:
    """Adds to ``out`` (V, 3) the pull of corners at ``x`` (V, 3) away from the best planes of their
    cells, which begin at ``offsets``, ``weights`` (corners,) times the distance."""
    for c in range(len(offsets) - 1):
        low, high = offsets[c], offsets[c + 1]
        if high - low < 4:
            continue
        mx, my, mz, nx, ny, nz = best_plane(x, corners[low:high])
        for k in range(low, high):
            v = corners[k]
            off = weights[k] * ((x[v, 0] - mx) * nx + (x[v, 1] - my) * ny + (x[v, 2] - mz) * nz)
            out[v, 0] += off * nx
            out[v, 1] += off * ny
            out[v, 2] += off * nz


@compiled
def pull_film(x: Array, triangles: Index, tension: Array, out: Array) -> None:
    """Adds the gradient of the areas of ``triangles`` (m, 3) times their ``tension`` (m,)."""
    for t in range(len(triangles)):
        i, j, k = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ax, ay, az = x[j, 0] - x[i, 0], x[j, 1] - x[i, 1], x[j, 2] - x[i, 2]
        bx, by, bz = x[k, 0] - x[i, 0], x[k, 1] - x[i, 1], x[k, 2] - x[i, 2]
        nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        size = np.sqrt(nx * nx + ny * ny + nz * nz)
        if size < 1e-14:
            continue
        s = tension[t] / (2 * size)
        nx, ny, nz = nx * s, ny * s, nz * s
        # The area grows by half the normal crossed with the opposite side.
        gx, gy, gz = by * nz - bz * ny, bz * nx - bx * nz, bx * ny - by * nx
        hx, hy, hz = ny * az - nz * ay, nz * ax - nx * az, nx * ay - ny * ax
        out[j, 0] += gx
        out[j, 1] += gy
        out[j, 2] += gz
        out[k, 0] += hx
        out[k, 1] += hy
        out[k, 2] += hz
        out[i, 0] -= gx + hx
        out[i, 1] -= gy + hy
        out[i, 2] -= gz + hz


@compiled
def pull_areas(
    x: Array, corners: Index, offsets: Index, pressures: Array, normals: Array, out: Array
) -> None:
    """Adds to ``out`` (V, 3) the gradients of the areas of cells (C,) of places ``x`` (V, 3), with
    the ``corners`` between their ``offsets`` and unit ``normals`` (C, 3), times their
    ``pressures`` (kN/m)."""
    for c in range(len(offsets) - 1):
        low, high = offsets[c], offsets[c + 1]
        nx, ny, nz = normals[c, 0], normals[c, 1], normals[c, 2]
        half = pressures[c] / 2
        for i in range(low, high):
            q, p = corners[i + 1 if i + 1 < high else low], corners[i - 1 if i > low else high - 1]
            dx, dy, dz = x[q, 0] - x[p, 0], x[q, 1] - x[p, 1], x[q, 2] - x[p, 2]
            v = corners[i]
            out[v, 0] += half * (dy * nz - dz * ny)
            out[v, 1] += half * (dz * nx - dx * nz)
            out[v, 2] += half * (dx * ny - dy * nx)


@compiled
def pull_right(x: Array, corners: Index, weights: Array, out: Array) -> None:
    """Adds the gradients of half the squared cosines at corners (m, 3), times their ``weights``
    (kNm)."""
    u, v = np.empty(3), np.empty(3)
    for c in range(len(corners)):
        i, j, k = corners[c, 0], corners[c, 1], corners[c, 2]
        la = lb = cosine = 0.0
        for d in range(3):
            u[d], v[d] = x[i, d] - x[j, d], x[k, d] - x[j, d]
            la += u[d] * u[d]
            lb += v[d] * v[d]
        la, lb = max(np.sqrt(la), 1e-12), max(np.sqrt(lb), 1e-12)
        for d in range(3):
            u[d] /= la
            v[d] /= lb
            cosine += u[d] * v[d]
        for d in range(3):
            f = weights[c] * cosine * (v[d] - cosine * u[d]) / la
            g = weights[c] * cosine * (u[d] - cosine * v[d]) / lb
            out[i, d] += f
            out[k, d] += g
            out[j, d] -= f + g


@compiled
def _along_piece(form: Array, turn: Array, t: float, out: Array) -> None:
    """Place, first and second derivative (3, 3) at t of c₀ + c₁ t + c₂ t² + c₃ t³ + X cos φ + Y sin
    φ with φ = first + sweep · t, the rows of ``form`` being c₀ … c₃, X and Y."""
    angle, sweep = turn[0] + turn[1] * t, turn[1]
    c, s = np.cos(angle), np.sin(angle)
    for k in range(3):
        c0, c1, c2, c3, x, y = (
            form[0, k],
            form[1, k],
            form[2, k],
            form[3, k],
            form[4, k],
            form[5, k],
        )
        out[0, k] = c0 + t * (c1 + t * (c2 + t * c3)) + x * c + y * s
        out[1, k] = c1 + t * (2 * c2 + t * 3 * c3) + sweep * (y * c - x * s)
        out[2, k] = 2 * c2 + 6 * t * c3 - sweep * sweep * (x * c + y * s)


@compiled
def _nearest_chord(x: Array, start: Array, step: Array) -> tuple[int, float]:
    """Of chords ``start`` + [0, 1] ``step`` (m, 3) the one nearest to a place (3,), and where on
    it."""
    nearest, best, where = np.inf, 0, 0.0
    for s in range(len(start)):
        length2, share = 1e-300, 0.0
        for k in range(3):
            length2 += step[s, k] * step[s, k]
            share += (x[k] - start[s, k]) * step[s, k]
        share = min(1.0, max(0.0, share / length2))
        away = 0.0
        for k in range(3):
            off = start[s, k] + share * step[s, k] - x[k]
            away += off * off
        if away < nearest:
            nearest, best, where = away, s, share
    return best, where


@compiled
def _span_across(w: Array, across: Array) -> None:
    """Two unit directions (2, 3) square to w: the axis least along it spans the plane across it."""
    least = int(np.argmin(np.abs(w)))
    a, b, c = w[least], w[(least + 1) % 3], w[(least + 2) % 3]
    flat, size = np.sqrt(b * b + c * c), np.sqrt(a * a + b * b + c * c)
    across[0, least], across[0, (least + 1) % 3], across[0, (least + 2) % 3] = (
        0.0,
        -c / flat,
        b / flat,
    )
    across[1, least] = flat / size
    across[1, (least + 1) % 3] = -a * b / (flat * size)
    across[1, (least + 2) % 3] = -a * c / (flat * size)


@compiled
def _foot(
    x: Array, span: Array, where: float, form: Array, turn: Array, c: Array
) -> tuple[float, float]:
    """Parameter of the place of a smooth piece nearest to one (3,), by Newton steps from ``where`` on its
    chord and no further than a chord beyond, and the square of the distance; ``c`` is filled with place
    and derivatives there."""
    size = span[1] - span[0]
    low, high = max(span[0] - size, 0.0), min(span[1] + size, 1.0)
    t = span[0] + where * size
    for _ in range(NEWTON_STEPS):
        _along_piece(form, turn, t, c)
        slope = speed2 = bend = 0.0
        for k in range(3):
            off = c[0, k] - x[k]
            slope += off * c[1, k]
            speed2 += c[1, k] * c[1, k]
            bend += off * c[2, k]
        curve = speed2 + bend
        new = t - slope / (curve if curve > 0.1 * speed2 else speed2)
        new = min(max(new, low), high)
        if abs(new - t) < 1e-15:
            break
        t = new
    _along_piece(form, turn, t, c)
    away = 0.0
    for k in range(3):
        away += (c[0, k] - x[k]) ** 2
    return t, away


@compiled
def nearest_on_curves(
    x: Array,
    start: Array,
    step: Array,
    span: Array,
    piece: NDArray[np.int64],
    form: Array,
    turn: Array,
    straight: NDArray[np.bool_],
    ways: Array,
    ends: NDArray[np.bool_],
    beside: NDArray[np.int64],
    corners: Array,
    at: Array,
    across: Array,
    back: Array,
    out_of: Array,
    along: Array,
) -> None:
    """The nearest places (n, 3) on curves, from their nearest chord by Newton steps on the true
    curve, and from the chord beside it where these lead to the end of a piece.

    Parameters
    ----------
    x : (n, 3) places
    start, step : (m, 3) chords of the curves' pieces
    span : (m, 2) parameters of their piece between which chords run
    piece : (m,) the piece of each chord, with its ``form`` (p, 6, 3) and ``turn`` (p, 2) as in
        ``_along_piece``, and whether it is ``straight`` (p,)
    ways : (m, 2, 3) unit directions at both ends of a chord, between which that of a straight one runs
        evenly
    ends : (m, 2) whether a curve ends there
    beside : (m, 2) the chord before and the one after
    corners : (m, 2, 2, 3) where a curve has a corner there, both unit directions out of it, else 0
    at, across, back, out_of, along : (n, 3), (n, 2, 3), (n, 3), (n, 2, 3) and (n,), filled: nearest
        places, two unit directions across the way there, the direction back where a curve ends, both out
        of a corner, and how far along all chords the place is, counted in chords
    """
    w, c, d = np.empty(3), np.empty((3, 3)), np.empty((3, 3))
    for i in range(len(x)):
        best, where = _nearest_chord(x[i], start, step)
        own = piece[best]
        t = where
        if not straight[own]:
            t, away = _foot(x[i], span[best], where, form[own], turn[own], c)
            side = 0 if t <= AT_END else 1 if t >= 1.0 - AT_END else -1
            if side >= 0 and not ends[best, side]:
                other = beside[best, side]
                if piece[other] != own and not straight[piece[other]]:
                    near = piece[other]
                    u, less = _foot(x[i], span[other], 1.0 - side, form[near], turn[near], d)
                    if less < away:
                        best, own, t = other, near, u
                        c[:] = d
        if straight[own]:
            along[i] = best + where
            for k in range(3):
                at[i, k] = start[best, k] + where * step[best, k]
                w[k] = ways[best, 0, k] + where * (ways[best, 1, k] - ways[best, 0, k])
        else:
            speed = np.sqrt(c[1, 0] ** 2 + c[1, 1] ** 2 + c[1, 2] ** 2)
            for k in range(3):
                at[i, k], w[k] = c[0, k], c[1, k] / speed
            where = (t - span[best, 0]) / (span[best, 1] - span[best, 0])
            along[i] = best + min(max(where, 0.0), 1.0)
            # Where its own piece ends, so does the chord.
            where = 0.0 if t <= AT_END else 1.0 if t >= 1.0 - AT_END else 0.5
            if (where == 0.0 and span[best, 0] > 0.0) or (where == 1.0 and span[best, 1] < 1.0):
                where = 0.5
        side = 0 if where <= AT_END else 1 if where >= 1.0 - AT_END else -1
        for k in range(3):
            back[i, k] = 0.0
            out_of[i, 0, k] = out_of[i, 1, k] = 0.0
            if side >= 0:
                if ends[best, side]:
                    back[i, k] = w[k] if side == 0 else -w[k]
                out_of[i, 0, k] = corners[best, side, 0, k]
                out_of[i, 1, k] = corners[best, side, 1, k]
        _span_across(w, across[i])


PACKED = ((0, 0, 0, 1, 1, 2), (0, 1, 2, 1, 2, 2))
"""Rows and columns of what is kept of symmetric matrices (3, 3): six numbers."""


def packed(matrices: Array) -> Array:
    """Symmetric ``matrices`` (n, 3, 3) as six numbers each (n, 6)."""
    return np.ascontiguousarray(matrices[:, PACKED[0], PACKED[1]])


@compiled
def relaxed(
    x: Array,
    speed: Array,
    pull: Array,
    mass: Array,
    inverse: Array,
    free: NDArray[np.bool_],
    stride: float,
) -> float:
    """One step of unit time of places ``x`` at ``speed`` (V, 3) against ``pull`` (V, 3) at free
    coordinates, in place and nowhere longer than ``stride``; gives the kinetic energy of ``mass``
    (V, 6), of which ``inverse`` is the inverse, both ``packed``."""
    energy = 0.0
    for i in range(len(x)):
        p, q, r = pull[i, 0], pull[i, 1], pull[i, 2]
        m = inverse[i]
        u = speed[i, 0] - (m[0] * p + m[1] * q + m[2] * r) if free[i, 0] else 0.0
        v = speed[i, 1] - (m[1] * p + m[3] * q + m[4] * r) if free[i, 1] else 0.0
        w = speed[i, 2] - (m[2] * p + m[4] * q + m[5] * r) if free[i, 2] else 0.0
        size = u * u + v * v + w * w
        if size > stride * stride:
            slower = stride / np.sqrt(size)
            u, v, w = u * slower, v * slower, w * slower
        speed[i, 0], speed[i, 1], speed[i, 2] = u, v, w
        x[i, 0] += u
        x[i, 1] += v
        x[i, 2] += w
        m = mass[i]
        energy += m[0] * u * u + m[3] * v * v + m[5] * w * w
        energy += 2.0 * (m[1] * u * v + m[2] * u * w + m[4] * v * w)
    return energy / 2


@compiled
def inverted(matrices: Array) -> Array:
    """Inverses (n, 6) of positive symmetric matrices (n, 6), both ``packed``."""
    out = np.empty_like(matrices)
    for i in range(len(matrices)):
        a, b, c = matrices[i, 0], matrices[i, 1], matrices[i, 2]
        d, e, f = matrices[i, 3], matrices[i, 4], matrices[i, 5]
        x, y, z = d * f - e * e, c * e - b * f, b * e - c * d
        scale = 1.0 / (a * x + b * y + c * z)
        out[i, 0], out[i, 1], out[i, 2] = x * scale, y * scale, z * scale
        out[i, 3] = (a * f - c * c) * scale
        out[i, 4] = (b * c - a * e) * scale
        out[i, 5] = (a * d - b * b) * scale
    return out


@compiled
def times(matrices: Array, vectors: Array, out: Array) -> None:
    """Symmetric matrices (n, 6), ``packed``, times vectors (n, 3)."""
    for i in range(len(vectors)):
        m = matrices[i]
        p, q, r = vectors[i, 0], vectors[i, 1], vectors[i, 2]
        out[i, 0] = m[0] * p + m[1] * q + m[2] * r
        out[i, 1] = m[1] * p + m[3] * q + m[4] * r
        out[i, 2] = m[2] * p + m[4] * q + m[5] * r


@compiled
def largest(force: Array, free: NDArray[np.bool_]) -> float:
    """The largest force (V, 3) at a free coordinate."""
    out = 0.0
    for v in range(len(force)):
        x = abs(force[v, 0]) * free[v, 0]
        y = abs(force[v, 1]) * free[v, 1]
        z = abs(force[v, 2]) * free[v, 2]
        x = y if y > x else x
        x = z if z > x else x
        out = x if x > out else out
    return out


@compiled
def mean_size(vectors: Array) -> float:
    """The mean length of vectors (n, 3); not a number where one of theirs is none."""
    total = 0.0
    for i in range(len(vectors)):
        x, y, z = vectors[i, 0], vectors[i, 1], vectors[i, 2]
        total += np.sqrt(x * x + y * y + z * z)
    return total / len(vectors)


@compiled
def farthest(places: Array, middle: Array) -> float:
    """How far along an axis places (n, 3) lie from a ``middle`` (3,) at most; without end where
    one is not a number."""
    out = 0.0
    for i in range(len(places)):
        for k in range(3):
            away = abs(places[i, k] - middle[k])
            # Written so that what is no number comes out as without end.
            out = out if away <= out else (away if away > out else np.inf)
    return out
