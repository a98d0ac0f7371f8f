"""Coverings as clauses: deepened cells, and panels of several sheets."""

import numpy as np
import pytest

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
