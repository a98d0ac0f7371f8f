"""What undo takes back and redo does again, in words that one knows from the statement."""

from __future__ import annotations

import pytest

from leanlattice.statement.document import ClauseEntry, Dimension, Statement
from leanlattice.statement.edits import (
    AddClause,
    BundleClause,
    MoveClause,
    RemoveClause,
    RemoveDimension,
    Rename,
    SetDimension,
    SetValue,
    SwitchClause,
    Together,
    WorkOn,
)
from leanlattice.store.store import Store

SWITCHED = [SwitchClause(clause=clause, off=True) for clause in ("cap", "net")]
BUNDLED = [BundleClause(clause=clause, bundle="roof") for clause in ("cap", "net")]
CAP, NET = ClauseEntry(id="cap", kind="dome"), ClauseEntry(id="net", kind="pattern")


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (SetValue(clause="net", name="bays_across", value=9), "bays across of “Lay a pattern”"),
        (AddClause(at=2, clause=ClauseEntry(id="ball-1", kind="ball")), "“Sphere or ball” added"),
        (RemoveClause(clause="net"), "“Lay a pattern” removed"),
        (MoveClause(clause="net", to=0), "“Lay a pattern” moved"),
        (SwitchClause(clause="cap", off=True), "“Dome” switched off"),
        (BundleClause(clause="cap", bundle="roof"), "“Dome” put to “roof”"),
        (BundleClause(clause="cap", bundle=""), "“Dome” taken from its bundle"),
        (Together(edits=SWITCHED), "2 clauses switched off"),
        (Together(edits=BUNDLED), "2 clauses bundled as “roof”"),
        (Together(edits=[*SWITCHED, Rename(name="B")]), "“Dome” switched off and 2 more"),
        (Together(edits=SWITCHED[:1]), "“Dome” switched off"),
        (WorkOn(clause="net", input="shape", source="cap"), "what “Lay a pattern” works on"),
        (SetDimension(dimension=Dimension(name="bay", value=2)), "dimension bay"),
        (RemoveDimension(name="rim"), "dimension rim removed"),
        (Rename(name="Net Loft"), "named “Net Loft”"),
    ],
)
def test_what_is_taken_back_and_done_again_is_told(tmp_path, edit, words):
    store = Store(tmp_path)
    rim = Dimension(name="rim", value=1)
    project = store.create(Statement(clauses=[CAP, NET], dimensions=[rim]))
    began = store.position(project)
    assert (began.undoes, began.redoes) == ("", "")
    done = store.edit(project, edit)
    assert (done.undoes, done.redoes) == (words, "")
    undone = store.undo(project)
    assert (undone.undoes, undone.redoes) == ("", words)
    store.redo(project)
    assert [state.words for state in store.states(project)] == [words, "as it began"]
    store.close()
