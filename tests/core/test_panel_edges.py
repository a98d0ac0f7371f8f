"""Edges of panels: rounded corners, and holes that keep clear of edges and of each other."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.panels.edges import APART, BESIDE, Edges, worked

from ..known import held_to, known

SQUARE = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
ANGLE = np.array([[0.0, 0.0], [2.0, 0.0], [2.0, 2.0], [1.0, 2.0], [1.0, 1.0], [0.0, 1.0]])
"""Like an L, with one corner that turns inward at (1, 1)."""


def one(corners, edges, metre=1.0):
    made = worked(corners * metre, np.array([0, len(corners)], np.int32), edges, metre)
    return made.outer[0], made.holes[0], bool(made.done[0])


@known(
    "a square with rounded corners", "(4 − π) r² less than the square; a perimeter 2 (4 − π) r less"
)
def test_a_square_with_rounded_corners_has_the_area_that_is_left():
    radius = 0.2
    outline = shapely.Polygon(one(SQUARE, Edges(radius))[0])
    less = np.array([1 - outline.area, 4 - outline.length])
    wanted = (4 - np.pi) * np.array([radius**2, 2 * radius])
    held_to(np.abs(less - wanted).max(), 1e-4)


def test_corners_that_turn_inward_stay_sharp_and_all_others_are_rounded():
    outline = one(ANGLE, Edges(0.1))[0]
    away = np.linalg.norm(outline[:, None] - ANGLE, axis=2).min(axis=0)
    assert away[4] == pytest.approx(0, abs=1e-12)
    assert away[[0, 1, 2, 3, 5]] == pytest.approx(0.1 * (np.sqrt(2) - 1), abs=2e-5)


def test_holes_stand_in_corners_and_evenly_between_them():
    middles = [ring.mean(axis=0) for ring in one(SQUARE, Edges(0, 0.02, 0.1, 0.3), 1000.0)[1]]
    wanted = {(100, 100), (900, 900), (100, 900), (900, 100)}
    steps = [100 + 800 * k / 3 for k in (1, 2)]
    wanted |= {(s, e) for s in steps for e in (100, 900)} | {
        (e, s) for s in steps for e in (100, 900)
    }
    assert {tuple(np.round(m, 6)) for m in middles} == {tuple(np.round(w, 6)) for w in wanted}
    assert len(one(SQUARE, Edges(0, 0.02, 0.1))[1]) == 4, "corners alone"


@pytest.mark.parametrize(
    "edges",
    [
        Edges(0.4999),
        Edges(0, 0.01, 0.51),
        Edges(0.3, 0.05, 0.07),  # the rounded corner comes too near
        Edges(0, 0.1, 0.45, 0.3),  # the holes come too near to each other
    ],
)
def test_what_has_no_room_stays_as_it_is(edges):
    outline, holes, done = one(SQUARE, edges)
    assert not done
    assert holes == ()
    assert (outline == SQUARE).all()


def polygons():
    """Corners of convex polygons about a circle, some of them long and thin."""
    angles = st.lists(st.floats(0.05, 1.0), min_size=3, max_size=8)
    return st.builds(_polygon, angles, st.floats(0.3, 3.0), st.floats(0.2, 1.0))


def _polygon(shares, radius, flat):
    turn = 2 * np.pi * np.cumsum(shares) / np.sum(shares)
    return radius * np.column_stack([np.cos(turn), flat * np.sin(turn)])


ROUND = st.sampled_from([0.0, 1e-4, 0.004, 0.02, 0.1, 0.3])
HOLES = st.sampled_from([0.0, 5e-4, 0.009, 0.06])


@given(polygons(), ROUND, HOLES, st.floats(1.2, 4.0), st.sampled_from([0.0, 0.05, 0.2, 0.7]))
def test_worked_polygons_keep_what_was_asked(corners, radius, hole, rim, spacing):
    outline, holes, done = one(corners, Edges(radius, hole, rim * hole, spacing), 1000.0)
    sharp, cut = shapely.Polygon(corners * 1000), shapely.Polygon(outline)
    assert cut.is_valid
    assert sharp.buffer(1e-6).covers(cut)
    if not done:
        assert len(outline) == len(corners)
        assert not holes
        return
    opened = sharp.buffer(-radius * 1000, quad_segs=200).buffer(radius * 1000, quad_segs=200)
    assert cut.hausdorff_distance(opened) < 0.05
    middles = shapely.points([ring.mean(axis=0) for ring in holes]) if holes else []
    assert bool(holes) == (hole > 0)
    for k, middle in enumerate(middles):
        assert cut.exterior.distance(middle) >= BESIDE * hole * 1000 * (1 - 1e-5)
        others = [middle.distance(other) for other in middles[:k]]
        assert min(others, default=np.inf) >= APART * hole * 1000 * (1 - 1e-5)
