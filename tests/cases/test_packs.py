"""What is written of statements, and what is said of it."""

from __future__ import annotations

import csv
import json
import subprocess
import sys

import ifcopenshell
import manifold3d
import numpy as np
import pytest
import shapely
import trimesh

from leanlattice.core.structure.roles import role_number
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..known import known
from .conftest import STATEMENTS


def rows(folder, table):
    with (folder / f"{table}.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def run(name, out, *more):
    command = [
        sys.executable,
        "-m",
        "leanlattice.cli",
        "run",
        str(STATEMENTS / f"{name}.json"),
        "--out",
        str(out),
    ]
    return subprocess.run([*command, *more], capture_output=True, text=True)


def test_a_sheet_holds_one_thickness(pack):
    folder, written = pack("two_thicknesses_one_sheet")
    assert not written.wrong
    on_sheet = {}
    for row in rows(folder, "parts"):
        on_sheet.setdefault(row["sheet"], set()).add((row["material"], row["thickness_mm"]))
    assert all(len(kinds) == 1 for kinds in on_sheet.values())
    assert {k for kinds in on_sheet.values() for k in kinds} == {
        ("plywood", "3.0"),
        ("plywood", "6.0"),
    }


def test_nothing_old_is_left_in_a_folder(tmp_path):
    assert run("stale_parts_1", tmp_path, "--parts").returncode == 0
    old = {p.name: p.read_bytes() for p in (tmp_path / "parts").iterdir()}
    (tmp_path / "notes.txt").write_text("mine")
    second = run("stale_parts_2", tmp_path)
    assert second.returncode == 0
    assert not (tmp_path / "parts").exists()
    assert old
    assert "notes.txt was in the folder before" in second.stderr
    assert (tmp_path / "notes.txt").read_text() == "mine"
    listed = json.loads((tmp_path / "manifest.json").read_text())["files"]
    assert "notes.txt" not in {f["path"] for f in listed}


def test_panels_share_no_space_with_members(outcomes, pack):
    found = outcomes("panel_beam_clash")
    assert found["p1"].figures["raised"].value > 0
    folder, written = pack("panel_beam_clash")
    assert not written.wrong
    scene = trimesh.load_scene(folder / "model.glb")
    solids = {name: scene.geometry[name] for name in scene.geometry}
    members = [n for n in solids if n[0] in "ME"]
    panels = [n for n in solids if n[0] == "P"]
    boxes = {n: solids[n].bounds for n in solids}
    shared, pairs = 0.0, 0

    def manifold(mesh):
        mesh64 = manifold3d.Mesh64(
            vert_properties=np.array(mesh.vertices, np.float64),
            tri_verts=np.array(mesh.faces, np.uint64),
        )
        return manifold3d.Manifold(mesh64)

    whole = {n: manifold3d.Manifold.hull_points(np.array(solids[n].vertices)) for n in members}
    plates = {n: manifold(solids[n]) for n in panels}
    for p in panels:
        low, high = boxes[p]
        for m in members:
            a, b = boxes[m]
            if (a <= high).all() and (b >= low).all():
                pairs += 1
                shared = max(shared, float((whole[m] ^ plates[p]).volume()) * 1e9)
    assert pairs > 400
    assert shared < 5.0, "mm³"


@pytest.mark.parametrize("name", ["ifc_joint_without", "ifc_joint_with"])
def test_plates_have_their_joints_whether_set_out_or_not(pack, name):
    folder, written = pack(name)
    assert not written.wrong
    model = ifcopenshell.open(str(folder / "model.ifc"))
    plate = next(e for e in model.by_type("IfcPlate") if e.Name == "P1")
    outline = plate.Representation.Representations[0].Items[0].SweptArea.OuterCurve
    area = shapely.Polygon([p.Coordinates for p in outline.Points]).area
    assert area == pytest.approx(0.6837, abs=5e-5)
    for kind in ("model.glb", "model.obj"):
        scene = trimesh.load_scene(folder / kind) if kind.endswith("glb") else None
        names = set(scene.geometry) if scene else set((folder / kind).read_text().split())
        assert "P1" in names


def test_panels_of_rounded_insets_are_set_out(outcomes):
    found = outcomes("sheets_zero_size")["s"]
    assert found.status == "done"
    assert found.figures["parts"].value > 1000


@known("the same parts with more turns allowed", "no more sheets")
def test_a_freer_search_takes_no_more_sheets(outcomes):
    sheets = {
        n: list(outcomes(f"nest_{n}").values())[-1].figures["sheets"].value
        for n in ("halves", "quarters", "free")
    }
    assert sheets["free"] <= sheets["quarters"] <= sheets["halves"] <= 94


@pytest.mark.parametrize("name", ["bent_line", "bent_band1"])
def test_sound_bent_ribs_are_written(pack, name):
    folder, written = pack(name)
    assert not written.held_back
    assert not written.wrong
    found = {f.check: f.worst for f in written.findings}
    assert found["ribs put together again share nothing"] < 1e-2
    assert found["ribs put together again meet at their slots"] < 1e-3
    assert (folder / "sheets" / "sheet-01.dxf").is_file()


def test_a_film_leaves_its_forces(pack):
    folder, written = pack("film")
    assert not written.wrong
    nodes = rows(folder, "settled_nodes")
    reactions = np.array([[float(r[f"reaction_{a}_kN"]) for a in "xyz"] for r in nodes])
    aims = np.array([[float(r[f"aim_{a}_kN"]) for a in "xyz"] for r in nodes])
    assert np.abs(reactions).max() > 0.01
    assert np.abs((reactions + aims).sum(axis=0)).max() < 1e-3
    assert "forces at settled nodes sum to nothing" in {f.check for f in written.findings}


def test_laths_are_members_that_run_on(outcomes):
    """32 strands within the border, which were 370 members."""
    structure = outcomes("weave_then_frame")["f"].result
    laths = structure.role == role_number("lath")
    assert np.count_nonzero(laths) == 32
    assert (np.diff(structure.offsets)[laths] - 1).sum() == 370


def laid_of(unit, scale):
    """How parts of ribs and of panels lie, of a rough stone brought in a unit."""
    stone = trimesh.creation.icosphere(subdivisions=2, radius=0.9)
    stone.vertices *= [1.3, 1.0, 0.8]
    stone.vertices *= scale
    content = stone.export(file_type="obj", digits=12).encode()

    def opened(wanted, digest, name):
        return open_brought(wanted, name, content)

    brought = ClauseEntry(
        id="stone", kind="import", values={"file": ["0" * 64, "stone.obj"], "unit": unit}
    )
    more = [
        ("waffle", {"number_first": 6, "number_second": 7, "thick_first": 6, "thick_second": 6}),
        ("set-out", {"width": 2000, "height": 1000, "turns": "free"}),
        ("faces", {}),
        ("frame", {"inner": "CHS 21.3 × 2.6", "border": "CHS 21.3 × 2.6"}),
        ("panels", {"thickness": 6}),
        ("name", {}),
        ("set-out", {"width": 2000, "height": 1000, "turns": "free"}),
    ]
    ids = [k if n == 1 or k != "set-out" else "panels-out" for n, (k, _) in enumerate(more)]
    entries = [
        brought,
        *(ClauseEntry(id=i, kind=k, values=v) for i, (k, v) in zip(ids, more, strict=True)),
    ]
    done = {o.id: o for o in evaluate(Statement(clauses=entries), ResultCache(), open_file=opened)}
    assert {o.status for o in done.values()} == {"done"}, [
        o.error for o in done.values() if o.error
    ]
    return [done[k].result.layout for k in ("set-out", "panels-out")]


def test_a_design_in_millimetres_lies_as_it_does_in_metres():
    """Only rounding differs; many panels of the stone are equal, so that nothing but rounding could
    choose between them."""
    for metres, millimetres in zip(laid_of("m", 1.0), laid_of("mm", 1000.0), strict=True):
        assert millimetres.sheet_count == metres.sheet_count
        assert [p.label for p in millimetres.parts] == [p.label for p in metres.parts]
        assert millimetres.sheet.tolist() == metres.sheet.tolist()
        assert np.abs(millimetres.shift - metres.shift).max() < 1e-2
