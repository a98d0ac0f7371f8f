"""What areas are worth as sections: closed forms, and what no turn or shift changes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.sections.area import area_of, rounded

from ..known import approx, known

SIZES = st.floats(0.02, 2.0)


def rectangle(width, height, y=0.0, z=0.0):
    half = np.array([width, height]) / 2
    return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half + (y, z)


@known("rectangles anywhere", "b h³ / 12, b h² / 6 and b h² / 4 about their own middles")
@given(SIZES, SIZES, st.floats(-3, 3), st.floats(-3, 3))
def test_a_rectangle_is_worth_the_same_wherever_it_is(b, h, y, z):
    own = area_of([rectangle(b, h, y, z)])
    got = (own.area, own.inertia_y, own.inertia_z, own.elastic_y, own.plastic_y, own.plastic_z)
    wanted = (b * h, b * h**3 / 12, h * b**3 / 12, b * h**2 / 6, b * h**2 / 4, h * b**2 / 4)
    assert got == approx(wanted, rel=1e-6)
    assert own.centroid == pytest.approx((y, z), abs=1e-9)


@given(SIZES, SIZES, st.floats(0.05, 0.95))
def test_a_hollow_takes_away_what_it_would_be_worth(b, h, share):
    whole, less = rectangle(b, h), rectangle(share * b, share * h)
    own = area_of([whole, less[::-1]])
    one, other = area_of([whole]), area_of([less])
    for name in ("area", "inertia_y", "inertia_z", "plastic_y", "plastic_z"):
        got, wanted = getattr(own, name), getattr(one, name) - getattr(other, name)
        assert got == pytest.approx(wanted, rel=1e-6), name


@given(SIZES, SIZES)
def test_a_triangle_is_not_the_same_on_both_sides(b, h):
    """Right-angled: b h³ / 36, product −b² h² / 72, and halves that meet at h (1 − √½)."""
    own = area_of([np.array([(0, 0), (b, 0), (0, h)], float)])
    assert own.centroid == pytest.approx((b / 3, h / 3))
    got = (own.inertia_y, own.product, own.elastic_y)
    assert got == pytest.approx((b * h**3 / 36, -((b * h) ** 2) / 72, b * h**2 / 24))
    # Above the line that halves it there is a triangle of h / √2, below it what is left.
    whole, upper = b * h / 2, b * h / 4
    level = h * (1 - np.sqrt(0.5))
    above = upper * h * np.sqrt(0.5) / 3
    below = whole * (level - h / 3) + above
    assert own.plastic_y == pytest.approx(above + below, rel=1e-6)


@given(SIZES, SIZES, st.floats(0, 2 * np.pi))
def test_second_moments_turn_as_a_tensor(b, h, turn):
    ring = rectangle(b, h, 0.3, -0.2)
    c, s = np.cos(turn), np.sin(turn)
    own, turned = area_of([ring]), area_of([ring @ np.array([[c, s], [-s, c]])])
    assert turned.inertia_y + turned.inertia_z == pytest.approx(own.inertia_y + own.inertia_z)
    wanted = (own.inertia_z - own.inertia_y) * s * c
    assert turned.product == pytest.approx(wanted, abs=1e-9 * (own.inertia_y + own.inertia_z))


@given(st.floats(0.05, 1.0), st.floats(0.1, 0.9))
def test_rounded_corners_take_or_add_what_circles_leave(side, share):
    """Each of four corners outside lacks (1 − π/4) r², one inside gains it."""
    radius = share * side / 2
    lack = (1 - np.pi / 4) * radius**2
    square = rounded(rectangle(side, side), [radius] * 4)
    assert area_of([square]).area == pytest.approx(side**2 - 4 * lack, rel=1e-3)
    assert np.abs(square).max() == pytest.approx(side / 2)
    ell = np.array([(0, 0), (2, 0), (2, 1), (1, 1), (1, 2), (0, 2)]) * side
    filled = area_of([rounded(ell, [0, 0, 0, radius, 0, 0])])
    assert filled.area == pytest.approx(3 * side**2 + lack, rel=1e-3)
