"""Bodies taken apart: pieces in their order, voids with what holds them, volumes and middles."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from leanlattice.core.geometry import forms
from leanlattice.core.geometry.meshes import Body, mesh_of_triangles
from leanlattice.core.shaping.solids import boolean
from leanlattice.core.shaping.stacks import bounded_by
from leanlattice.core.solids.separate import separated

from ..known import approx, held_to, known

CUBE = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], float)
SIDES = np.array([
    [0, 2, 1], [1, 2, 3], [4, 5, 6], [5, 7, 6], [0, 1, 4], [1, 5, 4],
    [2, 6, 3], [3, 6, 7], [0, 4, 2], [2, 4, 6], [1, 3, 5], [3, 7, 5],
], np.int32)  # fmt: skip


def boxes(*rows):
    """A body of boxes (x, y, z, size) with faces inward where the size is below 0."""
    places, triangles = [], []
    for k, (*at, size) in enumerate(rows):
        places.append(np.array(at) + abs(size) * CUBE)
        triangles.append(8 * k + (SIDES if size > 0 else SIDES[:, ::-1]))
    return Body(mesh_of_triangles(np.vstack(places), np.vstack(triangles)))


@known("boxes of 1, 2 and 3 m", "volumes, areas, middles and masses in concrete, row by row")
def test_pieces_are_numbered_row_by_row():
    body = boxes((10, 0, 0, 2), (0, 5, 0, 3), (0, 0, 0, 1))
    made, crumbs = separated(body, "concrete", "B")
    assert made.labels == ["BK1", "BK2", "BK3"]
    held_to(made.volumes - [1, 27, 8], 1e-9)
    held_to(made.areas - [6, 54, 24], 1e-9)
    held_to(made.masses - 2500 * np.array([1, 27, 8]), 1e-6)
    held_to(made.middles - [(0.5, 0.5, 0.5), (1.5, 6.5, 1.5), (11, 1, 1)], 1e-9)
    assert crumbs == []


def test_crumbs_are_left_out():
    made, crumbs = separated(boxes((0, 0, 0, 2), (5, 0, 0, 0.1)), "limestone", least=0.5)
    assert [body.volume for body in made.bodies] == approx([8.0])
    assert [body.volume for body in crumbs] == approx([0.001])


@known("a box with a void, and one within the void", "8 less 1, and an eighth by itself")
def test_a_void_stays_with_what_holds_it():
    body = boxes((0, 0, 0, 2), (0.5, 0.5, 0.5, -1), (0.75, 0.75, 0.75, 0.5), (4, 0, 0, 1))
    made, _ = separated(body, "concrete")
    held_to(np.sort(made.volumes) - [0.125, 1, 7], 1e-9)


@known("a ball with a ball-shaped void off its middle", "its centroid by those of both")
def test_middles_of_hollow_solids():
    outer = bounded_by(forms.sphere(np.zeros(3), 2.0))
    inner = bounded_by(forms.sphere(np.array([0.5, 0, 0]), 1.0))
    body = boolean([outer, inner], "difference")
    made, _ = separated(body, "concrete")
    assert len(made.bodies) == 1
    volumes = outer.volume, inner.volume
    wanted = -0.5 * volumes[1] / (volumes[0] - volumes[1])
    held_to(made.middles[0] - (wanted, 0, 0), 2e-3)


@given(st.integers(0, 10**6))
@settings(max_examples=20, deadline=None)
def test_nothing_is_lost_wherever_it_stands(seed):
    body = boxes((0, 0, 0, 2), (0.5, 0.5, 0.5, -1), (3, 1, 0, 1), (0, 5, 2, 0.7))
    turn = Rotation.random(random_state=seed).as_matrix()
    mesh = mesh_of_triangles(body.mesh.vertices @ turn.T + 100.0, body.mesh.triangles)
    made, _ = separated(Body(mesh), "concrete")
    assert made.volumes.sum() == pytest.approx(body.volume, rel=1e-9)
    assert sorted(made.volumes) == pytest.approx([0.343, 1, 7], rel=1e-9)
