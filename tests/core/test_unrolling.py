"""Nets laid flat with openings in their cells, parted between cells."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.seams import Room
from leanlattice.core.flat.unrolling import Pierced, UnrollingError, unrolled_net
from leanlattice.core.geometry.forms import barrel
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.panels.panels import Sheet
from leanlattice.core.patterns.lay import lay

from ..known import approx, held_to, known
from .test_rows import grid

PLATE = Sheet("aluminium", 0.003)
WIDE = Room(100.0, 100.0)


def of_barrel(pattern="quads", bays=(6, 4)):
    """A net on a piece of a cylinder 6 m wide, 2 m high and 5 m long: R = 3.25 m."""
    return lay(barrel(np.zeros(3), 6.0, 2.0, 5.0), pattern, bays)


ARC = 2 * 3.25 * np.arcsin(3 / 3.25)


@known("a piece of a cylinder's skin, unrolled", "arc by length; openings share² of their cells")
def test_a_barrel_is_unrolled_to_its_arc():
    made = unrolled_net(of_barrel(), Pierced(0.6, 0.0), WIDE, PLATE)
    (part,) = made.parts
    size = np.sort(np.ptp(part.outer, axis=0))
    assert size == approx(np.array([5000.0, 1000 * ARC]), rel=1e-4)
    assert made.openings.tolist() == [24]
    whole = shapely.Polygon(part.outer).area
    assert whole - part.area == approx(0.36 * whole, rel=1e-3)
    assert made.stretch[0] < 1e-3


def test_where_corners_stand_is_told():
    made = unrolled_net(of_barrel("hexagons", (4, 3)), Pierced(0.6, 0.1), Room(2.9, 2.4), PLATE)
    assert made.count > 1
    for part, rings in zip(made.parts, made.rings, strict=True):
        assert len(rings) == 1 + len(part.inner)
        for ring in rings:
            # Chords of triangles lie no deeper than their sagitta.
            away = np.hypot(ring[:, 0], ring[:, 2] + 1.25)
            held_to(away - 3.25, 0.01)
        off = part.places(part.outer) - rings[0]
        assert np.linalg.norm(off, axis=1).mean() < 0.3


def test_neighbours_have_the_same_seam():
    made = unrolled_net(of_barrel("hexagons", (6, 6)), None, Room(3.0, 2.0), PLATE)
    assert made.count > 2
    for k, beside in enumerate(made.neighbours):
        for other in beside:
            assert k in made.neighbours[other]
            own = {tuple(p) for p in np.round(made.rings[k][0], 6)}
            assert len(own & {tuple(p) for p in np.round(made.rings[other][0], 6)}) >= 2


def test_what_bends_both_ways_is_stretched():
    cap = unrolled_net(lay(dome(8.0, 2.5, np.zeros(3)), "hexagons", (6, 6)), None, WIDE, PLATE)
    assert cap.stretch.max() > 0.01


def test_a_radius_that_does_not_fit_is_made_smaller_and_told():
    made = unrolled_net(of_barrel(), Pierced(0.5, 5.0), WIDE, PLATE)
    assert made.clamped == 24
    assert len(made.parts[0].inner) == 24


def test_what_is_in_two_pieces_is_refused():
    one = grid(2, 2)
    places = np.vstack([one.vertices, one.vertices + [9, 0, 0]])
    corners = np.concatenate([one.corners, one.corners + len(one.vertices)])
    offsets = np.arange(0, len(corners) + 1, 4)
    two = build_net(one.surface, places, np.zeros((len(places), 2)), corners, offsets)
    with pytest.raises(UnrollingError, match="in 2 pieces"):
        unrolled_net(two, None, WIDE, PLATE)


@settings(deadline=None, max_examples=12)
@given(
    bays=st.tuples(st.integers(1, 6), st.integers(1, 5)),
    room=st.tuples(st.floats(0.5, 6), st.floats(0.5, 3)),
    share=st.floats(0.1, 0.95),
    radius=st.floats(0, 0.3),
)
def test_parts_hold_all_that_the_net_does(bays, room, share, radius):
    net = of_barrel("quads", bays)
    length, width = max(room), min(room)
    made = unrolled_net(net, Pierced(share, radius), Room(length, width), PLATE)
    areas = [shapely.Polygon(part.outer) for part in made.parts]
    assert sum(a.area for a in areas) == pytest.approx(5e6 * ARC, rel=1e-3)
    assert all(shapely.Polygon(part.outer, part.inner).is_valid for part in made.parts)
    assert made.openings.sum() == net.cell_count
    fits = np.array([Room(length, width).takes(part.outer / 1000) for part in made.parts])
    assert np.array_equal(np.flatnonzero(~fits), made.large)
    assert (made.openings[made.large] == 1).all()
