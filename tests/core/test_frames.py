"""Sections, frames, labels, panels and solids."""

from __future__ import annotations

import itertools

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.framing.frames import frame_net, node_angles
from leanlattice.core.framing.labels import bands, type_numbers
from leanlattice.core.framing.naming import name_all
from leanlattice.core.framing.panels import panel_net
from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.polygons import areas, flatness
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import clear_start
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
    frame = frame_net(lay(surface, pattern, (6, 5)), find(inner), find(border), set_out, roll, gap)
    solids = hulls(frame)
    rng = np.random.default_rng(0)
    count = len(frame.net.vertices)
    for node in rng.choice(count, min(8, count), replace=False):
        at = [m for m in np.flatnonzero((frame.members == node).any(axis=1)) if m in solids]
        for a, b in itertools.combinations(at, 2):
            held_to((solids[a] ^ solids[b]).volume(), 1e-9)
            assert solids[a].min_gap(solids[b], gap + 0.01) >= gap - 2e-5


def hulls(frame):
    """Members as solids without their hollows."""
    drawn = member_solids(frame.structure, 24)
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
    frame = frame_net(net, find("RHS 150 × 100 × 5"), EDGE, "top", 0.0, 0.01)
    normals = [np.array([-k, 0, 1]) / np.hypot(1, k) for k in slopes]
    x = net.vertices[net.edges, 0]
    on_left, on_right = (x <= 1e-9).all(axis=1), (x >= -1e-9).all(axis=1)
    for here, normal in ((on_left & ~on_right, normals[0]), (on_right & ~on_left, normals[1])):
        assert np.count_nonzero(here) > 20
        out_of_plane = np.cross(frame.up[here], normal)
        half_width = frame.sections[0].shape.width / 2
        held_to(np.linalg.norm(out_of_plane, axis=1).max() * half_width, 1e-4)
    along_fold = on_left & on_right
    between = sum(normals) / np.linalg.norm(sum(normals))
    held_to(np.abs(frame.up[along_fold] - between).max(initial=0.0), 1e-9)


@known("set-back of equal tubes at θ", "r / tan(θ/2)")
def test_set_back_of_equal_tubes_is_the_closed_form():
    """Two tubes of radius r at an angle θ with a gap g need (r cos θ/2 + g/2) / sin θ/2, here at right angles."""
    net = lay(SURFACES["flat sheet"](), "quads", (6, 4))
    frame = frame_net(net, TUBE, TUBE, "centre", 0.0, 0.0)
    assert frame.set_back == approx(np.full(frame.set_back.shape, TUBE.shape.height / 2), rel=1e-9)
    wider = frame_net(net, TUBE, TUBE, "centre", 0.0, 0.02)
    assert wider.set_back - frame.set_back == approx(
        np.full(frame.set_back.shape, 0.02 / 2**0.5), rel=1e-9
    )


def test_members_follow_the_normal_and_the_set_out_line():
    net = lay(roof(), "diagrid", (8, 6))
    for set_out, share in (("top", -0.5), ("centre", 0.0), ("bottom", 0.5)):
        frame = frame_net(net, find("RHS 120 × 60 × 5"), EDGE, set_out, 0.0, 0.01)
        assert np.abs(np.einsum("ij,ij->i", frame.up, frame.axis)).max() < 1e-12
        middle = net.surface.normals(net.uv[net.edges].mean(axis=1))
        assert np.einsum("ij,ij->i", frame.up, middle).min() > 0.9
        heights = np.array([s.shape.height for s in frame.sections])[frame.section_of]
        assert frame.lift == pytest.approx(share * heights)
        assert np.linalg.norm(frame.side, axis=1) == pytest.approx(1)
    turned = frame_net(net, TUBE, EDGE, "centre", np.radians(30), 0.01)
    straight = frame_net(net, TUBE, EDGE, "centre", 0.0, 0.01)
    step = np.degrees(turned.rolls - straight.rolls)
    assert (step + 180) % 360 - 180 == pytest.approx(np.full(len(step), 30.0))
    assert (straight.section_of == net.border).all()
    assert straight.masses.sum() == pytest.approx(
        (straight.cut_lengths * np.where(net.border, EDGE.mass, TUBE.mass)).sum()
    )


@known("solids of members", "closed; volume is area × length (sharp corners)")
@pytest.mark.parametrize("name", ["CHS 88.9 × 4", "RHS 120 × 60 × 5", "Timber 60 × 160"])
def test_member_solids_are_closed_and_have_their_volume(name):
    section = find(name)
    frame = frame_net(lay(roof(), "diagrid", (5, 4)), section, section, "top", 0.2, 0.0)
    for m, vertices, faces in member_solids(frame.structure, 96):
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        assert mesh.is_watertight
        # Drawn corners are sharp and rounds are polygons: within three per cent of the section's own area.
        assert mesh.volume == approx(frame.cut_lengths[m] * section.shape.properties.area, rel=0.03)


def test_node_angles_close_a_full_turn_on_a_plane():
    net = lay(SURFACES["flat sheet"](), "triangles", (6, 4))
    frame = frame_net(net, TUBE, TUBE, "centre", 0.0, 0.0)
    first = np.full(len(net.vertices), len(net.edges))
    np.minimum.at(first, net.edges.ravel(), np.repeat(np.arange(len(net.edges)), 2))
    node, member, angles = node_angles(frame, first.astype(np.int32))
    assert len(node) == 2 * len(net.edges)
    assert np.abs(angles[:, 1:]).max() < 1e-9
    for v in np.unique(node):
        mine, plan = member[node == v], angles[node == v, 0]
        assert plan[0] == pytest.approx(0)
        assert mine[0] == first[v]
        assert (np.diff(plan) > 0.1).all()
        assert plan[-1] < 2 * np.pi


@given(st.lists(st.floats(0, 10), min_size=1, max_size=60), st.floats(0.001, 2))
def test_bands_are_few_and_narrow(values, width):
    values = np.array(values)
    band = bands(values, width)
    ends = [(values[band == b].min(), values[band == b].max()) for b in range(band.max() + 1)]
    assert all(high - low <= width for low, high in ends)
    # Starting points of greedy bands lie more than a width apart, so no fewer bands would do.
    assert all(b[0] - a[0] > width for a, b in itertools.pairwise(ends))


def test_types_find_turned_copies_but_not_mirrored_ones():
    sides = np.array([[3.0, 4, 5, 4.5], [5, 4.5, 3, 4], [4, 3, 4.5, 5], [3, 4, 5, 4.6]])
    types, count = type_numbers(np.stack([sides, sides * 1.3], axis=2), 0.01)
    assert types[0] == types[1]
    assert len({types[0], types[2], types[3]}) == count == 3


@given(st.floats(0.0, 0.05))
def test_panels_are_flat_or_split_and_fill_the_net(tolerance):
    net = lay(roof(), "diagrid", (7, 6))
    panels = panel_net(net, tolerance, "glass", 0.012, 0.02)
    assert panels.flatness.max() <= tolerance
    split = net.flatness > tolerance
    assert set(panels.split_cells) == set(np.flatnonzero(split & (np.diff(net.offsets) > 3)))
    whole = ~np.isin(panels.cell, panels.split_cells)
    assert panels.areas[whole] == pytest.approx(
        areas(net.vertices, net.corners, net.offsets)[panels.cell[whole]]
    )
    owner = np.repeat(np.arange(panels.count), np.diff(panels.offsets))
    inner = panels.neighbour >= 0
    pairs = set(zip(owner[inner], panels.neighbour[inner], strict=True))
    assert all((b, a) in pairs for a, b in pairs)
    assert (~inner).sum() == net.border.sum()


@known("flatness of a square with one corner lifted by h", "h/4")
def test_flatness_of_a_bent_quad_is_a_quarter_of_the_lift():
    """One corner of a square lifted by h puts every corner h/4 from the best plane, for small h."""
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 1e-4], [0, 1, 0]])
    corners, offsets = np.arange(4, dtype=np.int32), np.array([0, 4], np.int32)
    assert flatness(points, corners, offsets)[0] == approx(2.5e-5, rel=1e-3)


def test_names_follow_position(surface):
    net = lay(surface, "diagrid", (8, 7))
    frame = frame_net(net, TUBE, EDGE, "top", 0.0, 0.01)
    named = name_all(frame, panel_net(net, 0.003, "glass", 0.012, 0.02), "", 0.001)
    for labels in (named.node_labels, named.member_labels, named.panel_labels):
        assert len(set(labels)) == len(labels)
    assert sorted(named.node) == list(range(1, len(net.vertices) + 1))
    assert {label[0] for label in named.member_labels} == {"M", "E"}
    # Rows follow each other along: the numbers rise with the distance along, but for the order within a row.
    sizes = np.array(net.surface.lengths)
    along = (net.uv * sizes)[:, int(sizes[1] >= sizes[0])]
    order = along[np.argsort(named.node)]
    assert (np.diff(order) > -0.21 * np.median(net.edge_lengths)).all()
    for t in np.unique(named.member_type):
        same = named.member_type == t
        assert np.ptp(frame.cut_lengths[same]) <= 0.001
        assert len(set(frame.section_of[same])) == 1
