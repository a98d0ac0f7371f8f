"""A body parted by the cells of a net, in sentences."""

from __future__ import annotations

import pytest

from .test_lattice_clauses import clauses, made, outcomes

SHELL = [
    ("dome", {}),
    ("pattern", {"pattern": "hexagons", "bays_across": 8, "bays_along": 3}),
    ("thicken", {"thickness": 0.3, "side": "inside"}),
]


def test_every_cell_has_its_piece_and_these_are_solids():
    whole = made(*SHELL).result
    found = made(*SHELL, ("part-by-cells", {"joint": 0}))
    assert found.figures["pieces"].value == made(*SHELL[:2]).result.cell_count
    assert found.result.volume == pytest.approx(whole.volume, rel=1e-6)
    assert not found.warnings
    solids = made(*SHELL, ("part-by-cells", {"joint": 20}), ("solids", {}))
    assert solids.figures["solids"].value == found.figures["pieces"].value


def test_walls_that_meet_are_told():
    *_, found = outcomes(clauses(*SHELL, ("part-by-cells", {"reach": 50}))).values()
    assert (found.status, found.error_value) == ("failed", "reach")
    assert "meet each other over a cell" in found.error


def test_what_lies_beyond_reach_is_told():
    found = made(*SHELL, ("part-by-cells", {"joint": 0, "reach": 0.1}))
    (told,) = found.warnings
    assert "in no piece" in told.text
    assert "0.1 m" in told.text
    far = [*SHELL[:2], ("ball", {"solid": "body", "centre": [40, 0, 0]})]
    *_, missed = outcomes(clauses(*far, ("part-by-cells", {}))).values()
    assert "none of the cells" in missed.error
