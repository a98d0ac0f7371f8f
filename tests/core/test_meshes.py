"""Meshes: curvature, flattening, repair, drainage, crossings, and bodies made and changed."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.curvature import vertex_curvatures
from leanlattice.core.geometry.flatten import flatten_least_distortion, flatten_round, turned_over
from leanlattice.core.geometry.meshes import (
    Body,
    Mesh,
    MeshError,
    mesh_of_triangles,
    pieces,
    used_only,
    weld,
)
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.patterns.lay import lay
from leanlattice.core.shaping.brought import ReadProblem, repaired
from leanlattice.core.shaping.crossing import self_crossings
from leanlattice.core.shaping.cutting import CutError, cut_in_plan, cut_where
from leanlattice.core.shaping.drainage import ponds
from leanlattice.core.shaping.easing import eased
from leanlattice.core.shaping.facets import creased, facets, feature_edges, surface_mesh
from leanlattice.core.shaping.grounds import ground_of_heights, ground_of_picture
from leanlattice.core.shaping.solids import (
    SolidError,
    boolean,
    cut_by_plane,
    hollow,
    offset_places,
    prism,
    refined,
    thicken,
)

from ..conftest import roof
from ..known import approx, held_to, known

O = np.zeros(3)  # noqa: E741
Z = np.array([0, 0, 1.0])


def ball(radius=2.0, centre=O, bays=(80, 40)):
    return Body(surface_mesh(forms.sphere(np.asarray(centre, float), radius), bays)[0])


def box(x=3.0, y=3.0, z=3.0, at=O):
    ring = np.array([[0, 0, 0], [x, 0, 0], [x, y, 0], [0, y, 0.0]]) + at
    return prism(ring, [], Z, at[2], at[2] + z)


def upper(body, level):
    t = body.mesh.triangles
    return mesh_of_triangles(
        *used_only(body.mesh.vertices, t[body.mesh.vertices[t][:, :, 2].min(axis=1) > level])
    )


@known("discrete curvature", "of a ball 1/r², 1/r; Gauss–Bonnet of a torus")
def test_discrete_curvature_of_a_ball_and_gauss_bonnet():
    mesh = ball(2.0, bays=(120, 60)).mesh
    gauss, mean = vertex_curvatures(mesh).T
    inner = np.abs(mesh.vertices[:, 2]) < 1.6
    assert gauss[inner] == approx(np.full(inner.sum(), 0.25), rel=0.02)
    assert mean[inner] == approx(np.full(inner.sum(), 0.5), rel=0.02)
    torus = surface_mesh(forms.torus(O, 5, 1.5))[0]
    defect = 2 * np.pi * len(torus.vertices) - torus.corner_angles.sum()
    assert defect == approx(0.0, abs=1e-8), "Gauss–Bonnet: no curvature in all"


@known("flattened vault", "every edge keeps its length")
def test_a_developable_mesh_flattens_without_distortion():
    mesh, _ = surface_mesh(forms.barrel(O, 10, 4.9, 18), (40, 40))
    flat = flatten_least_distortion(mesh)
    t = mesh.triangles
    for k in range(3):
        a, b = t[:, k], t[:, (k + 1) % 3]
        real = np.linalg.norm(mesh.vertices[a] - mesh.vertices[b], axis=1)
        assert np.linalg.norm(flat[a] - flat[b], axis=1) == approx(real, rel=4e-3)


@known("flattened caps, with holes or without", "no triangle turns over")
@pytest.mark.parametrize("holes", [0, 2])
def test_flattening_never_turns_a_triangle_over(holes):
    mesh = upper(ball(2.0, bays=(40, 20)), -1.2)
    if holes:
        middles = mesh.vertices[mesh.triangles].mean(axis=1)
        away = np.minimum(
            *(np.linalg.norm(middles - c, axis=1) for c in ([0, 1.5, 1.3], [1.5, 0, 1.3]))
        )
        mesh = mesh_of_triangles(*used_only(mesh.vertices, mesh.triangles[away > 0.5]))
        assert len(mesh.loops) == 3
    for flat in (flatten_round(mesh), flatten_least_distortion(mesh)):
        assert not turned_over(flat, mesh.triangles).any()
    net = lay(mesh_surface(mesh), "diagrid", (20, 20))
    assert len(net.loops) == 1 + holes
    assert len(net.vertices) - len(net.edges) + net.cell_count == 1 - holes


def test_points_of_a_mesh_surface_lie_on_it_and_are_found_again():
    surface = mesh_surface(upper(ball(), 0.3))
    net = lay(surface, "triangles", (14, 14))
    assert np.abs(np.linalg.norm(net.vertices, axis=1) - 2).max() < 0.01
    assert (
        np.linalg.norm(surface.points(surface.closest(net.vertices)) - net.vertices, axis=1).max()
        < 1e-9
    )
    assert np.einsum("ij,ij->i", net.normals, net.vertices).min() > 1.9
    uv = np.array([[0.4, 0.55]])
    h = 1e-7
    difference = (surface.points(uv + [h, 0]) - surface.points(uv - [h, 0])) / (2 * h)
    assert difference == pytest.approx(surface.derivatives(uv, 1, 0), rel=1e-4, abs=1e-6)


def test_a_closed_mesh_without_skin_is_taken_from_above():
    block = box()
    top = mesh_surface(block.mesh)
    assert top.area == pytest.approx(9)
    assert top.normals(np.array([[0.5, 0.5]]))[0] == pytest.approx([0, 0, 1])
    with pytest.raises(MeshError, match="no faces"):
        mesh_surface(mesh_of_triangles(np.zeros((0, 3)), np.zeros((0, 3), np.int32)))
    wall = mesh_of_triangles(
        np.array([[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1.0]]), np.array([[0, 1, 2], [0, 2, 3]])
    )
    with pytest.raises(MeshError, match="stand upright"):
        mesh_surface(wall, "plan")
    assert mesh_surface(wall).area == pytest.approx(1)


@known(
    "repair of loose faces",
    "volume of the ball they came from; holes, doubles, strays counted",
)
@given(st.integers(0, 10_000), st.floats(0.0, 0.4))
def test_loose_triangles_are_made_sound_again(seed, share):
    rng = np.random.default_rng(seed)
    body = ball(2.0, bays=(16, 8))
    t = body.mesh.triangles.copy()
    turned = rng.random(len(t)) < share
    t[turned] = t[turned][:, ::-1]
    hole = int(rng.integers(len(t)))
    t = np.delete(t, hole, axis=0)
    loose = body.mesh.vertices[t].reshape(-1, 3) + rng.normal(0, 1e-9, (3 * len(t), 3))
    triangles = np.vstack([np.arange(len(loose)).reshape(-1, 3), [[0, 1, 2], [4, 4, 5]]]).astype(
        np.int32
    )
    whole, done = repaired(loose, triangles)
    assert isinstance(whole, Body)
    assert whole.volume == approx(body.volume, rel=0.02)
    assert done.doubled == 1
    assert done.without_area == 1
    assert len(done.holes) == 1
    assert "1 hole closed" in done.sentences()


def test_repair_of_crowded_edges_strays_and_nothing():
    body = box()
    v, t = body.mesh.vertices, body.mesh.triangles
    fin = np.vstack([v, [[1.5, 1.5, 5.0]]])
    a, b = t[0][:2]
    whole, done = repaired(fin, np.vstack([t, [[a, b, len(v)]]]).astype(np.int32))
    assert isinstance(whole, Body)
    assert len(done.crowded) == 1
    crumb = np.vstack([v, np.array([[9, 9, 9], [9.01, 9, 9], [9, 9.01, 9.0]])])
    whole, done = repaired(
        crumb, np.vstack([t, [[len(v), len(v) + 1, len(v) + 2]]]).astype(np.int32)
    )
    assert done.stray == 1
    assert isinstance(whole, Body)
    inside_out, done = repaired(v, t[:, ::-1])
    assert isinstance(inside_out, Body)
    assert inside_out.volume == pytest.approx(27)
    assert done.turned == len(t)
    with pytest.raises(ReadProblem, match="without area"):
        repaired(np.zeros((3, 3)), np.array([[0, 1, 2]], np.int32))
    open_box, done = repaired(v, t[2:], close_holes=False)
    assert isinstance(open_box, Mesh)
    assert done.left_open


def test_weld_and_pieces():
    v, number = weld(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1e-9], [1, 0, 0.0]]), 1e-6)
    assert len(v) == 2
    assert number.tolist() == [0, 1, 0, 1]
    two = boolean([box(), box(at=np.array([9.0, 0, 0]))], "union")
    assert pieces(two.mesh.triangles, len(two.mesh.vertices)).max() == 1


@known("water in a bowl", "as deep as its rim is above its bottom")
@pytest.mark.parametrize("depth", [0.2, 1.0])
def test_water_stands_in_a_bowl_as_deep_as_its_rim(depth):
    axis = np.linspace(-3, 3, 61)
    x, y = np.meshgrid(axis, axis)
    r = np.hypot(x - 0.5, y)
    points = np.column_stack(
        [x.ravel(), y.ravel(), (0.1 * x - depth * np.exp(-((r / 0.9) ** 2))).ravel()]
    )
    surface, _ = ground_of_heights(points)
    (pond,) = ponds(surface.mesh, False)
    held_to(np.hypot(pond.at[0] - 0.5, pond.at[1]), 0.3)
    # By symmetry the water leaves over the saddle straight down the slope, the highest place on the line that way.
    along = np.linspace(-3, 0.5, 100_001)
    spill = (0.1 * along - depth * np.exp(-(((along - 0.5) / 0.9) ** 2))).max()
    bottom = points[np.hypot(points[:, 0] - 0.5, points[:, 1]) < 0.9, 2].min()
    assert pond.depth == approx(spill - bottom, abs=0.002)
    assert not ponds(surface_mesh(roof())[0], False), "a vault sheds its water"


def test_water_stands_in_a_dent_of_a_body_but_not_in_a_closed_hollow():
    ring = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0.0]])
    block = prism(ring, [], np.array([0, 0, 1.0]), 0, 1)
    dented = boolean([block, ball(0.5, (0, 0, 1))], "difference")
    (pond,) = ponds(dented.mesh, True)
    assert pond.depth == pytest.approx(0.5, abs=0.01)
    assert ponds(hollow(block, 0.2).mesh, True) == []


def test_crossings_are_found_where_they_are():
    one, two = ball(2.0), ball(2.0, [2.5, 0, 0])
    vertices = np.vstack([one.mesh.vertices, two.mesh.vertices])
    triangles = np.vstack([one.mesh.triangles, two.mesh.triangles + len(one.mesh.vertices)])
    places = self_crossings(mesh_of_triangles(vertices, triangles))
    assert len(places)
    assert places[:, 0] == pytest.approx(np.full(len(places), 1.25), abs=0.05)
    assert not len(self_crossings(one.mesh))
    assert not len(self_crossings(surface_mesh(forms.torus(O, 5, 1.5))[0]))


bodies = st.tuples(*[st.floats(-1.5, 1.5)] * 3, st.floats(0.6, 1.8))


@known("bodies at random", "V(A ∪ B) + V(A ∩ B) = V(A) + V(B), V(A − B) + V(A ∩ B) = V(A)")
@given(bodies, bodies)
def test_volumes_of_unions_differences_and_intersections_agree(a, b):
    one, two = ball(a[3], a[:3], (24, 12)), box(b[3], b[3], b[3], np.array(b[:3]))
    union, difference = boolean([one, two], "union"), boolean([one, two], "difference")
    shared = boolean([one, two], "intersection")
    assert union.volume + shared.volume == approx(one.volume + two.volume, rel=1e-9)
    assert difference.volume + shared.volume == approx(one.volume, rel=1e-9)
    assert not union.mesh.loops


@known(
    "half ball; hollowed box and ball",
    "closed forms; the largest wall that fits is half the side",
)
def test_a_half_ball_by_a_plane_and_a_wall_by_hollowing():
    half = cut_by_plane(ball(), np.array([1.0, 1, 0]), O)
    assert half.volume == approx(ball().volume / 2, rel=1e-3)
    shell = hollow(box(), 0.25)
    assert shell.volume == approx(27 - 2.5**3)
    with pytest.raises(SolidError) as error:
        hollow(box(), 1.6)
    assert error.value.most == approx(1.5, abs=0.01), "half the side"
    assert hollow(ball(), 0.5).volume == approx(4 / 3 * np.pi * (8 - 1.5**3), rel=0.01)
    assert offset_places(box().mesh, 0.5).min(axis=0) == approx([-0.5] * 3), "mitred at the corners"
    assert refined(box(), 0.5).volume == approx(27)
    open_mesh = Body(mesh_of_triangles(np.eye(3), np.array([[0, 1, 2]])))
    with pytest.raises(SolidError, match="not closed"):
        boolean([open_mesh, box()], "union")


@known("thickened sphere and vault", "Steiner")
@pytest.mark.parametrize(("out", "inner"), [(0.3, 0.0), (0.0, 0.3), (0.15, 0.15)])
def test_thickened_shells_have_steiners_volume(out, inner):
    sphere = thicken(forms.sphere(O, 2), out, inner)
    assert sphere.volume == approx(4 / 3 * np.pi * ((2 + out) ** 3 - (2 - inner) ** 3), rel=5e-3)
    vault = thicken(forms.barrel(O, 6, 3, 10), out, inner)
    assert vault.volume == approx(np.pi / 2 * ((3 + out) ** 2 - (3 - inner) ** 2) * 10, rel=2e-3)
    assert not vault.mesh.loops
    assert not len(self_crossings(vault.mesh))


def test_cut_in_plan_follows_the_outline_and_leaves_the_rest():
    vault = forms.barrel(O, 10, 3, 20)
    radius = (25 + 9) / 6
    ring = np.array([[-3, -6], [3, -6], [3, 6], [-3, 6.0]])
    inside, outside = cut_in_plan(vault, ring, True), cut_in_plan(vault, ring, False)
    assert inside.area == pytest.approx(2 * np.arcsin(3 / radius) * radius * 12, rel=1e-6)
    assert inside.area + outside.area == pytest.approx(vault.area, rel=1e-6)
    net = lay(inside, "quads", (12, 12))
    corners = np.array([[-3, -6], [3, 6.0]])
    assert (
        np.linalg.norm(net.vertices[:, None, :2] - corners[None], axis=2).min(axis=0).max() < 1e-6
    ), "corners are kept"
    assert len(lay(outside, "diagrid", (16, 16)).loops) == 2
    dome = cut_in_plan(forms.ellipsoid(O, np.full(3, 5.0), 0.0), ring[:, ::-1] / 3, True)
    cap = shapely.Polygon(ring[:, ::-1] / 3)
    assert cap.area < dome.area < 1.2 * cap.area
    assert len(lay(dome, "quads", (8, 8)).loops) == 1, "no seam is left where it closed"
    with pytest.raises(CutError, match="hangs over itself"):
        cut_in_plan(forms.barrel(O, 4, 3.9, 5), ring, True)


@known("parts of a surface on either side of a plane", "add up to it")
@given(st.floats(-0.9, 0.9), st.floats(0, 6.2))
def test_parts_on_either_side_of_a_plane_add_up(level, turn):
    surface = forms.barrel(O, 8, 3, 8)
    normal = np.array([np.cos(turn), np.sin(turn), 0.3])
    parts = []
    for sign in (1, -1):
        try:
            parts.append(
                cut_where(
                    surface, lambda p, sign=sign: sign * ((p - [0, 0, 2]) @ normal - level)
                ).area
            )
        except CutError:
            parts.append(0.0)
    assert sum(parts) == approx(surface.area, rel=1e-3)


@pytest.mark.parametrize("level", [-0.7, 0.0, 0.9])
def test_a_part_of_a_sphere_has_no_seam(level):
    cap = cut_where(forms.sphere(O, 2), lambda p: p[:, 2] - level)
    assert cap.area == pytest.approx(2 * np.pi * 2 * (2 - level), rel=3e-3)
    assert len(cap.mesh.loops) == 1


def test_creases_are_told_from_smooth_bends():
    vertex, normals, triangles = creased(box().mesh)
    assert len(vertex) == 24, "a corner of a box has three normals"
    assert np.abs(normals).max(axis=1) == pytest.approx(np.ones(24))
    assert len(feature_edges(box().mesh)) == 12
    assert triangles.shape == box().mesh.triangles.shape
    assert not len(feature_edges(ball().mesh))
    f = facets(forms.barrel(O, 10, 5, 6))
    assert np.degrees(f.slopes).max() == pytest.approx(90, abs=0.01)
    assert f.curvatures[:, 1] == pytest.approx(np.full(len(f.points), 0.1))


def test_easing_keeps_volume_and_border():
    rough = ball(2.0, bays=(40, 20)).mesh
    noisy = rough.with_vertices(
        rough.vertices * (1 + np.random.default_rng(3).normal(0, 0.02, (len(rough.vertices), 1)))
    )
    out = noisy.with_vertices(eased(noisy, 30, False))
    assert Body(out).volume == pytest.approx(Body(noisy).volume, rel=0.04)
    assert np.std(np.linalg.norm(out.vertices, axis=1)) < 0.4 * np.std(
        np.linalg.norm(noisy.vertices, axis=1)
    )
    flat, _ = surface_mesh(roof())
    kept = eased(flat, 5, True)
    border = np.concatenate(flat.loops)
    assert kept[border] == pytest.approx(flat.vertices[border])


def test_ground_passes_through_its_heights_and_refuses_what_is_none():
    rng = np.random.default_rng(2)
    points = rng.random((400, 3)) * [50, 30, 2]
    surface, doubled = ground_of_heights(np.vstack([points, points[:3] - [0, 0, 0.5]]))
    assert doubled == 3
    inner = points[(np.abs(points[:, 0] - 25) < 20) & (np.abs(points[:, 1] - 15) < 10)]
    found = surface.points(surface.closest(inner))
    assert np.abs(found - inner).max() < 1e-9
    with pytest.raises(ReadProblem, match="three or more"):
        ground_of_heights(points[:2])
    with pytest.raises(ReadProblem, match="one line"):
        ground_of_heights(np.column_stack([np.arange(9.0)] * 3))
    grey = np.tile(np.linspace(0, 1, 40), (20, 1))
    ramp = ground_of_picture(grey, 39.0, 10.0, 14.0)
    p = ramp.points(np.random.default_rng(1).random((50, 2)))
    assert p[:, 2] == pytest.approx(10 + 4 * p[:, 0] / 39, abs=1e-9)
    assert ramp.real == pytest.approx((39, 19))
