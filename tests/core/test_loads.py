"""Pushes on nets: what they come to in all, and where it goes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.polygons import vector_areas
from leanlattice.core.loads import PUSHES, Push
from leanlattice.core.patterns.lay import lay

from ..conftest import roof, surfaces
from ..known import held_to, known

AMOUNTS = st.floats(-5.0, 5.0)


@known("loads on nets in all", "amount × plan, surface or length; pressure × vector area")
@given(surfaces(), st.sampled_from(["quads", "triangles", "diagrid"]), AMOUNTS)
def test_all_of_a_load_goes_somewhere(surface, pattern, amount):
    net = lay(surface, pattern, (5, 4))
    areas = vector_areas(net.vertices, net.corners, net.offsets)
    down = np.array([0.0, 0.0, -amount])
    wanted = {
        "plan": np.abs(areas[:, 2]).sum() * down,
        "surface": np.linalg.norm(areas, axis=1).sum() * down,
        "pressure": areas.sum(axis=0) * amount,
        "edges": net.edge_lengths.sum() * down,
        "points": 2 * down,
    }
    assert wanted.keys() == PUSHES.keys()
    for push, total in wanted.items():
        given_load = Push(push, amount, net.vertices[[3, 7]]).loads(net, net.vertices)
        held_to(given_load.sum(axis=0) - total, 1e-9)


def test_loads_follow_the_form_but_not_where_forces_stand():
    net = lay(roof(), "quads", (4, 4))
    form = net.vertices * [2.0, 1.0, 1.0]
    flat = net.vertices * [1.0, 1.0, 0.0]
    plan = [Push("plan", 1.0).loads(net, x).sum() for x in (net.vertices, form, flat)]
    assert plan == pytest.approx([plan[0], 2 * plan[0], plan[0]])
    surface = [Push("surface", 1.0).loads(net, x).sum() for x in (net.vertices, flat)]
    assert surface[0] < surface[1] < 0
    points = Push("points", 3.0, net.vertices[[5, 5, 9]])
    assert (points.loads(net, form) == points.loads(net, net.vertices)).all()
    assert points.loads(net, form)[[5, 9], 2].tolist() == [-6.0, -3.0]


def test_a_cell_is_borne_by_its_corners_alike():
    net = lay(roof(), "quads", (1, 1))
    loads = Push("plan", 1.0).loads(net, net.vertices)
    assert np.ptp(loads[:, 2]) == pytest.approx(0.0, abs=1e-12)
