"""What a worker says of a statement: first what is drawn, then the rest, and nothing twice."""

from __future__ import annotations

from dataclasses import replace
from multiprocessing import Pipe

import pytest

from leanlattice.api import worker
from leanlattice.api.jobs import Evaluate, TrySetting, WritePack
from leanlattice.api.worker import WORK, Results, _evaluate, warm_up_later, while_quiet
from leanlattice.exchange import wire
from leanlattice.statement.document import ClauseEntry, Statement

ROWS = (
    ("roof", "loft", {}),
    ("net", "pattern", {"bays_across": 6, "bays_along": 6}),
    ("bars", "frame", {}),
    ("panes", "panels", {}),
    ("names", "name", {}),
    ("sheets", "set-out", {}),
    ("file", "import", {"file": ["0" * 64, "gone.stl"]}),
)


def text_of(*rows):
    """The statement of rows of id, kind and values."""
    return Statement(clauses=[ClauseEntry(id=i, kind=k, values=v) for i, k, v in rows]).text()


TEXT = text_of(*ROWS)


@pytest.fixture
def cache(tmp_path):
    return Results(tmp_path, 10**9)


def said(cache, job):
    """What was said, by kind."""
    heard = []
    _evaluate(job, cache, lambda *what: heard.append(what), lambda: False)
    return heard


def outcomes(heard):
    return [what[0] for kind, *what in heard if kind == "outcome"]


def begun(heard):
    return [what[0] for kind, *what in heard if kind == "begins" and what[0]]


def test_the_picture_comes_first_and_the_rest_says_nothing_twice(cache):
    first = said(cache, Evaluate(TEXT, picture=True))
    assert first[-1] == ("done", True)
    drawn = outcomes(first)
    assert len({o.id for o in drawn}) == len(drawn)
    assert "sheets" in {o.id for o in drawn}, "it stands before the last that is drawn"
    assert next(o for o in drawn if o.id == "file").status == "failed"
    keys = {o.key for o in drawn if o.complete and o.key}
    begun_keys = frozenset(o.key for o in drawn if not o.complete)
    job = Evaluate(
        TEXT, known=frozenset(keys), begun=begun_keys, told=frozenset(o.id for o in drawn)
    )
    rest = said(cache, job)
    assert rest[-1][0] == "done"
    assert {o.id for o in outcomes(rest)} == {o.id for o in drawn if not o.complete}
    assert all(o.complete for o in outcomes(rest))
    assert "file" in begun(first)
    assert "file" not in begun(rest), "what failed a moment ago is not tried again"
    again = said(cache, replace(job, told=frozenset()))
    assert next(o for o in outcomes(again) if o.id == "file").status == "failed"


def test_only_what_is_drawn_is_made_for_the_picture(cache):
    text = text_of(*ROWS[:6])
    first = said(cache, Evaluate(text, picture=True))
    assert {o.id for o in outcomes(first)} == {i for i, *_ in ROWS[:5]}
    assert first[-1] == ("done", True)
    told = frozenset(o.id for o in outcomes(first))
    known = frozenset(o.key for o in outcomes(first) if o.complete)
    rest = said(cache, Evaluate(text, told=told, known=known))
    assert "sheets" in {o.id for o in outcomes(rest)}


def test_a_drawing_that_is_only_begun_shows_its_plane_and_others_wait_for_it(cache):
    drawing = ClauseEntry(
        id="front", kind="draw", values={"curves": [], "plane": "front", "level": 3}
    )
    text = Statement(clauses=[drawing, ClauseEntry(id="wall", kind="extrude")]).text()
    heard = {what[0].id: what for kind, *what in said(cache, Evaluate(text)) if kind == "outcome"}
    front, geometry, measures = heard["front"]
    assert (front.status, front.error_value, measures) == ("begun", "curves", None)
    header, arrays = wire.unpack_arrays(geometry)
    assert header["key"] == front.key
    assert len(arrays["positions"]) == len(arrays["counts"]) == 0
    assert arrays["aid plane"].tolist() == [[0, 3, 0], [1, 0, 0], [0, 0, 1]]
    assert heard["wall"][0].status == "waiting"
    assert "which is only begun" in heard["wall"][0].error
    drawing.values["curves"] = [["squiggle", []]]
    text = Statement(clauses=[drawing, ClauseEntry(id="wall", kind="extrude")]).text()
    broken, wall = outcomes(said(cache, Evaluate(text)))
    assert (broken.status, broken.key) == ("failed", "")
    assert "could not be made" in wall.error


def test_what_is_barred_is_not_begun_and_fails_with_its_sentence(cache):
    first = said(cache, Evaluate(TEXT))
    key = next(what[1] for kind, *what in first if kind == "begins" and what[0] == "bars")
    fresh = Results(cache.store.folder, 10**9)
    heard = said(fresh, Evaluate(TEXT, barred={key: "It was too much."}))
    by_id = {o.id: o for o in outcomes(heard)}
    assert by_id["bars"].error == "It was too much."
    assert by_id["bars"].remedies[0].title == "Try again"
    assert by_id["net"].status == "done"
    assert "bars" not in begun(heard)


def test_names_and_lengths_come_with_the_picture_and_types_after_it(cache):
    job = Evaluate(TEXT, picture=True)
    heard = {what[0].id: what for kind, *what in said(cache, job) if kind == "outcome"}
    named, geometry, measures = heard["names"]
    header, arrays = wire.unpack_arrays(measures)
    assert geometry
    assert {"member", "node", "length"} <= set(arrays)
    assert header["meta"]["prefixes"]["node"] == "N"
    assert "member_types" not in {f.name for f in named.figures}
    assert heard["roof"][2] is None, "curvatures are not waited for"
    assert heard["bars"][2] is None, "names stand for them"
    rest = {o.id: o for o in outcomes(said(cache, Evaluate(TEXT)))}
    figures = [f.name for f in rest["names"].figures]
    assert figures[0] == "member_types"
    assert "panel_types" in {f.name for f in rest["panes"].figures}


def done(cache, job):
    """What became of a job."""
    heard = []
    WORK[type(job)](job, cache, lambda *what: heard.append(what), lambda: False)
    return heard[-1]


def tried(cache, *rows):
    """What became of the setting that a statement of rows of id, kind and values stands for."""
    return done(cache, TrySetting(text_of(*rows)))


def test_what_a_pack_cannot_make_is_told_with_its_lengths(cache, tmp_path):
    vault = ("roof", "barrel", {"span": 1.0, "rise": 0.3, "length": 1.0})
    panes = ("panes", "panels", {"joint": 100.0})
    job = WritePack(text_of(vault, ROWS[1], panes), str(tmp_path / "pack"), frozenset())
    _, (_, missing, held_back) = done(cache, job)
    assert len({m.label for m in missing}) == len(missing) == 144
    (why,) = {m.why for m in missing}
    (length,) = missing[0].lengths
    assert why == "too small for a joint of 100 mm"
    assert (why[length.at :], length.values, length.unit) == ("100 mm", [100.0], "mm")
    assert not held_back


def test_a_setting_shows_what_the_statement_comes_to_and_its_figures_first(cache):
    kind, (figures, picture) = tried(cache, *ROWS[:4])
    names = [f.name for f in figures if f.headline]
    assert (kind, len({f.name for f in figures})) == ("done", len(figures))
    assert names[:2] == ["members", "nodes"]
    assert names.index("mass") < names.index("panels") < names.index("cells")
    assert picture[:8] == b"\x89PNG\r\n\x1a\n"
    _, (of_net, _) = tried(cache, *ROWS[:2])
    assert of_net[0].name == "cells"


def test_a_setting_that_comes_to_nothing_says_why(cache):
    assert tried(cache)[0] == "failed"
    assert "picture" in tried(cache)[1]
    bars = ("bars", "frame", {"inner": "no such section"})
    kind, why = tried(cache, *ROWS[:2], bars, *ROWS[3:5])
    assert kind == "failed"
    assert "no such section" in why


def test_what_is_asked_for_does_not_wait_for_what_is_made_ready(monkeypatch):
    monkeypatch.setattr(worker, "QUIET", 0.0)
    ours, theirs = Pipe()
    done = []

    def steps():
        for step in range(6):
            done.append(step)
            if step == 2:
                ours.send("a job")
            yield

    left = steps()
    while_quiet(theirs, left)
    assert done == [0, 1, 2], "it stops where something is asked for"
    while_quiet(theirs, left)
    assert done == [0, 1, 2], "and takes no step before that is heard"
    assert theirs.recv() == "a job"
    while_quiet(theirs, left)
    assert done == [*range(6)], "what is left is done the next time"


def test_whatever_is_made_ready_is_said_clause_by_clause():
    steps = warm_up_later()
    assert next(steps) == "box"
    assert {"waffle", "settle"} <= {*steps}
