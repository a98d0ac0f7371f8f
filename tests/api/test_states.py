"""States of a project over the wire: their names, pictures, and the way back to them."""

from __future__ import annotations

import io
import json

import pytest
import trimesh
from fastapi.testclient import TestClient

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings

PNG = b"\x89PNG\r\n\x1a\n and what follows"

FRAME = [
    {"id": k, "kind": k, "values": {}, "on": {}, "off": False}
    for k in ("barrel", "pattern", "frame")
]


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    folder = tmp_path_factory.mktemp("states")
    app = create_app(Settings(data=folder, demo=False, workers=1, interface=folder / "none"))
    with TestClient(app, base_url="http://127.0.0.1:8400") as client:
        yield client


def imported(client, *clauses):
    body = {"format": "lean-lattice-statement", "version": 4, "name": "A", "clauses": clauses}
    file = {"file": ("a.json", json.dumps(body))}
    return client.post("/api/projects/import", files=file).json()["id"]


@pytest.fixture
def project(client):
    return imported(client)


def rename(client, project, name):
    head = client.get(f"/api/projects/{project}/statement").json()["head"]
    body = {"edit": {"op": "rename", "name": name}, "base": head}
    return client.post(f"/api/projects/{project}/edits", json=body).json()["head"]


def test_a_state_is_named_pictured_and_gone_back_to(client, project):
    base = f"/api/projects/{project}/states"
    head = rename(client, project, "With a rim")
    assert (
        client.put(f"{base}/{head}/name", json={"name": " before the client "}).status_code == 204
    )
    assert client.get(f"{base}/{head}/picture").status_code == 404
    assert client.put(f"{base}/{head}/picture", content=PNG).status_code == 204
    rename(client, project, "Without")
    told = {s["head"]: s for s in client.get(base).json()}
    assert told[head]["name"] == "before the client"
    assert told[head]["has_picture"]
    assert sum(bool(s["name"]) for s in told.values()) == 1
    assert client.get(f"{base}/{head}/picture").content == PNG
    assert client.post(f"{base}/{head}").json()["statement"]["name"] == "With a rim"


def test_names_and_pictures_that_cannot_be_are_refused_in_words(client, project):
    base = f"/api/projects/{project}/states"
    head = rename(client, project, "Named")
    for path, sent, status, words in (
        ("999999/name", {"json": {"name": "x"}}, 409, "never stood"),
        (f"{head}/name", {"json": {"name": "x" * 81}}, 422, "80"),
        (f"{head}/picture", {"content": b"GIF89a"}, 422, "PNG"),
        (f"{head}/picture", {"content": PNG}, 409, "name it first"),
    ):
        answer = client.put(f"{base}/{path}", **sent)
        assert answer.status_code == status, answer.text
        assert words in answer.text


def test_the_model_is_loaded_down_where_there_is_something_of_which_to_make_one(client, project):
    refused = client.get(f"/api/projects/{project}/model.glb")
    assert refused.status_code == 404
    assert "Nothing is made yet" in refused.text
    found = client.get(f"/api/projects/{imported(client, *FRAME)}/model.glb")
    assert found.headers["content-type"] == "model/gltf-binary"
    scene = trimesh.load_scene(io.BytesIO(found.content), file_type="glb")
    assert {name[0] for name in scene.graph.nodes_geometry} == {"M", "E"}
