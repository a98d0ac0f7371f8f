"""What is kept when the disk does not do what it should: nothing is lost, and it is said in words."""

from __future__ import annotations

import errno
import os
import sqlite3
from contextlib import closing

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings
from leanlattice.cli import app as command
from leanlattice.statement.document import ClauseEntry
from leanlattice.statement.edits import AddClause, Rename, SetValue
from leanlattice.store import copies as copying
from leanlattice.store import database, store
from leanlattice.store.copies import KEPT, NAME, copies, make_copy
from leanlattice.store.database import StorageError
from leanlattice.store.doctor import examine
from leanlattice.store.files import FileStore
from leanlattice.store.results import ResultStore
from leanlattice.store.store import COPY_EVERY, Store

from ..conftest import demo


@pytest.fixture
def kept(tmp_path):
    found = Store(tmp_path)
    yield found
    found.close()


def renamed(kept, project, *names):
    for name in names:
        kept.edit(project, Rename(name=name))


def filled(kept):
    """As if the disk had no more room: SQLite may add no page."""
    with kept.engine.connect() as connection:
        raw = connection.connection.driver_connection
        pages = raw.execute("PRAGMA page_count").fetchone()[0]
        raw.execute(f"PRAGMA max_page_count={pages}")


def test_a_full_disk_changes_nothing_and_loses_nothing(kept, tmp_path):
    project = kept.create(demo("ferry-shelter"))
    renamed(kept, project, "Before")
    filled(kept)
    with pytest.raises(StorageError) as told:
        renamed(kept, project, *(f"{k} " + "x" * 100 for k in range(1000)))
    assert told.value.full
    assert str(tmp_path) in str(told.value)
    assert "safe" in str(told.value)
    name = kept.position(project).statement.name
    kept.close()
    again = Store(tmp_path)
    assert again.position(project).statement.name == name
    renamed(again, project, "After")
    assert again.position(project).statement.name == "After"


def test_those_who_read_never_wait_for_one_who_writes(kept, tmp_path, monkeypatch):
    monkeypatch.setattr(database, "WAIT", 0.2)
    project = kept.create(demo("ferry-shelter"))
    other = Store(tmp_path)
    with closing(sqlite3.connect(tmp_path / NAME)) as writer:
        writer.execute("BEGIN IMMEDIATE")
        assert other.position(project).statement == demo("ferry-shelter")
        assert len(other.projects()) == 1
        assert other.states(project)
        with pytest.raises(StorageError, match="Another program holds"):
            renamed(other, project, "Held up")
    renamed(other, project, "Not held up")


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda file: file.write_bytes(b""), "has gone or is empty"),
        (lambda file: file.unlink(), "has gone or is empty"),
        (lambda file: file.write_bytes(b"no database at all" * 400), "is damaged"),
        (lambda file: file.write_bytes(file.read_bytes()[:9000]), "is damaged"),
    ],
)
def test_a_database_that_is_gone_or_damaged_is_put_back_from_a_copy(tmp_path, spoil, said):
    first = Store(tmp_path)
    project = first.create(demo("ferry-shelter"))
    renamed(first, project, "Kept")
    make_copy(tmp_path)
    first.close()
    with closing(sqlite3.connect(tmp_path / NAME)) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    spoil(tmp_path / NAME)
    with pytest.raises(StorageError, match=said) as told:
        Store(tmp_path)
    assert "lean-lattice doctor" in str(told.value)
    run = CliRunner().invoke
    served = run(command, ["serve", "--data", str(tmp_path)])
    assert served.exit_code == 1
    assert said in served.output
    looked = run(command, ["doctor", "--data", str(tmp_path)])
    assert looked.exit_code == 1
    assert "WRONG  database" in looked.output
    mended = run(command, ["doctor", "--data", str(tmp_path), "--restore", "latest"])
    assert mended.exit_code == 0, mended.output
    assert "project “Kept”" in mended.output
    again = Store(tmp_path)
    assert again.position(project).statement.name == "Kept"
    assert again.undo(project).statement == demo("ferry-shelter")


def test_a_database_of_something_else_is_left_alone(tmp_path):
    with closing(sqlite3.connect(tmp_path / NAME)) as connection:
        connection.execute("CREATE TABLE recipes (name)")
        connection.commit()
    before = (tmp_path / NAME).read_bytes()
    with pytest.raises(StorageError, match="no database of Lean Lattice"):
        Store(tmp_path)
    assert (tmp_path / NAME).read_bytes() == before


def test_copies_are_made_where_something_changed_and_ten_are_kept(kept, tmp_path, monkeypatch):
    project = kept.create(demo("ferry-shelter"))
    assert make_copy(tmp_path) is not None
    assert make_copy(tmp_path) is None, "nothing has changed"
    for k in range(KEPT + 3):
        renamed(kept, project, f"Name {k}")
        assert make_copy(tmp_path) is not None
    found = copies(tmp_path)
    assert len(found) == KEPT
    assert [c.edits for c in found] == list(range(KEPT + 3, 3, -1))
    # A damaged one never pushes a good one out.
    monkeypatch.setattr(copying, "sound", lambda file: "spoiled")
    renamed(kept, project, "Spoiled")
    assert make_copy(tmp_path) is None
    monkeypatch.undo()
    assert [c.file for c in copies(tmp_path)] == [c.file for c in found]
    assert not list((tmp_path / "copies").glob("*.part"))


def test_the_doctor_names_what_is_wrong_and_tidies_up(kept, tmp_path):
    sound = kept.create(demo("ferry-shelter"))
    broken = kept.create(demo("wardens-bench"))
    renamed(kept, broken, "Broken")
    digest = FileStore(tmp_path / "files").put(b"as it came")
    assert all(f.sound for f in examine(tmp_path))
    (tmp_path / "files" / digest).write_bytes(b"as it is now")
    (tmp_path / "files" / "left.part").write_bytes(b"half")
    (tmp_path / "packs" / sound / "ab.part").mkdir(parents=True)
    kept.close()
    with closing(sqlite3.connect(tmp_path / NAME)) as connection:
        connection.execute('UPDATE edits SET edit = \'{"op": "explode"}\'')
        connection.commit()
    wrong = {f.of for f in examine(tmp_path) if not f.sound}
    left = {"files/left.part", f"packs/{sound}/ab.part"}
    assert wrong == {"project “Broken”", f"file {digest}", *left}
    run = CliRunner().invoke(command, ["doctor", "--data", str(tmp_path), "--tidy"])
    assert all(f"Removed {name}." in run.output for name in left)
    assert {f.of for f in examine(tmp_path) if not f.sound} == wrong - left
    assert CliRunner().invoke(command, ["doctor", "--data", str(tmp_path / "no")]).exit_code == 2
    no_such = ["doctor", "--data", str(tmp_path), "--restore", "yesterday"]
    assert CliRunner().invoke(command, no_such).exit_code == 2


def test_undo_reads_nothing_that_is_known(tmp_path, monkeypatch):
    kept = Store(tmp_path)
    project = kept.create(demo("ferry-shelter"))
    heights = [1 + k / 100 for k in range(3 * COPY_EVERY)]
    for rise in heights:
        kept.edit(project, SetValue(clause="cap", name="rise", value=rise))
    kept.close()
    again, read = Store(tmp_path), []
    really = store.read_statement
    monkeypatch.setattr(store, "read_statement", lambda text: read.append(1) or really(text))
    assert again.position(project).statement.clauses[0].values["rise"] == heights[-1]
    for rise in reversed(heights[:-1]):
        assert again.undo(project).statement.clauses[0].values["rise"] == rise
    assert again.undo(project).statement == demo("ferry-shelter")
    for rise in heights:
        assert again.redo(project).statement.clauses[0].values["rise"] == rise
    assert len(read) == 1, "one whole copy, and from there each is one edit away"


def test_results_that_are_damaged_are_made_again(tmp_path):
    first = ResultStore(tmp_path)
    first.put([("k", "{}", b"geometry", b"")])
    assert first.get(["k"])["k"][1] == b"geometry"
    assert first.known("k")
    first.close()
    (tmp_path / "results.db").write_bytes(b"spoiled" * 1000)
    again = ResultStore(tmp_path)
    assert again.get(["k"]) == {}
    again.put([("k", "{}", b"new", b"")])
    assert again.get(["k"])["k"][1] == b"new"


def full(*_):
    raise OSError(errno.ENOSPC, "No space left on device")


def test_the_service_says_what_the_disk_does(tmp_path, monkeypatch):
    app = create_app(Settings(data=tmp_path, workers=0, interface=tmp_path / "none"))
    with TestClient(app, base_url="http://127.0.0.1") as client:
        project = client.post("/api/projects", json={"name": "Yard"}).json()["id"]
        monkeypatch.setattr(os, "fsync", full)
        answer = client.post("/api/files", files={"file": ("a.stl", b"solid")})
        assert answer.status_code == 507
        assert "disk is full" in answer.json()["detail"]
        assert not list((tmp_path / "files").iterdir()), "nothing half-written is left"
        monkeypatch.undo()
        filled(app.state.hub.store)
        said = 200
        for head in range(500):
            edit = {"op": "rename", "name": "y" * 100 + str(head)}
            base = client.get(f"/api/projects/{project}/statement").json()["head"]
            body = {"edit": edit, "base": base}
            answer = client.post(f"/api/projects/{project}/edits", json=body)
            said = answer.status_code
            if said != 200:
                break
        assert said == 507
        assert answer.headers["content-type"] == "application/problem+json"
        assert client.get(f"/api/projects/{project}/statement").status_code == 200


def test_what_is_added_is_kept_with_names_of_its_own(tmp_path):
    kept = Store(tmp_path)
    project = kept.create(demo("boat-hall"))
    add = AddClause(at=5, clause=ClauseEntry(id="again", kind="frame"))
    assert kept.edit(project, add).statement.clause("again").values == {"series": "A"}
    kept.undo(project)
    kept.close()
    again = Store(tmp_path)
    assert again.redo(project).statement.clause("again").values == {"series": "A"}
    again.close()
