"""Bays braced by diagonals: how many, how long, where they meet, and what is told where none fits."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.sections import find
from leanlattice.core.structure.builders.bracing import WAYS, braced, four_sided
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import role_number

from ..clauses.test_lattice_clauses import made
from ..known import approx, held_to, known
from . import structures
from .test_joined import sheet

TUBE, ROD = find("CHS 88.9 × 4"), find("Round 16")
WELDED = Meeting("welded")


def across(way, nx=5, ny=4, cells=None):
    net = sheet(0.0, nx, ny)
    base = from_net(net, TUBE, TUBE, "centre", 0.0, WELDED, source="net")
    cells = four_sided(net) if cells is None else cells
    return base, braced(base, net, "net", cells, way, ROD, "tie", WELDED)


@known(
    "Sheet of n × m square bays of 1 m braced", "n m diagonals of √2; crossed 3 n m and n m nodes"
)
@pytest.mark.parametrize("way", WAYS)
def test_diagonals_of_a_sheet(way):
    base, made = across(way)
    own = slice(base.count, None)
    crossed = way == "both"
    held_to(made.count - base.count - (60 if crossed else 20), 0)
    held_to(len(made.places) - len(base.places) - (20 if crossed else 0), 0)
    assert made.lengths[own].sum() == approx(20 * np.sqrt(2) * (2 if crossed else 1), rel=1e-12)
    assert set(made.role[own].tolist()) == {role_number("tie")}
    assert made.since == (len(base.places), base.count)
    held_to(made.places[: len(base.places)] - base.places, 0)
    structures.weighs_what_is_listed(made)


def test_diagonals_lead_as_they_are_wanted():
    ways = {}
    for way in ("rising", "falling", "turns"):
        base, made = across(way)
        ends = made.places[made.ends[base.count :]]
        step = ends[:, 1] - ends[:, 0]
        ways[way] = np.sign(step[:, 0] * step[:, 1])
        ways[f"{way} nodes"] = np.bincount(made.ends[base.count :].ravel(), minlength=30)
    assert set(ways["rising"]) == {1.0}
    assert set(ways["falling"]) == {-1.0}
    assert sorted(set(ways["turns"])) == [-1.0, 1.0]
    # In turns they meet in every other node, four in each within, and in none of the others.
    assert sorted(set(ways["turns nodes"].tolist())) == [0, 1, 2, 4]


def test_crossed_ones_meet_in_the_middle_of_their_bay():
    base, made = across("both", 1, 1)
    middle = made.places[len(base.places) :]
    held_to(middle - [[0.5, 0.5, 0.0]], 1e-9)
    # One runs on, two end at it.
    assert np.diff(made.offsets)[base.count :].tolist() == [3, 2, 2]


VAULT = [
    ("barrel", {}),
    ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 6}),
    ("frame", {}),
]


@pytest.mark.parametrize(
    ("which", "bays"), [("all", 60), ("second", 30), ("border", 28), ("near", 1)]
)
def test_bays_that_are_meant_are_braced(which, bays):
    found = made(*VAULT, ("brace-bays", {"which": which, "way": "rising"}))
    assert found.figures["braced_bays"].value == bays
    assert found.figures["diagonals"].value == bays
    lengths = found.result.lengths[-bays:]
    assert lengths.max() - lengths.min() < 1e-6


@pytest.mark.parametrize(
    ("rows", "values", "told"),
    [
        (
            [VAULT[0], ("pattern", {"pattern": "triangles"}), VAULT[2]],
            {},
            "No bay of the net has four",
        ),
        (
            [VAULT[0], VAULT[1], ("draw", {}), ("frame-curves", {})],
            {},
            "does not stand on this net",
        ),
    ],
)
def test_where_no_bay_can_be_braced_it_is_told(rows, values, told):
    with pytest.raises(AssertionError, match=told):
        made(*rows, ("brace-bays", values))
