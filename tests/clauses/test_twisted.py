"""Clauses that twist panels cold, and what they say where that takes too much."""

from __future__ import annotations

import re

import numpy as np
import pytest

from leanlattice.core.panels.outlines import outlines_of_panels
from leanlattice.exchange.kinds.panels import KIND

from .test_shape_clauses import clauses, outcomes

NET = (
    ("saddle", {}),
    ("pattern", {"pattern": "quads", "bays_across": 8, "bays_along": 8}),
)


def panels(*rows, **values):
    given = {"form": "bent", "thickness": 6, "stress": 45} | values
    return list(outcomes(clauses(*NET, ("panels", given), *rows)).values())[-1]


def test_panels_are_bent_up_to_a_stress_and_split_beyond_it():
    bent, some, none = (panels(stress=s).figures for s in (60, 39, 20))
    assert bent["bent"].value == bent["panels"].value == 64
    assert 0 < some["bent"].value < 64 < some["panels"].value
    assert some["twist_stress"].value <= 39
    assert none["bent"].value == 0
    assert none["split"].value == 64
    flat = panels(form="flat").figures
    assert flat["panels"].value == none["panels"].value
    assert "bent" not in flat


def given(thickness, material="glass"):
    sheet = {"which": "all", "thickness": thickness, "material": material}
    return panels(("give-sheet", sheet))


def test_a_thicker_sheet_that_twists_too_far_is_told_and_the_one_that_is_named_does_not():
    thick = given(20)
    (told,) = thick.warnings
    assert told.code == "twisted too far"
    assert len(told.which) == 64
    assert f"{thick.figures['twist_stress'].value:.1f} MPa" in told.text
    thickness = float(re.search(r"([\d.]+) mm thick", told.text).group(1))
    assert not given(thickness).warnings
    assert given(thickness + 0.2).warnings


def test_a_sheet_so_stiff_that_twisting_stretches_it_too_far_is_told_to_be_so_however_thin():
    (told,) = given(0.1, "steel").warnings
    assert told.code == "twisted too far for any sheet"


def test_bent_panels_are_drawn_where_they_stand_with_what_is_cut_out_of_them():
    edges = ("panel-edges", {"corners": "sharp", "holes": "corners", "hole": 40, "rim": 90})
    made = panels(edges, stress=39, joint=0.1, seat="net").result
    told, arrays = KIND.drawn(made)
    assert told["exact"]
    assert told["raised"] == 0
    assert 0 < made.bent.sum() < made.count
    ends, counts = np.cumsum(arrays["counts"]), np.cumsum(arrays["cutCounts"])
    assert counts[-1] == len(arrays["cuts"])
    assert ends[-1] == len(arrays["positions"])
    areas = np.array([p.area for p in outlines_of_panels(made).polygons]) / 1e6
    for k in (int(np.argmax(made.bent)), int(np.argmin(made.bent))):
        places = arrays["positions"][ends[k] - arrays["counts"][k] : ends[k]].astype(float)
        faces = places[arrays["cuts"][counts[k] - arrays["cutCounts"][k] : counts[k]]]
        crosses = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
        assert np.linalg.norm(crosses, axis=1).sum() / 2 == pytest.approx(areas[k], rel=3e-3)
        corners = made.places[made.corners[made.offsets[k] : made.offsets[k + 1]]]
        near = np.linalg.norm(corners[:, None] - places, axis=2).min(axis=1)
        assert near.max() < 1e-3
