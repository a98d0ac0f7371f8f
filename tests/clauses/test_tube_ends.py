"""The clause that draws tube ends: what it says, refuses and hands on."""

from __future__ import annotations

import pytest

from leanlattice.clauses import tube_ends

from .test_node_plates import made

ROOF = ("barrel", {"span": 6, "rise": 1.5, "length": 6})
QUADS = ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 4})
FRAME = ("frame", {"inner": "CHS 88.9 × 4", "border": "CHS 88.9 × 4", "meeting": "welded"})


def test_templates_are_told_and_set_out():
    *_, drawn, sheets = made(ROOF, QUADS, FRAME, ("tube-ends", {}), ("set-out", {"width": 1500}))
    assert drawn.status == sheets.status == "done", (drawn.error, sheets.error)
    figures = {name: figure.value for name, figure in drawn.figures.items()}
    assert figures["wraps"] == drawn.result.count == len(sheets.result.made[0].parts)
    assert figures["wrapped_ends"] == len(drawn.result.template) > figures["wraps"]
    assert figures["wrap_depth"] > 10
    assert sheets.result.made[0].of == "wrap"
    assert not drawn.warnings


@pytest.mark.parametrize(
    "frame",
    [{"meeting": "apart"}, {"inner": "SHS 60 × 4", "border": "SHS 60 × 4"}],
)
def test_without_a_cut_tube_what_would_work_is_told(frame):
    kind, own = FRAME
    *_, drawn = made(ROOF, QUADS, (kind, own | frame), ("tube-ends", {}))
    assert drawn.status == "failed"
    assert "tubes of one width all along that are welded" in drawn.error


def test_more_templates_than_can_be_worked_with_are_refused(monkeypatch):
    monkeypatch.setattr(tube_ends, "MOST", 3)
    *_, drawn = made(ROOF, QUADS, FRAME, ("tube-ends", {"tolerance": 0.01}))
    assert "at most 3 can be drawn" in drawn.error
    assert drawn.error_value == "tolerance"


def test_words_without_room_are_told():
    thin = {"inner": "CHS 21.3 × 2.6", "border": "CHS 21.3 × 2.6"}
    kind, own = FRAME
    *_, drawn = made(ROOF, QUADS, (kind, own | thin), ("tube-ends", {"beyond": 20}))
    assert drawn.status == "done"
    assert drawn.warnings[0].value == "beyond"
