"""The clause that unrolls nets: what it says, refuses and hands on."""

from __future__ import annotations

from .test_lattice_clauses import clauses, outcomes

VAULT = ("barrel", {"span": 6, "rise": 2, "length": 5})
CELLS = ("pattern", {"pattern": "hexagons", "density": "module", "module": 0.6})


def made(*rows):
    return list(outcomes(clauses(*rows)).values())


def test_an_unrolled_vault_goes_on_sheets():
    *_, flat, sheets = made(VAULT, CELLS, ("unroll", {}), ("set-out", {"width": 3000}))
    assert flat.status == sheets.status == "done", (flat.error, sheets.error)
    assert flat.figures["unrolled"].value == flat.result.count > 1
    assert flat.figures["pierced_cells"].value == flat.result.openings.sum()
    assert flat.figures["stretched"].value < 0.1
    assert not flat.warnings
    assert sheets.result.made[0].of == "unrolled"
    *_, whole = made(VAULT, CELLS, ("unroll", {"cells": "whole"}))
    assert not whole.result.openings.any()


def test_stretched_large_and_clamped_parts_are_told_with_places():
    *_, flat = made(
        ("dome", {"span": 8, "rise": 2.5}), CELLS, ("unroll", {"length": 700, "radius": 4})
    )
    told = {w.value: w for w in flat.warnings}
    assert "bends both ways" in told["stretch"].text
    assert "larger than 700 × 1450 mm" in told["width"].text
    assert "no room for a radius of 4 m" in told["radius"].text
    assert told["stretch"].at is not None
    assert set(told["width"].which) <= set(range(flat.result.count))


def test_a_net_that_closes_in_itself_is_refused_with_what_would_work():
    *_, flat = made(("ball", {"radius": 2}), ("pattern", {"pattern": "quads"}), ("unroll", {}))
    assert flat.status == "failed"
    assert "left out where it is to be opened would work" in flat.error
