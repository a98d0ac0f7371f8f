"""Shapes, curves and nets."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from leanlattice.core.geometry.polygons import corner_angles


def last(outcomes, name):
    found = list(outcomes(name).values())[-1]
    assert found.status == "done", found.error
    return found


def test_curves_joined_over_a_gap_are_closed(outcomes):
    joined = outcomes("join_enclosed")["j"]
    assert joined.figures["length"].value == pytest.approx(2.2)
    assert joined.figures["enclosed"].value == pytest.approx(0.10)
    assert last(outcomes, "join_enclosed").figures["volume"].value == pytest.approx(0.10)


def test_corners_between_arcs_are_rounded(outcomes):
    found = outcomes("round_arcs_silent")
    before, after = found["u"].result.curves[0].path, found["r"].result.curves[0].path
    assert before.length == pytest.approx(44.286, abs=1e-3)
    assert after.length < before.length - 0.3
    assert not after.joints
    assert sum(abs(p.radius - 2.0) < 1e-9 for p in after.pieces) == 2


def test_lengths_over_corners_are_whole(outcomes):
    assert outcomes("module_over_corners")["e"].result.lengths[0] == pytest.approx(48.0, abs=1e-9)
    assert last(outcomes, "module_over_corners").figures["module_across"].value == pytest.approx(
        16.0
    )
    assert last(outcomes, "module_over_corners2").figures["module_across"].value == pytest.approx(
        2.0, abs=1e-9
    )


def test_walls_of_a_box_are_laid_with_their_corners(outcomes):
    net = last(outcomes, "walls_of_box").result
    assert net.edge_lengths == pytest.approx(np.full(len(net.edges), 6.0))
    assert net.cell_count == 120
    for corner in ((12, 6), (-12, 6), (12, -6), (-12, -6)):
        assert np.count_nonzero(np.abs(net.vertices[:, :2] - corner).max(axis=1) < 1e-9) == 11


@pytest.mark.parametrize("name", ["hollow_rounded", "hollow_sharp"])
def test_walls_are_of_one_thickness(outcomes, name):
    hollowed = last(outcomes, name).result
    outer = outcomes(name)["e"].result
    count = len(outer.mesh.vertices)
    inner = hollowed.mesh.vertices[count:]
    away = outer.mesh.search.nearest(inner)[2]
    assert away == pytest.approx(np.full(len(inner), 0.4), abs=1e-6)


def test_openings_that_overlap_are_one(outcomes):
    opened = last(outcomes, "openings_overlap")
    assert opened.figures["openings"].value == 1
    curves = outcomes("openings_overlap")["c"].result.curves
    box = outcomes("openings_overlap")["b"].result
    union = shapely.union_all([shapely.Polygon(c.path.polygon(1e-4)) for c in curves])
    assert box.volume - opened.result.volume == pytest.approx(union.area * 1.0, rel=2e-3)


def test_truncated_borders_have_no_slivers(outcomes):
    net = outcomes("truncate_border")["w"].result
    angles = np.degrees(corner_angles(net.vertices, net.corners, net.offsets))
    assert angles.min() > 5.0
