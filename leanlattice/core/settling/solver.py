"""Letting a net go: equilibrium between holds, pushes and aims."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from .kernels import inverted, largest, packed, relaxed, times
from .newton import finished, stiffened
from .problem import Load, Problem, Slide, factorised
from .terms import Term

__all__ = ["EVERY", "Settled", "State", "settle"]

Array = NDArray[np.float64]
DRAWN = 40
"""Steps in which vertices are drawn evenly to what they slide on, where they are not there from the
start."""
EVERY, MASS_EVERY = 10, 50
"""Steps after which loads that follow the form, nearest places, and whether the form is lost are
looked at again, and masses. States to go on from are those of such steps."""
EVEN, FIRST_EVEN, MOST_EVEN = 0.03, 0.3, 2.0
"""The share of stiffness that goes to all directions: little makes soft directions quick, more
keeps them stable."""
MASS = 0.6
"""Masses as a share of the stiffness bound; half of it is the least at which unit steps are stable.
"""
STIFFEN_AT, FINISH_FROM, NEAR, FINISH_VERTICES = 50, 400, 0.1, 4000
"""The step at which lengths that are all but rigid are stiffened, and from which Newton steps are
tried, twice as late each time, once the residual is near and where the net is not too large."""


@dataclass(eq=False)
class State:
    """How far a net has settled after ``step`` steps: places and speeds (V, 3), kinetic energy,
    masses (V, 6) and their inverse, packed, the step at which Newton steps are tried next, and the
    residuals so far."""

    step: int
    x: Array
    speed: Array
    energy: float
    mass: Array
    inverse: Array
    pushed: Array
    finish_at: int
    even: float = FIRST_EVEN
    residuals: list[float] = field(default_factory=list)

    def copy(self) -> State:
        return replace(
            self,
            x=self.x.copy(),
            speed=self.speed.copy(),
            pushed=self.pushed.copy(),
            residuals=list(self.residuals),
        )


Watch = Callable[[State], None]


@dataclass(eq=False)
class Settled:
    """A form (V, 3) with its ``loads`` (V, 3) in kN, the ``reactions`` (V, 3) its holds give, and
    the ``residuals`` after each step as shares of the load; ``converged`` tells whether the last
    came below the limit."""

    vertices: Array
    loads: Array
    reactions: Array
    residuals: list[float]
    converged: bool
    problem: Problem

    @property
    def scale(self) -> float:
        """The force in kN that residuals are shares of."""
        return self.problem.scale(self.loads)


def settle(
    start: Array,
    terms: Sequence[Term],
    load: Load,
    held: NDArray[np.bool_],
    slides: Sequence[Slide] = (),
    limit: float = 1e-6,
    steps: int = 2000,
    watch: Watch | None = None,
    state: State | None = None,
) -> Settled:
    """Equilibrium of a net: the form at which the pull of all ``terms`` balances the ``load``.

    ``start`` (V, 3) in m; ``load`` gives the nodal loads (V, 3) in kN of a form; ``held`` (V, 3)
    tells which coordinates stay exactly as they are. Force densities alone are one sparse solve
    (Schek, 1974). Everything else is relaxed with kinetic damping: the net swings freely and is
    stopped whenever it is fastest (Cundall, 1976; Barnes, 1999), each vertex with a mass after the
    stiffness it feels; once it is near, Newton steps finish it where they can. What slides is put
    back onto what holds it after each step. Stops when the largest residual at a free coordinate is
    below ``limit`` times the mean load, or after ``steps``; ``watch`` is called with the state
    after each and may raise. Goes on from ``state`` where one is given, exactly as if it had not
    stopped. Raises ``SettleError`` where something is held by nothing, or the form runs away.
    """
    problem = Problem(start, terms, load, held, slides)
    problem.check()
    if state is None:
        x = (problem.start if problem.plain else start).astype(float)
        state = State(
            0, x, np.zeros_like(x), 0.0, np.zeros(0), np.zeros(0), problem.load(x), STIFFEN_AT
        )
    else:
        state = state.copy()
    (_solve_plain if problem.plain else _relax)(
        problem, state, limit, steps, watch or (lambda state: None)
    )
    x, loads = state.x, problem.load(state.x)
    reactions = problem.reactions(x, loads)
    return Settled(x, loads, reactions, state.residuals, state.residuals[-1] < limit, problem)


def _solve_plain(problem: Problem, state: State, limit: float, steps: int, watch: Watch) -> None:
    """Linear steps: one for given loads, a few where they follow the form."""
    factors: list[tuple[list[int], NDArray[np.int64], Any]] = []
    matrix = scipy.sparse.csr_array(
        sum(t.matrix.T @ scipy.sparse.diags_array(t.weights) @ t.matrix for t in problem.terms)
    )
    while True:
        state.pushed = problem.load(state.x)
        gradient = problem.gradient(state.x, state.pushed)
        state.residuals[state.step :] = [problem.residual(state.x, gradient, state.pushed)]
        watch(state)
        if state.residuals[-1] < limit or state.step >= steps:
            return
        if not factors:
            factors = _by_axis(problem, matrix)
        x = state.x.copy()
        for axes, free, solver in factors:
            rows = free[:, None]
            x[rows, axes] -= solver.solve(gradient[rows, axes])
        problem.refuse_far(x)
        state.x, state.step = x, state.step + 1


def _by_axis(
    problem: Problem, matrix: scipy.sparse.csr_array
) -> list[tuple[list[int], NDArray[np.int64], Any]]:
    """Axes along which the same vertices are free, these, and the factors of their matrix."""
    out: list[tuple[list[int], NDArray[np.int64], Any]] = []
    for axis in range(3):
        free = np.flatnonzero(problem.free[:, axis])
        same = next((axes for axes, others, _ in out if np.array_equal(others, free)), None)
        if same is not None:
            same.append(axis)
        elif len(free):
            out.append(([axis], free, factorised(matrix[free][:, free])))
    return out


def _relax(problem: Problem, state: State, limit: float, steps: int, watch: Watch) -> None:
    force, scale = np.zeros_like(state.x), problem.scale(state.pushed)
    while True:
        if state.step % EVERY == 0:
            problem.refuse_far(state.x)
            state.pushed = problem.load(state.x)
            scale = problem.scale(state.pushed)
            problem.refresh(state.x)
        np.negative(state.pushed, out=force)
        for t in problem.terms:
            t.pull(state.x, force)
        problem.along_slides(state.x, force, state.speed)
        residual = largest(force, problem.free) / scale
        if residual < limit:  # with the load of this very form
            state.pushed = problem.load(state.x)
            residual = problem.residual(
                state.x, problem.gradient(state.x, state.pushed), state.pushed
            )
        state.residuals[state.step :] = [residual]
        there = state.step >= DRAWN or not problem.slides
        if state.step % EVERY == 0 or residual < limit or state.step >= steps:
            watch(state)
        if (residual < limit and there) or state.step >= steps:
            return
        if state.step % EVERY == 0 and (_grows(state) or state.step % MASS_EVERY == 0):
            state.mass = packed(MASS * problem.stiffness_bound(state.x, state.even))
            state.inverse = inverted(state.mass)
        if state.step >= state.finish_at and _finish(problem, state, residual, limit, watch):
            continue
        _swing(problem, state, force)


def _grows(state: State) -> bool:
    """Whether the forces grow, so that more care is to be taken at once; less again is taken by and
    by where they lessen."""
    if state.step < 2 * EVERY:
        return False
    before, now = (
        max(state.residuals[k : k + EVERY]) for k in (state.step - 2 * EVERY, state.step - EVERY)
    )
    grows = now > 2 * before
    state.even = float(np.clip(state.even * (4.0 if grows else 0.9), EVEN, MOST_EVEN))
    return grows


def _finish(problem: Problem, state: State, residual: float, limit: float, watch: Watch) -> bool:
    """Tries Newton steps from where the net is; whether they brought it nearer, which then counts
    as one step."""
    first, state.finish_at = state.finish_at == STIFFEN_AT, max(2 * state.finish_at, FINISH_FROM)
    if problem.count > FINISH_VERTICES or (residual > NEAR and not first):
        return False
    x, reached = (stiffened if first else finished)(problem, state.x, limit, lambda: watch(state))
    if reached > residual / 2:
        return False
    state.x, state.energy, state.step = x, 0.0, state.step + 1
    state.speed[:] = 0.0
    state.pushed = problem.load(x)
    return True


def _swing(problem: Problem, state: State, pull: Array) -> None:
    """One step of the swinging net against its ``pull`` (V, 3), stopped where its kinetic energy
    has passed a peak."""
    before = {
        k: state.x[s.vertices].copy() for k, s in enumerate(problem.slides) if s.passed is not None
    }
    energy = relaxed(
        state.x, state.speed, pull, state.mass, state.inverse, problem.free, problem.stride
    )
    if energy < state.energy:
        # Back to about where the energy was largest (Barnes, 1999, eq. 12).
        gain = np.empty_like(pull)
        times(state.inverse, -pull, gain)
        back = 1.5 * state.speed - 0.5 * gain
        state.x -= np.where(problem.free, back, 0.0)
        state.speed[:] = 0.0
        energy = 0.0
    left = max(DRAWN - state.step, 1)
    for k, slide in enumerate(problem.slides):
        at = state.x[slide.vertices]
        at = at + (slide.onto(at) - at) / left
        if slide.passed is not None and left == 1:
            # A corner stops what comes to it; the forces there say whether it goes on.
            rows, corners = slide.passed(before[k], at)
            at[rows] = corners
            state.speed[slide.vertices[rows]] = 0.0
        state.x[slide.vertices] = at
    state.energy, state.step = energy, state.step + 1
