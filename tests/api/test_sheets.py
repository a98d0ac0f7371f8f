"""Sheets over the service: better arrangements in the background, and the cutting table."""

from __future__ import annotations

import json
import time

import pytest
from fastapi.testclient import TestClient

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

CLAUSES = [
    {"id": "ball", "kind": "ball", "values": {"radius": 0.3, "solid": "body"}},
    {"id": "ribs", "kind": "waffle", "values": {"number_first": 4, "number_second": 3}},
    {"id": "boards", "kind": "set-out", "values": {"width": 700, "height": 650}},
]


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    folder = tmp_path_factory.mktemp("sheets")
    app = create_app(Settings(data=folder, demo=False, workers=1, interface=folder / "none"))
    with TestClient(app, base_url="http://127.0.0.1:8400") as client:
        yield client


@pytest.fixture
def project(client):
    body = {"format": "lean-lattice-statement", "version": 1, "name": "Boards", "clauses": CLAUSES}
    return client.post("/api/projects/import", files={"file": ("a.json", json.dumps(body))}).json()[
        "id"
    ]


def arrangement(client, project):
    clauses = client.get(f"/api/projects/{project}/statement").json()["statement"]["clauses"]
    return clauses[2]["values"].get("arrangement", [])


def test_a_better_arrangement_becomes_an_edit_that_can_be_undone(client, project):
    assert (
        client.post(
            f"/api/projects/{project}/arrangements/nothing", json={"seconds": 1}
        ).status_code
        == 404
    )
    assert (
        client.post(
            f"/api/projects/{project}/arrangements/boards", json={"seconds": 0.1}
        ).status_code
        == 422
    )
    # A sheet for each part where one has room for several, which any search betters.
    wide = {"edit": {"op": "set", "clause": "boards", "name": "width", "value": 2100}, "base": 0}
    assert client.post(f"/api/projects/{project}/edits", json=wide).status_code == 200
    statement = client.get(f"/api/projects/{project}/statement").json()["statement"]
    clauses = [
        ClauseEntry(**{k: c[k] for k in ("id", "kind", "values")}) for c in statement["clauses"]
    ]
    parts = list(evaluate(Statement(name="Boards", clauses=clauses), ResultCache()))[
        -1
    ].result.layout.parts
    apart = [
        [p.label, k, *(20 - p.outer.min(axis=0)).tolist(), 0, False] for k, p in enumerate(parts)
    ]
    set_apart = {
        "edit": {"op": "set", "clause": "boards", "name": "arrangement", "value": apart},
        "base": 1,
    }
    assert client.post(f"/api/projects/{project}/edits", json=set_apart).status_code == 200
    with client.websocket_connect(
        f"/api/projects/{project}/live", headers={"host": "127.0.0.1"}
    ) as live:
        assert client.post(
            f"/api/projects/{project}/arrangements/boards", json={"seconds": 120}
        ).json()["running"]
        told: dict = {}
        while told.get("type") != "arranging" or not 0 < told["sheets"] < len(parts):
            told = json.loads(live.receive().get("text") or "{}")
    assert client.delete(f"/api/projects/{project}/arrangements/boards").json() == {
        "clause": "boards",
        "running": False,
    }
    head = lambda: client.get(f"/api/projects/{project}/statement").json()["head"]  # noqa: E731
    for _ in range(200):
        if arrangement(client, project) != apart or project not in client.app.state.arranging:
            break
        time.sleep(0.1)
    found = arrangement(client, project)
    assert {a[0] for a in found} == {"A1", "A2", "A3", "A4", "B1", "B2", "B3"}
    assert len({a[1] for a in found}) < len(parts)
    assert head() == 3
    assert client.post(f"/api/projects/{project}/history/undo").status_code == 200
    assert arrangement(client, project) == apart
    assert project not in client.app.state.arranging


def test_sheets_go_to_the_table_which_is_begun_anew_when_it_has_gone(client, project):
    assert client.get("/api/table").json()["state"] == "ready"
    answer = client.post(f"/api/projects/{project}/sheets/1/cut").json()
    assert answer["job"]["name"] == "Boards, sheet 1"
    assert answer["faults"] == []
    moves = client.get(f"/api/table/jobs/{answer['job']['number']}").json()
    assert {m["kind"] for m in moves} == {"idle", "mark", "cut"}
    assert sum(m["seconds"] for m in moves) == pytest.approx(answer["job"]["seconds"], rel=1e-3)
    assert client.get("/api/table/jobs/99").status_code == 404
    assert client.post(f"/api/projects/{project}/sheets/99/cut").status_code == 404
    refused = client.post("/api/table", json={"do": "tool", "value": 8})
    assert refused.status_code == 409
    assert "clear them first" in refused.json()["detail"]
    assert client.post("/api/table", json={"do": "clear"}).json()["queue"] == []
    assert client.post("/api/table", json={"do": "tool", "value": 40}).json()["tool"] == 40
    faults = client.post(f"/api/projects/{project}/sheets/1/cut").json()["faults"]
    assert any("smaller than the tool of 40 mm" in f["text"] for f in faults)
    assert client.post("/api/table", json={"do": "tool", "value": 3}).json()["tool"] == 3
    assert client.post(f"/api/projects/{project}/sheets/1/cut").json()["job"]["number"] == 2
    client.app.state.table._process.kill()
    time.sleep(0.3)
    told = client.get("/api/table").json()
    assert [j["number"] for j in told["queue"]] == [2], "its queue outlives it"
    assert told["fault"] == "off"
