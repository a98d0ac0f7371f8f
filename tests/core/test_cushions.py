"""Cushions: membranes over cells against closed forms, and as closed solids."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.nets.insets import reaches
from leanlattice.core.patterns.lay import lay
from leanlattice.core.solids.cushions import Foils, blown

from ..conftest import roof
from ..known import approx, known
from .nets import one_cell


def over(corners, up=0.1, down=0.0, held=0.0, within=1e-6):
    """A cushion over one cell."""
    corners = np.asarray(corners, float)
    places = np.column_stack([corners, np.zeros(len(corners))])
    net = one_cell(places)
    foils = Foils(up, down, held, "ETFE", 0.0002, within)
    return blown(net, np.ones(1, bool), foils), net


def regular(sides):
    angle = 2 * np.pi * np.arange(sides) / sides
    return np.column_stack([np.cos(angle), np.sin(angle)])


@known("a membrane over an equilateral triangle, a square and a disc", "mean 0.45, 0.4770 and 0.5")
@pytest.mark.parametrize(("sides", "mean"), [(3, 0.45), (4, 0.035144 / 0.073671), (48, 0.5)])
def test_a_membrane_holds_what_its_closed_form_does(sides, mean):
    cushions, net = over(regular(sides))
    span = 2 * np.cos(np.pi / sides)
    solids = cushions.solids
    assert reaches(net) == approx([span / 2])
    assert solids.vertices[:, 2].max() == pytest.approx(0.1 * span)
    area = sides / 2 * np.sin(2 * np.pi / sides)
    assert solids.volumes[0] == pytest.approx(mean * area * 0.1 * span, rel=0.02)
    assert solids.areas[0] > 2 * area
    assert solids.masses[0] == pytest.approx(solids.areas[0] * 0.0002 * 1750)


@settings(max_examples=15)
@given(st.floats(0.01, 0.5), st.floats(0.0, 0.5), st.floats(0.0, 0.1))
def test_cushions_are_closed_and_as_high_as_told(up, down, held):
    net = lay(roof(), "diagrid", (5, 4))
    found = blown(net, np.ones(net.cell_count, bool), Foils(up, down, held, "ETFE", 2e-4, 0.01))
    solids = found.solids
    assert sorted([*found.cells, *found.without_room, *found.bent_in]) == list(
        range(net.cell_count)
    )
    assert (solids.volumes > 0).all()
    edges = np.concatenate([solids.triangles[:, [k, (k + 1) % 3]] for k in range(3)])
    forward = {tuple(e) for e in edges.tolist()}
    assert len(forward) == len(edges)
    assert forward == {(b, a) for a, b in forward}
    # Along its normal each is as high as its foils rise and hang, and its border is bent.
    spans = 2 * (reaches(net)[found.cells] - held)
    assert (solids.sizes[:, 2] > (up + down) * spans - 1e-9).all()
    flat = (np.diff(net.offsets) == 3)[found.cells]
    assert solids.sizes[flat, 2] == pytest.approx((up + down) * spans[flat])


def test_a_cell_bent_in_has_no_cushion_and_others_have():
    arrow = [[0, 0], [2, 1], [0, 2], [1.7, 1]]
    found, _ = over(arrow[::-1] if _turns_right(arrow) else arrow)
    assert not len(found.cells)
    assert len(found.bent_in) + len(found.without_room) == 1
    found, _ = over(regular(6), held=2.0)
    assert found.without_room.tolist() == [0]
    assert found.solids.count == 0


def _turns_right(corners):
    x, y = np.array(corners).T
    return (x * np.roll(y, -1) - y * np.roll(x, -1)).sum() < 0
