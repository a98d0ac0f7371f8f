"""The nearest place on a mesh, against all triangles one by one."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.nearest import mesh_search

from ..known import approx, known


def unequal(rng, count):
    """Triangles from a hundredth to a hundred metres long."""
    size = 10 ** rng.uniform(-2, 2, count)
    middle = rng.uniform(-20, 20, (count, 3))
    corners = middle[:, None] + size[:, None, None] * rng.normal(size=(count, 3, 3))
    return corners.reshape(-1, 3), np.arange(3 * count).reshape(-1, 3)


def sampled_distance(corners, place):
    """The least distance from any triangle, each sampled densely and then more densely about its nearest place."""
    best = np.inf
    for a, b, c in corners:
        low, high = np.zeros(2), np.ones(2)
        for _ in range(9):
            u, v = (
                k.ravel()
                for k in np.meshgrid(
                    *(np.linspace(x, y, 13) for x, y in zip(low, high, strict=True))
                )
            )
            inside = u + v <= 1 + 1e-12
            u, v = u[inside], v[inside]
            away = np.linalg.norm(a + u[:, None] * (b - a) + v[:, None] * (c - a) - place, axis=1)
            k = int(np.argmin(away))
            step = (high - low) / 6
            low, high = np.maximum([u[k], v[k]] - step, 0), np.minimum([u[k], v[k]] + step, 1)
        best = min(best, away[k])
    return best


@known("nearest place on a mesh", "no triangle is nearer, against all of them")
@given(st.integers(0, 10**6), st.integers(1, 60))
def test_it_is_the_nearest_of_all(seed, count):
    rng = np.random.default_rng(seed)
    vertices, triangles = unequal(rng, count)
    search = mesh_search(vertices, triangles)
    points = rng.uniform(-30, 30, (3, 3))
    triangle, share, distance = search.nearest(points)
    assert share.min() >= -1e-12
    assert share.sum(axis=1) == approx(1)
    assert np.linalg.norm(search.places(triangle, share) - points, axis=1) == approx(
        distance, abs=1e-9
    )
    wanted = [sampled_distance(vertices[triangles], p) for p in points]
    assert (distance <= np.array(wanted) * (1 + 1e-9) + 1e-9).all()
    assert distance == approx(wanted, rel=1e-3, abs=1e-3)


def test_places_on_the_mesh_are_their_own():
    rng = np.random.default_rng(3)
    vertices, triangles = unequal(rng, 500)
    share = rng.dirichlet(np.ones(3), 200)
    which = rng.integers(0, 500, 200)
    places = np.einsum("nk,nkd->nd", share, vertices[triangles[which]])
    assert mesh_search(vertices, triangles).nearest(places)[2].max() < 1e-9


def test_a_mesh_without_triangles_is_nowhere_near():
    empty = mesh_search(np.zeros((0, 3)), np.zeros((0, 3), int))
    assert np.isinf(empty.nearest(np.zeros((2, 3)))[2]).all()
