"""What is meant of a net."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.patterns.lay import lay
from leanlattice.core.selection import SELECTIONS, Selection

from ..conftest import surfaces

SQUARE = [(1.5, 1.5), (4.5, 1.5), (4.5, 3.5), (1.5, 3.5)]


@pytest.fixture
def sheet():
    """Squares of a metre, 6 along x and 5 along y, that rise with x."""
    ends = [np.array([[0.0, y, 0.0], [6.0, y, 3.0]]) for y in (0.0, 5.0)]
    return lay(loft(ends), "quads", (6, 5))


def chosen(net, **words):
    """Places in plan of what is meant, rounded."""
    found = net.vertices[Selection(**words).vertices(net)]
    return {(round(x), round(y)) for x, y in found[:, :2].tolist()}


GRID = {(x, y) for x in range(7) for y in range(6)}
BORDER = {(x, y) for x, y in GRID if x in (0, 6) or y in (0, 5)}


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        ({"which": "border"}, BORDER),
        ({"which": "outer"}, BORDER),
        ({"which": "inner"}, set()),
        ({"which": "loops", "places": np.array([[3.0, 2, 0]])}, BORDER),
        ({"which": "stretch", "places": np.array([[6.1, 1, 3], [0, 4, 0]])},
         {*((6, y) for y in range(1, 6)), *((x, 5) for x in range(7)), (0, 4)}),
        ({"which": "corners"}, {(0, 0), (6, 0), (6, 5), (0, 5)}),
        ({"which": "side", "azimuth": 0.0}, {(6, y) for y in range(6)}),
        ({"which": "side", "azimuth": np.pi / 2}, {(x, 5) for x in range(7)}),
        ({"which": "heights", "low": 0.5, "high": 1.0}, {(x, y) for x, y in GRID if 1 <= x <= 2}),
        ({"which": "places", "places": np.array([[1.2, 2.1, 0.6], [4, 4, 2]])}, {(1, 2), (4, 4)}),
        ({"which": "region", "outlines": (np.array(SQUARE),)}, {(x, y) for x in (2, 3, 4) for y in (2, 3)}),
    ],
)  # fmt: skip
def test_what_is_meant_of_a_sheet(sheet, words, wanted):
    assert chosen(sheet, **words) == wanted


def test_borders_within_are_those_of_openings():
    opened = lay(loft([np.array([[0.0, y, 0], [6, y, 0]]) for y in (0.0, 6.0)]), "quads", (6, 6))
    assert not len(Selection("inner").vertices(opened))


@given(surfaces(), st.sampled_from(sorted(SELECTIONS)), st.floats(-4, 4), st.integers(0, 10**6))
def test_each_is_meant_once_and_of_the_net(surface, which, azimuth, seed):
    net = lay(surface, "quads", (5, 4))
    places = np.random.default_rng(seed).normal(size=(3, 3)) * 5
    ring = np.array(SQUARE)
    found = Selection(which, azimuth, -1.0, 2.0, places, (ring, ring + 1)).vertices(net)
    assert len(np.unique(found)) == len(found)
    assert (np.sort(found) == found).all()
    assert found.size == 0 or (found.min() >= 0 and found.max() < len(net.vertices))
    if which in ("side", "corners", "outer", "inner", "loops"):
        assert np.isin(found, net.loop_vertices).all()
