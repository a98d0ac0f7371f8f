"""What is said of nodes that have no part of their own, such as a plate or a hub."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..core.structure.faults import Fault
from ..core.structure.names import names_of_structure
from ..core.structure.structure import Structure
from .base import Notice, counted
from .said import said

__all__ = ["MOVED", "Why", "none_made", "without_part"]

MOST = 2000
"""Nodes that are shown of those a notice is of."""
MOVED = "members that begin elsewhere than they were held back to, as they were changed since"


class Why(NamedTuple):
    """What nodes without a part have and what would work, and the value at fault, where it is one
    of the clause that makes the parts."""

    text: str
    value: str | None = None


def without_part(
    structure: Structure, fault: NDArray[np.int32], part: str, why: Mapping[Fault, Why]
) -> list[Notice]:
    """Notices of nodes (N,) that have no ``part`` by what is at fault with them. Those that meet
    otherwise are none where any meet as they are to."""
    out, names = [], names_of_structure(structure)
    some_are_to = bool((~np.isin(fault, (Fault.FEW, Fault.OTHER))).any())
    for number, (text, value) in why.items():
        nodes = np.flatnonzero(fault == number)
        if not len(nodes) or (number == Fault.OTHER and some_are_to):
            continue
        label = names.nodes(nodes[:1])[0]
        count = counted(len(nodes), "node has", "nodes have")
        x, y, z = structure.places[nodes[0]].tolist()
        notice = Notice(
            f"{count} no {part}, as {label} has {text}.",
            "node",
            tuple(map(int, nodes[:MOST])),
            (x, y, z),
            value,
            input="structure",
        )
        out.append(notice)
    return out


def none_made(told: list[Notice], part: str) -> str:
    """What is said where no node has a ``part``."""
    if told:
        return f"No {part} can be made. {said(told[0].text).marked}"
    return f"No {part} can be made: at no node do two members end that one could hold."
