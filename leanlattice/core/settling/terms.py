"""What a settling net works towards, each aim as rows of a least-squares problem with targets that
follow the form.

A term stands for Σ wᵢ |Aᵢ x − pᵢ|² / 2 with weights in kN/m, places in m, so that its gradient is a
force in kN. For fixed targets that is solved in one step; targets that follow the form are the
nearest that meet the aim (projections onto constraint sets; Bouaziz, Deuss, Schwartzburg, Weise and
Pauly, 2012).
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from .kernels import bound_edges, edge_steps, group_means, pull_edges, pull_lengths

__all__ = [
    "SHORT",
    "Closeness",
    "Densities",
    "EdgeTerm",
    "FairStrands",
    "Forces",
    "Lengths",
    "Term",
    "rows",
]

Array = NDArray[np.float64]
Index = NDArray[np.integer]
SOFT = 1e-3
"""The share of its strength by which an aim holds on to directions it leaves free."""
SHORT = 0.02
"""Edges shorter than this share of the usual count as so long where their stiffness would grow
without bound."""


def rows(columns: Index, factors: Array, count: int) -> scipy.sparse.csr_array:
    """Sparse rows (m, count), row i with ``factors[i]`` at ``columns[i]`` (m, k each)."""
    m, k = columns.shape
    return scipy.sparse.csr_array(
        (np.broadcast_to(factors, (m, k)).ravel(), columns.ravel(), np.arange(0, m * k + 1, k)),
        shape=(m, count),
    )


class Term(ABC):
    """An aim as rows ``matrix`` (m, V) with ``weights`` (m,), and the targets of a form.

    ``name`` says what is aimed for, ``unit`` in what ``gap`` is given, and a gap up to ``fair`` is
    as good as none.
    """

    name: str = ""
    unit: str = "m"
    fair: float = np.inf
    fixed: bool = False
    """Whether targets and weights stay whatever the form, so that one step solves it."""
    matrix: scipy.sparse.csr_array
    weights: Array
    _constant: scipy.sparse.csr_array | None = None

    @property
    def anchored(self) -> Index:
        """Vertices that are drawn to places and so need nothing else to hold them."""
        return np.zeros(0, np.int64)

    @property
    def links(self) -> Index:
        """Pairs of vertices (n, 2) that join all those which share a row."""
        matrix = scipy.sparse.csr_array(self.matrix)
        counts = np.diff(matrix.indptr)
        first = matrix.indices[matrix.indptr[:-1][counts > 0]]
        return np.column_stack([np.repeat(first, counts[counts > 0]), matrix.indices])

    @abstractmethod
    def targets(self, x: Array) -> Array:
        """Targets (m, 3) for the form ``x`` (V, 3)."""

    def pull(self, x: Array, out: Array) -> None:
        """Adds to ``out`` (V, 3) the force in kN by which the aim holds back each vertex."""
        out += self.matrix.T @ (self.weights[:, None] * (self.matrix @ x - self.targets(x)))

    def refresh(self, x: Array) -> None:  # noqa: B027
        """Looks anew at what need not be looked at in each step."""

    @cached_property
    def _bounding(self) -> scipy.sparse.csr_array:
        """|A|ᵀ times the row sums of |A| (V, m): with the rows' stiffness a bound of that at each
        vertex (Gershgorin)."""
        size = abs(self.matrix)
        return scipy.sparse.csr_array(size.T @ scipy.sparse.diags_array(size.sum(axis=1)))

    def stiffness_bound(self, x: Array) -> Array:
        """Stiffness (V, 3, 3) in kN/m of which the block diagonal is nowhere less stiff than the
        whole."""
        return np.asarray(self._bounding @ self.blocks(x).reshape(-1, 9)).reshape(-1, 3, 3)

    @cached_property
    def _spread(self) -> scipy.sparse.csr_array:
        """The rows for all three coordinates (3m, 3V)."""
        return scipy.sparse.csr_array(
            scipy.sparse.kron(self.matrix, scipy.sparse.eye_array(3), format="csr")
        )

    def blocks(self, x: Array) -> Array:
        """Stiffness (m, 3, 3) of each row, none of them negative in any direction."""
        return np.asarray(self.weights[:, None, None] * np.eye(3))

    def stiffness_at(self, x: Array) -> scipy.sparse.csr_array:
        """Stiffness (3V, 3V) of the form, coordinates of a vertex next to each other."""
        if self.fixed and self._constant is not None:
            return self._constant
        count = len(self.weights)
        middle = scipy.sparse.bsr_array(
            (self.blocks(x), np.arange(count), np.arange(count + 1)), shape=(3 * count, 3 * count)
        )
        out = scipy.sparse.csr_array(self._spread.T @ middle.tocsr() @ self._spread)
        if self.fixed:
            self._constant = out
        return out

    def energy(self, x: Array) -> float:
        """What the aim is off by, squared and weighted (kNm), the gradient of which is its pull."""
        off = self.matrix @ x - self.targets(x)
        return float(self.weights @ (off * off).sum(axis=1)) / 2

    def gap(self, x: Array) -> float:
        """How far off the aim is at most, in ``unit``."""
        return float(
            np.sqrt(((self.matrix @ x - self.targets(x)) ** 2).sum(axis=1).max(initial=0.0))
        )


@dataclass(eq=False)
class EdgeTerm(Term):
    """Base of terms on edges: rows are differences of their ends."""

    edges: Index
    count: int
    strength: Array

    def __post_init__(self) -> None:
        self.matrix = rows(self.edges, np.array([-1.0, 1.0]), self.count)
        self.weights = np.broadcast_to(self.strength, len(self.edges)).astype(float)

    @property
    def links(self) -> Index:
        return self.edges

    def steps(self, x: Array) -> tuple[Array, Array]:
        """Differences (m, 3) of the ends and lengths (m,), none of them 0."""
        difference, length = np.empty((len(self.edges), 3)), np.empty(len(self.edges))
        edge_steps(x, self.edges, difference, length)
        return difference, length

    @abstractmethod
    def forces(self, x: Array) -> Array:
        """Tension (m,) in kN, compression below 0."""

    @abstractmethod
    def stiff(self, x: Array) -> tuple[Array, Array]:
        """Stiffness (m,) in kN/m along edges and across them, never below 0."""

    def blocks(self, x: Array) -> Array:
        d, length = self.steps(x)
        u = d / length[:, None]
        along, across = self.stiff(x)
        return np.asarray(
            across[:, None, None] * np.eye(3)
            + (along - across)[:, None, None] * u[:, :, None] * u[:, None, :]
        )

    def stiffness_bound(self, x: Array) -> Array:
        out = np.zeros((self.count, 3, 3))
        bound_edges(x, self.edges, *self.stiff(x), out)
        return out

    def targets(self, x: Array) -> Array:
        d, length = self.steps(x)
        return np.asarray(
            d * (1 - self.forces(x) / np.maximum(self.weights * length, 1e-300))[:, None]
        )

    def scaled(self, factor: float) -> None:
        """Makes its forces so many times larger."""
        self.weights = self.weights * factor
        self._constant = None


@dataclass(eq=False)
class Densities(EdgeTerm):
    """Force densities ``strength`` (kN/m) on edges (Schek, 1974)."""

    name = "force densities"
    fixed = True

    def forces(self, x: Array) -> Array:
        return np.asarray(self.weights * self.steps(x)[1])

    def targets(self, x: Array) -> Array:
        return np.zeros((len(self.edges), 3))

    def stiff(self, x: Array) -> tuple[Array, Array]:
        return np.abs(self.weights), np.abs(self.weights)

    def pull(self, x: Array, out: Array) -> None:
        pull_edges(x, self.edges, self.weights, out)

    def gap(self, x: Array) -> float:
        return 0.0


@dataclass(eq=False)
class Forces(EdgeTerm):
    """Edges with a force of ``strength`` (kN) each, whatever their lengths; below the length
    ``short`` (m) it fades."""

    short: float
    name = "edge forces"

    def forces(self, x: Array) -> Array:
        return np.asarray(self.weights * np.minimum(self.steps(x)[1] / self.short, 1.0))

    def pull(self, x: Array, out: Array) -> None:
        pull_edges(x, self.edges, self.weights / np.maximum(self.steps(x)[1], self.short), out)

    def energy(self, x: Array) -> float:
        length = self.steps(x)[1]
        short = np.minimum(length, self.short)
        return float(self.weights @ (short * short / (2 * self.short) + length - short))

    def stiff(self, x: Array) -> tuple[Array, Array]:
        # Across an edge it acts as a force density; along it the force stays as it is.
        length = np.maximum(self.steps(x)[1], self.short)
        return np.zeros(len(length)), np.maximum(self.weights, 0.0) / length

    def gap(self, x: Array) -> float:
        return 0.0


@dataclass(eq=False)
class Lengths(EdgeTerm):
    """Edges drawn to lengths between ``least`` and ``most`` (m,) in metres, or to the mean of their
    ``group`` (m,), counted from 0, where there are some."""

    least: Array
    most: Array
    group: Index = field(default_factory=lambda: np.zeros(0, np.int32))
    name: str = "lengths"
    unit = "%"
    fair = 2.0

    def wanted(self, length: Array) -> Array:
        """Lengths (m,) aimed for where they are ``length`` (m,)."""
        if len(self.group):
            return np.asarray(group_means(length, self.group))
        return np.clip(length, self.least, self.most)

    def forces(self, x: Array) -> Array:
        length = self.steps(x)[1]
        return np.asarray(self.weights * (length - self.wanted(length)))

    def pull(self, x: Array, out: Array) -> None:
        pull_lengths(x, self.edges, self.weights, self.least, self.most, self.group, out)

    def stiff(self, x: Array) -> tuple[Array, Array]:
        # Across a stretched edge its tension is stiffness too; that of a pressed one would lead
        # uphill.
        length = self.steps(x)[1]
        return self.weights, self.weights * np.clip(1 - self.wanted(length) / length, 0.0, 1.0)

    def strains(self, x: Array) -> Array:
        """How much longer (m,) edges are than aimed for, as a share."""
        length = self.steps(x)[1]
        return np.asarray(length / np.maximum(self.wanted(length), 1e-12) - 1)

    def gap(self, x: Array) -> float:
        return float(np.abs(self.strains(x)).max(initial=0.0)) * 100


class FairStrands(Term):
    """Strands without kinks: three vertices that follow each other in one straight, even line."""

    name = "fair strands"
    fixed = True

    def __init__(self, triples: Index, count: int, strength: float) -> None:
        self.matrix = rows(triples, np.array([1.0, -2.0, 1.0]), count)
        self.weights = np.full(len(triples), strength)

    def targets(self, x: Array) -> Array:
        return np.zeros((self.matrix.shape[0], 3))


class Closeness(Term):
    """Vertices drawn to ``places`` (m, 3)."""

    name = "closeness"
    fixed = True

    def __init__(self, vertices: Index, count: int, strength: float, places: Array) -> None:
        self.vertices, self.places = vertices, places
        self.matrix = rows(vertices[:, None], np.ones(1), count)
        self.weights = np.full(len(vertices), strength)

    @property
    def anchored(self) -> Index:
        return self.vertices

    def targets(self, x: Array) -> Array:
        return self.places
