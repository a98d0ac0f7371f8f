"""End plates: sizes by hand, sound bodies, and holes that meet whatever is bolted."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.end_plates import Boring, end_plates, least_beyond
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.faults import Fault
from leanlattice.core.structure.joints import with_joints

from ..known import approx, held_to, known
from .structures import star_of, structure
from .test_plated import LEVEL, THICK, on_foot

BORING = Boring(False, 0.06, 4, 0.018)
RHS = "RHS 120 × 60 × 5"


def plates(made, boring=BORING):
    return end_plates(made, boring, "steel", 0.001)


def are_sound(found):
    """Bodies are closed and as large as what is cut, and holes keep their distances."""
    least = found.boring.hole * 1000
    for part, body in zip(found.parts, found.solids.bodies, strict=True):
        mesh = trimesh.Trimesh(body.mesh.vertices, body.mesh.triangles, process=False)
        assert mesh.is_watertight
        assert mesh.volume * 1e9 == pytest.approx(part.area * part.thickness, rel=1e-9)
        middles = np.array([hole.mean(axis=0) for hole in part.inner])
        rim = shapely.distance(shapely.points(middles), shapely.LinearRing(part.outer))
        assert rim.min() >= 1.2 * least * 0.999
        apart = np.linalg.norm(middles[:, None] - middles, axis=2)
        assert apart[~np.eye(len(middles), dtype=bool)].min() >= 2.2 * least - 1e-6


@known("end plate of a rectangular tube", "(height / sin e + 2 b) × (width + 2 b)")
@pytest.mark.parametrize("elevation", [90, 60, 35])
def test_a_plate_reaches_as_far_beyond_the_section_on_it_on_all_sides(elevation):
    found = plates(on_foot([30], [elevation], section=RHS))
    long = 120 / np.sin(np.radians(elevation)) + 120
    assert np.sort(found.sizes[0]) == approx([60 + 120, long])
    held_to(found.masses[0] - 7850 * THICK * found.parts[0].area / 1e6, 1e-9)
    are_sound(found)


def test_a_plate_lies_between_its_node_and_the_member():
    part = plates(on_foot([0], [60])).parts[0]
    places = part.places(part.outer)
    held_to(places[:, 2] - LEVEL.gap, 1e-12)
    assert part.pose[2, 2] * 1000 == pytest.approx(1.0), "seen from the member"


def test_a_round_plate_reaches_as_far_beyond_what_is_farthest_out():
    found = plates(on_foot([0], [90]), BORING._replace(is_round=True, bolts=6))
    assert found.sizes[0] == approx(88.9 + 120, rel=1e-9)
    radius = np.linalg.norm([hole.mean(axis=0) for hole in found.parts[0].inner], axis=1)
    assert radius == approx(88.9 / 2 + 30)
    are_sound(found)


@settings(max_examples=25, deadline=None)
@given(
    angle=st.floats(60, 300),
    rise=st.floats(-30, 30),
    first=st.sampled_from([RHS, "CHS 88.9 × 4", "HEB 200"]),
    boring=st.builds(
        Boring, st.booleans(), st.floats(0.05, 0.15), st.sampled_from([4, 6, 8]), st.just(0.018)
    ),
)
def test_holes_of_bolted_plates_meet(angle, rise, first, boring):
    made = star_of([0, angle], [0, rise], LEVEL, section=first)
    found = plates(made, boring)
    assume(not found.ends.fault[0])
    pair = [k for k in range(found.count) if found.nodes[k] == 0]
    assert len(pair) == 2
    one, two = (found.parts[k] for k in pair)
    bolts = [np.array([p.places(h.mean(axis=0)[None])[0] for h in p.inner]) for p in (one, two)]
    across = one.pose[:3, 2] * 1000
    apart = bolts[1][:, None] - bolts[0]
    off = np.linalg.norm(apart - (apart @ across)[..., None] * across, axis=2).min(axis=1)
    assert off.max() < 1e-9
    assert np.abs(apart @ across) == pytest.approx(LEVEL.gap, abs=1e-9)
    are_sound(found)


@settings(max_examples=25, deadline=None)
@given(
    turns=st.lists(st.floats(40, 80), min_size=3, max_size=4),
    elevation=st.lists(st.floats(35, 75), min_size=4, max_size=4),
    section=st.sampled_from([RHS, "CHS 88.9 × 4", "HEB 200"]),
    is_round=st.booleans(),
)
def test_what_stands_on_one_plate_is_apart_and_within_it(turns, elevation, section, is_round):
    plan = np.cumsum([0, *turns])
    made = on_foot(plan, np.resize(elevation, len(plan)), section=section)
    found = plates(made, BORING._replace(is_round=is_round))
    assume(not found.ends.fault[0])
    (one,) = np.flatnonzero(found.nodes == 0)
    part = found.parts[one]
    rings = [shapely.Polygon(m) for m in part.marks if len(m) > 3 and (m[0] == m[-1]).all()]
    rings = [ring for ring in rings if ring.area > 1000]
    assert len(rings) == len(plan)
    apart = [a.distance(b) for a, b in itertools.combinations(rings, 2)]
    assert min(apart) >= 10 - 1e-6
    rim = [shapely.distance(shapely.LinearRing(part.outer), ring) for ring in rings]
    assert min(rim) == pytest.approx(60, abs=1e-3 * np.ptp(part.outer[:, 0]))
    are_sound(found)


def test_four_legs_of_a_pyramid_stand_on_a_square():
    found = plates(on_foot([45, 135, 225, 315], [60] * 4))
    assert np.ptp(found.sizes[found.nodes == 0][0]) < 1e-6


def test_holes_with_no_room_beside_each_other_are_told_and_the_rest_goes_on():
    made = on_foot([0], [90])
    found = plates(made, Boring(False, least_beyond(0.03), 12, 0.03))
    assert found.count == 0
    assert found.ends.fault[0] == Fault.NARROW
    assert plates(made, Boring(False, least_beyond(0.03), 4, 0.03)).count == 2


def test_plates_that_run_into_each_other_are_found():
    for apart, found in ((0.25, []), (0.19, [0, 1])):
        places = [(0, 0, 0), (0, 0, 2), (apart, 0.1, 0), (apart, 0.1, 2), (2, 0, 0), (2, 0, 2)]
        paths = [{"path": [k, k + 1], "up": (1, 0, 0)} for k in (0, 2, 4)]
        made = structure(places, paths)
        made = replace(made, foot=np.arange(6) % 2 == 0)
        plated = plates(with_joints(made, arms_of(made), LEVEL))
        at_feet = np.flatnonzero(plated.nodes % 2 == 0)
        assert [k for k in plated.overlapping.tolist() if k in at_feet] == [
            at_feet[k] for k in found
        ]
