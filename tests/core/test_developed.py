"""Faces laid flat: plane, unrolled, opened, and stretched as little as can be."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from leanlattice.core.geometry.developed import laid_flat

from ..known import known

TURNED = np.linalg.qr(np.random.default_rng(3).normal(size=(3, 3)))[0]


def grid(rows, columns):
    """Triangles of a grid of vertices, counter-clockwise."""
    i, j = np.meshgrid(np.arange(rows - 1), np.arange(columns - 1), indexing="ij")
    a = (i * columns + j).ravel()
    b, c, d = a + 1, a + columns + 1, a + columns
    return np.vstack([np.stack([a, b, c], 1), np.stack([a, c, d], 1)]).astype(np.int32)


def shape_of(laid):
    outer, *inner = (laid.places[ring] for ring in laid.rings)
    return shapely.Polygon(outer, inner)


def in_space(laid):
    return laid.at + laid.places @ laid.frame[:2]


def frustum(low, high, height, turn, columns, closed=False):
    """A piece of the skin of a cone, of two rows of vertices: as many chords as told."""
    angle = np.linspace(0, turn, columns, endpoint=not closed)
    ring = np.stack([np.cos(angle), np.sin(angle)], 1)
    p = np.vstack([np.c_[low * ring, 0 * angle], np.c_[high * ring, 0 * angle + height]])
    if not closed:
        return p, grid(2, columns)
    a = np.arange(columns)
    b = (a + 1) % columns
    t = np.vstack([np.stack([a, b, b + columns], 1), np.stack([a, b + columns, a + columns], 1)])
    return p, t.astype(np.int32)


def test_a_plane_face_with_an_opening_keeps_its_place_exactly():
    p = np.array([[0, 0], [4, 0], [4, 3], [0, 3], [1, 1], [2, 1], [2, 2], [1, 2]], float)
    ring = [(0, 1, 5), (0, 5, 4), (1, 2, 6), (1, 6, 5), (2, 3, 7), (2, 7, 6), (3, 0, 4), (3, 4, 7)]
    space = np.c_[p, np.zeros(8)] @ TURNED.T + [5, -2, 9]
    triangles = np.array(ring, np.int32)
    if np.linalg.det(TURNED) < 0:
        triangles = triangles[:, ::-1]
    laid = laid_flat(space, triangles)
    assert shape_of(laid).area == pytest.approx(11)
    assert len(laid.rings) == 2
    assert len(laid.rings[1]) == 4
    assert np.allclose(in_space(laid), space[laid.origin], atol=1e-12)
    assert laid.stretch < 1e-12
    side = laid.places[laid.rings[0]]
    assert np.ptp(side, axis=0) == pytest.approx([4, 3])


@known("the skin of a cone, unrolled", "a sector of its slant heights and 2π sin α")
def test_a_cone_unrolls_to_its_sector():
    slant = np.hypot(1.0, 2.0)  # of 1 m of height, the radius grows by 2 m
    p, t = frustum(2.0, 4.0, 1.0, np.pi, 400)
    laid = laid_flat(p, t)
    assert laid.stretch < 1e-9
    angle = np.pi * 2 / slant
    area = angle / 2 * ((2 * slant) ** 2 - slant**2)
    assert shape_of(laid).area == pytest.approx(area, rel=1e-4)
    # All lie on two arcs about one place.
    outline = laid.places
    far = np.array([outline[:400], outline[400:]])
    x, y, c = np.linalg.lstsq(np.c_[2 * far[0], np.ones(400)], (far[0] ** 2).sum(1), rcond=None)[0]
    radii = np.linalg.norm(far - [x, y], axis=2)
    assert np.allclose(radii, [[slant], [2 * slant]], atol=1e-3)
    assert c is not None


def test_a_tube_is_opened_to_a_rectangle():
    p, t = frustum(1.0, 1.0, 3.0, 2 * np.pi, 60, closed=True)
    laid = laid_flat(p, t)
    assert len(laid.rings) == 1
    assert len(laid.places) == 122
    around = 60 * 2 * np.sin(np.pi / 60)
    assert np.sort(np.ptp(laid.places, axis=0)) == pytest.approx([3.0, around], abs=1e-9)
    assert shape_of(laid).area == pytest.approx(3 * around)
    assert laid.stretch < 1e-9


def test_a_warped_ring_is_not_opened_but_stretched():
    p, t = frustum(1.0, 2.0, 0.02, 2 * np.pi, 40, closed=True)
    p[::2, 2] += 0.02
    laid = laid_flat(p, t[:, ::-1])
    assert len(laid.rings) == 2
    assert 1e-6 < laid.stretch < 0.05


@known("a cap of a sphere, laid flat", "stretched by about a sixth of (size ∕ radius)² at most")
def test_a_cap_of_a_sphere_is_stretched_and_says_so():
    u, v = np.meshgrid(np.linspace(-0.1, 0.1, 9), np.linspace(-0.1, 0.1, 9), indexing="ij")
    p = np.stack([u, v, np.sqrt(1 - u**2 - v**2)], axis=-1).reshape(-1, 3)
    laid = laid_flat(p, grid(9, 9)[:, ::-1])
    assert 1e-4 < laid.stretch < 0.02 / 6 * 2
    assert np.abs(in_space(laid) - p[laid.origin]).max() < 0.02


def test_what_closes_in_itself_or_lies_over_itself_has_no_flat_form():
    tetrahedron = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]], np.int32)
    assert laid_flat(np.vstack([np.zeros(3), np.eye(3)]), tetrahedron) is None
    twice_round = frustum(2.0, 4.0, 0.05, 4 * np.pi, 200)
    assert laid_flat(*twice_round) is None
