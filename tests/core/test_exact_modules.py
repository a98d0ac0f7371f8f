"""Patterns with bays of exactly a module, what is left over being cut at the borders."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.forms import plane
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.patterns.lay import Placing, bays_of_module, lay
from leanlattice.core.patterns.table import PATTERNS

from ..known import approx, known

X, Y, ORIGIN = np.eye(3)[0], np.eye(3)[1], np.zeros(3)


def exact(surface, pattern, module, **placing):
    bays, longer = bays_of_module(surface, module, pattern)
    return lay(surface, pattern, bays, placing=Placing(longer=longer, **placing))


def inner(net):
    """Edges between cells that touch no border."""
    on_border = np.zeros(len(net.vertices), bool)
    on_border[net.loop_vertices] = True
    return ~on_border[net.edges].any(axis=1)


def area(net):
    return areas(net.vertices, net.corners, net.offsets).sum()


@known("exact module on a plane", "sides of triangles, hexagons and squares; areas add up")
@given(st.floats(2.0, 9.0), st.floats(2.0, 9.0), st.floats(0.2, 0.6))
def test_triangles_hexagons_and_squares_have_their_side_exactly(width, length, module):
    sheet = plane(ORIGIN, X * width, Y * length)
    for pattern in ("equilateral", "hexagons", "quads"):
        net = exact(sheet, pattern, module)
        sides = net.edge_lengths[inner(net)]
        assert sides == approx(np.full(len(sides), module), rel=1e-9)
        assert area(net) == approx(width * length, rel=1e-9)
        # As much is left over on one side as on the other.
        if pattern == "quads":
            across = np.unique(np.round(net.vertices[:, 0], 9))
            assert across[1] == approx(width - across[-2], abs=1e-6)


@known("exact module on a dome", "arcs from ring to ring, from the apex")
def test_rings_of_a_dome_count_from_its_apex():
    cap = dome(5.0, 2.0, ORIGIN)
    net = exact(cap, "quads", 0.7)
    radius = np.hypot(net.vertices[:, 0], net.vertices[:, 1])
    sphere = (2.5**2 + 2.0**2) / (2 * 2.0)
    arcs = np.unique(np.round(np.arcsin(np.clip(radius / sphere, -1, 1)) * sphere, 6))
    assert np.diff(arcs)[:-1] == approx(np.full(len(arcs) - 2, 0.7), abs=1e-5)


@pytest.mark.parametrize("pattern", sorted(PATTERNS))
def test_every_pattern_covers_the_shape(pattern):
    sheet = plane(ORIGIN, X * 5.3, Y * 4.1)
    net = exact(sheet, pattern, 0.9)
    assert area(net) == pytest.approx(5.3 * 4.1, rel=1e-9)
    assert len(net.vertices) - len(net.edges) + net.cell_count == 1
