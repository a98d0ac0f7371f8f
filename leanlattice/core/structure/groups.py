"""Groups of members: those of one clause, role and kind, such as the second chords of trusses."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..results import remembered
from .roles import ROLE_NAMES, ROLES
from .structure import Structure

__all__ = ["groups_of", "in_group"]

Index = NDArray[np.int64]
MOST = 24
"""Groups of one role and clause from which on they are taken for one."""


@remembered
def groups_of(structure: Structure) -> tuple[list[str], Index]:
    """Names of groups, in the order in which they were made, and the one of each member (M,).

    A role that several clauses made is told by their order, and what is of several kinds is
    counted from 1; very many kinds, as of lines one by one, are one group.
    """
    made = np.column_stack([structure.member_stage, structure.role])
    parts, part = np.unique(made, axis=0, return_inverse=True)
    names: list[str] = []
    which = np.zeros(structure.count, np.int64)
    for k, (stage, role) in enumerate(parts.tolist()):
        rows = np.flatnonzero(part.ravel() == k)
        kinds, kind = np.unique(structure.group[rows], return_inverse=True)
        if len(kinds) > MOST:
            kinds, kind = kinds[:1], np.zeros_like(kind)
        which[rows] = len(names) + kind.ravel()
        stages = parts[parts[:, 1] == role, 0]
        step = f" of step {1 + stage}" if len(stages) > 1 else ""
        plural = ROLES[ROLE_NAMES[role]].plural
        numbers = [f" {n + 1}" if len(kinds) > 1 else "" for n in range(len(kinds))]
        names += [f"{plural}{number}{step}" for number in numbers]
    return names, which


def in_group(structure: Structure, role: int, number: int) -> NDArray[np.bool_]:
    """Which members (M,) are in the group of a ``role`` with this ``number``, counted from 1 over
    all clauses."""
    _, which = groups_of(structure)
    of_role = structure.role == role
    groups = np.unique(which[of_role])
    if not 1 <= number <= len(groups):
        return np.zeros(structure.count, bool)
    return np.asarray(of_role & (which == groups[number - 1]))
