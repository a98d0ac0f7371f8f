"""Rows of cells, of quads and of triangles."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.geometry.nets import build_net
from leanlattice.core.nets.rows import RowsError, joined_in_rows, labelled

from .nets import SHEET


def grid(across, along, around=False, triangles=False):
    """A net of ``across`` by ``along`` squares; ``around`` closes it to a tube, ``triangles`` cuts
    each along its diagonal."""
    columns = across if around else across + 1
    j, i = np.meshgrid(np.arange(along + 1), np.arange(columns), indexing="ij")
    places = np.column_stack([i.ravel(), j.ravel(), np.zeros(i.size)]).astype(float)
    if around:
        turn = 2 * np.pi * i.ravel() / across
        places = np.column_stack([np.cos(turn), np.sin(turn), j.ravel()])
    a = (np.arange(along)[:, None] * columns + np.arange(across)).ravel()
    b = (np.arange(along)[:, None] * columns + (np.arange(across) + 1) % columns).ravel()
    c, d = b + columns, a + columns
    cells = np.stack([a, b, c, a, c, d], 1) if triangles else np.stack([a, b, c, d], 1)
    size = 3 if triangles else 4
    offsets = np.arange(0, cells.size + 1, size)
    return build_net(SHEET, places, np.zeros((len(places), 2)), cells.ravel(), offsets)


def rows(net, way):
    """How many cells each row has."""
    joined = joined_in_rows(net, way)
    return sorted(np.bincount(labelled(net.cell_count, net.edge_cells[joined])).tolist())


def test_rows_of_a_grid_go_the_longer_or_the_shorter_way():
    net = grid(5, 3)
    assert rows(net, "long") == [5, 5, 5]
    assert rows(net, "short") == [3] * 5
    assert rows(net, "ends") == [5, 5, 5]


def test_rows_of_a_tube_go_round_or_from_end_to_end():
    net = grid(8, 3, around=True)
    assert rows(net, "loops") == [8, 8, 8]
    assert rows(net, "ends") == [3] * 8


def test_triangles_lie_in_rows_between_strands():
    net = grid(5, 3, triangles=True)
    assert rows(net, "long") == [10, 10, 10]
    assert rows(net, "short") != rows(net, "long")
    tube = grid(8, 3, around=True, triangles=True)
    assert rows(tube, "loops") == [16, 16, 16]


def test_no_triangles_are_joined_all_round_a_vertex():
    turn = np.arange(6) * np.pi / 3
    places = np.vstack([[0, 0, 0], np.column_stack([np.cos(turn), np.sin(turn), 0 * turn])])
    cells = np.array([[0, k + 1, (k + 1) % 6 + 1] for k in range(6)])
    net = build_net(SHEET, places, np.zeros((7, 2)), cells.ravel(), np.arange(0, 19, 3))
    for way in ("long", "short", "ends"):
        assert max(rows(net, way)) < 6


def test_what_has_no_such_rows_is_told():
    with pytest.raises(RowsError, match="lie round in loops"):
        joined_in_rows(grid(4, 3), "loops")
    turn = np.arange(6) * np.pi / 3
    places = np.column_stack([np.cos(turn), np.sin(turn), 0 * turn])
    net = build_net(SHEET, places, np.zeros((6, 2)), np.arange(6), np.array([0, 6]))
    with pytest.raises(RowsError, match="neither three nor four sides"):
        joined_in_rows(net, "long")
