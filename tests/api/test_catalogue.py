"""The catalogue: what the interface asks for instead of listing it."""

import pytest
from fastapi.testclient import TestClient

from leanlattice.api.app import create_app
from leanlattice.api.settings import Settings
from leanlattice.exchange.kinds import KINDS


@pytest.fixture(scope="module")
def catalogue(tmp_path_factory):
    folder = tmp_path_factory.mktemp("data")
    app = create_app(Settings(data=folder, workers=1, interface=folder / "none"))
    return TestClient(app, base_url="http://127.0.0.1:8400").get("/api/catalogue").json()


def test_every_type_is_told_with_what_it_has(catalogue):
    assert [t["name"] for t in catalogue["types"]] == list(KINDS)
    structure = next(t for t in catalogue["types"] if t["name"] == "Structure")
    assert [(layer["name"], layer["thing"]) for layer in structure["layers"]] == [
        ("members", "member"),
        ("nodes", "node"),
        ("bodies", "node"),
        ("labels", ""),
    ]
    assert structure["things"] == ["member", "node"]
    net = next(t for t in catalogue["types"] if t["name"] == "Net")
    assert net["told_until"] == "Structure"
    flat = next(m for m in net["measures"] if m["name"] == "cellFlatness")
    assert (flat["unit"], flat["scale"], flat["before"]) == ("mm", 1000.0, "cellFlatnessBefore")


def test_schedules_say_what_they_come_with(catalogue):
    empty = {s["name"]: s["empty"] for s in catalogue["schedules"]}
    assert empty["members"] == (
        "No rows yet: they come with a clause that gives structure, such as “Frame the net”."
    )
    assert "“Cut members from stock bars”" in empty["bars"]
    assert empty["ribs"].startswith("No rows yet: they come with a clause that gives ribs, such as")
    # Tables that only files have are not listed.
    assert not {"poses", "net_nodes", "settled_nodes"} & empty.keys()
    assert {s["thing"] for s in catalogue["schedules"]} == {
        "",
        "template",
        "member",
        "node",
        "panel",
        "plate",
        "end plate",
        "hub",
        "wrap",
        "rib",
        "strip",
        "unrolled",
        "solid",
    }


def test_marks_and_units_are_told(catalogue):
    assert catalogue["marks"] == ["main", "second", "third"]
    assert [u["name"] for u in catalogue["units"]] == ["m", "mm", "°", ""]
    assert all(u["step"] > 0 for u in catalogue["units"])
