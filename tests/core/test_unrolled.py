"""Triangles laid flat one after the other, and folded up again."""

from __future__ import annotations

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.meshes import half_edges
from leanlattice.core.geometry.unrolled import folded, turns_of, unrolled

from ..known import approx, held_to, known
from .test_developed import frustum


def row_of(rng, count):
    """Points and triangles, each beside the one before it on one of its two free sides."""
    points = [np.zeros(3), np.array([1.0, 0, 0]), np.array([0.3, 0.9, 0])]
    triangles = [(0, 1, 2)]
    for k in range(3, count + 2):
        a, b, c = triangles[-1]
        one, other = ((c, b), (a, c))[rng.integers(2)]
        along = (points[other] - points[one]) / np.linalg.norm(points[other] - points[one])
        away = rng.normal(size=3)
        away -= (away @ along) * along
        middle = (points[one] + points[other]) / 2
        points.append(middle + rng.uniform(0.5, 1) * away / np.linalg.norm(away))
        triangles.append((one, other, k))
    return np.array(points), np.array(triangles, np.int32)


def laid(points, triangles):
    return unrolled(points, triangles, half_edges(triangles, len(points))[0])


def frames_of(points, flat):
    """Where first triangles stand, by their own corners."""
    out = np.empty((flat.count, 4, 3))
    for t in np.flatnonzero(flat.parent < 0).tolist():
        p, f = points[flat.origin[flat.corners[t]]], flat.flat[flat.corners[t]]
        across = np.linalg.solve(np.column_stack([f[1] - f[0], f[2] - f[0]]).T, p[1:] - p[0])
        at = p[0] - f[0] @ across
        out[flat.piece[t]] = [at, *across, np.cross(*across)]
    return out


@known("a piece of a cylinder's skin of chords, unrolled", "its width n 2 R sin(φ ∕ 2), its area")
def test_a_cylinder_unrolls_to_its_width():
    points, triangles = frustum(1.5, 1.5, 0.7, 2.0, 21)
    flat = laid(points, triangles)
    wide = 20 * 2 * 1.5 * np.sin(0.05)
    assert flat.count == 1
    ring = flat.flat[flat.start[flat.ring]]
    around = shapely.Polygon(ring)
    assert around.area == approx(wide * 0.7, rel=1e-9)
    assert around.exterior.is_ccw
    sides = np.sort(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1))
    held_to(sides[-2:] - 0.7, 1e-9)
    assert sides[:-2].sum() == approx(2 * wide, rel=1e-9)


@known("folds of a cylinder of chords", "the angle between chords, and none along diagonals")
def test_folds_of_a_cylinder_are_the_angles_between_its_chords():
    points, triangles = frustum(1.5, 1.5, 0.7, 2.0, 21)
    turns = np.abs(turns_of(points, laid(points, triangles)))
    folds = turns[turns > 1e-6]
    assert len(folds) == 19
    held_to(folds - 0.1, 1e-9)


@settings(deadline=None, max_examples=60)
@given(seed=st.integers(0, 10**6), count=st.integers(1, 30))
def test_rows_keep_all_lengths_and_fold_up_to_where_they_were(seed, count):
    points, triangles = row_of(np.random.default_rng(seed), count)
    flat = laid(points, triangles)
    assert len(flat.flat) == count + 2
    for k in range(3):
        one, other = flat.corners[:, k], flat.corners[:, (k + 1) % 3]
        was = np.linalg.norm(points[flat.origin[one]] - points[flat.origin[other]], axis=1)
        now = np.linalg.norm(flat.flat[one] - flat.flat[other], axis=1)
        assert np.allclose(now, was, rtol=1e-9)
    again = folded(flat, turns_of(points, flat), frames_of(points, flat))
    assert np.allclose(again, points[flat.origin], atol=1e-7 * np.abs(points).max())


def test_what_closes_in_a_ring_is_parted_once():
    points, triangles = frustum(1.0, 0.5, 0.8, 2 * np.pi, 12, closed=True)
    flat = laid(points, triangles)
    assert flat.count == 1
    assert len(flat.flat) == len(triangles) + 2
    assert len(flat.ring) == len(triangles) + 2
    assert shapely.Polygon(flat.flat[flat.start[flat.ring]]).is_valid


def test_pieces_that_are_not_joined_lie_each_alone_in_their_order():
    points, triangles = frustum(1.0, 1.0, 1.0, 1.0, 4)
    flat = unrolled(points, triangles, np.full(3 * len(triangles), -1, np.int32))
    assert flat.count == len(triangles)
    assert flat.piece.tolist() == list(range(len(triangles)))
    assert np.diff(flat.ring_offsets).tolist() == [3] * len(triangles)
