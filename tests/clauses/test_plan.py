"""The plan: what stands for what."""

import pytest

from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.plan import plan

HILL = ("hill", "loft", {})
BALL = ("ball", "ball", {"solid": "body"})
NET = ("net", "pattern", {"shape": "hill"})
SECOND = ("second", "pattern", {"shape": "again"})


def stands(*clauses):
    entries = [ClauseEntry(id=id, kind=kind, on=on) for id, kind, on in clauses]
    return {step.entry.id: set(step.stands_for) for step in plan(Statement(clauses=entries))}


def test_a_changed_shape_stands_for_the_one_before_and_not_for_all_below():
    moved = ("moved", "move", {"shape": "hill"})
    again = ("again", "turn", {"shape": "moved"})
    found = stands(HILL, moved, again)
    assert (found["hill"], found["moved"], found["again"]) == (set(), {"hill"}, {"moved"})


def test_a_net_stands_for_shapes_and_nets_below_it_and_for_nothing_beside_it():
    shape = ("again", "net-shape", {"net": "net"})
    found = stands(HILL, BALL, NET, shape, SECOND)
    assert found["net"] == {"hill"}
    assert found["again"] == set()
    assert found["second"] == {"hill", "net", "again"}


@pytest.mark.parametrize("kind", ["frame", "panels"])
def test_a_frame_covers_what_it_is_made_of_and_panels_nothing(kind):
    on = {"net": "net"}
    found = stands(HILL, BALL, NET, (kind, kind, on))
    assert found[kind] == ({"hill", "net"} if kind == "frame" else set())


def test_what_is_off_or_cannot_be_made_stands_for_nothing():
    entries = [
        ClauseEntry(id="hill", kind="loft"),
        ClauseEntry(id="off", kind="move", on={"shape": "hill"}, off=True),
        ClauseEntry(id="odd", kind="move", on={"shape": "none"}),
    ]
    assert [s.stands_for for s in plan(Statement(clauses=entries))] == [(), (), ()]


def test_a_ground_stays_beside_what_stands_on_it():
    frame = ("frame", "frame", {"net": "net"})
    columns = ("columns", "columns", {"structure": "frame", "ground": "ball"})
    found = stands(HILL, BALL, NET, frame, columns)
    assert found["columns"] == {"hill", "net", "frame"}


def nothing_above(*kinds):
    """What the last of some clauses says that has nothing to work on, and what it offers."""
    entries = [ClauseEntry(id=k, kind=k) for k in kinds]
    error = plan(Statement(clauses=entries))[-1].error
    return str(error), [r.kind for r in error.remedies]


def test_what_has_nothing_to_work_on_offers_what_can_be_made_of_what_there_is():
    told, offered = nothing_above("loft", "double-layer")
    assert "no net above" in told
    assert offered[0] == "pattern"
    for kind in offered:
        entries = [ClauseEntry(id=k, kind=k) for k in ("loft", kind, "double-layer")]
        assert [step.error for step in plan(Statement(clauses=entries))] == [None] * 3


def test_with_nothing_at_all_it_offers_what_comes_before():
    _, offered = nothing_above("panels")
    assert "pattern" in offered
    _, offered = nothing_above("pattern")
    assert "loft" in offered
