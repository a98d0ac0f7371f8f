"""Structures along the edges of nets: set-backs, set-out lines and solids."""

from __future__ import annotations

import itertools

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.angles import rolls
from leanlattice.core.structure.arms import clear_start
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.solids import member_solids

from ..conftest import SURFACES, roof, surfaces
from ..known import approx, held_to, known

TUBE, EDGE = find("CHS 88.9 × 4"), find("CHS 139.7 × 5")
SECTIONS = st.sampled_from(["CHS 60.3 × 4", "SHS 80 × 4", "RHS 120 × 60 × 5", "Timber 60 × 160"])


GAPS = st.sampled_from([0.0, 0.01, 0.1])


@known("members at any node", "the gap, for random surfaces, sections and rolls")
@given(surfaces(), st.sampled_from(["quads", "diagrid", "triangles"]), SECTIONS, SECTIONS,
       st.sampled_from(["top", "centre", "bottom"]), st.floats(-1.5, 1.5), GAPS)  # fmt: skip
def test_members_keep_the_gap_at_nodes(surface, pattern, inner, border, set_out, roll, gap):
    structure = from_net(
        lay(surface, pattern, (6, 5)), find(inner), find(border), set_out, roll, Meeting(gap=gap)
    )
    solids = hulls(structure)
    rng = np.random.default_rng(0)
    count = len(structure.places)
    for node in rng.choice(count, min(8, count), replace=False):
        at = [m for m in np.flatnonzero((structure.ends == node).any(axis=1)) if m in solids]
        for a, b in itertools.combinations(at, 2):
            held_to((solids[a] ^ solids[b]).volume(), 1e-9)
            assert solids[a].min_gap(solids[b], gap + 0.01) >= gap - 2e-5


def hulls(structure):
    """Members as solids without their hollows."""
    drawn = member_solids(structure, 24)
    return {m: manifold3d.Manifold.hull_points(vertices) for m, vertices, _ in drawn}


def strip(axis, towards, start, near, far):
    """A member in the plane of two axes."""
    corners = [(start, near), (start, -far), (start + 100, -far), (start + 100, near)]
    return shapely.Polygon([along * axis + across * towards for along, across in corners])


REACH = st.floats(0.01, 0.2)


@given(st.floats(3, 179.9), st.tuples(REACH, REACH), st.tuples(REACH, REACH), GAPS)
def test_two_members_start_as_near_the_node_as_the_gap_allows(degrees, near, far, gap):
    angle = np.radians(degrees)
    cosine, sine = np.cos([angle]), np.sin([angle])
    start = clear_start(cosine[0], sine[0], *map(float, near), *map(float, far), gap)
    ways = [(np.array([1.0, 0.0]), np.array([0.0, 1.0]))]
    ways.append((np.array([cosine[0], sine[0]]), np.array([sine[0], -cosine[0]])))
    strips = [strip(*way, start, near[k], far[k]) for k, way in enumerate(ways)]
    assert strips[0].distance(strips[1]) == pytest.approx(gap, abs=1e-9)
    assert strips[0].intersection(strips[1]).area < 1e-9


def folded_net(left, right):
    """Squares on two planes that meet at x = 0, with their slopes there."""
    x, y = (k.ravel() for k in np.meshgrid(np.arange(-4.0, 5), np.arange(5.0), indexing="ij"))
    points = np.column_stack([x, y, np.where(x < 0, left * x, right * x)])
    a = (5 * np.arange(8)[:, None] + np.arange(4)).ravel()
    corners, offsets = np.column_stack([a, a + 5, a + 6, a + 1]).ravel(), 4 * np.arange(len(a) + 1)
    surface = mesh_surface(Mesh(points, corners.astype(np.int32), offsets.astype(np.int32)))
    return build_net(surface, points, surface.uv, corners, offsets)


@known("sections set out flush", "a face lies in the plane face beside the member")
def test_a_face_of_a_section_set_out_flush_lies_in_the_plane_face_beside_it():
    """On a folded roof of two planes the member along the fold lies between both."""
    slopes = (0.4, -0.2)
    net = folded_net(*slopes)
    structure = from_net(net, find("RHS 150 × 100 × 5"), EDGE, "top", 0.0, Meeting(gap=0.01))
    normals = [np.array([-k, 0, 1]) / np.hypot(1, k) for k in slopes]
    x = net.vertices[net.edges, 0]
    on_left, on_right = (x <= 1e-9).all(axis=1), (x >= -1e-9).all(axis=1)
    for here, normal in ((on_left & ~on_right, normals[0]), (on_right & ~on_left, normals[1])):
        assert np.count_nonzero(here) > 20
        out_of_plane = np.cross(structure.up[here], normal)
        half_width = structure.sections[0].shape.width / 2
        held_to(np.linalg.norm(out_of_plane, axis=1).max() * half_width, 1e-4)
    along_fold = on_left & on_right
    between = sum(normals) / np.linalg.norm(sum(normals))
    held_to(np.abs(structure.up[along_fold] - between).max(initial=0.0), 1e-9)


@known("set-back of equal tubes at θ", "r / tan(θ/2)")
def test_set_back_of_equal_tubes_is_the_closed_form():
    """Two tubes of radius r at an angle θ with a gap g need (r cos θ/2 + g/2) / sin θ/2, here at right angles."""
    net = lay(SURFACES["flat sheet"](), "quads", (6, 4))
    structure = from_net(net, TUBE, TUBE, "centre", 0.0, Meeting(gap=0.0))
    assert structure.set_back == approx(
        np.full(structure.set_back.shape, TUBE.shape.height / 2), rel=1e-9
    )
    wider = from_net(net, TUBE, TUBE, "centre", 0.0, Meeting(gap=0.02))
    assert wider.set_back - structure.set_back == approx(
        np.full(structure.set_back.shape, 0.02 / 2**0.5), rel=1e-9
    )


def test_members_follow_the_normal_and_the_set_out_line():
    net = lay(roof(), "diagrid", (8, 6))
    for set_out, share in (("top", -0.5), ("centre", 0.0), ("bottom", 0.5)):
        structure = from_net(net, find("RHS 120 × 60 × 5"), EDGE, set_out, 0.0, Meeting(gap=0.01))
        assert np.abs(np.einsum("ij,ij->i", structure.up, structure.chords)).max() < 1e-12
        middle = net.surface.normals(net.uv[net.edges].mean(axis=1))
        assert np.einsum("ij,ij->i", structure.up, middle).min() > 0.9
        heights = np.array([s.shape.height for s in structure.sections])[structure.section_of]
        assert structure.lift == pytest.approx(np.repeat(share * heights, 2))
        assert np.linalg.norm(structure.up, axis=1) == pytest.approx(1)
    turned = from_net(net, TUBE, EDGE, "centre", np.radians(30), Meeting(gap=0.01))
    straight = from_net(net, TUBE, EDGE, "centre", 0.0, Meeting(gap=0.01))
    step = np.degrees(rolls(turned) - rolls(straight))
    assert (step + 180) % 360 - 180 == pytest.approx(np.full(len(step), 30.0))
    assert (straight.section_of == net.border).all()
    assert straight.masses.sum() == pytest.approx(
        (straight.cut_lengths * np.where(net.border, EDGE.mass, TUBE.mass)).sum()
    )


@known("solids of members", "closed; volume is area × length (sharp corners)")
@pytest.mark.parametrize("name", ["CHS 88.9 × 4", "RHS 120 × 60 × 5", "Timber 60 × 160"])
def test_member_solids_are_closed_and_have_their_volume(name):
    section = find(name)
    structure = from_net(
        lay(roof(), "diagrid", (5, 4)), section, section, "top", 0.2, Meeting(gap=0.0)
    )
    for m, vertices, faces in member_solids(structure, 96):
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        assert mesh.is_watertight
        # Drawn corners are sharp and rounds are polygons: within three per cent of the section's own area.
        assert mesh.volume == approx(
            structure.cut_lengths[m] * section.shape.properties.area, rel=0.03
        )
