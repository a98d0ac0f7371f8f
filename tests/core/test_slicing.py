"""Plane sections of meshes, against the boolean package and closed forms."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.forms import sphere, torus
from leanlattice.core.geometry.meshes import Body, Mesh, mesh_of_triangles
from leanlattice.core.ribs.planes import Planes, parallel
from leanlattice.core.ribs.plates import cut_ribs
from leanlattice.core.ribs.polygons import polygons_of
from leanlattice.core.ribs.slicing import plain_sections
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import as_solid, boolean, hollow, prism

from ..known import held_to, known

UP = np.array([0.0, 0.0, 1.0])
FINE = 1e-5


def block(low, high):
    (x0, y0, z0), (x1, y1, z1) = low, high
    ring = np.array([[x0, y0, 0.0], [x1, y0, 0], [x1, y1, 0], [x0, y1, 0]])
    return prism(ring, [], UP, z0, z1)


def ball(x=0.0):
    return Body(surface_mesh(sphere(np.array([x, 0.0, 0.0]), 1.0), (40, 20))[0])


def beside_each_other(first, second):
    """Two bodies as one mesh, whether they meet or not."""
    a, b = first.mesh, second.mesh
    triangles = np.vstack([a.triangles, b.triangles + len(a.vertices)])
    return Body(mesh_of_triangles(np.vstack([a.vertices, b.vertices]), triangles.astype(np.int32)))


BLOCK = block((0, 0, 0), (2, 1, 1))
OTHER = block((1, 0.4, 0.3), (3, 2, 2))
BODIES = {
    "ring": Body(surface_mesh(torus(np.zeros(3), 3.0, 1.0), (48, 24))[0]),
    "block": BLOCK,
    "two blocks united": boolean([BLOCK, OTHER], "union"),
    "two balls apart": beside_each_other(ball(), ball(2.5)),
}
WITHIN = {
    "a hollow ball": hollow(ball(), 0.2),
    "two blocks over each other": beside_each_other(BLOCK, OTHER),
    "a ball inside out": ball().reversed(),
}


def level(*heights):
    """Planes that face up, y along y."""
    return parallel(UP, np.array([0.0, 1.0, 0.0]), np.array(heights, float))


def by_package(body, planes, k):
    frame = np.stack([planes.x[k], planes.y[k], planes.normals[k]])
    moved = as_solid(body).transform(np.column_stack([frame, -frame @ planes.origins[k]]))
    return shapely.union_all(polygons_of([moved.slice(0.0)])[0])


def tilted(azimuth, rise, off):
    normal = np.array(
        [np.cos(azimuth) * np.cos(rise), np.sin(azimuth) * np.cos(rise), np.sin(rise)]
    )
    planes = parallel(normal, np.array([0.1, 0.2, 1.0]), np.array([off, off + 0.01]))
    # Places in a plane are told from where it begins.
    return replace(planes, origins=planes.origins + 0.7 * planes.x - 0.2 * planes.y)


@settings(max_examples=60)
@given(
    st.sampled_from(sorted(BODIES)), st.floats(-3.1, 3.1), st.floats(-1.5, 1.5), st.floats(-2, 3)
)
def test_sections_are_those_of_the_boolean_package(name, azimuth, rise, off):
    body, planes = BODIES[name], tilted(azimuth, rise, off)
    for k, pieces in enumerate(plain_sections(body.mesh, planes, FINE)):
        wanted = by_package(body, planes, k)
        if pieces is None:
            assert shapely.get_num_interior_rings(wanted) or len(shapely.get_parts(wanted)) > 1
            continue
        found = shapely.union_all(pieces)
        # What thinning takes off lies within so much of the outline.
        slack = FINE * (wanted.length + found.length) + 1e-7
        assert found.symmetric_difference(wanted).area <= slack
        areas = [piece.area for piece in pieces]
        # Those that are alike but for rounding come in either order.
        assert all(a >= b - 1e-9 for a, b in itertools.pairwise(areas))


@known("a ring of 3 m and 1 m cut by planes through its axis", "two polygons of 24 corners")
def test_planes_through_vertices_cut_what_is_there():
    ring = BODIES["ring"]
    planes = parallel(np.array([0.0, 1.0, 0.0]), UP, np.zeros(1))
    (pieces,) = plain_sections(ring.mesh, planes, FINE)
    assert [len(p.exterior.coords) - 1 for p in pieces] == [24, 24]
    wanted = 24 / 2 * np.sin(2 * np.pi / 24)
    held_to([p.area - wanted for p in pieces], 1e-9)


def test_flat_faces_are_cut_into_as_many_corners_as_they_have():
    faces = plain_sections(BLOCK.mesh, level(0.0, 0.3, 1.0, 1.2), FINE)
    assert [len(pieces) for pieces in faces] == [1, 1, 0, 0], "what lies in a plane is not above it"
    for pieces in faces[:2]:
        assert len(pieces[0].exterior.coords) == 4 + 1
        assert pieces[0].equals(shapely.box(0, 0, 2, 1))


@pytest.mark.parametrize("name", WITHIN)
def test_what_lies_in_each_other_is_left_to_the_package(name):
    (pieces,) = plain_sections(WITHIN[name].mesh, level(0.5), FINE)
    assert pieces is None


def test_an_open_mesh_and_one_whose_edges_are_shared_by_many_are_left_to_the_package():
    open_mesh = mesh_of_triangles(BLOCK.mesh.vertices, BLOCK.mesh.triangles[:-1])
    sections = [plain_sections(open_mesh, level(h), FINE)[0] for h in (0.2, 0.5, 0.8)]
    assert None in sections
    twice = np.vstack([BLOCK.mesh.triangles, BLOCK.mesh.triangles])
    shared = Mesh(BLOCK.mesh.vertices, twice.ravel(), np.arange(0, 3 * len(twice) + 1, 3))
    assert plain_sections(shared, level(0.5), FINE) == [None]


def test_planes_that_face_different_ways_are_cut_each_in_its_own_axes():
    one, two = tilted(0.3, 0.2, 0.5), tilted(1.9, -0.4, 0.2)
    both = Planes(*(np.vstack([getattr(p, n) for p in (one, two)]) for n in ("origins", "x", "y")))
    apart = [s for p in (one, two) for s in plain_sections(BODIES["block"].mesh, p, FINE)]
    together = plain_sections(BODIES["block"].mesh, both, FINE)
    for a, b in zip(apart, together, strict=True):
        assert [p.wkb for p in a] == [p.wkb for p in b]


def test_thinned_outlines_stay_within_so_much_of_what_they_were():
    body = ball()
    exact, thin = (plain_sections(body.mesh, level(0.3), f)[0][0] for f in (1e-12, 0.02))
    assert len(thin.exterior.coords) < 0.8 * len(exact.exterior.coords)
    assert shapely.hausdorff_distance(thin.exterior, exact.exterior) <= 0.02 + 1e-9


def test_hollow_bodies_keep_their_openings_in_ribs():
    (rib,) = cut_ribs(WITHIN["a hollow ball"], level(0.1), "A", 0.012).ribs
    assert len(rib.shape.interiors) == 1
