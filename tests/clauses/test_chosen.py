"""Members that are chosen: what a sentence means of a structure, and what is told where it means none."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.structure.chosen import cells_beside
from leanlattice.core.structure.meetings import MEETINGS
from leanlattice.core.structure.roles import ROLE_NAMES

from .test_lattice_clauses import clauses, made, outcomes

ROOF = [("dome", {}), ("pattern", {"bays_across": 12, "bays_along": 4}), ("frame", {})]


def names(structure):
    return np.array([structure.sections[k].name for k in structure.section_of])


@pytest.mark.parametrize(
    "values",
    [
        {"which": "all"},
        {"which": "last"},
        {"which": "role", "role": "edge"},
        {"which": "group", "role": "grid", "group": 1},
        {"which": "section", "given": "CHS 139.7x5"},
        {"which": "length", "shortest": 1.0, "longest": 2.0},
        {"which": "heights", "low": 0.0, "high": 1.0},
        {"which": "around", "near": [[5, 0, 0]], "reach": 3.0},
        {"which": "nearest", "near": [[5, 0, 0], [0, 5, 0]]},
        {"which": "cells", "least": 0.0, "most": 2.0},
    ],
)
def test_a_section_goes_to_those_that_are_meant_alone(values):
    base = made(*ROOF).result
    after = made(*ROOF, ("give-section", values | {"section": "CHS 168.3 × 6.3"}))
    given = names(after.result) == "CHS 168.3 × 6.3"
    assert given.sum() == after.figures["meant"].value > 0
    assert (names(after.result)[~given] == names(base)[~given]).all()
    gain = after.result.masses.sum() - base.masses.sum()
    assert after.figures["gain"].value == pytest.approx(gain)
    wanted = {
        "all": np.ones(base.count, bool),
        "last": np.ones(base.count, bool),
        "role": base.role == ROLE_NAMES.index("edge"),
        "section": base.role == ROLE_NAMES.index("edge"),
        "length": (base.lengths >= 1) & (base.lengths <= 2),
        "heights": base.middles[:, 2] <= 1.0,
        "around": np.linalg.norm(base.middles - [5, 0, 0], axis=1) <= 3,
    }.get(values["which"])
    assert wanted is None or (given == wanted).all()


def test_members_that_are_chosen_meet_otherwise():
    seats = ("frame", {"inner": "CHS 60.3 × 4", "border": "CHS 139.7 × 5", "meeting": "seats"})
    rows = [*ROOF[:2], seats]
    base = made(*rows).result
    after = made(*rows, ("meet-otherwise", {"role": "edge", "meeting": "coped"}))
    edges = np.unique(base.path[(base.role == ROLE_NAMES.index("edge"))[base.member_of_entry]])
    ways = np.array([MEETINGS[k] for k in after.result.meeting])
    assert after.figures["met"].value == len(edges)
    assert set(ways[edges]) == {"welded"}
    others = np.setdiff1d(np.arange(len(base.places)), edges)
    assert (after.result.meeting[others] == base.meeting[others]).all()
    assert set(after.result.ends.ravel()[after.result.cuts.end]) == set(edges.tolist())
    assert after.result.cuts.is_saddle.any()
    back = made(*rows, ("meet-otherwise", {"role": "edge", "meeting": "coped"}), seats_again())
    assert back.result.set_back == pytest.approx(base.set_back)
    assert len(back.result.rules) == 1


def seats_again():
    return ("meet-otherwise", {"which": "all", "meeting": "seats"})


@pytest.mark.parametrize("by", ["long", "short", "high", "deep", "far", "close", "large", "small"])
def test_grades_run_with_what_grades_them(by):
    rows = [*ROOF, ("grade-sections", {"which": "all", "by": by, "pulls": [[5, 0, 1]]})]
    *_, net, _, graded = outcomes(clauses(*rows)).values()
    structure = graded.result
    masses = np.array([s.mass for s in structure.sections])[structure.section_of]
    source = structure.sources[0]
    values = {
        "long": structure.lengths,
        "high": structure.middles[:, 2],
        "far": np.linalg.norm(structure.middles - [5, 0, 1], axis=1),
        "large": cells_beside(structure, net.result, source),
    }
    opposite = {"short": "long", "deep": "high", "close": "far", "small": "large"}
    order = -values[opposite[by]] if by in opposite else values[by]
    assert len(structure.sections) >= 3
    rows = np.argsort(order)
    # Even steps: nothing larger in what grades it is thinner, but for rounding at a step.
    worse = np.diff(masses[rows]) < 0
    assert (np.diff(order[rows])[worse] < 1e-9).all()


@pytest.mark.parametrize(
    ("row", "told"),
    [
        (("give-section", {"which": "role", "role": "chord"}), "grid members and edge members"),
        (("give-section", {"which": "group", "group": 3}), "has grid members, edge members"),
        (("give-section", {"which": "length", "shortest": 90, "longest": 99}), "lengths are 0.87"),
        (("give-section", {"which": "length", "shortest": 9, "longest": 1}), "between 9 and 1"),
        (("leave-out-members", {"which": "all"}), "nothing would be left"),
        (("grade-sections", {"thick": "HEA 300"}), "different families"),
        (("grade-sections", {"thin": "CHS 219.1 × 8"}), "heavier"),
        (("turn-members", {"which": "all", "towards": "curve"}), "no curve"),
    ],
)
def test_what_cannot_be_meant_is_told_with_what_there_is(row, told):
    *_, found = outcomes(clauses(*ROOF, row)).values()
    assert found.status == "failed"
    assert told in found.error


def test_heights_point_where_they_are_wanted():
    rows = [*ROOF[:2], ("frame", {"inner": "RHS 200 × 100 × 6.3", "border": "RHS 200 × 100 × 6.3"})]
    place = [0.0, 0.0, 20.0]
    for towards, wanted in (
        ("upright", lambda middle: np.array([0, 0, 1.0])),
        ("places", lambda middle: np.array(place) - middle),
    ):
        values = {"which": "all", "towards": towards, "pulls": [place]}
        structure = made(*rows, ("turn-members", values)).result
        for segment in range(structure.count):
            middle = structure.axis_places[2 * segment : 2 * segment + 2].mean(axis=0)
            side = np.cross(structure.chords[segment], wanted(middle))
            # The height lies in the plane of the axis and the direction, on its side.
            assert abs(structure.up[segment] @ side) < 1e-6 * np.linalg.norm(side)
            assert structure.up[segment] @ wanted(middle) > 0


def test_what_hangs_free_is_told():
    rows = [("barrel", {}), ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 4})]
    found = made(*rows, ("frame", {}), ("leave-out-members", {"which": "role", "role": "edge"}))
    (told,) = [w for w in found.warnings if "hangs free" in w.text]
    structure = found.result
    assert set(told.which) == set(np.flatnonzero(structure.valence == 1).tolist())
    assert found.figures["left_out"].value == 20
