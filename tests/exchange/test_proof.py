"""Parts put together again: what they share."""

from __future__ import annotations

from types import SimpleNamespace

import manifold3d
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.exchange.checks.proof import _Placed, panels_overlap, ribs_overlap

from ..known import known


def plate(kind, place, size=(1.0, 1.0, 0.02), flat=True):
    """A plate (m) with its lower corner at a place, between its two sides."""
    solid = manifold3d.Manifold.cube(size).translate(place)
    between = (np.array([0.0, 0.0, 1.0]), place[2], place[2] + size[2]) if flat else None
    return _Placed(solid, kind, between)


def found(overlap, **placed):
    pack = SimpleNamespace(kept={"placed": placed}, part_rows={}, tool=lambda label: 0.0)
    return {where: value for value, where in overlap(pack) if value}


@known("two plates that share a corner", "the volume of the box they share, in mm³")
@given(st.floats(0.01, 0.9), st.floats(0.01, 0.9), st.floats(0.001, 0.019))
def test_plates_share_the_box_they_both_fill(x, y, z):
    shared = found(panels_overlap, a=plate("panel", (0, 0, 0)), b=plate("panel", (x, y, z)))
    assert shared["a and b"] == pytest.approx((1 - x) * (1 - y) * (0.02 - z) * 1e9, rel=1e-9)


def test_each_pair_is_told_where_it_belongs():
    placed = {
        "P1": plate("panel", (0, 0, 0)),
        "P2": plate("panel", (0.9, 0, 0)),
        "A1": plate("rib", (0.5, 0, 0.01), flat=False),
        "A2": plate("rib", (5, 5, 5)),
    }
    assert found(panels_overlap, **placed).keys() == {"P1 and P2"}
    assert found(ribs_overlap, **placed).keys() == {"P1 and A1", "P2 and A1"}


def test_a_stack_shares_nothing_and_neither_does_what_only_touches():
    stack = {f"S{k}": plate("rib", (0, 0, 0.02 * k)) for k in range(20)}
    assert not found(ribs_overlap, **stack)
    beside = {"a": plate("panel", (0, 0, 0)), "b": plate("panel", (1.0, 0, 0), flat=False)}
    assert not found(panels_overlap, **beside)
    assert not found(panels_overlap)
