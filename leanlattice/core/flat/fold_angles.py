"""Angles of folds written beside their score lines, on parts that are drawn already."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from .folds import Folds, by_piece
from .lettering import Names
from .parts import Part

__all__ = ["angle_text", "with_angles"]

Array = NDArray[np.float64]
TALLEST = 6.0
"""Height in mm of angles, where there is room for that."""
SHARES = np.array([0.5, 0.4, 0.6, 0.25, 0.75])
"""Where along a fold an angle is tried, the first that is free first."""
ASIDE = 0.8
"""How far beside its fold the middle of an angle lies, for each mm of its height."""


def angle_text(turn: float) -> str:
    """By how many degrees a fold turns, with a minus where that is towards the outside."""
    return f"{turn:.1f}" if turn < 0 else f"+{turn:.1f}"


def with_angles(
    parts: Sequence[Part], folds: Folds, progress: Callable[[float], None] = lambda share: None
) -> tuple[Part, ...]:
    """The ``parts`` with the angles of their scored ``folds`` beside these, on the side that is
    folded last, where there is room between what is written there already; ``progress`` is told the
    share done."""
    scored = folds.scored
    of = folds.part[scored]
    ends = by_piece(folds.ends[scored] * 1000, of, len(parts))
    turns = by_piece(folds.turns[scored], of, len(parts))
    out = []
    for k, part in enumerate(parts):
        if k % 20 == 0:
            progress(k / len(parts))
        out.append(_written(part, ends[k], turns[k]))
    return tuple(out)


def _written(part: Part, ends: Array, turns: Array) -> Part:
    """A part with the angles of folds between ``ends`` (f, 2, 2; mm) that turn by so many degrees
    (f,)."""
    if not len(ends):
        return part
    names = Names(shapely.Polygon(part.outer, part.inner), part.marks)
    for (a, b), turn in zip(ends, turns.tolist(), strict=True):
        way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
        angle = float(np.arctan2(way[1], way[0]))
        left = np.array([-way[1], way[0]])
        if np.cos(angle) < 0:
            angle += np.pi
        at = a + SHARES[:, None] * (b - a)
        names.write(angle_text(turn), TALLEST, at, angle, ASIDE * left, may_lack=True)
    return replace(part, marks=(*part.marks, *names.strokes))
