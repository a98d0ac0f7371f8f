"""Curves and surfaces against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.curves import first_coincident, through_points
from leanlattice.core.geometry.surfaces import crossing_profiles, dome, loft

from ..conftest import arch, ring, roof
from ..known import approx, held_to, known

inside = st.lists(
    st.tuples(st.floats(0.02, 0.98), st.floats(0.02, 0.98)), min_size=1, max_size=20
).map(np.array)


@known("interpolating spline", "passes through its points")
@given(st.lists(st.tuples(*[st.floats(-50, 50)] * 3), min_size=2, max_size=12), st.booleans())
def test_splines_pass_through_their_points(points, closed):
    points = np.array(points)
    if first_coincident(points, closed, 1e-6) is not None or (closed and len(points) < 3):
        return
    curve = through_points(points, closed)
    away = np.abs(curve.points(curve.spline.x[: len(points)]) - points)
    held_to(away / max(1.0, np.abs(points).max()), 1e-12)


@known("loft through straight parallel profiles", "a plane, no curvature")
def test_loft_through_straight_parallel_profiles_is_a_plane():
    lines = [
        np.array([[0, y, 0.5 * y], [4, y, 0.5 * y], [9, y, 0.5 * y]], float)[: 2 + i]
        for i, y in enumerate((0, 5))
    ]
    surface = loft(lines)
    uv = np.random.default_rng(1).random((200, 2))
    p = surface.points(uv)
    held_to(np.abs(p[:, 2] - 0.5 * p[:, 1]).max(), 1e-12)
    held_to(np.abs(surface.curvatures(uv)).max(), 1e-9)
    assert np.allclose(surface.normals(uv), np.array([0, -0.5, 1]) / np.hypot(0.5, 1))


@known(
    "loft of equal circles, 8 points a quarter",
    "a cylinder: radius, area 2πrh, mean curvature 1/2r",
)
def test_loft_of_equal_circles_is_a_cylinder():
    surface = loft([ring(0, 3, 32), ring(7, 3, 32)], closed=True)
    uv = np.random.default_rng(2).random((500, 2))
    p = surface.points(uv)
    held_to(np.abs(np.hypot(p[:, 0], p[:, 2]) - 3).max(), 3e-3)
    assert surface.area == approx(2 * np.pi * 3 * 7, rel=1e-4)
    gauss, mean = surface.curvatures(uv).T
    held_to(np.abs(gauss).max(), 1e-6)
    assert mean == approx(np.full(500, 1 / 6), rel=0.02)
    outward = p * [1, 0, 1] / 3
    assert np.einsum("ij,ij->i", surface.normals(uv), outward).min() > 0.999


@known("dome", "a spherical cap: radius (a² + h²)/2h, area 2πRh, curvatures 1/R², 1/R")
@pytest.mark.parametrize(("span", "rise"), [(12.0, 3.0), (10.0, 5.0), (6.0, 4.0)])
def test_dome_is_a_spherical_cap(span, rise):
    surface = dome(span, rise, np.array([1.0, 2.0, 3.0]))
    radius = (span**2 / 4 + rise**2) / (2 * rise)
    uv = np.random.default_rng(3).random((300, 2)) * [1, 0.999]
    p = surface.points(uv)
    centre = np.array([1, 2, 3 + rise - radius])
    assert np.linalg.norm(p - centre, axis=1) == approx(np.full(300, radius), rel=1e-12)
    assert surface.area == approx(2 * np.pi * radius * rise, rel=1e-9)
    assert surface.curvatures(uv) == approx(
        np.tile([1 / radius**2, 1 / radius], (300, 1)), rel=1e-9
    )
    assert np.allclose(surface.normals(uv), (p - centre) / radius)
    far = centre + 2.7 * (p - centre)
    assert np.linalg.norm(surface.points(surface.closest(far)) - p, axis=1).max() < 1e-7 * radius


@known("derivatives of lofts and domes", "central differences")
@given(inside)
def test_derivatives_agree_with_differences(uv):
    surface, h = roof(), 1e-5
    for axis, order in enumerate(((1, 0), (0, 1))):
        step = np.eye(2)[axis] * h
        difference = (surface.points(uv + step) - surface.points(uv - step)) / (2 * h)
        held_to(np.abs(difference - surface.derivatives(uv, *order)).max(), 1e-5)
    cross = (surface.derivatives(uv + [0, h], 1, 0) - surface.derivatives(uv - [0, h], 1, 0)) / (
        2 * h
    )
    held_to(np.abs(cross - surface.derivatives(uv, 1, 1)).max(), 1e-3)


@known("closest point on a surface", "at the foot of its normal")
@given(inside, st.floats(0.01, 0.8))
def test_closest_point_lies_at_the_foot_of_the_normal(uv, height):
    surface = roof()
    found = surface.closest(surface.points(uv) + height * surface.normals(uv))
    held_to(np.linalg.norm(surface.points(found) - surface.points(uv), axis=1).max(), 1e-6)


def test_outside_looks_up_whichever_way_profiles_run():
    for lines in ([arch(0, 8, 3), arch(9, 8, 3)], [arch(9, 8, 3), arch(0, 8, 3)]):
        for turned in (lines, [line[::-1] for line in lines]):
            assert loft(turned).normals(np.array([[0.5, 0.5]]))[0, 2] > 0.9
            assert loft(turned, swapped=True).normals(np.array([[0.5, 0.5]]))[0, 2] < -0.9


def test_surface_runs_on_along_its_tangents():
    surface = roof()
    uv = np.array([[0.3, -0.1], [1.2, 0.5], [0.4, 0.6]])
    edge = np.clip(uv, 0, 1)
    expected = surface.points(edge)
    expected[0] += -0.1 * surface.derivatives(edge, 0, 1)[0]
    expected[1] += 0.2 * surface.derivatives(edge, 1, 0)[1]
    assert np.allclose(surface.extended(uv), expected)


@pytest.mark.parametrize("shift", [0.0, 3.0])
def test_crossing_profiles_are_found(shift):
    straight = np.array([[0, 0, 0], [5, 0, 0], [10, 0, 0]], float)
    slanted = np.array([[0, -2, 0], [5, shift, 0], [10, 2, 0]], float)
    assert crossing_profiles(loft([straight, slanted])) is not None
    assert crossing_profiles(loft([straight, straight + [0, 4, 1]])) is None
