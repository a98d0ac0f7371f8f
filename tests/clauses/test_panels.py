"""The clause that panels cells: what is cut alike, and what joints have to take up."""

from __future__ import annotations

import pytest

from .test_node_plates import made

ROOF = ("loft", {})
NET = ("pattern", {"pattern": "triangles", "bays_across": 8, "bays_along": 8})


def told_by(outcome):
    return {name: figure.value for name, figure in outcome.figures.items()}


def test_panels_of_a_type_are_cut_alike_where_it_is_asked_for():
    values = {"alike": 20, "joint": 60}
    *_, own = made(ROOF, NET, ("panels", values))
    *_, alike = made(ROOF, NET, ("panels", values | {"cut": "alike"}))
    assert "each cut to its own corners" in own.sentence
    assert "all of a type cut alike" in alike.sentence
    figures = told_by(alike)
    assert figures["panel_types"] == told_by(own)["panel_types"] < figures["panels"] / 2
    assert 0 < figures["cut_off_nodes"] < 40
    assert "cut_off_nodes" not in told_by(own)
    assert not any("may close" in notice.text for notice in alike.warnings)


def test_joints_that_may_close_are_told_with_what_would_do():
    values = {"alike": 60, "joint": 10, "cut": "alike"}
    *_, narrow = made(ROOF, NET, ("panels", values))
    (notice,) = (n for n in narrow.warnings if "may close" in n.text)
    assert notice.value == "joint"
    assert notice.which
    needed = float(notice.text.partition("joints of ")[2].partition(" mm")[0])
    assert 10 < needed < 240
    *_, wide = made(ROOF, NET, ("panels", values | {"joint": needed}))
    assert not any("may close" in notice.text for notice in wide.warnings)


@pytest.mark.parametrize("form", ["flat", "pyramids"])
def test_sheets_of_panels_cut_alike_hold_few_shapes(form):
    *_, panels, sheets = made(
        ROOF,
        NET,
        ("panels", {"alike": 20, "joint": 60, "cut": "alike", "form": form}),
        ("set-out", {"width": 6000, "height": 4000}),
    )
    assert sheets.status == "done", sheets.error
    sides = {
        tuple(
            sorted(
                round(float(((b - a) ** 2).sum() ** 0.5), 1)
                for a, b in zip(p.outer, [*p.outer[1:], p.outer[0]], strict=True)
            )
        )
        for p in sheets.result.made[0].parts
    }
    assert len(sides) <= told_by(panels)["panel_types"]
