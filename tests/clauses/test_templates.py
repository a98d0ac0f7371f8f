"""Templates of faces: what the clause says and refuses, and what is set out of them."""

from __future__ import annotations

import pytest

from leanlattice.clauses import templates

from .test_lattice_clauses import clauses, outcomes

DOME = ("dome", {"span": 8, "rise": 3})
BLOCKS = ("blocks", {"courses": 4, "blocks": 12, "within": 20, "crown": 1})


def made(*rows, on=None):
    found = outcomes(clauses(*rows, on=on or {}))
    return list(found.values()) if isinstance(found, dict) else list(found)


def test_blocks_have_templates_of_one_of_each_type_that_go_on_sheets():
    *_, blocks, drawn, sheets = made(
        DOME, BLOCKS, ("face-templates", {}), ("set-out", {"width": 3000, "height": 2100})
    )
    assert drawn.status == sheets.status == "done", (drawn.error, sheets.error)
    types = int(blocks.result.type_of.max())
    assert drawn.figures["templates"].value == drawn.result.count
    # Each course is of one type of six faces; the key has a face all round it.
    assert drawn.result.count == 6 * (types - 1) + 3 == 27
    assert set(drawn.result.pieces.tolist()) == {12, 1}
    assert sheets.result.made[0].of == "template"
    assert {p.material for p in drawn.result.parts} == {"plywood"}


def test_films_of_cushions_are_cut_smaller_and_stand_as_large_as_they_were():
    rows = [
        ("dome", {"span": 5, "rise": 1}),
        ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.1}),
        ("cushions", {}),
    ]
    values = {"faces": "outer", "material": "ETFE", "thickness": 0.25, "stretch": 5}
    plain, smaller = (
        made(*rows, ("face-templates", values | own))[-1]
        for own in ({}, {"size": "smaller", "smaller": 2})
    )
    for one, other in zip(plain.result.parts, smaller.result.parts, strict=True):
        assert other.outer == pytest.approx(0.98 * one.outer)
        assert other.area == pytest.approx(0.98**2 * one.area)
        assert other.places(other.outer) == pytest.approx(one.places(one.outer))
    areas = [made.figures["template_area"].value for made in (plain, smaller)]
    assert areas[1] == pytest.approx(0.98**2 * areas[0])


def test_faces_curved_both_ways_are_told_with_how_much_they_are_stretched():
    *_, plain = made(DOME, BLOCKS, ("face-templates", {"faces": "around"}))
    assert not plain.warnings
    assert plain.result.stretch.max() < 1e-9
    *_, curved = made(DOME, BLOCKS, ("face-templates", {"faces": "outer", "stretch": 0.1}))
    (notice,) = curved.warnings
    worst = curved.result.stretch.max() * 100
    assert f"by {worst:.2f} %" in notice.text
    assert notice.value == "stretch"
    assert notice.of == "template"
    assert set(notice.which) <= set(range(curved.result.count))
    *_, again = made(DOME, BLOCKS, ("face-templates", {"faces": "outer", "stretch": worst + 0.1}))
    assert not again.warnings


def test_a_ball_has_no_face_that_can_be_laid_flat():
    *_, drawn = made(("ball", {"solid": "body"}), ("solids", {}), ("face-templates", {}))
    assert drawn.status == "failed"
    assert "laid flat" in drawn.error


@pytest.mark.parametrize(("which", "helps"), [("each", "which"), ("types", "crease")])
def test_too_many_templates_are_refused_before_they_are_drawn(which, helps, monkeypatch):
    monkeypatch.setattr(templates, "MOST", 20)
    *_, drawn = made(DOME, BLOCKS, ("face-templates", {"which": which}))
    assert drawn.status == "failed"
    assert "at most 20" in drawn.error
    assert drawn.error_value == helps


RINGS = (
    DOME,
    ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.2}),
    ("deepen", {"form": "even", "depth": 0.3, "share": 60, "made_as": "one"}),
)


def test_openings_of_a_shell_are_drawn_once_a_kind_and_go_on_sheets():
    *_, drawn, sheets = made(
        *RINGS, ("face-templates", {"faces": "openings"}), ("set-out", {"width": 3000})
    )
    assert drawn.status == sheets.status == "done", (drawn.error, sheets.error)
    assert "plywood, to their size; those that are alike within 1 mm once" in drawn.sentence
    counts = [drawn.figures[name].value for name in ("templates", "openings_drawn")]
    assert counts == [drawn.result.count, drawn.result.pieces.sum()]
    assert counts[0] < counts[1] / 4
    assert drawn.figures["template_area"].value == pytest.approx(
        sum(part.area for part in drawn.result.parts) / 1e6
    )
    *_, finer = made(*RINGS, ("face-templates", {"faces": "openings", "alike": 0.01}))
    assert finer.result.count >= drawn.result.count


def test_solids_without_openings_say_what_has_some():
    *_, drawn = made(DOME, BLOCKS, ("face-templates", {"faces": "openings"}))
    assert drawn.status == "failed"
    assert "such as cells deepened about openings" in drawn.error
    assert [remedy.title for remedy in drawn.remedies] == ["Draw every face"]
    assert drawn.error_value == "faces"
