"""Nets: soundness as properties over surfaces, patterns, counts and borders."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.nets import NetError, build_net
from leanlattice.core.geometry.polygons import areas, vector_areas
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.patterns.borders import BORDERS
from leanlattice.core.patterns.lay import bays_for_module, lay
from leanlattice.core.patterns.table import PATTERNS

from ..conftest import SURFACES, roof
from ..known import approx, held_to, known


def assert_sound(net):
    """What every net promises, worked out here from cells and coordinates alone."""
    cells = np.split(net.corners, net.offsets[1:-1])
    directed = [(a, b) for c in cells for a, b in zip(c, np.roll(c, -1), strict=True)]
    assert len(set(directed)) == len(directed), "two cells turn the same way along an edge"
    undirected = {tuple(sorted(e)) for e in directed}
    assert undirected == {tuple(e) for e in net.edges.tolist()}, (
        "an edge is missing, doubled or without a cell"
    )
    assert len(undirected) == len(net.edges)
    known = set(directed)
    border = {e for e in directed if e[::-1] not in known}
    assert {tuple(sorted(e)) for e in border} == {tuple(e) for e in net.edges[net.border].tolist()}
    looped = {
        (a, b)
        for loop in net.loops
        for a, b in zip(loop.tolist(), np.roll(loop, -1).tolist(), strict=True)
    }
    assert looped == border, "border loops are not the border"
    assert set(net.corners.tolist()) == set(range(len(net.vertices))), "a vertex without a cell"
    assert net.edge_lengths.min() > 1e-6 * np.ptp(net.vertices, axis=0).max(), (
        "an edge without length"
    )


def euler(net):
    return len(net.vertices) - len(net.edges) + net.cell_count


@pytest.mark.parametrize("border", BORDERS)
@pytest.mark.parametrize("pattern", PATTERNS)
def test_every_pattern_on_every_surface(surface, pattern, border):
    net = lay(surface, pattern, (6, 5), border)
    assert_sound(net)
    # A tube is an annulus; everything else here is a disc.
    tube = surface.closed_u and not surface.degenerate
    assert euler(net) == (0 if tube else 1)
    assert len(net.loops) == (2 if tube else 1)
    if border != "past":
        assert np.abs(net.vertices - surface.points(net.uv)).max() < 1e-12
    facing = np.einsum(
        "ij,ij->i", vector_areas(net.vertices, net.corners, net.offsets), _normals_of_cells(net)
    )
    assert facing.min() > 0, "a cell is inside out"


def _normals_of_cells(net):
    total = np.add.reduceat(net.normals[net.corners], net.offsets[:-1], axis=0)
    return total / np.linalg.norm(total, axis=1, keepdims=True)


@known(
    "nets of any number of bays",
    "V − E + F of disc and annulus; each inner edge in two cells",
)
@given(
    st.sampled_from(sorted(SURFACES)), st.sampled_from(sorted(PATTERNS)), st.sampled_from(sorted(BORDERS)),
    st.integers(3, 14), st.integers(2, 14),
)  # fmt: skip
def test_any_number_of_bays(name, pattern, border, across, along):
    net = lay(SURFACES[name](), pattern, (across, along), border)
    if net.cell_count:
        assert_sound(net)


@known("diagrid of n × m bays", "2nm + n + m cells cut, 2nm − n − m whole; inner valence 4")
def test_counts_of_a_diagrid_on_an_open_surface():
    n, m = 7, 5
    cut, whole, past = (lay(roof(), "diagrid", (n, m), b) for b in ("cut", "whole", "past"))
    assert cut.cell_count == past.cell_count == 2 * n * m + n + m
    assert whole.cell_count == 2 * n * m - n - m
    assert np.bincount(np.diff(cut.offsets))[3:5].tolist() == [2 * (n + m), 2 * n * m - n - m]
    assert set(np.diff(whole.offsets)) == {4}
    assert past.uv.min() < 0
    assert past.uv.max() > 1
    inner = np.setdiff1d(np.arange(len(cut.vertices)), cut.loop_vertices)
    assert set(cut.valence[inner]) == {4}


def test_inner_valence_and_area():
    sheet = SURFACES["flat sheet"]()
    for pattern, valences in (
        ("quads", {4}),
        ("diagrid", {4}),
        ("triangles", {6}),
        ("alternating", {4, 8}),
    ):
        net = lay(sheet, pattern, (6, 4))
        inner = np.setdiff1d(np.arange(len(net.vertices)), net.loop_vertices)
        assert set(net.valence[inner]) == valences
        assert areas(net.vertices, net.corners, net.offsets).sum() == pytest.approx(24.0, rel=1e-12)


def test_the_apex_of_a_dome_is_one_vertex():
    for pattern in PATTERNS:
        net = lay(dome(8, 2, np.zeros(3)), pattern, (10, 4))
        top = np.flatnonzero(net.vertices[:, 2] > 2 - 1e-9)
        assert len(top) == 1
        if pattern in ("quads", "diagrid", "triangles", "alternating", "equilateral"):
            assert net.valence[top[0]] == 10


@known("module", "nearest whole number of real mean lengths")
@given(st.floats(0.3, 3.0))
def test_module_gives_the_nearest_whole_bays(module):
    surface = roof()
    along_u, along_v = surface.lengths
    nu, nv = bays_for_module(surface, module)
    for length, n in ((along_u, nu), (along_v, nv)):
        held_to(abs(n - length / module), 0.5)
        rows = lay(surface, "quads", (nu, nv))
        assert rows.cell_count == nu * nv
    assert surface.lengths[1] == approx(_mean_length_along_v(surface), rel=1e-3)


def _mean_length_along_v(surface):
    t = np.linspace(0, 1, 2000)
    lines = [surface.points(np.column_stack([np.full(2000, u), t])) for u in np.linspace(0, 1, 33)]
    return np.mean([np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line in lines])


def test_cells_that_are_no_surface_are_refused():
    points = np.random.default_rng(0).random((5, 3))
    fan = np.array([[0, 1, 2], [1, 0, 3], [0, 1, 4]], np.int32)
    with pytest.raises(NetError, match="do not form a surface"):
        build_net(roof(), points, points[:, :2], fan.ravel(), np.arange(0, 10, 3, dtype=np.int32))
