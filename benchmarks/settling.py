"""Settling against the bare sparse algebra it stands on, and as people wait for it."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from scipy.sparse import csc_array, csr_array
from scipy.sparse.linalg import splu

from leanlattice.core.geometry.surfaces import loft
from leanlattice.core.patterns.lay import lay
from leanlattice.core.settling.solver import settle
from leanlattice.core.settling.terms import Densities, Lengths
from leanlattice.statement.document import read_statement
from leanlattice.statement.evaluate import ResultCache, evaluate

__all__ = ["as_people_wait", "force_density", "pictures", "relaxation_step"]

Seconds = Callable[..., list[float]]


def _sheet(n: int) -> Any:
    return lay(
        loft([np.array([[0.0, 0, 0], [60, 0, 0]]), np.array([[0.0, 40, 0], [60, 40, 0]])]),
        "quads",
        (n, n),
    )


def _held(net: Any) -> Any:
    held = np.zeros((len(net.vertices), 3), bool)
    held[net.loop_vertices] = True
    return held


def force_density(seconds: Seconds) -> float:
    """A form of 40,000 vertices against one factorisation and solve of its matrix."""
    net = _sheet(199)
    held, count = _held(net), len(net.vertices)
    loads = np.zeros((count, 3))
    loads[:, 2] = -0.1
    term = Densities(net.edges, count, np.ones(len(net.edges)))
    free = np.flatnonzero(~held[:, 0])
    whole = csr_array(term.matrix.T @ term.matrix)
    matrix, right = csc_array(whole[free][:, free]), np.ones((len(free), 3))

    def bare() -> None:
        splu(
            matrix,
            permc_spec="MMD_AT_PLUS_A",
            options={"SymmetricMode": True},
            diag_pivot_thresh=0.0,
        ).solve(right)

    form, plain = seconds(lambda: settle(net.vertices, [term], lambda x: loads, held), bare)
    return form / plain


def relaxation_step(seconds: Seconds) -> float:
    """One step of 10,000 vertices against one sparse product of the same pattern with three right-hand sides."""
    net = _sheet(99)
    held, count = _held(net), len(net.vertices)
    loads = np.zeros((count, 3))
    loads[:, 2] = -0.1
    lengths = net.edge_lengths
    term = Lengths(net.edges, count, np.full(len(net.edges), 50.0), 1.05 * lengths, 1.05 * lengths)
    matrix = csr_array(term.matrix.T @ term.matrix)
    steps = 200

    def relax(number: int) -> None:
        settle(net.vertices, [term], lambda x: loads, held, limit=1e-12, steps=number)

    few, many, product = seconds(
        lambda: relax(20),
        lambda: relax(20 + steps),
        lambda: [matrix @ net.vertices for _ in range(steps)],
    )
    return (many - few) / product


def as_people_wait(root: Any) -> Iterator[tuple[str, str, float, float, str]]:
    """Seconds of the settling clauses of two demos, the first from a cold start."""
    for name, clause, what, limit in (
        ("reed-canopy", "canopy", "the Reed Canopy settles", 2.0),
        ("seed-house", "glazed", "1,040 quads of a roof made flat to less than 1 mm", 3.0),
    ):
        statement = read_statement((root / "demo" / f"{name}.json").read_bytes())
        found = {o.id: o for o in evaluate(statement, ResultCache())}
        yield (
            what,
            f"{found[clause].figures['steps'].value} steps",
            found[clause].seconds,
            limit,
            "s",
        )


def pictures() -> float:
    """The longest time (ms) between two pictures of a net of 5,000 edges that swings."""
    rows = [{"id": "a", "kind": "barrel", "values": {"length": 20}},
            {"id": "b", "kind": "pattern", "values": {"pattern": "quads", "bays_across": 44, "bays_along": 57}},
            {"id": "c", "kind": "hold"}, {"id": "d", "kind": "push"},
            {"id": "e", "kind": "aim", "values": {"aim": "today", "share": 110, "strength": 1000}},
            {"id": "f", "kind": "settle", "values": {"steps": 1500, "limit": 1e-6}}]  # fmt: skip
    body = {"format": "lean-lattice-statement", "version": 1, "name": "Bench", "clauses": rows}
    statement = read_statement(json.dumps(body).encode())
    shown: list[float] = []

    def watch(*_: Any) -> bool:
        shown.append(time.perf_counter())
        return True

    list(evaluate(statement, ResultCache(), on_motion=watch))
    return float(np.diff(shown).max() * 1000)
