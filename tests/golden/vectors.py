"""Three numbers a point, as one does it on paper."""

from __future__ import annotations

import math


def plus(*points):
    return tuple(map(sum, zip(*points, strict=True)))


def times(factor, a):
    return tuple(factor * x for x in a)


def minus(a, b):
    return plus(a, times(-1, b))


def dot(a, b):
    return sum(x * y for x, y in zip(a, b, strict=True))


def cross(a, b):
    return (
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    )


def unit(a):
    return times(1 / math.hypot(*a), a)


def angle(a, b):
    return math.acos(dot(unit(a), unit(b)))


def average(*points):
    return times(1 / len(points), plus(*points))


def _from_side(p, a, b):
    way = minus(b, a)
    share = min(max(dot(minus(p, a), way) / dot(way, way), 0.0), 1.0)
    return math.dist(p, plus(a, times(share, way)))


def _inside(p, outline):
    """Whether a point lies within a convex outline, counter-clockwise."""
    sides = zip(outline, outline[1:] + outline[:1], strict=True)
    return all((b[0] - a[0]) * (p[1] - a[1]) >= (b[1] - a[1]) * (p[0] - a[0]) for a, b in sides)


def distance_of_outlines(one, two):
    """Between two convex outlines that are counter-clockwise; 0 where a corner of one is in the
    other or their sides cross."""
    pairs = ((one, two), (two, one))
    if any(_inside(p, b) for a, b in pairs for p in a) or _cross(one, two):
        return 0.0
    return min(
        _from_side(p, *side)
        for a, b in pairs
        for p in a
        for side in zip(b, b[1:] + b[:1], strict=True)
    )


def _cross(one, two):
    def left(a, b, p):
        return (b[0] - a[0]) * (p[1] - a[1]) > (b[1] - a[1]) * (p[0] - a[0])

    return any(
        left(a, b, c) != left(a, b, d) and left(c, d, a) != left(c, d, b)
        for a, b in zip(one, one[1:] + one[:1], strict=True)
        for c, d in zip(two, two[1:] + two[:1], strict=True)
    )
