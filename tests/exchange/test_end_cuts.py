"""What the schedule of end cuts tells a saw."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from leanlattice.exchange.material import tables_of
from leanlattice.exchange.subjects import subjects_of

from ..clauses.test_lattice_clauses import clauses, outcomes
from ..known import known


def cuts_at(*places, roll=0.0):
    """Rows of the cuts of equal square tubes from place to place in plan."""
    legs = [["line", [list(a), list(b)]] for a, b in itertools.pairwise(places)]
    found = outcomes(
        clauses(
            ("draw", {"curves": legs, "plane": "plan", "level": 1}),
            ("frame-curves", {"section": "SHS 100 × 5", "meeting": "welded", "roll": roll}),
        )
    )
    made = list(found.values())
    assert made[-1].status == "done", made[-1].error
    ((_, table),) = tables_of(subjects_of(made), "cuts")
    names = list(table.columns)
    return [dict(zip(names, row, strict=True)) for row in zip(*table.columns.values(), strict=True)]


@known("two tubes in plan at 90°", "mitred at 45°, longest at their outer sides: 90° to the right")
def test_a_corner_turns_both_cuts_to_its_outside():
    one, other = cuts_at((-2, 0), (0, 0), (0, 2))
    assert {one["end"], other["end"]} == {"start", "end"}
    assert [one["angle_deg"], other["angle_deg"]] == pytest.approx([45, 45])
    assert [one["turn_deg"], other["turn_deg"]] == pytest.approx([90, 90])
    rolled = cuts_at((-2, 0), (0, 0), (0, 2), roll=30)
    assert [row["turn_deg"] for row in rolled] == pytest.approx([60, 60])


@pytest.mark.parametrize("corner", [20.0, 75.0, 130.0])
def test_cuts_halve_a_corner_to_the_left_and_to_the_right_alike(corner):
    angle = np.radians(corner)
    for side, turn in ((1, 90), (-1, 270)):
        end = (2 * np.cos(angle), 2 * side * np.sin(angle))
        one, other = cuts_at((-2, 0), (0, 0), end)
        assert [one["angle_deg"], other["angle_deg"]] == pytest.approx([corner / 2] * 2, abs=1e-3)
        assert [one["turn_deg"], other["turn_deg"]] == pytest.approx([turn] * 2, abs=1e-2)


def test_a_member_between_corners_to_both_sides_is_cut_with_half_a_turn_between():
    rows = cuts_at((-2, 0), (0, 0), (0, 2), (2, 2))
    middle = next(r["member"] for r in rows if sum(q["member"] == r["member"] for q in rows) == 2)
    first, last = (r["turn_deg"] for r in rows if r["member"] == middle)
    assert abs(last - first) == pytest.approx(180)
