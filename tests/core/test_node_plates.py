"""Node plates: closed bodies of what is cut, holes where bolts are, and any roofs."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.node_plates import node_plates
from leanlattice.core.structure.faults import Fault
from leanlattice.core.structure.plate_arms import ArmJoint

from ..clauses.test_lattice_clauses import made as made_of
from ..known import approx, held_to, known
from .test_plate_arms import HALF, MEETING, WELDED, star

TOLERANCE = 0.001
BOLTED = ArmJoint(enters=0.08, bolts=3, hole=0.018)


def plates(made, joint=WELDED):
    return node_plates(made, joint, "steel", TOLERANCE)


def are_sound(found):
    """Outlines are simple, holes within them, and bodies as large as what is cut."""
    for part, body in zip(found.parts, found.solids.bodies, strict=True):
        assert part.shape.is_valid
        assert shapely.is_ccw(shapely.LinearRing(part.outer))
        for hole in part.inner:
            assert shapely.Polygon(part.outer).contains_properly(shapely.Polygon(hole))
        mesh = trimesh.Trimesh(body.mesh.vertices, body.mesh.triangles, process=False)
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        assert mesh.volume == pytest.approx(part.area / 1e6 * part.thickness / 1000, rel=1e-3)


@known("area of a flat node plate of four arms", "arms, middle square and four roundings")
def test_a_flat_plate_has_the_area_of_its_arms():
    found = plates(star([0, 90, 180, 270], [0] * 4))
    (part,) = found.parts
    arms = found.arms
    corner = HALF + 0.015
    # Four arms beyond the square between them, and four corners filled up to a quarter circle.
    area = (2 * HALF) ** 2 + 4 * 2 * HALF * (arms.reach[0] - HALF)
    rounded = 4 * (0.015**2 - np.pi * 0.015**2 / 4)
    assert corner + 0.01 == approx(arms.first[0])
    assert part.area / 1e6 == approx(area + rounded, rel=1e-4)
    assert not part.scores
    are_sound(found)


def test_bolts_go_through_the_axes_of_members():
    made = star([0, 100, 200, 290], [-10, 5, -3, 0])
    found = plates(made, BOLTED)
    arms = found.arms
    ways = made.end_frames[0][arms.member, arms.end]
    stations = found.hole_stations
    assert stations[:, 0] == approx(arms.set_back + 0.036)
    assert np.diff(stations, axis=1) == approx(0.054)
    assert arms.stop == approx(stations[:, -1] + 0.036)
    (part,) = found.parts
    middles = np.array([hole.mean(axis=0) for hole in part.inner]).reshape(4, 3, 2) / 1000
    left = np.column_stack([-arms.way[:, 1], arms.way[:, 0]])
    for k in range(3):
        local = np.einsum("nij,nj->ni", np.stack([arms.way, left], axis=1), middles[:, k])
        stands = arms.folded(np.arange(4, dtype=np.int32), local)
        held_to(np.linalg.norm(stands - stations[:, [k]] * ways, axis=1), 1e-6)
    are_sound(found)


def test_folds_have_the_middle_on_their_right_and_turn_away_where_members_fall():
    found = plates(star([0, 120, 240], [-6, -6, -6]))
    first = found.folds.turns[::2]
    assert (first > 0).all()
    assert (found.folds.turns[1::2] < 0).all()
    for a, b in found.folds.ends:
        way = b - a
        assert way[0] * -a[1] - way[1] * -a[0] < 0, "the middle is on the right"
    assert len(found.parts[0].scores) == 3 + 2 * 3


def test_plates_alike_are_of_one_kind_and_mirror_images_are_not():
    made = made_of(
        ("barrel", {"span": 12, "rise": 3, "length": 12}),
        ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6}),
        ("frame", {"meeting": "arms", "thickness": 10}),
    ).result
    found = plates(made)
    assert found.count == 49
    inner = [k for k in range(49) if np.diff(found.arms.offsets)[k] == 4]
    assert len(set(found.solids.type_of[inner].tolist())) == 1
    ends = [k for k in range(49) if np.diff(found.arms.offsets)[k] == 2]
    assert len(ends) == 4
    assert len(set(found.solids.type_of[ends].tolist())) == 2


@settings(max_examples=12, deadline=None)
@given(
    pattern=st.sampled_from(["diagrid", "voronoi", "hexagons", "triangles"]),
    rise=st.floats(0.5, 3.0),
    thickness=st.floats(4.0, 16.0),
    fold=st.floats(15.0, 50.0),
    bolts=st.integers(0, 3),
)
def test_plates_of_any_roof_are_sound_or_left_out_with_a_reason(
    pattern, rise, thickness, fold, bolts
):
    made = made_of(
        ("dome", {"span": 10, "rise": rise}),
        ("pattern", {"pattern": pattern, "density": "module", "module": 2.4}),
        (
            "frame",
            {
                "inner": "CHS 60.3 × 4",
                "border": "CHS 60.3 × 4",
                "meeting": "arms",
                "thickness": thickness,
                "fold": fold,
            },
        ),
    ).result
    joint = ArmJoint(enters=0.06, bolts=bolts, hole=0.013)
    found = plates(made, joint)
    are_sound(found)
    fault = found.arms.fault
    assert found.count == np.count_nonzero(fault == Fault.NONE)
    assert np.isin(fault[made.meeting == 0], list(Fault)[1:]).all()
    # Neighbouring plates stay clear of each other within their members.
    both = np.zeros(made.count)
    np.add.at(both, found.arms.member, found.arms.stop)
    assert (both <= made.lengths + 1e-9).all()


def test_a_wider_arm_is_heavier_and_a_thicker_plate_as_much_as_it_is_thicker():
    plain = plates(star([0, 120, 240], [0] * 3)).masses[0]
    wide = plates(star([0, 120, 240], [0] * 3, meeting=replace(MEETING, beyond=0.03))).masses[0]
    assert wide > 1.2 * plain
    thick = star([0, 120, 240], [0] * 3, meeting=replace(MEETING, thickness=0.02))
    assert plates(thick).masses[0] > 2 * plain
