"""Why nodes of a structure have no part of their own, such as a plate or a hub."""

from __future__ import annotations

from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from .arms import PASSAGE, Arms
from .structure import Structure

__all__ = ["Fault", "any_of", "blame", "without_part"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]


class Fault(IntEnum):
    """Why a node where members end has no part; the first that holds."""

    NONE = 0
    FEW = 1
    OTHER = 2
    PASSES = 3
    BENT = 4
    CLOSE = 5
    STEEP = 6
    NARROW = 7
    LONG = 8
    SMALL = 9
    MET = 10
    MOVED = 11
    MANY = 12


def blame(fault: Index, holds: Flags, why: Fault) -> None:
    """Notes why nodes (N,) have no part, of those that had none to blame yet."""
    fault[holds & (fault == 0)] = why


def any_of(node: Index, holds: Flags, count: int) -> Flags:
    """Whether it holds at each of so many nodes of one of the ends there."""
    return np.asarray(np.bincount(node, holds, minlength=count) > 0)


def without_part(structure: Structure, arms: Arms, way: str) -> Index:
    """What is at fault (N,) with nodes as they are: too few members end there, they are to meet
    otherwise than by a ``way``, or some pass."""
    count, is_end = len(structure.places), arms.end != PASSAGE
    out = np.zeros(count, np.int32)
    blame(out, np.bincount(arms.node[is_end], minlength=count) < 2, Fault.FEW)
    wanted = np.array([rule.way == way for rule in structure.rules])
    blame(out, ~wanted[structure.rule], Fault.OTHER)
    blame(out, np.bincount(arms.node[~is_end], minlength=count) > 0, Fault.PASSES)
    return out
