"""The clauses that stand ends on plates and make these: what they say, refuse and hand on."""

from __future__ import annotations

import pytest

from leanlattice.clauses import end_plates

from .test_node_plates import made

PORTAL = (
    "draw",
    {"curves": [["line", [[-3, 0], [0, 2]]], ["line", [[0, 2], [3, 0]]]], "plane": "front"},
)
STEEL = ("frame-curves", {"section": "RHS 300 × 200 × 8"})
SLIM = ("give-section", {"which": "all", "section": "CHS 88.9 × 4"})
PAIRS = ("plate-ends", {"which": "all", "at": "pairs"})
ALONE = ("plate-ends", {"which": "all", "at": "alone"})
ROOF = [
    ("dome", {"span": 8, "rise": 1, "centre": [0, 0, 4]}),
    ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 3}),
    ("frame", {"inner": "CHS 139.7 × 5", "meeting": "disc"}),
    ("columns", {"which": "heights", "low": 3, "high": 4.2, "apart": 0}),
]


def told_by(outcome):
    return {name: figure.value for name, figure in outcome.figures.items()}


def test_a_portal_is_bolted_at_its_apex_and_stands_on_two_plates():
    *_, apex, feet, cut, sheets = made(
        PORTAL, STEEL, PAIRS, ALONE, ("end-plates", {}), ("set-out", {})
    )
    assert sheets.status == "done", (cut.error, sheets.error)
    assert (told_by(apex)["plated"], told_by(feet)["plated"]) == (1, 2)
    figures = told_by(cut)
    assert figures["end_plates"] == 4
    assert figures["base_plates"] == figures["bolted_plates"] == 2
    assert figures["end_plate_kinds"] == 2
    assert cut.result.labels == ["N1-E", "N2-E1", "N2-E2", "N3-E"]
    assert feet.result.mean_lengths.sum() < apex.result.mean_lengths.sum()
    assert sheets.result.made[0].of == "end plate"


def test_columns_stand_on_plates_and_the_roof_meets_as_before():
    *_, before, plated, cut = made(
        *ROOF, ("plate-ends", {"role": "column", "gap": 30}), ("end-plates", {})
    )
    count = told_by(before)["column_members"]
    assert told_by(plated)["plated"] == told_by(cut)["end_plates"] == count
    above = ~before.result.foot
    assert (plated.result.meeting[above] == before.result.meeting[above]).all()
    assert (plated.result.set_back[:-count] == before.result.set_back[:-count]).all()


def test_lowest_nodes_are_feet_from_then_on():
    legs = (
        "draw",
        {"curves": [["line", [[-3, 4], [0, 0]]], ["line", [[0, 0], [2, 4]]]], "plane": "front"},
    )
    *_, plated, cut = made(
        legs, STEEL, ("plate-ends", {"which": "all", "at": "low"}), ("end-plates", {})
    )
    assert plated.result.foot.tolist() == [False, True, False]
    assert cut.result.labels == ["N2-E"]
    assert len(cut.result.ends.node) == 2


@pytest.mark.parametrize(
    ("rows", "told", "value"),
    [
        ([("plate-ends", {"which": "all"})], "None of them ends at a foot", "at"),
        ([PAIRS, ("end-plates", {"beyond": 40})], "43.2 mm or more works", "beyond"),
        ([("end-plates", {})], "“Stand ends on plates” before this does it", None),
        (
            [SLIM, PAIRS, ("end-plates", {"bolts": "12", "bolt": "M30", "beyond": 80})],
            "holes less than 72.6 mm apart; fewer, or smaller bolts, would do",
            "bolts",
        ),
    ],
)
def test_what_cannot_be_made_is_told_with_what_would_work(rows, told, value):
    cut = made(PORTAL, STEEL, *rows)[-1]
    assert cut.status == "failed"
    assert told in cut.error
    assert cut.error_value == value


def test_nodes_without_a_plate_are_listed_and_the_rest_goes_on():
    steep = ("plate-ends", {"which": "all", "at": "alone"})
    low = (
        "draw",
        {"curves": [["line", [[0, 0], [6, 0.5]]], ["line", [[0, 0], [0, 3]]]], "plane": "front"},
    )
    *_, plated = made(low, STEEL, steep)
    assert told_by(plated)["plated"] == 1
    assert any("less than 15° off its plate" in notice.text for notice in plated.warnings)


def test_plates_that_run_into_others_are_told_with_their_names():
    two = ("draw", {"curves": [["line", [[x, 0], [x, 3]]] for x in (0, 0.45)], "plane": "front"})
    *_, cut = made(
        two, STEEL, ("plate-ends", {"which": "all", "at": "low"}), ("end-plates", {"beyond": 150})
    )
    assert cut.status == "done"
    assert any("2 plates run into others" in notice.text for notice in cut.warnings)


def test_more_plates_than_can_be_worked_with_are_refused(monkeypatch):
    monkeypatch.setattr(end_plates, "MOST", 3)
    *_, cut = made(PORTAL, STEEL, PAIRS, ALONE, ("end-plates", {}))
    assert cut.error == "There would be 4 plates; at most 3 can be made."
