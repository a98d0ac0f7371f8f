"""Edits that are made together: all of them or none, and taken back as one."""

from __future__ import annotations

import pytest

from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.edits import (
    AddClause,
    BundleClause,
    EditError,
    RemoveClause,
    SwitchClause,
    Together,
    apply,
)
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.fitting import fitted

KINDS = ("barrel", "pattern", "frame", "panels")
ROOF = Statement(
    clauses=[ClauseEntry(id=id, kind=kind) for id, kind in zip("bnfp", KINDS, strict=True)]
)


def test_several_clauses_are_removed_and_come_back_where_they_were():
    gone = Together(edits=[RemoveClause(clause=c) for c in ("p", "f")])
    with pytest.raises(EditError, match="no clause “x”"):
        apply(ROOF, Together(edits=[*gone.edits, RemoveClause(clause="x")]))
    twice = ROOF.model_copy(update={"clauses": [*ROOF.clauses, ClauseEntry(id="q", kind="panels")]})
    after, back = apply(twice, gone)
    assert [c.id for c in after.clauses] == ["b", "n", "q"]
    assert apply(after, back)[0] == twice


def test_what_does_not_fit_leaves_everything_as_it_was():
    before = ROOF.text()
    off = SwitchClause(clause="b", off=True)
    with pytest.raises(EditError):
        apply(ROOF, Together(edits=[off, SwitchClause(clause="none", off=True)]))
    assert ROOF.text() == before


def test_a_bundle_changes_nothing_of_what_is_made():
    edits = [BundleClause(clause=c, bundle="roof") for c in ("b", "f")]
    bundled, _ = apply(ROOF, Together(edits=edits))
    assert [c.bundle for c in bundled.clauses] == ["roof", "", "roof", ""]
    cache = ResultCache()
    keys = [[o.key for o in evaluate(s, cache)] for s in (ROOF, bundled)]
    assert keys[0] == keys[1]


def test_clauses_that_are_pasted_together_have_names_of_their_own_each():
    frames = [ClauseEntry(id=f"f{k}", kind="frame", on={"structure": []}) for k in range(2)]
    added = [AddClause(at=9, clause=entry) for entry in frames]
    made = fitted(ROOF, Together(edits=added))
    series = [single.clause.values["series"] for single in made.edits]
    assert series == ["A", "B"]
