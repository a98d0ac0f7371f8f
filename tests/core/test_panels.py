"""Panels in the cells of nets, and how they sit on members."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.polygons import areas, flatness
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.patterns.lay import lay

from ..conftest import roof
from ..known import approx, known


@given(st.floats(0.0, 0.05))
def test_panels_are_flat_or_split_and_fill_the_net(tolerance):
    net = lay(roof(), "diagrid", (7, 6))
    panels = panel_net(net, tolerance, "glass", 0.012, 0.02)
    assert panels.flatness.max() <= tolerance
    split = net.flatness > tolerance
    assert set(panels.split_cells) == set(np.flatnonzero(split & (np.diff(net.offsets) > 3)))
    whole = ~np.isin(panels.cell, panels.split_cells)
    assert panels.areas[whole] == pytest.approx(
        areas(net.vertices, net.corners, net.offsets)[panels.cell[whole]]
    )
    owner = np.repeat(np.arange(panels.count), np.diff(panels.offsets))
    inner = panels.neighbour >= 0
    pairs = set(zip(owner[inner], panels.neighbour[inner], strict=True))
    assert all((b, a) in pairs for a, b in pairs)
    assert (~inner).sum() == net.border.sum()


@known("flatness of a square with one corner lifted by h", "h/4")
def test_flatness_of_a_bent_quad_is_a_quarter_of_the_lift():
    """One corner of a square lifted by h puts every corner h/4 from the best plane, for small h."""
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 1e-4], [0, 1, 0]])
    corners, offsets = np.arange(4, dtype=np.int32), np.array([0, 4], np.int32)
    assert flatness(points, corners, offsets)[0] == approx(2.5e-5, rel=1e-3)
