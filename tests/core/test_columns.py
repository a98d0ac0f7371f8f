"""Columns under a structure: where they stand, what they meet, and what stays as it was."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.rays import first_hits
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.columns import with_columns, with_rails
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.roles import role_number
from leanlattice.core.structure.solids import member_solids

from ..conftest import roof, surfaces
from ..known import held_to, known

TUBE, POST = find("CHS 60.3 × 4"), find("CHS 139.7 × 5")
WELDED = Meeting("welded")


def framed(surface, way="welded"):
    net = lay(surface, "quads", (6, 5))
    return from_net(net, TUBE, TUBE, "centre", 0.0, Meeting(way, 0.0, "each", 0.05), source="a")


def standing(base, nodes, drop=4.0):
    nodes = np.asarray(nodes, np.int32)
    return with_columns(base, nodes, base.places[nodes] - [0.0, 0, drop], POST, WELDED)


def test_rails_run_below_members_that_join_heads_and_fit_the_columns():
    surface = roof()
    base = framed(surface)
    nodes = np.array([0, 1, 2, 40], np.int32)
    feet = base.places[nodes] - [0.0, 0, 3.0]
    stands = standing(base, nodes, 3.0)
    made = with_rails(stands, nodes, feet, 0.5, TUBE, Meeting("welded", saddles=True))
    rails = np.flatnonzero(made.role == role_number("strut"))
    joined = {tuple(sorted(e)) for e in base.ends.tolist()} & {(0, 1), (1, 2), (0, 2)}
    assert len(rails) == len(joined) == 2
    heights = made.places[made.ends[rails]] - (base.places[[[0, 1], [1, 2]]] - [0, 0, 2.5])
    held_to(np.sort(np.abs(heights).max(axis=(1, 2)))[0], 1e-9)
    # Columns run on past them, and each end fits one.
    assert made.cuts.end[made.cuts.is_saddle].tolist() == [2 * r + e for r in rails for e in (0, 1)]
    assert (np.diff(made.offsets)[base.count : base.count + 4] == [3, 3, 3, 2]).all()
    assert made.since == stands.since


@given(
    surfaces(),
    st.sets(st.integers(0, 41), min_size=1, max_size=6),
    st.sampled_from(["welded", "ball"]),
)
def test_a_structure_stays_what_it_was_but_for_what_its_columns_meet(surface, chosen, way):
    base = framed(surface, way)
    nodes = sorted(k for k in chosen if k < len(base.places)) or [0]
    made = standing(base, nodes)
    assert made.since == (len(base.places), base.count)
    assert (len(made.places), made.count) == (
        len(base.places) + len(nodes),
        base.count + len(nodes),
    )
    assert (made.places[: len(base.places)] == base.places).all()
    assert (made.path[: len(base.path)] == base.path).all()
    # Each column leads from its foot up to its node.
    assert made.ends[base.count :, 1].tolist() == nodes
    assert np.flatnonzero(made.foot).tolist() == list(range(len(base.places), len(made.places)))
    assert set(made.role[base.count :].tolist()) == {role_number("column")}
    held_to(made.lengths[base.count :] - 4.0, 1e-9)
    away = ~np.isin(base.ends, nodes).any(axis=1)
    held_to((made.set_back[: base.count] - base.set_back)[away], 1e-12)
    before, after = names_of_structure(base), names_of_structure(made)
    assert after.every_member[: base.count] == before.every_member
    assert after.every_node[: len(base.places)] == before.every_node


def test_grid_members_stop_at_the_column_that_bears_them():
    """A column goes up to the middle of the node; what meets it there stops at its side."""
    base = framed(roof())
    node = int(np.argmax(base.places[:, 2]))
    made = standing(base, [node])
    at_node = (base.ends == node).any(axis=1)
    back = np.where(base.ends == node, made.set_back[: base.count], np.nan)[at_node]
    assert np.nanmin(back) > 0.03
    assert made.valence[node] == base.valence[node] + 1


@known("an upright column", "as long as its head is above its foot, a foot cut square")
def test_an_upright_column_is_cut_square_at_its_foot():
    base = framed(roof())
    made = standing(base, [3], 2.5)
    column = base.count
    assert made.set_back[column, 0] == 0
    solids = {m: vertices for m, vertices, _ in member_solids(made)}
    held_to(solids[column][:, 2].min() - (base.places[3, 2] - 2.5), 1e-9)
    assert made.up[-1].tolist() == [1.0, 0.0, 0.0]


@given(st.integers(0, 10**6))
def test_rays_meet_the_first_triangle_in_their_way(seed):
    random = np.random.default_rng(seed)
    vertices, triangles = random.normal(size=(24, 3)), random.integers(0, 24, (20, 3))
    starts, ways = random.normal(size=(8, 3)) * 3, random.normal(size=(8, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    far = first_hits(vertices, triangles, starts, ways)
    for start, way, found in zip(starts, ways, far, strict=True):
        hits = []
        for a, b, c in vertices[triangles]:
            sides = np.column_stack([b - a, c - a, -way])
            if abs(np.linalg.det(sides)) < 1e-12:
                continue
            u, v, t = np.linalg.solve(sides, start - a)
            if u >= 0 and v >= 0 and u + v <= 1 and t > 0:
                hits.append(t)
        assert found == pytest.approx(min(hits, default=np.inf), abs=1e-9)


def test_rays_that_meet_nothing_go_on_without_end():
    square = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    triangles = np.array([[0, 1, 2], [0, 2, 3]])
    starts = np.array([[0.5, 0.5, 2], [0.5, 0.5, -2], [3, 0.5, 2], [0.5, 0.5, 2]])
    ways = np.array([[0, 0, -1.0], [0, 0, -1], [0, 0, -1], [1, 0, 0]])
    assert first_hits(square, triangles, starts, ways).tolist() == [2.0, np.inf, np.inf, np.inf]
    assert first_hits(square, triangles[:0], starts[:1], ways[:1]).tolist() == [np.inf]
