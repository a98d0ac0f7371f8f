"""Bodies under and between surfaces."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.geometry.forms import sphere
from leanlattice.core.geometry.meshes import mesh_of_triangles
from leanlattice.core.shaping.bases import between, clear_height, on_level
from leanlattice.core.shaping.facets import surface_mesh
from leanlattice.core.shaping.solids import SolidError

from ..known import approx, known


def field(height, nx=12, ny=9, flipped=False):
    x, y = np.meshgrid(np.linspace(0, 4, nx), np.linspace(0, 3, ny), indexing="ij")
    places = np.column_stack([x.ravel(), y.ravel(), height(x.ravel(), y.ravel())])
    corner = np.arange(nx * ny).reshape(nx, ny)
    a, b, c, d = corner[:-1, :-1], corner[1:, :-1], corner[1:, 1:], corner[:-1, 1:]
    triangles = np.concatenate(
        [np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)]
    )
    return mesh_of_triangles(
        places, (triangles[:, ::-1] if flipped else triangles).astype(np.int32)
    )


@known("bodies on a level", "volume of the prisms between")
@given(
    st.floats(-1, 1),
    st.floats(-1, 1),
    st.floats(-1, 1),
    st.booleans(),
    st.sampled_from([-8.0, 9.0]),
)
@settings(max_examples=30, deadline=None)
def test_a_body_on_a_level_holds_what_lies_between(a, b, c, flipped, level):
    mesh = field(lambda x, y: a * x + b * y + c * np.sin(x * y), flipped=flipped)
    p = mesh.vertices[mesh.triangles]
    plan = np.abs(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])[:, 2]) / 2
    body = on_level(mesh, level)
    assert body.volume == approx(abs((plan * (p[:, :, 2].mean(axis=1) - level)).sum()), rel=1e-9)
    assert body.volume > 0, "its faces look outward"
    assert not body.mesh.loops


@known("bodies between surfaces", "volume of the prisms between")
def test_between_two_surfaces_lies_what_one_has_over_the_other():
    lower, upper = field(lambda x, y: 0.2 * np.sin(x)), field(lambda x, y: 1.5 + 0.1 * y, 17, 5)
    body = between(upper, lower)
    assert body.volume == approx(on_level(upper, -3).volume - on_level(lower, -3).volume, rel=1e-6)
    depth, at = clear_height(upper, lower)
    assert depth == approx(1.3, abs=0.02)
    assert at[1] == approx(0, abs=1e-9)
    assert clear_height(field(lambda x, y: 0 * x + 0.5), field(lambda x, y: x))[0] == approx(-3.5)


def test_a_surface_that_overhangs_has_no_base_and_says_where():
    whole = surface_mesh(sphere(np.zeros(3), 1.0), (24, 12))[0]
    with pytest.raises(SolidError, match="overhangs"):
        on_level(whole, -3)
    turns = np.linspace(0, 4 * np.pi, 60)
    rim = np.column_stack([3 * np.cos(turns), 3 * np.sin(turns), turns / 3])
    ramp = np.vstack([rim * [0.5, 0.5, 1], rim])
    a = np.arange(59)
    strips = np.concatenate(
        [np.stack([a, a + 60, a + 61], -1), np.stack([a, a + 61, a + 1], -1)]
    ).astype(np.int32)
    with pytest.raises(SolidError, match="above itself"):
        on_level(mesh_of_triangles(ramp, strips), -3)
