"""What former versions of the format kept reads as it did: statements, and a history of 200 edits
with branches, undone to its beginning."""

from __future__ import annotations

import gzip
import hashlib
import json
import random
from pathlib import Path

import pytest

from leanlattice.statement.document import FORMAT_VERSION, ClauseEntry, Statement, read_statement
from leanlattice.statement.edits import Rename
from leanlattice.statement.former import former_kinds
from leanlattice.statement.former.ribs import SLOTS
from leanlattice.statement.inputs import taken
from leanlattice.statement.plan import plan
from leanlattice.statement.upgrade import chosen, read_upgraded, upgraded
from leanlattice.store.copies import NAME
from leanlattice.store.store import Store

FIXTURES = Path(__file__).resolve().parents[1] / "fixtures" / "version_1"
HISTORIES = json.loads((FIXTURES / "states.json").read_text())
"""Of each project its id, the edit it stands at, and a digest of its statement after each edit."""
MOVED = {"border", "radius", "foot", "inset", "ground", "proud", "rod", "wall", *SLOTS}
"""Values of ribs that clauses of their own have, where they are there."""
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
def test_a_statement_reads_alike_in_the_present_version(name):
    """Every clause works on what it worked on, with the values it had, whatever is default today."""
    text = (FIXTURES / "demos" / f"{name}.json").read_text()
    old = read_statement(text)
    assert read_statement(old.text()) == old
    new = read_upgraded(text)
    assert new.version == FORMAT_VERSION
    assert read_statement(new.text()) == new == upgraded(new)
    former = former_kinds(1)
    was, now = chosen(old.clauses, former), {s.entry.id: s for s in plan(new)}
    fresh = now.keys() - {entry.id for entry in old.clauses}
    became = {entry.id: [s for i, s in now.items() if i == entry.id
                         or (i in fresh and i.startswith(f"{entry.id}-"))]
              for entry in old.clauses}  # fmt: skip
    assert any(was.values())
    for entry in old.clauses:
        step, kind = now[entry.id], former[entry.kind]
        assert step.error is None
        if step.clause is not None:
            own = {s.entry.id for s in became[entry.id]}
            taken = {i for s in became[entry.id] for i in s.taken} - own
            assert taken == {became[i][-1].entry.id for i in _taken_today(entry, was)}
        for value, default in kind.values.items():
            wanted = entry.values.get(value, default)
            if step.clause is not None and not isinstance(wanted, str | list):
                holders = [s.clause for s in became[entry.id] if value in s.clause.specs()]
                # What goes with nothing any more, as the width of no feet, is said nowhere.
                assert holders or value not in entry.values or value in MOVED
                assert all(getattr(c, value) == pytest.approx(wanted) for c in holders)


def _taken_today(entry, was):
    """What a clause of version 1 took; what labels took now takes, or is taken, without them."""
    if entry.kind == "label":
        return was[entry.id]["frame"]
    labels = {source: ids["panels"] for source, ids in was.items() if "panels" in ids}
    sources = taken(was.get(entry.id, {}))
    if entry.kind != "sheets":
        return sources
    return [panels for source in sources for panels in labels.get(source, (source,))]


def test_labels_become_series_of_what_they_named():
    rows = [
        ("barrel", {}), ("pattern", {}), ("frame", {}), ("panels", {}),
        ("label", {"series": "B", "tolerance": 3}), ("bars", {}), ("set-out", {}),
        ("frame", {}), ("panels", {}), ("frame", {}),
    ]  # fmt: skip
    entries = [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    new = upgraded(Statement(version=2, clauses=entries))
    by_id = {c.id: c for c in new.clauses}
    assert (by_id["c4"].kind, by_id["c4"].values) == ("name", {"series": "B", "tolerance": 3})
    assert by_id["c3"].values == {"series": "B", "alike": 3}
    # Without labels files gave the first series that was free.
    series = {name: by_id[name].values.get("series", "") for name in ("c2", "c7", "c8", "c9")}
    assert series == {"c2": "", "c7": "", "c8": "", "c9": "A"}
    steps = {s.entry.id: s for s in plan(new)}
    assert steps["c5"].inputs == {"structure": ("c4",)}
    assert steps["c6"].inputs["parts"] == ("c3",)
    assert all(step.error is None for step in steps.values())


def test_what_would_be_chosen_otherwise_today_is_written_out():
    """Two clauses that set out the same ribs, which the second would find taken up."""
    rows = [("ball", {"solid": "body"}), ("waffle", {}), ("rib-sheets", {}), ("rib-sheets", {})]
    entries = [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    new = upgraded(Statement(version=1, clauses=entries))
    assert [c.kind for c in new.clauses[2:]] == ["set-out", "set-out"]
    assert [c.on for c in new.clauses] == [{}, {}, {}, {"parts": ["c1"]}]
    assert new.clauses[2].values == {}
    panels = Statement(
        version=1, clauses=[ClauseEntry(id="s", kind="sheets", on={"labelled": "l"})]
    )
    (clause,) = upgraded(panels).clauses
    assert clause.on == {"parts": "l"}
    # What a sheet was by default when there was a clause for panels alone.
    assert clause.values == {"width": 6000.0, "height": 3210.0, "spacing": 20.0}


def test_what_ribs_said_of_their_slots_feet_and_rods_became_clauses_below_them():
    said = {
        "clearance": 0.5, "share": 50.0, "feet": "feet", "ground": -2.0, "inside": "open",
        "border": 70.0, "rods": "drawn", "rod": 20.0, "wall": 9.0, "number_first": 3, "chamfer": 9.0,
    }  # fmt: skip
    entries = [
        ClauseEntry(id="ball", kind="ball", values={"solid": "body"}),
        ClauseEntry(id="way", kind="draw"),
        ClauseEntry(id="w-slots", kind="draw"),
        ClauseEntry(
            id="w", kind="waffle", values=said, on={"cables": "way"}, off=False, bundle="r"
        ),
        ClauseEntry(id="long", kind="splice-ribs"),
        ClauseEntry(id="boards", kind="set-out", on={"parts": ["long"]}),
        ClauseEntry(id="plain", kind="waffle", on={"shape": "ball"}),
        ClauseEntry(id="late", kind="splice-ribs", on={"ribs": "w"}),
    ]
    new = upgraded(Statement(version=3, clauses=entries))
    assert [c.id for c in new.clauses] == [
        "ball", "way", "w-slots", "w", "w-slots-2", "w-feet", "w-openings", "w-rods",
        "long", "boards", "plain", "late",
    ]  # fmt: skip
    by_id = {c.id: c for c in new.clauses}
    assert by_id["w"].values == {"number_first": 3}
    # What is as it was by default is not said; what only goes with something else is.
    assert by_id["w-slots-2"].values == {"clearance": 0.5, "chamfer": 9.0, "wall": 9.0}
    assert by_id["w-openings"].values == {"border": 70.0, "radius": 30.0}
    assert by_id["w-rods"].values["way"] == "drawn"
    assert by_id["w-rods"].on == {"ribs": "w-openings", "curves": "way"}
    assert {c.bundle for c in new.clauses if c.id.startswith("w-") and "slots-2" in c.id} == {"r"}
    # What was made of the ribs is made of the last of them, by itself and where they were named.
    steps = {s.entry.id: s for s in plan(new)}
    assert steps["long"].inputs == {"ribs": ("w-rods",)}
    assert by_id["late"].on == {"ribs": "w-rods"}
    assert read_statement(new.text()) == new


@pytest.mark.parametrize("kind", ["marquee", "set-out", "frame"])
def test_what_is_unknown_or_finds_nothing_stays_as_it_is(kind):
    strange = ClauseEntry(id="x", kind=kind, on={"net": "y"}, values={"tall": 3})
    loose = ClauseEntry(id="z", kind=kind)
    statement = Statement(version=1, clauses=[strange, loose])
    # Members were held apart before they could be welded.
    added = {"meeting": "apart"} if kind == "frame" else {}
    for clause, was in zip(upgraded(statement).clauses, statement.clauses, strict=True):
        assert clause == was.model_copy(update={"values": added | was.values})


@pytest.mark.parametrize("name", HISTORIES)
def test_a_history_is_walked_back_to_its_beginning(name, store):
    history, states = HISTORIES[name], HISTORIES[name]["states"]
    project = history["project"]
    assert store.position(project).head == history["head"]
    walked = {}
    while True:
        position = store.position(project)
        assert position.statement == upgraded(store.kept(project))
        walked[str(position.head)] = digest(store.kept(project))
        if not position.can_undo:
            break
        store.undo(project)
    assert len(walked) > 5
    assert walked.items() <= states.items()
    # Forward again, by the branch that was made last at each fork.
    while store.position(project).can_redo:
        position = store.redo(project)
        assert digest(store.kept(project)) == states[str(position.head)]


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
            assert digest(store.kept(history["project"])) == history["states"][str(after.head)]
            if after.head != before.head and step == store.redo:
                assert back(history["project"]).head == before.head


def test_an_edit_of_a_former_version_is_undone_in_one_step_and_so_is_the_one_before_it(store):
    """Between them stands the step that writes the statement anew, which nobody notices."""
    history = next(iter(HISTORIES.values()))
    project = history["project"]
    while store.position(project).can_redo:
        store.redo(project)
    before = store.position(project)
    after = store.edit(project, Rename(name="Renamed"), before.head)
    assert store.kept(project).version == FORMAT_VERSION
    words = [state.words for state in store.states(project)]
    assert words[:2] == ["named “Renamed”", f"written in version {FORMAT_VERSION}"]
    undone = store.undo(project)
    assert undone.statement == before.statement
    assert undone.can_redo
    assert undone.can_undo
    earlier = store.undo(project)
    assert str(earlier.head) in history["states"]
    assert digest(store.kept(project)) == history["states"][str(earlier.head)]
    assert earlier.statement != undone.statement
    assert store.redo(project).statement == before.statement
    assert store.redo(project).statement == after.statement
    assert not store.position(project).can_redo


def test_a_project_that_began_in_a_former_version_is_undone_to_its_beginning_and_no_further(
    tmp_path,
):
    store = Store(tmp_path)
    text = (FIXTURES / "demos" / "boat-hall.json").read_text()
    project = store.create(read_statement(text))
    store.edit(project, Rename(name="Renamed"))
    back = store.undo(project)
    assert (back.statement, back.can_undo) == (read_upgraded(text), False)
    store.close()
