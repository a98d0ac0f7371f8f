"""Hubs made alike: the mean of two known ones, and any that are nearly the same and turned."""

from __future__ import annotations

from itertools import permutations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from leanlattice.core.hubs.alike import alike_seats
from leanlattice.core.structure.hub_seats import Making, hub_seats
from leanlattice.core.structure.meetings import Meeting

from ..known import approx, held_to, known
from .structures import stars_of

MEETING = Meeting("seats", gap=0.004, radius=0.12, sizes="fixed")
CROSS, LEVEL = np.array([0, 90, 180, 270]), np.zeros(4)


def seats_of(*stars):
    return hub_seats(stars_of(stars, MEETING), Making())


def in_degrees(ways):
    flat = np.hypot(ways[:, 0], ways[:, 1])
    return np.degrees([np.arctan2(ways[:, 1], ways[:, 0]), np.arctan2(ways[:, 2], flat)])


@known("two hubs made alike", "seats off by a quarter of what their angles differ by, within 0.1 %")
def test_seats_of_two_crosses_are_off_by_a_quarter_of_what_they_differ_by():
    skew = 1.0
    own = seats_of((CROSS, LEVEL), (CROSS + [0, skew, 0, skew], LEVEL))
    made = alike_seats(own, 0.002)
    assert made.kind.tolist() == [1, 1]
    assert made.off == approx(own.ends.levels * np.radians(skew) / 4, rel=1e-3)
    held_to(made.seats.ends.levels - own.ends.levels, 1e-9)


@given(
    seed=st.integers(0, 10**6),
    count=st.integers(2, 7),
    moved=st.floats(0, 1.5),
    tolerance=st.floats(0.001, 0.01),
)
def test_hubs_of_a_kind_are_one_shape_near_the_ends_of_members(seed, count, moved, tolerance):
    random = np.random.default_rng(seed)
    ways = random.normal(size=(count, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    stars = []
    for turn in Rotation.random(3, random_state=seed).as_matrix():
        order = random.permutation(count)
        own = ways + np.radians(moved) * random.uniform(-1, 1, (count, 3))
        stars.append(in_degrees((own / np.linalg.norm(own, axis=1, keepdims=True))[order] @ turn))
    own = seats_of(*stars)
    made = alike_seats(own, tolerance)
    ends = made.seats.ends
    assert made.off.max(initial=0.0) <= 4 * tolerance
    held_to(np.linalg.norm(ends.way, axis=1) - 1, 1e-9)
    held_to(np.hypot(ends.levels, ends.reach) - made.seats.radius[made.seats.hub], 1e-9)
    for kind in np.unique(made.kind):
        rows = np.flatnonzero(made.kind == kind)
        places = [(ends.off + ends.set_back[:, None] * ends.way)[made.seats.hub == k] for k in rows]
        apart = [np.sort(np.linalg.norm(p[:, None] - p, axis=2).ravel()) for p in places]
        held_to(np.array(apart) - apart[0], 1e-9)
        # They are not only as far from each other: a turn takes one onto the other.
        for p in places[1:]:
            assert any_turn_fits(places[0], p)
        assert len(rows) > 1 or made.off[made.seats.hub == rows[0]].max() == 0


def any_turn_fits(one, other):
    """Whether places (k, 3) can be turned about 0 onto others in some order."""
    if len(one) < 3:
        return True
    for i, j in permutations(range(len(other)), 2):
        turned = one @ frame(one[0], one[1]).T @ frame(other[i], other[j])
        if np.linalg.norm(turned[:, None] - other, axis=2).min(axis=1).max() < 1e-6:
            return True
    return False


def frame(one, other):
    x = one / np.linalg.norm(one)
    z = np.cross(x, other)
    z /= np.linalg.norm(z)
    return np.stack([x, np.cross(z, x), z])


def test_hubs_that_differ_by_more_and_mirror_images_stay_as_they_are():
    plan, high = np.array([0, 70, 190, 300]), np.array([0, 10, -25, 50])
    own = seats_of((plan, high), (plan, -high), (plan + [0, 9, 0, 0], high))
    made = alike_seats(own, 0.001)
    assert made.kind.tolist() == [1, 2, 3]
    assert made.off.max() == 0
    assert np.array_equal(made.seats.ends.way, own.ends.way)
