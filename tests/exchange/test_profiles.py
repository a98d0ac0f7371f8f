"""Profiles of building models drawn from their parameters, against the sections they stand for."""

from __future__ import annotations

import ifcopenshell
import ifcopenshell.geom
import numpy as np
import pytest
import shapely

from leanlattice.core.materials import MATERIALS
from leanlattice.core.sections import FAMILIES, Section, find
from leanlattice.exchange.checks.profiles import drawn_profile, profile_differs
from leanlattice.exchange.ifc import Model

from ..known import held_to, known


@pytest.fixture
def model():
    return Model("Profiles")


@pytest.mark.parametrize("family", FAMILIES)
def test_profiles_of_every_family_are_those_of_its_sections(model, family):
    for shape in list(FAMILIES[family].made())[:3]:
        section = Section(shape, MATERIALS[shape.materials[0]])
        assert profile_differs(model.profile(section), section.name) < 1e-3


@pytest.mark.parametrize(
    ("name", "attribute", "value"),
    [
        ("IPE 200", "WebThickness", 0.0066), ("IPE 200", "FlangeThickness", 0.0095),
        ("UPE 200", "FlangeWidth", 0.081), ("UPE 200", "Depth", 0.202),
        ("L 120 × 80 × 10", "Width", 0.082), ("T 100 × 100 × 8 × 10", "WebThickness", 0.009),
        ("RHS 100 × 50 × 5", "WallThickness", 0.006),
        ("CHS 88.9 × 4", "WallThickness", 0.005), ("Box 300 × 200 × 10", "XDim", 0.202),
        ("Round 30", "Radius", 0.016), ("Timber 60 × 160", "YDim", 0.162),
    ],
)  # fmt: skip
def test_a_size_that_is_off_is_found(model, name, attribute, value):
    profile = model.profile(find(name))
    setattr(profile, attribute, value)
    assert profile_differs(profile, name) > 0.1


@pytest.mark.parametrize("name", ["UPE 200", "L 80 × 80 × 8", "T 100 × 100 × 8 × 10"])
def test_a_profile_that_is_turned_or_moved_is_found(model, name):
    profile = model.profile(find(name))
    assert profile_differs(profile, name) < 1e-3
    turned = model.file.create_entity("IfcDirection", (-1.0, 0.0))
    profile.Position.RefDirection = turned
    assert profile_differs(profile, name) > 1
    profile.Position.RefDirection = None
    profile.Position.Location = model.file.create_entity("IfcCartesianPoint", (0.002, 0.0))
    assert profile_differs(profile, name) > 0.1


def test_two_channels_stand_back_to_back(model):
    drawn = drawn_profile(model.profile(find("2UPE 200 × 10")))
    left, right = sorted(drawn.geoms, key=lambda piece: piece.bounds[0])
    assert np.allclose(left.bounds, (-0.085, -0.1, -0.005, 0.1))
    assert np.allclose(right.bounds, (0.005, -0.1, 0.085, 0.1))
    # Their webs are beside the gap.
    gap = shapely.box(-0.011, -0.08, 0.011, 0.08)
    assert drawn.intersection(gap).area == pytest.approx(0.012 * 0.16)


def test_an_outline_with_an_opening_is_drawn():
    file = ifcopenshell.file(schema="IFC4")

    def ring(size):
        corners = [(0.0, 0.0), (size, 0.0), (size, size), (0.0, size)]
        points = [file.create_entity("IfcCartesianPoint", c) for c in corners]
        return file.create_entity("IfcPolyline", [*points, points[0]])

    profile = file.create_entity(
        "IfcArbitraryProfileDefWithVoids", "AREA", None, ring(2.0), [ring(1.0)]
    )
    assert drawn_profile(profile).area == pytest.approx(3.0)


@known("bars of open sections in building models", "the areas of the sections, by another kernel")
@pytest.mark.parametrize(
    "name", ["IPE 200", "UPE 200", "L 120 × 80 × 10", "T 100 × 100 × 8 × 10", "2UPE 200 × 10"]
)
def test_another_kernel_makes_bars_of_the_same_size(model, name):
    section = find(name)
    profile = model.profile(section)
    place = np.array([3.0, 0, 0]), np.eye(3)
    model.add("IfcMember", "M1", "1", *place, profile, 2.0, "S355", "MEMBER")
    shape = ifcopenshell.geom.create_shape(ifcopenshell.geom.settings(), model.elements[0])
    corners = np.array(shape.geometry.verts).reshape(-1, 3)
    triangles = corners[np.array(shape.geometry.faces).reshape(-1, 3)]
    volume = np.einsum("ij,ij->", triangles[:, 0], np.cross(triangles[:, 1], triangles[:, 2])) / 6
    held_to(volume / 2 / section.shape.properties.area - 1, 2e-3)
    assert np.ptp(corners, axis=0) == pytest.approx([section.shape.width, section.shape.height, 2])
