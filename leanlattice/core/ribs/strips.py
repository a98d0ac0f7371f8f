"""Compiled work on plates and the strips in which others cross them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["clear_beside", "close_boxes", "halved", "pieces_in_strips"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
LEFT, WITHIN, RIGHT = 0, 1, 2
TINY = 1e-9
"""Common lengths (m) that are none."""


@compiled
def _root(parent: Index, k: int) -> int:
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


@compiled
def _joined(parent: Index, v: Array, chain: Index, count: int) -> None:
    """Chains that end at neighbouring places on one side of a strip bound the same piece where
    material lies between."""
    order = np.argsort(v[:count])
    for k in range(0, count - 1, 2):
        a, b = _root(parent, chain[order[k]]), _root(parent, chain[order[k + 1]])
        parent[max(a, b)] = min(a, b)


@compiled
def _widen(span: Array, low: float, high: float) -> None:
    """A range (2,), NaN while there is none, made to hold two values that may be NaN."""
    if not span[0] <= low and low == low:
        span[0] = low
    if not span[1] >= high and high == high:
        span[1] = high


@compiled
def _side(u: float, low: float, high: float) -> int:
    return LEFT if u < low else (RIGHT if u >= high else WITHIN)


@compiled
def _chains(
    ring: Array,
    outer: bool,
    frame: Array,
    chains: int,
    span: Array,
    v: Array,
    chain: Index,
    events: Index,
) -> int:
    """Runs of a ring within a strip, added to the ``span`` of runs, and where they begin and end on
    its sides as events.

    ``frame`` is across x, y, along x, y, low, high, base. Gives how many runs there are then.
    """
    n, low, high = len(ring), frame[4], frame[5]
    start = -1
    for i in range(n):
        if _side(ring[i, 0] * frame[0] + ring[i, 1] * frame[1], low, high) != WITHIN:
            start = i
            break
    if start < 0:
        if outer:
            span[chains] = np.nan
            for i in range(n):
                h = ring[i, 0] * frame[2] + ring[i, 1] * frame[3] + frame[6]
                _widen(span[chains, :2], h, h)
            return chains + 1
        return chains
    pu = ring[start, 0] * frame[0] + ring[start, 1] * frame[1]
    was, current = _side(pu, low, high), -1
    for step in range(1, n + 1):
        i = (start + step) % n
        u = ring[i, 0] * frame[0] + ring[i, 1] * frame[1]
        now = _side(u, low, high)
        if now == was and now != WITHIN:
            pu = u
            continue
        h = ring[i, 0] * frame[2] + ring[i, 1] * frame[3] + frame[6]
        ph = ring[i - 1, 0] * frame[2] + ring[i - 1, 1] * frame[3] + frame[6]
        if was != now:
            # Enters by the side it was on, leaves by the side it is on now; or both at once.
            for outside in (was, now):
                if outside == WITHIN:
                    continue
                side = 0 if outside == LEFT else 1
                where = ph + ((low if side == 0 else high) - pu) / (u - pu) * (h - ph)
                if current < 0:
                    current, chains = chains, chains + 1
                    span[current] = np.nan
                v[side, events[side]], chain[side, events[side]] = where, current
                events[side] += 1
                _widen(span[current, :2], where, where)
                _widen(span[current, 2 + 2 * side : 4 + 2 * side], where, where)
        if now == WITHIN:
            _widen(span[current, :2], h, h)
        else:
            current = -1
        pu, was = u, now
    return chains


@compiled
def pieces_in_strips(
    places: Array,
    rings: Index,
    of_rib: Index,
    rib: Index,
    across: Array,
    along: Array,
    low: Array,
    high: Array,
    base: Array,
) -> tuple[Index, Array]:
    """Pieces of plates within strips, from the rings ``places[rings[i]:rings[i + 1]]`` of which
    plate r has those from ``of_rib[r]`` on, the outer one first.

    Strip k lies in plate ``rib[k]`` where ``low`` ≤ place · ``across`` < ``high``; heights are
    place · ``along`` + ``base``. Gives offsets (strips + 1,) and for every piece its lowest and
    highest places in the strip and on both of its sides (pieces, 6), NaN where it does not reach a
    side. Sides are told apart half open, so that corners on a side make no odd crossings.
    """
    most = 2
    for r in range(len(of_rib) - 1):
        most = max(most, 2 * (rings[of_rib[r + 1]] - rings[of_rib[r]]) + 2)
    v, chain = np.empty((2, most)), np.empty((2, most), np.int64)
    parent, span, frame = np.empty(most, np.int64), np.empty((most, 6)), np.empty(7)
    offsets = np.zeros(len(rib) + 1, np.int64)
    out = np.empty((4 * len(rib) + 16, 6))
    found = 0
    for k in range(len(rib)):
        chains, events = 0, np.zeros(2, np.int64)
        frame[:2], frame[2:4], frame[4], frame[5], frame[6] = (
            across[k],
            along[k],
            low[k],
            high[k],
            base[k],
        )
        for ring in range(of_rib[rib[k]], of_rib[rib[k] + 1]):
            corners = places[rings[ring] : rings[ring + 1]]
            chains = _chains(corners, ring == of_rib[rib[k]], frame, chains, span, v, chain, events)
        for c in range(chains):
            parent[c] = c
        for side in range(2):
            _joined(parent, v[side], chain[side], events[side])
        for c in range(chains):
            root = _root(parent, c)
            for s in range(0, 6 if root != c else 0, 2):
                _widen(span[root, s : s + 2], span[c, s], span[c, s + 1])
        for c in range(chains):
            if parent[c] == c and span[c, 1] > span[c, 0] + 1e-12:
                if found == len(out):
                    grown = np.empty((2 * found, 6))
                    grown[:found] = out
                    out = grown
                out[found] = span[c]
                found += 1
        offsets[k + 1] = found
    return offsets, out[:found]


@compiled
def _locks(a: Array, b: Array, sense: float, below: Array, above: Array) -> int:
    """Whether what is left of the second rib would have to pass through what is left of the first
    on its way in: 1 where a piece of the first lies above and below it at once, 2 where one it does
    not meet lies above it."""
    for n in range(len(b)):
        if np.isnan(above[n]):
            continue
        for m in range(len(a)):
            bottom = a[m, 0] if sense > 0 else -a[m, 1]
            if bottom <= above[n] + TINY:
                continue
            if np.isnan(below[m]):
                return 2
            if below[m] > bottom + TINY:
                return 1
    return 0


@compiled
def _in_the_middle(piece: Array, end: int) -> float:
    """Where a piece ends in the middle of its strip, its edge taken as straight across it."""
    middle = (piece[2 + end] + piece[4 + end]) / 2
    return piece[end] if np.isnan(middle) else middle


@compiled
def _halves(a: Array, b: Array, sense: float, share: float) -> tuple[Array, Array, Array]:
    """Where pieces ``a`` of the first rib are cut from above and ``b`` of the second from below,
    heights counted in the sense (NaN where they meet none), and the common lengths with their
    middles (n, 3) as they are."""
    below, above = np.full(len(a), np.nan), np.full(len(b), np.nan)
    spans = np.empty((len(a) * len(b), 3))
    count = 0
    for m in range(len(a)):
        for n in range(len(b)):
            low, high = max(a[m, 0], b[n, 0]), min(a[m, 1], b[n, 1])
            if high <= low + TINY:
                continue
            # Shares are of what both have in common in the middle, as edges slope across a slot.
            foot = max(_in_the_middle(a[m], 0), _in_the_middle(b[n], 0))
            head = min(_in_the_middle(a[m], 1), _in_the_middle(b[n], 1))
            if head <= foot + TINY:
                foot, head = low, high
            middle = (
                foot + (1 - share) * (head - foot) if sense > 0 else head - share * (head - foot)
            )
            height = middle * sense
            if not below[m] <= height:
                below[m] = height
            if not above[n] >= height:
                above[n] = height
            spans[count] = low, high, middle
            count += 1
    return below, above, spans[:count]


@compiled
def halved(
    offsets: Index, pieces: Array, sense: Array, share: float, may_turn: bool
) -> tuple[Array, Index, Array, Index, Array, Index, Array, Index]:
    """Half-laps of lines, of which line k has the pieces of strip 2k in its first rib and of strip
    2k + 1 in its second.

    The first is cut from the side the ``sense`` (±1) points to over a ``share`` of the common
    length if it is 1, of which the second gets the rest; where a line locks and ``may_turn`` is
    true, the sense is turned round if that frees it. Where more of one piece meets several of the
    other, the first keeps what lies below the lowest middle and the second what lies above the
    highest. Gives senses, locks (0 none), common lengths (n, 3: from, to, middle) with offsets, and
    cuts (m, 5: from the middle, to the end, sense, heights of the open end at both sides of the
    strip) with their strips, from where to where (strips, 2) pieces that are cut reach in all, and
    for lines without a common length whether some of the first lies above some of the second (1),
    below it (2), or both (3).
    """
    lines = len(sense)
    senses, locks = sense.copy(), np.zeros(lines, np.int64)
    span_at, spans = np.zeros(lines + 1, np.int64), np.empty((4 * lines + 16, 3))
    strips, cuts = np.empty(4 * lines + 16, np.int64), np.empty((4 * lines + 16, 5))
    reach, passing = np.empty((2 * lines, 2)), np.zeros(lines, np.int64)
    reach[:, 0], reach[:, 1] = np.inf, -np.inf
    made, cut = 0, 0
    for k in range(lines):
        a = pieces[offsets[2 * k] : offsets[2 * k + 1]]
        b = pieces[offsets[2 * k + 1] : offsets[2 * k + 2]]
        s = senses[k]
        below, above, common = _halves(a, b, s, share if s > 0 else 1 - share)
        if not len(common) and len(a) and len(b):
            passing[k] = (a[:, 1].max() > b[:, 0].min()) + 2 * (a[:, 0].min() < b[:, 1].max())
        if len(common):
            locks[k] = _locks(a, b, s, below, above)
            if locks[k] and may_turn:
                turned = _halves(a, b, -s, share if s < 0 else 1 - share)
                if not _locks(a, b, -s, turned[0], turned[1]):
                    s, locks[k] = -s, 0
                    below, above, common = turned
        senses[k] = s
        while made + len(common) > len(spans):
            more = np.empty((2 * len(spans), 3))
            more[:made] = spans[:made]
            spans = more
        spans[made : made + len(common)] = common
        made += len(common)
        span_at[k + 1] = made
        while cut + len(a) + len(b) > len(strips):
            others, longer = np.empty(2 * len(strips), np.int64), np.empty((2 * len(strips), 5))
            others[:cut], longer[:cut] = strips[:cut], cuts[:cut]
            strips, cuts = others, longer
        for side in range(2):
            own, heights = (a, below) if side == 0 else (b, above)
            way = s if side == 0 else -s
            for m in range(len(own)):
                if np.isnan(heights[m]):
                    continue
                top = 1 if way > 0 else 0
                strips[cut] = strip = 2 * k + side
                reach[strip] = min(reach[strip, 0], own[m, 0]), max(reach[strip, 1], own[m, 1])
                cuts[cut] = heights[m] * s, own[m, top], way, own[m, 2 + top], own[m, 4 + top]
                cut += 1
    return senses, locks, spans[:made], span_at, cuts[:cut], strips[:cut], reach, passing


@compiled
def clear_beside(
    places: Array,
    rings: Index,
    of_rib: Index,
    rib: Index,
    across: Array,
    along: Array,
    low: Array,
    high: Array,
    base: Array,
    height: Array,
    wall: float,
) -> NDArray[np.bool_]:
    """Whether at ``height`` (n,) plates reach a ``wall`` (m) past both sides of n strips.

    ``places`` are corners of all plates, of which ring r has ``rings[r]`` to ``rings[r + 1]`` and
    plate p the rings ``of_rib[p]`` to ``of_rib[p + 1]``. Strip k is in plate ``rib[k]``: its
    heights run ``along`` (n, 2) from ``base`` (n,), its width ``across`` (n, 2) from ``low`` to
    ``high`` (n,), as in ``pieces_in_strips``.
    """
    out = np.ones(len(rib), np.bool_)
    for k in range(len(rib)):
        odd = np.zeros(2, np.int64)
        for ring in range(of_rib[rib[k]], of_rib[rib[k] + 1]):
            first, last = rings[ring], rings[ring + 1]
            for i in range(first, last):
                j = i + 1 if i + 1 < last else first
                h = places[i, 0] * along[k, 0] + places[i, 1] * along[k, 1] + base[k]
                g = places[j, 0] * along[k, 0] + places[j, 1] * along[k, 1] + base[k]
                if (h < height[k]) == (g < height[k]):
                    continue
                u = places[i, 0] * across[k, 0] + places[i, 1] * across[k, 1]
                w = places[j, 0] * across[k, 0] + places[j, 1] * across[k, 1]
                at = u + (height[k] - h) / (g - h) * (w - u)
                if low[k] - wall < at < low[k] or high[k] < at < high[k] + wall:
                    out[k] = False
                odd[0] += at < low[k]
                odd[1] += at > high[k]
        if odd[0] % 2 == 0 or odd[1] % 2 == 0:
            out[k] = False
    return out


@compiled
def close_boxes(corners: Array, rib: Index, wall: float) -> Index:
    """Pairs (n, 2) of boxes (k, 4, 2) on the same plate that may be nearer to each other than a
    ``wall``: those not so far apart along either axis of the first."""
    order = np.argsort(rib, kind="mergesort")
    out = np.empty((2 * len(rib) + 16, 2), np.int64)
    count = 0
    for p in range(len(order)):
        a = order[p]
        ux, uy = corners[a, 1, 0] - corners[a, 0, 0], corners[a, 1, 1] - corners[a, 0, 1]
        vx, vy = corners[a, 3, 0] - corners[a, 0, 0], corners[a, 3, 1] - corners[a, 0, 1]
        width, height = np.hypot(ux, uy), np.hypot(vx, vy)
        for q in range(p + 1, len(order)):
            b = order[q]
            if rib[b] != rib[a]:
                break
            left, right, under, over = np.inf, -np.inf, np.inf, -np.inf
            for c in range(4):
                dx, dy = corners[b, c, 0] - corners[a, 0, 0], corners[b, c, 1] - corners[a, 0, 1]
                u, v = (dx * ux + dy * uy) / width, (dx * vx + dy * vy) / height
                left, right, under, over = min(left, u), max(right, u), min(under, v), max(over, v)
            if left > width + wall or right < -wall or under > height + wall or over < -wall:
                continue
            if count == len(out):
                more = np.empty((2 * count, 2), np.int64)
                more[:count] = out
                out = more
            out[count] = a, b
            count += 1
    return out[:count]
