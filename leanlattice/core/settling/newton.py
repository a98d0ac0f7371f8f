"""The last of the way to equilibrium: Newton steps, where a form is near enough for them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import scipy
from numpy.typing import NDArray

from .problem import Problem, SettleError, factorised
from .terms import Lengths

__all__ = ["finished", "softest", "stiffened"]

Array = NDArray[np.float64]
STEPS, LOOK, ENOUGH = 14, 3, 0.3
"""At most so many steps; after ``LOOK`` of them the residual must have come down to a share of
``ENOUGH``."""
HALVINGS, DAMPED = 4, 5
RIGID, STAGE, STAGE_STEPS = 0.1, 0.01, 25
"""Loads below this share of what would double the lengths; the residual that does, and the steps
allowed, until stiffer."""
DAMPING = 1e-7


def finished(
    problem: Problem, x: Array, limit: float, check: Callable[[], None]
) -> tuple[Array, float]:
    """A form (V, 3) nearer to equilibrium than ``x``, or ``x`` itself, and its residual.

    Newton's method with the part of each term's stiffness that is never negative, damped and halved
    where a step does not lessen the forces (Nocedal and Wright, 2006, §11.2). Where vertices slide
    they are put back after each step.
    """
    pushed = problem.load(x)
    gradient = problem.gradient(x, pushed)
    first = best = problem.residual(x, gradient, pushed)
    kept, damping = x, DAMPING
    for step in range(STEPS):
        check()
        try:
            x, gradient, pushed, damping = _stepped(problem, x, gradient, pushed, damping)
        except SettleError:
            break
        residual = problem.residual(x, gradient, pushed)
        if not np.isfinite(residual):
            break
        if residual < best:
            kept, best = x, residual
        if residual < limit or (step + 1 >= LOOK and best > ENOUGH * first):
            break
    return kept, best


def stiffened(
    problem: Problem, x: Array, limit: float, check: Callable[[], None]
) -> tuple[Array, float]:
    """The same for lengths that are all but rigid against the load: made soft at first, then ten
    times as stiff each time, each form being near the next one (Crisfield, 1991, on stiffness by
    continuation)."""
    lengths = [t for t in problem.terms if isinstance(t, Lengths)]
    pushed = problem.load(x)
    rigid = max((float(np.median(t.weights * t.steps(x)[1])) for t in lengths), default=0.0)
    share = float(np.linalg.norm(pushed, axis=1).sum()) / max(rigid, 1e-300)
    best = problem.residual(x, problem.gradient(x, pushed), pushed)
    if not 0.0 < share < RIGID:
        return x, best
    full, tried = [t.weights for t in lengths], x
    try:
        while True:
            for t, weights in zip(lengths, full, strict=True):
                t.weights = weights * min(share, 1.0)
            gradient, damping, residual = problem.gradient(tried, pushed), DAMPING, np.inf
            for _ in range(STAGE_STEPS):
                check()
                tried, gradient, pushed, damping = _stepped(
                    problem, tried, gradient, pushed, damping
                )
                residual = problem.residual(tried, gradient, pushed)
                if residual < (STAGE if share < 1.0 else limit):
                    break
            if not residual < (1.0 if share < 1.0 else np.inf) or share >= 1.0:
                break
            share *= 10.0
    except SettleError:
        return x, best
    finally:
        for t, weights in zip(lengths, full, strict=True):
            t.weights = weights
    return (tried, residual) if share >= 1.0 and residual < best else (x, best)


def _stepped(
    problem: Problem, x: Array, gradient: Array, pushed: Array, damping: float
) -> tuple[Array, Array, Array, float]:
    before = problem.energy(x, pushed)
    tried, halving = x, 0
    for _ in range(DAMPED):
        step = _step(problem, x, gradient, damping)
        for halving in range(HALVINGS):
            tried = problem.slid(x + step / 2**halving, x)
            if problem.energy(tried, pushed) <= before + 1e-12 * abs(before):
                load = problem.load(tried)
                return (
                    tried,
                    problem.gradient(tried, load),
                    load,
                    max(damping / (2 if halving else 10), DAMPING),
                )
        damping = max(damping, 1e-6) * 30
    load = problem.load(tried)
    return tried, problem.gradient(tried, load), load, damping


def _free_directions(problem: Problem, x: Array, gradient: Array) -> scipy.sparse.csc_array:
    """Directions (3V, f) in which coordinates are free: axes, and for sliding vertices those along
    what holds them. In a corner it is the way out that the forces lead to, if there is one."""
    if not problem.slides:
        return scipy.sparse.csc_array(
            scipy.sparse.eye_array(3 * problem.count, format="csc")[
                :, np.flatnonzero(problem.free.ravel())
            ]
        )
    basis = np.zeros((problem.count, 3, 3))
    basis[:] = np.eye(3)
    kept = problem.free.copy()
    for slide in problem.slides:
        stiff = slide.across(x[slide.vertices])
        # The full set of right singular vectors; those after the stiff ones are free.
        basis[slide.vertices] = np.linalg.svd(stiff)[2]
        kept[slide.vertices] = np.arange(3) >= stiff.shape[1]
        rows, followed = slide.cornered(x[slide.vertices], -gradient[slide.vertices])
        size = np.linalg.norm(followed, axis=1, keepdims=True)
        at = slide.vertices[rows]
        basis[at, 2] = followed / np.maximum(size, 1e-300)
        kept[at] = np.column_stack([np.zeros((len(rows), 2), bool), size > 0])
    v, k = np.nonzero(kept)
    columns = np.repeat(np.arange(len(v)), 3)
    rows = (3 * v[:, None] + np.arange(3)).ravel()
    return scipy.sparse.csc_array(
        (basis[v, k].ravel(), (rows, columns)), shape=(3 * problem.count, len(v))
    )


def _stiffness(
    problem: Problem, x: Array, gradient: Array, damping: float
) -> tuple[scipy.sparse.csc_array, scipy.sparse.csc_array]:
    """Free directions (3V, f) and the stiffness (f, f) along them, a little of its mean diagonal
    added."""
    whole = scipy.sparse.csr_array((3 * problem.count, 3 * problem.count))
    for t in problem.terms:
        whole = whole + t.stiffness_at(x)
    free = _free_directions(problem, x, gradient)
    reduced = scipy.sparse.csc_array(free.T @ whole @ free)
    mean = float(reduced.diagonal().mean()) if reduced.shape[0] else 0.0
    return free, scipy.sparse.csc_array(
        reduced + damping * max(mean, 1e-12) * scipy.sparse.eye_array(reduced.shape[0])
    )


def _step(problem: Problem, x: Array, gradient: Array, damping: float) -> Array:
    free, stiffness = _stiffness(problem, x, gradient, damping)
    if not stiffness.shape[0]:
        return np.zeros_like(x)
    return np.asarray(-(free @ factorised(stiffness).solve(free.T @ gradient.ravel()))).reshape(
        -1, 3
    )


def softest(problem: Problem, x: Array, rounds: int = 8) -> tuple[Array, float]:
    """The motion (V, 3), its largest 1, that the aims resist least, and its stiffness as a share of
    the mean.

    Where that is next to nothing the motion is a mechanism: it lies in the kernel of the transposed
    equilibrium matrix (Pellegrino and Calladine, 1986). By inverse iteration.
    """
    free, stiffness = _stiffness(problem, x, problem.gradient(x, problem.load(x)), DAMPING)
    mean = float(stiffness.diagonal().mean())
    solver = factorised(stiffness)
    way = np.random.default_rng(1).standard_normal(stiffness.shape[0])
    for _ in range(rounds):
        way = solver.solve(way / np.linalg.norm(way))
    share = max(1 / float(np.linalg.norm(way)) / mean - DAMPING, 0.0)
    motion = np.asarray(free @ way).reshape(-1, 3)
    return motion / max(float(np.linalg.norm(motion, axis=1).max()), 1e-300), share
