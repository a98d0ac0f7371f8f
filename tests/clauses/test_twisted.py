"""Clauses that twist panels cold, and what they say where that takes too much."""

from __future__ import annotations

from .test_shape_clauses import clauses, outcomes

NET = (
    ("saddle", {}),
    ("pattern", {"pattern": "quads", "bays_across": 8, "bays_along": 8}),
)


def panels(*rows, **values):
    given = {"form": "bent", "thickness": 6, "stress": 45} | values
    return list(outcomes(clauses(*NET, ("panels", given), *rows)).values())[-1]


def test_panels_are_bent_up_to_a_stress_and_split_beyond_it():
    bent, some, none = (panels(stress=s).figures for s in (60, 39, 20))
    assert bent["bent"].value == bent["panels"].value == 64
    assert 0 < some["bent"].value < 64 < some["panels"].value
    assert some["twist_stress"].value <= 39
    assert none["bent"].value == 0
    assert none["split"].value == 64
    flat = panels(form="flat").figures
    assert flat["panels"].value == none["panels"].value
    assert "bent" not in flat


def test_a_thicker_sheet_that_twists_too_far_is_told_and_the_one_that_is_named_does_not():
    thick = panels(("give-sheet", {"which": "all", "thickness": 20, "material": "glass"}))
    (told,) = thick.warnings
    assert told.code == "twisted too far"
    assert len(told.which) == 64
    assert f"{thick.figures['twist_stress'].value:.1f} MPa" in told.text
    again = panels(("give-sheet", {"which": "all", "thickness": 6, "material": "glass"}))
    assert not again.warnings
