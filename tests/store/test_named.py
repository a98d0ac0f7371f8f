"""States that people gave a name, to find them again."""

from __future__ import annotations

import pytest

from leanlattice.statement.document import Statement
from leanlattice.statement.edits import EditError, Rename
from leanlattice.store import named
from leanlattice.store.store import Store

PNG = b"\x89PNG\r\n\x1a\n and what follows"


@pytest.fixture
def store(tmp_path):
    return Store(tmp_path)


def renamed(store, project, *names):
    return [store.edit(project, Rename(name=name)).head for name in names]


def test_a_named_state_is_found_again_also_on_a_way_that_was_left(store):
    project = store.create(Statement(name="Roof"))
    first, second = renamed(store, project, "one", "two")
    store.name_state(project, second, "before the client")
    store.set_picture_of_state(project, second, PNG)
    store.undo(project)
    (other,) = renamed(store, project, "another")
    told = store.states(project)
    assert [s.head for s in told] == [other, first, 0, second]
    assert told[-1].named == named.Named("before the client", True)
    assert {s.named for s in told[:-1]} == {None}
    assert store.picture_of_state(project, second) == PNG
    assert store.go_to(project, second).statement.name == "two"
    # The way that was left now is there no more than it was.
    assert [s.head for s in store.states(project)] == [second, first, 0]
    with pytest.raises(EditError, match="never stood"):
        store.go_to(project, other)


def test_a_name_is_changed_and_taken_away_with_its_picture(store):
    project = store.create(Statement(name="Roof"))
    (head,) = renamed(store, project, "one")
    store.name_state(project, head, "a")
    store.set_picture_of_state(project, head, PNG)
    store.name_state(project, head, "b")
    assert store.states(project)[0].named == named.Named("b", True)
    store.name_state(project, head, "")
    assert store.states(project)[0].named is None
    assert store.picture_of_state(project, head) is None
    store.name_state(project, head, "c")
    assert store.states(project)[0].named == named.Named("c", False)


def test_the_start_can_have_a_name_and_no_other_project_s_states(store):
    mine, other = (store.create(Statement(name=name)) for name in ("mine", "other"))
    (theirs,) = renamed(store, other, "theirs")
    store.name_state(mine, 0, "as it began")
    assert store.states(mine)[0].named == named.Named("as it began", False)
    for head in (theirs, theirs + 99):
        with pytest.raises(EditError, match="never stood"):
            store.name_state(mine, head, "x")
    with pytest.raises(EditError, match="name it first"):
        store.set_picture_of_state(other, theirs, PNG)


def test_names_are_not_too_long_nor_too_many(store, monkeypatch):
    project = store.create(Statement(name="Roof"))
    heads = renamed(store, project, "one", "two", "three")
    with pytest.raises(EditError, match="at most 80 characters; this one has 81"):
        store.name_state(project, heads[0], "x" * 81)
    monkeypatch.setattr(named, "MOST", 2)
    for head in heads[:2]:
        store.name_state(project, head, "n")
    with pytest.raises(EditError, match="take one away"):
        store.name_state(project, heads[2], "n")
    store.name_state(project, heads[0], "still")  # one that has a name
