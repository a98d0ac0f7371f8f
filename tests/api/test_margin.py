"""The margin of a project over the service."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings

VIEW = {
    "name": "From the creek",
    "stand": {"position": [10.5, -4, 3], "target": [0, 0, 1], "half": 6},
    "look": "oblique",
    "shown": {"members": True},
    "colour_by": "none",
    "cut": {"axis": "x", "share": 0.4},
}


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    folder = tmp_path_factory.mktemp("margin")
    app = create_app(Settings(data=folder, demo=False, workers=1, interface=folder / "none"))
    with TestClient(app, base_url="http://127.0.0.1:8400") as client:
        yield client


@pytest.fixture
def margin(client):
    project = client.post("/api/projects", json={"name": "Hall"}).json()["id"]
    return f"/api/projects/{project}/margin"


def test_views_distances_targets_axes_and_lengths_come_back_as_they_were(client, margin):
    assert client.get(margin).json()["axes"] == {"on": False, "x": 5, "y": 5, "levels": [0]}
    notes = {
        "views": [VIEW],
        "distances": [{"start": [0, 0, 0], "end": [3, 4, 0]}],
        "targets": {"longest": {"most": 3, "least": None}},
        "axes": {"on": True, "x": 6, "y": 0, "levels": [0, 3.2]},
        "lengths": "feet",
    }
    for name, value in notes.items():
        assert client.patch(margin, json={name: value}).status_code == 204
    assert client.get(margin).json() == notes
    project = margin.split("/")[3]
    copy = client.post(f"/api/projects/{project}/duplicate").json()["id"]
    assert client.get(margin.replace(project, copy)).json() == notes


@pytest.mark.parametrize(
    "wrong",
    [
        {"lengths": "cubits"},
        {"axes": {"x": -1}},
        {"views": [VIEW | {"cut": {"axis": "x", "share": 2}}]},
        {"views": [VIEW] * 201},
        {"distances": [{"start": [0, 0], "end": [0, 0, 0]}]},
        {"elsewhere": 1},
    ],
)
def test_what_is_no_note_is_refused_and_nothing_changes(client, margin, wrong):
    before = client.get(margin).json()
    refused = client.patch(margin, json=wrong)
    assert refused.status_code == 422
    assert refused.json()["detail"]
    assert client.get(margin).json() == before


def test_what_cannot_be_read_takes_nothing_else_with_it(client, margin):
    project = margin.split("/")[3]
    client.app.state.hub.store.note(project, {"lengths": "cubits", "axes": {"on": True}})
    assert client.get(margin).json()["axes"]["on"]
    assert client.get(margin).json()["lengths"] == "metric"
    assert client.get("/api/projects/000000000000/margin").status_code == 404
