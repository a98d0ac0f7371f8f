"""Folds of flat parts: how they are told, and how they are scored."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..results import Result

__all__ = ["FLAT", "SCORED", "Folds", "by_piece", "score_lines", "told_turns"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
FLAT = 2e-4
"""Degrees below which there is no fold: a hundredth of a millimetre in three metres."""
SCORED = 0.05
"""Degrees from which a fold is scored; what is less sharp bends of itself."""
TOLD = 4
"""Decimals of a degree with which folds are told."""
GAP = 1 / 3
"""Share in the middle of a score line that is left out where the fold is towards the outside."""


@dataclass(frozen=True, eq=False)
class Folds(Result):
    """Folds (f) of flat parts, part by part: the ``part`` (f,) of each, its ``ends`` (f, 2, 2) in
    the flat in metres, with what is folded last on the left or, of flaps, on the right; by how much
    it ``turns`` (f,), in degrees away from the outside, and the part a flap meets that begins
    there, ``meets`` (f,), folded or not; −1 within a part. What is ``limp``, as fabric is, bends of
    itself."""

    part: Index
    ends: Array
    turns: Array
    meets: Index
    limp: bool = False

    @property
    def scored(self) -> Flags:
        """Which (f,) are scored."""
        return np.asarray((np.abs(self.turns) >= SCORED) & (not self.limp))

    @property
    def within(self) -> Flags:
        """Which (f,) are scored and lie within parts."""
        return self.scored & (self.meets < 0)


def told_turns(turns: Array) -> Array:
    """Turns (n,) in radians as they are told, in degrees; 0 where that is next to nothing."""
    degrees = np.asarray(np.round(np.degrees(turns), TOLD), np.float64)
    return np.where(np.abs(degrees) >= FLAT, degrees, 0.0)


def by_piece(values: Array, piece: Index, count: int) -> list[Array]:
    """Values of each of ``count`` pieces."""
    order = np.argsort(piece, kind="stable")
    return np.split(values[order], np.cumsum(np.bincount(piece, minlength=count))[:-1])


def score_lines(lines: Array, turns: Array, piece: Index) -> tuple[Array, Index]:
    """What is scored of ``lines`` (f, 2, 2), and the piece of each: whole where the fold is away
    from the outside, without their middle where it is towards it, and none where it is flat."""
    away, towards = turns >= SCORED, turns <= -SCORED
    a, b = lines[towards].transpose(1, 0, 2)
    low, high = a + (b - a) * (1 - GAP) / 2, a + (b - a) * (1 + GAP) / 2
    halves = (np.stack([a, low], axis=1), np.stack([high, b], axis=1))
    of = np.concatenate([piece[away], *[piece[towards]] * 2])
    return np.concatenate([lines[away], *halves]), of
