"""Tubes that are cut to fit the side of thicker ones they are welded to."""

from __future__ import annotations

from dataclasses import replace

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import assume, given
from hypothesis import strategies as st

from leanlattice.core.flat.tube_ends import Wrap, tube_templates
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.congruence import member_types
from leanlattice.core.structure.cuts import Cuts, taken_at
from leanlattice.core.structure.joints import met_anew, with_joints
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.overrun import overrun
from leanlattice.core.structure.solids import member_solids
from leanlattice.core.structure.structure import Structure

from ..known import held_to, known
from . import structures

COPED = Meeting("welded", saddles=True)
THICK, THIN = "CHS 168.3 × 6.3", "CHS 88.9 × 4"
RHO, R = 0.08415, 0.04445


def chord_and(braces, thick=THICK, thin=THIN, meeting=COPED) -> Structure:
    """A tube along x that runs on through a node, and braces of 2 m by their angles (°) with it and
    round it, and how far aside (m) they pass it."""
    places = [(-2.0, 0, 0), (0, 0, 0), (2.0, 0, 0)]
    members = [{"path": [0, 1, 2], "section": thick, "up": (0, 0, 1)}]
    for lean, turn, aside in braces:
        a, t = np.radians([lean, turn])
        out, up = np.array([0, np.cos(t), np.sin(t)]), np.array([0, -np.sin(t), np.cos(t)])
        places.append(tuple(2 * (np.cos(a) * np.array([1.0, 0, 0]) + np.sin(a) * out)))
        offset = [tuple(aside * up)] * 2
        path = [1, len(places) - 1]
        members.append({"path": path, "section": thin, "up": tuple(up), "offset": offset})
    made = structures.structure(places, members)
    return with_joints(made, arms_of(made), meeting)


def solid_of(made: Structure, member: int, segments: int = 96) -> trimesh.Trimesh:
    found = {m: s for m, *s in member_solids(made, segments, same_area=True)}
    return trimesh.Trimesh(*found[member], process=False)


@known("a tube square to a thicker one", "starts √(ρ² − r²) from its axis, its crown ρ")
def test_a_tee():
    made = chord_and([(90, 0, 0)])
    held_to(made.set_back[1, 0] - np.sqrt(RHO**2 - R**2), 1e-9)
    held_to(made.axis_back[1, 0] - RHO, 1e-12)
    assert made.cuts.is_saddle.tolist() == [True]
    assert made.cut_backs.whole[2] == pytest.approx(RHO, abs=1e-9)
    # A square cut at the crown would leave less.
    assert made.masses[1] > chord_and([(90, 0, 0)], meeting=Meeting("welded")).masses[1]


@known("the unrolled edge of a saddle at θ", "z(φ) = (√(ρ² − r² sin²φ) + r cos φ cos θ) / sin θ")
@given(st.floats(30, 150))
def test_the_edge_of_a_saddle_unrolled(degrees):
    made = chord_and([(degrees, 0, 0)])
    theta = np.radians(degrees)
    turn = np.linspace(0, 2 * np.pi, 73)
    # The section's height is square to the chord: φ counts from the side towards its end.
    cuts = made.cuts.rows_of_ends(2 * made.count)[[2]]
    away, up = (frames[1, :1] for frames in made.end_frames)
    along = np.cross(up, away) @ [1.0, 0, 0]
    rim = R * np.column_stack([np.sign(along[0]) * np.cos(turn), np.sin(turn)])
    found = taken_at(cuts, away, up, rim[None])[0]
    across = np.sqrt(RHO**2 - R**2 * np.sin(turn) ** 2)
    held_to(found - (across + R * np.cos(turn) * np.cos(theta)) / np.sin(theta), 1e-12)


@known("saddles at any angle and aside", "the volume of the tube less the one it fits")
@given(st.floats(35, 145), st.floats(0, 360), st.floats(-0.035, 0.035))
def test_a_saddle_weighs_what_boolean_solids_do(lean, turn, aside):
    made = chord_and([(lean, turn, aside)])
    mesh = solid_of(made, 1)
    assert mesh.is_watertight
    section = find(THIN)
    area = section.mass / section.material.density
    # Uncut from where the axes cross, less the chord.
    whole = replace(made, cuts=Cuts.none(), set_back=np.zeros((2, 2)))
    long = solid_of(whole, 1)
    tube = manifold3d.Manifold.cylinder(4.0, RHO, circular_segments=720, center=True)
    left = manifold3d.Manifold(manifold3d.Mesh64(long.vertices, long.faces.astype(np.uint64)))
    left -= tube.rotate((0.0, 90.0, 0.0))
    outside = max(left.decompose(), key=lambda m: m.volume()) if left.volume() else left
    held_to(made.mean_lengths[1] - outside.volume() / area, 2e-4)
    held_to(mesh.volume / area - made.mean_lengths[1], 2e-4)
    # The end lies on the chord's side, and nothing is within it.
    away = np.hypot(mesh.vertices[:, 1], mesh.vertices[:, 2])
    held_to(away.min() - RHO, 1e-9)
    assert made.masses[1] == pytest.approx(made.mean_lengths[1] * section.mass)


@given(
    st.lists(
        st.tuples(st.floats(30, 150), st.sampled_from([0, 40, 90, 180]), st.floats(-0.03, 0.03)),
        min_size=2,
        max_size=2,
    )
)
def test_braces_that_meet_beside_a_chord_keep_clear_of_it_and_weigh_what_they_are_told(braces):
    made = chord_and(braces)
    assume((overrun(made) < 0).all())
    section = find(THIN)
    for m in range(1, made.count):
        mesh = solid_of(made, m)
        assert mesh.is_watertight
        assert np.hypot(mesh.vertices[:, 1], mesh.vertices[:, 2]).min() > RHO - 1e-9
        assert mesh.volume * section.material.density == pytest.approx(made.masses[m], rel=2e-3)


def test_a_column_ends_under_tubes_that_part_over_it():
    """A ring of thicker tubes runs over it in a mitre, and a thinner one comes down on this."""
    places = [(-2, 0.4, 0), (0, 0, 0), (2, 0.4, 0), (0, 0, -2), (0, 2, 1)]
    ring = [{"path": path, "section": THICK, "role": "edge"} for path in ([0, 1], [1, 2])]
    column = {"path": [1, 3], "section": THIN, "role": "column", "up": (0, 1, 0)}
    rib = {"path": [1, 4], "section": THIN, "role": "grid", "up": (1, 0, 0)}
    made = structures.structure(places, [*ring, column, rib])
    as_before = with_joints(made, arms_of(made), Meeting("welded"))
    coped = with_joints(made, arms_of(made), COPED)
    assert as_before.axis_back[2, 0] == pytest.approx(0)
    # Its axis meets the mitre of both, where it is on their sides.
    assert coped.axis_back[2, 0] == pytest.approx(RHO, rel=0.05)
    assert coped.axis_back[:2, 0] == pytest.approx(0) or coped.axis_back[0, 1] == pytest.approx(0)
    assert coped.cuts.end[coped.cuts.is_saddle].tolist() == [4, 4, 6, 6]


def test_what_does_not_fit_is_cut_by_a_plane():
    assert not chord_and([(90, 0, 0.06)]).cuts.is_saddle.any()
    assert not chord_and([(60, 0, 0)], thin="SHS 60 × 4").cuts.is_saddle.any()
    assert not chord_and([(60, 0, 0)], thick="SHS 160 × 8").cuts.is_saddle.any()
    assert not chord_and([(60, 0, 0)], thick=THIN, thin=THICK).cuts.is_saddle.any()
    equal = chord_and([(60, 0, 0)], thick=THIN)
    assert equal.cuts.is_saddle.all()
    assert equal.set_back[1, 0] < 0.05


@pytest.mark.parametrize("aside", [0.0, 0.02])
def test_a_mirror_image_is_another_part_only_where_it_is_one(aside):
    """A saddle in the middle is its own mirror image, and one aside is not."""
    made = chord_and([(60, 0, aside), (120, 90, aside), (60, 180, aside)])
    same = member_types(made)[1:]
    assert same[0] == same[2]
    assert (same[1] == same[0]) == (aside == 0)
    square = member_types(chord_and([(90, 0, aside), (90, 90, aside)]))
    assert square[1] == square[2]


def test_members_that_meet_anew_are_cut_the_same():
    made = chord_and([(60, 0, 0.01), (100, 90, 0)])
    again = met_anew(replace(made, rules=(COPED,)), np.ones(len(made.places), bool))
    held_to(again.cuts.rows - made.cuts.rows, 1e-12)
    held_to(again.set_back - made.set_back, 1e-12)


@given(st.floats(35, 145), st.floats(-0.035, 0.035))
def test_templates_of_saddles_lie_on_the_tube_they_fit(lean, aside):
    made = chord_and([(lean, 30, aside)])
    templates = tube_templates(made, Wrap("card", 0.0005, 0.02, 0.05), 1e-4, lambda _: None)
    edge = templates.rolled(0)
    held_to(np.hypot(edge[:, 1], edge[:, 2]) - RHO, 1e-9)
    assert templates.parts[0].outer[:, 1].min() == pytest.approx(0, abs=1e-6)


def test_a_tube_in_a_crotch_that_is_nowhere_whole_is_told_and_cut_as_a_solid():
    """Between two chords that run into each other, on their inner side there is nothing of it."""
    way = np.array([np.cos(np.radians(40)), np.sin(np.radians(40)), 0])
    ends = -1.0, 0.3, 1.0
    places = [*((t, 0, 0) for t in ends), *(tuple(t * way) for t in ends)]
    chords = [{"path": [3 * k, 3 * k + 1, 3 * k + 2], "section": THICK} for k in (0, 1)]
    made = structures.structure(places, [*chords, {"path": [1, 4], "section": THIN}])
    made = with_joints(made, arms_of(made), COPED)
    assert made.cuts.is_saddle.all()
    assert overrun(made)[2].max() > 0
    mesh = solid_of(made, 2)
    assert mesh.is_watertight
    for along in (np.array([1.0, 0, 0]), way):
        away = np.linalg.norm(np.cross(mesh.vertices, along), axis=1)
        assert away.min() == pytest.approx(RHO, abs=2e-4)
