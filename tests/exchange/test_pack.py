# ruff: noqa: E501
"""Packs: what is written, what a check of the files finds, and that it finds mistakes."""

from __future__ import annotations

import csv
import hashlib
import json
import os
import shutil
import subprocess
import sys
from types import SimpleNamespace

import ezdxf
import numpy as np
import pytest
import trimesh
from typer.testing import CliRunner

from leanlattice.cli import app
from leanlattice.core.flat.parts import Part
from leanlattice.core.flat.sheets import Layout, Stock
from leanlattice.exchange.check import check_pack
from leanlattice.exchange.checks.flat import parts_as_listed
from leanlattice.exchange.checks.pack_files import Pack
from leanlattice.exchange.dxf import write_sheet
from leanlattice.exchange.pack import write_pack
from leanlattice.exchange.wire import geometry, measures, pack_arrays, unpack_arrays
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..conftest import DEMO, demo
from ..known import known

HEADERS = {
    "nodes": "label,x_m,y_m,z_m,valence,support,normal_x,normal_y,normal_z,setback_mm",
    "members": "label,layer,type,section,material,start,end,length_mm,cut_length_mm,roll_deg,start_setback_mm,"
    "end_setback_mm,mass_kg,up_x,up_y,up_z,lift_mm",
    "member_types": "type,section,cut_length_mm,count,spread_mm",
    "node_angles": "node,member,plan_angle_deg,elevation_deg,twist_deg",
    "panels": "label,type,corners,area_m2,flatness_mm,material,thickness_mm,raised_mm,cut,off_mm,"
    "corner_radius_mm,holes,hole_mm,rim_mm,twist_mm,twist_stress_MPa,beyond,angles_deg",
    "parts": "label,kind,sheet,x_mm,y_mm,rotation_deg,area_m2,cut_length_mm,material,thickness_mm,tool_mm,joint_mm,source",
    "sheets": "sheet,width_mm,height_mm,material,thickness_mm,margin_mm,spacing_mm,tool_mm,parts,used_percent,source",
    "poses": "label,x_m,y_m,z_m,right_x,right_y,right_z,up_x,up_y,up_z",
}


def test_parts_with_one_lower_left_corner_are_told_apart(tmp_path):
    """Two triangles that lie in each other's box, whose corners on the sheet are the same."""
    corners = np.array([[0.0, 0], [2000, 0], [0, 400]])
    outlines = [("P2", corners), ("P1", [2010.0, 410] - corners * 0.995)]
    outlines = [(k, o - o.min(axis=0)) for k, o in outlines]
    parts = tuple(Part(k, "panel", o, np.eye(4), "glass", 4.0) for k, o in outlines)
    stock = Stock(3000, 1500, 20, 5)
    at = np.array([[20.0, 20.0], [20.0, 20.0]])
    made = Layout(
        (stock,), np.zeros(1, np.int32), np.zeros(1, np.int32), parts, np.zeros(2, np.int32),
        np.zeros(2), at, np.zeros(2, bool),
    )  # fmt: skip
    (tmp_path / "sheets").mkdir()
    write_sheet(tmp_path / "sheets" / "sheet-01.dxf", made, 0)
    told = [
        f"{p.label},1,20.0,20.0,{p.area / 1e6:.6f},{p.cut_length:.3f},0.0,glass,4.0"
        for p in parts[::-1]
    ]
    head = "label,sheet,x_mm,y_mm,area_m2,cut_length_mm,tool_mm,material,thickness_mm"
    (tmp_path / "parts.csv").write_text("\n".join([head, *told]) + "\n")
    found = list(parts_as_listed(Pack(tmp_path)))
    assert len(found) == 6
    assert max(value for value, _ in found) < 0.01


@pytest.fixture(scope="module")
def outcomes():
    return list(evaluate(demo("ferry-shelter"), ResultCache()))


@pytest.fixture(scope="module")
def written(tmp_path_factory, outcomes):
    folder = tmp_path_factory.mktemp("pack")
    write_pack(folder, demo("ferry-shelter"), outcomes)
    return folder


@pytest.fixture
def pack(tmp_path, written):
    shutil.copytree(written, tmp_path / "pack")
    return tmp_path / "pack"


def rows(pack, name):
    with (pack / f"{name}.csv").open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def rewrite(pack, name, table):
    with (pack / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, table[0], lineterminator="\n")
        writer.writeheader()
        writer.writerows(table)


def failures(pack):
    return {f.check: f for f in check_pack(pack) if not f.passed}


def test_the_pack_holds_what_it_should(pack, outcomes):
    for name, header in HEADERS.items():
        assert (pack / f"{name}.csv").read_text(encoding="utf-8").partition("\n")[0] == header
    names = {str(p.relative_to(pack)) for p in pack.rglob("*") if p.is_file()}
    assert {"statement.json", "report.json", "checks.json", "model.glb", "model.obj", "model.stl", "model.ifc", "shape.step", "drawings.pdf", "wireframe.dxf",
            "sheets/sheet-01.dxf", "sheets/sheet-01.svg"} <= names  # fmt: skip
    checks = json.loads((pack / "checks.json").read_text())
    assert all(c["passed"] for c in checks)
    assert set(checks[0]) == {"check", "passed", "worst", "unit", "where"}
    report = json.loads((pack / "report.json").read_text())["clauses"]
    assert [c["id"] for c in report] == [o.id for o in outcomes]
    frame = next(c for c in report if c["kind"] == "frame")
    assert frame["figures"]["members"]["value"] == len(rows(pack, "members"))
    assert frame["figures"]["mass"]["value"] == pytest.approx(
        sum(float(r["mass_kg"]) for r in rows(pack, "members")), abs=0.1
    )
    scene = trimesh.load_scene(pack / "model.glb")
    assert set(scene.graph.nodes_geometry) == {
        r["label"] for t in ("members", "parts") for r in rows(pack, t)
    }
    assert np.ptp(scene.bounds, axis=0)[1] == pytest.approx(1.8, abs=0.3)


def test_sheets_have_their_layers_in_order(pack):
    drawing = ezdxf.readfile(pack / "sheets" / "sheet-01.dxf")
    assert drawing.header["$INSUNITS"] == 4
    assert {"CUT_OUTER", "CUT_INNER", "SCORE", "MARK", "SHEET"} <= {
        layer.dxf.name for layer in drawing.layers
    }
    space = drawing.modelspace()
    outer = space.query('LWPOLYLINE[layer=="CUT_OUTER"]')
    assert len(outer) == len([r for r in rows(pack, "parts") if r["sheet"] == "1"])
    assert all(e.closed for e in outer)
    assert all(not e.closed for e in space.query('LWPOLYLINE[layer=="MARK"]'))


def test_the_same_statement_writes_the_same_bytes(tmp_path, written, outcomes):
    write_pack(tmp_path / "again", demo("ferry-shelter"), outcomes)
    for path in sorted(p for p in written.rglob("*") if p.is_file()):
        twin = tmp_path / "again" / path.relative_to(written)
        assert (
            hashlib.sha256(path.read_bytes()).digest() == hashlib.sha256(twin.read_bytes()).digest()
        ), path.name


def moved_node(pack):
    table = rows(pack, "nodes")
    table[7]["x_m"] = str(float(table[7]["x_m"]) + 0.005)
    rewrite(pack, "nodes", table)
    return table[7]["label"]


def test_a_moved_node_is_found_by_all_that_touches_it(pack):
    assert not failures(pack)
    place = moved_node(pack)
    found = failures(pack)
    members = {r["label"] for r in rows(pack, "members") if place in (r["start"], r["end"])}
    panels = {r["label"] for r in rows(pack, "panels") if place in r["corners"].split()}
    for check, things in (
        ("member lengths against node coordinates", members),
        ("wireframe against node coordinates", members),
        ("panel sides against edges in space less the joint", panels),
    ):
        assert found[check].where.split()[0] in things, check
    assert "nodes.csv" in found["files as the manifest lists them"].where


def test_the_command_line_says_how_it_went(tmp_path):
    def run(*arguments):
        """In this process, where everything is loaded already."""
        done = CliRunner().invoke(app, [str(a) for a in arguments])
        return SimpleNamespace(returncode=done.exit_code, stdout=done.stdout, stderr=done.stderr)

    command = [sys.executable, "-m", "leanlattice.cli", "run", str(DEMO / "ferry-shelter.json")]
    done = subprocess.run([*command, "--out", str(tmp_path / "out")], capture_output=True)
    assert done.returncode == 0, done.stderr
    assert run("check", tmp_path / "out").returncode == 0
    label = moved_node(tmp_path / "out")
    failed = run("check", tmp_path / "out")
    assert failed.returncode == 1
    assert label in failed.stdout
    plain = json.loads((DEMO / "ferry-shelter.json").read_text())
    plain["clauses"][2]["values"]["inner"] = "CHS 1 × 1"
    (tmp_path / "wrong.json").write_text(json.dumps(plain))
    wrong = run("run", tmp_path / "wrong.json", "--out", tmp_path / "none")
    assert wrong.returncode == 1
    assert "timber" in wrong.stderr
    assert "inner" in wrong.stderr
    assert not (tmp_path / "none" / "members.csv").exists(), "what failed is not there"
    assert (tmp_path / "none" / "shape.step").is_file(), "what could be made is written"
    told = json.loads((tmp_path / "none" / "report.json").read_text())["clauses"]
    assert [c["status"] for c in told][2] == "failed"
    assert "CHS 1 × 1" in told[2]["error"]
    plain["clauses"][2]["values"]["inner"] = "CHS 60.3 × 4"
    plain["clauses"].append({"id": "short", "kind": "bars", "values": {"stock": 0.5}})
    (tmp_path / "short.json").write_text(json.dumps(plain))
    short = run("run", tmp_path / "short.json", "--out", tmp_path / "short")
    assert short.returncode == 3, short.stderr
    assert "longer than a bar of 0.5 m" in short.stderr
    (tmp_path / "broken.json").write_text("{")
    assert run("run", tmp_path / "broken.json", "--out", tmp_path / "none").returncode == 2
    assert run("check", tmp_path / "nowhere").returncode == 2


def test_arrays_travel_whole_and_small(outcomes):
    message = pack_arrays(
        {"type": "t"}, {"a": np.arange(5, dtype="<u2"), "b": np.ones((2, 3), "<f4")}
    )
    header, arrays = unpack_arrays(message)
    assert header["type"] == "t"
    assert arrays["a"].tolist() == [0, 1, 2, 3, 4]
    assert arrays["b"].shape == (2, 3)
    for outcome in outcomes:
        header, arrays = unpack_arrays(geometry(outcome.key, outcome.result))
        assert header["key"] == outcome.key
    structure = next(o.result for o in outcomes if o.kind == "frame")
    header, arrays = unpack_arrays(geometry("k", structure))
    assert np.abs(arrays["positions"] - structure.places).max() < 1e-5
    assert (arrays["pieces"] == structure.ends).all()
    assert np.abs(arrays["setBacks"] / 1e4 - structure.axis_back).max() <= 5.1e-5
    folded = arrays["ups"].astype(float) / 127
    z = 1 - np.abs(folded).sum(axis=1)
    t = np.maximum(-z, 0)[:, None]
    up = np.column_stack([folded - np.sign(folded) * t, z])
    assert (
        np.einsum("ij,ij->i", up / np.linalg.norm(up, axis=1, keepdims=True), structure.up)
        > np.cos(np.radians(1.2))
    ).all()
    assert unpack_arrays(measures("k", structure))[1]["length"] == pytest.approx(
        structure.lengths, rel=1e-6
    )


@pytest.fixture(scope="module")
def settled_pack(tmp_path_factory):
    folder = tmp_path_factory.mktemp("settled")
    rows = [("loft", {"profiles": [[[-5, -6, 0], [5, -6, 0]], [[-5, 6, 0], [5, 6, 0]]]}),
            ("pattern", {"pattern": "diagrid", "bays_across": 8, "bays_along": 9}), ("hold", {}), ("push", {"load": 2}),
            ("aim", {"density": 3}), ("aim", {"aim": "equal", "strength": 5}), ("settle", {})]  # fmt: skip
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    )
    outcomes = list(evaluate(statement, ResultCache()))
    written = write_pack(folder, statement, outcomes)
    assert not written.wrong, written.wrong
    return folder


@pytest.mark.parametrize(
    ("file", "row", "column", "change", "check"),
    [
        ("settled_edges", 30, "force_kN", 1.02, "forces at settled nodes sum to nothing"),
        ("settled_nodes", 45, "load_z_kN", 1.5, "forces at settled nodes sum to nothing"),
        ("settled_nodes", 45, "z_m", 1.01, "lengths of settled edges against their nodes"),
    ],
)
def test_forces_that_do_not_balance_are_found_from_the_files(
    settled_pack, tmp_path, file, row, column, change, check
):
    copy = tmp_path / "pack"
    shutil.copytree(settled_pack, copy)
    rows = list(csv.DictReader((copy / f"{file}.csv").open(encoding="utf-8")))
    place = next(k for k in range(row, len(rows)) if abs(float(rows[k][column])) > 0.05)
    rows[place][column] = str(float(rows[place][column]) * change)
    with (copy / f"{file}.csv").open("w", encoding="utf-8", newline="") as out:
        table = csv.DictWriter(out, rows[0])
        table.writeheader()
        table.writerows(rows)
    wrong = {f.check: f.where for f in check_pack(copy) if not f.passed}
    assert wrong[check].startswith("c6")


@pytest.mark.parametrize("change", [0.5, 3.0])
def test_a_residual_is_what_forces_in_the_tables_add_up_to(settled_pack, tmp_path, change):
    copy = tmp_path / "pack"
    shutil.copytree(settled_pack, copy)
    report = json.loads((copy / "report.json").read_text(encoding="utf-8"))
    settled = report["clauses"][-1]["figures"]["residual"]
    settled["value"] = 0.1 + change * settled["value"]
    (copy / "report.json").write_text(json.dumps(report), encoding="utf-8")
    wrong = {f.check: f.where for f in check_pack(copy) if not f.passed}
    assert wrong["forces at settled nodes sum to nothing"] == "c6 in report.json: residual"


def test_a_net_without_loads_is_settled_and_checked_by_one_scale(tmp_path):
    """Lengths that are made alike pull by thousands at first and by next to nothing in the end."""
    rows = [
        ("dome", {"span": 12, "rise": 3}),
        ("pattern", {"pattern": "triangles", "density": "module", "module": 1.5}),
        ("hold", {}),
        ("aim", {"aim": "few", "kinds": 6, "strength": 1e4}),
        ("aim", {"aim": "close", "strength": 1.0}),
        ("settle", {"limit": 0.5}),
    ]
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    )
    written = write_pack(tmp_path, statement, list(evaluate(statement, ResultCache())), {"forces"})
    found = {f.check: f for f in written.findings}
    assert found["forces at settled nodes sum to nothing"].passed
    assert found["forces at settled nodes sum to nothing"].worst > 0


def test_forces_need_both_their_tables(settled_pack, tmp_path):
    copy = tmp_path / "pack"
    shutil.copytree(settled_pack, copy)
    (copy / "settled_edges.csv").unlink()
    wrong = {f.check: f.where for f in check_pack(copy) if not f.passed}
    assert "settled_edges.csv is missing" in wrong["tables and drawings that belong together"]
    assert "settled_edges.csv is missing" in wrong["files as the manifest lists them"]


@known("the same statement under other hash seeds", "the same bytes")
def test_the_same_statement_gives_the_same_bytes_whatever_python_hashes(tmp_path):
    """Sets and mappings are run through in another order under another hash seed."""
    folders = []
    for seed in ("1", "2"):
        folders.append(tmp_path / seed)
        command = [
            sys.executable,
            "-m",
            "leanlattice.cli",
            "run",
            DEMO / "mooring-stone.json",
            "--out",
            folders[-1],
        ]
        done = subprocess.run(
            [str(c) for c in command],
            env={**os.environ, "PYTHONHASHSEED": seed},
            capture_output=True,
        )
        assert done.returncode in (0, 3), done.stderr
    listed = [json.loads((f / "manifest.json").read_text())["files"] for f in folders]
    assert listed[0] == listed[1]
