"""What former versions of the format kept is read as it was: statements, and a history of 200 edits
with branches, undone to its beginning."""

from __future__ import annotations

import gzip
import hashlib
import json
import random
from pathlib import Path

import pytest

from leanlattice.statement.document import read_statement
from leanlattice.store.copies import NAME
from leanlattice.store.store import Store

FIXTURES = Path(__file__).resolve().parents[1] / "fixtures" / "version_1"
HISTORIES = json.loads((FIXTURES / "states.json").read_text())
"""Of each project its id, the edit it stands at, and a digest of its statement after each edit."""
STATEMENTS = sorted(path.stem for path in (FIXTURES / "demos").glob("*.json"))


def digest(statement):
    return hashlib.sha256(statement.text().encode()).hexdigest()[:16]


@pytest.fixture(scope="module")
def store(tmp_path_factory):
    folder = tmp_path_factory.mktemp("data")
    (folder / NAME).write_bytes(gzip.decompress((FIXTURES / "projects.db.gz").read_bytes()))
    store = Store(folder)
    yield store
    store.close()


@pytest.mark.parametrize("name", STATEMENTS)
def test_a_statement_is_read_whole(name):
    text = (FIXTURES / "demos" / f"{name}.json").read_text()
    statement = read_statement(text)
    assert [c.kind for c in statement.clauses] == [c["kind"] for c in json.loads(text)["clauses"]]
    assert read_statement(statement.text()) == statement


@pytest.mark.parametrize("name", HISTORIES)
def test_a_history_is_walked_back_to_its_beginning(name, store):
    history, states = HISTORIES[name], HISTORIES[name]["states"]
    project = history["project"]
    assert store.position(project).head == history["head"]
    walked = {}
    while True:
        position = store.position(project)
        walked[str(position.head)] = digest(position.statement)
        if not position.can_undo:
            break
        store.undo(project)
    assert len(walked) > 5
    assert walked.items() <= states.items()
    # Forward again, by the branch that was made last at each fork.
    while store.position(project).can_redo:
        position = store.redo(project)
        assert digest(position.statement) == states[str(position.head)]


def test_branches_that_were_left_are_there(store):
    with store.engine.connect() as connection:
        rows = connection.exec_driver_sql(
            "SELECT project, COUNT(*) - COUNT(DISTINCT parent) FROM edits GROUP BY project"
        )
        left = dict(tuple(row) for row in rows)
    assert sum(len(h["states"]) - 1 for h in HISTORIES.values()) == 200
    assert all(left[history["project"]] > 3 for history in HISTORIES.values())


def test_a_step_from_anywhere_comes_back(store):
    chance = random.Random(3)
    for history in HISTORIES.values():
        for _ in range(20):
            before = store.position(history["project"])
            step, back = chance.choice([(store.undo, store.redo), (store.redo, store.undo)])
            after = step(history["project"])
            assert digest(after.statement) == history["states"][str(after.head)]
            if after.head != before.head and step == store.redo:
                assert back(history["project"]).head == before.head
