"""What is said with a remedy is told by codes, and its words by one table."""

from __future__ import annotations

import ast
from pathlib import Path
from string import Formatter

import pytest

import leanlattice
from leanlattice.api.messages import outcome_message
from leanlattice.clauses.base import ClauseError, Notice, Remedy
from leanlattice.clauses.codes import TEXTS, text_of
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

SOURCES = [p for p in Path(leanlattice.__file__).parent.rglob("*.py") if p.name != "codes.py"]


def test_every_text_of_the_table_is_said_somewhere():
    said = {
        node.value
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }
    assert set(TEXTS) <= said


@pytest.mark.parametrize("code", TEXTS)
def test_a_text_is_a_sentence_made_of_facts(code):
    names = {name for _, name, _, _ in Formatter().parse(TEXTS[code]) if name}
    numbers = dict.fromkeys(names, 1.5)
    text = ClauseError.of(code, numbers).text
    assert "{" not in text
    assert text.endswith(".") or code == "barred"
    if names:
        with pytest.raises(KeyError):
            text_of(code, {})


def test_what_offers_a_remedy_has_a_code():
    help_ = (Remedy("Help", {}),)
    for make in (Notice, ClauseError):
        with pytest.raises(TypeError, match="has a code"):
            make("It is wrong.", remedies=help_)
        with pytest.raises(TypeError, match="has a code"):
            make("It is wrong.", code="no such code")
    assert Notice.coded("barred", {"why": "Gone."}, remedies=help_).text == "Gone."
    assert ClauseError.of("barred", {"why": "Gone."}).code == "barred"


def test_a_remedy_changes_the_aim_that_is_missed_and_the_message_says_what_is_wrong():
    """Two aims that cannot both be met: each remedy is of the clause it names."""
    rows = [
        ("shape", "loft", {"profiles": [[[-5, -6, 0], [5, -6, 0]], [[-5, 6, 0], [5, 6, 0]]]}),
        ("net", "pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6}),
        ("edge", "hold", {"which": "border"}),
        ("light", "push", {"load": 2}),
        ("first", "aim", {"aim": "density", "density": 3}),
        ("second", "aim", {"aim": "equal", "strength": 5}),
        ("form", "settle", {}),
    ]
    entries = [ClauseEntry(id=i, kind=kind, values=values) for i, kind, values in rows]
    outcomes = list(evaluate(Statement(clauses=entries), ResultCache()))
    assert [o.error for o in outcomes if o.error] == []
    told = [w for w in outcome_message(outcomes[-1]).warnings if w.code.startswith("aim missed")]
    assert told
    for warning in told:
        for remedy in warning.remedies:
            assert remedy.clause in ("first", "second"), (
                "the clause that aims, not the one it warns"
            )
            strength = next(e for e in entries if e.id == remedy.clause).values.get("strength", 1.0)
            assert remedy.values["strength"] in (10 * strength, strength / 10)
    assert any(r.clause == "second" for w in told for r in w.remedies)
