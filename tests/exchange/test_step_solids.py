"""Solids in STEP: measured by another kernel, and what is left out of it."""

from __future__ import annotations

import re

import manifold3d
import numpy as np
import pytest
from typer.testing import CliRunner

from leanlattice.cli import app
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.shaping.solids import as_body
from leanlattice.core.solids.solids import solids_of
from leanlattice.exchange import step_solids
from leanlattice.exchange.readers.step import measured_step
from leanlattice.exchange.step import exact_form, write_step
from leanlattice.statement.document import ClauseEntry, Statement

from ..known import approx, known


def balls(count, segments=16):
    ball = manifold3d.Manifold.sphere(1.0, segments)
    return solids_of([as_body(ball.translate((3.0 * k, 0, 0))) for k in range(count)], "limestone")


def measured(path):
    return measured_step(path.read_bytes())


@known("faceted balls, and a block with a hole, read from STEP", "their volumes and areas")
def test_another_kernel_finds_their_volumes_and_areas(tmp_path):
    holed = manifold3d.Manifold.cube((2, 1, 1)) - manifold3d.Manifold.cube((0.5, 0.5, 3)).translate(
        (0.7, 0.2, -1)
    )
    blocks = solids_of([as_body(holed)], "limestone", "B")
    step_solids.write_solids(tmp_path / "bodies.step", [balls(3), blocks])
    found = measured(tmp_path / "bodies.step")
    both = balls(3).volumes.sum() + 2 - 0.25, balls(3).areas.sum() + blocks.areas.sum()
    assert [found.volume, found.area] == approx(np.array(both), rel=1e-9)
    text = (tmp_path / "bodies.step").read_text()
    assert set(re.findall(r"\bPRODUCT\('(\w+)'", text)) == {"K1", "K2", "K3", "BK1"}
    assert found.high == pytest.approx([7, 1, 1], abs=1e-6)
    # A face with an opening stays one.
    faces = len(step_solids.smooth_faces(blocks.whole, 1e-7).tolist())
    assert text.count("ADVANCED_FACE") == 3 * len(balls(1).triangles) + 10 < 3 * 128 + faces


def test_of_too_many_faces_one_of_each_type_is_written_or_none(tmp_path, monkeypatch):
    solids = balls(4)
    each = len(solids.triangles) // 4
    for most, count in ((4 * each, 4), (4 * each - 1, 1), (each - 1, 0)):
        monkeypatch.setattr(step_solids, "MOST_FACES", most)
        assert len(step_solids.written_solids(solids)) == count
        path = tmp_path / f"{most}.step"
        step_solids.write_solids(path, [solids])
        assert path.exists() == bool(count)


def test_what_was_written_before_changes_nothing(tmp_path):
    """The package keeps a name and a count from one file to the next."""
    cap = exact_form(dome(10, 3, np.zeros(3)))
    for turn in range(2):
        write_step(tmp_path / f"shape-{turn}.step", [("cap", cap)])
        step_solids.write_solids(tmp_path / f"bodies-{turn}.step", [balls(2)])
    for kind in ("shape", "bodies"):
        first, again = (tmp_path / f"{kind}-{turn}.step" for turn in range(2))
        assert first.read_bytes() == again.read_bytes()
    assert re.findall(
        r"\bPRODUCT\('(\w+)',\s*'(\w+)'", (tmp_path / "shape-1.step").read_text()
    ) == [("cap", "cap")]


def test_the_command_line_writes_them_when_asked(tmp_path):
    statement = Statement(
        name="Stone",
        clauses=[ClauseEntry(id="box", kind="box"), ClauseEntry(id="stone", kind="solids")],
    )
    path = tmp_path / "stone.json"
    path.write_text(statement.text(), encoding="utf-8")
    for folder, asked in (("without", []), ("with", ["--step"])):
        done = CliRunner().invoke(app, ["run", str(path), "--out", str(tmp_path / folder), *asked])
        assert done.exit_code == 0, done.output
        assert (tmp_path / folder / "bodies.step").exists() == bool(asked)
    box = measured(tmp_path / "with" / "bodies.step")
    listed = (tmp_path / "with" / "bodies.csv").read_text(encoding="utf-8").splitlines()
    row = dict(zip(listed[0].split(","), listed[1].split(","), strict=True))
    assert box.volume == pytest.approx(float(row["volume_m3"]), rel=1e-6)
