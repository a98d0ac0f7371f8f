"""What rib clauses say of what they are given."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from leanlattice.clauses.ribs.lapped import FAULTY
from leanlattice.core.flat.together import _Near
from leanlattice.core.ribs.laps import FAULTS
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

BALL = ("ball", {"radius": 1.0, "solid": "body"})
HALL = ("box", {"along_x": 6, "along_y": 3, "height": 1})


def outcome_of(*clauses, on=None):
    """The outcome of the last of clauses given by kind and values, with what it is chosen to work on."""
    entries = [
        ClauseEntry(id=f"c{k}", kind=kind, values=values)
        for k, (kind, values) in enumerate(clauses)
    ]
    entries[-1].on.update(on or {})
    return list(evaluate(Statement(name="Ribs", clauses=entries), ResultCache()))[-1]


def curve(kind, *points):
    return ("draw", {"curves": [[kind, [list(p) for p in points]]]})


FOLLOWING = {"run": "following", "number_first": 6, "number_second": 2, "thick_second": 6}


def test_ribs_follow_a_spine_on_both_sides_and_say_how_far_they_are_bent():
    gentle = outcome_of(
        HALL, curve("spline", (-2.8, -0.4), (0, 0.3), (2.8, -0.4)), ("spine-ribs", FOLLOWING)
    )
    assert gentle.error == ""
    bent = [r for r in gentle.result.ribs if r.bend]
    assert len(bent) == 2
    assert gentle.figures["crossings"].value == 12
    assert all(r.bend.radius > 60 * 0.006 for r in bent)
    assert gentle.figures["overlap"].value < 1
    told = outcome_of(
        HALL,
        curve("spline", (-2.8, -0.4), (0, 0.3), (2.8, -0.4)),
        ("spine-ribs", FOLLOWING | {"thick_second": 120}),
    )
    (thick,) = [w for w in told.warnings if "bent to a radius" in w.text]
    assert thick.value == "thick_second"
    mended = outcome_of(HALL, curve("spline", (-2.8, -0.4), (0, 0.3), (2.8, -0.4)),
                        ("spine-ribs", FOLLOWING | thick.remedies[0].values))  # fmt: skip
    assert not [w for w in mended.warnings if "bent to a radius" in w.text]


WAVY = curve("spline", (-2.8, -0.3), (-0.9, 0.5), (0, -0.5), (0.9, 0.5), (2.8, -0.3))


@pytest.mark.parametrize(
    ("spine", "values", "words", "value"),
    [
        (WAVY, FOLLOWING | {"number_second": 5}, "fold over", "run"),
        (curve("arc", (1, -0.1), (-1, 0), (1, 0.1)), FOLLOWING | {"number_second": 1}, "cross itself", "run"),
        (curve("line", (-2, 0), (2, 0)), FOLLOWING | {"rods": "second"}, "do not stand parallel", "rods"),
    ],
)  # fmt: skip
def test_spines_that_cannot_be_followed_are_told_in_a_sentence(spine, values, words, value):
    outcome = outcome_of(HALL, spine, ("spine-ribs", values))
    assert words in outcome.error
    assert outcome.error_value == value


def test_a_spine_that_turns_back_cuts_each_leg_once():
    plan = curve(
        "loop", (-2, -2), (2.5, -2), (2.5, 2), (-2, 2), (-2, 1), (1.5, 1), (1.5, -1), (-2, -1)
    )
    way = curve("spline", (-1.9, -1.5), (1, -1.5), (2, 0), (1, 1.5), (-1.9, 1.5))
    hall = ("extrude", {"height": 1})
    outcome = outcome_of(plan, hall, way, ("spine-ribs", {"number_first": 9, "number_second": 0}))
    assert outcome.error == ""
    assert [r.label for r in outcome.result.ribs] == [f"A{k}" for k in range(1, 10)]


def test_cables_run_along_drawn_curves_and_only_those_that_are_chosen():
    way = curve("spline", (-2.6, 0), (0, 0.3), (2.6, 0))
    cable = (
        "draw",
        {"curves": [["spline", [[-2.9, 0.15], [0, 0.4], [2.9, 0.15]]]], "plane": "front"},
    )
    ribs = ("spine-ribs", {"number_first": 8, "number_second": 0, "rods": "drawn", "wall": 20})
    asked = outcome_of(HALL, way, ribs)
    assert "choose them as “Cables”" in asked.error
    assert asked.error_value == "rods"
    # The cable is the nearest curve above, and yet the spine is the one before it.
    made = outcome_of(HALL, way, cable, ribs, on={"cables": "c2"})
    assert made.error == ""
    assert made.inputs == {"shape": ("c0",), "curves": ("c1",), "cables": ("c2",)}
    for rib in made.result.ribs:
        (hole,) = rib.shape.interiors
        middle = rib.places(np.asarray(shapely.Polygon(hole).centroid.coords))[0]
        assert abs(middle[1]) < 1e-6
        assert 0.15 < middle[2] < 0.41
    tight = outcome_of(
        HALL, way, cable, ("spine-ribs", ribs[1] | {"wall": 450}), on={"cables": "c2"}
    )
    assert not any(len(r.shape.interiors) for r in tight.result.ribs)
    assert any("holes are left out for want of 450 mm" in w.text for w in tight.warnings)


def test_an_offcut_is_taken_up_by_one_clause_alone():
    board = {"width": 700, "height": 700}
    small = ("ball", {"radius": 0.3, "solid": "body"})
    cut = ("waffle", {"number_first": 2, "number_second": 2})
    clauses = [
        small,
        cut,
        ("sheet-stock", {"width": 700, "height": 700, "sheets": 1}),
        ("set-out", board),
        ("set-out", board),
    ]
    entries = [
        ClauseEntry(id=f"c{k}", kind=kind, values=values)
        for k, (kind, values) in enumerate(clauses)
    ]
    first, second = list(evaluate(Statement(name="Ribs", clauses=entries), ResultCache()))[-2:]
    assert first.inputs == {"parts": ("c1",), "stocks": ("c2",)}
    assert second.error.startswith(
        "All panels, ribs, strips and other flat parts above are taken up already; choose"
    )
    entries[-1].on["parts"] = ["c1"]
    *_, second = evaluate(Statement(name="Ribs", clauses=entries), ResultCache())
    assert second.inputs == {"parts": ("c1",)}
    # Whoever asks for it by name has it all the same.
    entries[-1].on["stocks"] = ["c2"]
    *_, asked = evaluate(Statement(name="Ribs", clauses=entries), ResultCache())
    assert asked.inputs["stocks"] == ("c2",)


def test_ribs_that_are_cut_away_are_left_out_and_told():
    ribs = outcome_of(BALL, ("waffle", {"proud": -1800}))
    assert ribs.status == "done"
    assert all(r.shape.area > 0 for r in ribs.result.ribs)
    assert any("cut away altogether and left out" in w.text for w in ribs.warnings)
    none = outcome_of(BALL, ("waffle", {"proud": -2000}))
    assert none.status == "failed"
    assert "No rib is left" in none.error


def test_plates_are_pressed_into_narrower_slots_on_purpose():
    ribs = outcome_of(BALL, ("waffle", {"clearance": -0.3, "corners": "sharp"}))
    assert ribs.figures["overlap"].value < 1e-3
    assert not [w for w in ribs.warnings if "overlap" in w.text]
    none = outcome_of(BALL, ("waffle", {"clearance": -2, "thick_second": 3}))
    assert none.error_value == "clearance"
    assert "must be more than -1.5 mm" in none.error


def test_no_others_need_no_rods():
    alone = ("spine-ribs", {"number_second": 0, "run": "straight", "rods": "second"})
    ribs = outcome_of(BALL, curve("line", (-2, 0), (2, 0.2)), alone)
    assert ribs.status == "done"
    assert {r.series for r in ribs.result.ribs} == {"A"}


def test_tilted_slices_are_proved_without_looking_at_all_pairs():
    ribs = outcome_of(BALL, ("slices", {"rise": 30, "thickness": 20, "azimuth": 25}))
    parts = ribs.result.parts.parts
    near = _Near(parts)
    pairs = {(parts[near.owner[i]].label, parts[near.owner[j]].label) for i, j in near.pairs()}
    assert {(f"A{k}", f"A{k + 1}") for k in range(1, len(parts))} <= pairs
    assert len(pairs) < 2 * len(parts)


def test_every_fault_of_a_crossing_is_told_in_words():
    assert FAULTY.keys() == set(FAULTS) - {""}
