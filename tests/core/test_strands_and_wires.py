"""Strands that cross, reciprocal frames, modules of one's own, and wireframes: against what is known of them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.nets import NetError
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.nets.reciprocal import reciprocal
from leanlattice.core.nets.strands import ribbons, strands_of, woven
from leanlattice.core.nets.wires import cells_of_wires
from leanlattice.core.patterns.drawnmodule import ModuleError, module_of_lines
from leanlattice.core.patterns.lay import lay
from leanlattice.core.patterns.table import PATTERNS, own_pattern

from ..conftest import SURFACES, roof
from ..known import approx, held_to, known
from .test_nets import assert_sound, euler

O = np.zeros(3)  # noqa: E741
BALL, TORUS = forms.sphere(O, 3), forms.torus(O, 6, 2)
CROSSING = ["quads", "diagrid", "trihexagons", "rhombs"]


def passes_of(net):
    """For every vertex, the strands that pass it and the levels at which they do, from edges and levels alone."""
    out = {}
    for e, (a, b) in enumerate(net.edges.tolist()):
        if net.border[e]:
            continue
        for k, v in enumerate((a, b)):
            out.setdefault(v, {}).setdefault(int(net.weave.strand[e]), []).append(
                float(net.weave.level[e, k])
            )
    return {v: {s: lv for s, lv in p.items() if len(lv) == 2} for v, p in out.items()}


@pytest.mark.parametrize("pattern", CROSSING)
@pytest.mark.parametrize("way", ["alternate", "levels"])
def test_strands_are_parted_wherever_they_cross(pattern, way):
    made = woven(lay(roof(), pattern, (8, 9)), way, 0.1, 0.05)
    assert not len(made.unsolved)
    crossings = [p for p in passes_of(made.net).values() if len(p) == 2]
    assert len(crossings) == made.crossings
    for p in crossings:
        (one, also), (two, too) = p.values()
        assert one == also
        assert two == too
        assert abs(one - two) >= 1, "one passes over the other by a thickness"
    if way == "levels":
        assert made.levels == (3 if pattern == "trihexagons" else 2)
        strand, level = made.net.weave.strand, made.net.weave.level
        for s in range(strand.max() + 1):
            assert len(np.unique(level[strand == s])) <= 1


@known("three-way weave", "over and under in turns")
def test_a_three_way_weave_passes_over_and_under_in_turns():
    net = woven(lay(SURFACES["flat sheet"](), "trihexagons", (6, 6)), "alternate", 0.1, 0.05).net
    passes = passes_of(net)
    edges = np.flatnonzero(~net.border)
    both = [e for e in edges if all(len(passes[v]) == 2 for v in net.edges[e].tolist())]
    assert len(both) > 50
    assert np.all(net.weave.level[both].sum(axis=1) == 0), "over at one end, under at the other"
    points, triangles = ribbons(net)
    assert points.shape == (4 * len(net.edges), 3)
    assert triangles.max() < len(points)


def test_strands_run_straight_through_and_close_on_a_torus():
    net = lay(TORUS, "quads", (12, 8))
    found = strands_of(net)
    assert found.count == 12 + 8
    assert sorted(np.bincount(found.strand)) == [8] * 12 + [12] * 8
    lamella = strands_of(lay(roof(), "lamella", (6, 6)))
    assert lamella.count < len(lamella.strand) / 2
    with_hexagons = strands_of(lay(SURFACES["flat sheet"](), "hexagons", (6, 6), "whole"))
    assert with_hexagons.partner.max() >= -1
    odd = woven(lay(TORUS, "quads", (9, 8)), "alternate", 0.1, 0.05)
    assert len(odd.unsolved), "an odd ring of crossings cannot pass in turns"
    assert not len(woven(lay(TORUS, "quads", (8, 8)), "alternate", 0.1, 0.05).unsolved)


@known("reciprocal grid of sides L turned by α", "engagement L sin α, middle lines meet")
@given(st.floats(0.02, 0.35), st.booleans())
def test_a_flat_grid_turned_by_an_angle_engages_by_its_sine(turn, left):
    net = lay(SURFACES["flat sheet"](), "quads", (12, 8))  # sides of 0.5 m
    made = reciprocal(net, turn if left else -turn)
    assert_sound(made.net)
    assert euler(made.net) == 1
    inner = np.setdiff1d(np.arange(len(net.vertices)), net.loop_vertices)
    assert made.net.cell_count == net.cell_count + len(inner)
    held_to(made.gap.max(), 1e-9)
    # Away from the border every edge passes its node by L/2 sin α, on both sides of a square ring of that many.
    assert np.median(made.engagement) == approx(0.5 * np.sin(turn), rel=1e-9)
    assert areas(made.net.vertices, made.net.corners, made.net.offsets).sum() == approx(
        24, rel=1e-9
    )


@pytest.mark.parametrize(
    ("pattern", "surface"), [("diagrid", "roof"), ("hexagons", "roof"), ("quads", "tube")]
)
def test_reciprocal_frames_engage_as_asked_on_curved_shapes(pattern, surface):
    net = lay(SURFACES[surface](), pattern, (10, 8))
    made = reciprocal(net, 0.1, engagement=0.15)
    assert_sound(made.net)
    assert euler(made.net) == euler(net)
    assert np.median(made.engagement) == pytest.approx(0.15, rel=0.12)
    assert np.abs(made.net.vertices - made.net.surface.points(made.net.uv)).max() < 1e-9
    # Each bar is one run of edges: its inner vertices have just two of them.
    strand = made.net.weave.strand
    for s in np.unique(strand)[:40]:
        times = np.bincount(made.net.edges[strand == s].ravel())
        assert sorted(times[times > 0])[:3] in ([1, 1], [1, 1, 2])
    with pytest.raises(NetError, match="reach past each other"):
        reciprocal(net, 0.7)


SQUARE = [np.array([[0.0, 0.5], [1.0, 0.5]]), np.array([[0.5, 0.0], [0.5, 1.0]])]


def test_crossing_lines_make_quads_and_loose_ones_are_told():
    made = module_of_lines(SQUARE)
    assert len(made.module.points) == 1
    assert [len(c) for c in made.module.cells] == [4]
    net = lay(roof(), own_pattern(made.module), (7, 6), "whole")
    assert_sound(net)
    assert set(np.diff(net.offsets)) == {4}
    stray = module_of_lines([*SQUARE, np.array([[0.7, 0.7], [0.8, 0.9]])])
    assert stray.module == made.module
    assert stray.loose == pytest.approx(np.array([[0.7, 0.7], [0.8, 0.9]]))


@given(
    st.lists(st.tuples(st.floats(0.05, 0.95), st.floats(0.05, 0.95)), min_size=1, max_size=3),
    st.sampled_from(sorted(SURFACES)),
)
def test_any_lines_from_border_to_border_make_a_sound_net(middles, name):
    """Broken lines across and along, each ending where its repeat begins."""
    lines = []
    for k, (x, y) in enumerate(middles):
        at = (k + 0.5) / len(middles)
        lines += [np.array([[0, at], [x, y], [1, at]]), np.array([[at, 0], [y, x], [at, 1]])]
    try:
        made = module_of_lines(lines)
    except ModuleError:
        return
    net = lay(SURFACES[name](), own_pattern(made.module), (6, 5))
    assert_sound(net)
    flat = lay(SURFACES["flat sheet"](), own_pattern(made.module), (6, 5))
    assert areas(flat.vertices, flat.corners, flat.offsets).sum() == pytest.approx(24, rel=1e-6)


@pytest.mark.parametrize(
    ("lines", "words"),
    [
        ([], "no lines"),
        ([np.array([[0.0, 0.0], [1.0, 1.0]])], "do not divide"),
        ([*SQUARE, np.array([[0.7, 0.7], [0.8, 0.7], [0.8, 0.8], [0.7, 0.7]])], "lies free"),
        ([np.random.default_rng(0).random((500, 2))], "more than 400"),
    ],
)
def test_lines_that_make_no_pattern_say_why(lines, words):
    with pytest.raises(ModuleError, match=words):
        module_of_lines(lines)


@known("wireframes", "the cells of nets are found again from shuffled lines alone")
@pytest.mark.parametrize("name", ["roof", "dome", "flat sheet", "tube"])
@pytest.mark.parametrize("pattern", sorted(set(PATTERNS) - {"sectors", "ringed", "crossed"}))
def test_the_cells_of_a_wireframe_are_found_again(name, pattern):
    net = lay(SURFACES[name](), pattern, (9, 8), "whole")
    rng = np.random.default_rng(2)
    order = rng.permutation(len(net.edges))
    ends = net.vertices[net.edges[order]].reshape(-1, 3)  # every line brings its own ends
    found = cells_of_wires(ends, np.arange(len(ends)).reshape(-1, 2), 1e-6, most=8)
    assert len(found.offsets) - 1 == net.cell_count
    assert len(found.vertices) == len(net.vertices)
    total = areas(net.vertices, net.corners, net.offsets).sum()
    assert areas(found.vertices, found.corners, found.offsets).sum() == approx(total, rel=1e-9)


def test_wires_are_joined_parted_and_pruned():
    net = lay(SURFACES["flat sheet"](), "quads", (3, 2))
    points = np.vstack([net.vertices, [[0.5, 0, 0], [0.5, 4, 0], [9, 9, 0]]])
    count = len(net.vertices)
    lines = np.vstack([net.edges, net.edges[:4], [[count, count + 1], [0, count + 2]]]).astype(
        np.int64
    )
    found = cells_of_wires(
        points + 1e-5 * np.random.default_rng(0).random(points.shape), lines, 1e-3
    )
    # The new line halves two cells; with the one that leads out it parts sides at its ends and lines it crosses.
    assert found.doubled == 4
    assert found.loose[0] == pytest.approx([9, 9, 0], abs=1e-4)
    assert len(found.offsets) - 1 == 6 + 2 + 3
    assert areas(found.vertices, found.corners, found.offsets).sum() == pytest.approx(24, rel=1e-3)
    with pytest.raises(NetError, match="close any cell"):
        cells_of_wires(np.eye(3), np.array([[0, 1], [1, 2]]), 1e-6)


def test_a_grid_of_long_lines_is_parted_where_they_cross():
    across = [[[0, y, 0.1 * y], [5, y, 0.1 * y]] for y in range(4)]
    along = [[[x, 0, 0], [x, 3, 0.3]] for x in range(6)]
    ends = np.array(across + along, float).reshape(-1, 3)
    found = cells_of_wires(ends, np.arange(20).reshape(-1, 2), 1e-6)
    assert len(found.offsets) - 1 == 15
    assert len(found.vertices) == 24


@known("four bars of length L on top of each other, T thick, engaging by e", "ends rise by T L / e")
@given(st.floats(0.05, 0.3), st.floats(0.0002, 0.001), st.booleans())
def test_bars_on_top_of_each_other_rise_to_their_ring(turn, thick, left):
    square = [np.array([[0.0, y, 0.0], [4.0, y, 0.0]]) for y in (0.0, 4.0)]
    net = lay(loft(square), "quads", (2, 2))
    made = reciprocal(net, turn if left else -turn, thickness=thick, on_top=True)
    held_to(made.gap.max() / thick, 1e-6)
    ends = np.flatnonzero(made.rise)
    assert len(ends) == 4
    lengths = np.array([_bar_length(made.net, v) for v in ends])
    top = made.rise[ends] + thick / 2
    held_to(top * made.engagement / (thick * lengths) - 1, 1e-3)


def _bar_length(net, vertex):
    """Length of the bar that ends at a vertex."""
    level = net.weave.level
    (edge,) = {
        e
        for e in range(len(net.edges))
        for k in (0, 1)
        if net.edges[e, k] == vertex and level[e, k] > 0
    }
    return net.edge_lengths[net.weave.strand == net.weave.strand[edge]].sum()


@pytest.mark.parametrize(("pattern", "surface"), [("hexagons", "roof"), ("quads", "tube")])
def test_bars_on_top_of_each_other_touch_on_curved_shapes(pattern, surface):
    net = lay(SURFACES[surface](), pattern, (6, 5))
    flush = reciprocal(net, 0.1, engagement=0.15)
    piled = reciprocal(net, 0.1, engagement=0.15, thickness=0.01, on_top=True)
    assert_sound(piled.net)
    assert (piled.net.corners == flush.net.corners).all()
    assert np.median(piled.gap) < 1e-4
    border = np.unique(piled.net.edges[piled.net.border])
    assert np.abs(piled.rise[border]).max() < 0.02
