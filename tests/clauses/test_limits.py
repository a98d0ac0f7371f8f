"""What is told of members that are too long, too near each other or too many at a node."""

from __future__ import annotations

import numpy as np
import pytest

from .test_lattice_clauses import made

ROOF = [("dome", {}), ("pattern", {"bays_across": 12, "bays_along": 4}), ("frame", {})]
BESIDE = [["line", [[-3, 0], [3, 0]]], ["line", [[-3, 0.05], [3, 0.05]]]]


@pytest.mark.parametrize(
    ("values", "told"),
    [
        ({}, []),
        ({"longest": 3.0}, ["longer than 3 m"]),
        ({"shortest": 1.0}, ["shorter than 1 m"]),
        ({"arms": 4}, ["more than 4 arms"]),
        ({"angle": 40}, ["less than 40°"]),
        ({"arms": 4, "shortest": 1.0, "longest": 3.0}, ["shorter", "longer", "more than 4"]),
    ],
)
def test_what_is_beyond_a_limit_is_told_with_its_place(values, told):
    found = made(*ROOF, ("check-members", {"arms": 20, "angle": 5} | values))
    assert len(found.warnings) == len(told)
    for warning, words in zip(found.warnings, told, strict=True):
        assert words in warning.text
        assert warning.which
        assert warning.at is not None
    structure = made(*ROOF).result
    assert found.figures["longest_cut"].value == pytest.approx(structure.cut_lengths.max())
    assert found.figures["clashes"].value == 0
    assert found.result.count == structure.count


def test_bodies_that_are_too_large_are_told():
    balls = [*ROOF[:2], ("frame", {"meeting": "ball"})]
    structure = made(*balls).result
    limit = 2000 * float(np.median(structure.radius))
    found = made(*balls, ("check-members", {"arms": 20, "angle": 5, "body": limit, "shortest": 0}))
    (told,) = [w for w in found.warnings if w.value == "body"]
    assert set(told.which) == set(np.flatnonzero(2000 * structure.radius > limit).tolist())
    assert f"{2000 * structure.radius.max():.0f} mm the largest" in told.text


def test_members_in_each_other_are_told():
    rows = [("draw", {"curves": BESIDE, "plane": "front"}), ("frame-curves", {})]
    found = made(*rows, ("check-members", {}))
    (told,) = found.warnings
    assert found.figures["clashes"].value == 1
    assert "1 pair of members" in told.text
    assert "mm into each other" in told.text
    assert sorted(told.which) == [0, 1]
