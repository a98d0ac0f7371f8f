"""The clause that makes node plates: what it says, refuses and hands on."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.clauses import node_plates

from .test_lattice_clauses import clauses, outcomes

ROOF = ("barrel", {"span": 12, "rise": 3, "length": 12})
QUADS = ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6})
FRAME = (
    "frame",
    {"meeting": "arms", "thickness": 10, "inner": "CHS 60.3 × 4", "border": "CHS 60.3 × 4"},
)


def made(*rows):
    return list(outcomes(clauses(*rows)).values())


def test_plates_are_told_by_kinds_and_mass_and_set_out():
    *_, cut, sheets = made(ROOF, QUADS, FRAME, ("node-plates", {}), ("set-out", {"width": 3000}))
    assert cut.status == sheets.status == "done", (cut.error, sheets.error)
    figures = {name: figure.value for name, figure in cut.figures.items()}
    assert figures["node_plates"] == cut.result.count == 49
    assert figures["plate_arms"] == 2 * len(cut.result.structure.lengths)
    assert figures["plate_kinds"] < 12
    assert figures["plate_mass"] == pytest.approx(cut.result.masses.sum())
    assert not cut.warnings
    assert sheets.result.made[0].of == "plate"


@pytest.mark.parametrize(
    ("frame", "values", "told", "value"),
    [
        ({"meeting": "disc"}, {}, "not held back for folded plates", None),
        ({}, {"enters": 900}, "arms that enter by less", "enters"),
        ({"beyond": -20}, {"joint": "bolts", "bolt": "M24"}, "62.4 mm wide or more works", "bolt"),
    ],
)
def test_nodes_that_can_have_no_plate_are_told_with_what_would_work(frame, values, told, value):
    kind, own = FRAME
    *_, cut = made(ROOF, QUADS, (kind, own | frame), ("node-plates", values))
    assert cut.status == "failed"
    assert told in cut.error
    assert cut.error.startswith("No plate can be made. 49 nodes have no plate, as N1 has")
    assert cut.error_value == value


def test_angles_of_folds_are_written_where_they_are_asked_for():
    plates = [
        made(ROOF, QUADS, FRAME, ("node-plates", {"angles": angles}))[-1].result
        for angles in ("listed", "written")
    ]
    listed, written = (sum(len(p.marks) for p in one.parts) for one in plates)
    assert written > listed + plates[0].folds.scored.sum()
    assert plates[1].masses == pytest.approx(plates[0].masses)
    assert (plates[1].unlabelled == plates[0].unlabelled).all()


def test_plates_cut_alike_are_fewer_parts_and_told_where_bolts_are_too_tight():
    saddle = ("saddle", {"second": [6, 0, 0.6], "third": [6, 4, 0], "fourth": [0, 4.5, 0.8]})
    net = ("pattern", {"pattern": "quads", "bays_across": 3, "bays_along": 3})
    own, alike, near = (
        made(saddle, net, FRAME, ("node-plates", {"joint": "bolts", "tolerance": 40} | values))[-1]
        for values in ({}, {"cut": "alike"}, {"cut": "alike", "tolerance": 0.1})
    )
    assert "plate_off" not in own.figures
    shapes = {tuple(np.sort(part.outer[:, 0]).round(5)) for part in alike.result.parts}
    assert alike.figures["plate_kinds"].value == len(shapes) < len(own.result.parts)
    (notice,) = alike.warnings
    assert f"arms up to {alike.figures['plate_off'].value:.1f} mm off their members" in notice.text
    assert notice.value == "tolerance"
    assert not near.warnings
    assert near.figures["plate_kinds"].value == near.result.count


def test_some_nodes_without_a_plate_are_listed_and_the_rest_goes_on():
    *_, cut = made(
        ("dome", {"span": 10, "rise": 5}),
        ("pattern", {"pattern": "triangles", "density": "module", "module": 3}),
        FRAME,
        ("node-plates", {}),
    )
    assert cut.status == "done"
    assert 0 < cut.result.count < len(cut.result.structure.places)
    (notice,) = cut.warnings
    assert "steeper than arms may be folded" in notice.text
    assert len(notice.which) + cut.result.count == len(cut.result.structure.places)


def test_more_plates_than_can_be_worked_with_are_refused(monkeypatch):
    monkeypatch.setattr(node_plates, "MOST", 40)
    *_, cut = made(ROOF, QUADS, FRAME, ("node-plates", {}))
    assert cut.error == "There would be 49 plates; at most 40 can be made."
