"""Lines along which planes cut shapes: where they lie, and what of them is round or straight."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.forms import torus
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.paths import Frame2, LinePiece, PlaneCurve
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.shaping.cut_lines import cut_lines, cut_polylines, smooth_path
from leanlattice.core.shaping.facets import facets

from ..conftest import surfaces
from ..known import held_to, known

X, Y, Z = np.eye(3)


def level(height):
    return Frame2(np.array([0.0, 0, height]), X, Y)


def upright(place):
    return Frame2(np.array([0.0, place, 0]), X, Z)


@known("level cuts of a dome of 10 m span and 2 m rise", "circles; lines of one radius within 1 mm")
def test_level_cuts_of_a_dome_are_circles():
    surface = dome(10.0, 2.0, np.zeros(3))
    radius = (25 + 4) / 4
    for height in (0.5, 1.2):
        (path,) = cut_lines(facets(surface).mesh, level(height), surface)
        wanted = np.sqrt(radius**2 - (radius - 2 + height) ** 2)
        assert path.closed
        at = path.derivatives(np.linspace(0, 1, 500))
        held_to(np.linalg.norm(at, axis=1) - wanted, 1e-3)
        line = line_of(PlaneCurve(path, level(height)), 2e-3)
        assert len(line.places) < 14


@known("a torus cut through its axis and square to it", "two circles each")
def test_cuts_of_a_torus():
    surface = torus(np.zeros(3), 3.0, 1.0)
    mesh = facets(surface).mesh
    for frame, radii in ((upright(0.0), [1, 1]), (level(0.0), [4, 2])):
        paths = cut_lines(mesh, frame, surface)
        assert [p.closed for p in paths] == [True, True]
        held_to(np.array([p.length for p in paths]) / (2 * np.pi) - radii, 1e-3)


def test_a_cut_box_has_its_corners_and_straight_sides():
    points = np.array([(x, y, z) for z in (0, 2) for y in (0, 4) for x in (0, 3)], float)
    faces = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    triangles = np.array([t for a, b, c, d in faces for t in ((a, b, c), (a, c, d))])
    mesh = Mesh.of_triangles(points, triangles) if hasattr(Mesh, "of_triangles") else None
    if mesh is None:
        corners = triangles.ravel().astype(np.int32)
        mesh = Mesh(points, corners, np.arange(0, len(corners) + 1, 3, dtype=np.int32))
    (path,) = cut_lines(mesh, level(1.0))
    assert path.closed
    assert all(isinstance(p, LinePiece) for p in path.pieces)
    assert len(path.pieces) == 4
    held_to([path.length - 14, abs(path.signed_area) - 12], 1e-9)
    # A plane through vertices cuts every edge once or not.
    assert len(cut_lines(mesh, level(0.0))) <= 1
    assert cut_lines(mesh, level(2.5)) == []


@given(surfaces(), st.floats(0.1, 0.9), st.floats(0, 3))
def test_lines_lie_on_the_plane_and_the_faces(surface, share, facing):
    mesh = facets(surface).mesh
    normal = np.array([np.cos(facing), np.sin(facing), 0])
    along = mesh.vertices @ normal
    place = along.min() + share * np.ptp(along)
    frame = Frame2(place * normal, np.cross(Z, normal), Z)
    found = cut_polylines(mesh, frame)
    assert found
    for line, closed in found:
        places = frame.lifted(line)
        held_to(places @ normal - place, 1e-9)
        assert not closed or len(line) > 2
    total = sum(np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line, _ in found)
    smooth = sum(path.length for path in cut_lines(mesh, frame))
    assert smooth == pytest.approx(total, rel=0.02)


def test_a_polyline_with_a_corner_keeps_it():
    line = np.array([[0, 0], [1, 0], [2, 0], [2, 1], [2, 2.0]])
    path = smooth_path(line, False)
    assert len(path.pieces) == 2
    assert path.joints == pytest.approx((0.5,))
