"""Sections of members: names, properties by the standards and by integration, outlines."""

import json
import pickle

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry.polygon import orient

from leanlattice.core.materials import MASSES, MATERIALS, SHEETS, STEELS, TIMBERS
from leanlattice.core.sections import (
    FAMILIES,
    Section,
    UnknownSection,
    catalogue,
    find,
    nearest_made,
    search,
)

from ..known import TABLE, approx, held_to, known

MM = {
    "CHS": lambda a, b, t: (a, t * a / 2),
    "SHS": lambda a, b, t: (a, t * a / 2),
    "RHS": lambda a, b, t: (a + b, b, t * b / 2),
    "Box": lambda a, b, t: (a, b, t * min(a, b) / 2),
    "Flat": lambda a, b, t: (a, max(t * 100, 2)),
    "Round": lambda a, b, t: (a,),
    "Timber": lambda a, b, t: (a, b),
}
"""Sizes of each family of two sides and a share."""


@st.composite
def sections(draw, families=tuple(MM)):
    family = draw(st.sampled_from(families))
    sides = [draw(st.integers(25, 800)) for _ in range(2)]
    sizes = MM[family](*sides, draw(st.floats(0.05, 0.4)))
    cold = family in ("CHS", "SHS", "RHS") and draw(st.booleans())
    shape = FAMILIES[family].of_sizes(tuple(round(mm, 1) for mm in sizes), cold)
    return Section(shape, MATERIALS[draw(st.sampled_from(shape.materials))])


@known("sections", "areas, inertias and masses of EN 10210-2 and EN 10219")
@pytest.mark.parametrize(
    ("name", "area", "inertia_y", "inertia_z", "mass"),
    [
        ("CHS 88.9 × 4", 10.7, 96.3, 96.3, 8.38), ("CHS 139.7 × 5", 21.2, 481, 481, 16.6),
        ("SHS 100 × 5", 18.7, 279, 279, 14.7), ("SHS 200 × 10", 74.9, 4471, 4471, 58.8),
        ("RHS 100 × 50 × 5", 13.7, 167, 54.3, 10.8), ("RHS 200 × 100 × 8", 44.8, 2234, 739, 35.1),
        ("Timber 60 × 160", 96.0, 2048, 288, 4.03),
    ],
)  # fmt: skip
def test_sections_have_the_properties_of_the_standard(name, area, inertia_y, inertia_z, mass):
    section = find(name)
    worth = section.shape.properties
    got = (worth.area * 1e4, worth.inertia_y * 1e8, worth.inertia_z * 1e8, section.mass)
    assert got == approx((area, inertia_y, inertia_z, mass), rel=5e-3)


@known("all sections of the first version", "the same sizes, properties and masses, relative")
def test_sections_are_worth_what_they_were():
    before = json.loads((TABLE.parents[1] / "tests/fixtures/sections_before.json").read_text())
    assert len(before) == 310
    for name, (*numbers, grade, _) in before.items():
        section = find(name)
        shape, worth = section.shape, section.shape.properties
        sizes = (shape.height, shape.width, shape.wall)
        now = (*sizes, worth.area, worth.inertia_y, worth.inertia_z, worth.torsion, section.mass)
        held_to(
            np.array(now) / np.where(np.array(numbers) == 0, 1, numbers) - np.sign(numbers), 1e-12
        )
        assert (section.name, section.grade) == (name, grade)


def drawn(shape):
    """A shape as a polygon in millimetres, its corners and circles all but round."""

    def ring(height, width, radius):
        if shape.round:
            return shapely.Point(0, 0).buffer(height / 2, 720)
        box = shapely.box(-width / 2, -height / 2, width / 2, height / 2)
        return box.buffer(-radius).buffer(radius, 360) if radius else box

    h, b, t = (1e3 * size for size in (shape.height, shape.width, shape.wall))
    outer, inner = (k * t for k in getattr(shape, "radii", (0.0, 0.0)))
    whole = ring(h, b, outer)
    return whole - ring(h - 2 * t, b - 2 * t, inner) if t else whole


def moments(polygon, axis):
    """First moment of what lies above the axis, doubled, and second moment, by Green's theorem."""

    def of(polygon, power):
        total = 0.0
        for ring in (orient(polygon).exterior, *orient(polygon).interiors):
            p = np.array(ring.coords)
            along, across = p[:, 1 - axis], p[:, axis]
            steps = np.diff(along) * (-1 if axis else 1)
            a, b = across[:-1], across[1:]
            if power == 1:
                total += (steps * (a * a + a * b + b * b)).sum() / 6
            else:
                total += (steps * (a**3 + a * a * b + a * b * b + b**3)).sum() / 12
        return total

    half = [-1e5, -1e5, 1e5, 1e5]
    half[axis] = 0.0
    above = polygon & shapely.box(*half)
    pieces = getattr(above, "geoms", [above])
    return 2 * sum(of(p, 1) for p in pieces), of(polygon, 2)


@known("sections of any family and size", "integrals over their outlines, relative")
@given(sections())
def test_properties_are_those_of_the_outline(section):
    shape, worth = section.shape, section.shape.properties
    polygon = drawn(shape)
    held_to(worth.area * 1e6 / polygon.area - 1, 2e-5)
    for axis, inertia, elastic, plastic, side in (
        (1, worth.inertia_y, worth.elastic_y, worth.plastic_y, shape.height),
        (0, worth.inertia_z, worth.elastic_z, worth.plastic_z, shape.width),
    ):
        first, second = moments(polygon, axis)
        held_to(inertia * 1e12 / second - 1, 5e-5)
        held_to(plastic * 1e9 / first - 1, 5e-5)
        assert elastic == pytest.approx(inertia / (side / 2))
    for shear in (worth.shear_y, worth.shear_z):
        assert 0 < shear < worth.area
    assert 0 < worth.torsion <= (worth.inertia_y + worth.inertia_z) * (1 + 1e-9)


@given(sections())
def test_a_section_is_found_by_its_name(section):
    assert find(section.name) == section
    assert find(section.name.lower().replace(" × ", "x")) == section
    assert pickle.loads(pickle.dumps(section)) == section


@given(sections(), st.floats(0, 2 * np.pi))
def test_reach_is_as_far_as_the_outline_goes(section, turn):
    way = np.array([[np.cos(turn), np.sin(turn)]])
    outer, inner = section.shape.outline(720)
    assert section.shape.reach(way)[0] == pytest.approx((outer @ way[0]).max(), rel=1e-4)
    assert (inner is None) == (section.shape.wall == 0)


NAMED = {
    "RHS 200x120x8": ("RHS 200 × 120 × 8", "S355"),
    "GL24h 120x360": ("Timber 120 × 360", "GL24h"),
    "c24 60 x 120": ("C24 60 × 120", "C24"),
    "chs88.9x4 s235": ("CHS 88.9 × 4 S235", "S235"),
    "rhs 100 100 5": ("SHS 100 × 5", "S355"),
    "rhs 100 100 5 cold": ("SHS 100 × 5 cold", "S355 cold-formed"),
    "SHS 100 x 5 cold s275": ("SHS 100 × 5 cold S275", "S275 cold-formed"),
    "timber 60,5 × 120": ("Timber 60.5 × 120", "GL24h"),
    "flat 100x10": ("Flat 100 × 10", "S355"),
    "round 30": ("Round 30", "S355"),
    "box 300x200x12 S460": ("Box 300 × 200 × 12 S460", "S460"),
}


@pytest.mark.parametrize("typed", NAMED)
def test_what_is_typed_is_understood(typed):
    section = find(typed)
    assert (section.name, section.grade) == NAMED[typed]


@pytest.mark.parametrize(
    ("typed", "why"),
    [
        ("", ""), ("🌲", ""), ("HEB 200", ""), ("CHS . × 4", ""), ("CHS 88.9 × 4 × 7", ""), ("CHS 88.9", ""),
        ("CHS nan × 4", ""), ("CHS 1e9 × 4", "from 5 to 3000 mm"), ("CHS -88.9 × 4", "from 5 to 3000 mm"),
        ("Timber 5 × 160", "from 20 to 2000 mm"), ("CHS 20 × 12", "less than half of 20 mm"),
        ("CHS 88.9 × 4 GL24h", "CHS is not of GL24h"), ("Timber 60 × 120 S235", "Timber is not of S235"),
        ("Flat 100 × 10 cold", "Flat is not cold-formed"),
    ],
)  # fmt: skip
def test_what_stands_for_no_section_is_told_with_what_comes_near(typed, why):
    with pytest.raises(UnknownSection) as error:
        find(typed)
    assert why in error.value.why
    assert all(name in catalogue() for name in error.value.nearest)


def test_what_comes_near_is_of_the_family_and_hot_finished_first():
    with pytest.raises(UnknownSection) as error:
        find("CHS 88")
    assert error.value.nearest == ["CHS 88.9 × 3.2", "CHS 88.9 × 4"]
    assert nearest_made(find("RHS 210 × 120 × 8").shape)[0] == "RHS 200 × 120 × 8"


def test_searching_finds_words_and_sizes_of_ones_own():
    assert len(search("")) == len(catalogue()) >= 310
    assert [s.name for s in search("rhs 210x90x7")] == ["RHS 210 × 90 × 7"]
    exact = [s.name for s in search("chs 88.9 x 4")]
    assert exact[0] == "CHS 88.9 × 4"
    assert len(exact) == len(set(exact))
    assert search("nothing of that") == []


def test_profiles_of_building_models():
    assert find("CHS 88.9 × 4").shape.ifc() == ("IfcCircleHollowProfileDef", (0.08890 / 2, 0.004))
    cold = find("SHS 150 × 8 cold" if "SHS 150 × 8 cold" in catalogue() else "SHS 200 × 8 cold")
    kind, (*_, wall, inner, outer) = cold.shape.ifc()
    assert (kind, wall) == ("IfcRectangleHollowProfileDef", 0.008)
    assert (inner, outer) == pytest.approx((0.012, 0.02))
    assert find("Box 300 × 200 × 10").shape.ifc()[1] == (0.2, 0.3, 0.01, None, None)
    assert find("Round 30").shape.ifc() == ("IfcCircleProfileDef", (0.015,))


def test_materials_are_told_once_and_plausible():
    assert {*STEELS, *TIMBERS, *SHEETS, *MASSES} == MATERIALS.keys()
    for name, m in MATERIALS.items():
        assert m.name == name
        assert 300 < m.density < 8000
        # Isotropic ones keep to the bounds of Poisson's ratio.
        ratio = m.stiffness / m.shear_stiffness / 2 - 1
        assert m.family in ("timber", "board") or 0 < ratio < 0.5
        assert all(1e6 < strength < 1e9 for strength in m.strengths.values())
