"""What became of “Label” clauses of version 2: structures and panels have names of their own since.

A label named one structure and maybe one panels clause, within one tolerance of types. The clause
“Name” stands in its place for the structure, and the panels say the same of themselves. What nobody
labelled had names in a series that was free when files were written; it says so now.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..document import ClauseEntry
from ..inputs import Inputs

__all__ = ["with_names"]

SERIES = ("", "A", "B", "C", "D")
TOLERANCE = 1.0
"""Millimetres, where a label said none."""


def with_names(
    old: Sequence[ClauseEntry], inputs: Mapping[str, Inputs], new: Mapping[str, ClauseEntry]
) -> None:
    """Writes into the ``new`` clauses, by id, in what series those labelled are named, and those
    nobody labelled; ``inputs`` are those of the ``old``."""
    labels = [e for e in old if e.kind == "label" and e.id in inputs]
    taken: dict[str, set[str]] = {"frame": set(), "panels": set()}
    named: set[str] = set()
    for label in labels:
        series = label.values.get("series", "")
        for name, ids in inputs[label.id].items():
            taken[name].add(series)
            named |= {_beginning(source, inputs) for source in ids}
        said = {"series": series, "alike": label.values.get("tolerance", TOLERANCE)}
        for panels in inputs[label.id].get("panels", ()):
            new[panels].values |= {n: v for n, v in said.items() if v not in ("", TOLERANCE)}
    for entry in old:
        begins = entry.kind in taken and entry.id in inputs and entry.id not in named
        if begins and _beginning(entry.id, inputs) == entry.id:
            free = [s for s in SERIES if s not in taken[entry.kind]]
            if free and free[0]:
                new[entry.id].values["series"] = free[0]
            taken[entry.kind] |= set(free[:1])


def _beginning(clause: str, inputs: Mapping[str, Inputs]) -> str:
    """The clause a structure began with."""
    while before := inputs.get(clause, {}).get("structure"):
        clause = before[0]
    return clause
