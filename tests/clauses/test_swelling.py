"""Swelling members in sentences: how thick they are, near pulls and elsewhere, and what is told."""

from __future__ import annotations

import numpy as np
import pytest

from .test_lattice_clauses import clauses, made, outcomes

ROOF = [("dome", {}), ("pattern", {"bays_across": 12, "bays_along": 4})]
TUBES = ("frame", {"inner": "CHS 88.9 × 4", "border": "SHS 100 × 5", "meeting": "ball"})
PULL = ("pull", {"points": [[6.0, 0.0, 0.0]], "reach": 4.0})


def test_members_are_as_thick_as_is_said():
    found = made(*ROOF, TUBES, ("swell-members", {"at_nodes": 1.5, "between": 0.7}))
    structure = found.result
    swells = structure.is_uneven
    assert found.figures["meant"].value == swells.sum() == np.count_nonzero(structure.role == 0)
    assert found.figures["thickest"].value == pytest.approx(1.5 * 88.9)
    assert found.figures["thinnest"].value == pytest.approx(0.7 * 88.9)
    before = made(*ROOF, TUBES).result
    gain = structure.masses.sum() - before.masses.sum()
    assert found.figures["gain"].value == pytest.approx(gain)


def test_sizes_grow_towards_pulls_and_follow_them():
    swell = ("swell-members", {"at_nodes": 1.0, "between": 1.0, "growth": "pull", "most": 2.0})
    structure = made(*ROOF, PULL, TUBES, swell).result
    grid = (structure.role == 0)[structure.member_of_entry]
    far = np.clip(np.linalg.norm(structure.axis_places - [6, 0, 0], axis=1) / 4.0, 0, 1)
    assert structure.scale[grid] == pytest.approx((2 - far)[grid])
    assert structure.scale.max() > 1.9


def test_what_is_not_round_stays_and_is_told():
    found = made(*ROOF, TUBES, ("swell-members", {"which": "all"}))
    (told,) = [w for w in found.warnings if "not round" in w.text]
    assert set(told.which) == set(np.flatnonzero(found.result.role != 0).tolist())
    assert "SHS 100 × 5" in told.text
    assert not found.result.is_uneven[list(told.which)].any()


@pytest.mark.parametrize(
    ("row", "told"),
    [
        (("swell-members", {"role": "edge"}), "is round; give them a round section"),
        (("swell-members", {"growth": "pull"}), "no pull points or curves above"),
        (("swell-members", {"at_nodes": 0}), "must be from 0.1 to 10"),
    ],
)
def test_what_cannot_swell_is_told(row, told):
    *_, found = outcomes(clauses(*ROOF, TUBES, row)).values()
    assert found.status == "failed"
    assert told in found.error


def test_walls_that_become_too_thin_are_told():
    found = made(*ROOF, TUBES, ("swell-members", {"at_nodes": 1.0, "between": 0.45}))
    (told,) = [w for w in found.warnings if "wall" in w.text]
    assert "1.8 mm" in told.text
    assert len(told.which) == found.figures["meant"].value
