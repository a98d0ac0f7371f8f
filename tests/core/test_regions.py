"""Regions between lines, and bands about them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.drawing import arc_through, circle_path, path_of, polyline_path
from leanlattice.core.geometry.paths import ArcPiece
from leanlattice.core.shaping.regions import band, regions

from ..known import approx, known

FINE = 1e-5


@known("regions between a rectangle and lines at random", "their areas add up to it")
@given(st.lists(st.tuples(st.floats(-0.4, 6.4), st.floats(-0.4, 6.4)), min_size=1, max_size=6))
def test_regions_between_lines_fill_what_they_part(ends):
    frame = path_of("rectangle", [[0, 0], [6, 4]])
    lines = [polyline_path(np.array([[a, -1.0], [b, 5.0]])) for a, b in ends]
    found = [r for r in regions([frame, *lines], FINE) if r.signed_area > 1e-9]
    # Parts of lines beyond the rectangle may enclose regions of their own.
    middles = [r.polygon(FINE).mean(axis=0) for r in found]
    inside = [r for r, m in zip(found, middles, strict=True) if 0 < m[1] < 4 and 0 < m[0] < 6]
    assert sum(r.signed_area for r in inside) == approx(24.0, rel=1e-9)
    assert all(r.closed for r in found)


@known("two parts of a circle cut by a chord", "segments r²(θ − sin θ)/2, of true arcs")
@given(st.floats(0.5, 5.0), st.floats(-0.9, 0.9))
def test_arcs_stay_arcs(radius, share):
    circle = circle_path(np.zeros(2), radius)
    chord = polyline_path(np.array([[-2 * radius, share * radius], [2 * radius, share * radius]]))
    above, below = sorted(
        regions([circle, chord], FINE), key=lambda r: -r.polygon(FINE)[:, 1].mean()
    )
    angle = 2 * np.arccos(share)
    segment = radius**2 / 2 * (angle - np.sin(angle))
    assert above.signed_area == approx(segment, rel=1e-9)
    assert below.signed_area == approx(np.pi * radius**2 - segment, rel=1e-9)
    assert any(isinstance(p, ArcPiece) for p in above.pieces)


def test_what_encloses_nothing_gives_no_region():
    assert regions([], FINE) == []
    assert regions([polyline_path(np.array([[0.0, 0], [1, 1]]))], FINE) == []


@known("bands about lines and arcs", "width × length, and a disc for round ends")
@given(st.floats(0.05, 0.9), st.booleans())
def test_a_band_is_as_wide_as_asked(width, is_round):
    line = polyline_path(np.array([[0.0, 0], [5, 2]]))
    arc = arc_through(np.array([0.0, 0]), np.array([2.0, 1]), np.array([4.0, 0]))
    for path in (line, arc):
        (found,) = band(path, width, FINE, is_round)
        ends = np.pi * width**2 / 4 if is_round else 0.0
        assert found.signed_area == approx(path.length * width + ends, rel=1e-9)
    inner, outer = band(circle_path(np.zeros(2), 3.0), width, FINE)
    between = abs(outer.signed_area) - abs(inner.signed_area)
    assert abs(between) == approx(6 * np.pi * width, rel=1e-9)


def test_a_band_about_a_line_that_turns_back_has_no_loops():
    hairpin = polyline_path(np.array([[0.0, 0], [4, 0], [4, 0.3], [0, 0.3]]))
    found = band(hairpin, 0.5, 1e-3)
    assert sum(abs(p.signed_area) for p in found) == pytest.approx(4.25 * 0.8, abs=0.06)
