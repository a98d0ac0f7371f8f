"""What is told of clauses for where they stand."""

from __future__ import annotations

from pathlib import Path

import pytest

from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.edits import MoveClause, SetValue, apply
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.plan import plan
from leanlattice.statement.standing import notices_of
from leanlattice.statement.upgrade import read_upgraded

DEMOS = sorted((Path(__file__).parents[2] / "demo").glob("*.json"))
NET = ("net", "pattern", {"bays_across": 4, "bays_along": 4})


def statement(*rows, on=()):
    """Clauses on a loft: (id, kind, values), and what some work on by id."""
    named = dict(on)
    clauses = [
        ClauseEntry(id=i, kind=kind, values=values, on=named.get(i, {}))
        for i, kind, values in (("roof", "loft", {}), *rows)
    ]
    return Statement(clauses=clauses)


def told(made):
    return notices_of(plan(made))


def codes(made):
    return {name: [n.code for n in notices] for name, notices in told(made).items()}


def test_panels_above_their_structure_are_told_and_its_move_lets_them_regard_it():
    made = statement(NET, ("panes", "panels", {}), ("bars", "frame", {}))
    (notice,) = told(made)["panes"]
    assert notice.code == "stands too low"
    assert "a structure of the same net" in notice.text
    (remedy,) = notice.remedies
    assert remedy.moved == "bars"
    at = [c.id for c in made.clauses].index("panes")
    mended, _ = apply(made, MoveClause(clause=remedy.moved, to=at))
    assert told(mended) == {}
    raised = [
        next(o for o in evaluate(s, ResultCache()) if o.id == "panes").figures["raised"].value
        for s in (made, mended)
    ]
    assert raised[0] == 0 < raised[1]


COLUMNS = ("legs", "columns", {"which": "heights", "low": -1, "high": 1})


@pytest.mark.parametrize("kind", ["node-plates", "hubs", "tube-ends", "bars"])
def test_parts_made_above_what_changes_their_members_are_told_and_its_move_mends_it(kind):
    meeting = {"node-plates": "arms", "hubs": "seats"}.get(kind, "welded")
    frame = ("bars", "frame", {"meeting": meeting})
    made = statement(NET, frame, ("parts", kind, {}), ("names", "name", {}), COLUMNS)
    (notice,) = told(made)["parts"]
    assert notice.code == "made too early"
    assert not notice.remedies, "columns stand on what is named below the parts"
    made = statement(NET, frame, ("parts", kind, {}), COLUMNS, ("names", "name", {}))
    (notice,) = told(made)["parts"]
    (remedy,) = notice.remedies
    assert remedy.moved == "legs"
    mended, _ = apply(made, MoveClause(clause="legs", to=3))
    assert told(mended) == {}


def test_parts_that_nothing_changes_or_that_are_of_a_structure_one_chose_are_not_told():
    frame = ("bars", "frame", {})
    parts = ("cut", "bars", {})
    other = ("others", "frame", {"series": "B"})
    assert "cut" not in codes(statement(NET, frame, parts, ("names", "name", {}), other))
    chosen = statement(NET, frame, parts, COLUMNS, on={"cut": {"structure": ["bars"]}})
    assert codes(chosen) == {}


@pytest.mark.parametrize(
    ("rows", "on"),
    [
        pytest.param([NET, ("bars", "frame", {}), ("panes", "panels", {})], {}, id="above"),
        pytest.param([NET, ("panes", "panels", {}), ("names", "name", {})], {}, id="none"),
        pytest.param(
            [NET, ("panes", "panels", {}), ("other", "pattern", {}), ("bars", "frame", {})],
            {},
            id="of another net",
        ),
        pytest.param(
            [NET, ("panes", "panels", {}), ("bars", "frame", {})],
            {"panes": {"frame": []}},
            id="none is wanted",
        ),
        pytest.param(
            [
                NET,
                ("bars", "frame", {}),
                ("panes", "panels", {}),
                ("more", "frame", {"series": "B"}),
            ],
            {"more": {"net": "net"}},
            id="one above is regarded",
        ),
    ],
)
def test_nothing_is_told_of_panels(rows, on):
    assert told(statement(*rows, on=on)) == {}


def test_a_structure_that_needs_what_stands_between_is_not_moved():
    made = statement(
        NET,
        ("panes", "panels", {}),
        ("other", "pattern", {}),
        ("first", "frame", {}),
        ("bars", "frame", {}),
        on={"bars": {"net": "net", "structure": ["first"]}},
    )
    (notice,) = told(made)["panes"]
    assert notice.remedies == ()


TWO = (("first", "frame", {}), ("other", "pattern", {}), ("second", "frame", {}))


def test_two_structures_of_one_series_are_told_apart_by_another():
    made = statement(NET, *TWO)
    (notice,) = told(made)["second"]
    assert (notice.code, notice.value) == ("names stand twice", "series")
    (remedy,) = notice.remedies
    assert remedy.values == {"series": "A"}
    value = SetValue(clause="second", name="series", value="A")
    assert told(apply(made, value)[0]) == {}


def test_a_line_bears_the_series_that_was_said_last():
    named = ("names", "name", {"series": "B"})
    assert codes(statement(NET, *TWO, named)) == {}
    again = ("again", "name", {"series": ""})
    assert codes(statement(NET, *TWO, named, again)) == {"again": ["names stand twice"]}
    kept = ("again", "name", {})
    assert codes(statement(NET, *TWO, kept)) == {"second": ["names stand twice"]}


def test_where_all_series_are_used_there_is_nothing_to_offer():
    rows = [(f"p{k}", "panels", {"series": s}) for k, s in enumerate(["", "A", "B", "C", "D", "C"])]
    ((name, (notice,)),) = told(statement(NET, *rows)).items()
    assert name == "p5"
    assert notice.remedies == ()


def test_what_is_off_or_cannot_be_read_is_passed_over():
    made = statement(NET, *TWO)
    made.clauses[-1].off = True
    assert told(made) == {}
    made.clauses[-1].off = False
    made.clauses[-1].values = {"series": "nothing"}
    assert told(made) == {}


@pytest.mark.parametrize("path", DEMOS, ids=lambda p: p.stem)
def test_nothing_is_told_of_the_demos(path):
    assert told(read_upgraded(path.read_bytes())) == {}
