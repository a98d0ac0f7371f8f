"""Members welded at nodes: the planes that cut their ends, how much these leave, and the solids."""

from __future__ import annotations

import itertools
from dataclasses import replace

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.cut_backs import Outlines, cut_backs
from leanlattice.core.structure.cuts import Cuts
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import MEETINGS, Meeting
from leanlattice.core.structure.overrun import overrun
from leanlattice.core.structure.solids import member_solids, planes_of_member

from ..conftest import roof, surfaces
from ..known import held_to, known
from . import structures

WELDED = Meeting("welded")
BOX, TUBE = "RHS 120 × 60 × 5", "CHS 88.9 × 4"
OPEN = ("IPE 120", "UPE 100", "2UPE 80 × 6", "L 100 × 75 × 8", "T 100 × 100 × 8 × 10")


def welded(made):
    return with_joints(made, arms_of(made), WELDED)


def fan(degrees, section=BOX, **other):
    """Members of a metre that leave a node in a plane."""
    ways = np.radians(degrees)
    places = [(0, 0, 0), *np.column_stack([np.cos(ways), np.sin(ways), 0 * ways])]
    members = [{"path": [0, k + 1], "section": section} | other for k in range(len(ways))]
    return structures.structure(places, members)


@known(
    "two members mitred at θ",
    "the bisecting plane; far edge −b / 2 tan(θ/2) beyond the node, weight of the axes' lengths",
)
@given(st.floats(20, 175))
def test_a_mitre(degrees):
    made = welded(fan([0, degrees]))
    half = np.radians(degrees) / 2
    planes = [planes_of_member(made, m) for m in (0, 1)]
    held_to(planes[0] + planes[1], 1e-12)
    held_to(planes[0][0] - [-np.sin(half), np.cos(half), 0, 0], 1e-12)
    # The section is 60 mm wide in this plane.
    held_to(made.set_back[:, 0] + 0.03 / np.tan(half), 1e-9)
    held_to(made.square_back, 1e-12)
    held_to(made.axis_back, 1e-12)
    held_to(made.masses - find(BOX).mass, 1e-9)
    assert [MEETINGS[k] for k in made.meeting] == ["welded"] * 3


@known(
    "four equal members at right angles",
    "two planes an end, the point at the node, b / 4 of each and 4 (R³ − r³) / 3π (R² − r²) of tubes taken off",
)
def test_a_cross():
    boxes, tubes = (welded(fan([0, 90, 180, 270], name)) for name in ("Timber 60 × 160", TUBE))
    assert boxes.cuts.end.tolist() == tubes.cuts.end.tolist() == [0, 0, 2, 2, 4, 4, 6, 6]
    held_to(boxes.set_back, 1e-12)
    held_to(boxes.square_back[:, 0] - 0.06 / 4, 1e-12)
    outer, inner = 0.04445, 0.04045
    mean = 4 / (3 * np.pi) * (outer**3 - inner**3) / (outer**2 - inner**2)
    held_to(tubes.square_back[:, 0] - mean, 1e-12)
    held_to(tubes.set_back, 1e-12)


@known("a member at a higher one's side", "(r₁ ∓ r₂ cos θ) / sin θ from the node to its far edge")
@given(st.floats(35, 90))
def test_a_lower_role_stops_at_the_side_of_a_higher_one(degrees):
    ways = np.radians([0, 180, degrees])
    places = [(0, 0, 0), *np.column_stack([np.cos(ways), np.sin(ways), 0 * ways])]
    edge = {"role": "edge", "section": "CHS 139.7 × 5"}
    made = structures.structure(
        places,
        [{"path": [1, 0]} | edge, {"path": [0, 2]} | edge, {"path": [0, 3], "section": TUBE}],
    )
    passing = structures.structure(
        places, [{"path": [1, 0, 2]} | edge, {"path": [0, 3], "section": TUBE}]
    )
    cosine, sine = np.cos(ways[2]), np.sin(ways[2])
    for structure, web in ((welded(made), 2), (welded(passing), 1)):
        held_to(structure.set_back[web, 0] - (0.06985 - 0.04445 * cosine) / sine, 1e-9)
        held_to(structure.square_back[web, 0] - 0.06985 / sine, 1e-9)
        # Both ends of the edge are one behind the other, and are cut square where they meet.
        held_to(structure.set_back[:web], 1e-12)
        assert not np.isin(structure.cuts.end // 2, range(web)).any()


def test_the_larger_section_of_one_role_goes_before():
    big = structures.structure(
        [(0, 0, 0), (1, 0, 0), (-1, 0, 0), (0, 1, 0)],
        [
            {"path": [0, 1], "section": "CHS 168.3 × 6.3"},
            {"path": [2, 0], "section": "CHS 168.3 × 6.3"},
            {"path": [0, 3], "section": TUBE},
        ],
    )
    held_to(welded(big).set_back[2, 0] - 0.08415, 1e-9)


def test_no_more_than_two_planes_cut_an_end_and_they_point_out_of_it():
    made = from_net(lay(roof(), "triangles", (6, 5)), find(TUBE), find(TUBE), "top", 0.3, WELDED)
    _, counts = np.unique(made.cuts.end, return_counts=True)
    assert counts.max() == 2
    away = made.end_frames[0].reshape(-1, 3)[made.cuts.end]
    assert np.einsum("ij,ij->i", made.cuts.normal, away).max() < 0


@known("solids of welded members", "closed, and as heavy as listed, for random nets and sections")
@given(
    surfaces(),
    st.sampled_from(["quads", "diagrid", "triangles", "hexagons"]),
    st.sampled_from([TUBE, BOX, "Timber 60 × 160", "SHS 80 × 4", *OPEN]),
    st.sampled_from(["top", "centre", "bottom"]),
    st.floats(-1.5, 1.5),
)
def test_solids_weigh_what_is_listed(surface, pattern, section, set_out, roll):
    section = find(section)
    made = from_net(lay(surface, pattern, (5, 4)), section, section, set_out, roll, WELDED)
    rings = [ring for piece in section.shape.pieces(24) for ring in piece if ring is not None]
    area = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd).area()
    circle = 2 * np.pi / 24
    area *= circle / np.sin(circle) if section.shape.round else 1.0
    # Of members so short that their cuts cross only what is told holds.
    whole = overrun(made).max(axis=1) <= 0
    for m, vertices, faces in member_solids(made, 24, same_area=True):
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        if not whole[m]:
            continue
        held_to(mesh.volume / area / made.mean_lengths[m] - 1, 1e-3)
        beyond = vertices @ planes_of_member(made, m)[:, :3].T - planes_of_member(made, m)[:, 3]
        assert beyond.max(initial=-1.0) < 1e-9


def test_flat_fans_of_equals_share_nothing_and_leave_nothing_open():
    """Round a node all of the plane within reach belongs to one member."""
    made = welded(fan([0, 50, 120, 200, 290], "Timber 60 × 160"))
    solids = [
        manifold3d.Manifold(manifold3d.Mesh64(vertices, faces.astype(np.uint64)))
        for _, vertices, faces in member_solids(made)
    ]
    for a, b in itertools.combinations(solids, 2):
        held_to((a ^ b).volume(), 1e-9)
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    core = manifold3d.Manifold.cylinder(0.16, 0.03, 0.03, 96, center=True)
    held_to((core - whole).volume(), 1e-9)


@given(st.lists(st.floats(-0.03, 0.03), min_size=6, max_size=6))
def test_equals_share_one_plane_wherever_their_axes_lie(off):
    """Members set out by their tops, on two slopes, do not lie on one line at their node."""
    made = fan([0, 110])
    offset = np.zeros((4, 3))
    offset[[0, 2]] = np.reshape(off, (2, 3))
    made = replace(made, offset=offset)
    cut = with_joints(made, arms_of(made, joined=True), WELDED)
    planes = [planes_of_member(cut, m) for m in (0, 1)]
    held_to(planes[0] + planes[1], 1e-12)


def test_sections_that_are_not_even_are_cut_as_they_stand_at_either_end():
    """A right-angled triangle, whose plane takes a metre for each metre of width."""
    triangle = np.array([[0.0, 0.0], [0.3, 0.0], [0.0, 0.1]]) - [0.1, 0.1 / 3]
    outlines = Outlines(
        radii=np.zeros((1, 2)),
        corners=triangle,
        rings=np.array([0, 3], np.int32),
        first=np.array([0, 1], np.int32),
        area=np.array([0.015]),
    )
    away = np.array([[0, 0, 1.0], [0, 0, -1.0]])
    up = np.tile([0.0, 1.0, 0.0], (2, 1))
    # Both planes lean towards the same side, which is +x.
    normal = np.array([[1.0, 0, -1], [1.0, 0, 1]]) / np.sqrt(2)
    cuts = Cuts(np.array([0, 1], np.int32), normal, np.zeros(2))
    back = cut_backs(cuts, away, up, np.zeros(2, np.int32), np.ones(2), outlines)
    held_to(back.far + 0.1, 1e-12)
    held_to(back.mean, 1e-12)
    held_to(back.axis, 0)


def test_cuts_go_with_members_that_are_moved():
    """Normals are directions and levels are counted from where the axes end."""
    made = welded(fan([0, 75]))
    moved = replace(made, places=made.places + [3.0, -2.0, 7.0])
    held_to(moved.square_back - made.square_back, 1e-12)
    held_to(planes_of_member(moved, 0)[:, :3] - planes_of_member(made, 0)[:, :3], 0)
    assert replace(made, cuts=Cuts.none()).square_back is not None


@pytest.mark.parametrize("build", [structures.weave, structures.purlin_on_rafter])
def test_what_passes_is_not_cut(build):
    assert not welded(build()).cuts.count
