"""Cages changed face by face: whatever is done to one, it stays a cage."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from leanlattice.core.shaping.cages import (
    Cage,
    CageError,
    add_quad,
    bridge,
    delete_faces,
    extrude_edges,
    limit,
    split_edge,
    split_face,
    subdivide,
    toggle_corners,
    toggle_creases,
    weld_vertices,
)

from ..known import held_to, known


def grid(columns, rows, height=lambda x, y: 0.0):
    """Level squares of 1 m in columns and rows."""
    places = [[x, y, height(x, y)] for y in range(rows + 1) for x in range(columns + 1)]
    wide = columns + 1
    faces = [
        [y * wide + x, y * wide + x + 1, (y + 1) * wide + x + 1, (y + 1) * wide + x]
        for y in range(rows)
        for x in range(columns)
    ]
    return Cage.of([places, faces])


def area(cage):
    """Area in plan, below 0 of faces that lie upside down."""
    out = 0.0
    for face in cage.faces:
        x, y = np.array([cage.vertices[v][:2] for v in face]).T
        out += float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2
    return out


def euler(cage):
    return len(cage.vertices) - len(cage.owners()) + len(cage.faces)


def borders(cage):
    return sorted(edge for edge, owners in cage.owners().items() if len(owners) == 1)


class Changes(RuleBasedStateMachine):
    """A hand that does whatever the board offers, in any order."""

    def __init__(self):
        super().__init__()
        self.cage = grid(2, 2)

    def _try(self, change, *arguments):
        if len(self.cage.faces) > 60:
            return
        try:
            self.cage = change(self.cage, *arguments)
        except CageError as error:
            assert str(error).endswith(".")

    def _edge(self, k):
        edges = sorted(self.cage.owners())
        return edges[k % len(edges)]

    @rule(k=st.integers(0, 99), share=st.floats(0.1, 0.9))
    def split_an_edge(self, k, share):
        self._try(split_edge, self._edge(k), share)

    @rule(k=st.integers(-1, 60))
    def split_a_face(self, k):
        self._try(split_face, k)

    @rule(ks=st.lists(st.integers(0, 99), min_size=1, max_size=3), z=st.floats(-2, 2))
    def draw_edges_out(self, ks, z):
        self._try(extrude_edges, [self._edge(k) for k in ks], (0.3, 0.2, z))

    @rule(one=st.integers(0, 99), two=st.integers(0, 99))
    def bridge_two(self, one, two):
        edges = borders(self.cage) or sorted(self.cage.owners())
        self._try(bridge, edges[one % len(edges)], edges[two % len(edges)])

    @rule(ks=st.lists(st.integers(0, 60), min_size=1, max_size=3))
    def delete(self, ks):
        self._try(delete_faces, ks)

    @rule(ks=st.lists(st.integers(0, 60), min_size=1, max_size=3))
    def weld(self, ks):
        self._try(weld_vertices, ks)

    @rule(k=st.integers(0, 99))
    def crease(self, k):
        self._try(toggle_creases, [self._edge(k)])

    @rule(k=st.integers(0, 60))
    def mark(self, k):
        self._try(toggle_corners, [k])

    @rule(x=st.floats(-5, 5), size=st.floats(0.5, 3))
    def put_in(self, x, size):
        self._try(add_quad, (x, 1.0, 0.5), size)

    @invariant()
    def it_is_a_cage(self):
        assert self.cage.checked() == self.cage
        assert max(map(len, self.cage.owners().values())) <= 2

    @invariant()
    def it_is_read_as_it_is_written(self):
        assert Cage.of(self.cage.plain()) == self.cage

    @invariant()
    def each_corner_of_a_face_becomes_a_quad(self):
        mesh, kind, sharp = subdivide(self.cage, 1)
        assert mesh.face_count == sum(map(len, self.cage.faces))
        vertices = len(self.cage.vertices) + len(self.cage.owners()) + len(self.cage.faces)
        assert len(mesh.vertices) == len(kind) == vertices
        assert np.isfinite(mesh.vertices).all()
        assert len(sharp) == 2 * len(self.cage.creases | set(borders(self.cage)))


Changes.TestCase.settings = settings(max_examples=50, stateful_step_count=15)
TestChanges = Changes.TestCase


@given(st.integers(1, 4), st.integers(1, 4), st.integers(0, 99), st.floats(0.05, 0.95))
def test_splitting_leaves_the_area_and_the_kind_of_surface(columns, rows, k, share):
    cage = grid(columns, rows)
    edges = sorted(cage.owners())
    for split in (
        split_edge(cage, edges[k % len(edges)], share),
        split_face(cage, k % len(cage.faces)),
    ):
        assert area(split) == pytest.approx(area(cage), rel=1e-12)
        assert euler(split) == euler(cage)
        assert len(split.faces) > len(cage.faces)


@pytest.mark.parametrize(("edge", "at"), [((0, 1), (0.25, 0.0)), ((1, 0), (0.25, 0.0))])
def test_a_share_counts_from_the_same_side_all_along_the_strip(edge, at):
    split = split_edge(grid(1, 3), edge, 0.25)
    new = sorted(v for v in split.vertices if v[0] not in (0.0, 1.0))
    assert new == [(at[0], float(y), 0.0) for y in range(4)]


def test_an_edge_drawn_out_and_welded_back_closes_a_tube():
    cage = grid(1, 1)
    for by in ((0, 0, 1), (0, 1, 0), (0, 0, -1)):
        far = max(borders(cage), key=lambda e: sum(e))
        cage = extrude_edges(cage, [far], by)
    assert euler(cage) == 1
    first, last = ((0, 1), borders(cage)[-1])
    assert len(cage.faces) == 4
    assert last != first


@known("vertices of a cage of six squares and one of creases", "where further rounds lead them")
@pytest.mark.parametrize("creases", [[], [[0, 1], [1, 3], [3, 2], [0, 2]]])
def test_the_limit_is_where_rounds_lead(creases):
    corner = [[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)]
    faces = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]
    cage = Cage.of([corner, faces, creases])
    few, many = ((made[0], limit(*made)[0]) for made in (subdivide(cage, n) for n in (2, 4)))
    # Vertices of a round are the first of the next.
    held_to(few[1] - many[1][: len(few[1])], 1e-12)
    assert np.abs(few[0].vertices - few[1]).max() > 1e-3
