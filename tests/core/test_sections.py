"""Sections of bodies with curved faces: on these to a hair's breadth, whatever their triangles."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.bends import Bend
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.ribs.planes import evenly, parallel
from leanlattice.core.ribs.plates import cut_ribs
from leanlattice.core.ribs.polygons import with_corners_at
from leanlattice.core.ribs.sections import SAGITTA
from leanlattice.core.ribs.spines import Bends
from leanlattice.core.shaping.onto import off_faces
from leanlattice.core.shaping.solids import boolean, cut_by_plane, thicken
from leanlattice.core.shaping.stacks import bounded_by

from ..known import held_to, known

UP = np.array([0.0, 0.0, 1.0])
WITHIN = 5e-5
"""What sections are held to, in metres."""


def outlines(ribs):
    """Corners of ribs and middles of the edges between them, in space."""
    corners, middles = [], []
    for rib in ribs:
        for ring in (rib.shape.exterior, *rib.shape.interiors):
            flat = np.asarray(ring.coords)
            corners.append(rib.places(flat[:-1]))
            middles.append(rib.places((flat[:-1] + flat[1:]) / 2))
    return np.vstack(corners), np.vstack(middles)


def cut(body, normal, number=7):
    unit = np.asarray(normal, float) / np.linalg.norm(normal)
    along = body.mesh.vertices @ unit
    return cut_ribs(
        body, parallel(unit, UP, evenly(along.min(), along.max(), number)), "A", 0.01
    ).ribs


@known("ribs of a ball of 3 m", "all corners on it, and all chords within 0.05 mm (here in m)")
@pytest.mark.parametrize("normal", [(1, 0, 0), (0, 0, 1), (3, -2, 1)])
def test_ribs_of_a_ball_lie_on_it(normal):
    corners, middles = outlines(cut(bounded_by(forms.sphere(np.zeros(3), 3.0)), normal))
    held_to(np.linalg.norm(corners, axis=1) - 3.0, 1e-8)
    held_to(np.linalg.norm(middles, axis=1) - 3.0, WITHIN)


@known("ribs of a ball with a hole through it", "rings between the ball and the hole, in m")
def test_sections_through_a_hole_keep_to_both_faces():
    ball = bounded_by(forms.sphere(np.zeros(3), 3.0))
    hole = bounded_by(forms.cylinder(np.array([0, 0, -4.0]), 1.0, 8.0))
    body = boolean([ball, hole], "difference")
    corners, middles = outlines(cut(body, (0.2, 0.1, 1)))
    for places, limit in ((corners, 1e-8), (middles, WITHIN)):
        off = np.abs(np.linalg.norm(places, axis=1) - 3.0)
        held_to(np.minimum(off, np.abs(np.hypot(*places.T[:2]) - 1.0)), limit)
    assert max(len(r.shape.interiors) for r in cut(body, (0.2, 0.1, 1))) == 1


FORMS = {
    "cylinder": lambda: bounded_by(forms.cylinder(np.zeros(3), 2.0, 3.0)),
    "cone": lambda: bounded_by(forms.cone(np.zeros(3), 3.0, 0.0, 4.0)),
    "torus": lambda: bounded_by(forms.torus(np.zeros(3), 4.0, 1.2)),
    "half ellipsoid": lambda: bounded_by(
        forms.ellipsoid(np.zeros(3), np.array([3.0, 2.0, 1.5]), 0.0)
    ),
    "shell": lambda: thicken(dome(10.0, 3.0, np.zeros(3)), 0.2, 0.1),
    "vault": lambda: thicken(forms.barrel(np.zeros(3), 6.0, 2.0, 8.0), 0.0, 0.3),
    "cut ball": lambda: cut_by_plane(
        bounded_by(forms.sphere(np.zeros(3), 2.0)), np.array([1.0, 1, 2]), np.array([0, 0, 0.5])
    ),
}


@known("ribs of forms, shells and cut bodies at any slope", "chords within 0.05 mm (here in m)")
@pytest.mark.parametrize("name", FORMS)
@given(st.floats(-1, 1), st.floats(0, 360))
@settings(max_examples=8, deadline=None)
def test_sections_of_any_slope_follow_the_faces(name, height, turn):
    body, a = FORMS[name](), np.radians(turn)
    side = np.sqrt(1 - height * height)
    ribs = cut(body, (side * np.cos(a), side * np.sin(a), height), 3)
    corners, middles = outlines(ribs)
    held_to(off_faces(body, corners), 1e-6)
    held_to(off_faces(body, middles), WITHIN)
    assert all(r.shape.is_valid for r in ribs)


def test_a_plane_that_all_but_touches_a_rim_is_cut_as_it_is():
    """The triangles of the inside are met in one facet, its face at two far places."""
    body = thicken(dome(12.0, 3.0, np.zeros(3)), 0.3, 0.0)
    ribs = cut(body, (-0.6, 0.5, 0.3), 20)
    held_to(off_faces(body, outlines(ribs)[0]), 1e-6)
    assert len(ribs) == 20


def test_bent_ribs_lie_on_the_body_all_along():
    body = bounded_by(forms.sphere(np.zeros(3), 3.0))
    angle = np.linspace(-0.5, 0.5, 9)
    line = np.column_stack([5 * np.sin(angle), 5 * np.cos(angle) - 5.0])
    line[0] += 3 * (line[0] - line[1]) / np.linalg.norm(line[0] - line[1])
    line[-1] += 3 * (line[-1] - line[-2]) / np.linalg.norm(line[-1] - line[-2])
    (rib,) = cut_ribs(body, Bends((Bend(line),)), "A", 0.01).ribs
    corners, middles = outlines([rib])
    held_to(np.linalg.norm(corners, axis=1) - 3.0, 5e-6)
    held_to(np.linalg.norm(middles, axis=1) - 3.0, WITHIN)


def test_chords_are_no_more_than_they_need_be():
    """A circle of radius R within s of its chords has π / √(2 s / R) of them."""
    (rib,) = cut(bounded_by(forms.sphere(np.zeros(3), 3.0)), (0, 0, 1), 1)
    least = np.pi / np.sqrt(2 * SAGITTA / 3.0)
    assert least <= len(rib.shape.exterior.coords) - 1 <= 1.2 * least


def test_sections_of_triangles_alone_stay_what_they_are():
    ball = bounded_by(forms.sphere(np.zeros(3), 3.0))
    plain = cut(Body(ball.mesh), (1, 0, 0))
    assert outlines(plain)[0] @ UP == pytest.approx(
        outlines(cut(Body(ball.mesh), (1, 0, 0)))[0] @ UP
    )
    assert max(len(r.shape.exterior.coords) for r in plain) < 130


MILLIMETRES = st.integers(-5000, 5000).map(lambda mm: mm / 1000)


@given(
    st.lists(st.tuples(MILLIMETRES, MILLIMETRES), min_size=3, max_size=8),
    st.lists(MILLIMETRES, max_size=5, unique=True),
)
@settings(deadline=None)
def test_corners_put_where_a_polygon_is_bent_leave_it_as_it_is(places, at):
    polygon, at = shapely.MultiPoint(places).convex_hull, np.sort(np.array(at, float))
    assume(isinstance(polygon, shapely.Polygon) and polygon.area > 1e-3)
    bent = with_corners_at(polygon, at)
    assert bent.area == pytest.approx(polygon.area)
    x = np.asarray(bent.exterior.coords)[:, 0]
    low, high = np.minimum(x[:-1], x[1:]), np.maximum(x[:-1], x[1:])
    assert not ((low[:, None] < at) & (at < high[:, None])).any()
    assert set(polygon.exterior.coords) <= set(bent.exterior.coords)
