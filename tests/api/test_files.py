"""Files that are brought in, over the API: stored by content, read in the worker, carried by saved statements."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient
from PIL import Image

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings

from ..conftest import DEMO

HOST = {"host": "127.0.0.1"}


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    settings = Settings(data=tmp_path_factory.mktemp("files") / "data", workers=1, demo_folder=DEMO)
    with TestClient(create_app(settings), base_url="http://127.0.0.1") as client:
        yield client


def project(client, *clauses):
    body = {
        "format": "lean-lattice-statement",
        "version": 1,
        "name": "Files",
        "clauses": list(clauses),
    }
    made = client.post("/api/projects/import", files={"file": ("a.json", json.dumps(body))})
    assert made.status_code == 201, made.text
    return made.json()["id"]


def stored(client, name, content):
    return client.post("/api/files", files={"file": (name, content)})


def picture(width=400, height=300):
    out = io.BytesIO()
    Image.fromarray(np.tile(np.linspace(0, 255, width).astype(np.uint8), (height, 1))).save(
        out, "PNG"
    )
    return out.getvalue()


def test_a_model_is_stored_once_and_read_by_its_clause(client):
    content = trimesh.creation.box((2, 3, 4)).export(file_type="stl")
    first, again = (
        stored(client, "box.stl", content).json(),
        stored(client, "other.stl", content).json(),
    )
    assert first["digest"] == again["digest"]
    assert first["size"] == len(content)
    p = project(
        client,
        {
            "id": "m",
            "kind": "import",
            "values": {"file": [first["digest"], "box.stl"], "unit": "m"},
        },
    )
    (made,) = client.get(f"/api/projects/{p}/outcomes").json()
    assert made["status"] == "done"
    assert {f["name"]: f["value"] for f in made["figures"]}["volume"] == pytest.approx(24)


def test_saved_statements_are_complete_and_open_elsewhere(client, tmp_path):
    digest = stored(client, "hill.png", picture()).json()["digest"]
    clause = {
        "id": "g",
        "kind": "ground",
        "values": {"file": [digest, "hill.png"], "source": "picture", "high": 7.0},
    }
    saved = client.get(f"/api/projects/{project(client, clause)}/statement-file").text
    assert digest in json.loads(saved)["files"]
    other = Settings(data=tmp_path / "data", workers=1, demo_folder=DEMO)
    with TestClient(create_app(other), base_url="http://127.0.0.1") as elsewhere:
        made = elsewhere.post("/api/projects/import", files={"file": ("hill.json", saved)}).json()
        (ground,) = elsewhere.get(f"/api/projects/{made['id']}/outcomes").json()
        assert {f["name"]: f["value"] for f in ground["figures"]}["extent_z"] == pytest.approx(
            7, rel=0.02
        )
        kept = elsewhere.get(f"/api/projects/{made['id']}/statement").json()["statement"]
        assert not kept.get("files"), "contents are kept apart from the statement"


def test_pictures_are_given_out_straightened_and_as_they_came(client):
    digest = stored(client, "wall.png", picture()).json()["digest"]
    values = {
        "file": [digest, "wall.png"],
        "corners": [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]],
        "length": 8,
    }
    p = project(
        client,
        {"id": "u", "kind": "underlay", "values": values},
        {"id": "d", "kind": "draw", "values": {}},
    )
    png = client.get(f"/api/projects/{p}/underlays/u.png")
    shown = Image.open(io.BytesIO(png.content)).convert("L")
    assert shown.size == (1600, 1200)
    left, right = (shown.getpixel((x, 600)) for x in (5, 1594))
    assert left == pytest.approx(0.1 * 255, abs=3)
    assert right == pytest.approx(0.9 * 255, abs=3)
    assert client.get(f"/api/files/{digest}").content == picture()
    assert client.get(f"/api/projects/{p}/underlays/d.png").status_code == 404
    text = stored(client, "secret.txt", b"1 2 3\n").json()["digest"]
    assert client.get(f"/api/files/{text}").status_code == 404, "only pictures are given out"


def test_curves_leave_as_drawings(client):
    p = project(
        client, {"id": "d", "kind": "draw", "values": {}}, {"id": "b", "kind": "box", "values": {}}
    )
    svg, dxf = (client.get(f"/api/projects/{p}/curves/d.{e}") for e in ("svg", "dxf"))
    assert svg.text.startswith("<svg")
    assert 'width="10000mm"' in svg.text
    assert "LWPOLYLINE" in dxf.text
    assert client.get(f"/api/projects/{p}/curves/b.svg").status_code == 404


@pytest.mark.parametrize(
    ("name", "content", "status"),
    [("", b"x", 422), ("empty.stl", b"", 422), ("ok.bin", b"x", 201), ("..\\..\\evil", b"x", 201)],
)
def test_uploads_are_checked_and_names_made_harmless(client, name, content, status):
    answer = stored(client, name, content)
    assert answer.status_code == status
    if status == 201:
        assert not set("/\\") & set(answer.json()["name"])


def test_a_hostile_file_is_told_by_its_clause_and_stops_nothing_else(client):
    digest = stored(client, "bad.stl", b"\0" * 80 + b"\xff\xff\xff\x7f").json()["digest"]
    p = project(
        client,
        {"id": "m", "kind": "import", "values": {"file": [digest, "bad.stl"]}},
        {"id": "b", "kind": "box"},
    )
    bad, good = client.get(f"/api/projects/{p}/outcomes").json()
    assert bad["status"] == "failed"
    assert "cut off" in bad["error"]
    assert good["status"] == "done"


def test_the_guide_has_pictures(client):
    kinds = client.get("/api/clause-kinds").json()
    shown = [k for k in kinds if k["has_picture"]]
    assert len(shown) > 40
    answer = client.get(f"/api/guide/{shown[3]['kind']}.png")
    assert Image.open(io.BytesIO(answer.content)).size == (288, 180)
    assert client.get("/api/guide/nothing.png").status_code == 404
