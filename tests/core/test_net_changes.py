"""Changes of nets: every one gives a sound net, with the counts its rule says."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.nets.conway import dual, truncated
from leanlattice.core.nets.insets import inset, raised
from leanlattice.core.nets.refining import divided_edges, refined
from leanlattice.core.nets.thinning import (
    chosen_by_seed,
    eased_on_shape,
    merged_near,
    without_cells,
    without_edges,
    without_vertices,
)
from leanlattice.core.patterns.lay import Placing, lay

from ..conftest import SURFACES, roof
from ..known import approx, known
from .test_nets import assert_sound, euler

O = np.zeros(3)  # noqa: E741
TORUS = forms.torus(O, 6, 2)
BALL = forms.sphere(O, 3)
NETS = {
    "roof in a diagrid": lambda: lay(roof(), "diagrid", (6, 5)),
    "roof in hexagons": lambda: lay(roof(), "hexagons", (6, 8)),
    "dome in triangles": lambda: lay(SURFACES["dome"](), "triangles", (8, 4)),
    "tube in quads": lambda: lay(SURFACES["tube"](), "quads", (8, 5)),
    "torus in tri-hexagons": lambda: lay(TORUS, "trihexagons", (12, 8)),
    "ball in equilateral triangles": lambda: lay(BALL, "equilateral", (12, 8)),
    "sheet in Voronoi cells": lambda: lay(SURFACES["flat sheet"](), "voronoi", (6, 6)),
}


@pytest.fixture(params=NETS)
def net(request):
    return NETS[request.param]()


def same_shape(before, after):
    """No change here opens or closes anything."""
    assert_sound(after)
    assert euler(after) == euler(before)
    assert len(after.loops) == len(before.loops)


def test_truncating_joins_the_middles_of_edges(net):
    once = truncated(net)
    same_shape(net, once)
    same_shape(net, truncated(once))
    inner = np.setdiff1d(np.arange(len(once.vertices)), once.loop_vertices)
    assert set(once.valence[inner]) == {4}
    assert np.abs(once.vertices - once.surface.points(once.uv)).max() < 1e-9


@known("truncating", "V' = E, E' = 2E on closed nets")
@pytest.mark.parametrize("times", [1, 2, 3])
def test_truncating_a_closed_net_multiplies_it_as_ambo_does(times):
    for make in (NETS["torus in tri-hexagons"], NETS["ball in equilateral triangles"]):
        net = before = make()
        for _ in range(times):
            before, net = net, truncated(net)
        assert len(net.vertices) == len(before.edges)
        assert len(net.edges) == 2 * len(before.edges)
        assert net.cell_count == before.cell_count + len(before.vertices)


@known("dual", "V' = F, F' = V")
def test_the_dual_has_a_vertex_a_cell(net):
    made = dual(net)
    same_shape(net, made)
    if not net.loops:
        assert (len(made.vertices), made.cell_count) == (net.cell_count, len(net.vertices))
        back = dual(made)
        assert (len(back.vertices), len(back.edges)) == (len(net.vertices), len(net.edges))


@known("insets", "areas (1 − s)²; rounded square less its corners")
@given(
    st.sampled_from(sorted(NETS)),
    st.floats(0.05, 0.9),
    st.just(0.0) | st.floats(0.02, 2),
    st.booleans(),
)
def test_insets_are_sound_and_shrink_as_told(name, share, radius, keep):
    net = NETS[name]()
    made = inset(net, share, None, radius, keep=keep)
    assert_sound(made.net)
    assert len(made.net.loops) == len(net.loops) + (0 if keep else net.cell_count)
    if keep and radius == 0:
        inner = areas(made.net.vertices, made.net.corners, made.net.offsets)[made.inner]
        assert inner == approx(
            areas(net.vertices, net.corners, net.offsets) * (1 - share) ** 2, rel=1e-3
        )


def test_a_distance_holds_from_every_side_and_is_clamped_where_it_must():
    net = lay(SURFACES["flat sheet"](), "quads", (3, 2))  # bays of 2 × 2 m
    made = inset(net, None, 0.3, 0.25, arc=8)
    assert_sound(made.net)
    assert not len(made.shrunk)
    assert not len(made.clamped)
    sizes = areas(made.net.vertices, made.net.corners, made.net.offsets)[made.inner]
    eighth = 0.25**2 * 8 * np.sin(np.pi / 16)  # a quarter circle of 8 chords
    assert sizes == pytest.approx(np.full(6, 1.4**2 - 4 * 0.25**2 + 2 * eighth), rel=1e-3)
    tight = inset(net, None, 1.5, 5.0)
    assert len(tight.shrunk) == 6
    assert len(tight.clamped) == 24
    assert_sound(tight.net)


@given(st.sampled_from(sorted(NETS)), st.integers(0, 2**30), st.floats(0.05, 0.95))
def test_refining_leaves_no_hanging_vertex(name, seed, share):
    net = NETS[name]()
    wanted = np.random.default_rng(seed).random(net.cell_count) < share
    made = refined(net, wanted)
    same_shape(net, made)
    triangles = set(np.diff(net.offsets)) == {3}
    assert not triangles or set(np.diff(made.offsets)) == {3}
    # Triangles at the border of other cells are their halves and give three.
    assert made.cell_count >= net.cell_count + int(
        (np.maximum(np.diff(net.offsets)[wanted], 3) - 1).sum()
    )


@given(st.sampled_from(sorted(NETS)), st.floats(0.2, 5.0))
def test_no_edge_stays_longer_than_asked(name, longest):
    net = NETS[name]()
    made = divided_edges(net, longest)
    same_shape(net, made)
    # Off the straight line an arc is longer than its chord, and so are its parts.
    assert made.edge_lengths.max() < 1.6 * longest
    assert len(made.edges) == int(np.ceil(net.edge_lengths / longest - 1e-9).sum())


@given(st.sampled_from(sorted(NETS)), st.integers(0, 2**30), st.floats(0, 0.6))
def test_nets_are_thinned_out_by_seed(name, seed, share):
    net = NETS[name]()
    inner = np.flatnonzero(~net.border)
    made, count = without_edges(net, chosen_by_seed(inner, share, seed))
    assert_sound(made)
    assert made.cell_count == net.cell_count - count
    assert len(made.edges) == len(net.edges) - count
    fewer, gone = without_vertices(net, chosen_by_seed(np.arange(len(net.vertices)), share, seed))
    assert_sound(fewer)
    assert len(fewer.vertices) == len(net.vertices) - gone
    cells = chosen_by_seed(np.arange(net.cell_count), share, seed)
    assert set(chosen_by_seed(np.arange(net.cell_count), share / 2, seed)) <= set(cells)
    if len(cells) < net.cell_count:
        assert without_cells(net, cells).cell_count == net.cell_count - len(cells)


def test_pyramids_stand_out_by_their_depth():
    net = lay(SURFACES["flat sheet"](), "quads", (3, 2))
    made = raised(net, np.linspace(0.2, 0.7, 6), 0.0)
    same_shape(net, made)
    assert np.sort(made.vertices[made.vertices[:, 2] > 1e-9, 2]) == pytest.approx(
        np.linspace(0.2, 0.7, 6)
    )
    coffers = raised(net, np.full(6, 0.4), 0.5)
    same_shape(net, coffers)
    assert coffers.cell_count == 6 * 5
    tops = areas(coffers.vertices, coffers.corners, coffers.offsets)[-6:]
    assert tops == pytest.approx(np.full(6, 1.0))


def test_near_vertices_become_one_and_slivers_go():
    surface = roof()
    rough = lay(surface, "voronoi", (8, 8), placing=Placing(rounds=0, seed=3))
    least = 0.25 * float(np.median(rough.edge_lengths))
    made, gone = merged_near(rough, least)
    assert gone > 0
    assert_sound(made)
    assert len(made.vertices) == len(rough.vertices) - gone
    for pattern in ("hexagons", "diagrid", "equilateral", "trihexagons"):
        cut = lay(surface, pattern, (7, 9), placing=Placing(turn=0.3))
        merged = lay(surface, pattern, (7, 9), placing=Placing(turn=0.3, sliver=0.4))
        assert_sound(merged)
        sizes = [areas(n.vertices, n.corners, n.offsets) for n in (cut, merged)]
        assert sizes[0].min() < 0.2 * np.median(sizes[0])
        assert sizes[1].min() > 0.25 * np.median(sizes[1])
        inner = np.setdiff1d(np.arange(len(merged.vertices)), merged.loop_vertices)
        assert merged.valence[inner].min() >= 3


def test_easing_evens_out_and_stays_on_the_shape():
    surface = SURFACES["bulging dome"]()
    rough = lay(surface, "nudged", (14, 8), placing=Placing(rounds=0, seed=5))
    made = eased_on_shape(rough, 20)
    assert_sound(made)
    assert np.abs(made.vertices - surface.points(made.uv)).max() < 1e-9
    fixed = np.unique(rough.loop_vertices)
    assert made.vertices[fixed] == pytest.approx(rough.vertices[fixed])
    assert made.edge_lengths.std() < rough.edge_lengths.std()
