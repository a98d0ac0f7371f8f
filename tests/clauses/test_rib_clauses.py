"""What rib clauses say of what they are given."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from leanlattice.clauses.ribs.working import FAULTY
from leanlattice.core.flat.together import _Near
from leanlattice.core.ribs.laps import FAULTS
from leanlattice.exchange.pack import report
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate, last_of_each

BALL = ("ball", {"radius": 1.0, "solid": "body"})
HALL = ("box", {"along_x": 6, "along_y": 3, "height": 1})


def outcome_of(*clauses, on=None):
    """The outcome of the last of clauses given by kind and values, with what it is chosen to work on."""
    entries = [
        ClauseEntry(id=f"c{k}", kind=kind, values=values)
        for k, (kind, values) in enumerate(clauses)
    ]
    entries[-1].on.update(on or {})
    return last_of_each(evaluate(Statement(name="Ribs", clauses=entries), ResultCache()))[-1]


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
    ribs = ("spine-ribs", {"number_first": 8, "number_second": 0})
    rods = ("rib-rods", {"way": "drawn", "wall": 20})
    asked = outcome_of(HALL, way, ribs, cable, rods)
    assert "choose them as “Curves”" in asked.error
    assert asked.error_value == "way"
    made = outcome_of(HALL, way, ribs, cable, rods, on={"curves": "c3"})
    assert made.error == ""
    assert made.inputs == {"ribs": ("c2",), "curves": ("c3",)}
    for rib in made.result.ribs:
        (hole,) = rib.shape.interiors
        middle = rib.places(np.asarray(shapely.Polygon(hole).centroid.coords))[0]
        assert abs(middle[1]) < 1e-6
        assert 0.15 < middle[2] < 0.41
    tight = outcome_of(
        HALL, way, ribs, cable, ("rib-rods", rods[1] | {"wall": 450}), on={"curves": "c3"}
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
    ribs = outcome_of(BALL, ("waffle", {}), ("rib-feet", {"feet": "none", "proud": -1800}))
    assert ribs.status == "done"
    assert all(r.shape.area > 0 for r in ribs.result.ribs)
    assert any("cut away altogether and left out" in w.text for w in ribs.warnings)
    none = outcome_of(BALL, ("waffle", {}), ("rib-feet", {"feet": "none", "proud": -2000}))
    assert none.status == "failed"
    assert "No rib is left" in none.error


def test_plates_are_pressed_into_narrower_slots_on_purpose():
    slots = ("rib-slots", {"clearance": -0.3, "corners": "sharp"})
    ribs = outcome_of(BALL, ("waffle", {}), slots)
    assert ribs.figures["overlap"].value < 1e-3
    assert not [w for w in ribs.warnings if "overlap" in w.text]
    none = outcome_of(BALL, ("waffle", {"thick_second": 3}), ("rib-slots", {"clearance": -2}))
    assert none.error_value == "clearance"
    assert "must be more than -1.5 mm" in none.error


@pytest.mark.parametrize(
    ("ribs", "rods", "words"),
    [
        (FOLLOWING | {"number_second": 1}, {"way": "second"}, "no plane ribs in that set"),
        ({"number_second": 0, "run": "straight"}, {"way": "second"}, "no plane ribs in that set"),
        ({"number_first": 6, "number_second": 1}, {"way": "first"}, "do not stand parallel"),
        ({"number_second": 1}, {"way": "second", "holes": []}, "1"),
    ],
)
def test_rods_that_go_through_no_ribs_are_told_in_a_sentence(ribs, rods, words):
    bent = curve("arc", (-2, 0), (0, 0.6), (2, 0))
    told = outcome_of(HALL, bent, ("spine-ribs", ribs), ("rib-rods", rods))
    assert words in told.error


AMENDS = {
    "rib-slots": {"clearance": 0.6, "share": 60, "wall": 5},
    "rib-feet": {"ground": 1.7},
    "rib-openings": {"border": 120},
    "rib-rods": {"rod": 30, "holes": [[0.2, 0, 3.3]]},
}


def shapes_of(*rows):
    made = outcome_of(BALL, ("waffle", {"number_first": 3, "number_second": 3}), *rows)
    assert made.error == ""
    return [r.shape for r in made.result.ribs]


def test_what_is_said_of_ribs_comes_to_the_same_in_any_order():
    rows = list(AMENDS.items())
    wanted = shapes_of(*rows)
    plain = shapes_of()
    assert all(len(a.interiors) > len(b.interiors) for a, b in zip(wanted, plain, strict=True))
    for order in ((3, 2, 1, 0), (1, 3, 0, 2)):
        found = shapes_of(*(rows[k] for k in order))
        assert all(a.equals(b) for a, b in zip(found, wanted, strict=True))


@pytest.mark.parametrize("kind", sorted(AMENDS))
def test_each_of_them_changes_only_what_it_says(kind):
    """All else is as the ribs would be without it: said twice, the last is what counts, and rods
    are added to rods."""
    plain, once = shapes_of(), shapes_of((kind, AMENDS[kind]))
    assert any(not a.equals(b) for a, b in zip(plain, once, strict=True))
    twice = shapes_of((kind, AMENDS[kind]), (kind, AMENDS[kind]))
    assert all(a.equals(b) for a, b in zip(once, twice, strict=True))


COMB = [
    ("box", {"along_x": 2, "along_y": 0.8, "height": 0.3}),
    ("box", {"along_x": 2, "along_y": 0.1, "height": 0.3, "centre": [0, 0, 0.6]}),
    ("box", {"along_x": 0.2, "along_y": 0.1, "height": 0.9, "centre": [0.9, 0, 0]}),
    ("combine", {}),
    ("waffle", {"number_first": 1, "number_second": 1}),
]
"""Of a bar with a comb over it, whose first rib, slotted from above, has a roof over its slot."""


def test_slots_turned_where_they_would_lock_are_offered_below():
    told = [w for w in outcome_of(*COMB).warnings if w.code == "slots at fault"]
    assert all(w.amendable for w in told)
    (remedy,) = [r for w in told for r in w.remedies]
    assert (remedy.kind, remedy.below, dict(remedy.values)) == (
        "rib-slots",
        True,
        {"turn": "needed"},
    )
    mended = outcome_of(*COMB, (remedy.kind, remedy.values))
    assert not [w for w in mended.warnings if w.code == "slots at fault"]
    # Where it is said already how they are slotted, that is where it is mended.
    told = outcome_of(*COMB, ("rib-slots", {"clearance": 0.4})).warnings
    (remedy,) = [r for w in told for r in w.remedies]
    assert (remedy.kind, dict(remedy.values)) == ("", {"turn": "needed"})


def test_a_warning_is_told_by_what_amends_the_ribs_alone():
    def told(*rows):
        entries = [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
        statement = Statement(name="Ribs", clauses=entries)
        outcomes = list(evaluate(statement, ResultCache()))
        said = report(statement, outcomes)["clauses"]
        return {c["id"]: [w for w in c["warnings"] if "lock each other" in w] for c in said}

    slots = ("rib-slots", {"clearance": 0.4})
    assert told(*COMB)["c4"]
    both = told(*COMB, slots)
    assert not both["c4"]
    assert both["c5"]
    mended = told(*COMB, slots, ("rib-slots", {"turn": "needed"}))
    assert not any(mended.values())
    further = told(*COMB, slots, ("rib-openings", {"border": 5000}))
    assert further["c6"]
    assert not further["c5"]


@pytest.mark.parametrize("later", [None, 0.0])
def test_ribs_are_proved_by_the_clause_that_says_the_last_word_of_them(later):
    def outcomes(*rows):
        entries = [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
        told = list(evaluate(Statement(clauses=entries), ResultCache(), later=later))
        last = {o.id: o for o in told}
        assert all(o.complete for o in last.values()) or later is None
        return last.values()

    waffle = ("waffle", {"number_first": 3, "number_second": 3})
    slots = ("rib-slots", {"clearance": 0.4})
    told = outcomes(BALL, waffle, slots, ("rib-openings", {"border": 90}))
    assert {o.id for o in told if "overlap" in o.figures} == {"c3"}
    # One that fails leaves it to the one before.
    broken = outcomes(BALL, waffle, slots, ("rib-slots", {"clearance": -9.0}))
    assert [o.status for o in broken] == ["done", "done", "done", "failed"]
    assert {o.id for o in broken if "overlap" in o.figures} == {"c2"}


def test_rods_that_pass_no_rib_are_told_by_their_numbers():
    rods = ("rib-rods", {"holes": [[0.2, 0, 3], [0, 0, 30], [0, 4, 3], [8, 0, 3]]})
    (told,) = [w for w in outcome_of(BALL, ("waffle", {}), rods).warnings if "no rib" in w.text]
    assert told.text == "2 rods pass no rib: number 2, 4."
    assert told.value == "holes"


def test_slices_and_spliced_ribs_do_not_go_into_each_other_anew():
    for kind, values in AMENDS.items():
        sliced = outcome_of(BALL, ("slices", {}), (kind, values))
        assert "These are slices" in sliced.error
        long = [
            ("waffle", {"number_first": 2, "number_second": 2}),
            ("splice-ribs", {"longest": 900}),
        ]
        assert "spliced already" in outcome_of(BALL, *long, (kind, values)).error


def test_tilted_slices_are_proved_without_looking_at_all_pairs():
    ribs = outcome_of(BALL, ("slices", {"rise": 30, "thickness": 20, "azimuth": 25}))
    parts = ribs.result.parts.parts
    near = _Near(parts)
    pairs = {(parts[near.owner[i]].label, parts[near.owner[j]].label) for i, j in near.pairs()}
    assert {(f"A{k}", f"A{k + 1}") for k in range(1, len(parts))} <= pairs
    assert len(pairs) < 2 * len(parts)


def test_every_fault_of_a_crossing_is_told_in_words():
    assert FAULTY.keys() == set(FAULTS) - {""}
