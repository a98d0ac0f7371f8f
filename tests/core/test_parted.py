"""Bodies parted by cells: the pieces fill the body, share nothing, and leave their joints."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.surfaces import dome, loft
from leanlattice.core.patterns.lay import lay
from leanlattice.core.shaping.parted import FoldedCell, parted_by_cells, together
from leanlattice.core.shaping.solids import as_solid, thicken
from leanlattice.core.solids.separate import separated

from ..conftest import surfaces
from ..known import held_to, known


def slab(across, along, thick):
    """A level slab under a net of bays of 1 m."""
    ends = [np.array([[0.0, y, 0.0], [across, y, 0.0]]) for y in (0.0, float(along))]
    surface = loft(ends)
    return lay(surface, "quads", (across, along)), thicken(surface, 0.0, thick)


@known("slab of n × m bays with joints of g", "(1 − g)² t within, (1 − g / 2) a side at the border")
@given(st.integers(2, 4), st.integers(2, 4), st.floats(0.0, 0.3), st.booleans())
def test_pieces_of_a_slab_are_boxes_less_their_joints(n, m, joint, beyond):
    net, body = slab(n, m, 0.4)
    pieces = parted_by_cells(body, net, 0.6, joint, beyond)
    middle = net.cell_means
    # Joints a piece has across and along: one at the border, else two.
    ends = [
        2 - np.isin(np.round(middle[:, k] - 0.5), [0, count - 1]).astype(int)
        for k, count in enumerate((n, m))
    ]
    wanted = (1 - ends[0] * joint / 2) * (1 - ends[1] * joint / 2) * 0.4
    held_to(np.array([piece.volume for piece in pieces]) / wanted - 1, 1e-9)


@known("pieces of thickened surfaces", "fill what they are parted from, and share nothing")
@given(surfaces(), st.sampled_from(["quads", "triangles", "hexagons"]))
@settings(max_examples=6)
def test_pieces_fill_their_body(surface, pattern):
    net, body = lay(surface, pattern, (14, 10)), thicken(surface, 0.03, 0.03)
    try:
        pieces = parted_by_cells(body, net, 0.8, 0.0)
    except FoldedCell:
        return  # what is small and round has no room for such a reach
    solids = [as_solid(piece) for piece in pieces if len(piece.mesh.triangles)]
    held_to(sum(s.volume() for s in solids) / body.volume - 1, 1e-6)
    united = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    held_to(united.volume() / body.volume - 1, 1e-6)


def test_pieces_together_are_as_many_solids():
    net, body = slab(3, 2, 0.4)
    for joint in (0.0, 0.02):
        whole = together(parted_by_cells(body, net, 0.6, joint))
        solids, crumbs = separated(whole, "concrete", "", 0.0)
        assert len(solids.bodies) == 6
        assert not crumbs


def test_pieces_end_at_the_net_where_they_are_to():
    net = lay(dome(10.0, 3.0, np.zeros(3)), "quads", (8, 2))
    body = thicken(net.surface, 0.0, 0.2)
    beyond, within = (
        sum(piece.volume for piece in parted_by_cells(body, net, 0.9, 0.0, is_beyond))
        for is_beyond in (True, False)
    )
    assert beyond == pytest.approx(body.volume, rel=1e-6)
    assert within < 0.97 * body.volume


def test_walls_that_meet_are_told_with_their_cell():
    net = lay(dome(10.0, 5.0, np.zeros(3)), "quads", (8, 3))
    body = thicken(net.surface, 0.0, 0.2)
    with pytest.raises(FoldedCell) as told:
        parted_by_cells(body, net, 7.0, 0.0)
    assert 0 <= told.value.cell < net.cell_count
    with pytest.raises(FoldedCell):
        parted_by_cells(body, net, 0.5, 4.0)


@known(
    "block of a sphere between two meridians and two parallels",
    "Δφ (R³ − r³) / 3 (sin θ₂ − sin θ₁)",
)
def test_blocks_of_a_dome_have_their_closed_form_volume():
    net = lay(dome(10.0, 3.0, np.zeros(3)), "quads", (48, 6))
    radius, thick = (25 + 9) / 6, 0.3
    body = thicken(net.surface, 0.0, thick)
    pieces = parted_by_cells(body, net, 0.8, 0.0)
    volumes = np.array([piece.volume for piece in pieces])
    centre = np.array([0.0, 0.0, 3.0 - radius])
    sine = (net.vertices - centre)[:, 2] / radius
    of_cell = np.split(sine[net.corners], net.offsets[1:-1])
    rise = np.array([np.ptp(own) for own in of_cell])
    wanted = 2 * np.pi / 48 * (radius**3 - (radius - thick) ** 3) / 3 * rise
    within = np.array([own.min() > 1e-9 + sine.min() for own in of_cell])
    held_to(volumes[within] / wanted[within] - 1, 5e-3)
