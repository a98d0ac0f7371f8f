"""Bodies at nodes: members are clear of them and reach them, and they weigh what their forms do."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.bodies import body_masses, body_solids, missed_bodies
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import BODIES, Meeting
from leanlattice.core.structure.solids import member_solids

from ..conftest import SURFACES, roof, surfaces
from ..known import held_to, known
from . import structures

TUBE = find("CHS 88.9 × 4")


def hulls(solids):
    return {k: manifold3d.Manifold.hull_points(vertices) for k, vertices, _ in solids}


@known("members and bodies at any node", "clear of each other, for random nets, sections and forms")
@given(
    surfaces(),
    st.sampled_from(["quads", "triangles"]),
    st.sampled_from(["CHS 60.3 × 4", "RHS 120 × 60 × 5", "Timber 60 × 160"]),
    st.sampled_from(["top", "centre", "bottom"]),
    st.sampled_from(BODIES),
    st.sampled_from([0.02, 0.09]),
)
def test_members_stop_at_bodies(surface, pattern, section, set_out, way, radius):
    meeting = Meeting(way, 0.005, "each", radius, 0.02)
    net = lay(surface, pattern, (6, 5))
    made = from_net(net, find(section), find(section), set_out, 0.2, meeting)
    members, bodies = hulls(member_solids(made, 24)), hulls(body_solids(made))
    assert not len(missed_bodies(made)[0])
    for node in sorted(bodies)[:: max(1, len(bodies) // 8)]:
        at = [m for m in np.flatnonzero((made.ends == node).any(axis=1)).tolist() if m in members]
        # What is round is drawn as polygons of its size, whose corners lie outside.
        own = 0.012 * made.radius[node] * made.radius[node] * made.height[node]
        for m in at:
            assert (members[m] ^ bodies[node]).volume() < own
        gaps = [bodies[node].min_gap(members[m], 1.0) for m in at]
        whole = len(at) == made.valence[node]
        if whole and way != "plate" and abs(made.radius[node] - radius) > 1e-9:
            # A body that grew is near what it grew for: a turned section's corner stands aside.
            assert min(gaps) < 0.02 * made.radius[node] + 0.01


@known(
    "bodies at a cross of tubes 88.9",
    "44.5 mm fit, 80 mm hold back 80 mm; masses of a sphere, cylinders and a square",
)
def test_bodies_at_a_cross():
    made = structures.diagrid()
    arms = arms_of(made)
    fitted = with_joints(made, arms, Meeting("ball"))
    held_to(fitted.radius - [0.04445, 0, 0, 0, 0], 1e-9)
    held_to(fitted.set_back[:, 0] - 0.04445, 1e-9)
    volumes = {
        "ball": 4 / 3 * np.pi * 0.08**3,
        "hub": np.pi * 0.08**2 * 0.0889,
        "disc": np.pi * 0.08**2 * 0.012,
    }
    for way, volume in volumes.items():
        large = with_joints(made, arms, Meeting(way, radius=0.08, thickness=0.012))
        held_to(large.set_back - [[0.08, 0]] * 4, 1e-9)
        held_to(body_masses(large) - [7850 * volume, 0, 0, 0, 0], 1e-9)
        ((node, vertices, faces),) = body_solids(large)
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        assert node == 0
        assert mesh.is_watertight
        held_to(mesh.volume - volume, 1e-9)
    # A square of 160 mm, whose corners are cut round 92.4 mm from its middle.
    plate = with_joints(made, arms, Meeting("plate", radius=0.08, thickness=0.012))
    cap = 0.0924**2 * np.arccos(0.08 / 0.0924) - 0.08 * np.sqrt(0.0924**2 - 0.08**2)
    area = np.pi * 0.0924**2 - 4 * cap
    # Its round corners are a polygon's.
    assert body_masses(plate)[0] / 7850 / 0.012 == pytest.approx(area, rel=0.01)


def test_sizes_are_each_as_needed_alike_or_fixed():
    net = lay(roof(), "triangles", (8, 6))

    def radii(sizes, radius):
        return from_net(net, TUBE, TUBE, "centre", 0.0, Meeting("hub", 0.0, sizes, radius))

    each, alike, fixed = radii("each", 0.02), radii("alike", 0.02), radii("fixed", 0.09)
    assert np.ptp(each.radius) > 0.01
    held_to(alike.radius - each.radius.max(), 1e-12)
    held_to(fixed.radius - 0.09, 0)
    nodes, needed = missed_bodies(fixed)
    assert set(nodes) == set(np.flatnonzero(each.radius > 0.09 + 1e-4))
    held_to(needed - each.radius.max(), 1e-9)
    assert not len(missed_bodies(each)[0])


@pytest.mark.parametrize("build", [structures.weave, structures.arch, structures.truss])
def test_where_members_pass_there_is_no_body(build):
    made = build()
    passed = with_joints(made, arms_of(made), Meeting("ball", radius=0.1))
    through = np.delete(made.path, np.r_[made.offsets[:-1], made.offsets[1:] - 1])
    assert not passed.radius[through].any()


@pytest.mark.parametrize("set_out", ["top", "bottom"])
def test_bodies_lie_in_the_middle_of_the_axes(set_out):
    net = lay(SURFACES["flat sheet"](), "quads", (4, 3))
    box = find("RHS 120 × 60 × 5")
    made = from_net(net, box, box, set_out, 0.0, Meeting("disc", 0.0, "each", 0.1, 0.02))
    lift = {"top": -0.06, "bottom": 0.06}[set_out]
    held_to(made.body_middles - made.places - lift * made.normals, 1e-9)
