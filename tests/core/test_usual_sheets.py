"""Sizes in which sheets are sold: the least that takes all parts."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.parts import Part
from leanlattice.core.flat.usual_sheets import USUAL, least_usual
from leanlattice.core.materials import MATERIALS


def plate(wide, high, material="steel", turned=0.0):
    corners = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], float)
    c, s = np.cos(turned), np.sin(turned)
    return Part("P1", "panel", corners @ [[c, s], [-s, c]], np.eye(4), material, 3.0)


@pytest.mark.parametrize(
    ("parts", "turns", "size"),
    [
        ([plate(900, 900)], "quarters", (2000, 1000)),
        # 1,960 × 960 is what a margin of 20 mm leaves of the least one.
        ([plate(1961, 960)], "quarters", (2500, 1250)),
        ([plate(960, 1960)], "quarters", (2000, 1000)),
        ([plate(960, 1960)], "none", (4000, 2000)),
        ([plate(900, 900), plate(5000, 300)], "quarters", (6000, 2000)),
        ([plate(900, 900), plate(9000, 300)], "quarters", (2000, 1000)),
        ([plate(2400, 1200, "plywood")], "quarters", (2500, 1250)),
        ([plate(2400, 1200, "glass")], "quarters", (3210, 2250)),
        ([], "quarters", (2000, 1000)),
    ],
)
def test_the_least_size_that_takes_all_parts_is_found(parts, turns, size):
    assert least_usual(parts, turns, 20.0) == size


def test_parts_may_lie_aslant_where_they_are_turned_freely():
    aslant = plate(2300, 300, turned=np.pi / 4)
    assert least_usual([aslant], "quarters", 20.0) == (4000, 2000)
    assert least_usual([aslant], "free", 20.0) == (2500, 1250)


@given(st.lists(st.tuples(st.floats(10, 7000), st.floats(10, 2500)), min_size=1, max_size=6))
def test_no_lesser_size_takes_as_many_parts(sizes):
    parts = [plate(wide, high) for wide, high in sizes]
    found = least_usual(parts, "quarters", 20.0)

    def taken(size):
        room = sorted(side - 40 for side in size)
        return sum(all(a <= b for a, b in zip(sorted(part), room, strict=True)) for part in sizes)

    for other in USUAL["steel"]:
        if other[0] * other[1] < found[0] * found[1]:
            assert taken(other) < taken(found)
        else:
            assert taken(other) <= taken(found) or taken(found) == len(sizes)


def test_every_family_of_sheets_has_sizes():
    families = {m.family for m in MATERIALS.values()} - {"timber", "concrete", "stone"}
    assert set(USUAL) == families
