"""Lines led through places: as few pieces as may be, off none by more than is allowed."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.arcs import nearest_shares_of_arcs
from leanlattice.core.geometry.line_sets import Lines, line_through, linked_runs, straightened
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.shaping.projected_lines import carried_onto

from ..known import approx, held_to, known


def away(line, places):
    """How far each of ``places`` (n, 3) is from a line."""
    best = np.full(len(places), np.inf)
    for start, chord, bulge in zip(line.places[:-1], line.chords, line.bulge, strict=True):
        every = [np.broadcast_to(row, places.shape) for row in (start, chord, bulge)]
        best = np.minimum(best, nearest_shares_of_arcs(*every, places)[1])
    return best


def helix(radius, rise, count=200):
    t = np.linspace(0, 4, count)
    return np.column_stack([radius * np.cos(t), radius * np.sin(t), rise * t])


@given(st.floats(0.5, 50), st.floats(0, 5), st.floats(1e-4, 0.05), st.booleans())
def test_a_line_is_off_none_of_its_places_by_more_than_is_allowed(radius, rise, off, bent):
    places = helix(radius, rise)
    line = line_through(places, None, off, bent)
    held_to(line.places[[0, -1]] - places[[0, -1]], 0)
    assert away(line, places).max() <= off + 1e-9
    assert len(line.bulge) < len(places)
    assert bent or not line.bulge.any()
    # Straight pieces of an arc: as many as its rise asks for, and half as many again at most.
    flat = straightened(line_through(places, None, off), off)
    assert not flat.bulge.any()
    assert away(flat, places).max() <= 2 * off + 1e-6


@known("Arc led through its places, 60° to 300°", "one piece, its length R φ")
@pytest.mark.parametrize("turn", [60, 200, 300])
def test_an_arc_is_one_piece(turn):
    t = np.radians(np.linspace(0, turn, 61))
    places = np.column_stack([3 * np.cos(t), 3 * np.sin(t), np.zeros_like(t)])
    line = line_through(places, None, 1e-6)
    assert len(line.bulge) == 1
    assert line.length == approx(3 * np.radians(turn), rel=1e-9)


def test_corners_stay_and_straight_runs_are_one_piece():
    leg = np.linspace(0, 1, 11)[:, None]
    a, b, c = np.array([[0, 0, 0], [4, 0, 1], [4, 3, 1.0]])
    places = np.vstack([a + leg * (b - a), b + leg[1:] * (c - b), c[None]])
    line = line_through(places, None, 0.5)
    held_to(line.places - [a, b, c], 1e-12)
    held_to(line.bulge, 0)


@given(st.integers(2, 30), st.booleans(), st.randoms())
def test_pairs_are_linked_to_runs(count, closed, random):
    order = list(range(count))
    random.shuffle(order)
    pairs = [(order[k], order[k + 1]) for k in range(count - 1)]
    closed = closed and count > 2
    pairs += [(order[-1], order[0])] if closed else []
    random.shuffle(pairs)
    ((run, is_closed),) = linked_runs(np.array(pairs), count)
    assert is_closed == closed
    steps = list(pairwise(run)) + ([(run[-1], run[0])] if closed else [])
    assert {frozenset(s) for s in steps} == {frozenset(p) for p in pairs}


def test_layers_are_found_in_whatever_case_they_are_written():
    lines = Lines(tuple(line_through(helix(k, 1), None, 0.01) for k in (1, 2)), ("Arch ", "TIE"))
    assert [line.places[0, 0] for line in lines.on_layer("arch").lines] == [1.0]
    assert lines.on_layer("none").lines == ()


@known("Circle carried straight down onto a spherical cap", "level, at √(R² − r²)")
def test_a_circle_carried_onto_a_sphere():
    # A cap of radius 7.5 over a span of 12.
    surface = dome(12.0, 3.0, np.zeros(3))
    t = np.linspace(0, 2 * np.pi, 200)
    circle = line_through(np.column_stack([2 * np.cos(t), 2 * np.sin(t), 9 + 0 * t]), None, 1e-5)
    ((places, normals),) = carried_onto(circle, surface, np.array([0.0, 0.0, -1.0]))
    assert places[:, 2] == approx(np.sqrt(7.5**2 - 4) - 4.5, abs=1e-5)
    held_to(np.linalg.norm(places[:, :2], axis=1) - 2, 1e-5)
    centre = np.array([0, 0, -4.5])
    held_to(np.cross(normals, (places - centre) / 7.5), 1e-5)


@known("Line carried onto a cap it leaves", "ends on the rim, r from the middle")
def test_a_line_that_leaves_a_shape_ends_at_its_border():
    line = line_through(np.array([[-20.0, 1.5, 0], [20.0, 1.5, 0]]), None, 1e-6)
    ((places, _),) = carried_onto(line, dome(12.0, 3.0, np.zeros(3)), np.array([0.0, 0.0, 1.0]))
    # The rim of what is looked for is a polygon.
    assert np.linalg.norm(places[[0, -1], :2], axis=1) == approx(6.0, abs=0.02)
    assert carried_onto(line, dome(1.0, 0.2, np.zeros(3)), np.array([0.0, 0.0, 1.0])) == []
