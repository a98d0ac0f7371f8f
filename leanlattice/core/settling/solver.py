"""Letting a net go: equilibrium between holds, pushes and aims."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_array, csr_array, diags_array, eye_array
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import splu

from .terms import Term

__all__ = ["SettleError", "Settled", "Slide", "settle"]

Array = NDArray[np.float64]
Load = Callable[[Array], Array]
Watch = Callable[[int, float, Array], None]
FAR = 1e3
"""A form so many times larger than it was has no equilibrium that means anything."""
HALVINGS = 12
DAMPING = 1e-7


class SettleError(ValueError):
    """There is no form to settle to, in a sentence; ``vertices`` are those it is about."""

    def __init__(self, text: str, vertices: NDArray[np.integer] | None = None) -> None:
        super().__init__(text)
        self.vertices = vertices if vertices is not None else np.zeros(0, np.int64)


@dataclass(frozen=True, eq=False)
class Slide:
    """Vertices (m,) held exactly on something they slide along: ``onto`` gives the nearest places (m, 3) there and
    ``across`` the unit directions (m, k, 3), k being 1 on a surface and 2 on a curve, in which they cannot move."""

    vertices: NDArray[np.integer]
    onto: Callable[[Array], Array]
    across: Callable[[Array], Array]


@dataclass(eq=False)
class Settled:
    """A form (V, 3) with its ``loads`` (V, 3) in kN, the ``reactions`` (V, 3) its holds give, and the ``residuals`` after
    each step as shares of the load; ``converged`` tells whether the last came below the limit."""

    vertices: Array
    loads: Array
    reactions: Array
    residuals: list[float] = field(default_factory=list)
    converged: bool = False


def settle(
    start: Array, terms: Sequence[Term], load: Load, held: NDArray[np.bool_], slides: Sequence[Slide] = (),
    limit: float = 1e-6, steps: int = 100, watch: Watch | None = None,
) -> Settled:  # fmt: skip
    """Equilibrium of a net: the form at which the pull of all ``terms`` balances the ``load``.

    ``start`` (V, 3) in m; ``load`` gives the nodal loads (V, 3) in kN of a form; ``held`` (V, 3) tells which coordinates
    stay exactly as they are. Newton's method on what the terms store less what the load does, with the part of each term's
    stiffness that is never negative, so that every step leads downhill, and halved steps where one goes too far (Nocedal
    and Wright, 2006, §3.4); force densities alone are solved by the first step (Schek, 1974). Where vertices slide on
    something curved they are put back onto it after each step. Stops when the largest residual at a free coordinate is
    below ``limit`` times the mean load, or after ``steps``; ``watch`` is called after each with the step, the residual and
    the form, and may raise. Raises ``SettleError`` where something is held by nothing, or the form runs away.
    """
    problem = _Problem(start, terms, load, held, slides)
    problem.check()
    x = problem.slid(start.astype(float))
    made = Settled(x, load(x), np.zeros_like(x))
    damping = DAMPING
    for step in range(steps + 1):
        pushed = load(x)
        gradient = problem.gradient(x, pushed)
        residual = problem.share(gradient, x, pushed)
        made.residuals.append(residual)
        if watch is not None:
            watch(step, residual, x)
        if residual < limit:
            made.converged = True
            break
        if not np.isfinite(residual) or np.abs(x - problem.middle).max() > FAR * problem.size:
            raise SettleError(
                "The form runs away without end: nothing balances the load. Hold more, or aim for lengths."
            )
        x, damping = problem.stepped(x, gradient, pushed, damping)
    made.vertices, made.loads = x, load(x)
    made.reactions = np.where(problem.any_held, problem.gradient(x, made.loads), 0.0)
    return made


class _Problem:
    def __init__(
        self, start: Array, terms: Sequence[Term], load: Load, held: NDArray[np.bool_], slides: Sequence[Slide]
    ) -> None:
        self.terms, self.slides, self.held = list(terms), list(slides), held
        self.any_held = held.copy()
        for slide in self.slides:
            self.any_held[slide.vertices] = True
        self.middle = start.mean(axis=0)
        self.size = max(float(np.ptp(start, axis=0).max()), 1e-9)
        self.count = len(start)
        self.plain = all(t.fixed for t in self.terms) and not self.slides
        self.factors: list[tuple[NDArray[np.int64], Any]] | None = None
        off = [t.weights[:, None] * (t.matrix @ start - t.targets(start)) for t in self.terms]
        self.pull = max((float(np.linalg.norm(f, axis=1).mean()) for f in off), default=1.0)

    def check(self) -> None:
        """Raises ``SettleError`` where vertices are joined to nothing that holds them."""
        links = sum((abs(t.matrix).T @ abs(t.matrix) for t in self.terms), csr_array((self.count, self.count)))
        group = connected_components(links, directed=False)[1]
        near = np.zeros(self.count, bool)
        for t in self.terms:
            near[t.anchored] = True
        for axis in range(3):
            alone = np.bincount(group, (self.any_held[:, axis] | near).astype(float)) == 0
            if alone.any():
                loose = np.flatnonzero(alone[group])
                what = "Nothing is held" if len(loose) == self.count else f"{len(loose)} vertices are held by nothing"
                raise SettleError(
                    f"{what} along {'xyz'[axis]}; hold some of them, or let them aim to stay close.", loose
                )

    def gradient(self, x: Array, pushed: Array) -> Array:
        """Forces (V, 3) by which the terms' pull exceeds the load: what holds would have to give."""
        total = -pushed
        for t in self.terms:
            total = total + t.matrix.T @ (t.weights[:, None] * (t.matrix @ x - t.targets(x)))
        return np.asarray(total)

    def share(self, gradient: Array, x: Array, pushed: Array) -> float:
        """The largest residual at a free coordinate, against the mean load, or else against what the terms pulled by at
        first."""
        free = np.where(self.held, 0.0, gradient)
        for slide in self.slides:
            stiff = slide.across(x[slide.vertices])
            at = free[slide.vertices]
            for k in range(stiff.shape[1]):
                at = at - np.einsum("ij,ij->i", at, stiff[:, k])[:, None] * stiff[:, k]
            free[slide.vertices] = at
        scale = float(np.linalg.norm(pushed, axis=1).mean())
        if scale < 1e-12:
            scale = self.pull
        return float(np.abs(free).max(initial=0.0) / max(scale, 1e-12))

    def energy(self, x: Array, pushed: Array) -> float:
        """What all terms store, less what the load does (kNm)."""
        return sum(t.energy(x) for t in self.terms) - float(np.sum(pushed * x))

    def stepped(self, x: Array, gradient: Array, pushed: Array, damping: float) -> tuple[Array, float]:
        """The form after one step, and the damping for the next."""
        if self.plain:
            return x + self._plain_step(gradient), damping
        before = self.energy(x, pushed)
        for _ in range(HALVINGS):
            step = self._newton_step(x, gradient, damping)
            share = 1.0
            for _ in range(4):
                tried = self.slid(x + share * step)
                if self.energy(tried, pushed) <= before + 1e-12 * abs(before):
                    return tried, max(damping / (10 if share == 1 else 2), DAMPING)
                share /= 2
            damping = max(damping, 1e-6) * 30
        return self.slid(x + 1e-3 * step), damping

    def _plain_step(self, gradient: Array) -> Array:
        if self.factors is None:
            total = sum(t.matrix.T @ diags_array(t.weights) @ t.matrix for t in self.terms)
            whole, self.factors = csr_array(total), []
            for axis in range(3):
                free = np.flatnonzero(~self.held[:, axis])
                same = next((f for f in self.factors if np.array_equal(f[0], free)), None)
                self.factors.append(same or (free, _factorised(whole[free][:, free])))
        out = np.zeros_like(gradient)
        for axis, (free, solver) in enumerate(self.factors):
            if solver is not None:
                out[free, axis] = -solver.solve(gradient[free, axis])
        return out

    def _newton_step(self, x: Array, gradient: Array, damping: float) -> Array:
        whole = csr_array((3 * self.count, 3 * self.count))
        for t in self.terms:
            whole = whole + t.stiffness_at(x)
        across = [(s.vertices, s.across(x[s.vertices])) for s in self.slides]
        if across:
            free = _sliding_directions(self.count, self.held, across)
        else:
            free = csc_array(eye_array(3 * self.count, format="csc")[:, np.flatnonzero(~self.held.ravel())])
        reduced = csc_array(free.T @ whole @ free)
        diagonal = reduced.diagonal()
        reduced = reduced + diags_array(damping * max(float(diagonal.mean()), 1e-12) + 0 * diagonal)
        solver = _factorised(reduced)
        step = -(free @ solver.solve(free.T @ gradient.ravel())) if solver is not None else np.zeros(3 * self.count)
        return np.asarray(step).reshape(-1, 3)

    def slid(self, x: Array) -> Array:
        """Sliding vertices put back onto what holds them."""
        x = x.copy()
        for slide in self.slides:
            x[slide.vertices] = slide.onto(x[slide.vertices])
        return x


def _factorised(matrix: Any) -> Any:
    if not matrix.shape[0]:
        return None
    try:
        return splu(
            csc_array(matrix), permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True}, diag_pivot_thresh=0.0
        )
    except RuntimeError:
        raise SettleError(
            "The force densities cancel each other, so that no form balances the load; change the sign or size of some."
        ) from None


def _sliding_directions(
    count: int, held: NDArray[np.bool_], across: list[tuple[NDArray[np.integer], Array]]
) -> csc_array:
    """Directions (3V, f) in which coordinates are free: axes, and for sliding vertices those along what holds them."""
    basis = np.zeros((count, 3, 3))
    basis[:] = np.eye(3)
    kept = ~held
    for vertices, stiff in across:
        for v, s in zip(vertices.tolist(), stiff, strict=True):
            # The full set of right singular vectors; those after the stiff ones are free.
            basis[v] = np.linalg.svd(s)[2]
            kept[v] = np.arange(3) >= len(s)
    v, k = np.nonzero(kept)
    columns = np.repeat(np.arange(len(v)), 3)
    rows = (3 * v[:, None] + np.arange(3)).ravel()
    return csc_array((basis[v, k].ravel(), (rows, columns)), shape=(3 * count, len(v)))
