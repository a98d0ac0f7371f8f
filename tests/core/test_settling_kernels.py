"""Kernels of settling nets against plain sums over arrays."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.settling.kernels import edge_steps, inverted, packed, relaxed, times

SEEDS = st.integers(0, 10**6)


def positive(random, count):
    """Symmetric matrices (n, 3, 3) that are stiff in all directions."""
    roots = random.normal(size=(count, 3, 3))
    return roots @ np.swapaxes(roots, 1, 2) + 0.1 * np.eye(3)


@given(SEEDS)
def test_packed_matrices_are_inverted_and_multiplied_like_whole_ones(seed):
    random = np.random.default_rng(seed)
    matrices, vectors = positive(random, 7), random.normal(size=(7, 3))
    inverse = inverted(packed(matrices))
    assert np.allclose(inverse, packed(np.linalg.inv(matrices)), rtol=1e-7, atol=1e-9)
    out = np.empty((7, 3))
    times(packed(matrices), vectors, out)
    assert np.allclose(out, np.einsum("nij,nj->ni", matrices, vectors), atol=1e-12)


@given(SEEDS, st.floats(1e-3, 10.0))
def test_a_step_moves_what_is_free_no_further_than_its_stride_and_tells_its_energy(seed, stride):
    random = np.random.default_rng(seed)
    mass, free = positive(random, 9), random.random((9, 3)) < 0.7
    x, speed, pull = random.normal(size=(3, 9, 3))
    wanted = np.where(free, speed - np.einsum("nij,nj->ni", np.linalg.inv(mass), pull), 0.0)
    size = np.linalg.norm(wanted, axis=1, keepdims=True)
    wanted *= np.minimum(1.0, stride / np.maximum(size, 1e-300))
    before = x.copy()
    energy = relaxed(x, speed, pull, packed(mass), inverted(packed(mass)), free, stride)
    assert np.allclose(x - before, wanted, atol=1e-9)
    assert np.allclose(speed, wanted, atol=1e-9)
    assert np.isclose(energy, np.einsum("ni,nij,nj->", wanted, mass, wanted) / 2, rtol=1e-6)


@given(SEEDS)
def test_steps_along_edges(seed):
    random = np.random.default_rng(seed)
    x, edges = random.normal(size=(8, 3)), random.integers(0, 8, (12, 2))
    difference, length = np.empty((12, 3)), np.empty(12)
    edge_steps(x, edges, difference, length)
    plain = x[edges[:, 1]] - x[edges[:, 0]]
    assert np.allclose(difference, plain)
    assert np.allclose(length, np.maximum(np.linalg.norm(plain, axis=1), 1e-12))
