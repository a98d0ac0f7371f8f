"""Flat parts, lettering and sheets."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.cutting import Cutting, not_cut, outlines, tabs_along
from leanlattice.core.flat.lettering import lettered
from leanlattice.core.flat.neighbours import Neighbours
from leanlattice.core.flat.nesting import TURNS, Nest, Sheet, nest, score
from leanlattice.core.flat.parts import Part, panel_parts
from leanlattice.core.flat.searching import nest_better
from leanlattice.core.flat.sheets import Kept, Stock, placed, stock_of_slot
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.panels.panels import panel_net
from leanlattice.core.patterns.lay import lay

from ..conftest import roof, surfaces
from ..known import approx, held_to, known


def parts_of(surface, pattern, joint, tolerance=0.004):
    panels = panel_net(lay(surface, pattern, (5, 6)), tolerance, "glass", 0.01, joint)
    return panels, panel_parts(panels, [f"P{i}" for i in range(panels.count)])


@known("triangles flattened", "every side as in space; pose puts it back")
@given(surfaces(), st.sampled_from(["triangles", "alternating"]))
def test_triangles_are_flattened_exactly(surface, pattern):
    panels, made = parts_of(surface, pattern, 0.0)
    size = areas(panels.places, panels.corners, panels.offsets)
    assert all(size[i] < 2e-6 for i in made.missing)
    kept = [i for i in range(panels.count) if i not in made.missing]
    for i, part in zip(kept, made.parts, strict=True):
        corners = panels.places[panels.corners[panels.offsets[i] : panels.offsets[i + 1]]]
        for k in range(3):
            flat = np.linalg.norm(part.outer[k] - part.outer[k - 1])
            assert flat == approx(
                1000 * np.linalg.norm(corners[k] - corners[k - 1]), rel=1e-9, abs=1e-5
            )
        back = np.column_stack([part.outer, np.zeros(3), np.ones(3)]) @ part.pose.T
        # Of a sliver metres long and a micrometre wide, too.
        held_to(np.abs(back[:, :3] - corners).max(), 1e-7)


@known("panels held back by half a joint", "distance of every side from the cell's")
@given(st.floats(0.001, 0.06))
def test_panels_keep_half_the_joint_from_every_side(joint):
    panels, bare = parts_of(roof(), "diagrid", 0.0)
    _, made = parts_of(roof(), "diagrid", joint)
    assert len(made.parts) == panels.count
    for whole, part in zip(bare.parts, made.parts, strict=True):
        rim = shapely.LinearRing(whole.outer)
        inner = shapely.Polygon(part.outer)
        assert inner.within(shapely.Polygon(whole.outer))
        assert rim.distance(inner) == approx(joint * 500, abs=1e-6)
        sides = [
            shapely.LineString([part.outer[k - 1], part.outer[k]]).distance(rim)
            for k in range(len(part.outer))
        ]
        assert sides == approx([joint * 500] * len(sides), abs=1e-6)


def test_panels_too_small_for_their_joint_are_told():
    panels, made = parts_of(roof(), "diagrid", 1.9)
    assert len(made.missing)
    assert sorted([*made.source, *made.missing]) == list(range(panels.count))


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


def part(outer, *inner, label="P"):
    return Part(
        label,
        "rib",
        np.asarray(outer, float),
        np.eye(4),
        "plywood",
        10.0,
        tuple(np.asarray(h, float) for h in inner),
    )


def lying(layout):
    return [
        shapely.Polygon(placed(p.outer, a, s), [placed(h, a, s) for h in p.inner])
        for p, a, s in zip(layout.parts, layout.angle, layout.shift, strict=True)
    ]


def check_layout(layout):
    """Nothing overlaps, leaves its sheet or comes closer than the spacing."""
    shapes = lying(layout)
    for i in np.flatnonzero(layout.sheet >= 0):
        stock = layout.stock(layout.sheet[i])
        room = shapely.box(
            stock.margin, stock.margin, stock.width - stock.margin, stock.height - stock.margin
        )
        assert room.buffer(1e-6).covers(shapes[i])
    for i, j in itertools.combinations(np.flatnonzero(layout.sheet >= 0), 2):
        if layout.sheet[i] == layout.sheet[j]:
            assert shapes[i].distance(shapes[j]) >= layout.stocks[0].spacing - 1e-6
            assert shapes[i].intersection(shapes[j]).area < 1e-6


@known(
    "nested random polygons with openings, any turns, grain",
    "no overlap, spacing kept, inside the margin; a search never does worse",
)
@given(
    st.lists(polygons, max_size=24),
    st.floats(0, 40),
    st.floats(0, 60),
    st.sampled_from(sorted(TURNS)),
)
@settings(max_examples=30, deadline=None)
def test_nothing_on_a_sheet_overlaps_or_leaves_it(outlines, spacing, margin, turns):
    parts = [part(o, shapely.affinity.scale(shapely.Polygon(o), 0.6, 0.6, origin="centroid").exterior.coords[:-1], label=f"P{i}")
             for i, o in enumerate(outlines)]  # fmt: skip
    made = Nest(parts, [Stock(2000, 1200, margin, spacing)], turns)
    layout = nest(made)
    check_layout(layout)
    with_grain = turns in ("halves", "none")
    for i in np.flatnonzero(layout.sheet < 0):
        low = shapely.Polygon(parts[i].outer).minimum_rotated_rectangle
        assert with_grain or low.length / 2 > 1200 - 2 * margin
    if with_grain:
        turned = np.degrees(layout.angle[layout.sheet >= 0]) % 360
        assert np.isin(np.round(turned, 6), TURNS[turns][0][1]).all()
    tries = iter(range(12))
    better = nest_better(made, layout, lambda: next(tries, None) is not None, lambda found: None)
    check_layout(better)
    assert score(better) <= score(layout)


@pytest.mark.parametrize("turns", ["quarters", "free"])
def test_the_last_bits_of_outlines_decide_nothing(turns):
    """The same design in another unit or place differs by rounding alone, and lies alike; many of
    its parts are equal, square or both."""
    chance = np.random.default_rng(5)
    corner = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], float)
    kinds = [corner * 250, corner * (400, 150), corner * 180 + [[0, 0], [0, 0], [60, 0], [60, 0]]]
    outlines = [kinds[k % 3] for k in range(30)]
    lies = []
    for noise in (0.0, 1e-9, 1e-9, 1e-9):
        moved = [o + noise * chance.normal(size=o.shape) for o in outlines]
        parts = [part(o, label=f"P{i}") for i, o in enumerate(moved)]
        layout = nest(Nest(parts, [Stock(1500, 1000, 10, 6)], turns))
        lies.append((layout.sheet.tolist(), layout.shift))
    for sheet, shift in lies[1:]:
        assert sheet == lies[0][0]
        assert np.abs(shift - lies[0][1]).max() < 1e-3


def test_parts_thinner_than_a_cell_find_a_place():
    splinters = [part([(0, 0), (900, 0), (x, 1.2)], label=f"s{x}") for x in (100, 400, 700)]
    square = part([(0, 0), (400, 0), (400, 400), (0, 400)], label="square")
    for spacing in (0.0, 20.0):
        layout = nest(Nest([square, *splinters], [Stock(3000, 1500, 20, spacing)], "free"))
        check_layout(layout)
        assert (layout.sheet == 0).all()


@given(st.floats(0, 90), st.floats(0, 90), st.floats(-200, 200), st.floats(-200, 200))
def test_what_is_pushed_keeps_the_spacing_from_what_lies_far_off(before, below, aside, up):
    """Pushed left, down and left again a part comes further than by one push."""
    stock = Stock(2000, 2000, 0, 20)
    square = part([(0, 0), (100, 0), (100, 100), (0, 100)], label="square")
    made = Nest([square, square], [stock])
    sheet = Sheet(0, made.grid(stock))
    turned, at = made.turned(0, 0.0), np.array([500.0, 500.0])
    for there in ((500 - 120 - before, 500 + up), (500 + aside, 500 - 120 - below)):
        sheet.put(0, shapely.box(*there, there[0] + 100, there[1] + 100))
    near = Neighbours(
        sheet.shapes, sheet.boxes, stock, square.shape, 0.0, turned.low, turned.size, 5 * made.cell
    )
    shift = near.pushed(at)
    assert (shift <= at).all()
    lies = shapely.box(*shift, *(shift + 100))
    there = shapely.distance(np.array(sheet.shapes), shapely.box(*at, *(at + 100)))
    if there.min() >= 20:
        assert shapely.distance(np.array(sheet.shapes), lies).min() >= 20 - 1e-6


def test_small_parts_lie_in_openings_of_large_ones():
    square = [(0, 0), (1000, 0), (1000, 900), (0, 900)]
    frame = part(square, [(80, 80), (920, 80), (920, 820), (80, 820)], label="frame")
    few = [part([(0, 0), (300, 0), (300, 200), (0, 200)], label=f"s{i}") for i in range(4)]
    layout = nest(Nest([frame, *few], [Stock(1040, 940, 10, 8)]))
    assert layout.sheet_count == 1
    check_layout(layout)


@pytest.mark.parametrize("turns", ["quarters", "free"])
@pytest.mark.parametrize("lying_too", [True, False])
def test_parts_that_fit_only_upright_are_never_left_out(turns, lying_too):
    """Fewer sheets of fewer parts are no better arrangement."""
    long = [part([(0, 0), (900, 0), (900, 200), (0, 200)], label=f"L{i}") for i in range(5)]
    small = [part([(0, 0), (200, 0), (200, 100), (0, 100)], label="S")] * lying_too
    layout = nest(Nest([*long, *small], [Stock(500, 1000, 10, 5, price=30.0)], turns))
    assert (layout.sheet >= 0).all()
    check_layout(layout)


def test_stock_and_offcuts_are_taken_first_and_no_more_of_them_than_there_are():
    parts = [part([(0, 0), (400, 0), (400, 300), (0, 300)], label=f"P{i}") for i in range(7)]
    stocks = [
        Stock(1000, 700, 10, 5, 0, 30.0),
        Stock(450, 350, 10, 5, 2, 0.0),
        Stock(200, 200, 10, 5, 3, 0.0),
    ]
    layout = nest(Nest(parts, stocks))
    assert [int(s) for s in layout.stock_of] == [1, 1, 0, 0]
    assert (layout.sheet >= 0).all()
    assert stock_of_slot(stocks, 4) == 2
    assert stock_of_slot(stocks, 5) == 0
    assert stock_of_slot(stocks[1:], 5) is None
    none_left = nest(Nest(parts, stocks[1:]))
    assert int((none_left.sheet >= 0).sum()) == 2


def test_pinned_parts_stay_and_those_that_no_longer_fit_find_another_place():
    parts = [part([(0, 0), (400, 0), (400, 300), (0, 300)], label=f"P{i}") for i in range(6)]
    made = Nest(parts, [Stock(1300, 700, 10, 5)])
    first = nest(made)
    at, angle = first.shift.copy(), first.angle.copy()
    at[2], angle[2] = (833.3, 377.7), 0.0
    at[3], angle[3] = (700.0, 300.0), 0.0  # on the one before
    slot, pinned = np.full(6, -1), np.zeros(6, bool)
    slot[[2, 3]], pinned[2] = 0, True
    kept = Kept(slot, angle, at, pinned)
    assert kept.fitting(parts, made.stocks) == [2]
    layout = nest(made, kept)
    check_layout(layout)
    assert layout.shift[2].tolist() == [833.3, 377.7]
    assert layout.pinned.tolist() == [False, False, True, False, False, False]
    tries = iter(range(20))
    better = nest_better(made, layout, lambda: next(tries, None) is not None, lambda found: None)
    assert better.shift[2].tolist() == [833.3, 377.7]
    beyond = Kept(slot, angle, at + 600, pinned)
    assert beyond.fitting(parts, made.stocks) == []


@known("ways beside outlines", "half the tool from them")
def test_a_tool_keeps_half_its_width_beside_outlines_and_leaves_tabs():
    frame = part(
        [(0, 0), (300, 0), (300, 200), (0, 200)], [(50, 50), (250, 50), (250, 150), (50, 150)]
    )
    outer, inner = outlines(frame, Cutting(6.0))
    ring, hole = shapely.Polygon(outer[0]), shapely.Polygon(inner[0])
    assert shapely.Polygon(frame.outer).distance(ring.exterior) == approx(3, abs=0.01)
    assert ring.area == approx(300 * 200 + 3 * 1000 + 9 * np.pi, rel=1e-4)
    assert hole.area == approx(194 * 94, rel=1e-6)
    assert outlines(frame, Cutting(0.0))[0][0] is frame.outer
    assert not_cut(frame, 6.0) == 0
    comb = part(
        [(0, 0), (300, 0), (300, 200), (152, 200), (152, 100), (148, 100), (148, 200), (0, 200)]
    )
    assert not_cut(comb, 6.0) == approx(4 * 100, rel=0.05)
    tabs = list(tabs_along(frame.outer, 8.0, 250.0))
    assert len(tabs) == 4
    for tab in tabs:
        line = shapely.LineString(tab)
        assert line.length == approx(8.0)
        assert shapely.LinearRing(frame.outer).buffer(1e-6).covers(line)
    assert not list(tabs_along(frame.outer, 200.0, 250.0)), "a part all tabs is not cut out"
