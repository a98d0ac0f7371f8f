"""Flat parts, lettering and sheets."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.lettering import lettered
from leanlattice.core.flat.parts import Part, panel_parts
from leanlattice.core.flat.sheets import Stock, placed, set_out_rows
from leanlattice.core.framing.panels import panel_net
from leanlattice.core.patterns.lay import lay

from ..conftest import roof, surfaces


def parts_of(surface, pattern, joint, tolerance=0.004):
    panels = panel_net(lay(surface, pattern, (5, 6)), tolerance, "glass", 0.01, joint)
    return panels, panel_parts(panels, [f"P{i}" for i in range(panels.count)])


@given(surfaces(), st.sampled_from(["triangles", "alternating"]))
def test_triangles_are_flattened_exactly(surface, pattern):
    panels, made = parts_of(surface, pattern, 0.0)
    assert not made.too_small
    for i, part in enumerate(made.parts):
        corners = panels.net.vertices[panels.corners[panels.offsets[i] : panels.offsets[i + 1]]]
        for k in range(3):
            flat = np.linalg.norm(part.outer[k] - part.outer[k - 1])
            assert flat == pytest.approx(1000 * np.linalg.norm(corners[k] - corners[k - 1]), rel=1e-9)
        back = np.column_stack([part.outer, np.zeros(3), np.ones(3)]) @ part.pose.T
        assert np.abs(back[:, :3] - corners).max() < 1e-9


@given(st.floats(0.001, 0.06))
def test_panels_keep_half_the_joint_from_every_side(joint):
    panels, bare = parts_of(roof(), "diagrid", 0.0)
    _, made = parts_of(roof(), "diagrid", joint)
    assert len(made.parts) == panels.count
    for whole, part in zip(bare.parts, made.parts, strict=True):
        rim = shapely.LinearRing(whole.outer)
        inner = shapely.Polygon(part.outer)
        assert inner.within(shapely.Polygon(whole.outer))
        assert rim.distance(inner) == pytest.approx(joint * 500, abs=1e-6)
        sides = [shapely.LineString([part.outer[k - 1], part.outer[k]]).distance(rim) for k in range(len(part.outer))]
        assert sides == pytest.approx([joint * 500] * len(sides), abs=1e-6)


def test_panels_too_small_for_their_joint_are_told():
    panels, made = parts_of(roof(), "diagrid", 1.9)
    assert made.too_small
    assert len(made.parts) + len(made.too_small) == panels.count
    assert all(made.part_of_panel[i] == -1 for i in made.too_small)


def test_lettering_reads_the_right_way_and_stays_inside():
    _, made = parts_of(roof(), "diagrid", 0.016)
    for part in made.parts:
        outline = shapely.Polygon(part.outer)
        assert all(outline.contains_properly(shapely.LineString(m)) for m in part.marks)
        assert len(part.marks) > len(part.label)
    # An L stands on its foot: its long stroke is at the left and its short one below.
    strokes, _ = lettered("L", 10.0, np.zeros(2), 0.0)
    points = np.concatenate(strokes)
    assert points[points[:, 1] > 4][:, 0].max() < 0
    assert points[points[:, 0] > 2][:, 1].max() < 0
    turned, box = lettered("M128", 20.0, np.array([100.0, 50.0]), np.pi / 2)
    assert shapely.Polygon(box).covers(shapely.MultiLineString(turned))
    assert np.ptp(np.concatenate(turned)[:, 0]) == pytest.approx(20)


polygons = st.builds(
    lambda angles, radius, stretch: np.column_stack([np.cos(angles) * radius * stretch, np.sin(angles) * radius]),
    st.lists(st.floats(0, 6.2), min_size=3, max_size=7, unique_by=lambda a: round(a, 1)).map(lambda a: np.sort(a)),
    st.floats(30, 500), st.floats(0.2, 5),
).filter(lambda p: shapely.Polygon(p).is_valid and shapely.Polygon(p).area > 50)  # fmt: skip


@given(st.lists(polygons, max_size=30), st.floats(0, 40), st.floats(0, 60))
def test_nothing_on_a_sheet_overlaps_or_leaves_it(outlines, spacing, margin):
    parts = tuple(Part(f"P{i}", "panel", o, np.eye(4), "glass", 10.0) for i, o in enumerate(outlines))
    stock = Stock(2000, 1200, margin, spacing)
    layout = set_out_rows(parts, stock)
    lying = [shapely.Polygon(placed(p.outer, a, s)) for p, a, s in zip(parts, layout.angle, layout.shift, strict=True)]
    room = shapely.box(margin, margin, 2000 - margin, 1200 - margin).buffer(1e-6)
    for i, shape in enumerate(lying):
        if layout.sheet[i] >= 0:
            assert room.covers(shape)
        else:
            low = shapely.Polygon(parts[i].outer).minimum_rotated_rectangle
            assert low.length / 2 > 1200 - 2 * margin
    for i, j in itertools.combinations(np.flatnonzero(layout.sheet >= 0), 2):
        if layout.sheet[i] == layout.sheet[j]:
            assert lying[i].distance(lying[j]) >= spacing - 1e-6
            assert lying[i].intersection(lying[j]).area < 1e-6
