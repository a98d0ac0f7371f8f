"""Courses of blocks as clauses: figures, openings with lintels, and what cannot be laid."""

import numpy as np
import pytest

from .test_lattice_clauses import clauses, made, outcomes

DOME = ("dome", {"span": 12, "rise": 6})
DOOR = (
    "draw",
    {
        "curves": [["polygon", [[-0.9, 0], [0.9, 0], [0.9, 1.8], [-0.9, 1.8]]]],
        "plane": "front",
        "level": 0,
    },
)


def with_door(**values):
    statement = clauses(DOME, DOOR, ("blocks", {"reach": "ahead", "openings": "lintels"} | values))
    return list(outcomes(statement).values())[-1]


def failed(*rows):
    last = list(outcomes(clauses(*rows)).values())[-1]
    assert last.status == "failed"
    return last.error


def test_a_dome_becomes_courses_with_a_key():
    found = made(DOME, ("blocks", {"joint": 0}))
    figures = {name: figure.value for name, figure in found.figures.items()}
    # The volume of the shell, whose faces are within 2 mm.
    assert figures["volume"] == pytest.approx(2 / 3 * np.pi * (6**3 - 5.65**3), rel=1e-3)
    assert figures["mass"] == pytest.approx(2600 * figures["volume"])
    assert figures["solid_types"] == 13
    assert figures["solids"] == found.result.count


def test_a_door_has_a_lintel_that_rests_on_both_sides():
    found, without = with_door(), with_door(openings="plain")
    assert found.status == without.status == "done", found.error
    assert found.figures["lintels"].value == 1
    assert found.figures["widest_lintel"].value > 1.8 + 2 * 0.2
    assert "lintels" not in without.figures
    assert found.result.masses.max() > 2 * without.result.masses.max()
    assert found.result.volumes.sum() < made(DOME, ("blocks", {})).result.volumes.sum() - 0.9


def test_openings_that_meet_nothing_are_told():
    high = ("draw", {"curves": [["circle", [[0, 9], [1, 9]]]], "plane": "front", "level": 0})
    found = made(DOME, high, ("blocks", {"openings": "lintels"}))
    assert "1 of 1 openings (1) meets nothing" in found.warnings[0].text


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"thickness": 7}, "radius of 6.00 m"),
        ({"joint": 400, "blocks": 64}, "leave nothing of a block in course"),
        ({"top": "open"}, "ends in a point above"),
        ({"top": "eye", "crown": 30}, "less than 18.85 m"),
        ({"rising": "u"}, "closes along u"),
        ({"blocks": 2000, "courses": 500}, "at most 20,000"),
    ],
)
def test_what_cannot_be_laid_is_said_with_its_value(values, words):
    assert words in failed(DOME, ("blocks", values))


def test_what_would_work_is_offered():
    for shape, values in ((("loft", {}), {}), (DOME, {"top": "open"}), (DOME, {"rising": "u"})):
        found = list(outcomes(clauses(shape, ("blocks", values))).values())[-1]
        (remedy,) = found.remedies
        mended = list(outcomes(clauses(shape, ("blocks", values | remedy.values))).values())[-1]
        assert mended.status == "done", mended.error


def test_a_cone_is_laid_up_to_its_eye_where_it_is_as_thin_as_the_blocks():
    cone = ("cone", {"radius": 4, "height": 6})
    found = made(cone, ("blocks", {"top": "eye", "crown": 2, "thickness": 0.2}))
    assert found.result.count > 200
    assert "thinner ones, or the other side" in failed(cone, ("blocks", {"crown": 0.2}))


def test_shapes_without_lines_are_refused():
    assert "closes along u and along v" in failed(("torus", {}), ("blocks", {}))
    assert "has none" in failed(("box", {}), ("blocks", {}))
    assert "could close" in failed(("loft", {}), ("blocks", {}))


def test_blocks_are_checked_for_what_can_be_lifted_laid_and_told_apart():
    found = made(
        DOME, ("blocks", {}), ("check-solids", {"heaviest": 700, "thinnest": 400, "apart": 40})
    )
    assert found.result.count == 353
    heavy, thin, alike = found.warnings
    assert f"{(found.result.masses > 700).sum()} solids are heavier than 700 kg" in heavy.text
    assert set(thin.which) == set(np.flatnonzero(found.result.sizes.min(axis=1) < 0.4))
    assert found.figures["alike"].value >= 2
    assert "differ by less than 40 mm" in alike.text
    clean = made(DOME, ("blocks", {}), ("check-solids", {"heaviest": 900, "apart": 0.5}))
    assert not clean.warnings
    assert clean.figures["alike"].value == 0


def test_openings_that_leave_nothing_are_refused():
    all_of_it = ("draw", {"curves": [["circle", [[0, 0], [20, 0]]]], "plane": "front"})
    told = failed(DOME, all_of_it, ("blocks", {"openings": "plain"}))
    assert "leave nothing of the shell" in told


def test_openings_need_closed_curves():
    line = ("draw", {"curves": [["line", [[0, 0], [1, 1]]]]})
    assert "no closed curves" in failed(DOME, ("blocks", {"openings": "plain"}))
    assert "no closed curves" in failed(DOME, line, ("blocks", {"openings": "lintels"}))


@pytest.mark.parametrize("height", [0.3, 0.5, 20.0])
def test_courses_by_height_are_as_near_to_it_as_whole_ones_come(height):
    found = made(DOME, ("blocks", {"stacked": "height", "height": height, "crown": 1}))
    # A quarter of a circle of 6 m, less half of the key.
    length = np.pi / 2 * 6 - 0.5
    number = max(round(length / height), 1)
    assert found.figures["course_height"].value == pytest.approx(length / number, rel=1e-4)
    assert found.result.groups[-2:] == (f"course {number}", "key")
