"""Node plates cut alike: the mean of two known ones, and any that are nearly the same."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.structure.alike_arms import alike_arms
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.plate_arms import ArmJoint, plate_arms

from ..known import approx, held_to, known
from .structures import stars_of

JOINT = ArmJoint(enters=0.08)
MEETING = Meeting(
    "arms", gap=0.0, radius=0.05, thickness=0.01, beyond=0.01, rounding=0.015, fold=np.radians(30)
)
SHAPE = ("reach", "angle", "aside", "width", "first", "run", "slant", "elevation", "slope")
CROSS, LEVEL = np.array([0, 90, 180, 270]), np.zeros(4)


def arms_of_stars(*stars):
    return plate_arms(stars_of(stars, MEETING), JOINT)


@known("two node plates cut alike", "a quarter of what their angles differ by, within 0.1 %")
def test_arms_of_two_crosses_are_off_by_a_quarter_of_what_they_differ_by():
    skew = 0.4
    own = arms_of_stars((CROSS, LEVEL), (CROSS + [0, skew, 0, skew], LEVEL))
    made = alike_arms(own, 0.01)
    assert made.kind.tolist() == [1, 1]
    between = np.radians([90 - skew / 2] * 4 + [90 + skew / 2] * 4)
    held_to(np.sort(made.arms.angle) - between, 1e-9)
    longer = (own.reach[-1] - own.reach[0]) / 2
    aside = own.reach.mean() * np.radians(skew) / 4
    assert made.off == approx(np.hypot(aside, longer), rel=1e-3)


def test_plates_that_differ_by_more_stay_as_they_are():
    own = arms_of_stars((CROSS, LEVEL), (CROSS + [0, 5, 0, 5], LEVEL))
    made = alike_arms(own, 0.001)
    assert made.kind.tolist() == [1, 2]
    held_to(made.off, 1e-12)
    for name in ("way", "start", "middles", "frames", "corner", *SHAPE):
        assert np.array_equal(getattr(made.arms, name), getattr(own, name), equal_nan=True), name


def test_mirror_images_are_of_two_kinds_as_plates_have_an_outer_side():
    plan, high = np.array([0, 80, 200]), np.array([-4, -9, -14])
    own = arms_of_stars((plan, high), (-plan[::-1], high[::-1]), (plan + 33, high))
    assert alike_arms(own, 0.001).kind.tolist() == [1, 2, 1]


@given(
    plan=st.lists(st.floats(50, 110), min_size=3, max_size=5),
    high=st.lists(st.floats(-14, 6), min_size=5, max_size=5),
    moved=st.lists(st.floats(-1, 1), min_size=30, max_size=30),
    turns=st.lists(st.floats(0, 360), min_size=3, max_size=3),
    tolerance=st.floats(0.002, 0.04),
)
def test_plates_of_a_kind_are_one_shape_near_their_axes(plan, high, moved, turns, tolerance):
    count = len(plan)
    plan = np.cumsum(plan) * 360 / sum(plan)
    moved = np.reshape(moved, (3, 2, 5))[:, :, :count]
    stars = [
        (plan + turn + by[0], high[:count] + by[1]) for turn, by in zip(turns, moved, strict=True)
    ]
    own = arms_of_stars(*stars)
    if own.count < 3:
        return
    made = alike_arms(own, tolerance)
    arms, around = made.arms, np.arange(count)
    for kind in np.unique(made.kind):
        rows = np.flatnonzero(made.kind == kind)
        at = arms.offsets[rows][:, None] + around
        shapes = np.stack([getattr(arms, name)[at] for name in SHAPE], axis=2)
        for shape in shapes:
            turned = [np.abs(np.roll(shape, k, axis=0) - shapes[0]).max() for k in around]
            assert min(turned) < 1e-9
        assert made.off[at].max() < 1e-12 or len(rows) > 1
    assert made.off.max() < 2 * count * tolerance
    held_to(arms.frames @ np.swapaxes(arms.frames, 1, 2) - np.eye(3), 1e-9)
    held_to(np.linalg.det(arms.frames) - 1, 1e-9)
    assert (np.einsum("ki,ki->k", arms.frames[:, 2], own.frames[:, 2]) > 0.95).all()
    assert (arms.start <= arms.set_back + 1e-6).all()
