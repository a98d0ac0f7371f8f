"""Paths and what is done to them, against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from leanlattice.core.geometry.drawing import cubics_through, path_of
from leanlattice.core.geometry.paths import ArcPiece, Frame2, LinePiece, PlaneCurve, on_plane
from leanlattice.core.shaping import pathcuts as pc
from leanlattice.core.shaping import pathwork as pw

from ..known import approx, held_to, known

places = st.tuples(st.floats(-20, 20), st.floats(-20, 20))


def polygon(points):
    return path_of("polygon", points)


@st.composite
def outlines(draw):
    """Star-shaped polygons of five to nine corners."""
    n = draw(st.integers(5, 9))
    radii = draw(st.lists(st.floats(3, 9), min_size=n, max_size=n))
    turn = np.linspace(0, 2 * np.pi, n, endpoint=False)
    return [[r * np.cos(a), r * np.sin(a)] for r, a in zip(radii, turn, strict=True)]


@known("drawn curves", "pass through their points")
@pytest.mark.parametrize("kind", ["line", "polygon", "spline", "loop"])
@given(st.lists(places, min_size=3, max_size=9))
def test_drawn_curves_pass_through_their_points(kind, points):
    p = np.array(points)
    gaps = np.linalg.norm(p[:, None] - p[None], axis=2) + np.eye(len(p)) * 99
    assume(gaps.min() > 1e-3)
    path = path_of(kind, points)
    at = path.derivatives(path.knots[: len(p)])
    held_to(np.abs(at - p).max(), 1e-9)
    h = 1e-6
    t = np.array([0.237, 0.731])
    assert path.derivatives(t, 1) == approx(
        (path.derivatives(t + h) - path.derivatives(t - h)) / (2 * h),
        rel=1e-3,
        abs=1e-3 * path.length,
    )


@known("arcs and circles", "true: length, area")
def test_arcs_and_circles_are_true():
    circle = path_of("circle", [[1, 2], [4, 6]])
    p = circle.derivatives(np.linspace(0, 1, 100))
    assert np.linalg.norm(p - [1, 2], axis=1) == approx(np.full(100, 5))
    assert circle.length == approx(10 * np.pi)
    assert circle.signed_area == approx(25 * np.pi)
    arc = path_of("arc", [[5, 0], [0, 5], [-5, 0]])
    assert arc.length == approx(5 * np.pi)
    assert path_of("arc", [[5, 0], [0, -5], [-5, 0]]).derivatives(np.array([0.5]))[0] == approx(
        [0, -5]
    )
    assert path_of("arc", [[0, 0], [1, 0], [3, 0]]).length == approx(3), "three points on a line"


def test_a_closed_guided_curve_is_smooth():
    path = path_of("guided loop", [[0, 0], [6, 0], [6, 4], [0, 5]])
    for p, q in zip(path.pieces, (*path.pieces[1:], path.pieces[0]), strict=True):
        assert np.allclose(p.end, q.start)
        assert np.allclose(p.tangent(1.0), q.tangent(0.0))


@known("rounded rectangle", "area 60 − (4 − π) r², length 32 − 8 r + 2 π r")
@given(st.floats(0.05, 2.9))
def test_rounded_rectangle_has_its_closed_form_area(radius):
    rounded = pw.round_corners(path_of("rectangle", [[0, 0], [10, 6]]), radius)
    path, clamped = rounded.path, rounded.clamped
    assert path.signed_area == approx(60 - (4 - np.pi) * radius**2)
    assert path.length == approx(32 - 8 * radius + 2 * np.pi * radius)
    assert not clamped
    assert not path.joints


def test_radii_that_do_not_fit_are_clamped_and_listed():
    rounded = pw.round_corners(path_of("rectangle", [[0, 0], [10, 6]]), 4.0)
    path, clamped = rounded.path, rounded.clamped
    assert len(clamped) == 4
    assert all(r == pytest.approx(3.0) for _, r in clamped)
    assert {tuple(np.round(at, 9)) for at, _ in clamped} == {(0, 0), (10, 0), (10, 6), (0, 6)}
    assert path.signed_area == pytest.approx(60 - (4 - np.pi) * 9)


@given(st.floats(0.3, 0.97), st.floats(0.05, 6.0))
def test_corners_between_arcs_are_rounded_by_arcs_that_touch_both(apart, radius):
    """Two united circles of radius 5 have two corners; an arc in one of them, of radius r, has its centre at 5 + r from
    both middles."""
    circles = [path_of("circle", [[x, 0], [x + 5, 0]]) for x in (-5 * apart, 5 * apart)]
    outline = pc.unite(circles, 1e-4)[0]
    rounded = pw.round_corners(outline, radius)
    assert not rounded.left
    assert not rounded.clamped
    assert not rounded.path.joints
    fillets = [
        p for p in rounded.path.pieces if abs(p.radius - radius) < 1e-9 and abs(p.centre[1]) > 1e-6
    ]
    assert len(fillets) == 2
    for arc in fillets:
        assert np.hypot(arc.centre[0] - 5 * apart, arc.centre[1]) == pytest.approx(5 + radius)
    assert rounded.path.length < outline.length


def test_corners_at_free_curves_stay_and_are_told():
    free = cubics_through(np.array([[0, 0], [3, 2], [6, 0.0]]))
    closed = pc.join([free, path_of("line", [[6, 0], [0, 0]])], 1e-6)[0]
    rounded = pw.round_corners(closed, 0.2)
    assert len(rounded.left) == 2
    assert rounded.path.length == pytest.approx(closed.length)


@given(outlines(), st.floats(0.05, 3.0))
def test_rounding_never_leaves_the_outline_or_breaks_it(points, radius):
    rounded = pw.round_corners(polygon(points), radius)
    path, clamped = rounded.path, rounded.clamped
    for p, q in zip(path.pieces, (*path.pieces[1:], path.pieces[0]), strict=True):
        assert np.linalg.norm(p.end - q.start) < 1e-9
    arcs = [p for p in path.pieces if isinstance(p, ArcPiece)]
    assert all(a.radius <= radius * (1 + 1e-9) for a in arcs)
    assert len([a for a in arcs if a.radius < radius * (1 - 1e-9)]) == len(clamped)
    assert shapely.Polygon(path.polygon(1e-3)).is_valid


@known("offset of a convex outline", "Steiner: A + L d + π d²")
@given(outlines(), st.floats(0.1, 1.5))
def test_offset_outward_has_steiners_area(points, distance):
    hull = shapely.convex_hull(shapely.MultiPoint(points))
    path = polygon(np.array(shapely.orient_polygons(hull).exterior.coords)[:-1].tolist())
    (out,) = pw.offset(path, -distance, 1e-3)
    assert out.signed_area == approx(
        hull.area + hull.length * distance + np.pi * distance**2, rel=1e-6
    )
    inner = pw.offset(path, distance, 1e-3)
    expected = hull.buffer(-distance, join_style="mitre").area
    assert sum(p.signed_area for p in inner) == approx(expected, rel=1e-3, abs=1e-3)


@given(outlines(), st.floats(0.2, 2.0))
def test_offset_inward_lies_nowhere_nearer_than_asked(points, distance):
    path = polygon(points)
    line = shapely.LinearRing(points)
    for inner in pw.offset(path, distance, 1e-3):
        away = shapely.distance(line, shapely.points(inner.polygon(1e-2)))
        assert away.min() >= distance - 0.02


@known("offset of a circle", "a circle of true arcs")
def test_offset_of_a_circle_is_a_circle_of_arcs():
    (out,) = pw.offset(path_of("circle", [[1, 2], [4, 2]]), -1.0, 1e-3)
    assert all(isinstance(p, ArcPiece) for p in out.pieces)
    assert out.signed_area == approx(16 * np.pi)
    assert pw.offset(path_of("circle", [[0, 0], [2, 0]]), 2.5, 1e-3) == [], "nothing is left within"


@known("union of two circles", "two circles less their lens, kept as arcs")
def test_union_of_two_circles_keeps_true_arcs_and_the_lens_formula():
    one, two = path_of("circle", [[0, 0], [2, 0]]), path_of("circle", [[3, 0], [5, 0]])
    (out,) = pc.unite([one, two], 1e-4)
    lens = 2 * 4 * np.arccos(0.75) - 1.5 * np.sqrt(16 - 9)
    assert out.signed_area == approx(8 * np.pi - lens, rel=1e-9)
    assert all(isinstance(p, ArcPiece) for p in out.pieces)


@pytest.mark.parametrize(
    ("others", "count", "area"),
    [
        ([[[10, 0], [14, 3]]], 1, 72),  # side by side along a common edge
        ([[[20, 0], [24, 3]]], 2, 72),  # apart
        ([[[2, 2], [4, 4]]], 1, 60),  # within
        ([[[5, 3], [14, 9]]], 1, 60 + 54 - 15),  # across
    ],
)
def test_union_of_rectangles(others, count, area):
    paths = [path_of("rectangle", [[0, 0], [10, 6]]), *(path_of("rectangle", o) for o in others)]
    out = pc.unite(paths, 1e-4)
    assert len(out) == count
    assert sum(p.signed_area for p in out) == pytest.approx(area, rel=1e-6)


@known("parts of a line inside and outside an outline", "add up to it")
@given(outlines(), st.floats(-4, 4), st.floats(0, 3.1))
def test_trimmed_parts_add_up(points, offset, angle):
    path = polygon(points)
    way = np.array([np.cos(angle), np.sin(angle)])
    foot = offset * np.array([-way[1], way[0]])
    line = path_of("line", [(foot - 30 * way).tolist(), (foot + 30 * way).tolist()])
    inner, outer = pc.keep_side(line, path, "inside"), pc.keep_side(line, path, "outside")
    cut = shapely.LineString(line.polygon(1)).intersection(shapely.Polygon(points)).length
    assert sum(p.length for p in inner) == approx(cut, abs=1e-6)
    assert sum(p.length for p in inner + outer) == approx(60)


def test_lines_extend_to_what_they_meet_and_arcs_go_on_round():
    circle = path_of("circle", [[0, 0], [2, 0]])
    line = pc.extend(path_of("line", [[-0.5, 1], [0.5, 1]]), circle)
    assert line.length == pytest.approx(2 * np.sqrt(3))
    assert len(line.pieces) == 1, "a line made longer stays one"
    arc = pc.extend(
        path_of("arc", [[1, 0], [np.sqrt(0.5), np.sqrt(0.5)], [0, 1]]),
        path_of("line", [[-9, -0.5], [9, -0.5]]),
    )
    assert {round(float(p[1]), 9) for p in (arc.pieces[0].start, arc.pieces[-1].end)} == {-0.5}
    assert all(p.radius == pytest.approx(1) for p in arc.pieces)
    away = path_of("line", [[5, 5], [6, 6]])
    # Run on backwards it meets the circle at radius 2; forwards it meets nothing and stays.
    assert pc.extend(away, circle).length == pytest.approx(6 * np.sqrt(2) - 2)


@known("parts of equal length", "equal, and join again")
@given(outlines(), st.integers(2, 7))
def test_split_parts_are_equal_and_join_again(points, parts):
    path = polygon(points)
    pieces = pc.split_evenly(path, parts)
    assert [p.length for p in pieces] == approx([path.length / parts] * parts, rel=1e-6)
    (whole,) = pc.join([p if i % 2 else p.reversed() for i, p in enumerate(pieces)], 1e-6)
    assert whole.closed
    assert abs(whole.signed_area) == approx(path.signed_area, rel=1e-9)


def test_smoothing_keeps_the_area_and_takes_away_the_wiggle():
    t = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    r = 5 + 0.15 * np.cos(30 * t)
    path = path_of("loop", np.column_stack([r * np.cos(t), r * np.sin(t)]).tolist())
    out = pw.smooth(path, 90, 60)
    away = np.linalg.norm(out.polygon(1e-3), axis=1)
    assert np.ptp(away) < 0.03
    assert out.signed_area == pytest.approx(path.signed_area, rel=0.02)
    even = pw.resample(path, 40)
    steps = np.linalg.norm(np.roll(even, -1, axis=0) - even, axis=1)
    assert np.ptp(steps) < 0.1 * steps.mean()


def test_mirrored_and_turned_curves_stay_what_they_are():
    path = pw.round_corners(path_of("polygon", [[0, 0], [8, 1], [6, 5]]), 0.5).path
    mirror = path.mapped(np.array([[-1.0, 0], [0, 1]]), np.array([2.0, 0]))
    assert mirror.signed_area == pytest.approx(path.signed_area), "still counter-clockwise"
    assert mirror.length == pytest.approx(path.length)
    plan = Frame2(np.array([0, 0, 3.0]), np.array([0, 1.0, 0]), np.array([-1.0, 0, 0]))
    (again,) = on_plane(
        [PlaneCurve(path, plan)], Frame2(np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    )
    assert sum(isinstance(p, ArcPiece) for p in again.pieces) == 3
    assert again.signed_area == pytest.approx(path.signed_area)
    assert isinstance(again.pieces[0], LinePiece)
