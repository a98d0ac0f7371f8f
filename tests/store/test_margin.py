"""What people keep in the margin of a project."""

from __future__ import annotations

import pytest

from leanlattice.statement.document import Statement
from leanlattice.statement.edits import EditError, Rename
from leanlattice.store import margin
from leanlattice.store.store import Store, UnknownProject


@pytest.fixture
def store(tmp_path):
    return Store(tmp_path)


def test_what_is_noted_replaces_what_stood_there_under_its_name_only(store):
    project, other = (store.create(Statement(name=name)) for name in ("mine", "other"))
    assert store.margin(project) == {}
    store.note(project, {"lengths": "feet", "targets": {"longest": {"most": 3}}})
    store.note(project, {"targets": {}})
    assert store.margin(project) == {"lengths": "feet", "targets": {}}
    assert store.margin(other) == {}


def test_it_is_no_part_of_the_history_and_outlives_the_store(store, tmp_path):
    project = store.create(Statement(name="Roof"))
    store.edit(project, Rename(name="Hall"))
    store.note(project, {"lengths": "feet"})
    assert store.undo(project).statement.name == "Roof"
    assert [s.words for s in store.states(project)].count("") <= 1
    store.close()
    assert Store(tmp_path).margin(project) == {"lengths": "feet"}


def test_too_much_is_refused_and_what_stood_there_stays(store, monkeypatch):
    project = store.create(Statement(name="Roof"))
    store.note(project, {"lengths": "feet"})
    monkeypatch.setattr(margin, "LARGEST", 100)
    with pytest.raises(EditError, match="takes 100 bytes; this would be 1"):
        store.note(project, {"targets": {"x" * 100: {}}})
    assert store.margin(project) == {"lengths": "feet"}


def test_a_copy_has_the_same_margin_and_then_its_own(store):
    project, copy = (store.create(Statement(name=name)) for name in ("one", "copy"))
    store.copy_margin(project, copy)
    assert store.margin(copy) == {}
    store.note(project, {"lengths": "feet"})
    store.copy_margin(project, copy)
    store.note(copy, {"lengths": "metric"})
    assert store.margin(project) == {"lengths": "feet"}
    with pytest.raises(UnknownProject):
        store.note("0" * 12, {})
