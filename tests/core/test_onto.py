"""Bodies with curved faces: their volumes and areas, places on them, and what triangles stand for."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.mapped import Affine
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.geometry.patches import Wall, patch
from leanlattice.core.geometry.paths import ArcPiece, Frame2, LinePiece, Path
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.shaping.faces import carried_face, deviation, stands_for_curves
from leanlattice.core.shaping.onto import divided, finer, measures, off_faces
from leanlattice.core.shaping.solids import boolean, cut_by_plane, hollow, prism, thicken
from leanlattice.core.shaping.stacks import bounded_by, extruded_body

from ..known import approx, known

PI = np.pi
ORIGIN = np.zeros(3)
GROUND = Frame2(ORIGIN, np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))


def circle(radius, at=(0.0, 0.0)):
    at = np.array(at, float)
    return Path((ArcPiece(at, radius, 0.0, PI), ArcPiece(at, radius, PI, PI)), True)


def rectangle(width, depth):
    corners = np.array([[0, 0], [width, 0], [width, depth], [0, depth]], float)
    return Path(
        tuple(LinePiece(a, b) for a, b in zip(corners, np.roll(corners, -1, 0), strict=True)), True
    )


def extruded(outlines, taper=0.0):
    return extruded_body(outlines, GROUND, 3.0, np.zeros(2), taper, 0.0, 0.0, 0.01)[0]


def ball(radius=3.0):
    return bounded_by(forms.sphere(ORIGIN, radius))


def drilled():
    return boolean(
        [ball(), bounded_by(forms.cylinder(np.array([0, 0, -4.0]), 1.0, 8.0))], "difference"
    )


SHELL = dome(8.0, 2.0, ORIGIN)
R = SHELL.radius
MEASURED = {
    "ball": (ball, 36 * PI, 36 * PI),
    "half ellipsoid": (
        lambda: bounded_by(forms.ellipsoid(ORIGIN, np.array([3.0, 2.0, 1.0]), 0.0)), 4 * PI, None
    ),
    "cylinder": (lambda: bounded_by(forms.cylinder(ORIGIN, 2.0, 3.0)), 12 * PI, 20 * PI),
    "cone": (
        lambda: bounded_by(forms.cone(ORIGIN, 3.0, 0.0, 4.0)), 12 * PI, 24 * PI
    ),
    "torus": (lambda: bounded_by(forms.torus(ORIGIN, 5.0, 1.5)), 22.5 * PI**2, 30 * PI**2),
    "tube": (lambda: extruded([circle(2.0), circle(1.0)]), 9 * PI, 24 * PI),
    "tapered disc": (
        lambda: extruded([circle(2.0)], np.arctan(1 / 3)), 7 * PI, 5 * PI + 3 * PI * np.sqrt(10)
    ),
    "shell between two spheres": (
        lambda: thicken(SHELL, 0.2, 0.3),
        ((R + 0.2) ** 3 - (R - 0.3) ** 3) * 2 * PI / 3 * (1 - np.cos(SHELL.half_angle)),
        None,
    ),
    "ball with a hole": (drilled, 4 / 3 * PI * 8**1.5, None),
    "ball cut off": (
        lambda: cut_by_plane(ball(), np.array([0, 0, 1.0]), np.array([0, 0, 1.0])),
        PI * 4 * (3 - 2 / 3),
        PI * 12 + PI * 8,
    ),
}  # fmt: skip


@known("volumes and areas of bodies with curved faces", "closed forms of balls, cones, rings, caps")
@pytest.mark.parametrize("name", MEASURED)
def test_bodies_measure_what_their_faces_do(name):
    make, volume, area = MEASURED[name]
    found = measures(make())
    assert found[0] == approx(volume, rel=1e-5)
    if area is not None:
        assert found[1] == approx(area, rel=1e-5)


def test_dividing_brings_triangles_four_times_as_near():
    body = ball()
    once = divided(body)
    assert deviation(once) == pytest.approx(deviation(body) / 4, rel=0.02)
    assert len(once.mesh.triangles) == 4 * len(body.mesh.triangles)
    assert not once.mesh.loops
    assert np.linalg.norm(once.mesh.vertices, axis=1) == pytest.approx(3.0, abs=1e-9)
    # No further than is asked for, and no more triangles than may be.
    assert finer(body, 0.002, 10**6).face_of.shape == once.face_of.shape
    assert finer(body, 1e-9, 5 * len(body.mesh.triangles)).face_of.shape == once.face_of.shape
    assert finer(body, 0.01, 10**6) is body


def test_corners_of_ends_stay_in_their_planes_when_divided():
    once = divided(bounded_by(forms.cylinder(ORIGIN, 2.0, 3.0)))
    at = once.mesh.vertices[:, 2]
    ends = np.unique(once.mesh.triangles[once.face_of < 0])
    assert np.minimum(np.abs(at[ends]), np.abs(at[ends] - 3.0)) == pytest.approx(0.0, abs=1e-12)
    rim = once.mesh.vertices[np.intersect1d(ends, once.mesh.triangles[once.face_of == 0])]
    assert len(rim) == 2 * 2 * 48
    assert np.hypot(*rim.T[:2]) == pytest.approx(2.0, abs=1e-9)


def test_places_off_a_body_are_told_by_its_faces_and_not_by_its_triangles():
    body = bounded_by(forms.cylinder(ORIGIN, 2.0, 3.0))
    a = np.linspace(0, 2 * PI, 37)
    wall = np.column_stack([2 * np.cos(a), 2 * np.sin(a), np.full(37, 1.3)])
    top = np.column_stack([1.999 * np.cos(a), 1.999 * np.sin(a), np.full(37, 3.0)])
    assert off_faces(body, wall) == pytest.approx(0.0, abs=1e-9)
    assert off_faces(body, wall * [1.001, 1.001, 1]) == pytest.approx(0.002, rel=1e-6)
    # Between the chords of the rim and the rim itself is no triangle, but the end reaches there.
    assert off_faces(body, top) == pytest.approx(0.0, abs=1e-9)
    assert off_faces(body, top + [0, 0, 0.0005]) == pytest.approx(0.0005, rel=1e-6)
    # What lies on the chords does not lie on the body.
    chord = np.array([[2 * np.cos(PI / 48), 0, 1.0]]) @ np.array(
        [[np.cos(PI / 48), np.sin(PI / 48), 0], [0, 1, 0], [0, 0, 1]]
    )
    assert off_faces(body, chord) == pytest.approx(2 - 2 * np.cos(PI / 48), rel=1e-3)


def test_it_is_known_which_triangles_stand_for_something_round():
    block = prism(
        np.array([[0, 0, 0], [4, 0, 0], [4, 3, 0], [0, 3, 0.0]]), [], np.array([0, 0, 1.0]), 0, 2
    )
    assert not stands_for_curves(block)
    assert not stands_for_curves(ball())
    assert not stands_for_curves(drilled())
    assert stands_for_curves(Body(ball().mesh))
    assert stands_for_curves(hollow(ball(), 0.5))


def test_walls_of_straight_outlines_are_no_curved_faces():
    assert extruded([rectangle(4.0, 3.0)]).faces == ()
    assert len(extruded([rectangle(8.0, 7.0), circle(1.0, (4, 3))]).faces) == 1


def test_faces_go_with_their_body_where_they_still_are_what_they_were():
    outer, inner = thicken(SHELL, 0.2, 0.3).faces[:2]
    turned = Affine.turning(np.array([1.0, 2, 3]), 0.7, np.array([4.0, 5, 6]))
    for face in (outer, inner):
        moved = carried_face(face, turned)
        assert moved.offset == pytest.approx(face.offset)
        at = turned.points(face.at(np.array([[0.3, 0.4]])))
        assert moved.nearest(at)[1] == pytest.approx(at, abs=1e-9)
        half = carried_face(face, Affine.scaling(np.full(3, 0.5), ORIGIN))
        assert half.offset == pytest.approx(face.offset / 2)
    stretch = Affine.scaling(np.array([1.0, 1, 2]), ORIGIN)
    assert carried_face(outer, stretch) is None
    assert carried_face(ball().faces[0], stretch) is not None


def test_patches_and_walls_have_the_derivatives_of_what_they_are_of():
    base = forms.cone(ORIGIN, 3.0, 1.0, 4.0)
    part = patch(base, np.array([0.25, 0.2]), np.array([0.5, 0.7]))
    at = np.array([[0.0, 0.3], [0.5, 0.5], [1.0, 0.9]])
    whole = np.array([0.25, 0.2]) + np.array([0.25, 0.5]) * at
    assert part.points(at) == pytest.approx(base.points(whole))
    assert part.derivatives(at, 2, 1) == pytest.approx(base.derivatives(whole, 2, 1) / 32, abs=1e-6)
    assert not part.closed_u
    assert base.closed_u
    wall = Wall(base, "v0", -0.1, 0.3, True)
    along = wall.points(np.array([[0.2, 0.0], [0.2, 1.0]]))
    assert np.linalg.norm(along[1] - along[0]) == pytest.approx(0.4)
    slope = wall.derivatives(np.array([[0.2, 0.5]]), 0, 1)[0]
    assert slope == pytest.approx(along[1] - along[0], abs=1e-8)
