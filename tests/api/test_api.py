"""The service: problem bodies, history on disk, the guard, jobs and the live channel."""

from __future__ import annotations

import contextlib
import io
import json
import random
import subprocess
import sys
import threading
import time
import zipfile

import httpx
import numpy as np
import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings
from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.exchange.kinds import KINDS
from leanlattice.exchange.wire import unpack_arrays
from leanlattice.statement.document import Statement
from leanlattice.statement.edits import SetValue
from leanlattice.store.results import ResultStore
from leanlattice.store.store import COPY_EVERY, Stale, Store, UnknownProject

from .. import patient
from ..conftest import DEMO, demo
from ..known import known
from ..ui.browser import Server


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    folder = tmp_path_factory.mktemp("api")
    app = create_app(Settings(data=folder, demo=True, workers=1, interface=folder / "none"))
    with TestClient(app, base_url="http://127.0.0.1:8400") as client:
        yield client


@pytest.fixture
def project(client):
    file = {"file": ("shelter.json", (DEMO / "ferry-shelter.json").read_bytes())}
    return client.post("/api/projects/import", files=file).json()["id"]


def problem(answer, status):
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert set(body) == {"type", "title", "status", "detail", "lengths"}
    assert body["status"] == status
    assert "Traceback" not in answer.text
    return body["detail"]


def edit(client, project, base=None, **op):
    if base is None:
        base = client.get(f"/api/projects/{project}/statement").json()["head"]
    return client.post(f"/api/projects/{project}/edits", json={"edit": op, "base": base})


def test_a_setting_that_cannot_be_made_says_so_with_its_lengths(client):
    project = client.post("/api/projects", json={"name": "Vault"}).json()["id"]
    vault = {"id": "roof", "kind": "barrel", "values": {}}
    assert edit(client, project, op="add", at=0, clause=vault).status_code == 200
    value = {"op": "set", "clause": "roof", "name": "rise", "value": 9.9}
    url = f"/api/projects/{project}/settings"
    answer = client.post(url, json={"values": [value], "number": 0})
    sentence = problem(answer, 409)
    told = answer.json()["lengths"]
    assert [length["values"] for length in told] == [[9.9], [10.0], [9.5]]
    assert all(sentence[t["at"] :].startswith(t["words"]) for t in told)


def test_the_interface_gets_its_clause_types_from_the_server(client):
    kinds = {k["kind"]: k for k in client.get("/api/clause-kinds").json()}
    span = next(v for v in kinds["dome"]["values"] if v["name"] == "span")
    assert (span["unit"], span["least"], span["most"], span["handle"]["origin"]) == (
        "m",
        0.1,
        1000,
        "centre",
    )
    sections = client.get("/api/sections").json()
    assert sections["count"] > 300
    assert len(sections["sections"]) == 80
    (own,) = client.get("/api/sections", params={"text": "rhs 210x90x7"}).json()["sections"]
    assert (own["name"], own["listed"], own["material"]) == ("RHS 210 × 90 × 7", False, "S355")
    assert client.get("/api/statement-schema").json()["properties"]["clauses"]


def test_what_cannot_be_done_gets_a_sentence(client, project):
    assert "no such project" in problem(client.get("/api/projects/0123456789ab"), 404)
    assert "nothing at /api/nonsense" in problem(client.get("/api/nonsense"), 404)
    problem(client.delete("/api/about"), 405)
    assert "newer program" in problem(
        client.post(
            "/api/projects/import",
            files={
                "file": ("a.json", json.dumps({"format": "lean-lattice-statement", "version": 99}))
            },
        ),
        422,
    )
    assert "JSON" in problem(
        client.post("/api/projects/import", files={"file": ("a.json", b"\x00\xff\x00")}), 422
    )
    assert "name" in problem(client.post("/api/projects", json={"name": "   "}), 422)
    assert "no schedule" in problem(client.get(f"/api/projects/{project}/schedules/wishes"), 404)
    assert "no sheet 9999" in problem(client.get(f"/api/projects/{project}/sheets/9999.svg"), 404)
    assert "PNG" in problem(client.put(f"/api/projects/{project}/picture", content=b"GIF89a"), 422)
    assert "no clause “ghost”" in problem(edit(client, project, op="remove", clause="ghost"), 409)
    bad = client.post(
        f"/api/projects/{project}/edits",
        content='{"edit": {"op": "set", "clause": "cap", "name": "span", "value": NaN}, "base": 0}',
        headers={"content-type": "application/json"},
    )
    assert "NaN" in problem(bad, 422)
    for value, said in (
        ("1e999", "1e999"),
        ("Infinity", "Infinity"),
        ('"\\ud800"', "half a letter"),
    ):
        edit_of = {"op": "dimension", "dimension": {"name": "a", "value": "VALUE"}}
        content = json.dumps({"edit": edit_of, "base": 0}).replace('"VALUE"', value)
        for kind in ({"content-type": "application/json"}, {"content-type": "application/x+json"}):
            refused = client.post(f"/api/projects/{project}/edits", content=content, headers=kind)
            assert said in problem(refused, 422)
    assert client.get(f"/api/projects/{project}/statement").json()["head"] == 0
    problem(edit(client, project, op="set", clause="cap", name="span", value={"a": 1}), 409)
    problem(edit(client, project, op="explode"), 422)
    deep = client.post(
        f"/api/projects/{project}/edits",
        content="[" * 5000,
        headers={"content-type": "application/json"},
    )
    assert deep.status_code in (400, 422)
    assert "“pack”" not in problem(
        client.get(f"/api/projects/{project}/pack/000000000000.zip"), 404
    )


def test_only_this_machine_and_its_own_pages_are_answered(client):
    for headers in (
        {"host": "elsewhere.example"},
        {"host": ""},
        {"origin": "http://elsewhere.example"},
        {"origin": "null"},
        {"origin": "http://["},
        {"origin": b"http://\xff["},
    ):
        problem(client.get("/api/about", headers=headers), 421)
    assert (
        client.get(
            "/api/about", headers={"host": "localhost:9", "origin": "http://localhost:9"}
        ).status_code
        == 200
    )
    problem(
        client.post("/api/projects", headers={"content-length": "99999999999"}, content=b"{}"), 413
    )
    answer = client.get("/api/about")
    assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]


def test_edits_undo_and_redo(client, project):
    first = client.get(f"/api/projects/{project}/statement").json()
    changed = edit(client, project, op="set", clause="cap", name="span", value=7.5).json()
    assert changed["statement"]["clauses"][0]["values"]["span"] == 7.5
    assert changed["can_undo"]
    assert "another window" in problem(
        edit(client, project, base=first["head"], op="rename", name="x"), 409
    )
    undone = client.post(f"/api/projects/{project}/history/undo").json()
    assert undone["statement"] == first["statement"]
    assert undone["can_redo"]
    redone = client.post(f"/api/projects/{project}/history/redo").json()
    assert redone["statement"] == changed["statement"]
    assert client.post(f"/api/projects/{project}/history/redo").json()["head"] == redone["head"]


def test_projects_can_be_copied_removed_and_brought_back(client, project):
    copy = client.post(f"/api/projects/{project}/duplicate").json()
    assert copy["name"] == "Ferry Shelter (copy)"
    client.put(f"/api/projects/{copy['id']}/name", json={"name": "Seed House"})
    names = {p["id"]: p["name"] for p in client.get("/api/projects").json()}
    assert names[copy["id"]] == "Seed House"
    client.delete(f"/api/projects/{copy['id']}")
    assert copy["id"] not in {p["id"] for p in client.get("/api/projects").json()}
    client.post(f"/api/projects/{copy['id']}/bring-back")
    assert copy["id"] in {p["id"] for p in client.get("/api/projects").json()}


def test_the_demo_comes_back_and_keeps_what_was_changed(client):
    demos = {p["name"]: p["id"] for p in client.get("/api/projects").json() if p["demo"]}
    edit(
        client,
        demos["Boat Hall"],
        op="dimension",
        dimension={"name": "bay", "value": 2.0, "unit": "m"},
    )
    restored = {p["name"]: p["id"] for p in client.post("/api/demo/restore").json()}
    assert restored["Ferry Shelter"] == demos["Ferry Shelter"]
    assert restored["Boat Hall"] != demos["Boat Hall"]
    kept = client.get(f"/api/projects/{demos['Boat Hall']}/statement").json()["statement"]
    assert kept["name"] == "Boat Hall (changed)"
    assert kept["dimensions"][0]["value"] == 2.0
    assert {p["id"] for p in client.post("/api/demo/restore").json()} == set(restored.values())


def test_outcomes_schedules_sheets_and_pack(client, project, tmp_path):
    outcomes = {o["id"]: o for o in client.get(f"/api/projects/{project}/outcomes").json()}
    assert {o["status"] for o in outcomes.values()} == {"done"}
    members = client.get(f"/api/projects/{project}/schedules/members").json()
    figures = {f["name"]: f["value"] for f in outcomes["timber"]["figures"]}
    assert len(members[0]["index"]) == figures["members"]
    assert members[0]["clause"] == "names"
    assert "<svg" in client.get(f"/api/projects/{project}/sheets/1.svg").text
    pack = client.post(
        f"/api/projects/{project}/pack", json={"files": ["schedules", "sheets", "wireframe.dxf"]}
    ).json()
    assert all(c["passed"] for c in pack["checks"])
    (tmp_path / "pack.zip").write_bytes(
        client.get(f"/api/projects/{project}/pack/{pack['id']}.zip").content
    )
    with zipfile.ZipFile(tmp_path / "pack.zip") as archive:
        assert {f["name"] for f in pack["files"]} == set(archive.namelist())
        assert "model.glb" not in archive.namelist()


def test_a_card_tells_of_the_shape_that_was_made_into_something(client):
    ground = {"along_x": 40, "along_y": 40, "height": 1, "centre": [0, 0, -5]}
    rows = [
        {"id": "roof", "kind": "barrel", "values": {"span": 6, "length": 8}},
        {"id": "ground", "kind": "box", "values": ground},
        {"id": "net", "kind": "pattern", "on": {"shape": ["roof"]}},
        {"id": "frame", "kind": "frame", "on": {"net": ["net"], "structure": []}},
        {
            "id": "feet",
            "kind": "columns",
            "values": {"down": "ground"},
            "on": {"ground": ["ground"]},
        },
    ]
    body = {"format": "lean-lattice-statement", "version": 1, "name": "Roof", "clauses": rows}
    files = {"file": ("a.json", json.dumps(body))}
    made = client.post("/api/projects/import", files=files).json()["id"]
    figures = client.post(f"/api/projects/{made}/picture").json()["figures"]
    assert figures["area"]["value"] < 100


def test_a_card_gets_its_picture_and_figures_without_being_opened(client, project):
    picture = f"/api/projects/{project}/picture"
    assert client.get(picture).status_code == 404
    card = client.post(picture).json()
    assert card["has_picture"]
    assert card["figures"]["members"]["value"] == 168
    assert card["figures"]["mass"]["unit"] == "kg"
    made = client.get(picture).content
    colours = Image.open(io.BytesIO(made)).convert("RGB").getcolors(1 << 20)
    assert len(colours) > 20
    assert max(n for n, _ in colours) < 0.95 * sum(n for n, _ in colours), (
        "something is drawn on the ground"
    )
    client.put(picture, content=made + b"\0")
    client.post(picture)
    assert client.get(picture).content == made + b"\0", "a picture that is there stays"
    empty = client.post("/api/projects", json={"name": "Bare"}).json()["id"]
    assert (
        problem(client.post(f"/api/projects/{empty}/picture"), 409)
        == "There is nothing to draw yet."
    )


class Window:
    """A window on the live channel that keeps what it is told."""

    def __init__(self, socket):
        self.socket, self.geometry, self.outcomes = socket, {}, {}

    def until(self, kind, **what):
        while True:
            message = self.socket.receive()
            if message.get("bytes"):
                header, arrays = unpack_arrays(message["bytes"])
                self.geometry[header["key"], header["type"]] = arrays
                continue
            told = json.loads(message["text"])
            if told["type"] == "outcome":
                outcome = told["outcome"]
                if outcome["status"] == "done" and CLAUSE_TYPES[outcome["kind"]].gives in KINDS:
                    assert (outcome["key"], "geometry") in self.geometry
                self.outcomes[outcome["id"]] = outcome
            if told["type"] == kind and all(told.get(k) == v for k, v in what.items()):
                return told

    def say(self, **message):
        self.socket.send_text(json.dumps(message))


@contextlib.contextmanager
def window(client, project):
    with client.websocket_connect(
        f"/api/projects/{project}/live", headers={"host": "127.0.0.1"}
    ) as socket:
        yield Window(socket)


def test_the_live_channel_previews_and_sends_only_what_is_new(client, project):
    with window(client, project) as w:
        assert w.until("statement")["statement"]["name"] == "Ferry Shelter"
        w.until("idle")
        before, net = dict(w.geometry), w.outcomes["net"]["key"]
        assert len(w.geometry[net, "geometry"]["positions"]) == 61
        w.say(
            type="preview",
            number=1,
            edit={"op": "set", "clause": "boards", "name": "joint", "value": 12},
        )
        w.until("drawn", preview=1)
        w.until("idle", preview=1)
        new = {k for k in w.geometry if k not in before}
        assert {kind for _, kind in new} == {"geometry", "measures"}
        assert {k for k, _ in new} == {w.outcomes[i]["key"] for i in ("boards", "sheets")}
        assert client.get(f"/api/projects/{project}/statement").json()["head"] == 0, (
            "a preview is not an edit"
        )
        w.say(
            type="preview",
            number=2,
            edit={"op": "set", "clause": "net", "name": "bays_across", "value": 0},
        )
        w.until("drawn", preview=2)
        assert "must be a whole number from 1" in w.outcomes["net"]["error"]
        assert w.outcomes["timber"]["status"] == "waiting"
        w.say(type="settle")
        w.until("idle", preview=None)
        assert w.outcomes["timber"]["status"] == "done"
        for nonsense in (
            "{",
            '{"type": "dance"}',
            "[]",
            '{"type": "preview", "number": 3, "edit": {"op": "x"}}',
        ):
            w.socket.send_text(nonsense)
            assert w.until("problem")["text"]


def test_what_a_window_should_not_say_is_told_and_it_goes_on(client, project):
    dimension = '{"type": "preview", "number": 1, "edit": {"op": "dimension", "dimension": %s}}'
    with window(client, project) as w:
        w.until("idle")
        w.socket.send_bytes(b"\x00\xff")
        assert "texts in JSON" in w.until("problem")["text"]
        for text in (
            "[" * 9000,
            "3",
            '{"type": "preview"}',
            '{"type": "\\ud800"}',
            '{"type": "preview", "number": 1e999, "edit": {}}',
            dimension % '{"name": "a", "value": NaN}',
            dimension % '{"name": "a b", "value": 1}',
            dimension % '{"name": "a", "value": [1]}',
            dimension % '{"name": "a", "value": "a + 1"}',
            dimension % '{"name": "a", "value": 1, "unit": "mile"}',
        ):
            w.socket.send_text(text)
            if "a + 1" not in text:  # that is a formula, and its clause says what is wrong with it
                told = w.until("problem")["text"]
                assert "Traceback" not in told
                assert "pydantic" not in told
                assert len(told) < 400
        w.say(type="settle")
        w.until("idle")


def test_what_a_preview_left_for_later_comes_when_it_is_looked_at_again(client, project):
    with window(client, project) as w:
        w.until("idle")
        for number, rise in enumerate((2.31, 2.47, 2.31), 1):
            w.say(
                type="preview",
                number=number,
                edit={"op": "set", "clause": "cap", "name": "rise", "value": rise},
            )
            w.until("drawn", preview=number)
        w.until("idle", preview=3)
        assert w.outcomes["cap"]["complete"]
        assert (w.outcomes["cap"]["key"], "measures") in w.geometry


def test_ribs_are_sketched_without_their_slots_while_a_hand_drags(client):
    rows = [
        ("ball", {"radius": 1, "solid": "body"}),
        ("waffle", {"number_first": 5, "number_second": 4}),
    ]
    clauses = [{"id": kind, "kind": kind, "values": values} for kind, values in rows]
    body = {"format": "lean-lattice-statement", "version": 1, "name": "Ball", "clauses": clauses}
    project = client.post(
        "/api/projects/import", files={"file": ("ball.json", json.dumps(body))}
    ).json()["id"]
    fewer = {"op": "set", "clause": "waffle", "name": "number_first", "value": 4}
    with window(client, project) as w:
        w.until("idle")
        for number in (1, 2):
            w.say(type="preview", number=number, edit=fewer)
            w.until("drawn", preview=number)
            w.until("idle", preview=number)
        sketched = w.outcomes["waffle"]["key"]
        assert (sketched, "measures") in w.geometry
        edit(client, project, **fewer)
        w.until("idle", preview=None)
        exact = w.outcomes["waffle"]["key"]
        sketch, real = w.geometry[sketched, "geometry"], w.geometry[exact, "geometry"]
        assert len(set(sketch["owner"])) == len(set(real["owner"])) == 8
        np.testing.assert_array_equal(sketch["order"], real["order"])
        # Each of 4 × 4 crossings is a slot in both ribs, of two corners more at least on both faces.
        assert len(real["positions"]) - len(sketch["positions"]) >= 16 * 2 * 2 * 2
        for end in ("min", "max"):
            of = [getattr(a["positions"].astype(float), end)(axis=0) for a in (sketch, real)]
            np.testing.assert_allclose(of[0], of[1], atol=2e-3)
        w.say(type="preview", number=3, edit=fewer)
        w.until("drawn", preview=3)
        assert w.outcomes["waffle"]["key"] == exact, "what is known exactly needs no sketch"


def test_a_second_window_sees_what_the_first_does(client, project):
    with window(client, project) as one, window(client, project) as two:
        one.until("idle")
        two.until("idle")
        edit(client, project, op="set", clause="cap", name="rise", value=2.25)
        for w in (one, two):
            w.until(
                "statement", head=client.get(f"/api/projects/{project}/statement").json()["head"]
            )
            w.until("idle")
            assert "2.25 m rise" in w.outcomes["cap"]["sentence"]


def test_a_project_that_is_not_there_closes_the_channel(client):
    with client.websocket_connect(
        "/api/projects/ffffffffffff/live", headers={"host": "127.0.0.1"}
    ) as socket:
        assert socket.receive()["code"] == 4404


def test_long_work_can_be_cancelled(client):
    project = client.post("/api/projects", json={"name": "Large"}).json()["id"]
    kinds = ["loft", "pattern", "frame", "panels", "name", "set-out"]
    with window(client, project) as w:
        for i, kind in enumerate(kinds):
            values = {"bays_across": 150, "bays_along": 150} if kind == "pattern" else {}
            edit(
                client, project, op="add", at=i, clause={"id": kind, "kind": kind, "values": values}
            )
        w.until("progress", clause="set-out")
        started = time.monotonic()
        w.say(type="cancel")
        w.until("idle", cancelled=True)
        edit(client, project, op="set", clause="pattern", name="bays_across", value=3)
        edit(client, project, op="set", clause="pattern", name="bays_along", value=3)
        head = client.get(f"/api/projects/{project}/statement").json()["head"]
        w.until("statement", head=head)
        w.until("idle", cancelled=False, preview=None)
        assert w.outcomes["set-out"]["status"] == "done"
        assert time.monotonic() - started < 60


def test_writing_a_pack_can_be_cancelled(client):
    file = {"file": ("boat.json", (DEMO / "boat-hall.json").read_bytes())}
    project = client.post("/api/projects/import", files=file).json()["id"]
    answers = []
    with window(client, project) as w:
        w.until("idle")
        writing = threading.Thread(
            target=lambda: answers.append(
                client.post(f"/api/projects/{project}/pack", json={"files": ["sheets"]})
            )
        )
        writing.start()
        figures = next(o["figures"] for o in w.outcomes.values() if o["kind"] == "set-out")
        count = next(f["value"] for f in figures if f["name"] == "sheets")
        w.until("progress", clause="", what=f"sheet 2 of {count}")
        w.say(type="cancel")
        writing.join(30)
    assert "cancelled" in problem(answers[0], 409)


def test_a_reopened_project_shows_at_once(tmp_path):
    app = create_app(Settings(data=tmp_path, workers=1, interface=tmp_path / "none"))
    with TestClient(app, base_url="http://127.0.0.1") as client:
        made = client.post(
            "/api/projects/import",
            files={"file": ("a.json", (DEMO / "ferry-shelter.json").read_bytes())},
        )
        project = made.json()["id"]
        with window(client, project) as w:
            w.until("idle")
            before = w.geometry
        deadline = time.monotonic() + 20
        while len(app.state.hub.shown.store.get([o["key"] for o in w.outcomes.values()])) < len(
            w.outcomes
        ):
            assert time.monotonic() < deadline
            time.sleep(0.05)
    again = create_app(Settings(data=tmp_path, workers=1, interface=tmp_path / "none"))
    with TestClient(again, base_url="http://127.0.0.1") as client, window(client, project) as w:
        w.until("idle")
        assert all(o["again"] for o in w.outcomes.values())
        assert again.state.hub.pool.crew.workers[0].current is None, "no worker was needed"
        for key, arrays in before.items():
            assert all((w.geometry[key][n] == a).all() for n, a in arrays.items())


def test_outcomes_that_cannot_be_had_are_a_problem_and_no_empty_list(tmp_path):
    app = create_app(Settings(data=tmp_path, workers=0, interface=tmp_path / "none"))
    with TestClient(app, base_url="http://127.0.0.1") as client:
        file = {"file": ("a.json", (DEMO / "ferry-shelter.json").read_bytes())}
        project = client.post("/api/projects/import", files=file).json()["id"]
        for _ in range(2):
            said = problem(client.get(f"/api/projects/{project}/outcomes"), 409)
            assert "does not evaluate" in said


def test_history_survives_in_the_store(tmp_path):
    store = Store(tmp_path)
    project = store.create(demo("ferry-shelter"))
    for i in range(2 * COPY_EVERY + 3):
        store.edit(project, SetValue(clause="cap", name="rise", value=1 + i / 100))
    store.engine.dispose()
    store = Store(tmp_path)
    for i in reversed(range(2 * COPY_EVERY + 3)):
        values = store.position(project).statement.clauses[0].values
        assert values["rise"] == 1 + i / 100
        store.undo(project)
    assert store.position(project).statement == demo("ferry-shelter")
    assert not store.undo(project).can_undo
    store.redo(project)
    branch = store.edit(project, SetValue(clause="cap", name="span", value=9))
    assert not branch.can_redo
    store.undo(project)
    assert store.redo(project).statement == branch.statement
    with pytest.raises(Stale):
        store.edit(project, SetValue(clause="cap", name="span", value=5), base=1)
    with pytest.raises(UnknownProject):
        store.position("nowhere")


def test_results_are_kept_within_their_limit(tmp_path):
    results = ResultStore(tmp_path, limit=10_000)
    for i in range(12):
        results.put([(f"k{i}", "{}", bytes(1500), b"")])
        results.get(["k0"])
    kept = results.get([f"k{i}" for i in range(12)])
    assert "k0" in kept, "what was used lately stays"
    assert "k11" in kept
    assert sum(len(g) for _, g, _ in kept.values()) <= 10_000
    results.put([("huge", "{}", bytes(9000), b"")])
    assert "huge" not in results.get(["huge"])


@known("a server killed between, within and after commits", "loses no acknowledged edit")
def test_a_killed_server_loses_no_acknowledged_edit(tmp_path):
    server, chance = Server(tmp_path / "data", demo=False, workers=0), random.Random(7)
    try:
        statement = Statement(name="Killed").text()
        project = patient.post(
            f"{server.url}/api/projects/import", files={"file": ("a.json", statement)}
        ).json()["id"]
        acknowledged: list[str] = []
        for round_ in range(6):
            # The kill falls wherever it falls: before, within or after a commit.
            killer = threading.Timer(chance.uniform(0.0, 0.12), server.kill)
            known = patient.get(f"{server.url}/api/projects/{project}/statement").json()
            killer.start()
            head, sent = known["head"], None
            with contextlib.suppress(httpx.HTTPError):
                for k in range(200):
                    sent = f"name {round_}-{k}"
                    body = {"edit": {"op": "rename", "name": sent}, "base": head}
                    answer = patient.post(f"{server.url}/api/projects/{project}/edits", json=body)
                    assert answer.status_code == 200
                    head = answer.json()["head"]
                    acknowledged.append(sent)
                    sent = None
            killer.join()
            server.start()
            found = patient.get(f"{server.url}/api/projects/{project}/statement").json()[
                "statement"
            ]["name"]
            # The last edit may have been committed without its answer getting through.
            assert found == (acknowledged[-1] if acknowledged else "Killed") or found == sent
            if found == sent:
                acknowledged.append(sent)
        names = []
        while True:
            now = patient.get(f"{server.url}/api/projects/{project}/statement").json()
            if not now["can_undo"]:
                break
            names.append(now["statement"]["name"])
            patient.post(f"{server.url}/api/projects/{project}/history/undo")
        assert names[::-1] == acknowledged
    finally:
        server.stop()


def test_a_data_folder_has_one_server(tmp_path):
    server = Server(tmp_path / "data", demo=False, workers=0)
    try:
        second = subprocess.run(
            [sys.executable, "-m", "leanlattice.cli", "serve", "--data", str(tmp_path / "data"), "--port", "1"],
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
        assert second.returncode == 1
        assert server.url.removeprefix("http://") in second.stderr
        assert "Traceback" not in second.stderr
        server.kill()
        server.start()  # what was held by one that was killed is free
        assert patient.get(f"{server.url}/api/about").status_code == 200
    finally:
        server.stop()


FUZZED = r"^/api/(about|clause-kinds|sections|projects($|/import|/[^/]+/(edits|history|name|statement|picture)))"


@given(data=st.data())
@settings(max_examples=60)
def test_no_request_makes_the_server_fail(client, data):
    schema = schemathesis.openapi.from_dict(client.app.openapi()).include(path_regex=FUZZED)
    operations = sorted((o.ok() for o in schema.get_all_operations()), key=lambda o: o.label)
    case = data.draw(data.draw(st.sampled_from(operations)).as_strategy())
    arguments = case.as_transport_kwargs(base_url="http://127.0.0.1:8400")
    arguments.pop("cookies", None)
    try:
        request = client.build_request(**arguments)
    except (httpx.InvalidURL, UnicodeEncodeError, ValueError, TypeError):
        return  # what no client could send
    answer = client.send(request)
    assert answer.status_code < 500
    if answer.status_code >= 400:
        assert set(answer.json()) == {"type", "title", "status", "detail", "lengths"}


def test_what_is_told_for_where_a_clause_stands_goes_when_it_is_moved(client, project):
    def codes(w):
        w.until("idle")
        return {w["code"] for w in w.outcomes["boards"]["warnings"]}

    with window(client, project) as w:
        w.until("statement")
        assert "stands too low" not in codes(w)
        clauses = client.get(f"/api/projects/{project}/statement").json()["statement"]["clauses"]
        at = {c["id"]: k for k, c in enumerate(clauses)}
        edit(client, project, op="move", clause="timber", to=at["boards"])
        assert "stands too low" in codes(w)
        (notice,) = (n for n in w.outcomes["boards"]["warnings"] if n["code"] == "stands too low")
        assert notice["remedies"][0]["moved"] == "timber"
        edit(client, project, op="move", clause="timber", to=at["timber"])
        assert "stands too low" not in codes(w)
