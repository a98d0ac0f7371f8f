"""Strips: parted, laid flat, with flaps, and folded up."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.flaps import Joint
from leanlattice.core.flat.seams import Room
from leanlattice.core.flat.strips import strips_of
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.nets.insets import raised
from leanlattice.core.nets.rows import RowsError
from leanlattice.core.nets.thinning import without_cells
from leanlattice.core.panels.panels import Sheet
from leanlattice.core.patterns.lay import lay

from ..known import approx, held_to, known
from .nets import SHEET
from .test_rows import grid

PLATE = Sheet("aluminium", 0.002)
WIDE = Room(50.0, 50.0)
PLAIN = Joint(0.0, 0.0, 1.0)


def waved(across, along, height, seed, triangles=False):
    """A grid of squares of 0.6 m whose places go up and down by chance."""
    net = grid(across, along, triangles=triangles)
    places = 0.6 * net.vertices
    places[:, 2] = height * np.random.default_rng(seed).uniform(-1, 1, len(places))
    return build_net(SHEET, places, net.uv, net.corners, net.offsets)


def lifted(strips, flat, piece):
    """Where places (n, 2) of flat pieces (n,) stand, each carried by the triangle it lies in."""
    laid, out = strips.laid, np.empty((len(flat), 3))
    triangles = shapely.polygons(laid.flat[laid.corners])
    for k, (place, own) in enumerate(zip(flat, piece.tolist(), strict=True)):
        mine = np.flatnonzero(laid.piece == own)
        t = mine[np.argmin(shapely.distance(triangles[mine], shapely.Point(place)))]
        out[k] = carried(strips, t, place[None])[0]
    return out


def carried(strips, t, flat):
    """Where flat places (n, 2) in the plane of a triangle stand."""
    corners = strips.laid.corners[t]
    f, p = strips.laid.flat[corners], strips.places[corners]
    shares = np.linalg.solve(np.column_stack([f[1] - f[0], f[2] - f[0]]), (flat - f[0]).T).T
    return p[0] + shares @ (p[1:] - p[0])


@known("strips of a barrel of chords", "as wide as its bays are long, areas of its cells")
def test_strips_of_a_barrel_have_their_widths_and_areas():
    turn = np.linspace(-0.8, 0.8, 9)
    net = grid(8, 4)
    angle = turn[net.vertices[:, 0].astype(int)]
    places = np.column_stack([3 * np.sin(angle), 1.25 * net.vertices[:, 1], 3 * np.cos(angle)])
    net = build_net(SHEET, places, net.uv, net.corners, net.offsets)
    strips = strips_of(net, "short", WIDE, PLAIN, PLATE)
    chord = 2 * 3 * np.sin(0.1)
    assert strips.count == 4
    for part in strips.parts:
        held_to(np.ptp(part.outer, axis=0) - [8000 * chord, 1250], 1e-6)
        assert part.area == approx(8e6 * chord * 1.25, rel=1e-9)
        assert len(part.scores) == 7
    held_to(strips.folds.turns - np.degrees(0.2), 1e-4)
    held_to(strips.off, 1e-4)


@known(
    "strips of fabric cut 2 % shorter and 1 % narrower",
    "0.98 × 0.99 of their areas, and where they stand",
)
def test_strips_that_are_stretched_are_cut_smaller():
    net = waved(5, 3, 0.3, 7)
    full = strips_of(net, "long", WIDE, PLAIN, PLATE)
    fabric = Sheet("PVC", 0.001)
    small = strips_of(net, "long", WIDE, PLAIN, fabric, smaller=(0.02, 0.01))
    for one, other in zip(full.parts, small.parts, strict=True):
        assert other.area == approx(0.98 * 0.99 * one.area, rel=1e-9)
        held_to(np.ptp(other.outer, axis=0) - [0.98, 0.99] * np.ptp(one.outer, axis=0), 1e-6)
        # The first of its triangles stands where it does of full size.
        first = one.outer[:1]
        held_to(other.places(first * [0.98, 0.99]) - one.places(first), 1e-9)
        # Fabric bends of itself.
        assert len(one.scores) > 0 == len(other.scores)
    assert np.array_equal(full.folds.turns, small.folds.turns)
    held_to(small.off - full.off, 1e-12)
    flat, triangles = small.laid.flat, small.laid.corners
    sides = np.linalg.norm(flat[triangles[:, 1]] - flat[triangles[:, 0]], axis=1)
    true = np.linalg.norm(small.places[triangles[:, 1]] - small.places[triangles[:, 0]], axis=1)
    assert (sides / true).min() >= 0.98 - 1e-9
    assert (sides / true).max() <= 0.99 + 1e-9


def test_folds_towards_the_outside_are_scored_with_a_gap():
    net = grid(2, 1)
    up, down = net.vertices + [0, 0, 0], net.vertices.copy()
    up[:, 2], down[:, 2] = -np.abs(net.vertices[:, 0] - 1), np.abs(net.vertices[:, 0] - 1)
    for places, lines in ((up, 1), (down, 2)):
        made = build_net(SHEET, places, net.uv, net.corners, net.offsets)
        strips = strips_of(made, "long", WIDE, PLAIN, PLATE)
        (part,) = strips.parts
        assert len(part.scores) == lines
        length = sum(np.linalg.norm(line[1] - line[0]) for line in part.scores)
        assert length == pytest.approx(1000 if lines == 1 else 2000 / 3)


@settings(deadline=None, max_examples=25)
@given(
    across=st.integers(1, 6),
    along=st.integers(1, 5),
    height=st.floats(0, 0.5),
    seed=st.integers(0, 10**6),
    way=st.sampled_from(["long", "short", "ends", "least", "cells"]),
    room=st.sampled_from([(1.6, 1.0), (3.0, 1.5), (30.0, 20.0)]),
    diameter=st.sampled_from([0.0, 0.005]),
    triangles=st.booleans(),
)
def test_any_net_is_cut_into_strips_that_fit(
    across, along, height, seed, way, room, diameter, triangles
):
    net = waved(across, along, height, seed, triangles)
    joint = Joint(0.03, diameter, 0.12)
    strips = strips_of(net, way, Room(*room), joint, PLATE)
    laid, flaps = strips.laid, strips.flaps
    of = np.full(net.cell_count, -1)
    of[strips.cell] = laid.piece
    assert np.array_equal(of[strips.cell], laid.piece), "each cell lies in one strip"
    assert set(of.tolist()) == set(range(strips.count))
    assert strips.off.max() < 1e-4, "folded up within a tenth of a millimetre"
    assert not len(strips.large)
    area = laid_areas(strips)
    for k, part in enumerate(strips.parts):
        assert shapely.Polygon(part.outer).is_valid
        box = shapely.get_coordinates(shapely.oriented_envelope(shapely.Polygon(part.outer)))
        low, high = sorted(np.linalg.norm(np.diff(box[:3], axis=0), axis=1))
        assert low <= 1000 * room[1] + 1e-6
        assert high <= 1000 * room[0] + 1e-6
        own = laid.piece[flaps.half // 3] == k
        with_flaps = area[k] + shapely.area(shapely.polygons(flaps.corners[own])).sum() * 1e6
        assert shapely.Polygon(part.outer).area == pytest.approx(with_flaps, rel=1e-9)
    assert_holes_meet(strips)


def laid_areas(strips):
    """Areas (S,) of strips without flaps, in mm²."""
    p = strips.laid.flat[strips.laid.corners] * 1000
    one, other = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    cross = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    return np.bincount(strips.laid.piece, cross / 2)


def assert_holes_meet(strips):
    """Holes of flaps, folded onto the triangle beyond, are where the neighbour has its own; and so
    do whole flaps lie within that triangle."""
    flaps, laid = strips.flaps, strips.laid
    there = lifted(strips, flaps.met, laid.piece[flaps.beyond[flaps.hole_of] // 3])
    for k, (half, beyond) in enumerate(
        zip(flaps.half.tolist(), flaps.beyond.tolist(), strict=True)
    ):
        p, q = (strips.places[at[half]] for at in (laid.start, laid.end))
        a, b = (laid.flat[at[half]] for at in (laid.start, laid.end))
        way, flat_way = (q - p) / np.linalg.norm(q - p), (b - a) / np.linalg.norm(b - a)
        corners = strips.places[laid.corners[beyond // 3]]
        third = corners[np.argmax(np.linalg.norm(np.cross(corners - p, way), axis=1))]
        inward = third - p - ((third - p) @ way) * way
        inward /= np.linalg.norm(inward)

        def onto(flat, a=a, p=p, way=way, flat_way=flat_way, inward=inward):
            off = flat - a
            beside = off[:, 0] * flat_way[1] - off[:, 1] * flat_way[0]
            return p + (off @ flat_way)[:, None] * way + beside[:, None] * inward

        own = flaps.hole_of == k
        assert np.allclose(onto(flaps.holes[own]), there[own], atol=1e-7)
        normal = np.cross(way, inward)
        plane = np.stack([way, inward])
        shape = shapely.Polygon((corners - p) @ plane.T)
        flap = shapely.Polygon((onto(flaps.corners[k]) - p) @ plane.T)
        assert np.abs((corners - p) @ normal).max() < 1e-7
        assert shape.buffer(1e-7).contains(flap)


def test_a_dome_goes_in_loops_that_are_parted_where_they_would_lie_over_themselves():
    net = lay(dome(8.0, 3.0, np.zeros(3)), "quads", (24, 6))
    strips = strips_of(net, "loops", WIDE, Joint(0.03, 0.005, 0.15), PLATE)
    rings = np.bincount(strips.laid.piece)
    assert strips.count >= 6
    assert rings.max() <= 48
    assert all(shapely.Polygon(part.outer).is_valid for part in strips.parts)


def test_seams_of_least_cut_are_shorter_than_those_along_rows():
    net = waved(6, 5, 0.2, 3)

    def cut(way):
        strips = strips_of(net, way, Room(1.9, 1.3), PLAIN, PLATE)
        return sum(part.cut_length for part in strips.parts)

    assert cut("least") < min(cut("long"), cut("short"))


def test_cell_by_cell_each_panel_is_folded_where_it_is_not_flat():
    net = waved(4, 3, 0.2, 3)
    strips = strips_of(net, "cells", WIDE, Joint(0.03, 0.005, 0.15), PLATE)
    assert strips.count == net.cell_count
    within = np.bincount(strips.folds.part[strips.folds.within], minlength=strips.count)
    assert np.array_equal(within > 0, net.flatness > 1e-6)
    assert within.max() == 1, "a quad has one fold"
    inner = 2 * np.count_nonzero(~net.border)
    assert len(strips.flaps.half) + len(strips.lapped) == inner / 2, "one flap a seam"


@known("coffers of a pyramid over each square, one part each", "areas of its faces, one fold less")
@pytest.mark.parametrize("top", [0.0, 0.4])
def test_what_was_raised_from_one_cell_is_one_folded_part(top):
    flat = waved(3, 2, 0.0, 1)
    net = raised(flat, np.full(flat.cell_count, 0.2), top)
    strips = strips_of(net, "coffers", WIDE, Joint(0.03, 0.005, 0.15), PLATE)
    assert strips.count == flat.cell_count
    of = np.full(net.cell_count, -1)
    of[strips.cell] = strips.laid.piece
    assert all(len(np.unique(of[net.raised_from == k])) == 1 for k in range(flat.cell_count))
    if top:
        slope = np.hypot(0.3 * (1 - top), 0.2)
        faces = 4 * 0.6 * (1 + top) / 2 * slope + (0.6 * top) ** 2
    else:
        faces = 4 * 0.6 * np.hypot(0.3, 0.2) / 2
    held_to(laid_areas(strips) / (faces * 1e6) - 1, 1e-9)
    within = np.bincount(strips.folds.part[strips.folds.within], minlength=strips.count)
    # All round a top, and round an apex all but where the sheet is slit.
    assert set(within.tolist()) == {4 if top else 3}
    held_to(strips.off, 1e-5)
    assert_holes_meet(strips)


def test_coffers_are_known_where_some_cells_are_left_out_and_no_other_net_has_any():
    flat = waved(3, 2, 0.0, 1)
    net = raised(flat, np.full(flat.cell_count, 0.2), 0.0)
    left = without_cells(net, np.flatnonzero(net.raised_from == 2))
    assert strips_of(left, "coffers", WIDE, PLAIN, PLATE).count == flat.cell_count - 1
    with pytest.raises(RowsError, match="These cells were not raised"):
        strips_of(flat, "coffers", WIDE, PLAIN, PLATE)


def test_a_strip_that_lies_over_itself_is_told_and_the_others_go_on():
    # Four steep faces about a low place turn by more than all round.
    places = np.array([[0, 0, 0.0], [1, 0, 1], [0, 1, -1], [-1, 0, 1], [0, -1, -1], [3, 0, 1]])
    corners = np.array([0, 1, 2, 0, 2, 3, 0, 3, 4, 0, 4, 1, 1, 5, 2], np.int32)
    offsets = np.arange(0, 16, 3, dtype=np.int32)
    net = build_net(SHEET, places, places[:, :2], corners, offsets)
    net = replace(net, raised_from=np.array([0, 0, 0, 0, 1], np.int32))
    strips = strips_of(net, "coffers", WIDE, Joint(0.03, 0.005, 0.15), PLATE)
    assert strips.count == 2
    assert strips.large.tolist() == [0]


def test_strips_bear_their_names_and_those_beyond_their_sides():
    strips = strips_of(waved(4, 2, 0.1, 1), "long", WIDE, PLAIN, PLATE)
    assert strips.labels == ["ST1", "ST2"]
    assert not len(strips.unlabelled)
    assert strips.flat_parts.of == "strip"
