"""What is to be settled: a net's start, its aims, loads and holds, and the forces of a form."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from .kernels import farthest, largest, mean_size
from .terms import Term

__all__ = ["Load", "Problem", "SettleError", "Slide", "factorised"]

Array = NDArray[np.float64]
Load = Callable[[Array], Array]
STRIDE = 0.2
"""The longest way in one step, in mean distances of neighbours."""
THERE = 1e-9
"""Share of a net's size within which it is where its aims want it."""
FAR = 1e3
"""A form so many times larger than it was has no equilibrium that means anything."""


class SettleError(ValueError):
    """There is no form to settle to, in a sentence; ``vertices`` are those it is about, and
    ``loose_along`` names the axis along which nothing holds them, ``runs_away`` that no load is
    balanced."""

    def __init__(
        self,
        text: str,
        vertices: NDArray[np.integer] | None = None,
        loose_along: str = "",
        runs_away: bool = False,
    ) -> None:
        super().__init__(text)
        self.loose_along, self.runs_away = loose_along, runs_away
        self.vertices = vertices if vertices is not None else np.zeros(0, np.int64)


@dataclass(frozen=True, eq=False)
class Slide:
    """Vertices (m,) held exactly on something they slide along: ``onto`` gives the nearest places
    (m, 3) there and ``across`` the unit directions (m, k, 3), k being 1 on a surface and 2 on a
    curve, in which they cannot move. ``back`` leads (m, 3) away from where it ends, and is 0
    elsewhere. ``out_of`` gives both unit directions (m, 2, 3) out of a corner, and 0 elsewhere."""

    vertices: NDArray[np.integer]
    onto: Callable[[Array], Array]
    across: Callable[[Array], Array]
    back: Callable[[Array], Array] | None = None
    out_of: Callable[[Array], Array] | None = None
    passed: Callable[[Array, Array], tuple[NDArray[np.int64], Array]] | None = None
    """Rows of vertices that pass a corner between two places each, and the corners (k, 3)."""

    def cornered(self, x: Array, motion: Array) -> tuple[NDArray[np.int64], Array]:
        """Rows (k,) of vertices at corners and what of their ``motion`` (m, 3) they can follow (k,
        3): along the one way out that it leads to most, or none, where it holds them in the corner.
        """
        if self.out_of is None:
            return np.zeros(0, np.int64), np.zeros((0, 3))
        ways = self.out_of(x)
        rows = np.flatnonzero(ways.any(axis=(1, 2)))
        out = np.einsum("nkd,nd->nk", ways[rows], motion[rows])
        best = np.argmax(out, axis=1)
        size = np.maximum(np.take_along_axis(out, best[:, None], axis=1), 0.0)
        return rows, size * np.take_along_axis(ways[rows], best[:, None, None], axis=1)[:, 0]


class Problem:
    """``start`` (V, 3) in m with aims ``terms``; ``load`` gives the nodal loads (V, 3) in kN of a
    form; ``held`` (V, 3) tells which coordinates stay exactly as they are."""

    def __init__(
        self,
        start: Array,
        terms: Sequence[Term],
        load: Load,
        held: NDArray[np.bool_],
        slides: Sequence[Slide],
    ) -> None:
        self.terms, self.load, self.slides = list(terms), load, list(slides)
        self.held, self.free = held, ~held
        self.any_held = held.copy()
        for slide in self.slides:
            self.any_held[slide.vertices] = True
        self.middle = start.mean(axis=0)
        self.size = max(float(np.ptp(start, axis=0).max()), 1e-9)
        self.count = len(start)
        self.stride = STRIDE * self.size / np.sqrt(self.count)
        self.start = self.slid(start.astype(float))
        self.refresh(self.start)

    @property
    def plain(self) -> bool:
        """Whether one linear step solves it for given loads."""
        return all(t.fixed for t in self.terms) and not self.slides

    def check(self) -> None:
        """Raises ``SettleError`` where loads are no numbers, or vertices are joined to nothing that
        holds them."""
        pushed = self.load(self.start)
        if not np.isfinite(pushed).all():
            bad = np.flatnonzero(~np.isfinite(pushed).all(axis=1))
            raise SettleError(
                f"The load on {len(bad)} vertices is not a number; give finite loads.", bad
            )
        links = np.concatenate([np.zeros((0, 2), np.int64), *(t.links for t in self.terms)])
        shape = (self.count, self.count)
        graph = scipy.sparse.coo_array((np.ones(len(links), bool), links.T), shape=shape)
        group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
        near = np.zeros(self.count, bool)
        for t in self.terms:
            near[t.anchored] = True
        for axis in range(3):
            alone = np.bincount(group, (self.any_held[:, axis] | near).astype(float)) == 0
            if alone.any():
                loose = np.flatnonzero(alone[group])
                along = "xyz"[axis]
                text = f"{len(loose)} vertices are held by nothing along {along}"
                raise SettleError(text, loose, loose_along=along)

    def gradient(self, x: Array, pushed: Array) -> Array:
        """Forces (V, 3) by which the terms' pull exceeds the load: what holds would have to
        give."""
        out = -pushed
        for t in self.terms:
            t.pull(x, out)
        return out

    def refresh(self, x: Array) -> None:
        """Lets the aims look anew at what they need not look at in each step."""
        for t in self.terms:
            t.refresh(x)

    def stiffness_bound(self, x: Array, even: float) -> Array:
        """Stiffness (V, 3, 3) in kN/m of which the block diagonal is nowhere less stiff than the
        whole, along what can move.

        A share ``even`` of each vertex's mean stiffness goes to all directions, as edges turn while
        they move.
        """
        bound = sum((t.stiffness_bound(x) for t in self.terms), np.zeros((self.count, 3, 3)))
        mean = (bound[:, 0, 0] + bound[:, 1, 1] + bound[:, 2, 2]) / 3
        mean = np.maximum(mean, 1e-9 * max(float(mean.max()), 1e-300))
        for axis in range(3):
            bound[:, axis, axis] += even * mean
            held = np.flatnonzero(self.held[:, axis])
            bound[held, axis, :] = bound[held, :, axis] = 0.0
            bound[held, axis, axis] = mean[held]
        mean = mean[:, None, None]
        for slide in self.slides:
            stiff = slide.across(x[slide.vertices])
            across = np.einsum("nki,nkj->nij", stiff, stiff)
            along = np.eye(3) - across
            bound[slide.vertices] = (
                along @ bound[slide.vertices] @ along + mean[slide.vertices] * across
            )
        return np.asarray(bound)

    def along_slides(self, x: Array, pull: Array, speed: Array | None = None) -> None:
        """Takes from ``pull`` and ``speed`` (V, 3) what sliding vertices cannot follow, in place;
        what they slide on does not let them beyond its end, either."""
        for slide in self.slides:
            stiff = slide.across(x[slide.vertices])
            back = slide.back(x[slide.vertices]) if slide.back else None
            for vectors, sense in ((pull, 1.0), (speed, -1.0)):
                if vectors is None:
                    continue
                at = vectors[slide.vertices]
                rows, followed = slide.cornered(x[slide.vertices], -sense * at)
                at = at - np.einsum("nkj,nki,ni->nj", stiff, stiff, at)
                if back is not None:
                    beyond = np.maximum(sense * np.einsum("ij,ij->i", at, back), 0.0)
                    at = at - sense * beyond[:, None] * back
                at[rows] = -sense * followed
                vectors[slide.vertices] = at

    @cached_property
    def first_pull(self) -> float:
        """The mean force in kN by which the terms pull at the start, or what they would pull by a
        billionth of the net's size from where they do not: nearer is as good as there."""
        pull = mean_size(self.gradient(self.start, np.zeros_like(self.start)))
        bound = self.stiffness_bound(self.start, 0.0)
        stiffness = float(np.einsum("vii->v", bound).mean()) / 3
        return max(pull, THERE * stiffness * self.size)

    def scale(self, pushed: Array) -> float:
        """What residuals are measured against: the mean load, or else what the terms pulled by at
        first (kN)."""
        mean = mean_size(pushed)
        return max(mean if mean > 1e-12 else self.first_pull, 1e-12)

    def energy(self, x: Array, pushed: Array) -> float:
        """What all terms store, less what the load does (kNm)."""
        return sum(t.energy(x) for t in self.terms) - float(np.sum(pushed * x))

    def residual(self, x: Array, gradient: Array, pushed: Array) -> float:
        """The largest force at a free coordinate that nothing balances, as a share of the scale."""
        if self.slides:
            gradient = gradient.copy()
            self.along_slides(x, gradient)
        return float(largest(gradient, self.free) / self.scale(pushed))

    def slid(self, x: Array, before: Array | None = None) -> Array:
        """Sliding vertices put back onto what holds them, and those that pass a corner on the way
        from ``before`` into that corner: whether they go on is for the forces there to say."""
        x = x.copy()
        for slide in self.slides:
            at = slide.onto(x[slide.vertices])
            if before is not None and slide.passed is not None:
                rows, corners = slide.passed(before[slide.vertices], at)
                at[rows] = corners
            x[slide.vertices] = at
        return x

    def reactions(self, x: Array, pushed: Array) -> Array:
        """What holds give (V, 3) in kN: in all held coordinates what is needed, and where vertices
        slide only what is square to their way, but at ends and in corners."""
        needed = self.gradient(x, pushed)
        out = np.where(self.any_held, needed, 0.0)
        if self.slides:
            along = needed.copy()
            self.along_slides(x, along)
            for slide in self.slides:
                out[slide.vertices] = needed[slide.vertices] - along[slide.vertices]
        return out

    def refuse_far(self, x: Array) -> None:
        """Raises ``SettleError`` where a form is lost."""
        if farthest(x, self.middle) > FAR * self.size:
            text = "the form runs away without end: nothing balances the load"
            raise SettleError(text, runs_away=True)


def factorised(matrix: Any) -> Any:
    """Factors of a symmetric sparse matrix; raises ``SettleError`` where it has none."""
    try:
        return scipy.sparse.linalg.splu(
            scipy.sparse.csc_array(matrix),
            permc_spec="MMD_AT_PLUS_A",
            options={"SymmetricMode": True},
            diag_pivot_thresh=0.0,
        )
    except RuntimeError:
        raise SettleError(
            "The force densities cancel each other, so that no form balances the load; change the sign or size of some."
        ) from None
