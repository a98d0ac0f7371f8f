"""The clause that makes hubs: what it says, refuses and hands on."""

from __future__ import annotations

import re

import numpy as np
import pytest

from leanlattice.clauses import hubs

from .test_node_plates import made

ROOF = ("barrel", {"span": 6, "rise": 1.5, "length": 6})
THICK = "CHS 114.3 × 5"
QUADS = ("pattern", {"pattern": "quads", "bays_across": 4, "bays_along": 4})
GRID = ("double-layer", {"depth": 0.8, "meeting": "seats", "web": "CHS 60.3 × 4"})


def test_hubs_are_told_by_kinds_and_mass():
    *_, cut = made(ROOF, QUADS, GRID, ("hubs", {"bolt": "M12"}))
    assert cut.status == "done", cut.error
    figures = {name: figure.value for name, figure in cut.figures.items()}
    structure = cut.result.structure
    assert figures["hubs"] == cut.result.count == len(structure.places)
    assert figures["hub_seats"] == 2 * structure.count
    assert figures["hub_mass"] == pytest.approx(cut.result.masses.sum())
    assert figures["hub_hole"] == pytest.approx(10.2)
    # Corners, sides and the middle, above and below, the first and the last bay alike.
    assert 6 <= figures["hub_kinds"] <= 14
    assert not cut.warnings


def test_hubs_made_alike_are_fewer_and_tell_how_far_their_seats_are_off():
    saddle = ("saddle", {"second": [6, 0, 0.6], "third": [6, 4, 0], "fourth": [0, 4.5, 0.8]})
    own, alike = (
        made(saddle, QUADS, GRID, ("hubs", {"tolerance": 20} | values))[-1]
        for values in ({}, {"made": "alike"})
    )
    assert "hub_off" not in own.figures
    assert 0.1 < alike.figures["hub_off"].value < 40
    assert alike.figures["hub_kinds"].value < alike.result.count
    # Each hub's members are the same ones, at the same nodes.
    assert alike.result.labels == own.result.labels
    assert (alike.result.seats.ends.member == own.result.seats.ends.member).all()


@pytest.mark.parametrize(
    ("frame", "values", "told", "value"),
    [
        ({"meeting": "ball"}, {}, "not held back for seats on hubs", None),
        ({"sizes": "fixed", "radius": 50}, {}, "mm or more does for all", None),
        ({}, {"bolt": "M30", "deep": 10}, "seat too small for its hole", "bolt"),
        ({}, {"deep": 80}, "holes that meet each other; less deep ones would do", "deep"),
    ],
)
def test_nodes_that_can_have_no_hub_are_told_with_what_would_work(frame, values, told, value):
    kind, own = GRID
    *_, cut = made(ROOF, QUADS, (kind, own | {"web": "CHS 26.9 × 3"} | frame), ("hubs", values))
    assert told in (cut.error or cut.warnings[0].text)
    if cut.status == "failed":
        assert cut.error.startswith("No hub can be made.")
        assert cut.error_value == value
    else:
        assert cut.warnings[0].value == value


def test_the_radius_that_is_told_would_do():
    """What is said of holes that meet works when it is done."""
    kind, own = GRID
    deep = ("hubs", {"deep": 80})
    *_, cut = made(ROOF, QUADS, GRID, deep)
    needed = float((cut.error or cut.warnings[0].text).split(" mm radius")[0].split()[-1])
    *_, cut = made(ROOF, QUADS, (kind, own | {"radius": needed}), deep)
    assert cut.status == "done"
    assert not cut.warnings


def test_more_hubs_than_can_be_worked_with_are_refused(monkeypatch):
    monkeypatch.setattr(hubs, "MOST", 40)
    *_, cut = made(ROOF, QUADS, GRID, ("hubs", {}))
    assert cut.error == "There would be 41 hubs; at most 40 can be made."


def test_members_that_are_added_have_their_seats_too():
    """Columns that end at nodes of the grid are held by its hubs; their feet are told."""
    columns = ("columns", {"which": "places", "places": [[-1, 2, 1], [1, 4, 1]], "section": THICK})
    *_, stood, cut = made(ROOF, QUADS, GRID, columns, ("hubs", {"joint": "hollow"}))
    assert stood.status == cut.status == "done", (stood.error, cut.error)
    structure, ends = cut.result.structure, cut.result.seats.ends
    heavy = structure.section_of[ends.member] == len(structure.sections) - 1
    assert heavy.sum() == 2
    assert ends.reach[heavy] == pytest.approx([0.1143 / 2] * 2)
    assert (cut.result.seats.hollow > 0).all()


@pytest.mark.parametrize(("apart", "is_told"), [(12.0, True), (60.0, False)])
def test_a_hub_that_narrow_angles_make_many_times_as_large_is_told(apart, is_told):
    angle = np.radians(apart)
    ends = [[2, 0], [2 * np.cos(angle), 2 * np.sin(angle)], [-2, 0]]
    starts = ("draw", {"curves": [["line", [[0, 0], end]] for end in ends]})
    *_, cut = made(
        starts,
        ("frame-curves", {"section": THICK, "meeting": "seats", "gap": 6}),
        ("hubs", {"joint": "plain"}),
    )
    assert cut.status == "done", cut.error
    # Two seats of a radius side by side: R sin(θ / 2) = ρ, and six millimetres between them.
    needed = (114.3 / 2 + 3) / np.sin(angle / 2)
    assert bool(cut.warnings) == is_told
    if is_told:
        (notice,) = cut.warnings
        assert f"members meet at {apart:g}°" in notice.text
        told = float(re.search(r"with (\d+) mm", notice.text)[1])
        assert told == pytest.approx(needed, rel=0.02)
        assert notice.at == pytest.approx((0, 0, 0))
        assert len(notice.which) == 1
