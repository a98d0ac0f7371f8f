"""Tubes that swell: their sizes on the way, what they weigh, and their solids between cuts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.axes import drawn_axes
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.changed import swollen
from leanlattice.core.structure.congruence import member_types
from leanlattice.core.structure.cuts import Cuts
from leanlattice.core.structure.inserted import inserted
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.repeated import Move, moved
from leanlattice.core.structure.solids import member_solids
from leanlattice.core.structure.swelling import CONES, scales_at

from ..conftest import surfaces
from ..known import approx, held_to, known
from . import structures

TUBE = find("CHS 88.9 × 4")
SIZES = st.floats(0.4, 2.0)


def bar(start, middle, end, **further):
    """A tube of 2 m of such sizes."""
    waist = middle - (start + end) / 2
    own = {"path": [0, 1], "scale": [start, end], "waist": waist, "up": (0, 0, 1)}
    return structures.structure([(0, 0, 0), (2, 0, 0)], [own | further])


@known("a tube of sizes 3, 1 and 3 in cones", "the sum of its eight frusta")
def test_a_tube_weighs_what_its_cones_do():
    knots = 1 + 2 * (2 * np.linspace(0, 1, CONES + 1) - 1) ** 2
    frusta = (knots[:-1] ** 2 + knots[:-1] * knots[1:] + knots[1:] ** 2) / 3
    made = bar(3.0, 1.0, 3.0)
    held_to(made.masses / (TUBE.mass * 2) - frusta.mean(), 1e-12)
    # A parabola itself weighs ∫ (1 + 2 u²)² du = 1 + 4 / 3 + 4 / 5.
    assert frusta.mean() == pytest.approx(1 + 4 / 3 + 4 / 5, rel=0.03)


# Largest beside its start, not in its middle.
@example(1.3125, 1.25, 1.0, 0.1)
@given(SIZES, SIZES, SIZES, st.floats(0, 1))
def test_sizes_run_through_those_that_are_given(start, middle, end, share):
    waist = middle - (start + end) / 2
    own = [np.array([v, v, v, v]) for v in (start, end, waist)]
    at = scales_at(*own, np.array([0.0, 0.5, 1.0, share]))
    assert at[:3] == pytest.approx([start, middle, end])
    made = bar(start, middle, end)
    places, scale, _ = drawn_axes(made).of_member(0)
    assert at[3] == pytest.approx(np.interp(2 * share, places[:, 0], scale))
    assert scale.max() <= made.largest_scale[0] + 1e-12


@known("a swelling tube between slanting planes", "the volume of its solid, of 96 sides")
@given(
    SIZES,
    SIZES,
    SIZES,
    st.lists(st.floats(-0.6, 0.6), min_size=4, max_size=4),
    st.floats(-0.1, 0.3),
)
def test_solids_between_planes_weigh_what_is_listed(start, middle, end, slants, level):
    normals = np.array([[-1, *slants[:2]], [1, *slants[2:]]])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    cuts = Cuts(np.arange(2, dtype=np.int32), normals, np.array([-level, -level / 2]))
    made = replace(bar(start, middle, end), cuts=cuts)
    ((_, vertices, triangles),) = member_solids(made, 96, same_area=True)
    p = vertices[triangles]
    volume = np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6
    held_to(volume / (made.masses[0] / TUBE.material.density) - 1, 1e-3)
    beyond = [vertices @ n - n @ made.axis_places[k] - cuts.level[k] for k, n in enumerate(normals)]
    assert np.max(beyond) < 1e-6


@given(
    surfaces(),
    st.sampled_from([Meeting("welded"), Meeting("ball", 0.005, "each", 0.06)]),
    SIZES,
    SIZES,
)
def test_members_of_any_net_weigh_what_their_solids_do(surface, meeting, at_nodes, between):
    base = from_net(lay(surface, "quads", (4, 3)), TUBE, TUBE, "centre", 0.0, meeting)
    every = np.ones(base.count, bool)
    sizes = np.full(len(base.path), at_nodes), np.full(len(base.up), between)
    made = swollen(base, every, *sizes)
    structures.weighs_what_is_listed(made, 6e-3)
    # As large as before, it is what it was before.
    back = swollen(made, every, np.ones(len(base.path)), np.ones(len(base.up)))
    assert back.is_plain.all()
    held_to(back.masses - base.masses, 1e-9)
    held_to(back.set_back - base.set_back, 1e-9)


@given(SIZES, SIZES, SIZES, st.floats(0.05, 1.95), st.floats(0, 2))
def test_a_node_between_leaves_the_parabola_as_it_is(start, middle, end, run, at):
    made = bar(start, middle, end)
    parted = inserted(made, np.zeros(1, np.int32), np.array([run]))
    waist = middle - (start + end) / 2
    u = at / 2
    wanted = start + u * (end - start) + 4 * u * (1 - u) * waist
    places, scale, _ = drawn_axes(parted).of_member(0)
    # Cones are off the parabola by an 8² th part of its waist at most.
    assert np.interp(at, places[:, 0], scale) == approx(wanted, abs=abs(waist) / 64 + 1e-9)


def test_those_that_swell_alike_are_of_one_type():
    def pair(*second):
        own = [{"path": [0, 1], "scale": [1.4, 1.0], "waist": -0.2}]
        own.append({"path": [2, 3], "scale": second[:2], "waist": second[2]})
        return structures.structure([(0, 0, 0), (2, 0, 0), (0, 1, 0), (2, 1, 0)], own)

    assert member_types(pair(1.4, 1.0, -0.2)).tolist() == [1, 1]
    assert member_types(pair(1.0, 1.4, -0.2)).tolist() == [1, 1], "seen from its other end"
    assert member_types(pair(1.4, 1.0, -0.3)).tolist() == [1, 2]


def test_a_mirror_image_swells_as_its_original():
    made = bar(0.5, 1.0, 1.7)
    turned = moved(made, Move(np.diag([-1.0, 1, 1]), np.zeros(3)))
    assert turned.scale.tolist() == [1.7, 0.5]
    held_to(turned.masses - made.masses, 1e-12)
