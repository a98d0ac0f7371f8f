"""How deep convex solids run into each other, by the pack's own check."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.exchange.checks.touching import Convex, depths

SQUARE = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])


def prism(low, high, side, up, corners, radius=0.0):
    one = [np.array([v], float) for v in (low, high, side, up, corners, radius)]
    return Convex(*one, np.array([False]))


def depth_of(one, other):
    return depths(Convex.joined([one, other]), np.array([[0, 1]]))[0]


@given(
    st.floats(0.05, 2.0),
    st.floats(0.1, 3.0),
    st.floats(-1.2, 1.2),
    st.floats(0, np.pi),
    st.floats(-0.3, 0.3),
)
def test_a_member_that_stops_before_the_side_of_a_hub_is_clear_of_it(
    radius, height, slope, roll, aside
):
    hub = prism([0, 0, -height], [0, 0, height], [1, 0, 0], [0, 1, 0], 0 * SQUARE, radius)
    along = np.array([np.cos(slope), 0.0, np.sin(slope)])
    across, square = np.array([0.0, 1.0, 0.0]), np.array([-np.sin(slope), 0.0, np.cos(slope)])
    side = np.cos(roll) * across + np.sin(roll) * square
    up = np.cross(along, side)
    corners = SQUARE * [0.08, 0.12]
    reach = float(np.abs(corners @ np.stack([side, up]) @ [1.0, 0, 0]).max())
    start = (radius + reach + 1e-4) / np.cos(slope) * along + aside * radius * across
    assert depth_of(hub, prism(start, start + 3 * along, side, up, corners)) <= 0


def test_a_level_member_is_as_deep_in_a_hub_as_it_goes():
    hub = prism([0, 0, -1], [0, 0, 1], [1, 0, 0], [0, 1, 0], 0 * SQUARE, 0.4)
    for gap in (0.01, -0.01, -0.03):
        start = np.array([0.4 + gap, 0, 0])
        member = prism(start, start + [3, 0, 0], [0, 1, 0], [0, 0, 1], SQUARE * 0.1)
        assert depth_of(hub, member) == pytest.approx(-gap, abs=1e-9)


def test_a_hub_as_large_as_a_man_is_clear_of_the_member_that_rises_from_its_side():
    normal = np.array([-0.38424228, -0.66552716, 0.63986832])
    middle, half = np.array([-1.392516, -2.443691, 0.648266]), 1.529486
    across = np.cross(normal, [1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    ends = middle - half * normal, middle + half * normal
    hub = prism(*ends, np.cross(across, normal), across, 0 * SQUARE, 1.356477)
    along = np.array([-0.8660254, -0.5, 0.0])
    end, up = np.array([-1.41605742, -2.412298, 0.721747]), np.array([-0.194307, 0.33655, 0.9214])
    ends = end - 3.97903 * along, end - 1.838425 * along
    member = prism(*ends, np.cross(up, along), up, SQUARE * [0.064, 0.12])
    assert depth_of(hub, member) < 1e-5
