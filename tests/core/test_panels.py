"""Panels in the cells of nets, and how they sit on members."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.polygons import areas, flatness
from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.panels.valleys import fold_angles
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


@known("pyramids over squares, half as high as these are wide", "120° at ridges, 270° at valleys")
def test_panels_tell_the_angles_at_which_they_meet():
    sheet = loft([np.array([[0, 0, 0], [3, 0, 0]]), np.array([[0, 3, 0], [3, 3, 0]])])
    net = lay(sheet, "quads", (3, 3))
    up = [0, 0, 1.0 if _looks_up(net) else -1.0]
    panels = panel_net(net, 0.0, "glass", 0.01, 0.0, apex=net.cell_means + 0.5 * np.array(up))
    angles = np.degrees(fold_angles(panels)).reshape(-1, 3)
    at_border = panels.neighbour.reshape(-1, 3)[:, 0] < 0
    assert np.isnan(angles[at_border, 0]).all()
    assert angles[~at_border, 0] == approx(np.full(24, 270.0), rel=1e-9)
    assert angles[:, 1:] == approx(np.full((36, 2), 120.0), rel=1e-9)


def _looks_up(net):
    """Whether cells run counter-clockwise seen from above."""
    corners = net.vertices[net.corners[net.offsets[0] : net.offsets[1]]]
    return bool(np.cross(corners[1] - corners[0], corners[2] - corners[1])[2] > 0)
