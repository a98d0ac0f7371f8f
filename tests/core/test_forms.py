"""Standard forms, swept shapes and mapped surfaces against closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.mapped import Affine, mapped
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.geometry.rational import RationalSpline
from leanlattice.core.geometry.swept import (
    Extruded,
    Revolved,
    Translated,
    rotation_minimising_frames,
    sweep,
)
from leanlattice.core.patterns.lay import lay
from leanlattice.core.shaping.bending import control_box
from leanlattice.core.shaping.facets import facets, surface_mesh
from leanlattice.core.shaping.pathwork import round_corners
from leanlattice.core.shaping.plates import thin_plate
from leanlattice.core.shaping.stacks import StackError, cap_loops, capped_stack, extruded_body

from ..known import approx, held_to, known

O = np.zeros(3)  # noqa: E741
PLAN = Frame2(O, np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
FRONT = Frame2(O, np.array([1.0, 0, 0]), np.array([0, 0, 1.0]))
SIDE = Frame2(O, np.array([0, 1.0, 0]), np.array([0, 0, 1.0]))
Z = np.array([0, 0, 1.0])


def quarter(radius=3.0):
    d = radius / np.sqrt(2)
    return PlaneCurve(path_of("arc", [[radius, 0], [d, d], [0, radius]]), FRONT)


def half_sphere():
    curve = quarter()
    return Revolved(curve, O, Z, 0.0, 2 * np.pi, True, False, frozenset({"v1"}), curve.path.joints)


def bent_spine():
    return PlaneCurve(path_of("spline", [[0, 0], [5, 3], [11, 1], [15, 6]]), PLAN)


def bump():
    moves = np.zeros((3, 3, 2, 3))
    moves[1, 1, 1] = [0.4, -0.3, 2.0]
    return control_box(np.array([[-6.0, -9, 0], [6, 9, 4]]), (3, 3, 2), moves)


def plate():
    a = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    return thin_plate(
        np.column_stack([6 * np.cos(a), 4 * np.sin(a), 0 * a]),
        (),
        np.array([[1.0, 0.5, 2]]),
        0.0,
        False,
    )


def quarter_cylinder():
    """A quarter of a cylinder of radius 2 and height 5 as a rational quadratic."""
    s = 2.0
    flat = np.array([[s, 0, 0], [s, s, 0], [0, s, 0]])
    control = np.stack([flat, flat + [0, 0, 5]], axis=1)
    weights = np.outer([1, np.sqrt(0.5), 1], [1, 1])
    return RationalSpline(
        control,
        weights,
        np.array([0, 0, 0, 1, 1, 1.0]),
        np.array([0, 0, 1, 1.0]),
        2,
        1,
        (0, 1),
        (0, 1),
    )


SHAPES = {
    "ellipsoid": lambda: forms.ellipsoid(O, np.array([3.0, 2, 1]), 0.0),
    "torus": lambda: forms.torus(O, 5, 1.5),
    "barrel": lambda: forms.barrel(O, 10, 3, 18),
    "cone": lambda: forms.cone(O, 4, 1, 6),
    "conoid": lambda: forms.conoid(O, 10, 14, 4, 1),
    "saddle": lambda: forms.hyperbolic_paraboloid(np.array([[-6, -6, 0], [6, -6, 4], [6, 6, 0], [-6, 6, 4.0]])),
    "revolved": half_sphere,
    "swept": lambda: sweep([path_of("circle", [[0, 0], [1, 0]]), path_of("circle", [[0, 0], [0.5, 0]])], bent_spine()),
    "translated": lambda: Translated(
        PlaneCurve(path_of("arc", [[-3, 0], [0, 2], [3, 0]]), FRONT),
        PlaneCurve(path_of("arc", [[-6, 0], [0, 1.5], [6, 0]]), SIDE), False, False, (), (),
    ),
    "bent": lambda: mapped(forms.barrel(O, 10, 3, 18), bump()),
    "turned": lambda: mapped(forms.torus(O, 5, 1.5), Affine.turning(np.array([1.0, 2, 3]), 0.8, np.ones(3))),
    "plate": plate,
    "rational": quarter_cylinder,
}  # fmt: skip


@known("derivatives of 13 kinds of surfaces", "central differences")
@pytest.mark.parametrize("name", SHAPES)
def test_derivatives_agree_with_differences(name):
    surface, h = SHAPES[name](), 1e-5
    uv = 0.1 + 0.8 * np.random.default_rng(1).random((40, 2))
    uv = uv[np.linalg.norm(uv - 0.5, axis=1) > 0.12]
    size = np.ptp(surface.points(uv), axis=0).max()
    for order, lower, way in (
        ((1, 0), (0, 0), 0),
        ((0, 1), (0, 0), 1),
        ((2, 0), (1, 0), 0),
        ((0, 2), (0, 1), 1),
        ((1, 1), (1, 0), 1),
    ):
        step = np.eye(2)[way] * h
        difference = (
            surface.derivatives(uv + step, *lower) - surface.derivatives(uv - step, *lower)
        ) / (2 * h)
        off = np.abs(difference - surface.derivatives(uv, *order)).max()
        held_to(off / (size * 6 ** sum(order)), 2e-4)


@pytest.mark.parametrize("name", [*SHAPES, "cap of a sphere"])
@pytest.mark.parametrize("pattern", ["quads", "diagrid", "triangles"])
def test_a_lattice_on_every_shape_is_sound(name, pattern):
    surface = SHAPES[name]() if name in SHAPES else half_sphere()
    net = lay(surface, pattern, (12, 8))
    euler = {"torus": 0, "turned": 0, "cone": 0, "swept": 0}.get(name, 1)
    assert len(net.vertices) - len(net.edges) + net.cell_count == euler
    assert len(net.loops) == {1: 1, 0: 0 if name in ("torus", "turned") else 2}[euler]
    assert (
        np.linalg.norm(surface.points(surface.closest(net.vertices)) - net.vertices, axis=1).max()
        < 1e-5
    )


@known(
    "sphere, torus, spheroid, cone, barrel, z = xy",
    "areas, volumes and curvatures in closed form",
)
def test_areas_volumes_and_curvatures_of_round_forms():
    ball, ring = forms.sphere(np.array([1.0, 2, 3]), 2.0), forms.torus(O, 5, 1.5)
    assert ball.area == approx(16 * np.pi, rel=1e-9)
    assert ring.area == approx(4 * np.pi**2 * 5 * 1.5, rel=1e-9)
    uv = np.random.default_rng(2).random((50, 2)) * 0.9 + 0.05
    assert ball.curvatures(uv) == approx(np.tile([0.25, 0.5], (50, 1)))
    outer = ring.curvatures(np.array([[0.3, 0.0], [0.3, 0.5]]))[:, 0]
    assert outer == approx([1 / (1.5 * 6.5), -1 / (1.5 * 3.5)])
    body = Body(surface_mesh(ring, (240, 120))[0])
    assert body.volume == approx(2 * np.pi**2 * 5 * 1.5**2, rel=2e-3)
    assert not body.mesh.loops
    far = ball.points(uv) + 1.7 * ball.normals(uv)
    assert np.abs(ball.points(ball.closest(far)) - ball.points(uv)).max() < 1e-7, (
        "on the ray from its centre"
    )
    assert forms.barrel(O, 10, 5, 7).area == approx(5 * np.pi * 7)
    cone = forms.cone(O, 4, 0, 3)
    assert cone.area == approx(np.pi * 4 * 5, rel=1e-9)
    saddle = forms.hyperbolic_paraboloid(
        np.array([[-1, -1, 1], [1, -1, -1], [1, 1, 1], [-1, 1, -1.0]])
    )
    p = saddle.points(uv)
    assert p[:, 2] == approx(p[:, 0] * p[:, 1]), "z = xy"


@known("revolved arc", "a sphere: area 2πr², curvatures 1/r², 1/r")
def test_a_revolved_arc_is_a_sphere():
    surface = half_sphere()
    assert surface.area == approx(2 * np.pi * 9, rel=1e-9)
    uv = np.random.default_rng(3).random((80, 2)) * [1, 0.98]
    assert surface.curvatures(uv) == approx(np.tile([1 / 9, 1 / 3], (80, 1)), rel=1e-6)
    assert np.einsum("ij,ij->i", surface.normals(uv), surface.points(uv) / 3) == approx(np.ones(80))
    closed = cap_loops(surface_mesh(surface, (200, 100))[0])
    assert closed.volume == approx(2 / 3 * np.pi * 27, rel=1e-3)


@known("revolved through part of a turn", "that share of the whole")
def test_a_wedge_is_a_share_of_the_whole():
    p = quarter().polyline(1e-4)
    p = np.vstack([p, [[0, 0, 0]]])
    angles = np.radians(np.linspace(0, 90, 61))
    rings = np.stack(
        [np.column_stack([p[:, 0] * np.cos(a), p[:, 0] * np.sin(a), p[:, 2]]) for a in angles]
    )
    wedge = capped_stack(rings)
    assert wedge.volume == approx(np.pi * 27 / 6, rel=1e-3)
    assert not wedge.mesh.loops


@known("frames along a helix", "turn against the principal normal by − torsion × length")
def test_frames_along_a_spine_do_not_twist():
    t = np.linspace(0, 4 * np.pi, 2000)
    pitch = 0.4
    helix = np.column_stack([np.cos(t), np.sin(t), pitch * t])
    tangents = np.column_stack([-np.sin(t), np.cos(t), np.full_like(t, pitch)]) / np.hypot(1, pitch)
    frames = rotation_minimising_frames(helix, tangents, np.array([1.0, 0, 0]))
    # Against the principal normal they turn by the torsion: −τ s (do Carmo, 1976, §1.5).
    normal, binormal = (
        -np.column_stack([np.cos(t), np.sin(t), 0 * t]),
        np.cross(tangents, -helix * [1, 1, 0]),
    )
    angle = np.unwrap(
        np.arctan2(np.einsum("ij,ij->i", frames, binormal), np.einsum("ij,ij->i", frames, normal))
    )
    torsion = pitch / (1 + pitch**2)
    expected = -torsion * np.hypot(1, pitch) * t
    held_to(np.abs((angle - angle[0]) - expected).max(), 1e-4)


@known("circle swept round a circle", "a torus")
def test_a_circle_swept_round_a_circle_is_a_torus():
    spine = PlaneCurve(path_of("circle", [[0, 0], [5, 0]]), PLAN)
    surface = sweep([path_of("circle", [[0, 0], [1.5, 0]])], spine)
    p = surface.points(np.random.default_rng(5).random((300, 2)))
    away = np.hypot(np.hypot(p[:, 0], p[:, 1]) - 5, p[:, 2])
    assert away == approx(np.full(300, 1.5), rel=1e-6)
    assert surface.area == approx(4 * np.pi**2 * 5 * 1.5, rel=1e-6)


def test_swept_sections_stand_square_to_the_true_tangent():
    surface = SHAPES["swept"]()
    v = np.linspace(0.05, 0.95, 9)
    tangent = surface.spine.derivatives(v)
    for u in (0.1, 0.4, 0.8):
        out = surface.points(np.column_stack([np.full(9, u), v])) - surface.spine.points(v)
        assert np.abs(np.einsum("ij,ij->i", out, tangent)).max() < 1e-5 * np.abs(tangent).max()
    ends = surface.points(np.array([[0.3, 0.0], [0.3, 1.0]])) - surface.spine.points(
        np.array([0.0, 1.0])
    )
    assert np.linalg.norm(ends, axis=1) == pytest.approx([1.0, 0.5]), (
        "from the first profile to the last"
    )


@known("arch translated along an arch", "quads flat")
def test_translated_quads_are_flat():
    net = lay(SHAPES["translated"](), "quads", (14, 20))
    held_to(net.flatness.max(), 1e-12)


@known(
    "extruded rectangle with taper, rounded edges and corners",
    "integral of its sections; Cavalieri where it leans",
)
@pytest.mark.parametrize(
    ("taper", "top", "corner"), [(0, 0, 0), (12, 0, 0), (0, 0.5, 0), (0, 0, 1.0), (8, 0.3, 0.8)]
)
def test_extruded_bodies_have_their_closed_form_volume(taper, top, corner):
    path, h = path_of("rectangle", [[0, 0], [10, 6]]), 4.0
    body, clamped = extruded_body(
        [path], PLAN, h, np.zeros(2), np.radians(taper), top, corner, 1e-4
    )
    assert not clamped
    assert not body.mesh.loops
    # Sections at many heights: the rectangle drawn in, its corners rounded.
    z = (np.arange(20000) + 0.5) / 20000 * h
    t = np.clip((z - (h - top)) / top, 0, 1) if top else np.zeros_like(z)
    inset = np.tan(np.radians(taper)) * z + top * (1 - np.sqrt(1 - t**2))
    areas = (10 - 2 * inset) * (6 - 2 * inset) - (4 - np.pi) * corner**2
    assert body.volume == approx(areas.mean() * h, rel=3e-3)


def test_openings_lean_and_walls_that_meet():
    path, hole = path_of("rectangle", [[0, 0], [10, 6]]), path_of("circle", [[5, 3], [6, 3]])
    body, _ = extruded_body([path, hole], PLAN, 4.0, np.array([3.0, 1.0]), 0.0, 0.0, 0.0, 1e-4)
    assert body.volume == pytest.approx(4 * (60 - np.pi), rel=1e-4), (
        "leaning keeps the volume (Cavalieri)"
    )
    assert body.mesh.extent[0] == pytest.approx(13)
    with pytest.raises(StackError) as error:
        extruded_body([path], PLAN, 4.0, np.zeros(2), np.radians(45), 0.0, 0.0, 1e-3)
    assert error.value.most == pytest.approx(3.0, abs=1e-6), "half the shorter side"


def test_walls_are_drawn_with_their_corners():
    path = round_corners(path_of("polygon", [[0, 0], [7, 1], [9, 6], [1, 5]]), 0.0001).path
    sharp = path_of("polygon", [[0, 0], [7, 1], [9, 6], [1, 5]])
    high = Frame2(np.array([0, 0, 3.0]), PLAN.x, PLAN.y)
    surface = Extruded(PlaneCurve(sharp, PLAN), PlaneCurve(sharp, high), True, sharp.joints)
    assert surface.area == pytest.approx(sharp.length * 3)
    corners = np.array([[0, 0], [7, 1], [9, 6], [1, 5.0]])
    for places in (facets(surface).mesh.vertices, lay(surface, "quads", (17, 3)).vertices):
        gap = np.linalg.norm(places[:, None, :2] - corners[None], axis=2).min(axis=0)
        assert gap.max() < 1e-9, "lines run along the creases"
    assert path.length == pytest.approx(sharp.length, abs=1e-3)


@known("rational quarter cylinder", "radius, area")
def test_rational_splines_are_exact():
    surface = quarter_cylinder()
    p = surface.points(np.random.default_rng(7).random((200, 2)))
    assert np.hypot(p[:, 0], p[:, 1]) == approx(np.full(200, 2.0), rel=1e-12)
    assert surface.area == approx(np.pi * 5, rel=1e-9)


def test_maps_keep_outside_outside_and_areas_right():
    uv = np.random.default_rng(9).random((30, 2)) * 0.8 + 0.1
    ball = forms.sphere(O, 2.0)
    mirrored = mapped(ball, Affine.mirroring(np.array([1.0, 1, 0]), np.array([3.0, 0, 0])))
    centre = Affine.mirroring(np.array([1.0, 1, 0]), np.array([3.0, 0, 0])).points(O[None])[0]
    assert np.einsum("ij,ij->i", mirrored.normals(uv), mirrored.points(uv) - centre).min() > 1.99
    egg = mapped(ball, Affine.scaling(np.array([1.0, 1, 2]), O))
    e = np.sqrt(1 - 1 / 4)
    assert egg.area == pytest.approx(2 * np.pi * 4 * (1 + 2 / e * np.arcsin(e)), rel=1e-6), (
        "prolate spheroid"
    )
    assert ball.swapped().normals(uv) == pytest.approx(-ball.normals(uv))


@known("control box moved as a whole; sheared", "what is inside moves alike; linear")
def test_a_control_box_that_is_moved_as_a_whole_moves_what_is_inside():
    points = np.random.default_rng(4).random((50, 3)) * [4, 5, 6]
    box = control_box(points, (3, 4, 2), np.tile([0.5, -1.0, 2.0], (24, 1)))
    assert box.points(points) == approx(points + [0.5, -1, 2])
    linear = np.stack(
        np.meshgrid(*[np.linspace(0, 1, n) for n in (3, 4, 2)], indexing="ij"), -1
    ).reshape(-1, 3)
    moves = linear @ np.array([[0.2, 0, 0.1], [0, 0.3, 0], [0.4, 0, 0.1]])
    sheared = control_box(points, (3, 4, 2), moves)
    share = (points - sheared.low) / sheared.size
    assert sheared.points(points) - points == approx(
        share @ np.array([[0.2, 0, 0.1], [0, 0.3, 0], [0.4, 0, 0.1]])
    )
