"""Lines of straight pieces and arcs, and what of curves becomes of them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from leanlattice.core.geometry.arcs import (
    arc_lengths,
    arc_places,
    nearest_shares_of_arcs,
    part_bulges,
)
from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.geometry.segments import near_pairs, nearest_shares

from ..known import approx, held_to, known

X, Y, Z = np.eye(3)
UPRIGHT, PLAN = Frame2(np.array([0, 5.0, 0]), X, Z), Frame2(np.zeros(3), X, Y)
CURVES = [
    ("line", [[0, 0], [4, 0], [4, 3]]),
    ("arc", [[0, 0], [5, 3], [10, 0]]),
    ("circle", [[0, 0], [2, 0]]),
    ("spline", [[0, 0], [3, 2], [6, 1], [10, 3]]),
    ("loop", [[0, 0], [5, 0], [5, 3], [1, 4]]),
    ("guided", [[0, 0], [2, 5], [4, -5], [9, 0]]),
]
small = st.floats(-3, 3)
points = arrays(float, (3,), elements=small)


def curve(kind, places, frame=UPRIGHT):
    return PlaneCurve(path_of(kind, places), frame)


@known("an arc of 3 m rise over 10 m", "R = 17/3 m, 2 R arctan(15/8) long, in both its parts")
def test_an_arc_stays_an_arc():
    line = line_of(curve(*CURVES[1]), 0.005)
    assert line.length == approx(2 * 17 / 3 * np.arctan(15 / 8), rel=1e-12)
    centre = np.array([5, 5, 3 - 17 / 3])
    at = line.at(np.linspace(0, line.length, 40))
    held_to(np.linalg.norm(at - centre, axis=1) - 17 / 3, 1e-12)
    # Heights look away from its centre.
    held_to(line.normals_at(line.run) - (line.places - centre) / (17 / 3), 1e-9)


@pytest.mark.parametrize(("kind", "places"), CURVES)
@pytest.mark.parametrize("straight", [False, True])
def test_what_stands_for_a_curve_is_as_close_as_asked_for(kind, places, straight):
    for tolerance in (0.05, 0.002):
        drawn = curve(kind, places)
        line = line_of(drawn, tolerance, straight)
        at, _ = line.sampled(1e-4)
        exact = drawn.points(np.linspace(0, 1, 4001))
        apart = np.linalg.norm(at[:, None] - exact[None], axis=2).min(axis=1)
        assert apart.max() < 1.3 * tolerance + 2e-3
        assert line.closed == drawn.path.closed
        assert not (straight and line.bulge.any())
        # Closer costs more pieces, and the length comes nearer.
        assert line.length == pytest.approx(drawn.path.length, rel=0.02)


@pytest.mark.parametrize(("kind", "places"), [c for c in CURVES if c[0] != "line"])
def test_arcs_follow_each_other_without_a_kink(kind, places):
    line = line_of(curve(kind, places), 0.002)
    before, after = (line.directions_at(line.run[1:-1] + step) for step in (-1e-9, 1e-9))
    assert np.abs(before - after).max() < 1e-6


@given(st.sampled_from(CURVES), st.lists(st.floats(0, 1), max_size=6), st.booleans())
def test_places_put_into_a_line_leave_it_as_it_was(drawn, shares, straight):
    line = line_of(curve(*drawn), 0.01, straight)
    run = np.array(shares) * line.length
    divided = line.with_places(run)
    held_to(line.length - divided.length, 1e-8)
    every = np.linspace(0, line.length, 60)
    assert np.abs(divided.at(every) - line.at(every)).max() < 1e-7
    assert (np.diff(divided.run) > 0).all()
    for wanted in run:
        assert np.abs(divided.run - wanted).min() < 1e-8


def test_heights_stand_upright_on_a_plan_and_outward_on_an_upright_circle():
    assert (
        line_of(curve("circle", [[0, 0], [2, 0]], PLAN), 0.01).normals.tolist() == [[0, 0, 1]] * 5
    )
    line = line_of(curve("circle", [[0, 0], [2, 0]]), 0.01)
    held_to(line.normals - (line.places - [0, 5, 0]) / 2, 1e-12)


@given(points, points, points, st.floats(0, 1), st.floats(0, 1))
def test_parts_of_an_arc_lie_on_it(start, chord, aside, first, last):
    if np.linalg.norm(chord) < 0.1 or abs(last - first) < 1e-3:
        return
    across = aside - (aside @ chord) / (chord @ chord) * chord
    start, chord, bulge = (v[None] for v in (start, chord, 0.3 * across))
    low, high = min(first, last), max(first, last)
    ends = [arc_places(start, chord, bulge, np.array([s])) for s in (low, high)]
    part = part_bulges(start, chord, bulge, np.array([[low, high]]))
    whole = arc_lengths(chord, bulge)[0]
    assert arc_lengths(ends[1] - ends[0], part)[0] == pytest.approx((high - low) * whole, rel=1e-6)
    middle = arc_places(start, chord, bulge, np.array([(low + high) / 2]))
    share, away = nearest_shares_of_arcs(start, chord, bulge, middle)
    assert away[0] < 1e-9
    assert share[0] == pytest.approx((low + high) / 2, abs=1e-6)


@given(points, points, points, points)
def test_the_nearest_place_of_an_arc_is_the_nearest_of_many(start, chord, aside, place):
    if np.linalg.norm(chord) < 0.1:
        return
    across = aside - (aside @ chord) / (chord @ chord) * chord
    start, chord, bulge = (v[None] for v in (start, chord, 0.1 * across))
    _, away = nearest_shares_of_arcs(start, chord, bulge, place[None])
    many = np.linspace(0, 1, 301)
    rows = [np.repeat(v, len(many), axis=0) for v in (start, chord, bulge)]
    far = np.linalg.norm(arc_places(*rows, many) - place, axis=1)
    assert away[0] <= far.min() + 1e-9
    assert away[0] >= far.min() - 0.05


@given(st.integers(0, 10**6))
def test_segments_that_come_near_are_found_with_where_they_do(seed):
    random = np.random.default_rng(seed)
    starts = random.normal(size=(25, 3)) * 2
    ends = starts + random.normal(size=(25, 3))
    pairs = near_pairs(starts, ends, 0.3)
    a, b = np.triu_indices(25, 1)
    s, t, apart = nearest_shares((starts[a], ends[a]), (starts[b], ends[b]))
    at = [
        p[i] + x[:, None] * (q - p)[i]
        for p, q, i, x in ((starts, ends, a, s), (starts, ends, b, t))
    ]
    held_to(np.linalg.norm(at[0] - at[1], axis=1) - apart, 1e-9)
    # No other two places of them are nearer.
    for share in (0.0, 0.3, 0.7, 1.0):
        for other in (0.0, 0.5, 1.0):
            p = starts[a] + share * (ends - starts)[a]
            q = starts[b] + other * (ends - starts)[b]
            assert (apart <= np.linalg.norm(p - q, axis=1) + 1e-9).all()
    near = {(int(i), int(j)) for i, j, d in zip(a, b, apart, strict=True) if d < 0.3}
    assert near <= {tuple(pair) for pair in pairs.tolist()}
