"""Double-layer grids: how many members and nodes there are, and where they lie."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.nets.turns import NotAlternate
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.double_layer import (
    double_layer,
    second_layer,
)
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import ROLE_NAMES

from ..conftest import surfaces
from ..known import held_to, known
from . import structures

TOP, BOTTOM, WEB = find("CHS 88.9 × 4"), find("CHS 76.1 × 4"), find("CHS 48.3 × 4")
DEPTH = 0.7


def sheet(across, along, pattern="quads", bay=1.0):
    """A level net of bays of one size."""
    ends = [np.array([[0.0, y, 0.0], [across * bay, y, 0.0]]) for y in (0.0, along * bay)]
    return lay(loft(ends), pattern, (across, along))


def doubled(net, arrangement, thinned=False, depth=DEPTH, way="welded"):
    layer = second_layer(net, arrangement, thinned)
    places = layer.beside - depth * layer.normals
    return double_layer(net, layer, places, TOP, BOTTOM, WEB, Meeting(way, 0.0, "each", 0.05))


def counts(made):
    """Members of each group, and nodes."""
    return (*np.bincount(made.group, minlength=3).tolist(), len(made.places))


@known("square on square offset of n × m bays", "n(m+1)+m(n+1), n(m−1)+m(n−1), 4nm; nodes of both")
@pytest.mark.parametrize(("n", "m"), [(1, 1), (2, 3), (5, 4)])
def test_square_on_square_offset_is_as_it_is_written_out(n, m):
    made = doubled(sheet(n, m, bay=1.5), "cells", depth=1.0)
    held_to(
        np.subtract(
            counts(made),
            (
                n * (m + 1) + m * (n + 1),
                n * (m - 1) + m * (n - 1),
                4 * n * m,
                (n + 1) * (m + 1) + n * m,
            ),
        ),
        0,
    )
    by_hand = structures.double_layer(n, m, 1.5, 1.0)

    def lines(structure, shift):
        ends = structure.places[structure.ends] + shift
        return sorted(map(tuple, np.round(np.sort(ends, axis=1), 6).reshape(-1, 6).tolist()))

    assert lines(made, 0.0) == lines(by_hand, [0.0, 0.0, -1.0])


@known("square on diagonal of n × n bays, n odd", "(n² + 1) / 2 nodes, 4 webs each, chords √2 bays")
@pytest.mark.parametrize("n", [3, 5, 7])
def test_square_on_diagonal(n):
    made = doubled(sheet(n, n), "alternate")
    below = (n * n + 1) // 2
    # Each inner vertex lies between two nodes of the layer.
    chords = (n - 1) ** 2
    held_to(
        np.subtract(counts(made), (2 * n * (n + 1), chords, 4 * below, (n + 1) ** 2 + below)), 0
    )
    held_to(made.lengths[made.group == 1] - np.sqrt(2), 1e-12)


@known("two-way trusses of n × m bays", "a chord below each above, a post a node, a diagonal a bay")
@pytest.mark.parametrize(("n", "m"), [(2, 3), (5, 4)])
def test_trusses_both_ways(n, m):
    made = doubled(sheet(n, m), "nodes")
    edges, nodes = n * (m + 1) + m * (n + 1), (n + 1) * (m + 1)
    held_to(np.subtract(counts(made), (edges, edges, nodes + edges, 2 * nodes)), 0)
    roles = np.array(ROLE_NAMES)[made.role]
    held_to(made.lengths[roles == "post"] - DEPTH, 1e-12)
    held_to(made.lengths[roles == "web"] - np.hypot(1.0, DEPTH), 1e-12)
    # Diagonals come together in pairs: from every other node above down to those between.
    above = np.unique(made.ends[roles == "web", 0])
    assert len(above) == -(-nodes // 2)


@known("corners of n × m top bays to the middles of the bottom ones", "4 webs and 4 chords a bay")
@pytest.mark.parametrize(("n", "m"), [(2, 3), (5, 4)])
def test_corners_of_top_bays_to_middles_of_bottom_bays(n, m):
    made = doubled(sheet(n, m), "middles")
    edges, nodes, bays = n * (m + 1) + m * (n + 1), (n + 1) * (m + 1), n * m
    wanted = (edges, 4 * bays + 2 * (n + m), nodes + 4 * bays, 2 * nodes + bays)
    held_to(np.subtract(counts(made), wanted), 0)
    is_web = (made.group == 2) & (np.array(ROLE_NAMES)[made.role] == "web")
    held_to(made.lengths[is_web] - np.sqrt(0.5 + DEPTH**2), 1e-12)
    inner = (made.group == 1) & (made.ends.max(axis=1) >= 2 * nodes)
    held_to(made.lengths[inner] - np.sqrt(0.5), 1e-12)


@known("triangle on triangle", "three webs a node, chords as long as those above")
def test_triangle_on_triangle():
    net = sheet(6, 6, "triangles")
    made = doubled(net, "alternate")
    webs, below = counts(made)[2], counts(made)[3] - len(net.vertices)
    assert webs == 3 * below
    upper, lower = (set(np.round(made.lengths[made.group == k], 6).tolist()) for k in (0, 1))
    assert lower <= upper


def test_bays_left_open_are_every_second_one_both_ways():
    whole, thinned = (second_layer(sheet(9, 7), "cells", thin) for thin in (False, True))
    gone = {tuple(p) for p in np.round(whole.beside[:, :2], 6)} - {
        tuple(p) for p in np.round(thinned.beside[:, :2], 6)
    }
    assert gone == {(x + 0.5, y + 0.5) for x in (1, 3, 5, 7) for y in (1, 3, 5)}
    assert len(thinned.webs) == 4 * len(thinned.beside)


@given(
    surfaces(),
    st.sampled_from(["quads", "diagrid", "triangles", "hexagons"]),
    st.sampled_from(["cells", "alternate", "nodes", "middles"]),
    st.booleans(),
    st.sampled_from(["welded", "ball"]),
)
def test_every_node_is_joined_and_no_member_is_there_twice(
    surface, pattern, arrangement, thin, way
):
    net = lay(surface, pattern, (6, 5))
    try:
        made = doubled(net, arrangement, thin, 0.3, way)
    except NotAlternate as error:
        assert arrangement == "alternate"
        assert np.linalg.norm(net.vertices - error.at, axis=1).min() < 10
        return
    ends = np.sort(made.ends, axis=1)
    assert len(np.unique(ends, axis=0)) == made.count
    assert (ends[:, 0] != ends[:, 1]).all()
    joined = np.bincount(made.ends.ravel(), minlength=len(made.places))
    assert joined.min() > 0
    below = joined[len(net.vertices) :]
    assert below.min() >= (3 if arrangement != "nodes" else 1)
    axis = made.chords / np.linalg.norm(made.chords, axis=1, keepdims=True)
    held_to(np.einsum("ij,ij->i", axis, made.up), 1e-9)
    held_to(np.linalg.norm(made.up, axis=1) - 1, 1e-9)
    assert (made.origin[: len(net.vertices), 1] == np.arange(len(net.vertices))).all()
    assert (made.origin[len(net.vertices) :] == -1).all()


def test_webs_stop_at_chords():
    """Chords of one precedence share planes; webs, which carry less, stop at their surfaces."""
    made = doubled(sheet(3, 3), "cells")
    webs = made.group == 2
    assert made.set_back[webs].mean() > 0.02 > made.set_back[~webs].mean()
