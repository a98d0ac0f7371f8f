"""JSON that can be written again, and edits that can be read back."""

from __future__ import annotations

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from leanlattice.statement.document import ClauseEntry, Dimension, Statement
from leanlattice.statement.edits import EditError, Rename, SetDimension, SetValue, apply, check_kept
from leanlattice.statement.strict_json import NotJson, read_json
from leanlattice.store.store import Store, Unreadable

WHOLE = st.integers(-(2**63), 2**63 - 1)
PLAIN = st.recursive(
    st.none()
    | st.booleans()
    | WHOLE
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(), inner, max_size=4),
    max_leaves=12,
)


@given(PLAIN, st.booleans())
def test_what_can_be_written_is_read_as_it_is(value, escaped):
    text = json.dumps(value, ensure_ascii=escaped)
    assert read_json(text) == value
    assert read_json(text.encode()) == value


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("[NaN]", "NaN"),
        ('{"a": -Infinity}', "-Infinity"),
        ("1e999", "1e999 is larger"),
        ("-1e400", "larger"),
        (str(2**63), "whole number"),
        (str(-(2**63) - 1), "whole number"),
        ("9" * 5000, "whole number"),
        (r'{"a": ["\ud800"]}', "half a letter"),
        (r'{"\uDFFF": 1}', "half a letter"),
        ('"\ud800"', "UTF-8"),
        (b'"\xff"', "UTF-8"),
        ("[" * 100_000, "deeply"),
        ("{", "cannot be read as JSON"),
        ("", "cannot be read as JSON"),
    ],
)
def test_what_nothing_can_hold_is_refused_in_a_sentence(text, said):
    with pytest.raises(NotJson, match=said) as told:
        read_json(text)
    assert len(str(told.value)) < 200
    assert str(told.value).endswith(".")


def test_the_largest_numbers_and_whole_letters_are_read():
    assert read_json("[9223372036854775807, -9223372036854775808, 1.7e308]")[0] == 2**63 - 1
    assert read_json(r'"\ud83d\ude00"') == "😀"


@pytest.mark.parametrize("value", [float("inf"), float("-inf"), float("nan")])
def test_a_dimension_is_a_finite_number(value):
    with pytest.raises(ValidationError):
        Dimension(name="a", value=value)


@pytest.mark.parametrize(
    "value", [1e999, float("nan"), [1.0, [float("inf")]], "\ud800", (1.0, 2.0)]
)
def test_an_edit_that_cannot_be_read_back_is_not_made(tmp_path, value):
    store = Store(tmp_path)
    project = store.create(Statement(clauses=[ClauseEntry(id="cap", kind="dome")]))
    with pytest.raises(EditError) as told:
        store.edit(project, SetValue(clause="cap", name="span", value=value))
    assert str(told.value).startswith("That change ")
    # Built without being checked, as from a gate that let it through.
    dimension = Dimension.model_construct(name="a", value=value, unit="m")
    with pytest.raises(EditError):
        store.edit(project, SetDimension.model_construct(dimension=dimension))
    assert Store(tmp_path).position(project).head == 0
    store.edit(project, Rename(name="goes on"))
    assert Store(tmp_path).position(project).statement.name == "goes on"


def test_a_statement_does_not_grow_beyond_what_is_read(tmp_path):
    store = Store(tmp_path)
    many = [ClauseEntry(id=f"c{k}", kind="draw") for k in range(9)]
    project = store.create(Statement(clauses=many))
    large = [[-0.123456789012345] * 4] * 12_000
    refused = 0
    for clause in many:
        try:
            store.edit(project, SetValue(clause=clause.id, name="curves", value=large))
        except EditError as error:
            assert "bytes long" in str(error)
            refused += 1
    kept = Store(tmp_path).position(project).statement
    assert sum("curves" in c.values for c in kept.clauses) == 9 - refused
    assert 0 < refused < 9


@given(PLAIN)
@settings(max_examples=60, deadline=None)
def test_whatever_a_value_is_it_is_kept_as_it_is_or_refused(value):
    statement = Statement(clauses=[ClauseEntry(id="cap", kind="dome", values={"rise": 2.5})])
    edit = SetValue(clause="cap", name="span", value=value)
    try:
        after, inverse = apply(statement, edit)
        check_kept(after, edit, inverse)
    except EditError as error:
        assert str(error).endswith(".")
        return
    back, _ = apply(after, inverse)
    assert back == statement


def spoil(store, project, head):
    """What an older program may have let through."""
    with store.engine.begin() as connection:
        connection.exec_driver_sql(
            "UPDATE edits SET edit = ? WHERE id = ?",
            ('{"op": "dimension", "dimension": {"name": "a", "value": Infinity}}', head),
        )


def test_a_project_that_cannot_be_read_goes_back_to_where_it_can(tmp_path):
    store = Store(tmp_path)
    project = store.create(Statement(clauses=[ClauseEntry(id="cap", kind="dome")]))
    heads = [
        store.edit(project, SetValue(clause="cap", name="span", value=v)).head for v in (8, 9, 10)
    ]
    spoil(store, project, heads[1])
    store = Store(tmp_path)  # nothing of before is in its memory
    with pytest.raises(Unreadable, match="go back to where it can be"):
        store.position(project)
    found = store.states(project)
    assert [s.head for s in found] == [*heads[::-1], 0]
    assert [s.readable for s in found] == [False, False, True, True]
    assert found[0].words == "span of cap"
    assert found[1].words == "a change that cannot be read"
    with pytest.raises(Unreadable):
        store.go_to(project, heads[1])
    with pytest.raises(EditError, match="never stood"):
        store.go_to(project, heads[2] + 5)
    back = store.go_to(project, heads[0])
    assert back.statement.clauses[0].values == {"span": 8}
    assert Store(tmp_path).position(project).head == heads[0]
    store.edit(project, Rename(name="on from here"))
    assert store.position(project).can_undo
