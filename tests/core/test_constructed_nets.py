"""Patterns by name, nets with a construction of their own, and how patterns lie: against known counts and lengths."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.polygons import areas, corner_angles
from leanlattice.core.geometry.projected import ProjectionError, projected
from leanlattice.core.geometry.regions import Region
from leanlattice.core.naming.numbering import bands
from leanlattice.core.patterns.equalmesh import equal_mesh
from leanlattice.core.patterns.geodesic import (
    POLYHEDRA,
    divided,
    fitted_sphere,
    geodesic,
    leapfrogged,
)
from leanlattice.core.patterns.lay import Placing, bays_for_module, lay
from leanlattice.core.patterns.pulls import pull_at
from leanlattice.core.patterns.table import PATTERNS
from leanlattice.core.shaping.cutting import cut_in_plan
from leanlattice.core.shaping.facets import surface_mesh

from ..conftest import SURFACES, roof
from ..known import approx, held_to, known
from .test_nets import assert_sound, euler

O = np.zeros(3)  # noqa: E741
BALL = forms.sphere(O, 3)
TORUS = forms.torus(O, 6, 2)
INNER_VALENCE = {
    "hexagons": {3},
    "trihexagons": {4},
    "equilateral": {6},
    "crossed": {4, 8},
    "lamella": {3},
    "ringed": {6},
}


def on_ball(solid):
    return geodesic(BALL, surface_mesh(BALL)[0], solid, O)


@known(
    "geodesic sphere of frequency f",
    "10f² + 2, 30f², 20f²; 2, 3, 6 lengths for f = 2, 3, 4",
)
@pytest.mark.parametrize(("f", "lengths"), [(1, 1), (2, 2), (3, 3), (4, 6), (7, None)])
def test_a_geodesic_sphere_has_the_counts_and_lengths_of_its_frequency(f, lengths):
    net = on_ball(divided(POLYHEDRA["icosahedron"](), f))
    assert_sound(net)
    assert (len(net.vertices), len(net.edges), net.cell_count) == (
        10 * f**2 + 2,
        30 * f**2,
        20 * f**2,
    )
    assert lengths is None or bands(net.edge_lengths, 1e-6).max() + 1 == lengths
    assert np.linalg.norm(net.vertices, axis=1) == approx(np.full(len(net.vertices), 3.0), rel=1e-9)


@pytest.mark.parametrize("f", [1, 3])
def test_the_other_division_has_three_times_as_many_faces(f):
    net = on_ball(leapfrogged(divided(POLYHEDRA["octahedron"](), f)))
    assert_sound(net)
    assert net.cell_count == 3 * 8 * f**2
    assert euler(net) == 2


def test_a_geodesic_dome_is_cut_at_its_foot():
    surface = SURFACES["bulging dome"]()
    mesh = surface_mesh(surface)[0]
    centre, radius = fitted_sphere(mesh.vertices)
    assert radius == pytest.approx((25 + 64) / 16)  # (r² + h²) / 2h of a cap
    for border in ("cut", "whole"):
        net = geodesic(surface, mesh, divided(POLYHEDRA["icosahedron"](), 5), centre, border)
        assert_sound(net)
        assert len(net.loops) == 1
        if border == "cut":
            assert np.abs(net.vertices[net.loop_vertices, 2]).max() < 1e-9


@known("equal mesh", "every edge the one length, on the shape")
@given(st.sampled_from(sorted(SURFACES)), st.floats(0.4, 1.6), st.floats(-1.5, 1.5))
def test_all_edges_of_an_equal_mesh_are_one_length(name, length, turn):
    surface = SURFACES[name]()
    net = equal_mesh(surface, length, np.array([0.5, 0.45]), turn).net
    if net.cell_count:
        assert_sound(net)
        held_to(np.abs(net.edge_lengths - length).max(), 1e-6)
        held_to(np.abs(net.vertices - surface.points(net.uv)).max(), 1e-6)


def test_the_equal_mesh_of_a_plane_is_a_plain_grid_and_of_a_ball_runs_out():
    flat = equal_mesh(SURFACES["flat sheet"](), 0.5, np.array([0.5, 0.5]), 0.0)
    assert flat.net.cell_count == 12 * 8
    assert np.degrees(
        corner_angles(flat.net.vertices, flat.net.corners, flat.net.offsets)
    ) == pytest.approx(np.full(4 * 96, 90.0))
    assert len(equal_mesh(BALL, 0.3, np.array([0.5, 0.5]), np.pi / 4).ran_out)


@known(
    "patterns on a torus",
    "valence 3 in hexagons and lamellas, 4 in tri-hexagons, 6 in triangles",
)
@pytest.mark.parametrize("pattern", INNER_VALENCE)
def test_patterns_have_their_valence_on_a_torus(pattern):
    net = lay(TORUS, pattern, (12, 8))
    assert_sound(net)
    assert euler(net) == 0
    assert not net.loops
    assert set(net.valence) == INNER_VALENCE[pattern]


@known("every pattern on ball and torus", "V − E + F = 2 and 0")
@pytest.mark.parametrize("pattern", PATTERNS)
@pytest.mark.parametrize("surface", [BALL, TORUS], ids=["ball", "torus"])
def test_every_pattern_closes_on_closed_surfaces(pattern, surface):
    net = lay(surface, pattern, (9, 7))
    assert_sound(net)
    assert euler(net) == (2 if surface is BALL else 0)


@known("every pattern with an opening", "two border loops; areas add up to what is left")
@pytest.mark.parametrize("pattern", PATTERNS)
def test_every_pattern_respects_an_opening(pattern):
    sheet = SURFACES["flat sheet"]()
    hole = np.array([[1.3, 1.2], [3.1, 1.0], [3.4, 2.7], [1.6, 2.9]])
    pierced = cut_in_plan(sheet, hole, keep_inside=False)
    net = lay(pierced, pattern, (9, 8))
    assert_sound(net)
    assert len(net.loops) == 2
    assert areas(net.vertices, net.corners, net.offsets).sum() == approx(
        24 - Region(hole).polygon.area, rel=1e-9
    )


@known("equilateral triangles, hexagons", "sides within the deviation that is stated")
def test_sides_of_equilateral_triangles_and_hexagons_are_the_module():
    sheet = SURFACES["flat sheet"]()  # 6 × 4 m
    for pattern in ("equilateral", "hexagons", "trihexagons"):
        bays = bays_for_module(sheet, 0.25, pattern)
        net = lay(sheet, pattern, bays, "whole")
        side = PATTERNS[pattern].side
        deviation = max(
            abs(6 / bays[0] / (0.25 * side[0]) - 1), abs(4 / bays[1] / (0.25 * side[1]) - 1)
        )
        assert np.abs(net.edge_lengths / 0.25 - 1).max() <= deviation + 1e-9
        held_to(deviation, 0.05)


@known("Voronoi cells", "fill the sheet, one a point; the same for the same seed")
def test_voronoi_cells_fill_the_sheet_and_follow_their_seed():
    sheet = SURFACES["flat sheet"]()
    nets = [
        lay(sheet, "voronoi", (10, 8), placing=Placing(seed=s, rounds=r))
        for s, r in ((1, 0), (1, 0), (2, 0), (1, 30))
    ]
    for net in nets:
        assert_sound(net)
        assert net.cell_count == 80
        assert areas(net.vertices, net.corners, net.offsets).sum() == approx(24.0, rel=1e-9)
    assert np.array_equal(nets[0].vertices, nets[1].vertices)
    assert not np.array_equal(nets[0].vertices[:9], nets[2].vertices[:9])
    spread = [areas(n.vertices, n.corners, n.offsets).std() for n in (nets[0], nets[3])]
    assert spread[1] < 0.35 * spread[0], "drawn apart, cells are alike"


@given(
    st.sampled_from(sorted(PATTERNS)), st.floats(-0.9, 0.9), st.floats(0.3, 6), st.floats(-6, 6), st.floats(0, 20),
    st.sampled_from(["cut", "whole", "past"]),
)  # fmt: skip
def test_no_pull_makes_a_net_unsound(pattern, strength, reach, x, y, border):
    surface = roof()
    pull = pull_at(surface, np.array([[x, y, 3.0]]), strength, reach)
    net = lay(surface, pattern, (9, 10), border, Placing(pulls=(pull, pull)))
    if net.cell_count:
        assert_sound(net)
        assert border != "cut" or euler(net) == 1


def test_a_pull_draws_vertices_together_and_spreads_them():
    sheet = SURFACES["flat sheet"]()
    at = np.array([[3.0, 2.0, 0.0]])

    def near(strength):
        net = lay(
            sheet, "quads", (30, 20), placing=Placing(pulls=(pull_at(sheet, at, strength, 1.5),))
        )
        return int((np.linalg.norm(net.vertices - at, axis=1) < 0.6).sum())

    assert near(0.7) > 1.5 * near(0.0) > 2.2 * near(-0.7)


@given(st.sampled_from(["quads", "diagrid", "equilateral", "hexagons", "trihexagons", "lamella"]), st.floats(-3.1, 3.1),
       st.floats(-2, 2), st.booleans(), st.floats(0, 0.5))  # fmt: skip
def test_patterns_can_be_turned_moved_and_mirrored(pattern, turn, shift, mirrored, sliver):
    sheet = SURFACES["flat sheet"]()
    placing = Placing(turn=turn, shift=(shift, -shift), mirrored=mirrored, sliver=sliver)
    net = lay(sheet, pattern, (9, 7), placing=placing)
    assert_sound(net)
    assert areas(net.vertices, net.corners, net.offsets).sum() == pytest.approx(24.0, rel=1e-9)


def test_even_lengths_are_more_even_than_parameters():
    surface = roof()
    usual, even = (lay(surface, "quads", (12, 16), placing=Placing(even=e)) for e in (False, True))
    assert_sound(even)
    assert even.edge_lengths.std() < usual.edge_lengths.std()


@known("projected pattern", "even in plan, on the sphere")
def test_a_projected_pattern_is_regular_in_plan_and_lies_on_the_shape():
    surface = SURFACES["dome"]()
    seen = projected(surface, np.array([0.0, 0.0, 1.0]))
    net = lay(seen, "quads", (10, 10))
    assert_sound(net)
    inner = np.setdiff1d(np.arange(len(net.vertices)), net.loop_vertices)
    steps = np.diff(np.unique(np.round(net.vertices[inner, 0], 6)))
    assert steps == approx(np.full(len(steps), 1.0), abs=1e-5)
    centre = np.array([1.0, 2.0, 0.5 + 3 - (25 + 9) / 6])
    assert np.linalg.norm(net.vertices - centre, axis=1) == approx(
        np.full(len(net.vertices), (25 + 9) / 6), rel=1e-6
    )
    with pytest.raises(ProjectionError, match="hang over"):
        projected(SURFACES["bulging dome"](), np.array([0.0, 0.0, 1.0]))
