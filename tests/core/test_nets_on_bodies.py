"""Nets on whole bodies and imported meshes: patterns on charts, and foams cut by the skin."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.charts import charted, smooth_faces
from leanlattice.core.geometry.divided import finer
from leanlattice.core.geometry.meshes import mesh_of_triangles
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.polygons import areas, vector_areas
from leanlattice.core.nets.conway import dual, truncated
from leanlattice.core.nets.insets import inset
from leanlattice.core.nets.refining import refined
from leanlattice.core.nets.thinning import eased_on_shape, merged_near
from leanlattice.core.patterns.foam import (
    EIGHT,
    equal_foam,
    equal_weight,
    power_cell_volume,
    scattered_foam,
    turned_points,
)
from leanlattice.core.patterns.lay import Placing, lay
from leanlattice.core.patterns.pulls import pull_at
from leanlattice.core.patterns.skincells import cells_cut_by_skin
from leanlattice.core.patterns.table import PATTERNS
from leanlattice.core.shaping.facets import surface_mesh

from ..conftest import SURFACES
from ..known import approx, held_to, known
from .test_nets import assert_sound, euler

Solid = manifold3d.Manifold
BODIES = {
    "box": lambda: Solid.cube((3, 2, 2)),
    "steps with a drum": lambda: (
        Solid.cube((3, 3, 2)) + Solid.cube((2, 2, 5)).translate((0.5, 0.5, 2))
        + Solid.cylinder(2, 0.8, 0.8, 48).translate((1.5, 1.5, 7))
    ),
    "two balls": lambda: Solid.sphere(2, 48) + Solid.sphere(1.5, 40).translate((2.4, 0.3, 0.2)),
    "slab with a hole": lambda: Solid.cube((4, 4, 1)) - Solid.cylinder(3, 1, 1, 30).translate((2, 2, -1)),
    "cone": lambda: Solid.cylinder(4, 2, 0, 40),
}  # fmt: skip


def mesh_of(solid):
    raw = solid.to_mesh()
    return mesh_of_triangles(
        np.array(raw.vert_properties, float)[:, :3], np.array(raw.tri_verts, np.int32)
    )


def assert_on_skin(net, genus):
    assert_sound(net)
    assert not net.loops, "a closed body has no border"
    assert euler(net) == 2 - 2 * genus
    facing = np.einsum(
        "ij,ij->i", vector_areas(net.vertices, net.corners, net.offsets),
        np.add.reduceat(net.normals[net.corners], net.offsets[:-1], axis=0),
    )  # fmt: skip
    assert facing.min() > 0, "a cell is inside out"
    size = np.ptp(net.vertices, axis=0).max()
    assert np.abs(net.vertices - net.surface.points(net.uv)).max() < 1e-6 * size


@pytest.mark.parametrize("name", BODIES)
@pytest.mark.parametrize("pattern", PATTERNS)
def test_every_pattern_covers_every_body(name, pattern):
    solid = BODIES[name]()
    net = lay(charted(mesh_of(solid)), pattern, (9, 8), placing=Placing(sliver=0.05))
    assert_on_skin(net, solid.genus())


balls = st.tuples(st.floats(0.6, 2), st.floats(-2, 2), st.floats(-2, 2), st.floats(-1, 1))


@known(
    "every pattern on unions of balls and boxes at random",
    "V − E + F = 2 − 2g, no border, on the skin",
)
@given(
    st.lists(st.tuples(st.booleans(), balls), min_size=1, max_size=4),
    st.sampled_from(sorted(PATTERNS)),
    st.integers(5, 14),
)
@settings(max_examples=15)
def test_any_union_of_balls_and_boxes_can_be_covered(parts, pattern, bays):
    solid = Solid.cube((2, 2, 2), True)
    for is_ball, (size, x, y, z) in parts:
        part = (
            Solid.sphere(size, 24) if is_ball else Solid.cube((size, 1.2 * size, 0.8 * size), True)
        )
        solid = solid + part.translate((x, y, z))
    assert_sound(lay(charted(mesh_of(solid)), pattern, (bays, bays), placing=Placing(sliver=0.05)))


@known("a box in square bays", "cells and lengths as counted")
def test_bays_of_one_size_meet_at_the_edges_of_a_box():
    net = lay(charted(mesh_of(Solid.cube((3, 2, 1)))), "quads", (12, 8))
    assert net.cell_count == 2 * (12 * 8 + 12 * 4 + 8 * 4)
    assert net.edge_lengths == approx(np.full(len(net.edges), 0.25))
    assert areas(net.vertices, net.corners, net.offsets).sum() == approx(22)
    assert set(net.valence) == {3, 4}


def test_normals_between_the_faces_of_a_box_are_their_means():
    net = lay(charted(mesh_of(Solid.cube((2, 2, 2)))), "quads", (4, 4))
    outward = net.vertices - 1
    sides = np.isclose(np.abs(outward), 1).sum(axis=1)
    expected = (
        np.where(np.isclose(np.abs(outward), 1), np.sign(outward), 0) / np.sqrt(sides)[:, None]
    )
    assert net.normals[sides < 3] == pytest.approx(expected[sides < 3], abs=1e-9)


def test_changes_keep_a_net_on_a_body_sound():
    surface = charted(mesh_of(BODIES["steps with a drum"]()))
    pulls = (pull_at(surface, np.array([[1.5, 0.0, 1.0]]), 0.6, 1.0),)
    net = lay(surface, "diagrid", (6, 6), placing=Placing(pulls=pulls, sliver=0.05))
    assert_on_skin(net, 0)
    wanted = net.vertices[net.corners[net.offsets[:-1]], 2] < 2
    for made in (
        truncated(net), dual(net), inset(net, 0.3, None, 0.0).net, refined(net, wanted), refined(net, wanted, "joined"),
        refined(net, wanted, "spokes"), merged_near(net, 0.08)[0], eased_on_shape(net, 2),
    ):  # fmt: skip
        assert_sound(made)
        assert euler(made) == 2
    finest = refined(net, wanted)
    drum = merged_near(net, 0.15)[0]
    for made in (finest, drum):
        box = made.vertices[made.vertices[:, 2] < 1e-9]
        assert (box.min(axis=0)[:2], box.max(axis=0)[:2]) == (
            pytest.approx((0, 0)),
            pytest.approx((3, 3)),
        ), "corners stay"


def wavy_mesh():
    """An open mesh of uneven triangles, as imported ones are."""
    rng = np.random.default_rng(4)
    x, y = np.meshgrid(np.linspace(0, 8, 17), np.linspace(0, 6, 13))
    p = np.column_stack([x.ravel(), y.ravel()])
    inner = (p > 0.1).all(axis=1) & (p[:, 0] < 7.9) & (p[:, 1] < 5.9)
    p[inner] += 0.12 * rng.standard_normal((int(inner.sum()), 2))
    row = np.arange(17 * 13).reshape(13, 17)
    a, b, c, d = (
        row[:-1, :-1].ravel(),
        row[:-1, 1:].ravel(),
        row[1:, 1:].ravel(),
        row[1:, :-1].ravel(),
    )
    triangles = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    return mesh_of_triangles(np.column_stack([p, np.sin(p[:, 0]) + 0.3 * p[:, 1]]), triangles)


@pytest.mark.parametrize("pattern", PATTERNS)
def test_every_pattern_lies_on_an_imported_mesh(pattern):
    net = lay(mesh_surface(wavy_mesh()), pattern, (9, 8))
    assert_sound(net)
    assert euler(net) == 1
    assert len(net.loops) == 1
    assert np.abs(net.vertices - net.surface.points(net.uv)).max() < 1e-9


def test_the_nearest_place_of_a_mesh_with_large_and_small_triangles():
    mesh = mesh_of(Solid.cube((10, 10, 10)) + Solid.sphere(0.5, 64).translate((0, 0, 10)))
    surface = charted(mesh)
    at = np.random.default_rng(1).random((200, 3)) * 9 + 0.5
    found = surface.points(surface.closest(at))
    depth = np.minimum(at, 10 - at).min(axis=1)
    ball = np.maximum(np.linalg.norm(at - [0, 0, 10], axis=1) - 0.5, 0)
    assert np.linalg.norm(found - at, axis=1) == pytest.approx(
        np.minimum(depth, np.maximum(ball, depth)), abs=1e-9
    )


@known("foam of two kinds of cells", "all eight of its period have one volume")
def test_all_cells_of_the_foam_have_one_volume_and_two_kinds():
    cube = np.stack(np.meshgrid(*[np.arange(-1, 2)] * 3, indexing="ij"), axis=-1).reshape(-1, 1, 3)
    points = (EIGHT[None] + cube).reshape(-1, 3)
    weights = np.where(np.tile(np.arange(8) < 2, 27), equal_weight(), 0.0)
    home = 13 * 8
    volumes = [power_cell_volume(points, weights, home + k) for k in range(8)]
    assert volumes == approx([1 / 8] * 8, abs=1e-9)


def foam_points(kind, mesh, size, turn, tilt):
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    reach = np.full(3, np.linalg.norm(high - low) / 2 + 2 * size)
    if kind == "equal":
        points, weights = equal_foam(-reach, reach, size)
    else:
        points = scattered_foam(-reach, reach, size, 3, 2)
        weights = np.zeros(len(points))
    return turned_points(points, turn, tilt) + (low + high) / 2, weights


@given(
    st.sampled_from(sorted(BODIES)),
    st.sampled_from(["equal", "scattered"]),
    st.floats(-3, 3),
    st.floats(-3, 3),
    st.floats(0.6, 1.1),
)
@settings(max_examples=10)
def test_a_foam_cut_by_a_body_is_sound_however_it_is_turned(name, kind, turn, tilt, size):
    solid = BODIES[name]()
    mesh = mesh_of(solid)
    fine = mesh_of_triangles(*finer(mesh.vertices, mesh.triangles, size / 5))
    net, owner = cells_cut_by_skin(
        charted(mesh), fine, *foam_points(kind, mesh, size, turn, tilt), sliver=0.03
    )
    assert_on_skin(net, solid.genus())
    assert len(owner) == net.cell_count


@pytest.mark.parametrize("name", SURFACES)
def test_a_foam_is_cut_by_every_surface(name):
    surface = SURFACES[name]()
    along = np.array(surface.lengths)
    size = float(np.sqrt(along.prod() / 60))
    mesh = surface_mesh(surface, (int(along[0] / size * 6), int(along[1] / size * 6)))[0]
    net, _ = cells_cut_by_skin(
        surface, mesh, *foam_points("equal", mesh, size, 0.4, 0.6), sliver=0.03
    )
    assert_sound(net)
    whole = SURFACES[name]()
    tube = whole.closed_u and not whole.degenerate
    assert (euler(net), len(net.loops)) == ((0, 2) if tube else (1, 1))


@known("foam cut by a plane", "vertices as far from three points by power")
def test_vertices_of_a_cut_foam_are_as_far_from_three_of_its_points():
    sheet = SURFACES["flat sheet"]()
    mesh = surface_mesh(sheet, (90, 60))[0]
    points, weights = foam_points("equal", mesh, 0.8, 0.5, 0.4)
    net, _ = cells_cut_by_skin(sheet, mesh, points, weights)
    assert areas(net.vertices, net.corners, net.offsets).sum() == approx(24, rel=1e-9)
    inner = np.setdiff1d(np.arange(len(net.vertices)), net.loop_vertices)
    power = np.sort(((net.vertices[inner, None] - points[None]) ** 2).sum(axis=2) - weights, axis=1)
    held_to(np.median(power[:, 2] - power[:, 0]), 1e-9)
    held_to((power[:, 2] - power[:, 0]).max(), 0.05)


def test_faces_between_creases():
    assert smooth_faces(mesh_of(BODIES["box"]())).max() == 5
    assert smooth_faces(mesh_of(BODIES["slab with a hole"]())).max() == 6
