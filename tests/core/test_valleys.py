"""Panels that lean towards each other, and the joint that keeps them apart."""

from __future__ import annotations

from dataclasses import replace

import manifold3d
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.parts import panel_parts
from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.prisms import prism
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.panels.valleys import fold_angles, leaning_panels

from ..known import held_to, known


def folded(degrees, thickness, joint, raised, lifted=(0.0,) * 6):
    """Panels of two squares of a metre that meet at x = 0 and turn there by an angle: up in a
    valley, where it is above 0, down on a ridge; their corners ``lifted`` by so many metres."""
    half = np.radians(degrees) / 2
    x = np.array([-np.cos(half), -np.cos(half), 0.0, 0.0, np.cos(half), np.cos(half)])
    z = np.sin(half) * np.array([1.0, 1, 0, 0, 1, 1]) + np.array(lifted)
    points = np.column_stack([x, [0, 1, 0, 1, 0, 1], z])
    corners = np.array([0, 2, 3, 1, 2, 4, 5, 3], np.int32)
    offsets = np.array([0, 4, 8], np.int32)
    surface = mesh_surface(Mesh(points, corners, offsets))
    net = build_net(surface, points, surface.uv, corners, offsets)
    made = panel_net(net, 1.0, "plywood", thickness, joint, source="n")
    return replace(made, raised=raised)


def solids(panels):
    """Panels held back by half the joint, as they stand."""
    out = []
    for part in panel_parts(panels, ["P1", "P2"], lambda share: None).parts:
        flat = np.column_stack([part.outer, np.zeros(len(part.outer)), np.ones(len(part.outer))])
        raised, normal = flat @ part.pose[:3].T, part.pose[:3, 2] * 1000
        vertices, faces = prism(raised, normal, part.thickness / 1000)
        out.append(manifold3d.Manifold(manifold3d.Mesh64(vertices, faces.astype(np.uint64))))
    return out


@pytest.mark.parametrize("turn", [1e-7, -1e-7])
def test_panels_that_wind_along_their_side_meet_straight_all_the_same(turn):
    """Both planes turn by 0.3° about what is square to their side, but not about that."""
    wound = (0.005, -0.005, 0.0, 0.0, -0.005, 0.005)
    panels = folded(turn, 0.02, 0.01, 0.0, wound)
    angles = np.degrees(fold_angles(panels))
    held_to(angles[~np.isnan(angles)] - 180, 1e-5)


@known("panels in a valley that turns by θ", "a joint of 2 h tan(θ/2), h being how far they rise")
@pytest.mark.parametrize("degrees", [40, -40])
@pytest.mark.parametrize("raised", [0.05, -0.05, 0.0])
def test_the_joint_of_a_valley(degrees, raised):
    found = leaning_panels(folded(degrees, 0.02, 0.01, raised))
    rise = max(raised + 0.02, 0) if degrees > 0 else max(-raised, 0)
    assert (found.panel.tolist(), found.neighbour.tolist()) == ([0], [1])
    held_to(found.joint - 2 * rise * np.tan(np.radians(20)), 1e-9)
    held_to(found.at - [[0, 0.5, 0]], 1e-9)


@given(st.floats(5, 70), st.floats(0.0, 0.1), st.booleans())
def test_panels_touch_at_just_that_joint(degrees, raised, is_ridge):
    angle = -degrees if is_ridge else degrees
    raised = -raised - 0.03 if is_ridge else raised
    needed = float(leaning_panels(folded(angle, 0.02, 0.01, raised)).joint[0])
    one, two = solids(folded(angle, 0.02, needed + 1e-4, raised))
    assert (one ^ two).volume() < 1e-12
    assert one.min_gap(two, 1.0) < 2e-4
    one, two = solids(folded(angle, 0.02, max(needed - 1e-3, 0.0), raised))
    assert (one ^ two).volume() > 0
