"""Forces of settled nets as tables, and the check that they balance, worked out from the tables
alone."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from ..core.geometry.nets import Equilibrium, Net
from .subjects import Subject
from .tables import Table, table_of_rows

__all__ = [
    "EDGES",
    "NODES",
    "balance_of_edges",
    "balance_of_nodes",
    "carries",
    "is_settled",
    "lengths_differ",
    "reactions_of_free",
    "unbalanced",
]

NODES, EDGES = "settled_nodes", "settled_edges"
AXES = "xyz"
SLIDING = "along"
"""What is said of a vertex that slides along something."""
NOTHING = 1e-9
"""kN below which there is no force."""
NO_LOAD = 1e-12
"""Mean load in kN below which a net has none."""
FORCES = ("load", "reaction", "aim")
Row = dict[str, str]


def carries(net: Net) -> bool:
    """Whether a net was settled and has loads, reactions as a film has, or forces in its edges that
    balance by themselves; one that was only made flat or fair, or its lengths alike, has none: its
    aims pull against each other alone."""
    balance = net.equilibrium
    if balance is None:
        return False
    loaded, held, pulled, aimed = (
        bool(np.abs(p).max(initial=0.0) > NOTHING)
        for p in (balance.loads, balance.reactions, balance.forces, balance.aims)
    )
    return loaded or held or (pulled and not aimed)


def is_settled(subject: Subject) -> bool:
    """Whether a net was settled by its own clause, and carries something."""
    return subject.kind == "settle" and carries(subject.result)


def balance_of_nodes(subject: Subject) -> Table | None:
    """Places, loads, reactions and forces of aims (kN) of a settled net, vertex by vertex."""
    if not is_settled(subject):
        return None
    net = subject.result
    balance: Equilibrium = net.equilibrium
    columns = np.hstack([net.vertices, balance.loads, balance.reactions, balance.aims])
    rows = [
        [subject.clause, number, *row, _held(balance, number - 1)]
        for number, row in enumerate(np.round(columns, 9).tolist(), 1)
    ]
    forces = [f"{f}_{a}_kN" for f in FORCES for a in AXES]
    return table_of_rows(["clause", "node", *(f"{a}_m" for a in AXES), *forces, "held"], rows)


def balance_of_edges(subject: Subject) -> Table | None:
    """Lengths and forces (kN, tension above 0) of the edges of a settled net."""
    if not is_settled(subject):
        return None
    net = subject.result
    lengths, forces = net.edge_lengths.tolist(), net.equilibrium.forces.tolist()
    rows = [
        [subject.clause, a, b, round(length * 1000, 6), round(force, 9)]
        for (a, b), length, force in zip((net.edges + 1).tolist(), lengths, forces, strict=True)
    ]
    return table_of_rows(["clause", "start", "end", "length_mm", "force_kN"], rows)


def _held(balance: Equilibrium, vertex: int) -> str:
    """The axes along which a vertex is held, or that it slides along something."""
    if balance.slid[vertex]:
        return SLIDING
    return "".join(a for a, held in zip(AXES, balance.held[vertex], strict=True) if held)


def reactions_of_free(nodes: Sequence[Row]) -> Iterator[tuple[float, str]]:
    """Reactions along axes in which nothing holds, in % of the mean load, or of the mean reaction
    without loads."""
    sizes: dict[str, list[float]] = defaultdict(list)
    others: dict[str, list[float]] = defaultdict(list)
    for row in nodes:
        sizes[row["clause"]].append(float(np.linalg.norm(_vector(row, "load", "kN"))))
        others[row["clause"]].append(float(np.linalg.norm(_vector(row, "reaction", "kN"))))
    for row in nodes:
        scale = float(np.mean(sizes[row["clause"]])) or float(np.mean(others[row["clause"]])) or 1.0
        free = (
            []
            if row["held"] == SLIDING
            else [k for k, a in enumerate(AXES) if a not in row["held"]]
        )
        reaction = _vector(row, "reaction", "kN")
        worst = max((abs(reaction[k]) for k in free), default=0.0)
        yield worst / scale * 100, f"{row['clause']}, node {row['node']} in settled_nodes.csv"


def _vector(row: Row, of: str, unit: str) -> tuple[float, ...]:
    return tuple(float(row[f"{of}_{a}_{unit}" if of else f"{a}_{unit}"]) for a in AXES)


def unbalanced(
    nodes: Sequence[Row], edges: Sequence[Row], pulls: Mapping[str, float]
) -> Iterator[tuple[float, str, str]]:
    """For each node what all its forces add up to, in % of its net's mean load, or without loads of
    what its aims pulled by at first; the clause it is of, and which it is.

    Parameters
    ----------
    nodes, edges : rows of all settled nets
    pulls : by clause, the pull at first in kN
    """
    total: dict[tuple[str, str], list[float]] = {}
    place: dict[tuple[str, str], tuple[float, ...]] = {}
    sizes: dict[str, list[float]] = defaultdict(list)
    for row in nodes:
        key = row["clause"], row["node"]
        given = [_vector(row, of, "kN") for of in FORCES]
        total[key] = [sum(f[k] for f in given) for k in range(3)]
        place[key] = _vector(row, "", "m")
        sizes[row["clause"]].append(sum(c * c for c in given[0]) ** 0.5)
    for row in edges:
        a, b, force = (
            (row["clause"], row["start"]),
            (row["clause"], row["end"]),
            float(row["force_kN"]),
        )
        way = [q - p for p, q in zip(place[a], place[b], strict=True)]
        length = sum(c * c for c in way) ** 0.5
        for k in range(3):
            total[a][k] += force * way[k] / length
            total[b][k] -= force * way[k] / length
    for (clause, node), sums in total.items():
        scale = sum(sizes[clause]) / len(sizes[clause])
        scale = scale if scale > NO_LOAD else max(pulls.get(clause, 0.0), NO_LOAD)
        yield max(abs(c) for c in sums) / scale * 100, clause, f"{clause}, node {node}"


def lengths_differ(nodes: Sequence[Row], edges: Sequence[Row]) -> Iterator[tuple[float, str]]:
    """How far (mm) each edge's length is from the distance of its ends."""
    place = {(r["clause"], r["node"]): _vector(r, "", "m") for r in nodes}
    for row in edges:
        a, b = place[row["clause"], row["start"]], place[row["clause"], row["end"]]
        length = sum((q - p) ** 2 for p, q in zip(a, b, strict=True)) ** 0.5 * 1000
        yield (
            abs(length - float(row["length_mm"])),
            f"{row['clause']}, edge {row['start']} to {row['end']}",
        )
