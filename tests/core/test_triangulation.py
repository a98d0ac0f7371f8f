"""Polygons cut into triangles: filled once, none turned over, whatever their outline and their place in space."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.triangulation import not_fans, polygon_triangles

from ..known import approx, known


def star(rng, corners):
    """An outline about the origin, mostly not convex, counter-clockwise."""
    angle = (np.arange(corners) + 0.8 * rng.random(corners)) * 2 * np.pi / corners
    return rng.uniform(0.15, 1, corners)[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])


def signed(points, triangles):
    one, two = (points[triangles[:, k]] - points[triangles[:, 0]] for k in (1, 2))
    return (one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) / 2


def runs(sizes):
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    return np.arange(offsets[-1], dtype=np.int32), offsets


@known("polygons that are not convex, cut into triangles", "areas add up; none turned over")
@given(st.integers(0, 10**6), st.lists(st.integers(3, 90), min_size=1, max_size=12))
def test_outlines_of_any_form_are_filled_once(seed, sizes):
    rng = np.random.default_rng(seed)
    rings = [star(rng, n) for n in sizes]
    points = np.vstack(rings)
    triangles, owner = polygon_triangles(points, *runs(sizes))
    area = signed(points, triangles)
    assert area.min() > 0
    assert np.bincount(owner).tolist() == [n - 2 for n in sizes]
    assert np.bincount(owner, area) == approx([shapely.Polygon(r).area for r in rings], rel=1e-9)


@given(st.integers(0, 10**6), st.integers(4, 30))
def test_it_is_the_same_anywhere_in_space(seed, corners):
    rng = np.random.default_rng(seed)
    flat = star(rng, corners)
    x, y, _ = np.linalg.qr(rng.normal(size=(3, 3)))[0].T
    lifted = 1000 * rng.normal(size=3) + flat[:, :1] * x + flat[:, 1:] * y
    triangles, _ = polygon_triangles(lifted, *runs([corners]))
    sides = [lifted[triangles[:, k]] - lifted[triangles[:, 0]] for k in (1, 2)]
    facing = np.cross(*sides) @ np.cross(x, y)
    assert facing.min() > 0
    assert facing.sum() / 2 == pytest.approx(shapely.Polygon(flat).area, rel=1e-6)


def test_corners_in_line_make_no_triangle_without_area():
    square = np.array([[0, 0], [1, 0], [2, 0], [2, 1], [2, 2], [1, 2], [0, 2], [0, 1]], float)
    for turn in range(8):
        ring = np.roll(square, turn, axis=0)
        assert signed(ring, polygon_triangles(ring, *runs([8]))[0]).min() > 0.1


def test_quads_are_cut_along_their_shorter_diagonal_unless_it_lies_outside():
    kite = np.array([[0, 0], [2, -1], [6, 0], [2, 1]], float)
    assert not (polygon_triangles(kite, *runs([4]))[0] == [[0, 1, 2], [0, 2, 3]]).all()
    dart = np.array([[0, 0], [6, -0.1], [1, 0.3], [6, 3]], float)
    assert signed(dart, polygon_triangles(dart, *runs([4]))[0]).min() > 0


def test_what_its_first_corner_cannot_fill_is_named():
    dart = np.array([[0, 2], [-2, -2], [0, -1], [2, -2]], float)
    points = np.vstack([dart, np.roll(dart, 1, axis=0), np.roll(dart, 2, axis=0)])
    # From the tip and from the corner opposite, which turns back, a fan fills it; from the side it does not.
    assert not_fans(points, *runs([4, 4, 4])).tolist() == [1]


def test_outlines_without_area_or_crossing_themselves_give_as_many_triangles():
    line = np.array([[0, 0], [1, 0], [2, 0], [3, 0], [1.5, 0]], float)
    bow = np.array([[0, 0], [2, 2], [2, 0], [0, 2], [-1, 1]], float)
    triangles, owner = polygon_triangles(np.vstack([line, bow]), *runs([5, 5]))
    assert np.bincount(owner).tolist() == [3, 3]
    assert triangles.min() >= 0
