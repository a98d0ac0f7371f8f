# ruff: noqa: E501, PT012
"""The statement: formulas, reading, edits and evaluation."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from leanlattice.statement.document import (
    ClauseEntry,
    Dimension,
    Statement,
    StatementError,
    read_statement,
)
from leanlattice.statement.edits import Edit, EditError, apply
from leanlattice.statement.evaluate import Cancelled, ResultCache, evaluate
from leanlattice.statement.fitting import fitted
from leanlattice.statement.formulas import FormulaError, Named, resolve, resolve_dimensions
from leanlattice.statement.plan import plan
from leanlattice.statement.words import words_of

from ..conftest import demo

EDIT = TypeAdapter(Edit)


def dims(**values):
    return [Dimension(name=n, value=v, unit=u) for n, (v, u) in values.items()]


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("bay", "m", 1.5), ("2 * bay", "m", 3.0), ("bay", "mm", 1500.0), ("bay + 10", "mm", 1510.0),
        ("1.2 m", "mm", 1200.0), ("35mm", "m", 0.035), ("3 bays", "m", None), ("bay * count", "m", 6.0),
        ("max(bay, rise)", "m", 3.0), ("90°", "°", 90.0), ("-(2 − 0.5) × 2", "m", -3.0), ("sqrt(rise * 3)", "m", 3.0),
        ("sin(30)", "", 0.5), ("1e3 mm", "m", 1.0), ("half", "m", 0.75), ("7 / 2", "", 3.5),
    ],
)  # fmt: skip
def test_formulas(text, unit, value):
    names = resolve_dimensions(
        dims(bay=(1.5, "m"), rise=("2*bay", "m"), count=(4, ""), half=("bay/2", "m"))
    )
    if value is None:
        with pytest.raises(FormulaError):
            resolve(text, unit, names)
    else:
        assert resolve(text, unit, names) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("span", "no dimension “span”; known names: bay"), ("1/0", "divides by zero"), ("2 +", "is not a formula"),
        ("9**9**9", "is not a formula"), ("__import__('os')", "no function"), ("bay.real", "is not a formula"),
        ("exp(2)", "no function “exp”"), ("1e308 * 10", "no finite value"), ("45° + 1", "angle"), ("x" * 300, "300 char"),
        ("(" * 60 + "1" + ")" * 60, "."), ("+".join(["1"] * 99), "nested too deeply"), ("'a' * 3", "is not a formula"),
        ("[1, 2]", "is not a formula"), ("True", "is not a formula"), ("sqrt(0 - 1)", "no value"),
    ],
)  # fmt: skip
def test_formulas_without_a_value_say_why(text, words):
    names = resolve_dimensions(dims(bay=(1.5, "m")))
    if words == ".":
        assert resolve(text, "m", names) == 1  # brackets alone are no depth
        return
    with pytest.raises(FormulaError, match=words):
        resolve(text, "m", names)


def test_circular_and_unknown_dimensions_are_refused_in_words():
    found = resolve_dimensions(
        dims(a=("b + 1", "m"), b=("2 * c", "m"), c=("a", "m"), d=("e", "m"), f=(2, "m"))
    )
    assert "refers to itself: a → b → c → a" in str(found["a"])
    assert all(isinstance(found[n], FormulaError) for n in "abcd")
    assert found["f"] == Named(2.0, "m")
    assert "no dimension “e”" in str(found["d"])


@given(st.text(max_size=40))
def test_any_text_is_a_number_or_a_sentence(text):
    try:
        assert isinstance(resolve(text, "m", {}), float)
    except FormulaError as error:
        assert str(error)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "cannot be read as JSON"), ("[1]", "should be “lean-lattice-statement”"), ("{", "JSON"),
        ('{"format": "lean-lattice-statement", "version": 7}', "version 7.*newer program"),
        ('{"format": "lean-lattice-statement", "version": 1, "clauses": [{"id": "a", "kind": "dome", "values": {"span": NaN}}]}', "NaN"),
        ('{"format": "lean-lattice-statement", "version": 1, "clauses": [{"id": "a", "kind": "dome"}, {"id": "a", "kind": "dome"}]}', "two clauses.*“a”"),
        ('{"format": "lean-lattice-statement", "version": 1, "clauses": [{"id": "<b>", "kind": "dome"}]}', "clauses → 0 → id"),
        ('{"format": "lean-lattice-statement", "version": 1, "secret": 1}', "secret"),
        ('{"format": "lean-lattice-statement", "version": 1, "clauses": [{"id": "a", "kind": "d", "values": {"v": [[[[[[1]]]]]]}}]}', "four deep"),
        ("[" * 100_000, "."), (" " * 6_000_000, "at most 5,000,000"), (b"\xff\xfe\x00", "JSON"),
    ],
)  # fmt: skip
def test_broken_and_hostile_statements_are_refused_in_words(text, words):
    with pytest.raises(StatementError, match=words):
        read_statement(text)


def test_a_statement_reads_back_as_it_was_written():
    for name in ("boat-hall", "ferry-shelter"):
        statement = demo(name)
        assert read_statement(statement.text()) == statement


IDS = st.sampled_from(["hall", "net", "tubes", "glazing", "names", "sheets", "gone"])
SINGLE = st.one_of(
    st.fixed_dictionaries({"op": st.just("set"), "clause": IDS, "name": st.sampled_from(["module", "gap", "pattern"]),
                           "value": st.one_of(st.none(), st.floats(0.1, 9), st.sampled_from(["bay", "2 * bay", "quads"]))}),
    st.fixed_dictionaries({"op": st.just("add"), "at": st.integers(0, 9), "clause": st.fixed_dictionaries(
        {"id": st.sampled_from(["x", "y", "net"]), "kind": st.sampled_from(["dome", "pattern", "nonsense"])})}),
    st.fixed_dictionaries({"op": st.just("remove"), "clause": IDS}),
    st.fixed_dictionaries({"op": st.just("move"), "clause": IDS, "to": st.integers(0, 9)}),
    st.fixed_dictionaries({"op": st.just("switch"), "clause": IDS, "off": st.booleans()}),
    st.fixed_dictionaries({"op": st.just("bundle"), "clause": IDS, "bundle": st.sampled_from(["", "roof", "columns"])}),
    st.fixed_dictionaries({"op": st.just("on"), "clause": IDS, "input": st.just("shape"), "source": st.none() | IDS}),
    st.fixed_dictionaries({"op": st.just("dimension"), "dimension": st.fixed_dictionaries(
        {"name": st.sampled_from(["bay", "rise"]), "value": st.floats(0.5, 3) | st.sampled_from(["rise", "joint"])})}),
    st.fixed_dictionaries({"op": st.just("undimension"), "name": st.sampled_from(["bay", "joint", "none"])}),
    st.fixed_dictionaries({"op": st.just("rename"), "name": st.text(min_size=1, max_size=20)}),
    st.fixed_dictionaries({"op": st.just("place"), "clause": IDS, "lies": st.lists(st.tuples(
        st.sampled_from(["P1", "P2", "P3"]), st.integers(0, 3), *[st.floats(0, 900)] * 3, st.booleans()), min_size=1, max_size=3)}),
)  # fmt: skip
SEVERAL = st.fixed_dictionaries(
    {"op": st.just("together"), "edits": st.lists(SINGLE, min_size=1, max_size=4)}
)
EDITS = SINGLE | SEVERAL


@given(st.lists(EDITS, max_size=12))
def test_every_edit_can_be_taken_back_and_leaves_a_statement_that_plans(edits):
    statement, undo = demo("boat-hall"), []
    for plain in edits:
        try:
            after, inverse = apply(statement, EDIT.validate_python(plain))
        except EditError as error:
            assert str(error)
            continue
        undo.append((statement, inverse))
        statement = after
        assert len(plan(statement)) == len(statement.clauses)
        assert read_statement(statement.text()) == statement
    for before, inverse in reversed(undo):
        statement, _ = apply(statement, inverse)
        assert statement == before


@pytest.mark.parametrize(
    ("kind", "others", "series"),
    [
        ("frame", [], None),
        ("frame", [("frame", {})], "A"),
        ("frame", [("frame", {"series": "A"})], None),
        ("frame", [("frame", {}), ("name", {"series": "A"})], "B"),
        ("name", [("frame", {})], None),
        ("panels", [("frame", {}), ("panels", {})], "A"),
        ("slices", [("waffle", {})], "P"),
        ("solids", [("waffle", {}), ("frame", {})], None),
        ("dome", [("frame", {})], None),
        ("frame", [("frame", {"series": s}) for s in ("", *"ABCD")], None),
    ],
)
def test_what_is_added_gets_names_of_its_own(kind, others, series):
    clauses = [ClauseEntry(id=f"c{k}", kind=o, values=v) for k, (o, v) in enumerate(others)]
    add = {"op": "add", "at": 0, "clause": {"id": "new", "kind": kind, "values": {}}}
    fits = fitted(Statement(clauses=clauses), EDIT.validate_python(add))
    assert fits.clause.values.get("series") == series
    add["clause"]["values"] = {"series": "C"} if kind != "dome" else {}
    told = EDIT.validate_python(add)
    assert fitted(Statement(clauses=clauses), told) == told


def test_what_goes_on_with_a_structure_keeps_its_series():
    before = Statement(clauses=[ClauseEntry(id="first", kind="frame")])
    clause = {"id": "new", "kind": "frame", "on": {"structure": ["first"]}}
    add = EDIT.validate_python({"op": "add", "at": 1, "clause": clause})
    assert fitted(before, add) == add


def test_placing_a_part_says_no_more_than_where_it_lies():
    lies = [["P1", 0, 10.0, 20.0, 0.0, False], ["P2", 0, 300.0, 20.0, 90.0, False]]
    first = edited(demo("boat-hall"), op="place", clause="sheets", lies=lies)
    assert first.clause("sheets").values["arrangement"] == lies
    moved = ["P2", 1, 5.0, 6.0, 0.0, True]
    place = EDIT.validate_python({"op": "place", "clause": "sheets", "lies": [moved]})
    after, inverse = apply(first, place)
    assert after.clause("sheets").values["arrangement"] == [lies[0], moved]
    assert inverse.lies == [tuple(lies[1])]
    assert words_of(place) == "P2 placed"
    # What is no arrangement is not made one, and one with a part twice comes back as it was.
    odd = edited(first, op="set", clause="sheets", name="arrangement", value=[["P2", 1], ["P2", 2]])
    after, inverse = apply(odd, place)
    assert apply(after, inverse)[0] == odd
    spoiled = edited(first, op="set", clause="sheets", name="arrangement", value=[3])
    with pytest.raises(EditError, match="is no arrangement"):
        apply(spoiled, place)


def statuses(statement, cache=None):
    return {o.id: o for o in evaluate(statement, cache or ResultCache())}


def edited(statement, **edit):
    return apply(statement, EDIT.validate_python(edit))[0]


def test_only_what_a_change_touches_is_done_again(shelter):
    cache = ResultCache()
    first = statuses(shelter, cache)
    assert {o.status for o in first.values()} == {"done"}
    changed = statuses(edited(shelter, op="set", clause="boards", name="joint", value=9), cache)
    assert {i for i, o in changed.items() if not o.again} == {"boards", "sheets"}
    assert all(o.again for o in statuses(shelter, cache).values())
    renamed = statuses(edited(shelter, op="rename", name="Other"), cache)
    assert all(o.again for o in renamed.values())


def test_the_same_statement_gives_the_same_result(shelter):
    one, two = statuses(shelter), statuses(shelter)
    assert [o.key for o in one.values()] == [o.key for o in two.values()]
    layouts = [o["sheets"].result.layout for o in (one, two)]
    assert (layouts[0].shift == layouts[1].shift).all()
    assert [p.label for p in layouts[0].parts] == [p.label for p in layouts[1].parts]


def test_a_failing_clause_stops_only_what_depends_on_it(boat_hall):
    wrong = edited(boat_hall, op="set", clause="tubes", name="inner", value="CHS 1 × 1")
    found = statuses(wrong)
    assert {i: o.status for i, o in found.items()} == {
        "hall": "done", "net": "done", "grid-lengths": "done", "edge-lengths": "done",
        "near": "done", "base": "done", "alike": "done", "tubes": "failed", "feet": "waiting",
        "glazing": "done", "names": "waiting", "plates": "waiting", "sheets": "waiting",
        "bars": "waiting",
    }  # fmt: skip
    assert found["tubes"].error_value == "inner"
    assert "Frame the net" in found["names"].error
    lost = statuses(edited(boat_hall, op="remove", clause="hall"))
    assert "add one, such as “Loft through profiles”" in lost["net"].error
    unnamed = statuses(edited(boat_hall, op="undimension", name="bay"))
    assert "no dimension “bay”" in unnamed["net"].error
    assert unnamed["net"].error_value == "module"
    strange = statuses(edited(boat_hall, op="add", at=0, clause={"id": "new", "kind": "moebius"}))
    assert "no clause of kind “moebius”" in strange["new"].error
    assert strange["sheets"].status == "done"


def test_clauses_work_on_the_nearest_or_on_what_they_name(shelter):
    two = edited(shelter, op="add", at=1, clause={"id": "loft", "kind": "loft"})
    assert statuses(two)["net"].inputs == {"shape": ("loft",)}
    named = edited(two, op="on", clause="net", input="shape", source="cap")
    assert statuses(named)["net"].inputs == {"shape": ("cap",)}
    gone = statuses(edited(named, op="switch", clause="cap", off=True))
    assert "switched off" in gone["net"].error
    below = statuses(edited(named, op="move", clause="cap", to=5))
    assert "not among those above" in below["net"].error


def test_evaluation_stops_soon_when_cancelled(boat_hall):
    seen = []

    with pytest.raises(Cancelled):
        seen.extend(
            iter(lambda g=evaluate(boat_hall, ResultCache(), lambda: len(seen) > 3): next(g), None)
        )
    cancelled = []
    with pytest.raises(Cancelled):
        for outcome in evaluate(
            boat_hall,
            ResultCache(),
            lambda: bool(cancelled),
            lambda clause, share: cancelled.append(clause),
        ):
            assert outcome.id != "alike"
    assert cancelled[0] == "alike", "the first that tells how far it is"


def test_formulas_resolve_in_points_and_report_their_value():
    statement = Statement(
        dimensions=dims(h=(2.0, "m")),
        clauses=[ClauseEntry(id="d", kind="dome", values={"centre": [0, 0, "h / 2"], "rise": "h"})],
    )
    outcome = statuses(statement)["d"]
    assert outcome.resolved == {"rise": 2.0}
    assert outcome.result.centre[2] == pytest.approx(1 + 2 - outcome.result.radius)
    assert json.loads(statement.text())["clauses"][0]["values"]["rise"] == "h"


def test_what_is_optional_and_cannot_be_made_is_done_without(boat_hall):
    wrong = statuses(edited(boat_hall, op="set", clause="tubes", name="inner", value="CHS 1 × 1"))
    assert wrong["glazing"].status == "done"
    assert "frame" not in wrong["glazing"].inputs
    assert wrong["glazing"].figures["raised"].value == 0
    left_empty = statuses(edited(boat_hall, op="on", clause="glazing", input="frame", source=[]))
    assert left_empty["glazing"].key == wrong["glazing"].key
    assert left_empty["names"].status == "done"
    needed = statuses(edited(boat_hall, op="on", clause="glazing", input="net", source=[]))[
        "glazing"
    ]
    assert "cannot be left empty" in needed.error
    named = edited(edited(boat_hall, op="on", clause="glazing", input="frame", source="tubes"),
                   op="set", clause="tubes", name="inner", value="CHS 1 × 1")  # fmt: skip
    assert statuses(named)["glazing"].status == "waiting"


def test_a_clause_of_a_kind_that_is_not_known_stops_what_may_need_it(boat_hall):
    clauses = [c.model_copy() for c in boat_hall.clauses]
    at = [c.id for c in clauses].index("tubes")
    clauses.insert(at, ClauseEntry(id="newer", kind="refine-cels", values={"factor": 2}))
    found = statuses(boat_hall.model_copy(update={"clauses": clauses}))
    assert found["newer"].status == "failed"
    assert "refine" in found["newer"].error
    later = clauses[at + 1 :]
    assert [found[c.id].status for c in later] == ["waiting"] * len(later)
    assert "does not know" in found["tubes"].error
    clauses[at + 1] = clauses[at + 1].model_copy(update={"on": {"net": "alike"}})
    assert statuses(boat_hall.model_copy(update={"clauses": clauses}))["tubes"].status == "done"


def test_a_long_statement_is_not_computed_again():
    lines = [
        ClauseEntry(id=f"c{k}", kind="draw", values={"curves": [["line", [[0, 0], [1, k]]]]})
        for k in range(150)
    ]
    cache = ResultCache(limit=10_000)
    statement = Statement(clauses=lines)
    list(evaluate(statement, cache))
    again = list(
        evaluate(edited(statement, op="set", clause="c149", name="level", value=1.0), cache)
    )
    assert [o.again for o in again] == [True] * 149 + [False]
    other = Statement(clauses=[ClauseEntry(id="only", kind="draw", values={"level": 3.0})])
    list(evaluate(other, cache))
    assert sum(o.again for o in evaluate(statement, cache)) < 100, (
        "what is not wanted any more is let go of"
    )


def test_another_program_takes_no_results_of_this_one(boat_hall, monkeypatch):
    own = [s.key for s in plan(boat_hall)]
    monkeypatch.setattr("leanlattice.statement.plan.program", lambda: "another")
    assert not set(own) & {s.key for s in plan(boat_hall)}
