"""Solids: what equal ones are, and openings cut out of them."""

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from leanlattice.core.geometry.meshes import Body, mesh_of_triangles
from leanlattice.core.solids.cut_out import cut_out
from leanlattice.core.solids.solids import solids_of

from ..known import approx, held_to, known
from .test_separate import CUBE, SIDES, boxes

WEDGE = CUBE * [1.0, 0.7, 0.4] + np.outer(CUBE[:, 0] * CUBE[:, 1], [0.0, 0.2, 0.15])
"""A box with one corner pulled out, which no mirror shows as it is."""


def body(places, faces=SIDES):
    return Body(mesh_of_triangles(np.asarray(places, float), faces))


@settings(max_examples=20)
@given(st.integers(0, 10_000), st.floats(-50, 50))
def test_equal_bodies_are_of_one_type_and_mirror_images_of_two(seed, away):
    turn = Rotation.random(random_state=seed).as_matrix()
    moved = body(WEDGE @ turn.T + away)
    mirrored = body((WEDGE * [-1, 1, 1]) @ turn.T, SIDES[:, ::-1])
    larger = body(WEDGE * 1.01)
    made = solids_of([body(WEDGE), moved, mirrored, larger], "limestone")
    assert made.type_of.tolist() == [1, 1, 2, 3]


def test_bodies_that_mirrors_show_as_they_are_are_of_one_type():
    made = solids_of([body(CUBE), body(CUBE * [-1, 1, 1], SIDES[:, ::-1])], "concrete")
    assert made.type_of.tolist() == [1, 1]
    assert made.type_labels() == ["J1", "J1"]


@known(
    "boxes of 1 and 2 m with an opening of half a metre through both", "volumes less 1/4 a metre"
)
def test_openings_are_cut_out_of_what_they_meet():
    solids = solids_of(list(map(body, (CUBE, CUBE * 2 + [0, 0, 1], CUBE + 9))), "concrete")
    through = body(CUBE * [0.5, 0.5, 9] + [0.25, 0.25, -1])
    made, of = cut_out(solids, [through])
    assert of.tolist() == [0, 1, 2]
    held_to(made.volumes - [1 - 0.25, 8 - 0.5, 1], 1e-9)


def test_what_falls_apart_is_in_pieces_and_what_is_taken_is_gone():
    solids = boxes((0, 0, 0, 1), (5, 0, 0, 1))
    plain = solids_of([body(CUBE), body(CUBE + [5, 0, 0])], "concrete", "A")
    both = replace(plain, groups=("left", "right"), group=np.array([0, 1], np.int32))
    slit = body(CUBE * [0.2, 3, 3] + [0.4, -1, -1])
    made, of = cut_out(both, [slit, body(CUBE * 3 + [4, -1, -1])])
    assert of.tolist() == [0, 0]
    assert made.labels == ["AK1", "AK2"]
    assert made.group_labels() == ["left", "left"]
    assert made.volumes == approx([0.4, 0.4])
    assert solids.volume == approx(2)


def test_sizes_are_along_frames():
    turn = Rotation.from_euler("z", 30, degrees=True).as_matrix()
    plain = solids_of([body(WEDGE @ turn.T)], "concrete")
    framed = type(plain)(**(vars(plain) | {"frames": turn.T[None]}))
    held_to(framed.sizes - np.ptp(WEDGE, axis=0), 1e-12)
    assert (plain.sizes[0, :2] > framed.sizes[0, :2]).any()
