"""What is added begins where there is room and of the size of what is there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.core.sections import find
from leanlattice.core.shaping.facets import facets
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.edits import AddClause, apply, check_kept
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.fitting import fitted

FORMS = [k for k, c in CLAUSE_TYPES.items() if c.gives == "Shape" and "centre" in c.specs()]


def begun(kind, box, **values):
    """The values a clause of a kind begins with beside a box of what is there."""
    clause = ClauseEntry(id="new", kind=kind, values=values)
    edit = fitted(Statement(), AddClause(at=0, clause=clause, beside=box))
    assert edit.beside is None
    after, inverse = apply(Statement(), edit)
    check_kept(after, edit, inverse)
    return edit.clause.values


def box_of(kind, **values):
    statement = Statement(clauses=[ClauseEntry(id="a", kind=kind, values=values)])
    (outcome,) = (o for o in evaluate(statement, ResultCache()) if not o.again)
    places = facets(outcome.result).mesh.vertices
    return tuple(map(tuple, (places.min(axis=0), places.max(axis=0))))


@pytest.mark.parametrize("kind", [k for k in FORMS if not CLAUSE_TYPES[k].takes])
def test_a_form_lands_beside_what_is_there(kind):
    there = box_of(kind)
    assert np.allclose(CLAUSE_TYPES[kind].fills, there, atol=1e-3)
    values = begun(kind, there)
    assert set(values) == {"centre"}
    low, _ = box_of(kind, **values)
    assert low[0] > there[1][0]
    # Where it would not touch, or it is told where to stand, it stays.
    far = tuple(tuple(np.add(corner, 500.0)) for corner in there)
    assert "centre" not in begun(kind, far)
    assert begun(kind, there, centre=[0, 0, 0])["centre"] == [0, 0, 0]


@pytest.mark.parametrize(("low", "level"), [(0.0, -3), (0.4, -3), (0.5, 0), (4.2, 0), (-6.1, -9)])
def test_columns_begin_under_what_lies_lowest(low, level):
    values = begun("columns", ((-7, 0, low), (7, 18, low + 5)))
    assert (values["which"], values["level"]) == ("heights", level)
    assert values["low"] < low < values["high"]
    assert {tuple(corner) for corner in values["places"]} == {
        (x, y, low) for x in (-7.0, 7.0) for y in (0.0, 18.0)
    }
    assert begun("columns", ((0, 0, low), (1, 1, low)), level=-1.5)["level"] == -1.5


@pytest.mark.parametrize(("wide", "deep", "azimuth"), [(14, 6, 0.0), (6, 14, None), (6, 6, None)])
def test_cuts_begin_across_what_is_long(wide, deep, azimuth):
    values = begun("cut-lines", ((0, 0, 0), (wide, deep, 3)))
    assert values.get("azimuth") == azimuth
    assert CLAUSE_TYPES["cut-lines"].specs()["azimuth"].default == 90


def test_columns_begin_under_both_edges_of_a_roof():
    clauses = [ClauseEntry(id=kind, kind=kind) for kind in ("loft", "pattern", "frame")]
    values = begun("columns", box_of("loft"))
    clauses.append(ClauseEntry(id="columns", kind="columns", values=values))
    *_, stood = evaluate(Statement(clauses=clauses), ResultCache())
    assert stood.figures["columns"].value > 10
    assert not stood.warnings


@pytest.mark.parametrize(
    ("size", "thick"), [(0.3, 3.0), (1.0, 6.0), (3.0, None), (6.0, 27.0), (60.0, 40.0)]
)
def test_ribs_begin_as_thick_as_sheets_for_their_size_are(size, thick):
    values = begun("waffle", ((0, 0, 0), (size, size / 2, size / 3)))
    assert values.get("thick_first") == values.get("thick_second") == thick


@given(st.floats(0.01, 5000))
def test_tubes_begin_smaller_in_small_models_and_are_in_the_catalogue(size):
    values = begun("frame", ((0, 0, 0), (size, size, 1)))
    tubes = {name: find(values.get(name, spec.default)) for name, spec in SECTIONS.items()}
    usual = {name: find(spec.default) for name, spec in SECTIONS.items()}
    for name, tube in tubes.items():
        if 8 <= size <= 40:
            assert name not in values
        assert (tube.mass <= usual[name].mass) or size > 40
        assert (tube.mass >= usual[name].mass) or size < 8


SECTIONS = {
    name: spec
    for name, spec in CLAUSE_TYPES["frame"].specs().items()
    if spec.kind == "section" and str(spec.default).startswith("CHS ")
}


def chosen(statement, kind, at=None):
    """What a clause of a kind that is added from the guide is told to work on."""
    clause = ClauseEntry(id="new", kind=kind)
    at = len(statement.clauses) if at is None else at
    box = ((0, 0, 0), (9, 9, 3))
    return fitted(statement, AddClause(at=at, clause=clause, beside=box)).clause.on


def test_a_second_of_a_kind_works_on_what_the_first_left():
    drawings = [ClauseEntry(id=id, kind="draw") for id in ("edges", "arch")]
    assert chosen(Statement(clauses=drawings), "frame-curves") == {}
    framed = [*drawings, ClauseEntry(id="bars", kind="frame-curves")]
    joined = {"curves": "edges", "structure": "bars"}
    assert chosen(Statement(clauses=framed), "frame-curves") == joined
    assert chosen(Statement(clauses=framed), "extrude") == {}, "another kind takes the nearest"
    assert chosen(Statement(clauses=framed), "frame-curves", at=2) == {}
    both = [*framed, ClauseEntry(id="more", kind="frame-curves", on={"curves": "edges"})]
    assert chosen(Statement(clauses=both), "frame-curves") == {"structure": "more"}, "none is left"


def test_a_drawing_begins_on_the_plane_of_the_picture_that_was_laid_last():
    first = ClauseEntry(id="first", kind="underlay", values={"plane": "side", "level": 9})
    last = ClauseEntry(id="last", kind="underlay", values={"plane": "front", "level": -2.5})
    drawn = ClauseEntry(id="drawn", kind="draw", values={"plane": "plan", "level": 7})
    statement = Statement(clauses=[first, last, drawn])

    def begins(at, **values):
        clause = ClauseEntry(id="new", kind="draw", values=values)
        return fitted(statement, AddClause(at=at, clause=clause)).clause.values

    assert begins(3, curves=[]) == {"plane": "front", "level": -2.5, "curves": []}
    assert begins(1) == {"plane": "side", "level": 9}
    assert begins(0) == {}
    last.off = True
    assert begins(3) == {"plane": "side", "level": 9}, "what is switched off is not drawn on"
    last.off = False
    assert begins(3, level=4)["level"] == 4, "what it says itself stays"


def test_bars_that_are_added_to_others_begin_with_names_that_go_on():
    drawings = [ClauseEntry(id=id, kind="draw") for id in ("edges", "arch")]
    framed = Statement(clauses=[*drawings, ClauseEntry(id="bars", kind="frame-curves")])
    clause = ClauseEntry(id="new", kind="frame-curves")
    added = fitted(framed, AddClause(at=3, clause=clause, beside=((0, 0, 0), (9, 9, 3)))).clause
    assert "series" not in added.values
    alone = fitted(framed, AddClause(at=3, clause=clause)).clause
    assert alone.values["series"]
    assert not alone.on


def test_what_changes_a_structure_goes_on_with_the_nearest():
    kinds = ("loft", "pattern", "frame", "give-section")
    statement = Statement(clauses=[ClauseEntry(id=k, kind=k) for k in kinds])
    assert chosen(statement, "give-section") == {}


def test_sizes_of_models_are_told_in_rising_order_and_begin_within_limits():
    told = 0
    for kind in CLAUSE_TYPES.values():
        for spec in kind.specs().values():
            told += bool(spec.by_size)
            sizes = [size for size, _ in spec.by_size]
            assert sizes == sorted(set(sizes))
            assert all(spec.least <= value <= spec.most for _, value in spec.by_size)
    assert told >= 5


def test_without_a_box_a_clause_begins_as_it_always_does():
    assert begun("waffle", None) == {}
    assert begun("ball", None) == {}
