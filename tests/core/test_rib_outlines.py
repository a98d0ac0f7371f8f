"""Lines along ribs: their upper edges."""

from __future__ import annotations

import numpy as np
import shapely

from leanlattice.core.geometry.line_sets import line_through
from leanlattice.core.ribs.outlines import upper_edges
from leanlattice.core.ribs.parts import Ribs
from leanlattice.core.ribs.plates import Rib

from ..known import held_to, known

X, Y, Z = np.eye(3)


def ribs_of(shape, x, y, unslotted=()):
    rib = Rib("A", 1, 0, 1, shape, np.array([1.0, 2.0, 3.0]), x, y, 0.01)
    return Ribs((rib,), (), "plywood", ("A",), unslotted=unslotted)


def disc(radius, segments=90):
    return shapely.Point(0, 0).buffer(radius, quad_segs=segments)


@known("the upper edge of a rib that is a disc of radius R", "half a circle, π R long")
def test_the_upper_edge_of_a_disc_is_half_a_circle():
    for x, y in ((X, Z), (X, -Z), (Z, Y), ((X + Y) / np.sqrt(2), Z)):
        ((places, normals),) = upper_edges(ribs_of(disc(2.0), x, y))
        line = line_through(places, normals, 1e-6)
        held_to(line.length - 2 * np.pi, 1e-3)
        held_to(line.places[[0, -1], 2] - 3, 1e-9)
        outward = places - [1.0, 2.0, 3.0]
        assert (np.einsum("ij,ij->i", outward, normals) > 0).all()
        assert places[:, 2].max() > 4.99


def test_slots_are_not_followed_and_level_ribs_give_their_whole_outline():
    slotted = disc(2.0) - shapely.box(-0.1, 1.0, 0.1, 3.0)
    ((places, _),) = upper_edges(ribs_of(slotted, X, Z, (disc(2.0),)))
    assert np.abs(np.linalg.norm(places - [1, 2, 3], axis=1) - 2).max() < 1e-3
    ((places, _),) = upper_edges(ribs_of(shapely.box(0, 0, 2, 1), X, Y))
    assert (places[0] == places[-1]).all()
    assert len(places) == 5
    # What stands upright at its sides begins and ends at the top of these.
    ((places, _),) = upper_edges(ribs_of(shapely.box(0, 0, 2, 1), X, Z))
    assert sorted(places.tolist()) == [[1, 2, 4], [3, 2, 4]]
