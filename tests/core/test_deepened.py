"""Cells of nets as solids: volumes by closed forms, mitres, openings and one shell."""

import functools

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.meshes import half_edges
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.surfaces import dome, loft
from leanlattice.core.nets.thinning import without_cells
from leanlattice.core.patterns.lay import lay
from leanlattice.core.shaping.solids import as_solid
from leanlattice.core.solids.deepened import Depth, Opening, TurnedOver, deepened

from ..conftest import arch
from ..known import approx, held_to, known

SHEET = loft([np.array([[0, 0, 0], [4, 0, 0]]), np.array([[0, 3, 0], [4, 3, 0]])])
IN = Depth(0.0, -0.2)


def shares(net, open_share):
    return np.full(net.cell_count, 1 - open_share)


def closed(solids):
    twin, _, bad = half_edges(solids.triangles, len(solids.vertices))
    return bool((twin >= 0).all()) and not len(bad)


@known(
    "cells of 1 m² of a level net, 0.2 m deep, half open",
    "0.2 (1 − ½²) m³ each; with joints (1 − j)²",
)
def test_level_cells_are_prisms():
    net = lay(SHEET, "quads", (4, 3))
    held_to(deepened(net, IN, "concrete").solids.volumes - 0.2, 1e-12)
    rings = deepened(net, IN, "concrete", Opening(shares(net, 0.5))).solids
    held_to(rings.volumes - 0.2 * 0.75, 1e-12)
    apart = deepened(net, IN, "concrete", joint=0.02).solids
    inner = (net.cell_means[:, 0] - 2) ** 2 < 1
    middle = inner & ((net.cell_means[:, 1] - 1.5) ** 2 < 0.01)
    held_to(apart.volumes[middle] - 0.2 * 0.98**2, 1e-12)
    assert rings.type_of.max() == 1


@known(
    "two plates 1 m wide at a ridge of θ, d deep inside",
    "d (1 − ½ d tan(θ/2)) each, d square to both",
)
@pytest.mark.parametrize("turn", [10.0, 60.0, 100.0])
def test_neighbours_meet_on_their_mitre(turn):
    half = np.radians(turn / 2)
    low = [np.cos(half), -np.sin(half)]
    # A ridge along y, and a metre down to both sides.
    rows = [[s * low[0], y, low[1] if s else 0.0] for y in (0.0, 1.0) for s in (-1, 0, 1)]
    places = np.array(rows)
    corners = np.array([0, 1, 4, 3, 1, 2, 5, 4], np.int32)
    net = build_net(SHEET, places, np.zeros((6, 2)), corners, np.array([0, 4, 8], np.int32))
    made = deepened(net, Depth(0.0, -0.1), "concrete").solids
    assert made.volumes == approx([0.1 * (1 - 0.05 * np.tan(half))] * 2, rel=1e-6)
    both = [as_solid(body) for body in made.bodies]
    whole = manifold3d.Manifold.batch_boolean(both, manifold3d.OpType.Add)
    held_to(whole.volume() - made.volumes.sum(), 1e-12)


@functools.cache
def net_of(name):
    return NETS[name]()


ROOF = loft([arch(0, 12, 4), arch(9, 15, 6, 5), arch(20, 11, 4.5, 9)])
NETS = {
    "dome": lambda: lay(dome(10, 3, np.zeros(3)), "hexagons", (9, 4)),
    "roof": lambda: lay(ROOF, "diagrid", (8, 7)),
}  # fmt: skip


@settings(max_examples=15)
@given(
    st.sampled_from(sorted(NETS)), st.floats(0.3, 0.9), st.floats(0.0, 0.3), st.floats(0.01, 0.3)
)
def test_cells_make_closed_solids_that_one_shell_is_the_sum_of(name, share, radius, depth):
    net = net_of(name)
    opening = Opening(shares(net, share), radius, 4 if radius else 1)
    pieces = deepened(net, Depth(depth / 2, -depth / 2), "glass", opening)
    shell = deepened(net, Depth(depth / 2, -depth / 2), "glass", opening, as_one=True)
    assert closed(pieces.solids)
    assert closed(shell.solids)
    assert pieces.solids.count == net.cell_count
    assert shell.solids.count == 1
    assert shell.solids.volumes.sum() == approx(pieces.solids.volumes.sum(), rel=1e-6)
    whole = deepened(net, Depth(depth / 2, -depth / 2), "glass").solids
    assert (whole.volumes > pieces.solids.volumes).all()


def test_cells_that_only_touch_at_a_corner_stay_closed_as_one_shell():
    net = lay(SHEET, "quads", (4, 3))
    checked = np.array([(i + j) % 2 for i in range(3) for j in range(4)], np.int64)
    some = without_cells(net, np.flatnonzero(checked))
    made = deepened(some, IN, "concrete", Opening(shares(some, 0.5)), as_one=True).solids
    assert closed(made)
    held_to(made.volumes - some.cell_count * 0.2 * 0.75, 1e-12)


@known("all cells of a dome put together", "one body of their volumes together, without gaps")
def test_cells_put_together_leave_nothing_between():
    made = deepened(net_of("dome"), Depth(0.1, -0.1), "concrete").solids
    both = [as_solid(body) for body in made.bodies]
    whole = manifold3d.Manifold.batch_boolean(both, manifold3d.OpType.Add)
    held_to(whole.volume() / made.volumes.sum() - 1, 1e-6)


def test_what_has_no_room_is_told_with_its_cell():
    net = net_of("dome")
    with pytest.raises(TurnedOver) as told:
        deepened(net, Depth(0.0, -9.0), "concrete")
    assert 0 <= told.value.cell < net.cell_count
    with pytest.raises(TurnedOver):
        deepened(net, IN, "concrete", joint=5.0)
    assert len(deepened(net, IN, "concrete", Opening(shares(net, 0.3), 5.0)).clamped)


@pytest.mark.parametrize("as_one", [True, False])
@pytest.mark.parametrize("open_share", [None, 0.5])
def test_sides_of_a_shell_are_told_apart(as_one, open_share):
    """Of a level net all is known: outside is above, inside below, the rest upright."""
    net = lay(SHEET, "quads", (4, 3))
    opening = None if open_share is None else Opening(shares(net, open_share))
    solids = deepened(net, IN, "concrete", opening, as_one=as_one).solids
    crosses = solids.whole.triangle_crosses
    up = np.sign(np.round(crosses[:, 2], 9)) * np.sign(crosses[:, 2][solids.sides == 1][0])
    assert (solids.sides == np.where(up > 0, 1, np.where(up < 0, 2, 0))).all()
    left = 12 * (1 - (open_share or 0) ** 2)
    area = np.linalg.norm(crosses, axis=1) / 2
    assert [area[solids.sides == k].sum() for k in (1, 2)] == pytest.approx([left, left])
