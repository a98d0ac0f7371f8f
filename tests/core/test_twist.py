"""Panels that are twisted cold: how far, how stressed, and where they then are."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.parts import panel_parts
from leanlattice.core.flat.twisted import twisted_plate
from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.materials import MATERIALS
from leanlattice.core.panels.outlines import outlines_of_panels
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.panels.twist import heights_of_patch, thickest, twist_stresses, twists_of

from ..known import held_to, known

SQUARE = np.array([[0.0, 0, 0], [1.2, 0, 0], [1.2, 1.2, 0], [0, 1.2, 0]])
LIFTED = SQUARE + np.array([[0, 0, 0], [0, 0, 0], [0, 0, 0.03], [0, 0, 0]])


def of_one(places, stress, thickness=0.01, joint=0.0, tolerance=0.002):
    """Glass in one cell."""
    corners, offsets = np.arange(len(places), dtype=np.int32), np.array([0, len(places)], np.int32)
    surface = mesh_surface(Mesh(places, corners, offsets))
    net = build_net(surface, places, surface.uv, corners, offsets)
    return panel_net(net, tolerance, "glass", thickness, joint, stress=stress)


@known(
    "a square plate of which one corner is lifted by h",
    "bent by G t h / a², stretched by E (h / a)² / 12",
)
def test_a_twisted_square_is_bent_by_its_shear_modulus_and_stretched_at_its_sides():
    twists = twists_of(LIFTED[None])
    # Its patch leans a little where its middle is.
    lean = np.sqrt(1 + 2 * (0.015 / 1.2) ** 2)
    held_to(twists.out - 0.03 / lean, 1e-12)
    glass = MATERIALS["glass"]
    bent = glass.shear_stiffness * 0.01 * 0.03 / 1.2**2
    stretched = glass.stiffness * (0.03 / 1.2) ** 2 / 12
    wanted = stretched / 2 + np.sqrt(stretched**2 / 4 + bent**2)
    found = twist_stresses(twists, np.array([0.01]), ["glass"])
    held_to(found / wanted - 1, 2e-3)
    assert 6 < wanted / 1e6 < 9


def quads():
    moves = st.lists(st.floats(-0.25, 0.25), min_size=12, max_size=12)
    return moves.map(lambda by: SQUARE + np.array(by).reshape(4, 3))


@given(quads(), st.integers(1, 3))
def test_a_twist_is_the_same_from_whichever_corner_one_begins_and_from_both_sides(corners, k):
    every = np.stack([corners, np.roll(corners, k, axis=0), corners[::-1]])
    twists = twists_of(every)
    assert np.abs(twists.out) == pytest.approx(np.abs(twists.out[0]), abs=1e-12)
    found = twist_stresses(twists, np.full(3, 0.012), ["plywood"] * 3)
    assert found == pytest.approx(found[0], rel=1e-9, abs=1e-3)


@given(quads(), st.floats(1e6, 1e9))
def test_a_sheet_as_thick_as_it_may_be_is_stressed_as_far_as_it_may(corners, stress):
    twists = twists_of(corners[None])
    thickness = thickest(twists, np.array([stress]), ["glass"])
    if thickness[0] == 0:
        assert twist_stresses(twists, np.zeros(1), ["glass"])[0] >= stress * (1 - 1e-9)
    elif thickness[0] < 1e3:
        found = twist_stresses(twists, thickness, ["glass"])[0]
        assert found == pytest.approx(stress, rel=1e-6)


@given(quads())
def test_a_patch_goes_straight_between_its_corners(corners):
    flat, heights = corners[:, :2], corners[:, 2]
    after, beyond = np.roll(flat, -1, axis=0), np.roll(heights, -1)
    assert heights_of_patch(flat, flat, heights) == pytest.approx(heights, abs=1e-9)
    third = heights_of_patch(flat + (after - flat) / 3, flat, heights)
    assert third == pytest.approx(heights + (beyond - heights) / 3, abs=1e-9)


@pytest.mark.parametrize(
    ("places", "stress", "panels"),
    [
        (LIFTED, 1e9, 1),
        (LIFTED, 1e5, 2),
        (LIFTED * [1, 1, 0], 1e5, 1),
        (LIFTED[[0, 1, 3, 2]] + 0.0, 1e9, 2),  # crosses itself
        (np.vstack([LIFTED, [[-0.5, 0.6, 0.2]]]), 1e9, 3),  # five corners
    ],
)
def test_quads_are_twisted_as_far_as_that_takes_no_more_than_was_told(places, stress, panels):
    made = of_one(places, stress)
    assert made.count == panels
    assert made.bent.sum() == (panels == 1 and places[2, 2] > 0)


def test_a_twisted_plate_stands_on_its_corners_and_weighs_what_it_did():
    panels = of_one(LIFTED, 1e9)
    (part,) = panel_parts(panels, ["P1"]).parts
    places, triangles = twisted_plate(part, outlines_of_panels(panels).patches[0])
    near = np.linalg.norm(places[:, None] - LIFTED, axis=2).min(axis=0)
    assert near.max() < 1e-9
    a, b, c = np.moveaxis(places[triangles], 1, 0)
    volume = np.einsum("ij,ij->", a, np.cross(b, c)) / 6
    assert volume == pytest.approx(part.area / 1e6 * 0.01, rel=1e-6)
