"""What rib clauses say of what they are given."""

from __future__ import annotations

import pytest

from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

BALL = ("ball", {"radius": 1.0, "solid": "body"})
HALL = ("box", {"along_x": 6, "along_y": 3, "height": 1})


def outcome_of(*clauses):
    """The outcome of the last of clauses given by kind and values."""
    entries = [ClauseEntry(id=f"c{k}", kind=kind, values=values) for k, (kind, values) in enumerate(clauses)]
    return list(evaluate(Statement(name="Ribs", clauses=entries), ResultCache()))[-1]


def curve(kind, *points):
    return ("draw", {"curves": [[kind, [list(p) for p in points]]]})


FOLLOWING = {"run": "following", "number_first": 6, "number_second": 2, "thick_second": 6}


def test_ribs_follow_a_spine_on_both_sides_and_say_how_far_they_are_bent():
    gentle = outcome_of(HALL, curve("spline", (-2.8, -0.4), (0, 0.3), (2.8, -0.4)), ("spine-ribs", FOLLOWING))
    assert gentle.error == ""
    bent = [r for r in gentle.result.ribs if r.bend]
    assert len(bent) == 2
    assert gentle.figures["crossings"].value == 12
    assert all(r.bend.radius > 60 * 0.006 for r in bent)
    assert gentle.figures["overlap"].value < 1
    told = outcome_of(
        HALL, curve("spline", (-2.8, -0.4), (0, 0.3), (2.8, -0.4)), ("spine-ribs", FOLLOWING | {"thick_second": 120})
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
    plan = curve("loop", (-2, -2), (2.5, -2), (2.5, 2), (-2, 2), (-2, 1), (1.5, 1), (1.5, -1), (-2, -1))
    way = curve("spline", (-1.9, -1.5), (1, -1.5), (2, 0), (1, 1.5), (-1.9, 1.5))
    hall = ("extrude", {"height": 1})
    outcome = outcome_of(plan, hall, way, ("spine-ribs", {"number_first": 9, "number_second": 0}))
    assert outcome.error == ""
    assert [r.label for r in outcome.result.ribs] == [f"A{k}" for k in range(1, 10)]
