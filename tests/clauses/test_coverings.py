"""Coverings as clauses: deepened cells, and panels of several sheets."""

import functools
import re

import numpy as np
import pytest

from leanlattice.core.geometry.polygons import areas
from leanlattice.exchange.check import check_pack
from leanlattice.exchange.groups import GROUPS
from leanlattice.exchange.manifest import write_manifest
from leanlattice.exchange.pack import write_pack
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import read_statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..conftest import DEMO
from ..known import approx, known
from .test_lattice_clauses import clauses, made, outcomes

NET = (
    ("dome", {"span": 10, "rise": 3}),
    ("pattern", {"pattern": "hexagons", "density": "module", "module": 1.4}),
)
VAULT = (
    ("barrel", {"span": 8, "rise": 4, "length": 10}),
    ("pattern", {"pattern": "quads", "bays_across": 10, "bays_along": 10}),
)
ALU = {"material": "aluminium", "thickness": 3}


def last(*rows):
    return list(outcomes(clauses(*rows)).values())[-1]


def test_openings_follow_height_and_pulls():
    even = made(*NET, ("deepen", {"form": "even", "share": 50})).result.volumes
    up = made(*NET, ("deepen", {"form": "height", "share": 50, "other": 90})).result
    share = up.volumes / even
    assert np.corrcoef(share, up.middles[:, 2])[0, 1] < -0.9
    pull = ("pull", {"points": [[0, 0, 3]], "reach": 3})
    pulled = made(NET[0], pull, NET[1], ("deepen", {"form": "pulls", "other": 90})).result
    near = np.linalg.norm(pulled.middles - [0, 0, 3], axis=1)
    assert pulled.volumes[np.argmin(near)] < 0.5 * even[np.argmin(near)]
    assert "no pull points" in last(*NET, ("deepen", {"form": "pulls"})).error


def test_a_shell_and_the_skin_behind_it_lie_apart():
    shell = made(*NET, ("deepen", {"form": "even", "made_as": "one", "depth": 0.3})).result
    skin = made(
        *NET, ("deepen", {"made_as": "one", "material": "glass", "depth": 0.012, "away": 0.5})
    ).result
    assert shell.count == skin.count == 1
    assert skin.vertices[:, 2].max() == pytest.approx(3 - 0.5, abs=0.02)
    assert skin.masses.sum() == pytest.approx(2500 * skin.volumes.sum())


def test_depth_without_room_and_radii_too_large_are_told():
    assert "run into each other" in last(*NET, ("deepen", {"depth": 9})).error
    (notice,) = made(*NET, ("deepen", {"form": "even", "radius": 4})).warnings
    assert "no room for a radius of 4 m" in notice.text
    assert notice.at


def test_edges_in_the_way_of_a_depth_are_merged_by_the_remedy():
    dome = ("dome", {"span": 6, "rise": 2})
    cells = ("pattern", {"pattern": "voronoi", "density": "module", "module": 0.7, "rounds": 0})
    deep = ("deepen", {"form": "even", "radius": 0.02, "depth": 0.1})
    found = last(dome, cells, deep)
    (remedy,) = found.remedies
    assert remedy.kind == "merge"
    assert "fold over" in found.error
    mended = last(dome, cells, (remedy.kind, remedy.values), deep)
    # Merging leaves other edges, which are told likewise until none is in the way.
    for _ in range(4):
        if mended.status == "done":
            break
        (remedy,) = mended.remedies
        mended = last(dome, cells, (remedy.kind, remedy.values), deep)
    assert mended.status == "done", mended.error


def sheets(*rows, base="glass"):
    found = made(*VAULT, ("panels", {}), *rows)
    names = np.array([sheet.material for sheet in found.result.sheets])
    return found, names[found.result.sheet_of]


def test_shares_are_taken_one_after_the_other_of_what_is_left():
    first = ("give-sheet", {"share": 30} | ALU)
    found, of = sheets(first, ("give-sheet", {"share": 40, "material": "plywood"}))
    assert [(of == name).sum() for name in ("aluminium", "plywood", "glass")] == [30, 40, 30]
    assert found.figures["panels_of_1"].value == 30
    assert not found.warnings
    more, _ = sheets(first, ("give-sheet", {"share": 80, "material": "plywood"}))
    assert "only 70 % have no sheet" in more.warnings[0].text
    _, over = sheets(first, ("give-sheet", {"share": 80, "among": "all", "material": "plywood"}))
    assert (over == "plywood").sum() == 80


def test_panels_are_chosen_by_slope_facing_size_and_marks():
    found, steep = sheets(("give-sheet", {"which": "steep", "slope": 50} | ALU))
    _, level = sheets(("give-sheet", {"which": "level", "slope": 50} | ALU))
    assert 0 < (steep == "aluminium").sum() < 100
    assert ((steep == "aluminium") == (level == "glass")).all()
    _, faces = sheets(("give-sheet", {"which": "facing", "azimuth": 0, "within": 60} | ALU))
    middles = found.result.places[found.result.corners.reshape(-1, 4)].mean(axis=1)
    assert ((faces == "aluminium") == (middles[:, 0] > 0.3)).all()
    mark = ("mark-cells", {"where": "border", "mark": "second"})
    marked = made(
        *VAULT, mark, ("panels", {}), ("give-sheet", {"which": "marked", "mark": "second"} | ALU)
    )
    assert (marked.result.sheet_of == 1).sum() == 36
    none = made(*VAULT, ("panels", {}), ("give-sheet", {"which": "large", "area": 50} | ALU))
    assert "No panel is so" in none.warnings[0].text


def test_masses_types_and_parts_follow_the_sheets():
    found, of = sheets(("give-sheet", {"share": 30} | ALU))
    panels = found.result
    density = np.where(of == "glass", 2500.0, 2700.0)
    assert panels.masses == pytest.approx(panels.areas * panels.thicknesses * density)
    nested = made(
        *VAULT, ("panels", {}), ("give-sheet", {"share": 30} | ALU), ("set-out", {})
    ).result
    grades = {part.grade for part in nested.layout.parts}
    assert grades == {("glass", 12.0), ("aluminium", 3.0)}


@functools.cache
def demo(name):
    statement = read_statement((DEMO / f"{name}.json").read_bytes())

    def open_file(wanted, digest, file):
        return open_brought(wanted, file, statement.files[digest].bytes())

    found = {o.id: o for o in evaluate(statement, ResultCache(), open_file=open_file)}
    assert {o.status for o in found.values()} == {"done"}, [o.error for o in found.values()]
    return found


def test_openings_of_the_loft_grow_upward_in_front_of_its_glass():
    found = demo("net-loft")
    shell, glass = found["pierced"].result, found["glass"].result
    assert found["pierced"].figures["opening"].value == "30 to 74 % of the cell"
    # Of a band at the foot more is left than of one at the top.
    z = shell.vertices[shell.triangles, 2].mean(axis=1)
    size = np.linalg.norm(shell.whole.triangle_crosses, axis=1)
    assert size[(z > 0.2) & (z < 1.2)].sum() > 1.2 * size[(z > 5.2) & (z < 6.2)].sum()
    assert glass.vertices[:, 1].max() > shell.vertices[:, 1].max()
    assert (shell.materials, glass.materials) == (("concrete",), ("glass",))


def test_the_ice_house_stands_on_its_lintel_and_ends_in_an_eye():
    blocks = demo("ice-house")["blocks"]
    assert blocks.figures["lintels"].value == 1
    assert blocks.result.groups[-1] == "course 13"
    assert blocks.result.vertices[:, 2].max() < 6.0


def test_coffers_of_the_drying_loft_are_equilateral_where_they_are_whole():
    found = demo("drying-loft")
    net = found["triangles"].result
    # Those cut at the border are smaller.
    size = areas(net.vertices, net.corners, net.offsets)
    whole = np.abs(size - np.sqrt(3) / 4 * 1.2**2) < 1e-6
    assert whole.mean() > 0.6
    longest = np.maximum.reduceat(net.edge_lengths[net.sides], net.offsets[:-1])
    assert np.abs(longest[whole] - 1.2).max() < 1e-6
    panels = found["boards"].result
    assert panels.flatness.max() == 0
    assert set(np.diff(panels.offsets)) == {3}


def test_each_coffer_of_the_drying_loft_is_folded_of_one_part():
    found = demo("drying-loft-folded")
    folded = found["folded"].result
    assert folded.count == found["tidy"].result.cell_count
    assert folded.off.max() < 1e-4
    assert found["sheets"].figures["parts"].value == folded.count


def test_the_dome_of_terns_has_a_ring_a_cell_and_the_wall_is_one():
    rings = demo("tern-dome")["rings"].result
    assert rings.count == demo("tern-dome")["tidy"].result.cell_count
    assert demo("sluice-wall")["pierced"].result.count == 1


FRAMED = (
    *VAULT,
    ("frame", {"inner": "RHS 120 × 60 × 5", "border": "RHS 140 × 80 × 6"}),
)


FLAT_SQUARES = (
    ("loft", {"profiles": [[[0, 0, 0], [6, 0, 0]], [[0, 6, 0], [6, 6, 0]]]}),
    ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6}),
)


@known("frames of a width b and a depth t about square cells", "t · 4 b (a − b) each")
def test_frames_are_of_one_width_or_told_to_be_narrower():
    values = {"form": "frames", "width": 0.12, "depth": 0.05, "radius": 0}
    found = made(*FLAT_SQUARES, ("deepen", values))
    assert found.result.volumes == approx(np.full(36, 0.05 * 4 * 0.12 * 0.88), rel=1e-9)
    assert not found.warnings
    (notice,) = made(*FLAT_SQUARES, ("deepen", values | {"width": 0.6})).warnings
    assert "36 cells have no room" in notice.text
    assert "1 m across" in notice.text
    assert notice.value == "width"
    assert len(notice.which) == 36


@known("pyramids over the squares of a plane net", "a ∕ 2 · √(a² ∕ 4 + h²) a face")
def test_pyramids_over_cells_have_a_face_a_side_and_stand_on_the_same_members():
    found = made(*FLAT_SQUARES, ("panels", {"form": "pyramids", "rise": 40}))
    panels = found.result
    assert panels.count == 4 * 36 == found.figures["panels"].value
    assert found.figures["split"].value == 0
    # The widest circle in a square of a metre is a metre wide.
    assert panels.areas == approx(np.full(144, 0.5 * np.hypot(0.5, 0.4)), rel=1e-9)
    assert (panels.neighbour >= 0).sum() == 3 * 144 - 24
    framed = (*FLAT_SQUARES, ("frame", {"inner": "SHS 60 × 4", "border": "SHS 60 × 4"}))
    raised = made(*framed, ("panels", {"form": "pyramids", "rise": 40, "joint": 60}))
    assert raised.figures["raised"].value > 0, "on packers above the members of the net below"


def test_pyramids_are_checked_against_nodes_and_tips(tmp_path):
    rows = (*FRAMED, ("panels", {"form": "pyramids", "rise": 15, "joint": 90}), ("set-out", {}))
    statement = clauses(*rows)
    files = set(GROUPS) - {"parts"}
    written = write_pack(tmp_path, statement, list(outcomes(statement).values()), files)
    assert not written.wrong
    table = tmp_path / "panels.csv"
    text = table.read_text()
    tip = re.search(r"[-\d.]+/[-\d.]+/[-\d.]+", text)[0]
    moved = "/".join([*tip.split("/")[:2], f"{float(tip.split('/')[2]) + 0.01:.9f}"])
    table.write_text(text.replace(tip, moved, 1))
    write_manifest(tmp_path, ())
    failing = {finding.check for finding in check_pack(tmp_path) if not finding.passed}
    assert "panels put back lie between their nodes" in failing


def test_panels_between_members_keep_clear_of_the_widest():
    found = made(*FRAMED, ("panels", {"seat": "between", "clear": 10, "height": -6}))
    # Of members that stand upright to the net, those at the border are 80 mm wide; they lean.
    assert 2 * (40 + 10) <= found.figures["joint"].value <= 2 * (40 + 10) + 20
    assert not found.warnings
    tight = made(*FRAMED, ("panels", {"seat": "raised", "height": -6, "joint": 20}))
    assert "members" in tight.warnings[0].text
    alone = last(*VAULT, ("panels", {"seat": "between"}))
    assert alone.status == "failed"
    assert "choose a structure" in alone.error


FILES = set(GROUPS) - {"bodies.step"}
"""Faces of foils are too many for STEP to be written in a test."""


def test_cushions_weigh_what_their_foils_do_and_hold_air(tmp_path):
    rows = (*VAULT, ("cushions", {"thickness": 0.2, "held": 50}))
    statement = clauses(*rows)
    *_, found = outcomes(statement).values()
    solids = found.result
    assert found.figures["volume"].label == "Air"
    assert solids.masses == approx(solids.areas * 0.0002 * 1750)
    assert found.figures["mass"].value == approx(solids.masses.sum())
    written = write_pack(tmp_path, statement, list(outcomes(statement).values()), FILES)
    assert not written.wrong


def test_cushions_that_cannot_be_are_told_with_what_would_work():
    assert "a rise or a sag" in last(*VAULT, ("cushions", {"up": 0, "down": 0})).error
    assert "nothing is left" in last(*VAULT, ("cushions", {"held": 2000})).error
    assert "Mark cells" in last(*VAULT, ("cushions", {"cells": "second"})).error
    (narrow, *_) = last(*NET, ("cushions", {"held": 400})).warnings
    assert "too narrow" in narrow.text
    assert narrow.of == "cell"
    assert narrow.value == "held"


def test_openings_are_cut_square_to_a_thick_shell_and_told_where_they_miss():
    circles = {
        "curves": [["circle", [[1.5, 1.2], [1.9, 1.2]]], ["circle", [[9, 9], [9.4, 9]]]],
        "plane": "front",
    }
    rows = (
        ("dome", {"span": 8, "rise": 4}),
        ("thicken", {"thickness": 0.25, "side": "inside"}),
        ("draw", circles),
        ("openings", {"direction": "wall"}),
        ("solids", {"material": "concrete"}),
    )
    statement = clauses(*rows, on={3: {"shape": "thicken-1", "outlines": "draw-2"}})
    *_, cut, solids = outcomes(statement).values()
    assert cut.status == solids.status == "done", (cut.error, solids.error)
    assert cut.figures["openings"].value == 2
    (missed,) = cut.warnings
    assert "1 of 2 curves (2) meets nothing" in missed.text
    whole = made(*rows[:2], ("solids", {"material": "concrete"})).result.volumes.sum()
    # Carried along y onto a wall that leans, a circle becomes longer by what that leans.
    lean = np.sqrt(1 - (1.5**2 + 1.2**2) / 4**2)
    taken = 2 * 0.25 * np.pi * 0.4**2 / lean
    assert whole - solids.result.volumes.sum() == approx(taken, rel=0.05)
