"""Kernels of settling nets against plain sums over arrays."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.settling.kernels import (
    edge_steps,
    farthest,
    inverted,
    largest,
    mean_size,
    packed,
    pull_lengths,
    relaxed,
    times,
)
from leanlattice.core.settling.terms import Closeness, FairStrands, Lengths

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


@given(SEEDS, st.integers(0, 3))
def test_edges_are_drawn_to_their_lengths_or_to_the_means_of_their_groups(seed, groups):
    random = np.random.default_rng(seed)
    x, edges = random.normal(size=(8, 3)), random.integers(0, 8, (12, 2))
    edges[0] = edges[0, 0]  # one without length
    weights, (least, most) = random.normal(size=12), np.sort(random.random((2, 12)) * 2, axis=0)
    out = random.normal(size=(8, 3))
    wanted_out = out.copy()
    step = x[edges[:, 1]] - x[edges[:, 0]]
    size = np.maximum(np.linalg.norm(step, axis=1), 1e-12)
    group = np.arange(12 if groups else 0, dtype=np.int32) % max(groups, 1)
    means = [size[group == k].mean() for k in range(groups)]
    wanted = np.array(means)[group] if groups else np.clip(size, least, most)
    force = (weights * (size - wanted) / size)[:, None] * step
    np.add.at(wanted_out, edges[:, 1], force)
    np.subtract.at(wanted_out, edges[:, 0], force)
    pull_lengths(x, edges, weights, least, most, group, out)
    assert np.allclose(out, wanted_out, atol=1e-9)


def test_no_edges_pull_nothing():
    out = np.ones((2, 3))
    none = np.zeros(0)
    edges, group = np.zeros((0, 2), np.int32), np.zeros(0, np.int32)
    pull_lengths(np.zeros((2, 3)), edges, none, none, none, group, out)
    assert (out == 1).all()


@given(SEEDS)
def test_the_largest_force_is_one_that_can_move_something(seed):
    random = np.random.default_rng(seed)
    force, free = random.normal(size=(9, 3)), random.random((9, 3)) < 0.5
    assert largest(force, free) == np.abs(np.where(free, force, 0.0)).max()
    assert np.isclose(mean_size(force), np.linalg.norm(force, axis=1).mean())


@given(SEEDS, st.sampled_from([np.nan, np.inf, -np.inf]))
def test_a_form_that_is_lost_lies_without_end_away(seed, lost):
    random = np.random.default_rng(seed)
    places, middle = random.normal(size=(6, 3)), random.normal(size=3)
    assert farthest(places, middle) == np.abs(places - middle).max()
    places[random.integers(6), random.integers(3)] = lost
    assert farthest(places, middle) == np.inf


@pytest.mark.parametrize(
    ("term", "joined"),
    [
        (Lengths(np.array([[0, 1], [3, 2]]), 4, np.ones(2), np.ones(2), np.ones(2)), [0, 0, 2, 2]),
        (FairStrands(np.array([[0, 1, 3]]), 4, 1.0), [0, 0, 2, 0]),
        (Closeness(np.array([1, 3]), 4, 1.0, np.zeros((2, 3))), [0, 1, 2, 3]),
    ],
)
def test_what_an_aim_joins(term, joined):
    group = list(range(4))
    for a, b in term.links:
        group = [group[a] if g == group[b] else g for g in group]
    assert [group.index(g) for g in group] == joined
