"""The pack of a small pyramid against what was worked out by hand, and that it would see mistakes
of one line which nothing else sees."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest

from leanlattice.clauses import sheets as sheet_clauses
from leanlattice.core.flat import sheets as flat_sheets
from leanlattice.core.flat.cutting import Cutting
from leanlattice.core.structure.structure import Structure
from leanlattice.exchange import drawings, models, step
from leanlattice.exchange.kinds import structure_tables
from leanlattice.exchange.pack import write_pack
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.statement.upgrade import read_upgraded

from ..known import TABLE, known
from .by_hand import COLUMNS
from .compare import FILES, differences
from .section import BEGINS, as_markdown


@pytest.fixture(scope="module")
def statement():
    return read_upgraded((TABLE.parents[1] / "tests/golden/pyramid.json").read_text())


def outcomes_of(statement):
    def open_file(wanted, digest, name):
        return open_brought(wanted, name, statement.files[digest].bytes())

    return list(evaluate(statement, ResultCache(), open_file=open_file))


@pytest.fixture(scope="module")
def outcomes(statement):
    return outcomes_of(statement)


@known("a pyramid of tubes with glass, worked out below", "every column, figure, line and solid")
def test_the_pack_of_a_pyramid_is_as_worked_out_by_hand(statement, outcomes, tmp_path):
    written = write_pack(tmp_path, statement, outcomes)
    assert {*COLUMNS, *FILES} <= {p.relative_to(tmp_path).as_posix() for p in tmp_path.rglob("*")}
    assert differences(tmp_path) == []
    assert written.wrong == []


def test_the_section_is_what_was_worked_out():
    text = TABLE.read_text(encoding="utf-8")
    assert text[text.index(BEGINS) :] == as_markdown()


# What is done wrong, where, and in which file it is to be seen.


def angles_turned(name):
    right = structure_tables.node_angles

    def wrong(structure, rank):
        ways = right(structure, rank)
        return replace(ways, **{name: -getattr(ways, name)})

    return structure_tables, "node_angles", wrong


def view_from_behind():
    right = drawings._projected

    def wrong(points, view):
        return right(points, view) * ((-1, 1) if view == "side" else (1, 1))

    return drawings, "_projected", wrong


def turned_the_other_way():
    right = flat_sheets.placed
    return flat_sheets, "placed", lambda points, angle, shift: right(points, -angle, shift)


def dearer():
    right = sheet_clauses.Stock
    return sheet_clauses, "Stock", lambda *sizes: right(*sizes[:5], sizes[5] + 1)


def valences_of_one_end():
    return (
        Structure,
        "valence",
        property(lambda structure: np.bincount(structure.ends[:, 0], minlength=5)),
    )


MISTAKES = {
    "elevations downward": (lambda: angles_turned("elevation"), "node_angles.csv: elevation_deg"),
    "twists the other way": (lambda: angles_turned("twist"), "node_angles.csv: twist_deg"),
    "a model turned over": (lambda: (models, "y_up", lambda p: p[:, [0, 2, 1]]), "model.glb: "),
    "an elevation from behind": (view_from_behind, "drawings.pdf: the elevation along x"),
    "valences of one end": (valences_of_one_end, "nodes.csv: valence"),
    "parts turned the other way": (turned_the_other_way, "sheets/sheet-01.dxf: P1"),
    "masses of whole lengths": (
        lambda: (Structure, "masses", property(lambda structure: structure.lengths)),
        "members.csv: mass_kg",
    ),
}
GROUP = {"csv": "schedules", "dxf": "sheets"}
"""Of the files of an ending; of others it is their name."""


@pytest.mark.parametrize("mistake", MISTAKES)
def test_a_mistake_in_what_is_written_is_seen(mistake, statement, outcomes, monkeypatch, tmp_path):
    wrong, told = MISTAKES[mistake]
    file = told.partition(":")[0]
    monkeypatch.setattr(*wrong())
    write_pack(tmp_path, statement, outcomes, {GROUP.get(file.rpartition(".")[2], file)})
    assert [d for d in differences(tmp_path) if d.startswith(told)]


@pytest.mark.parametrize(
    "wrong", [dearer, lambda: (Cutting, "seconds", lambda self, length, _: length / self.speed)]
)
def test_a_wrong_price_is_seen(wrong, statement, monkeypatch, tmp_path):
    monkeypatch.setattr(*wrong())
    write_pack(tmp_path, statement, outcomes_of(statement), set())
    assert [d for d in differences(tmp_path) if d.startswith("report.json: cost")]


def facing_outward(path):
    """Of the plane faces in a STEP file how far each lies outward of the origin by its own normal,
    mm; below 0 where it faces inward. Read from the text: a reader would turn the body about."""
    lines = dict(re.findall(r"#(\d+) = ([^;]*);", path.read_text().replace("\n", " ")))
    out = []
    for line in lines.values():
        face = re.match(r"ADVANCED_FACE\('.*?',\(.*?\),#(\d+),\.([TF])\.\)", line)
        if face:
            place = re.findall(r"#(\d+)", lines[face[1]])[0]
            numbers = [
                [float(x) for x in re.findall(r"[-+.\dE]+", lines[k].partition("(")[2])]
                for k in re.findall(r"#(\d+)", lines[place])[:2]
            ]
            sense = 1 if face[2] == "T" else -1
            out.append(sense * sum(a * b for a, b in zip(*numbers, strict=True)))
    return sorted(np.round(out, 6))


def test_a_box_in_step_is_inside_in(monkeypatch, tmp_path):
    """2 × 3 × 4 m, about the origin."""
    sizes = {"along_x": 2, "along_y": 3, "height": 4, "centre": [0, 0, -2]}
    statement = Statement(clauses=[ClauseEntry(id="box", kind="box", values=sizes)])
    made = list(evaluate(statement, ResultCache()))
    write_pack(tmp_path, statement, made, {"shape.step"})
    assert facing_outward(tmp_path / "shape.step") == [1000, 1000, 1500, 1500, 2000, 2000]
    right = step._volume
    monkeypatch.setattr(step, "_volume", lambda *solid: -right(*solid))
    write_pack(tmp_path, statement, made, {"shape.step"})
    assert max(facing_outward(tmp_path / "shape.step")) < 0
