"""Sections of members: names, properties by the standards and by integration, outlines."""

import json
import pickle

import numpy as np
import pytest
import scipy.optimize
import shapely
import shapely.affinity
from hypothesis import example, given
from hypothesis import strategies as st
from shapely.geometry.polygon import orient

from leanlattice.core.materials import FILMS, MASSES, MATERIALS, SHEETS, STEELS, TIMBERS
from leanlattice.core.sections import (
    FAMILIES,
    Section,
    UnknownSection,
    catalogue,
    find,
    nearest_made,
    search,
)
from leanlattice.core.sections.webbed import Open

from ..known import TABLE, approx, held_to, known

MM = {
    "CHS": lambda a, b, t: (a, t * a / 2),
    "SHS": lambda a, b, t: (a, t * a / 2),
    "RHS": lambda a, b, t: (a + b, b, t * b / 2),
    "Box": lambda a, b, t: (a, b, t * min(a, b) / 2),
    "Flat": lambda a, b, t: (a, max(t * 100, 2)),
    "Round": lambda a, b, t: (a,),
    "Timber": lambda a, b, t: (a, b),
    "I": lambda a, b, t: (a, b, t * b, t * a),
    "U": lambda a, b, t: (a, b, t * b, t * a),
    "T": lambda a, b, t: (a, b, t * b, t * a),
    "L": lambda a, b, t: (a, b, t * min(a, b)),
    "IPE": lambda a, b, t: one_of("IPE", a),
    "HEA": lambda a, b, t: one_of("HEA", a),
    "HEB": lambda a, b, t: one_of("HEB", a),
    "UPE": lambda a, b, t: one_of("UPE", a),
    "2UPE": lambda a, b, t: (*one_of("UPE", a), t * 100),
}
"""Sizes of each family of two sides and a share."""


def one_of(family, side):
    """The nominal size of one of the rolled ones, as they follow each other."""
    table = FAMILIES[family].table
    return (list(table)[side % len(table)],)


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


def plates(shape):
    """An open shape as rectangles (y, z from and to), and its corners that are rounded: place, the
    way of the quarter in which the circle's middle lies, radius, and whether that adds."""
    h, b, w, f = (1e3 * size for size in (shape.height, shape.width, shape.web, shape.flange))
    r, left, low = 1e3 * shape.fillet, -b / 2, -h / 2
    kind = shape.family[0]
    if kind == "L":
        boxes = [(left, low, -left, low + f), (left, low, left + w, -low)]
        toes = [((-left, low + f), (-1, -1), r / 2, 0), ((left + w, -low), (-1, -1), r / 2, 0)]
        return boxes, [((left + w, low + f), (1, 1), r, 1), *toes]
    if kind == "T":
        return [(left, -low - f, -left, -low), (-w / 2, low, w / 2, -low)], []
    flanges = [(left, low, -left, low + f), (left, -low - f, -left, -low)]
    if kind == "U":
        inner = [((left + w, s * (low + f)), (1, s), r, 1) for s in (1, -1)]
        return [*flanges, (left, low, left + w, -low)], inner
    inner = [((e * w / 2, s * (low + f)), (e, s), r, 1) for e in (1, -1) for s in (1, -1)]
    return [*flanges, (-w / 2, low, w / 2, -low)], inner


def opened(shape):
    """An open shape as a polygon in millimetres, with what its fillets add and take."""
    boxes, corners = plates(shape)
    whole = shapely.union_all([shapely.box(*box) for box in boxes])
    for (y, z), (e, s), radius, adds in corners:
        y_low, y_high = sorted((y, y + e * radius))
        z_low, z_high = sorted((z, z + s * radius))
        quarter = shapely.box(y_low, z_low, y_high, z_high)
        disc = shapely.Point(y + e * radius, z + s * radius).buffer(radius, 360)
        whole = whole | (quarter - disc) if adds else whole - (quarter - disc)
    return whole


def drawn(shape):
    """A shape as a polygon in millimetres, its corners and circles all but round."""
    if shape.family == "2UPE":
        one = shapely.affinity.translate(
            opened(shape.channel), 5e2 * (shape.channel.width + shape.gap)
        )
        return one | shapely.affinity.scale(one, -1, -1, origin=(0, 0))
    if isinstance(shape, Open):
        return opened(shape)

    def ring(height, width, radius):
        if shape.round:
            return shapely.Point(0, 0).buffer(height / 2, 720)
        if not radius:
            return shapely.box(-width / 2, -height / 2, width / 2, height / 2)
        x, y = width / 2 - radius, height / 2 - radius
        middles = shapely.MultiPoint([(-x, -y), (x, -y), (x, y), (-x, y)])
        return middles.convex_hull.buffer(radius, 360)

    h, b, t = (1e3 * size for size in (shape.height, shape.width, shape.wall))
    outer, inner = (k * t for k in getattr(shape, "radii", (0.0, 0.0)))
    whole = ring(h, b, outer)
    return whole - ring(h - 2 * t, b - 2 * t, inner) if t else whole


def halved(polygon, axis):
    """The level across an axis that parts a polygon in halves."""
    low, high = polygon.bounds[axis], polygon.bounds[2 + axis]

    def more(level):
        box = [-1e5, -1e5, 1e5, 1e5]
        box[axis] = level
        return (polygon & shapely.box(*box)).area - polygon.area / 2

    return scipy.optimize.brentq(more, low, high)


def moments(polygon, axis):
    """First moments of both halves about the line between, and second moment about the centroid's
    axis, by Green's theorem."""

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

    def moved(level):
        way = [0.0, 0.0]
        way[axis] = -level
        return shapely.affinity.translate(polygon, *way)

    def parts(shape):
        return [p for p in getattr(shape, "geoms", [shape]) if p.geom_type == "Polygon"]

    half = [-1e5, -1e5, 1e5, 1e5]
    half[axis] = 0.0
    about_halves = moved(halved(polygon, axis))
    above = sum(of(p, 1) for p in parts(about_halves & shapely.box(*half)))
    whole = sum(of(p, 1) for p in parts(about_halves))
    about = moved(polygon.centroid.coords[0][axis])
    return 2 * above - whole, sum(of(p, 2) for p in parts(about))


@known("sections of any family and size", "integrals over their outlines, relative")
@given(sections())
@example(Section(FAMILIES["SHS"].of_sizes((100, 17.2), cold=True), MATERIALS["S355"]))
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
        far = side / 2 + abs(shape.centroid[axis])
        assert elastic == pytest.approx(inertia / far)
    assert np.array(shape.centroid) * 1e3 == pytest.approx(polygon.centroid.coords[0], abs=1e-3)
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
    pieces = section.shape.pieces(720)
    far = max((outer @ way[0]).max() for outer, _ in pieces)
    assert section.shape.reach(way)[0] == pytest.approx(far, rel=1e-4)
    hollow = section.shape.wall > 0 and not isinstance(section.shape, Open)
    assert (pieces[0][1] is not None) == hollow


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
    "ipe200": ("IPE 200", "S355"),
    "heb 240 s460": ("HEB 240 S460", "S460"),
    "i 300x150x8x12": ("I 300 × 150 × 8 × 12", "S355"),
    "2upe 200x15": ("2UPE 200 × 15", "S355"),
    "l 90x60x7": ("L 90 × 60 × 7", "S355"),
}


@pytest.mark.parametrize("typed", NAMED)
def test_what_is_typed_is_understood(typed):
    section = find(typed)
    assert (section.name, section.grade) == NAMED[typed]


@pytest.mark.parametrize(
    ("typed", "why"),
    [
        ("", ""), ("🌲", ""), ("HEX 200", ""), ("CHS . × 4", ""), ("CHS 88.9 × 4 × 7", ""), ("CHS 88.9", ""),
        ("CHS nan × 4", ""), ("CHS 1e9 × 4", "from 5 to 3000 mm"), ("CHS -88.9 × 4", "from 5 to 3000 mm"),
        ("Timber 5 × 160", "from 20 to 2000 mm"), ("CHS 20 × 12", "less than half of 20 mm"),
        ("CHS 88.9 × 4 GL24h", "CHS is not of GL24h"), ("Timber 60 × 120 S235", "Timber is not of S235"),
        ("Flat 100 × 10 cold", "Flat is not cold-formed"),
        ("IPE 210", "200 and 220 come nearest"), ("UPE 1e9", "360 and 400 come nearest"),
        ("IPE 200 cold", "not cold-formed"),
        ("2UPE 200 × 900", "from 0 to 200 mm apart"), ("L 40 × 40 × 40", "do not fit 40 × 40 mm"),
        ("I 100 × 100 × 6 × 50", "do not fit 100 × 100 mm"), ("T 100 × 100 × 100 × 5", "fit"),
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
    assert {s.shape.family for s in search("channel")} == {"UPE", "2UPE", "U"}
    assert {s.shape.family for s in search("h beam")} == {"HEA", "HEB"}
    assert next(s.name for s in search("angle 80 8")) == "L 80 × 80 × 8"
    assert search("nothing of that") == []


def test_profiles_of_building_models():
    assert find("CHS 88.9 × 4").shape.ifc() == ("IfcCircleHollowProfileDef", (0.08890 / 2, 0.004))
    cold = find("SHS 150 × 8 cold" if "SHS 150 × 8 cold" in catalogue() else "SHS 200 × 8 cold")
    kind, (*_, wall, inner, outer) = cold.shape.ifc()
    assert (kind, wall) == ("IfcRectangleHollowProfileDef", 0.008)
    assert (inner, outer) == pytest.approx((0.012, 0.02))
    assert find("Box 300 × 200 × 10").shape.ifc()[1] == (0.2, 0.3, 0.01, None, None)
    assert find("Round 30").shape.ifc() == ("IfcCircleProfileDef", (0.015,))
    assert find("IPE 200").shape.ifc() == (
        "IfcIShapeProfileDef",
        (0.1, 0.2, 0.0056, 0.0085, 0.012, None, None),
    )
    left, right = find("2UPE 200 × 10").shape.profiles()
    assert (left.kind, left.turned, right.turned) == ("IfcUShapeProfileDef", True, False)
    assert (left.at, right.at) == ((-0.045, 0.0), (0.045, 0.0))


@known("rolled open sections", "areas, inertias and torsion of EN 10365 and EN 10056-1")
@pytest.mark.parametrize(
    ("name", "area", "inertia_y", "inertia_z", "plastic_y", "torsion"),
    [
        ("IPE 200", 28.5, 1943, 142.4, 220.6, 6.98), ("IPE 300", 53.8, 8356, 603.8, 628.4, 20.1),
        ("IPE 600", 156, 92080, 3387, 3512, 165), ("HEA 200", 53.8, 3692, 1336, 429.5, 21.0),
        ("HEB 200", 78.1, 5696, 2003, 642.5, 59.3), ("HEB 300", 149.1, 25170, 8563, 1869, 185),
        ("UPE 200", 29.0, 1909, 187.3, 220.1, 8.88), ("UPE 300", 56.6, 7823, 537.7, 613.4, 31.5),
    ],
)  # fmt: skip
def test_rolled_sections_have_the_properties_of_the_standard(
    name, area, inertia_y, inertia_z, plastic_y, torsion
):
    worth = find(name).shape.properties
    got = (worth.area * 1e4, worth.inertia_y * 1e8, worth.inertia_z * 1e8, worth.plastic_y * 1e6)
    assert got == approx((area, inertia_y, inertia_z, plastic_y), rel=5e-3)
    assert worth.torsion * 1e8 == pytest.approx(torsion, rel=0.03)


AREAS = {
    "IPE": "7.64 10.3 13.2 16.4 20.1 23.9 28.5 33.4 39.1 45.9 53.8 62.6 72.7 84.5 98.8 115.5 134.4"
    " 156",
    "HEA": "21.2 25.3 31.4 38.8 45.3 53.8 64.3 76.8 86.8 97.3 112.5 124.4 133.5 142.8 159 178 197.5",
    "HEB": "26 34 43 54.3 65.3 78.1 91 106 118.4 131.4 149.1 161.3 170.9 180.6 197.8 218 238.6",
    "UPE": "10.1 12.5 15.4 18.4 21.7 25.1 29 33.9 38.5 44.8 56.6 67.8 77.9 91.9",
    "L": "1.74 3.08 4.8 6.91 9.4 12.3 15.5 19.2 27.5 43 76.3 4.79 6.89 7.19 11.4 13.5 19.1 21.7 28.7"
    " 34.8",
}
"""In cm², as the standards list them."""


@pytest.mark.parametrize("family", AREAS)
def test_all_rolled_sections_have_the_areas_of_the_standard(family):
    areas = [shape.properties.area * 1e4 for shape in FAMILIES[family].made()]
    assert areas == pytest.approx([float(area) for area in AREAS[family].split()], rel=6e-3)


@pytest.mark.parametrize(
    ("name", "turn"),
    [
        ("IPE 200", 0.0),
        ("UPE 200", np.pi),
        ("T 100 × 100 × 8 × 10", 0.0),
        ("L 80 × 80 × 8", -np.pi / 2),
        ("2UPE 120 × 8", 0.0),
        ("RHS 100 × 50 × 5", 0.0),
    ],
)
def test_shapes_seen_from_behind_are_the_same_again_where_they_are_said_to_be(name, turn):
    """From behind the width runs the other way."""
    shape = find(name).shape
    assert shape.seen_back == turn
    c, s = np.cos(turn), np.sin(turn)
    outlines = [shapely.Polygon(outer) for outer, _ in shape.pieces()]
    own = shapely.union_all(outlines)
    behind = shapely.affinity.affine_transform(own, [-c, -s, -s, c, 0, 0])
    assert own.symmetric_difference(behind).area < 1e-9
    assert find("L 120 × 80 × 10").shape.seen_back is None


def test_materials_are_told_once_and_plausible():
    assert {*STEELS, *TIMBERS, *SHEETS, *MASSES, *FILMS} == MATERIALS.keys()
    for name, m in MATERIALS.items():
        assert m.name == name
        assert 300 < m.density < 8000
        # Isotropic ones keep to the bounds of Poisson's ratio.
        ratio = m.stiffness / m.shear_stiffness / 2 - 1
        assert m.family in ("timber", "board", "fabric", "paper") or 0 < ratio < 0.5
        assert all(1e6 < strength < 1e9 for strength in m.strengths.values())
